"""What does not agree, and why: notes about the readings that steer, the traces and the axes.

The rules find what is to be said; the words are made in `report.sentences`.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations

from sequor.core.camera import Matrix
from sequor.core.edits import (
    Edit,
    FreeAxis,
    HoldAxis,
    KeepAgreeing,
    MakeChecks,
    PreferReading,
    SetFocal,
    SwitchReadings,
)
from sequor.core.lens.plumb_line import Traced
from sequor.core.measure.account import stays_bent
from sequor.core.measure.orientation import Measured, measure_stance
from sequor.core.notes import (
    Contradiction,
    FocalAssumed,
    FocalContradicted,
    HeldAgainstReadings,
    Limited,
    Note,
    OddOneOut,
    SameLineTwice,
    SeveralDoNotFit,
    ShortReading,
    SwingRestsOnNear,
    TracesSayTooLittle,
    TraceStaysBent,
)
from sequor.core.recipe import AXES, Axis, Hold, PhotoFacts, Point, Reading
from sequor.core.solution import SolvedFocal, SolvedReading, SolvedStance

SHORT_SIGMA_DEG = 0.5
"""A reading less sure than this cannot level a picture to what an eye sees."""
LARGE_SWING_DEG = 3.0
"""A swing that one near line alone asks for is doubted from here on."""
_TILTED_DEG = 2.0
"""With less lean and swing taken out, a wrong focal length does not show in the proportions."""
_RESTS_ON_SHARE = 0.3
"""A swing rests on a reading when without it less than this share of it is left."""
_FARTHER = 0.5
"""The angle below eye level of a line that is farther, as a share of the nearer one's."""
_BETTER = 1.5
"""How many times nearer to eye level a level must lie to be called the better one."""
_SAME_PLACE_SHARE = 0.01
"""Lines closer than this share of the diagonal, and within `_SAME_ANGLE_DEG`, are the same line."""
_SAME_ANGLE_DEG = 2.0
_FOCAL_SIGMAS, _FOCAL_SHARE = 3.0, 0.1
"""An estimate of the focal length contradicts another when it is this many deviations and at least
this share away."""
_HELD_DEG, _HELD_SIGMAS = 1.0, 3.0
"""The same for an axis that is held."""
_MOST_BENT, _MOST_SUSPECTS = 2, 3
"""Bent traces and suspects that are named one by one: more notes would not be read."""


@dataclass(frozen=True)
class Steering:
    """A reading that steers, with the middle it has in source pixels.

    ``below_rad`` is the angle of its middle below eye level.
    """

    solved: SolvedReading
    middle: Point
    below_rad: float

    @property
    def id(self) -> str:
        """The reading's id."""
        return self.solved.id

    @property
    def direction(self) -> str:
        """What it is read as."""
        return self.solved.reads_as


def below_eye_level(turn: Matrix, k_inverse: Matrix, middle: Point) -> float:
    """Angle of a source point below the horizon of a stance, in radians; negative above."""
    ray = turn @ k_inverse @ [middle[0], middle[1], 1.0]
    return math.atan2(float(ray[1]), math.hypot(float(ray[0]), float(ray[2])))


def about_traces(traced: Traced | None, readings: Sequence[SolvedReading]) -> Iterator[Note]:
    """What the traces say of the lens, and which of them contradict the others."""
    traces = [r for r in readings if r.kind == "trace" and r.active and r.sag_px is not None]
    if not traced or not traces:
        return
    if traced.sigma[0] is None:
        yield TracesSayTooLittle(readings=tuple(r.id for r in traces))
        return
    bent = [r for r in traces if stays_bent(r.sag_px, r.length_px)]
    for reading in sorted(bent, key=lambda r: -(r.sag_px or 0))[:_MOST_BENT]:
        yield TraceStaysBent(
            readings=(reading.id,),
            sag_px=reading.sag_px or 0.0,
            alone=len(traces) == 1,
            offers=(_off(reading.id),),
        )


def about_readings(
    steering: Sequence[Steering], measured: Measured, diagonal_px: float
) -> Iterator[Note]:
    """Which readings do not fit, rest on too little, or say the same twice."""
    named = set(measured.suspects) if len(measured.suspects) == 1 else set(measured.outliers)
    if len(measured.suspects) == 1:
        yield _odd_one_out(measured.suspects[0], steering, measured)
    elif measured.suspects:
        named = set()
        yield _contradiction([steering[i] for i in measured.suspects])
    elif measured.outliers:
        ids = tuple(steering[i].id for i in sorted(measured.outliers))
        yield SeveralDoNotFit(readings=ids, offers=(KeepAgreeing(), MakeChecks(ids=ids)))
    pair = _swing_rests_on(steering, measured)
    if pair is not None and pair[0] not in named:
        yield _near_line(steering[pair[0]], steering[pair[1]], measured)
    for index, one in enumerate(steering):
        if one.solved.sigma_deg > SHORT_SIGMA_DEG:
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
        if freed.determined[place] and abs(free_deg - held) > enough and axis != "roll":
            yield HeldAgainstReadings(
                readings=ids,
                axis=axis,
                held_deg=held,
                free_deg=free_deg,
                offers=(FreeAxis(axis=axis),),
            )


def about_focal(focal: SolvedFocal, stance: SolvedStance) -> Iterator[Note]:
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
    elif max(abs(stance.lean_deg), abs(stance.swing_deg)) > _TILTED_DEG:
        yield FocalAssumed(
            focal35_mm=focal.focal35_mm,
            estimate35_mm=estimate,
            estimate_sigma_mm=sigma,
            offers=offers,
        )


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


def _contradiction(suspects: list[Steering]) -> Note:
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
        offers=tuple(offers),
    )


def _swing_rests_on(steering: Sequence[Steering], measured: Measured) -> tuple[int, int] | None:
    """A near level reading that alone asks for a large swing, and the farthest other level one."""
    swing = measured.stance.swing_rad
    if not measured.determined[2] or abs(swing) < math.radians(LARGE_SWING_DEG):
        return None
    levels = [
        i for i, s in enumerate(steering) if s.direction == "level" and i not in measured.outliers
    ]
    rests = [
        i
        for i in levels
        if not measured.without_determined[i, 2]
        or abs(float(measured.without[i, 2])) < _RESTS_ON_SHARE * abs(swing)
    ]
    if not rests or len(levels) < 2:
        return None
    # What runs away from the camera near it, a rail, a kerb or a quay, lies well below eye level.
    near = max(rests, key=lambda i: steering[i].below_rad)
    far = min((i for i in levels if i != near), key=lambda i: abs(steering[i].below_rad))
    if abs(steering[far].below_rad) > _FARTHER * steering[near].below_rad:
        return None
    return near, far


def _near_line(near: Steering, far: Steering, measured: Measured) -> Note:
    return SwingRestsOnNear(
        readings=(near.id, far.id),
        swing_deg=math.degrees(measured.stance.swing_rad),
        apart_deg=abs(near.solved.angle_deg - far.solved.angle_deg),
        offers=(
            PreferReading(id=far.id, over=(near.id,)),
            HoldAxis(axis="swing", deg=0.0),
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
