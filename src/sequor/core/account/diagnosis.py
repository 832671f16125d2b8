"""What does not agree, and why: notes about the readings that steer, the traces and the axes.

The rules find what is to be said; the words are made in `report.sentences`.
"""

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import combinations
from typing import Literal

import numpy as np

from sequor.core.camera import Stance, apply_homography, conjugated, intrinsics
from sequor.core.edits import (
    AddStated,
    Edit,
    FreeAxis,
    HoldAxis,
    KeepAgreeing,
    LeaveAxisIn,
    MakeChecks,
    PreferReading,
    ReadAs,
    ReadCamera,
    SetFocal,
    SwitchReadings,
    TurnBy,
)
from sequor.core.lens.plumb_line import Traced
from sequor.core.notes import (
    AxisStaysOpen,
    CameraTells,
    Contradiction,
    DecentringOpen,
    FocalAssumed,
    FocalContradicted,
    HandGaveWay,
    HangsOnFocal,
    HeldAgainstReadings,
    LevelRunsAway,
    LiesOnItsSide,
    Limited,
    Note,
    OddOneOut,
    OneMayBeWrong,
    Outcome,
    PlumbMayLean,
    RollOutsideReadings,
    SameLineTwice,
    SeveralDoNotFit,
    ShortReading,
    SwingRestsOnNear,
    TracesSayTooLittle,
    TraceStaysBent,
)
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import (
    AXES,
    TURNED_OVER,
    Axis,
    Ease,
    GivenWay,
    Hold,
    Point,
    Reading,
    Recipe,
    Trim,
)
from sequor.core.solved import SolvedFocal, SolvedReading, SolvedStance
from sequor.core.stance.eye_level import tilt_by_direction
from sequor.core.stance.left_open import LIKELY_MM
from sequor.core.stance.orientation import Measured, measure_stance
from sequor.core.stance.staying import OUTSIDE_DEG, Staying, beyond
from sequor.core.stance.trials import LEAN_BESIDE_PLUMBS_DEG, PRIOR_SIGMA_DEG
from sequor.core.warp.ease import with_trim

SHORT_SIGMA_DEG = 0.5
"""A reading less sure than this cannot level a picture to what an eye sees."""
_TILTED_DEG = 2.0
"""With less lean and swing taken out, a wrong focal length does not show in the proportions."""
_BETTER = 1.5
"""How many times nearer to eye level a level must lie to be called the better one."""
_SAME_PLACE_SHARE = 0.01
"""Lines closer than this share of the diagonal, and within `_SAME_ANGLE_DEG`, are the same line."""
_SAME_ANGLE_DEG = 2.0
_OPEN_DEG = 0.3
"""A roll that is less sure than this because of what is left open is worth a note."""
USUAL_DIRECTION_DEG = 10.0
"""What a level line may run away from square to the camera, for the note about it."""
USUAL_LEAN_DEG = 10.0
"""What a camera may point up or down, for the note about a single plumb line."""
_RUNS_AWAY_DEG = 1.0
"""By less than this a line that runs away is not said to: near lines, wide lenses and large drops
below eye level are (common practice, no published source; the figure is ours)."""
_MAYBE_HORIZON_DEG = 12.0
"""A level line this near to eye level may be the horizon itself."""
_HANGS_DEG = 1.0
"""An axis hangs on the focal length when it differs by more than this between those: less is hardly
seen."""
_FOCAL_SIGMAS, _FOCAL_SHARE = 3.0, 0.1
"""An estimate of the focal length contradicts another when it is this many deviations and at least
this share away."""
_HELD_DEG, _HELD_SIGMAS = 1.0, 3.0
"""The same for an axis that is held."""
_ON_ITS_SIDE_DEG, _HALF_TURN_DEG = 60.0, 180.0
_MOST_BENT, _MOST_SUSPECTS = 2, 3
"""Bent traces and suspects that are named one by one: more notes would not be read."""


