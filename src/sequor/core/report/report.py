"""The report: what is said in words of a recipe and its solution, ready for a screen."""

import math
from typing import Literal

from sequor.core.camera import intrinsics
from sequor.core.corner_ways import Way, WayCost
from sequor.core.edits import Edit
from sequor.core.edits.lens import millimetres
from sequor.core.language import lower, mark, number, tr, tr_plural
from sequor.core.names import named
from sequor.core.notes import LevelRunsAway
from sequor.core.photo import PhotoFacts
from sequor.core.print_size import PrintUnit
from sequor.core.recipe import AXES, MAX_MARGIN, NATURAL_EASE, Axis, FrameChoice, Reading, Recipe
from sequor.core.report.options import RATIOS
from sequor.core.report.reading_names import Names, name_words
from sequor.core.report.sentences import note_text, offer_label
from sequor.core.report.words import (
    LEAST_SIGMA_DEG,
    Turning,
    applied_words,
    axis_words,
    coefficient_words,
    fill_words,
    filled_words,
    focal_words,
    in_words,
    kept_words,
    lens_kind,
    lens_words,
    lost_words,
    margin_words,
    mended_words,
    next_line_words,
    pixels,
    placed_words,
    placing_words,
    print_words,
    share_words,
    sigma_words,
    size_words,
    staying_words,
    turning,
    white_words,
)
from sequor.core.solution import Solution
from sequor.core.solved import SolvedAxis, SolvedReading, SolvedShape
from sequor.core.value import Value

_SLIGHT_DEG = 0.005
"""Less than this is shown as 0.00 degrees."""
_NO_CORNERS = 0.0005
"""A share of the frame that is shown as 0.0 %."""
_NOT_SEEN_PERCENT = 0.5
"""A circle that is squashed by less looks round (common practice, no published source)."""
_LEFT_DEG = 0.05
_USUAL_MARGIN = 0.2
"""A wrap of 4 cm of a print of 20 x 30 (common practice, no published source)."""
_PRINT_STEPS: dict[PrintUnit, float] = {"cm": 0.5, "in": 0.25}
_SHEET = ("1.41421:1", "1:1.41421")


class AxisWords(Value):
    """One axis: what is taken out, how the camera stood, how sure that is.

    Empty where nothing is.
    """

    applied: str
    as_shot: str
    sigma: str
    deviation: str


class ReadingWords(Value):
    """One reading: its tilt in parts, what is left over, how it was placed and how far it bends,
    and what is wanted of it by bending, where that is not what it stands for.
    """

    id: str
    name: str
    tilt: str
    turning: Turning
    left_over: str
    deviation: str
    placed: str
    sag: str
    in_hand: str
    wanted: str


class OfferWords(Value):
    """What a note offers: the button's label, and the edit that it does."""

    label: str
    edit: Edit


class NoteWords(Value):
    """A note in plain sentences, the readings it is about, and what it offers.

    Where lines contradict each other the offers are ``outcomes``: to be seen beside each other.
    One that is said ``once`` need not be said again of pictures like it when it was answered.
    """

    code: str
    once: bool
    text: str
    readings: tuple[str, ...]
    offers: tuple[OfferWords, ...]
    outcomes: bool = False


class StepWords(Value):
    """A step of the job: whether something was done in it, and what."""

    done: bool
    summary: str


class StepsWords(Value):
    """All steps."""

    lens: StepWords
    measure: StepWords
    frame: StepWords
    corners: StepWords
    export: StepWords


class CostWords(Value):
    """What the frame costs; ``fill`` says how, ``filled`` only how much; ``mended`` is empty where
    nothing is.
    """

    kept: str
    share: str
    lost: str
    fill: str
    filled: str
    keep_all: str
    print: str
    mended: str


class BendWords(Value):
    """How the picture bends: what that does to it, and how far; empty where it does not."""

    done: str
    stretch: str


