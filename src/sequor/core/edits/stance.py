"""Edits of the stance: turned by hand, typed, held, left in, eased."""

from typing import Literal

from pydantic import Field

from sequor.core.edits.base import EditBase, Joins, Now, OnPicture, Understood
from sequor.core.edits.parts import box_of, clamped, held, told_by_readings, trimmed
from sequor.core.errors import UnusableInput
from sequor.core.language import listed, mark, tr
from sequor.core.names import named
from sequor.core.readings.typed_angle import parse_tilt
from sequor.core.recipe import (
    MAX_HELD_ROLL_DEG,
    MAX_PROPORTION,
    MAX_ROLL_DEG,
    MAX_TILT_DEG,
    MIN_PROPORTION,
    Axis,
    Coordinate,
    Point,
    Recipe,
    Share,
)
from sequor.core.warp.ease import scaled

_LEFT = {
    True: mark("{axis} left in"),
    False: mark("{axis} taken out"),
    None: mark("{axis} left to the readings"),
}
EasedPart = Literal["roll", "lean", "swing", "perspective"]
_EASED: dict[EasedPart, tuple[Axis, ...]] = {
    "roll": ("roll",),
    "lean": ("lean",),
    "swing": ("swing",),
    "perspective": ("lean", "swing"),
}


def _sense(axis: Axis) -> int:
    """The picture's tilt is the opposite of the roll that takes it out; the others are alike."""
    return -1 if axis == "roll" else 1


class TurnBy(EditBase):
    """Turn by hand about an axis, on top of what holds; a positive roll is clockwise.

    Where no reading tells the axis, that states it.
    """

    joins = Joins(same=("axis",), adds="deg")
    do: Literal["turn_by"] = "turn_by"
    axis: Axis
    deg: float = Field(ge=-720, le=720)

    def words(self) -> str:
        return (
            tr("turned by hand")
            if self.axis == "roll"
            else tr("{axis} by hand", axis=named(self.axis))
        )

    def applied(self, now: Now) -> Recipe:
        limit = MAX_ROLL_DEG if self.axis == "roll" else MAX_TILT_DEG
        turned = getattr(now.recipe.trim, f"{self.axis}_deg") + self.deg
        stated = self.axis in now.recipe.trim.stated or not told_by_readings(now.solved, self.axis)
        # A millionth of a degree is nothing: so that turning there and back gives zero.
        return trimmed(now.recipe, self.axis, round(clamped(turned, -limit, limit), 6), stated)


class TypeAngle(EditBase):
    """An angle of the picture as shot, as a person writes it: ``1.33 cw``, ``1°20'``, ``12 up``."""

    do: Literal["type_angle"] = "type_angle"
    axis: Axis = "roll"
    text: str = Field(max_length=40)

    def words(self) -> str:
        return (
            tr("tilt typed") if self.axis == "roll" else tr("{axis} typed", axis=named(self.axis))
        )

    def understood(self, now: Now) -> Understood:
        """What it is taken for.

        The direction of a bare number is that of the angle known so far: the one the readings say,
        else the one set before.
        """
        solved = now.solved.stance.axis(self.axis)
        measured = solved.measured_deg or 0.0
        surely = abs(measured) > (solved.sigma_deg or 0.0)
        known = _sense(self.axis) * (measured if surely else solved.as_shot_deg)
        return Understood(self.axis, parse_tilt(self.text, known, self.axis))

    def applied(self, now: Now) -> Recipe:
        wanted = _sense(self.axis) * self.understood(now).typed.tilt_deg
        trim = wanted - (now.solved.stance.axis(self.axis).measured_deg or 0.0)
        if self.axis != "roll" and max(abs(wanted), abs(trim)) > MAX_TILT_DEG:
            raise UnusableInput(
                tr(
                    "{wanted:g}° of {axis} is more than any picture can bear; it must lie "
                    "below {max_tilt_deg:g} degrees.",
                    wanted=abs(wanted),
                    axis=named(self.axis),
                    max_tilt_deg=MAX_TILT_DEG,
                )
            )
        return trimmed(now.recipe, self.axis, trim, stated=True)


class ResetTrim(EditBase):
    """Back to what the readings say of an axis."""

    do: Literal["reset_trim"] = "reset_trim"
    axis: Axis

    def words(self) -> str:
        return tr("trim taken back")

    def applied(self, now: Now) -> Recipe:
        return trimmed(now.recipe, self.axis, 0.0)


class AddStated(EditBase):
    """Put what a hand had stated of an axis on top of the readings that took its place."""

    do: Literal["add_stated"] = "add_stated"
    axis: Axis

    def words(self) -> str:
        return tr("own {axis} put on top", axis=named(self.axis))

    def applied(self, now: Now) -> Recipe:
        deg = getattr(now.recipe.given_way, f"{self.axis}_deg")
        if not deg:
            raise UnusableInput(
                tr("Nothing that was stated of the {axis} has given way.", axis=named(self.axis))
            )
        limit = MAX_ROLL_DEG if self.axis == "roll" else MAX_TILT_DEG
        added = getattr(now.recipe.trim, f"{self.axis}_deg") + deg
        return trimmed(now.recipe, self.axis, clamped(added, -limit, limit))