@dataclass(frozen=True)
class Steering:
    """A reading that steers, and its line in the undistorted picture.

    ``below_rad`` is the angle of its middle below eye level.
    """

    solved: SolvedReading
    line: Reading
    below_rad: float

    @property
    def middle(self) -> Point:
        """Half-way between its ends."""
        (ax, ay), (bx, by) = self.line.ends
        return (ax + bx) / 2, (ay + by) / 2

    @property
    def id(self) -> str:
        """The reading's id."""
        return self.solved.id

    @property
    def direction(self) -> str:
        """What it is read as."""
        return self.solved.reads_as


def about_traces(traced: Traced | None, readings: Sequence[SolvedReading]) -> Iterator[Note]:
    """What the traces say of the lens, and which of them contradict the others."""
    traces = [r for r in readings if r.kind == "trace" and r.active and r.sag_px is not None]
    if not traced or not traces:
        return
    if not traced.sigma:
        yield TracesSayTooLittle(readings=tuple(r.id for r in traces))
        return
    if traced.decentred:
        yield DecentringOpen(readings=tuple(r.id for r in traces))
    bent = [r for r in traces if r.stays_bent]
    for reading in sorted(bent, key=lambda r: -(r.sag_px or 0))[:_MOST_BENT]:
        yield TraceStaysBent(
            readings=(reading.id,),
            sag_px=reading.sag_px or 0.0,
            alone=len(traces) == 1,
            offers=(_off(reading.id),),
        )


def about_readings(
    steering: Sequence[Steering],
    stood: Staying,
    diagonal_px: float,
    without: Callable[[int], Staying],
) -> Iterator[Note]:
    """Which readings do not fit, rest on too little, or say the same twice.

    ``without`` tells how the camera stood without one of those that steer.
    """
    measured = stood.measured
    named = set(measured.suspects) if len(measured.suspects) == 1 else set(measured.outliers)
    if len(measured.suspects) == 1:
        yield _odd_one_out(measured.suspects[0], steering, measured)
    elif measured.suspects:
        named = set()
        outcomes = _outcomes(measured.suspects[:_MOST_SUSPECTS], steering, measured)
        yield _contradiction([steering[i] for i in measured.suspects], outcomes)
    elif measured.outliers:
        ids = tuple(steering[i].id for i in sorted(measured.outliers))
        yield SeveralDoNotFit(readings=ids, offers=(KeepAgreeing(), MakeChecks(ids=ids)))
    elif measured.may_be_wrong:
        doubted = measured.may_be_wrong[:_MOST_SUSPECTS]
        ids = tuple(steering[i].id for i in doubted)
        outcomes = _outcomes(doubted, steering, measured)
        yield OneMayBeWrong(readings=ids, outcomes=outcomes, offers=tuple(map(_off, ids)))
    else:
        yield from _outside(steering, measured, without)
    pair = stood.rests_on
    if pair is not None and not stood.stay[2] and pair[0] not in named:
        yield _near_line(steering[pair[0]], steering[pair[1]], measured)
    for index, one in enumerate(steering):
        if one.solved.sigma_deg > SHORT_SIGMA_DEG and not one.line.camera:
            decides = _decides(index, measured, len(steering))
            yield ShortReading(
                readings=(one.id,),
                sigma_deg=one.solved.sigma_deg,
                decides=decides,
                offers=(_off(one.id),) if decides in ("lean", "swing") else (),
            )
    yield from _repeats(steering, diagonal_px)


def about_limit(stance: SolvedStance, lean_deg: float, swing_deg: float, stretch: float) -> Note:
    """A warp that was limited; ``lean_deg`` and ``swing_deg`` were wanted."""
    axes: tuple[tuple[Axis, float], ...] = (("lean", lean_deg), ("swing", swing_deg))
    return Limited(
        wanted_lean_deg=lean_deg,
        wanted_swing_deg=swing_deg,
        lean_deg=stance.lean_deg,
        swing_deg=stance.swing_deg,
        stretch=stretch,
        offers=tuple(HoldAxis(axis=axis, deg=0.0) for axis, deg in axes if round(deg, 2)),
    )


