"""Plain words: what was done, what it costs, which readings do not agree, and what can be done about it."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from sequor.core.angles import in_words
from sequor.core.bow import Bow, Traced
from sequor.core.camera import Matrix
from sequor.core.frame import Rectangle
from sequor.core.recipe import Aim, Axis, FillMethod, PrintSize
from sequor.core.solution import Action, Note, SolvedReading
from sequor.core.stance import Measured

SHORT_SIGMA_DEG = 0.5
LARGE_SWING_DEG = 3.0
_SLIGHT_DEG = 0.05
_SAME_PLACE_SHARE = 0.01
_SAME_ANGLE_DEG = 2.0
_RESTS_ON_SHARE = 0.3
_BENT_PX, _BENT_SHARE = 2.0, 0.0015
_FOCAL_SIGMAS, _FOCAL_SHARE = 3.0, 0.1


@dataclass(frozen=True)
class Steering:
    """A reading that steers, as the notes see it: its place is in source pixels, ``below_rad`` its angle below eye level."""

    solved: SolvedReading
    name: str
    middle: tuple[float, float]
    below_rad: float

    @property
    def id(self) -> str:
        """The reading's id."""
        return self.solved.id

    @property
    def label(self) -> str:
        """How sentences call it: ``reading 2 (near rail)``."""
        return f"reading {self.solved.number} ({self.name})" if self.name else f"reading {self.solved.number}"

    @property
    def short_label(self) -> str:
        """How buttons call it."""
        return f"reading {self.solved.number}"


def turn_words(roll_deg: float) -> str:
    """What is done to the picture: ``turned 1.33° anticlockwise``, or ``not turned``."""
    words = in_words(roll_deg)
    return f"turned {words}" if "clockwise" in words else "not turned"


def axis_words(axis: Axis, angle_deg: float) -> str:
    """The camera's own turn about an axis: ``16.00° up``, ``28.00° right``, ``1.33° clockwise``, ``0.00°``."""
    if axis == "roll":
        return in_words(angle_deg)
    shown = f"{abs(angle_deg):.2f}"
    if float(shown) == 0:
        return f"{shown}°"
    positive, negative = ("up", "down") if axis == "lean" else ("right", "left")
    return f"{shown}° {positive if angle_deg > 0 else negative}"


def perspective_words(lean_deg: float, swing_deg: float) -> str:
    """What lean and swing are taken out, briefly: ``16.00° up, 28.00° right taken out``; nothing when there is none."""
    angles: tuple[tuple[Axis, float], ...] = (("lean", lean_deg), ("swing", swing_deg))
    parts = [axis_words(axis, deg) for axis, deg in angles if abs(deg) >= _SLIGHT_DEG]
    return f"{', '.join(parts)} taken out" if parts else ""


def applied_words(axis: Axis, angle_deg: float) -> str:
    """What is taken out of the picture about an axis."""
    if axis == "roll":
        return turn_words(angle_deg)
    words = axis_words(axis, angle_deg)
    return f"{words} taken out" if " " in words else f"no {axis} taken out"


def sigma_words(axis: Axis, sigma_rad: float | None, held: bool, across_px: float, at_border: float) -> str:
    """How sure an axis is, by what can be seen: at the far end of the picture, or along its border.

    ``at_border`` is the half size of the picture in focal lengths, along which lean or swing turns lines.
    """
    if held:
        return "held by hand"
    if sigma_rad is None:
        return "no reading yet" if axis == "roll" else "not measured, taken as none"
    sigma_deg = math.degrees(sigma_rad)
    if axis == "roll":
        off = sigma_rad * across_px
        return f"sure to {sigma_deg:.2f}°, {'under 1 px' if off < 1 else f'{off:.0f} px'} side to side"
    # A plumb line at the side of the picture, or a level one at its top, is tilted by this much of the error.
    return f"sure to {sigma_deg:.2f}°, lines at the {'sides' if axis == 'lean' else 'top'} to {sigma_deg * at_border:.2f}°"


def kept_words(fraction: float) -> str:
    """What the frame costs: ``keeps 93.4 % of the picture``."""
    if fraction > 1 - 1e-9:
        return "keeps all of the picture"
    return f"keeps {min(fraction * 100, 99.9):.1f} % of the picture"


