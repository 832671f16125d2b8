"""Files that the database does not name: taken into a set again, or deleted by a person."""

from pathlib import Path

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.pictures.formats import READ
from sequor.pictures.inspect import inspect
from sequor.services.intake import Taking, take_in
from sequor.services.reply import Reply
from sequor.services.resources import Resources

_SHOWN = 12
"""Of a hash, in the name of a picture of which no name is known."""


def take_back(resources: Resources, names: list[str], set_id: int) -> int:
    """Take files that were set aside into a set; how many. Each goes on its own.

    A damaged one comes as what it is: it was a picture once.

    Raises
    ------
    UnusableInput
        When one of them is no picture; those before it are in the set, the others where they were.
    """
    for done, name in enumerate(dict.fromkeys(names)):
        path = resources.files.aside_file(name)
        came_as = {one.name: one.came_as for one in resources.files.aside()}[name]
        try:
            with path.open("rb") as stream:
                size = path.stat().st_size
                called = _name_of(path, came_as, resources.settings.max_megapixels)
                take_in(
                    resources,
                    set_id,
                    called,
                    stream,
                    Reply(lambda taken: taken),
                    size,
                    Taking(as_damaged=True),
                )
        except UnusableInput as problem:
            raise UnusableInput(
                tr(
                    "{problem} It stays where it is; {done} of {names} were taken.",
                    problem=problem,
                    done=done,
                    names=len(names),
                )
            ) from problem
        resources.files.forget_aside([name])
    return len(names)


def delete(resources: Resources, names: list[str]) -> None:
    """Delete files that were set aside, for good: a person wants it so."""
    for name in names:
        resources.files.aside_file(name)
    resources.files.forget_aside(names)


def _name_of(path: Path, came_as: str, max_megapixels: float) -> str:
    """The name that a file came under, or one that says where it was found."""
    if came_as:
        return came_as
    found = inspect(path, path.name, max_megapixels, stored=True)
    return f"found-{Path(path.name).stem[:_SHOWN]}{READ[found.format].endings[0]}"