def about_holds(
    camera: PhotoFacts, hold: Hold, readings: tuple[Reading, ...], focal35_mm: float
) -> Iterator[Note]:
    """Held axes that the readings would move by much."""
    axes: tuple[tuple[Axis, str], ...] = (("lean", "plumb"), ("swing", "level"))
    for axis, kind in axes:
        held = getattr(hold, f"{axis}_deg")
        ids = tuple(reading.id for reading in readings if reading.direction == kind)
        if held is None or len(ids) < 2:
            continue
        free = hold.model_copy(update={f"{axis}_deg": None})
        freed = measure_stance(camera, readings, focal35_mm, free)
        free_deg = math.degrees(getattr(freed.stance, f"{axis}_rad"))
        place = AXES.index(axis)
        enough = max(_HELD_DEG, _HELD_SIGMAS * math.degrees(freed.sigma_rad[place]))
        if freed.roughly[place] and abs(free_deg - held) > enough and axis != "roll":
            yield HeldAgainstReadings(
                readings=ids,
                axis=axis,
                held_deg=held,
                free_deg=free_deg,
                offers=(FreeAxis(axis=axis),),
            )


def about_what_is_open(
    steering: Sequence[Steering], measured: Measured, hold: Hold
) -> Iterator[Note]:
    """What the readings leave open: the direction of a level line, or an axis that they are too
    short, or too near to each other, to tell.
    """
    levels = [one for one in steering if one.solved.kind == "level"]
    if levels and hold.roll_deg is None and measured.open_rad > math.radians(_OPEN_DEG):
        # The one that the roll rests on most: the nearest to eye level.
        best = min(levels, key=lambda one: abs(one.below_rad))
        unsure = 0.0 if measured.determined[1] else math.radians(PRIOR_SIGMA_DEG["lean"])
        below = max(abs(best.below_rad), unsure)
        near = below < math.radians(_MAYBE_HORIZON_DEG)
        away = math.radians(USUAL_DIRECTION_DEG)
        # One that seems to lie at eye level, as far ones do, may be off too: its deviation says so.
        if tilt_by_direction(abs(best.below_rad), away) > math.radians(_RUNS_AWAY_DEG):
            yield LevelRunsAway(
                readings=(best.id,),
                below_deg=math.degrees(below),
                off_deg=math.degrees(tilt_by_direction(below, away)),
                direction_deg=USUAL_DIRECTION_DEG,
                offers=(ReadAs(id=best.id, kind="horizon"),) if near else (),
            )
    plumbs = [one for one in steering if one.direction == "plumb"]
    if len(plumbs) == 1 and hold.roll_deg is None and measured.open_rad > math.radians(_OPEN_DEG):
        off_rad = measured.open_rad * USUAL_LEAN_DEG / LEAN_BESIDE_PLUMBS_DEG
        yield PlumbMayLean(
            readings=(plumbs[0].id,), lean_deg=USUAL_LEAN_DEG, off_deg=math.degrees(off_rad)
        )
    pairs: tuple[tuple[Axis, str], ...] = (("lean", "plumb"), ("swing", "level"))
    for axis, direction in pairs:
        alike = [one for one in steering if one.solved.kind == direction]
        open_axis = not measured.determined[AXES.index(axis)]
        meant = axis == "lean" or measured.front
        if len(alike) > 1 and open_axis and meant and getattr(hold, f"{axis}_deg") is None:
            yield AxisStaysOpen(readings=tuple(one.id for one in alike), axis=axis)