class CornerShares(Value):
    """What becomes of the empty corners, in per cent; ``rest`` is how much of what is not bent may
    be filled. ``none`` says so where no corner is empty, and nothing is to be done with any.
    """

    bent: int
    filled: int
    cropped: int
    rest: int
    none: str


class MarginSetting(Value):
    """What is added all round, in words, and as it is set: by its ``share`` in per cent, or with a
    print size by its ``length`` in that one's unit; how far a slider goes, and how far it may.
    """

    words: str
    by: Literal["share", "length"]
    unit: str
    value: float
    step: float
    usual: float
    most: float


class ShapeWords(Value):
    """The frame's shape: the one of the list that it is, lying or upright, and what it is called
    when it is turned over; both empty where there is none. ``stretch`` is how a thing that is as
    high as it is wide in reality has come out, ``margin`` is what is added all round.
    """

    listed: str
    turned: str
    stretch: str
    margin: MarginSetting


class LensWords(Value):
    """The lens: its bow, the coefficients that traces give, and the focal length."""

    bow: str
    coefficients: tuple[str, ...]
    focal: str
    estimate: str | None


class Report(Value):
    """Everything that is said; ``next_line`` is empty where no line would tell much more, ``white``
    where a picture's colours are finished.
    """

    roll: AxisWords
    lean: AxisWords
    swing: AxisWords
    staying: str
    lens: LensWords
    white: str
    cost: CostWords
    bend: BendWords
    corners: CornerShares
    shape: ShapeWords
    leaving: str
    placing: str
    readings: tuple[ReadingWords, ...]
    notes: tuple[NoteWords, ...]
    next_line: str
    steps: StepsWords


def report_of(photo: PhotoFacts, recipe: Recipe, solution: Solution) -> Report:
    """Put a solution into words."""
    roll, lean, swing = (_axis_words(axis, photo, solution) for axis in AXES)
    return Report(
        roll=roll,
        lean=lean,
        swing=swing,
        staying=staying_words(solution.stance),
        lens=_lens_words(solution),
        white=white_words(recipe.white) if photo.raw else "",
        cost=_cost_words(recipe, solution),
        bend=bend_words(solution),
        corners=corner_shares(recipe, solution),
        shape=_shape_words(recipe.frame, solution),
        leaving=_leaving_words(solution),
        placing=placing_words(solution.best, solution.kept_measured),
        readings=tuple(
            _reading_words(solved, reading)
            for solved, reading in zip(solution.readings, recipe.readings, strict=True)
        ),
        notes=notes_in_words(recipe, solution),
        next_line=next_line_words(solution.next_line, photo) if solution.next_line else "",
        steps=_steps(recipe, solution),
    )


def corner_shares(recipe: Recipe, solution: Solution) -> CornerShares:
    """How the empty corners are shared out: bent, filled of the rest, cropped what is left."""
    bent, rest = round(recipe.bend.corners * 100), round(recipe.fill.allowance * 100)
    filled = round(rest * (100 - bent) / 100)
    left = 100 - bent - filled
    closed = solution.cost.keep_all_fraction < _NO_CORNERS and not recipe.frame.margin
    none = left == 100 and closed
    said = (
        tr("No corner is empty. What it costs to close them stands here once some are.")
        if none
        else ""
    )
    return CornerShares(bent=bent, filled=filled, cropped=left, rest=rest, none=said)


def _shape_words(frame: FrameChoice, solution: Solution) -> ShapeWords:
    turned = frame.turned_over.ratio
    listed = next((one for one in RATIOS if one.value in (frame.ratio, turned)), None)
    words = ""
    if turned != frame.ratio and not frame.print_size:
        named = listed is not None and listed.label != listed.value
        words = (
            tr("Turn {shape}", shape=lower(tr(listed.label)))
            if named and listed
            else tr("Turn {ratio} to {turned}", ratio=frame.ratio, turned=turned)
        )
    return ShapeWords(
        listed=listed.value if listed else "",
        turned=words,
        stretch=_stretch_words(solution.shape),
        margin=_margin_setting(frame, solution),
    )


