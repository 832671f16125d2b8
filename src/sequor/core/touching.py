"""What a change of a recipe touches, so that it can be told whether two of them are apart."""

from collections.abc import Iterator
from typing import Any

from sequor.core.recipe import Recipe

_NAMED = ("id", "number")
"""By what the parts of a list are known, where they are: readings, mends."""


_NOTHING = object()


def touched(before: Recipe, after: Recipe) -> frozenset[str]:
    """The places of a recipe that are others after a change.

    Returns
    -------
    frozenset of str
        Dotted, such as ``trim.roll_deg`` or ``readings.a.points``. A list whose parts have no names
        is one place.
    """
    one, other = (dict(_places("", made.model_dump(mode="json"))) for made in (before, after))
    return frozenset(
        place
        for place in one.keys() | other.keys()
        if one.get(place, _NOTHING) != other.get(place, _NOTHING)
    )


def _places(path: str, value: Any) -> Iterator[tuple[str, Any]]:
    if isinstance(value, list):
        named = {_name(part): part for part in value}
        if None not in named and len(named) == len(value):
            value = named
    if isinstance(value, dict):
        for name, part in value.items():
            yield from _places(f"{path}.{name}" if path else str(name), part)
    else:
        yield path, value


def _name(part: Any) -> Any:
    if isinstance(part, str):  # one of several that hold, such as an axis
        return part
    if not isinstance(part, dict):
        return None
    return next((part[name] for name in _NAMED if name in part), None)