def about_focal(
    photo: PhotoFacts, recipe: Recipe, focal: SolvedFocal, stance: SolvedStance, stood: Staying
) -> Iterator[Note]:
    """A focal length that is only assumed, or that the readings contradict."""
    estimate, sigma = focal.estimate35_mm, focal.estimate_sigma_mm
    offers = (SetFocal(focal35_mm=round(estimate, 1)),) if estimate else ()
    if focal.source != "assumed":
        enough = max(_FOCAL_SIGMAS * (sigma or 0), _FOCAL_SHARE * focal.focal35_mm)
        if estimate and sigma and abs(estimate - focal.focal35_mm) > enough:
            yield FocalContradicted(
                source=focal.source,
                focal35_mm=focal.focal35_mm,
                estimate35_mm=estimate,
                estimate_sigma_mm=sigma,
                offers=offers,
            )
    elif (
        stood.measured.focal_explains
        or max(abs(stance.lean_deg), abs(stance.swing_deg)) > _TILTED_DEG
    ):
        own = stood.measured.stance
        likely = [
            (mm, _stood_with(stood, one, recipe.trim))
            for mm, one in zip(LIKELY_MM, stood.measured.by_lens or (own, own), strict=True)
        ]
        yield FocalAssumed(
            focal35_mm=focal.focal35_mm,
            estimate35_mm=estimate,
            estimate_sigma_mm=sigma,
            proportions_off=_proportions_off(photo, (focal.focal35_mm, stood), likely, recipe.ease),
            misfit=stood.measured.focal_explains,
            hangs=_hangs_on_focal(likely, recipe.hold),
            offers=offers,
        )


def _stood_with(stood: Staying, stance: Stance, trim: Trim) -> Staying:
    """How the camera stood if the readings had told another stance."""
    measured = replace(stood.measured, stance=stance)
    return replace(stood, measured=measured, wanted=with_trim(stance, trim))


def _proportions_off(
    photo: PhotoFacts,
    assumed: tuple[float, Staying],
    likely: list[tuple[float, Staying]],
    ease: Ease,
) -> float:
    """By how much height against width in the middle of the picture may be wrong, as a share, when
    the focal length is only assumed.
    """

    def height_to_width(focal35_mm: float, stood: Staying) -> float:
        camera = photo.model_copy(update={"focal35_mm": focal35_mm})
        h = conjugated(intrinsics(camera), stood.turn(ease))
        middle = np.array([[camera.width / 2, camera.height / 2]])
        points = middle + [[-1, 0], [1, 0], [0, -1], [0, 1]]
        left, right, top, bottom = apply_homography(h, points)
        return float(np.hypot(*(bottom - top)) / np.hypot(*(right - left)))

    own = height_to_width(*assumed)
    return max(abs(height_to_width(*one) / own - 1) for one in likely)


def _hangs_on_focal(likely: list[tuple[float, Staying]], hold: Hold) -> HangsOnFocal | None:
    """What lean or swing is for the lenses that most pictures are taken with, whichever is the more
    different; None where it hardly is.
    """
    (short_mm, short), (long_mm, long) = likely
    pairs: list[HangsOnFocal] = []
    axes: tuple[Literal["lean", "swing"], ...] = ("lean", "swing")
    for place, axis in enumerate(axes, 1):
        if short.stay[place] or getattr(hold, f"{axis}_deg") is not None:
            continue
        short_deg, long_deg = (
            math.degrees(getattr(s.measured.stance, f"{axis}_rad")) for s in (short, long)
        )
        pairs.append(
            HangsOnFocal(
                axis=axis,
                short_mm=short_mm,
                short_deg=short_deg,
                long_mm=long_mm,
                long_deg=long_deg,
            )
        )
    most = max(pairs, key=lambda one: abs(one.long_deg - one.short_deg), default=None)
    return most if most and abs(most.long_deg - most.short_deg) > _HANGS_DEG else None