def lost_words(lost: dict[str, float]) -> str:
    """What is lost at each side: ``left 1.2 %, top 2.0 %``."""
    said = [f"{side} {share * 100:.1f} %" for side, share in lost.items() if share >= 0.0005]
    return ", ".join(said) or "nothing is lost at any side"


def fill_share_words(share: float, method: FillMethod) -> str:
    """What must be filled, and how."""
    if share <= 0:
        return "nothing is filled"
    amount = f"{share * 100:.1f} %" if share >= 0.001 else "under 0.1 %"
    how = {
        "patches": "from the surroundings",
        "mirror": "by mirroring",
        "colour": "with a colour",
        "transparent": "and stays transparent",
    }
    return f"{amount} of the frame is {'empty' if method == 'transparent' else 'filled'} {how[method]}"


def print_words(size: PrintSize, frame: Rectangle) -> str:
    """What a print size asks of the frame: ``1800 × 1200 px at 300 ppi; the picture is reduced to 42 %``."""
    width, height = size.pixels
    return f"{width} × {height} px at {size.ppi:g} ppi; {scale_words(width / frame.width)}"


def scale_words(scale: float) -> str:
    """By how much a picture is enlarged or reduced."""
    if abs(scale - 1) < 0.0005:
        return "the picture keeps its size"
    if scale > 1:
        return (
            f"the picture is enlarged to {scale * 100:.0f} %"
            if scale >= 1.005
            else f"the picture is enlarged to {scale * 100:.1f} %"
        )
    return f"the picture is reduced to {scale * 100:.{0 if scale < 0.995 else 1}f} %"


def about_keep(other_ratio: str | None, allowance: float | None, now: float, ease: float | None) -> Note:
    """A box that the frame cannot contain, and what would help."""
    actions = []
    if other_ratio:
        actions.append(Action(label=f"Take {other_ratio}", do="ratio", ratio=other_ratio))
    if allowance is not None and allowance > now:
        # Rounded up to a whole step of the control.
        enough = min(1.0, math.ceil(allowance * 100 + 0.5) / 100)
        actions.append(Action(label=f"Allow filling up to {enough * 100:.0f} %", do="allow", value=enough))
    if ease is not None and ease < 1:
        actions.append(Action(label=f"Ease the correction to {ease * 100:.0f} %", do="ease", value=ease))
    limit = "with nothing filled" if now == 0 else f"with a fill allowance of {now * 100:.0f} %"
    helps = "" if actions else " Draw a smaller box."
    return Note(
        text=f"No frame of this shape can contain the whole of the box to keep {limit}, so it is cut.{helps}",
        actions=tuple(actions),
    )


def about_cut_by_hand() -> Note:
    """A frame that was placed so that it cuts the box to keep."""
    return Note(
        text="The frame as you placed it cuts the box to keep.",
        actions=(Action(label="Back to the best frame", do="best_frame"),),
    )


def about_aim(aim: Aim) -> Note:
    """An aim that no frame meets."""
    if aim.between:
        return Note(text="No frame lies midway between these two edges without an empty corner; it lies where it is largest.")
    where = "a crossing" if aim.meets == "crossing" else "a line"
    return Note(text=f"No frame puts the point on {where} of the guide; the frame lies where it is largest.")


def placed_words(stations: int | None) -> str:
    """How a reading was placed: ``by hand``, or ``fitted at 212 places``."""
    return "by hand" if stations is None else f"fitted at {stations} places"


def fit_words(stations: int | None, found: int = 1, of: int = 1) -> str:
    """What came of fitting one or several lines to the picture."""
    if stations is None:
        return f"There is no clear edge under {'this line, so it is' if of == 1 else 'these lines, so they are'} kept as drawn."
    if found < of:
        return f"{found} of {of} lines were fitted, at {stations} places; under the others there is no clear edge."
    return f"Fitted to the edge at {stations} places."


def bow_words(bow: Bow) -> str:
    """What kind of bow a lens has, by what it does to the border: ``barrel, 2.1 % at the corners``."""
    if bow.straight:
        return "no bow"
    corner = np.array([[bow.centre[0] + bow.unit_px, bow.centre[1]]])
    moved = float(bow.undistorted(corner)[0, 0] - corner[0, 0]) / bow.unit_px
    kind = "barrel" if moved > 0 else "pincushion"
    return f"{kind}, {abs(moved) * 100:.1f} % at the corners" if abs(moved) >= 0.0005 else "hardly any bow"


