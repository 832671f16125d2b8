"""Edits of what the picture proposes: taken, or refused."""

from typing import Annotated, Literal

from pydantic import FailFast, Field

from sequor.core.edits.base import EditBase, Now
from sequor.core.language import tr
from sequor.core.readings.reading import check_reading
from sequor.core.recipe import MAX_RUBBED_OUT, LeaveIn, Point, Reading, Recipe


class InkReadings(EditBase):
    """Readings that were proposed, taken as they stand; those that are there already stay as they
    are.

    With ``leave_in`` the axes stay in the picture, or are taken out, as it was wanted.
    """

    do: Literal["ink_readings"] = "ink_readings"
    readings: Annotated[tuple[Reading, ...], FailFast(), Field(min_length=1, max_length=60)]
    leave_in: LeaveIn | None = None

    def words(self) -> str:
        count = len(self.readings)
        return (
            tr("proposed reading inked")
            if count == 1
            else tr("{count} proposed readings inked", count=count)
        )

    def applied(self, now: Now) -> Recipe:
        recipe = now.recipe
        there = {reading.id for reading in recipe.readings}
        added = [reading for reading in self.readings if reading.id not in there]
        for number, reading in enumerate(added, len(recipe.readings) + 1):
            check_reading(reading, number, now.photo)
        return recipe.changed(
            readings=(*recipe.readings, *added),
            leave_in=recipe.leave_in if self.leave_in is None else self.leave_in,
        )


class RubOut(EditBase):
    """A line that was proposed, by its ends, refused: it is not proposed again."""

    do: Literal["rub_out"] = "rub_out"
    points: tuple[Point, Point]

    def words(self) -> str:
        return tr("proposed line rubbed out")

    def applied(self, now: Now) -> Recipe:
        rubbed_out = (*now.recipe.rubbed_out, self.points)[-MAX_RUBBED_OUT:]
        return now.recipe.changed(rubbed_out=rubbed_out)