def _odd_one_out(index: int, steering: Sequence[Steering], measured: Measured) -> Note:
    odd = steering[index]
    farther = [
        other
        for other in steering
        if odd.direction == other.direction == "level"
        and other is not odd
        and abs(other.below_rad) < abs(odd.below_rad)
    ]
    far = min(farther, key=lambda other: abs(other.below_rad), default=None)
    return OddOneOut(
        readings=(odd.id,),
        off_deg=abs(math.degrees(float(measured.off_rad[index]))),
        sigma_deg=odd.solved.sigma_deg,
        direction=odd.solved.reads_as,
        farther=far.id if far else None,
        offers=(_off(odd.id), MakeChecks(ids=(odd.id,))),
    )


def _outcomes(
    places: tuple[int, ...], steering: Sequence[Steering], measured: Measured
) -> tuple[Outcome, ...]:
    """What the others say without each of some readings."""
    found: list[Outcome] = []
    for place in places:
        roll, lean, swing = np.degrees(measured.without[place]).tolist()
        _, lean_told, swing_told = measured.without_determined[place]
        found.append(
            Outcome(
                without=steering[place].id,
                roll_deg=roll,
                lean_deg=lean if lean_told else None,
                swing_deg=swing if swing_told else None,
            )
        )
    return tuple(found)


def _outside(
    steering: Sequence[Steering], measured: Measured, without: Callable[[int], Staying]
) -> Iterator[Note]:
    """A tilt that none of the lines has."""
    if any(one.solved.kind == "horizon" for one in steering) or len(steering) < 2:
        return
    tilts = [one.solved.angle_deg for one in steering]
    by_all = measured.roll_by_all_rad
    tilt = -math.degrees(measured.stance.roll_rad if by_all is None else by_all)
    if not beyond(tilt, tilts) > OUTSIDE_DEG:
        return
    among = []
    for place, one in enumerate(steering):
        others = tilts[:place] + tilts[place + 1 :]
        found = without(place)
        told = -math.degrees(found.measured.stance.roll_rad)
        if beyond(told, others) <= OUTSIDE_DEG:
            apart = max(abs(other - told) for other in others)
            among.append((apart, place, _outcome(one.id, found)))
    # The one that leaves the others nearest to what they then say comes first.
    outcomes = tuple(outcome for *_, outcome in sorted(among)[:_MOST_SUSPECTS])
    yield RollOutsideReadings(
        readings=tuple(one.id for one in steering),
        tilt_deg=tilt,
        taken_deg=None if by_all is None else -math.degrees(measured.stance.roll_rad),
        least_deg=min(tilts),
        most_deg=max(tilts),
        outcomes=outcomes,
        offers=tuple(MakeChecks(ids=(outcome.without,)) for outcome in outcomes),
    )


def _outcome(without: str, found: Staying) -> Outcome:
    """How the camera stood without a reading, by what is taken out of the picture then."""
    stance, (_, lean_stays, swing_stays) = found.measured.stance, found.stay
    return Outcome(
        without=without,
        roll_deg=math.degrees(stance.roll_rad),
        lean_deg=None if lean_stays else math.degrees(stance.lean_rad),
        swing_deg=None if swing_stays else math.degrees(stance.swing_rad),
    )


def about_camera(photo: PhotoFacts, recipe: Recipe) -> Iterator[Note]:
    """That the file says how the camera was held, where nothing else does yet."""
    pose = photo.pose
    if pose is None or pose.roll_deg is None or any(r.steers for r in recipe.readings):
        return
    if any(reading.camera for reading in recipe.readings) or "roll" in recipe.trim.stated:
        return
    yield CameraTells(roll_deg=pose.roll_deg, lean_deg=pose.lean_deg, offers=(ReadCamera(),))


def about_hand(given_way: GivenWay) -> Iterator[Note]:
    """What a hand had stated before a reading took its place."""
    for axis in AXES:
        deg = getattr(given_way, f"{axis}_deg")
        if deg:
            yield HandGaveWay(axis=axis, deg=deg, offers=(AddStated(axis=axis),))