def _margin_setting(frame: FrameChoice, solution: Solution) -> MarginSetting:
    size = frame.print_size
    whole, step = (size.shorter, _PRINT_STEPS[size.unit]) if size else (100.0, 1.0)
    return MarginSetting(
        words=margin_words(frame, solution.frame) if frame.margin else "",
        by="length" if size else "share",
        unit=named(size.unit) if size else "%",
        value=round(frame.margin * whole, 2),
        step=step,
        usual=math.floor(_USUAL_MARGIN * whole / step) * step,
        most=MAX_MARGIN * whole,
    )


def _stretch_words(shape: SolvedShape | None) -> str:
    if shape is None:
        return ""
    percent = (shape.times_as_wide - 1) * 100
    if abs(percent) < _NOT_SEEN_PERCENT:
        return tr("The marked thing has its true shape.")
    times = max(shape.times_as_wide, 1 / shape.times_as_wide)
    if percent > 0:
        return tr("The marked thing is {times:.2f} times as wide as high.", times=times)
    return tr("The marked thing is {times:.2f} times as high as wide.", times=times)


def _leaving_words(solution: Solution) -> str:
    """What is left in with the natural share of lean and swing, and why one would."""
    left = abs(solution.stance.lean.as_shot_deg) * (1 - NATURAL_EASE)
    share = tr("{percent:.0f} %", percent=NATURAL_EASE * 100)
    seen = tr(", {left:.1f}° of the lean here", left=left) if left >= _LEFT_DEG else ""
    return tr(
        "{share} leaves a little{seen}: a tall thing that is perfectly plumb seems "
        "to widen at its top. The figure is ours.",
        share=share,
        seen=seen,
    )


def notes_in_words(recipe: Recipe, solution: Solution) -> tuple[NoteWords, ...]:
    """The notes of a solution as sentences."""
    names = Names(recipe)
    return tuple(
        NoteWords(
            code=note.code,
            once=isinstance(note, LevelRunsAway),
            text=note_text(note, names),
            readings=note.readings,
            offers=tuple(OfferWords(label=offer_label(o, names), edit=o) for o in note.offers),
            outcomes=bool(getattr(note, "outcomes", ())),
        )
        for note in solution.notes
    )


def _axis_words(axis: Axis, photo: PhotoFacts, solution: Solution) -> AxisWords:
    solved = solution.stance.axis(axis)
    k = intrinsics(photo.model_copy(update={"focal35_mm": solution.focal.focal35_mm}))
    at_border = {"roll": 0.0, "lean": k[0, 2] / k[0, 0], "swing": k[1, 2] / k[1, 1]}[axis]
    # The camera's own roll is the opposite of the turn that takes it out.
    as_shot = -solved.as_shot_deg if axis == "roll" else solved.as_shot_deg
    spoken = solved.sigma_deg is not None or abs(solved.applied_deg) > _SLIGHT_DEG
    return AxisWords(
        applied=_taken_out(axis, solved, as_shot) if spoken or axis == "roll" else "",
        as_shot=axis_words(axis, as_shot),
        sigma=sigma_words(
            axis, solved.sigma_deg, solved.held, solved.checked, photo.width, at_border
        ),
        deviation=""
        if solved.sigma_deg is None
        else f"± {size_words(max(solved.sigma_deg, LEAST_SIGMA_DEG))}",
    )


def _taken_out(axis: Axis, solved: SolvedAxis, as_shot_deg: float) -> str:
    """What of an axis is taken out, or that it stays."""
    if solved.left_in and not solved.trimmed:
        return tr("{axis} left in", axis=axis_words(axis, as_shot_deg))
    return applied_words(axis, solved.applied_deg)