def about_bow(traced: Traced | None, readings: Sequence[SolvedReading]) -> Iterator[Note]:
    """Sentences about the traces and what they say of the lens."""
    traces = [reading for reading in readings if reading.kind == "trace" and reading.sag_px is not None]
    ids = tuple(reading.id for reading in traces)
    if traced and traced.sigma[0] is None and traces:
        yield Note(
            text="The traces say too little of the bow, so none is taken out. A line through the middle of the picture stays straight in any "
            "lens: trace something long and straight near a border.",
            readings=ids,
        )
        return
    if not traced:
        return
    bent = [r for r in traces if (r.sag_px or 0) > max(_BENT_PX, _BENT_SHARE * r.length_px)]
    for reading in sorted(bent, key=lambda r: -(r.sag_px or 0))[:2]:
        yield Note(
            text=f"Trace {reading.number} stays bent by {reading.sag_px:.1f} px when the bow is taken out: "
            + (
                "it contradicts the other traces, or is not straight in reality."
                if len(traces) > 1
                else "perhaps it is not straight in reality."
            ),
            readings=(reading.id,),
            actions=(Action(label=f"Switch off trace {reading.number}", do="switch_off", readings=(reading.id,)),),
        )


def about_readings(steering: Sequence[Steering], measured: Measured, diagonal_px: float) -> Iterator[Note]:
    """Sentences about the readings that steer and how they agree."""
    named: set[int] = set()
    if len(measured.suspects) == 1:
        named.add(measured.suspects[0])
        yield _odd_one_out(measured.suspects[0], steering, measured)
    elif measured.suspects:
        yield _contradiction([steering[i] for i in measured.suspects], steering)
    elif measured.outliers:
        named |= measured.outliers
        ids = tuple(steering[i].id for i in sorted(measured.outliers))
        yield Note(
            text=f"{_listed([steering[i].label for i in sorted(measured.outliers)])} do not fit the others. Each is off by more than its "
            "precision explains; they count for little now.",
            readings=ids,
            actions=(Action(label="Keep the readings that agree", do="best_agreeing"), _check_action(ids)),
        )
    alone = _swing_rests_on(steering, measured)
    if alone is not None and alone[0] not in named:
        yield _near_line(*alone, steering, measured)
    for index, one in enumerate(steering):
        if one.solved.sigma_deg > SHORT_SIGMA_DEG:
            yield _short(one, _decides(index, measured, len(steering)))
    yield from _repeats(steering, diagonal_px)


def about_hold(axis: Axis, held_deg: float, free_deg: float, ids: tuple[str, ...]) -> Note:
    """A held axis that the readings would move."""
    what = "plumb readings converge" if axis == "lean" else "level readings converge"
    return Note(
        text=f"The {what} as if the camera had pointed {axis_words(axis, free_deg)}, but the {axis} is held at {abs(held_deg):.2f}°.",
        readings=ids,
        actions=(Action(label=f"Let the {axis} go free", do="free", axis=axis),),
    )


def about_limit(wanted: tuple[float, float], applied: tuple[float, float], stretch: float) -> Note:
    """A warp that was limited; lean and swing in degrees."""
    return Note(
        text=f"Taking out {axis_words('lean', wanted[0])} and {axis_words('swing', wanted[1])} would stretch a side of the picture beyond "
        f"{stretch:g} times, so only {abs(applied[0]):.1f}° of lean and {abs(applied[1]):.1f}° of swing are taken out. "
        "Check the readings, ease lean and swing, or hold one of them.",
        actions=(
            Action(label="Hold the lean at 0°", do="hold", axis="lean", value=0.0),
            Action(label="Hold the swing at 0°", do="hold", axis="swing", value=0.0),
        ),
    )


