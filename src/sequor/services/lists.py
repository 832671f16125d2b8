"""Short lists that a person keeps: sizes that a lab prints, choices under a name."""

from sqlalchemy.orm import Session

from sequor.core.least_harm import HarmWeights
from sequor.core.print_size import PrintSize
from sequor.making.exports import ExportOptions
from sequor.pictures.naming import check_pattern
from sequor.services.reply import Reply, T
from sequor.services.resources import Resources
from sequor.store import presets, print_sizes
from sequor.store.models import Preset, PrintFormat, Weighting
from sequor.store.presets import P


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


def list_presets(resources: Resources, kind: type[P]) -> list[P]:
    """Choices of a kind that have a name."""
    with resources.database.reading() as session:
        return presets.listed(session, kind)


def store_preset(
    resources: Resources, name: str, options: ExportOptions, reply: Reply[list[Preset], T]
) -> T:
    """Keep choices of a file under a name; those that had it before give way."""
    check_pattern(options.pattern)
    return _store(resources, Preset, name, options.model_dump(mode="json"), reply)


def store_weighting(
    resources: Resources, name: str, weights: HarmWeights, reply: Reply[list[Weighting], T]
) -> T:
    """Keep what counts how much under a name; what had it before gives way."""
    return _store(resources, Weighting, name, weights.model_dump(mode="json"), reply)


def remove_preset(
    resources: Resources, kind: type[P], preset_id: int, reply: Reply[list[P], T]
) -> T:
    """Forget a name and its choices."""

    def changed(session: Session) -> T:
        presets.remove(session, kind, preset_id)
        return reply.to(session, presets.listed(session, kind))

    return resources.database.write(changed)


def _store(
    resources: Resources,
    kind: type[P],
    name: str,
    options: dict[str, object],
    reply: Reply[list[P], T],
) -> T:
    def changed(session: Session) -> T:
        presets.store(session, kind, name, options)
        return reply.to(session, presets.listed(session, kind))

    return resources.database.write(changed)