def _reading_words(solved: SolvedReading, reading: Reading) -> ReadingWords:
    before, after = solved.sag_before_px, solved.sag_px
    only_straight = solved.kind == "set_out" and solved.wanted_deg is None
    bent = (solved.bend_only or only_straight) and before is not None and after is not None
    sag = ""
    if before is not None and after is not None:
        sag = tr("sag {before:.1f} px as shot, {after:.1f} px now", before=before, after=after)
    sigma_deg = max(solved.sigma_deg, LEAST_SIGMA_DEG)
    return ReadingWords(
        id=solved.id,
        name=name_words(reading.name),
        tilt=pixels(before or 0.0) if bent else size_words(solved.angle_deg),
        turning="" if bent else turning(solved.angle_deg),
        left_over=pixels(after or 0.0) if bent else size_words(_left_deg(solved)),
        deviation=f"± {pixels(reading.sigma_px)}" if bent else f"± {size_words(sigma_deg)}",
        placed=placed_words(solved.stations, reading.camera is not None),
        sag=sag,
        wanted=wanted_words(reading),
        in_hand=tr("sag {sag:.1f} px", sag=before or 0.0) if bent else in_words(solved.angle_deg),
    )


def _left_deg(solved: SolvedReading) -> float:
    """How far a reading still is off what is wanted of it."""
    if solved.becomes == "angle" and solved.left_deg is not None:
        return solved.left_deg
    return solved.residual_deg


def wanted_words(reading: Reading) -> str:
    """What is to become of a reading by bending, where that is not what it stands for."""
    if reading.becomes == "angle" and reading.wanted_deg is not None:
        return tr("to be {angle}", angle=in_words(reading.wanted_deg))
    if reading.becomes == "stays":
        return tr("stays as it is")
    if reading.becomes == "straight" or reading.kind == "set_out":
        return tr("to be straight")
    return ""


def bend_words(solution: Solution) -> BendWords:
    """How the picture bends."""
    bend = solution.bend
    if bend is None:
        return BendWords(done="", stretch="")
    parts = [
        (mark("lines {percent:.0f} %"), bend.lines),
        (mark("corners {percent:.0f} %"), bend.corners),
    ]
    done = ", ".join(tr(said, percent=share * 100) for said, share in parts if share > 0)
    return BendWords(
        done=tr("bent: {done}", done=done),
        stretch=(
            tr(
                "stretched up to {max_stretch:.2f} times, turned up to {max_turn_deg:.1f}°",
                max_stretch=bend.max_stretch,
                max_turn_deg=bend.max_turn_deg,
            )
        ),
    )


_WAYS: dict[Way, str] = {
    "crop": mark("Crop all"),
    "bend": mark("Bend all"),
    "fill": mark("Fill all"),
}


class WayWords(Value):
    """A way to deal with the corners: its name, and what it would cost."""

    label: str
    costs: tuple[str, ...]


def way_words(cost: WayCost) -> WayWords:
    """What a way to deal with the corners would cost."""
    kept = cost.kept_fraction * 100
    costs = [tr("keeps {kept} %", kept=number(kept, ".0f" if kept > 99.95 else ".1f"))]
    if cost.way == "bend":
        costs.append(tr("bends {bent_share:.0f} %", bent_share=cost.bent_share * 100))
        costs += [
            tr("up to {max_stretch:.2f}×", max_stretch=cost.max_stretch),
            size_words(cost.max_turn_deg, 1),
        ]
        if cost.done < 0.995:
            costs.append(tr("{done:.0f} % of it", done=cost.done * 100))
    if cost.way == "fill":
        costs.append(tr("invents {fill_fraction:.1f} %", fill_fraction=cost.fill_fraction * 100))
    return WayWords(label=tr(_WAYS[cost.way]), costs=tuple(costs))