def about_focal(source: str, focal35_mm: float, estimate: tuple[float, float] | None, tilted: bool) -> Note | None:
    """A focal length that is only assumed, or that the readings contradict; the estimate with its deviation in millimetres."""
    offered: tuple[Action, ...] = ()
    if estimate:
        offered = (Action(label=f"Take {estimate[0]:.0f} mm", do="use_focal", value=round(estimate[0], 1)),)
        apart = abs(estimate[0] - focal35_mm)
        if source != "assumed" and apart > max(_FOCAL_SIGMAS * estimate[1], _FOCAL_SHARE * focal35_mm):
            whose = "The file says" if source == "file" else "You stated"
            return Note(
                text=f"{whose} a focal length of {focal35_mm:.0f} mm, the readings fit {estimate[0]:.0f} ± {estimate[1]:.0f} mm. "
                "A picture that was cropped before has that effect.",
                actions=offered,
            )
    if source == "assumed" and tilted:
        says = (
            f" The readings say {estimate[0]:.0f} ± {estimate[1]:.0f} mm."
            if estimate
            else " State the right one in the Lens step if you know it."
        )
        return Note(
            text=f"The file does not say its focal length; {focal35_mm:.0f} mm is assumed. Proportions depend on it.{says}",
            actions=offered,
        )
    return None


def _odd_one_out(index: int, steering: Sequence[Steering], measured: Measured) -> Note:
    odd = steering[index]
    off = abs(math.degrees(float(measured.off_rad[index])))
    text = f"{_first_upper(odd.label)} does not fit: it is {off:.2f}° off what the others say, far more than its precision of {odd.solved.sigma_deg:.2f}°."
    levels = [other for other in steering if other.solved.reads_as == "level" and other is not odd]
    if odd.solved.reads_as == "level":
        nearer = [other for other in levels if abs(other.below_rad) < abs(odd.below_rad)]
        if nearer:
            far = min(nearer, key=lambda other: abs(other.below_rad))
            text += (
                f" It lies nearer to the camera than {far.label}; if it runs away from the camera, perspective tilts it,"
                " and the farther line is the better level."
            )
        else:
            text += " Perhaps it is not level in reality, or runs away from the camera."
    else:
        text += " Perhaps what it lies on is not upright: old walls and posts really are crooked."
    return Note(text=text, readings=(odd.id,), actions=(_off_action(odd), _check_action((odd.id,))))


def _contradiction(suspects: list[Steering], steering: Sequence[Steering]) -> Note:
    apart = max(
        (
            abs(a.solved.residual_deg - b.solved.residual_deg)
            for a, b in combinations(suspects, 2)
            if a.solved.reads_as == b.solved.reads_as
        ),
        default=max(abs(s.solved.residual_deg) for s in suspects),
    )
    text = f"{_first_upper(_listed([s.label for s in suspects]))} disagree by {apart:.2f}°, more than their precision explains, and nothing says which is right."
    levels = sorted((s for s in suspects if s.solved.reads_as == "level"), key=lambda s: abs(s.below_rad))
    actions = [_off_action(s) for s in suspects[:3]]
    if len(levels) > 1 and abs(levels[-1].below_rad) > 1.5 * abs(levels[0].below_rad):
        text += (
            f" A line that runs away from the camera is tilted by perspective, the nearer the more: {levels[0].short_label} is farther and the"
            f" better level than {levels[-1].short_label}."
        )
        actions = [
            Action(label=f"Prefer {levels[0].short_label}", do="switch_off", readings=tuple(s.id for s in levels[1:])),
            *(_off_action(s) for s in suspects[:2]),
        ]
    elif all(s.solved.reads_as == "plumb" for s in suspects):
        text += " One of the things they lie on may really be crooked. One more plumb reading would tell."
    else:
        text += " One more reading would tell; or an axis is held that must be free."
    return Note(text=text, readings=tuple(s.id for s in suspects), actions=tuple(actions))


def _swing_rests_on(steering: Sequence[Steering], measured: Measured) -> tuple[int, int] | None:
    """Indices of a near level reading that alone asks for a large swing, and of the farthest other level one."""
    swing = measured.stance.swing_rad
    if not measured.determined[2] or abs(swing) < math.radians(LARGE_SWING_DEG):
        return None
    levels = [i for i, s in enumerate(steering) if s.solved.reads_as == "level" and i not in measured.outliers]
    rests = [
        i
        for i in levels
        if not measured.without_determined[i, 2] or abs(float(measured.without[i, 2])) < _RESTS_ON_SHARE * abs(swing)
    ]
    if not rests or len(levels) < 2:
        return None
    # What runs away from the camera near it, a rail, a kerb or a quay, lies well below eye level.
    near = max(rests, key=lambda i: steering[i].below_rad)
    far = min((i for i in levels if i != near), key=lambda i: abs(steering[i].below_rad))
    if abs(steering[far].below_rad) > 0.5 * steering[near].below_rad:
        return None
    return near, far


