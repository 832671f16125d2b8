"""Short lists that a person keeps: sizes that a lab prints, choices of files under a name."""

from collections.abc import Callable

from sqlalchemy.orm import Session

from sequor.core.print_size import PrintSize
from sequor.making.exports import ExportOptions
from sequor.pictures.naming import check_pattern
from sequor.services.reply import Reply, T
from sequor.services.resources import Resources
from sequor.store import presets, print_sizes
from sequor.store.models import Preset, PrintFormat


def list_print_sizes(resources: Resources) -> list[PrintFormat]:
    """The sizes that a lab prints."""
    with resources.database.reading() as session:
        return print_sizes.listed(session)


def add_print_size(
    resources: Resources, name: str, size: PrintSize, reply: Reply[PrintFormat, T]
) -> T:
    """Add a size to the list."""
    return resources.database.write(lambda s: reply.to(s, print_sizes.add(s, name, size)))


def change_print_size(
    resources: Resources, size_id: int, name: str, size: PrintSize, reply: Reply[PrintFormat, T]
) -> T:
    """Change a size of the list; recipes that used it keep theirs."""
    return resources.database.write(
        lambda s: reply.to(s, print_sizes.change(s, size_id, name, size))
    )


def remove_print_size(resources: Resources, size_id: int, reply: Reply[list[PrintFormat], T]) -> T:
    """Take a size off the list; recipes that used it keep theirs."""

    def change(session: Session) -> T:
        print_sizes.remove(session, size_id)
        return reply.to(session, print_sizes.listed(session))

    return resources.database.write(change, small=True)


def list_presets(resources: Resources) -> list[Preset]:
    """Choices of files that have a name."""
    with resources.database.reading() as session:
        return presets.listed(session)


def store_preset(
    resources: Resources, name: str, options: ExportOptions, reply: Reply[list[Preset], T]
) -> T:
    """Keep choices under a name; those that had it before give way."""
    check_pattern(options.pattern)
    return _changed(
        resources, lambda s: presets.store(s, name, options.model_dump(mode="json")), reply
    )


def remove_preset(resources: Resources, preset_id: int, reply: Reply[list[Preset], T]) -> T:
    """Forget a name and its choices."""
    return _changed(resources, lambda s: presets.remove(s, preset_id), reply)


def _changed(
    resources: Resources, change: Callable[[Session], object], reply: Reply[list[Preset], T]
) -> T:
    def changed(session: Session) -> T:
        change(session)
        return reply.to(session, presets.listed(session))

    return resources.database.write(changed)
