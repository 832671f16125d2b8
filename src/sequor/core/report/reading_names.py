"""What sentences and buttons call the readings of a recipe."""

from collections.abc import Sequence

from sequor.core.language import listed, tr
from sequor.core.readings.rectangle import SIDES
from sequor.core.recipe import Recipe

_SIDES = {name for _, name in SIDES}


def name_words(name: str) -> str:
    """A reading's name: one's own as it is, that of a side of a rectangle in the language."""
    return tr(name) if name in _SIDES else name


class Names:
    """What sentences and buttons call the readings of a recipe."""

    def __init__(self, recipe: Recipe) -> None:
        self._numbers = {r.id: number for number, r in enumerate(recipe.readings, 1)}
        self._names = {reading.id: reading.name for reading in recipe.readings}
        self._kinds = {reading.id: reading.kind for reading in recipe.readings}

    def short(self, reading: str) -> str:
        """For buttons: ``reading 2``."""
        number = self._numbers.get(reading, "?")
        if self._kinds.get(reading) == "trace":
            return tr("trace {number}", number=number)
        return tr("reading {number}", number=number)

    def long(self, reading: str) -> str:
        """For sentences: ``reading 2 (near rail)``."""
        return tr("reading {number}", number=self._numbered(reading))

    def listed(self, readings: Sequence[str]) -> str:
        """Several of them: ``readings 1, 2 (kerb) and 4``."""
        if len(readings) == 1:
            return self.long(readings[0])
        return tr("readings {numbers}", numbers=listed([self._numbered(one) for one in readings]))

    def _numbered(self, reading: str) -> str:
        name = name_words(self._names.get(reading) or "")
        return f"{self._numbers.get(reading, '?')}{f' ({name})' if name else ''}"