def _near_line(near: int, far: int, steering: Sequence[Steering], measured: Measured) -> Note:
    rail, line = steering[near], steering[far]
    swing_deg = math.degrees(measured.stance.swing_rad)
    apart = abs(rail.solved.angle_deg - line.solved.angle_deg)
    return Note(
        text=f"{_first_upper(rail.label)} alone asks for a swing of {axis_words('swing', swing_deg)}. It lies near, {apart:.2f}° off {line.label}: "
        f"if it runs away from the camera, perspective tilts it, and {line.short_label}, the farther one, is the better level.",
        readings=(rail.id, line.id),
        actions=(
            Action(label=f"Prefer {line.short_label}", do="switch_off", readings=(rail.id,)),
            Action(label="Hold the swing at 0°", do="hold", axis="swing", value=0.0),
        ),
    )


def _decides(index: int, measured: Measured, count: int) -> Axis | None:
    """The axis that only this reading measures."""
    if count == 1:
        return "roll"
    axes: tuple[Axis, ...] = ("roll", "lean", "swing")
    for place, axis in enumerate(axes):
        if measured.determined[place] and not measured.without_determined[index, place]:
            return axis
    return None


def _short(reading: Steering, decides: Axis | None) -> Note:
    text = f"{_first_upper(reading.label)} is short: its angle is only good to {reading.solved.sigma_deg:.1f}°."
    text += f" Yet the {decides} rests on it alone." if decides else ""
    return Note(
        text=f"{text} A longer line along the same edge says more.",
        readings=(reading.id,),
        actions=(_off_action(reading),) if decides in ("lean", "swing") else (),
    )


def _repeats(steering: Sequence[Steering], diagonal_px: float) -> Iterator[Note]:
    for one, other in combinations(steering, 2):
        if one.solved.reads_as != other.solved.reads_as or abs(one.solved.angle_deg - other.solved.angle_deg) > _SAME_ANGLE_DEG:
            continue
        dx, dy = other.middle[0] - one.middle[0], other.middle[1] - one.middle[1]
        along = math.radians(one.solved.angle_deg) + (0 if one.solved.reads_as == "level" else math.pi / 2)
        across = abs(dx * math.sin(along) - dy * math.cos(along))
        if across < _SAME_PLACE_SHARE * diagonal_px and math.hypot(dx, dy) < (one.solved.length_px + other.solved.length_px) / 2:
            weaker = max(one, other, key=lambda s: s.solved.sigma_deg)
            yield Note(
                text=f"{_first_upper(one.label)} and {other.label} lie on nearly the same line: together they say little more than one. "
                "A line far from both would tell more.",
                readings=(one.id, other.id),
                actions=(_off_action(weaker),),
            )
            return


def _off_action(reading: Steering) -> Action:
    return Action(label=f"Switch off {reading.short_label}", do="switch_off", readings=(reading.id,))


def _check_action(ids: tuple[str, ...]) -> Action:
    return Action(label="Keep it as a check" if len(ids) == 1 else "Keep them as checks", do="make_check", readings=ids)


def _listed(words: list[str]) -> str:
    numbers = [word.removeprefix("reading ") for word in words]
    return words[0] if len(words) == 1 else f"readings {', '.join(numbers[:-1])} and {numbers[-1]}"


def _first_upper(text: str) -> str:
    return text[:1].upper() + text[1:]


def below_eye_level(rotation: Matrix, k_inverse: Matrix, middle: tuple[float, float]) -> float:
    """Angle of a source point below the horizon of a stance, in radians; negative above."""
    ray = rotation @ k_inverse @ [middle[0], middle[1], 1.0]
    return math.atan2(float(ray[1]), math.hypot(float(ray[0]), float(ray[2])))