def _lens_words(solution: Solution) -> LensWords:
    lens, focal = solution.lens, solution.focal
    coefficients = coefficient_words(lens)
    sources = {
        "file": tr("The file says so."),
        "sensor": tr("From the file's focal length and the size of its sensor."),
        "camera": tr("From the file's focal length and its camera's crop factor."),
        "assumed": tr("The file does not say; this is assumed."),
        "stated": tr("Stated by hand."),
    }
    estimate = None
    if focal.estimate35_mm and focal.estimate_sigma_mm:
        estimate = focal_words(focal.estimate35_mm, focal.estimate_sigma_mm)
    return LensWords(
        bow=lens_words(lens),
        coefficients=coefficients,
        focal=sources[focal.source],
        estimate=estimate,
    )


def _cost_words(recipe: Recipe, solution: Solution) -> CostWords:
    cost, size, method = solution.cost, recipe.frame.print_size, recipe.fill.method
    keep_all = tr(
        "Keeping everything in this shape would fill {keep_all_fraction:.1f} %.",
        keep_all_fraction=cost.keep_all_fraction * 100,
    )
    printed = print_words(size, cost.print_scale) if size and cost.print_scale else ""
    return CostWords(
        kept=kept_words(solution.kept_fraction),
        lost=lost_words(solution.kept_fraction, cost.lost.model_dump()),
        fill=fill_words(cost.fill_fraction, method),
        filled=filled_words(cost.fill_fraction, method),
        share=share_words(solution.kept_fraction),
        keep_all="" if cost.fill_fraction > 0 else keep_all,
        print=printed,
        mended=mended_words(len(recipe.mends), solution.mended_fraction),
    )


def _steps(recipe: Recipe, solution: Solution) -> StepsWords:
    focal, stance = solution.focal, solution.stance
    length = millimetres(focal.focal35_mm)
    if focal.source == "assumed":
        length = tr("{length} assumed", length=length)
    bow = "" if solution.lens.source == "none" else f", {lens_kind(solution.lens)}"
    turned = any(abs(stance.axis(axis).applied_deg) > _SLIGHT_DEG for axis in AXES)
    kept = tr("{share} kept", share=share_words(solution.kept_fraction))
    printed = recipe.frame.print_size is not None
    return StepsWords(
        lens=StepWords(
            done=focal.source != "assumed",
            summary=f"{length}{bow}",
        ),
        measure=StepWords(done=bool(recipe.readings) or turned, summary=_counted_readings(recipe)),
        frame=StepWords(done=recipe.frame_decided, summary=f"{shape_words(recipe)}, {kept}"),
        corners=_corners_step(recipe, solution),
        export=StepWords(done=False, summary=tr("print size") if printed else tr("file and size")),
    )


def _corners_step(recipe: Recipe, solution: Solution) -> StepWords:
    shares = corner_shares(recipe, solution)
    counted = ((shares.bent, mark("{percent} % bent")), (shares.filled, mark("{percent} % filled")))
    parts = [tr(said, percent=share) for share, said in counted if share]
    if recipe.frame.margin and not recipe.fill.allowance and solution.cost.fill_fraction > 0:
        parts.append(tr("margin filled"))
    nothing = tr("none is empty") if shares.none else tr("cropped")
    return StepWords(done=bool(parts), summary=", ".join(parts) or nothing)


def _counted_readings(recipe: Recipe) -> str:
    count, off = len(recipe.readings), sum(not reading.active for reading in recipe.readings)
    if not count:
        return tr("no readings")
    said = tr_plural("{count} reading", "{count} readings", count)
    return tr("{said}, {off} off", said=said, off=off) if off else said


def shape_words(recipe: Recipe) -> str:
    """The shape of the frame: ``as shot``, ``5:4``, ``6 × 4 in``."""
    size, ratio = recipe.frame.print_size, recipe.frame.ratio
    if size:
        return tr(
            "{width:g} × {height:g} {unit}",
            width=size.width,
            height=size.height,
            unit=named(size.unit),
        )
    if ratio == "original":
        return tr("as shot")
    return tr("A sheet") if ratio in _SHEET else ratio