class HoldAxis(EditBase):
    """Hold an axis at a value whatever the readings say; None holds it where it is.

    What was added by hand is in that value, so the axis's trim goes to zero.
    """

    do: Literal["hold_axis"] = "hold_axis"
    axis: Axis
    deg: Coordinate | None = None

    def words(self) -> str:
        return tr("{axis} held", axis=named(self.axis))

    def applied(self, now: Now) -> Recipe:
        if self.deg is not None:
            return held(now.recipe, self.axis, self.deg)
        limit = MAX_HELD_ROLL_DEG if self.axis == "roll" else MAX_TILT_DEG
        as_shot = now.solved.stance.axis(self.axis).as_shot_deg
        return held(now.recipe, self.axis, clamped(as_shot, -limit, limit))


class FreeAxis(EditBase):
    """Let the readings move an axis again, with nothing added by hand."""

    do: Literal["free_axis"] = "free_axis"
    axis: Axis

    def words(self) -> str:
        return tr("{axis} let go", axis=named(self.axis))

    def applied(self, now: Now) -> Recipe:
        return held(now.recipe, self.axis, None)


class LeaveAxisIn(EditBase):
    """Leave a measured axis in the picture, or take it out; None lets Sequor choose.

    Of an axis that is left in, what was added by hand goes too; one that is held is let go.
    """

    do: Literal["leave_axis_in"] = "leave_axis_in"
    axis: Axis
    leave: bool | None = True

    def words(self) -> str:
        return tr(_LEFT[self.leave], axis=named(self.axis))

    def applied(self, now: Now) -> Recipe:
        recipe = now.recipe
        if self.leave is not None and getattr(recipe.hold, f"{self.axis}_deg") is not None:
            recipe = held(recipe, self.axis, None)
        if self.leave:
            recipe = trimmed(recipe, self.axis, 0.0)
        decided = {self.axis: self.leave, "turn_the_roll": False}
        return recipe.changed(leave_in=recipe.leave_in.changed(**decided))


class SetEase(EditBase):
    """How much of the measured roll, lean or swing, or of the last two together, is taken out."""

    joins = Joins(same=("part",))
    do: Literal["set_ease"] = "set_ease"
    part: EasedPart
    share: Share

    def words(self) -> str:
        return tr("{axes} eased", axes=listed([named(axis) for axis in _EASED[self.part]]))

    def applied(self, now: Now) -> Recipe:
        shares = dict.fromkeys(_EASED[self.part], self.share)
        return now.recipe.changed(ease=now.recipe.ease.changed(**shares))


class ScaleEase(EditBase):
    """Take out only a share of what is taken out now, of all three axes."""

    do: Literal["scale_ease"] = "scale_ease"
    share: Share

    def words(self) -> str:
        return tr("correction eased to {share:.0f} %", share=self.share * 100)

    def applied(self, now: Now) -> Recipe:
        return now.recipe.changed(ease=scaled(now.recipe.ease, self.share))


class SetProportion(EditBase):
    """Height against width, for taste."""

    joins = Joins()
    do: Literal["set_proportion"] = "set_proportion"
    proportion: float = Field(ge=MIN_PROPORTION, le=MAX_PROPORTION)

    def words(self) -> str:
        return "proportion"

    def applied(self, now: Now) -> Recipe:
        return now.recipe.changed(proportion=self.proportion)


class MarkTrueShape(OnPicture):
    """Mark a thing that is as high as it is wide in reality by the box around it; None for none."""

    do: Literal["mark_true_shape"] = "mark_true_shape"
    opposite: tuple[Point, Point] | None

    def words(self) -> str:
        return tr("round or square thing marked") if self.opposite else tr("nothing round marked")

    def applied(self, now: Now) -> Recipe:
        if self.opposite is None:
            return now.recipe.changed(true_shape=None)
        box = box_of(self.opposite)
        x, y = (box.left + box.right) / 2, (box.top + box.bottom) / 2
        middles = ((box.left, y), (x, box.top), (box.right, y), (x, box.bottom))
        return now.recipe.changed(true_shape=self.in_source(middles, now))


class GiveTrueShape(EditBase):
    """Give the thing that is marked its shape back, by the proportion."""

    do: Literal["give_true_shape"] = "give_true_shape"

    def words(self) -> str:
        return tr("true shape given back")

    def applied(self, now: Now) -> Recipe:
        shape = now.solved.shape
        if shape is None:
            raise UnusableInput(
                tr("No round or square thing is marked; draw a box around one first.")
            )
        if not MIN_PROPORTION <= shape.true_proportion <= MAX_PROPORTION:
            raise UnusableInput(
                tr(
                    "That thing would need to be stretched {true_proportion:.2f} times, more "
                    "than {min_proportion:g} to {max_proportion:g}: its box may not lie around "
                    "something round or square.",
                    true_proportion=shape.true_proportion,
                    min_proportion=MIN_PROPORTION,
                    max_proportion=MAX_PROPORTION,
                )
            )
        return now.recipe.changed(proportion=shape.true_proportion)