def about_side(stance: SolvedStance, lines: tuple[Reading, ...]) -> Iterator[Note]:
    """A picture that is turned so far that its lines may as well stand on their heads; or that one
    line, of the other kind in reality, has thrown on its side.
    """
    roll = stance.roll
    told = 0.0 if roll.held or roll.measured_deg is None else roll.measured_deg
    if abs(told) > _ON_ITS_SIDE_DEG:
        other = math.copysign(_HALF_TURN_DEG, -roll.applied_deg)
        turn = TurnBy(axis="roll", deg=other)
        offers: tuple[Edit, ...] = tuple(
            ReadAs(id=line.id, kind=TURNED_OVER[line.kind])
            for line in lines
            if len(lines) == 1 and line.kind in TURNED_OVER
        )
        ids = tuple(line.id for line in lines) if offers else ()
        yield LiesOnItsSide(roll_deg=roll.applied_deg, readings=ids, offers=(*offers, turn))


def _contradiction(suspects: list[Steering], outcomes: tuple[Outcome, ...]) -> Note:
    alike = [
        abs(a.solved.residual_deg - b.solved.residual_deg)
        for a, b in combinations(suspects, 2)
        if a.direction == b.direction
    ]
    apart = max(alike, default=max(abs(s.solved.residual_deg) for s in suspects))
    levels = sorted((s for s in suspects if s.direction == "level"), key=lambda s: abs(s.below_rad))
    offers: list[Edit] = [_off(s.id) for s in suspects[:_MOST_SUSPECTS]]
    better = worse = None
    if len(levels) > 1 and abs(levels[-1].below_rad) > _BETTER * abs(levels[0].below_rad):
        better, worse = levels[0].id, levels[-1].id
        over = tuple(s.id for s in levels[1:])
        offers = [PreferReading(id=better, over=over), *offers[: _MOST_SUSPECTS - 1]]
    return Contradiction(
        readings=tuple(s.id for s in suspects),
        apart_deg=apart,
        better=better,
        worse=worse,
        all_plumb=all(s.direction == "plumb" for s in suspects),
        outcomes=outcomes,
        offers=tuple(offers),
    )


def _near_line(near: Steering, far: Steering, measured: Measured) -> Note:
    return SwingRestsOnNear(
        readings=(near.id, far.id),
        swing_deg=math.degrees(measured.stance.swing_rad),
        apart_deg=abs(near.solved.angle_deg - far.solved.angle_deg),
        offers=(
            PreferReading(id=far.id, over=(near.id,)),
            LeaveAxisIn(axis="swing"),
        ),
    )


def _decides(index: int, measured: Measured, count: int) -> Axis | None:
    """The axis that only this reading measures."""
    if count == 1:
        return "roll"
    for place, axis in enumerate(AXES):
        if measured.determined[place] and not measured.without_determined[index, place]:
            return axis
    return None


def _repeats(steering: Sequence[Steering], diagonal_px: float) -> Iterator[Note]:
    """The first two readings that lie on nearly the same line."""
    for one, other in combinations(steering, 2):
        if _same_line(one, other, diagonal_px):
            weaker = max(one, other, key=lambda s: s.solved.sigma_deg)
            yield SameLineTwice(readings=(one.id, other.id), offers=(_off(weaker.id),))
            return


def _same_line(one: Steering, other: Steering, diagonal_px: float) -> bool:
    apart = abs(one.solved.angle_deg - other.solved.angle_deg)
    if one.direction != other.direction or apart > _SAME_ANGLE_DEG:
        return False
    dx, dy = other.middle[0] - one.middle[0], other.middle[1] - one.middle[1]
    along = math.radians(one.solved.angle_deg) + (0 if one.direction == "level" else math.pi / 2)
    across = abs(dx * math.sin(along) - dy * math.cos(along))
    together = (one.solved.length_px + other.solved.length_px) / 2
    return across < _SAME_PLACE_SHARE * diagonal_px and math.hypot(dx, dy) < together


def _off(reading: str) -> Edit:
    return SwitchReadings(ids=(reading,), active=False)
