"""Words for single numbers: angles, shares, sizes, counts, and what is done about an axis."""

import math
from typing import Literal

from sequor.core.account.camera_offset import CameraOffset
from sequor.core.edges.guide import HeldAgainst
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Axis, FillMethod, PrintSize, WhiteChoice, WhiteSource
from sequor.core.solved import NextLine, SolvedLens, SolvedStance
from sequor.core.white import colour_temperature

Turning = Literal["clockwise", "anticlockwise", ""]
LEAST_SIGMA_DEG = 0.01
"""Nothing is said to be surer than this: nobody sees less, and nothing is ever quite sure."""
_SLIGHT_DEG = 0.05
"""Lean or swing below this are not spoken of on the contact sheet."""
_LIGHTS: dict[WhiteSource, str] = {
    "daylight": "daylight",
    "cloud": "a clouded sky",
    "shade": "open shade",
    "lamp": "incandescent lamps",
    "spot": "the light of a grey spot",
}
_THIRD = 1 / 3
"""What lies beyond the middle third is at a side."""


def turning(angle_deg: float, places: int = 2) -> Turning:
    """Which way an angle goes; empty for one that is shown as zero."""
    if round(abs(angle_deg), places) == 0:
        return ""
    return "clockwise" if angle_deg > 0 else "anticlockwise"


def size_words(angle_deg: float, places: int = 2) -> str:
    """How large an angle is: ``1.33°``."""
    return f"{abs(angle_deg):.{places}f}°"


def in_words(angle_deg: float, places: int = 2) -> str:
    """An angle with its direction: ``1.33° clockwise``, ``0.20° anticlockwise``, ``0.00°``."""
    return " ".join(filter(None, (size_words(angle_deg, places), turning(angle_deg, places))))


def turn_words(roll_deg: float) -> str:
    """What is done to the picture: ``turned 1.33° anticlockwise``, or ``not turned``."""
    return f"turned {in_words(roll_deg)}" if turning(roll_deg) else "not turned"


def axis_words(axis: Axis, angle_deg: float) -> str:
    """The camera's own turn: ``16.00° up``, ``28.00° right``, ``1.33° clockwise``, ``0.00°``."""
    if axis == "roll":
        return in_words(angle_deg)
    if not turning(angle_deg):
        return size_words(angle_deg)
    positive, negative = ("up", "down") if axis == "lean" else ("right", "left")
    return f"{size_words(angle_deg)} {positive if angle_deg > 0 else negative}"


def perspective_words(lean_deg: float, swing_deg: float) -> str:
    """What lean and swing are taken out: ``16.00° up, 28.00° right taken out``; may be empty."""
    angles: tuple[tuple[Axis, float], ...] = (("lean", lean_deg), ("swing", swing_deg))
    parts = [axis_words(axis, deg) for axis, deg in angles if abs(deg) >= _SLIGHT_DEG]
    return f"{', '.join(parts)} taken out" if parts else ""


def applied_words(axis: Axis, angle_deg: float) -> str:
    """What is taken out of the picture about an axis."""
    if axis == "roll":
        return turn_words(angle_deg)
    if not turning(angle_deg):
        return f"no {axis} taken out"
    return f"{axis_words(axis, angle_deg)} taken out"


def sigma_words(
    axis: Axis,
    sigma_deg: float | None,
    held: bool,
    checked: bool,
    across_px: float,
    at_border: float,
) -> str:
    """How sure an axis is, by what can be seen: at the far end of the picture, or at its border.

    ``at_border`` is the half size of the picture in focal lengths, along which lean or swing turns
    lines. What is not ``checked`` by other lines is as sure as each of them is right.
    """
    if held:
        return "held by hand"
    if sigma_deg is None:
        return "no reading yet" if axis == "roll" else "not measured, taken as none"
    sigma_deg = max(sigma_deg, LEAST_SIGMA_DEG)
    unchecked = "" if checked else "; unchecked"
    if axis == "roll":
        off = math.radians(sigma_deg) * across_px
        seen = "under 1 px" if off < 1 else f"{off:.0f} px"
        return f"sure to {sigma_deg:.2f}°, {seen} side to side{unchecked}"
    # A plumb line at the side of the picture, or a level one at its top, is tilted by this much.
    where = "sides" if axis == "lean" else "top"
    return (
        f"sure to {sigma_deg:.2f}°, lines at the {where} to {sigma_deg * at_border:.2f}°{unchecked}"
    )


_ALL = 1 - 1e-9


def share_words(fraction: float) -> str:
    """A share of the picture: ``93.4 %``; ``all`` is said of nothing less."""
    return "all" if fraction > _ALL else f"{min(fraction * 100, 99.9):.1f} %"


def kept_words(fraction: float) -> str:
    """What the frame costs: ``keeps 93.4 % of the picture``."""
    return f"keeps {share_words(fraction)} of the picture"


def lost_words(kept_fraction: float, lost: dict[str, float]) -> str:
    """What is lost at each side: ``lost left 1.2, top 2.0 %``."""
    if kept_fraction > _ALL:
        return "nothing is lost"
    said = [f"{side} {share * 100:.1f}" for side, share in lost.items() if share >= 0.0005]
    return f"lost {', '.join(said)} %" if said else "under 0.1 % is lost"


def filled_words(share: float, method: FillMethod) -> str:
    """What must be filled, briefly: ``3.1 % of the frame is filled``."""
    if share <= 0:
        return "nothing empty in its corners"
    amount = f"{share * 100:.1f} %" if share >= 0.001 else "under 0.1 %"
    return f"{amount} of the frame is {'empty' if method == 'transparent' else 'filled'}"


def fill_words(share: float, method: FillMethod) -> str:
    """What must be filled, and how."""
    if share <= 0:
        return "nothing is filled"
    how = {
        "patches": "from the surroundings",
        "mirror": "by mirroring",
        "colour": "with a colour",
        "transparent": "and stays transparent",
    }
    return f"{filled_words(share, method)} {how[method]}"


def print_words(size: PrintSize, scale: float) -> str:
    """What a print size asks: ``1800 × 1200 px at 300 ppi; the picture is reduced to 42 %``."""
    width, height = size.pixels
    return f"{width} × {height} px at {size.ppi:g} ppi; {scale_words(scale)}"


def scale_words(scale: float) -> str:
    """By how much a picture is enlarged or reduced."""
    if abs(scale - 1) < 0.0005:
        return "the picture keeps its size"
    # Within half a per cent of one a decimal tells it from 100 %.
    places = 1 if 0.995 < scale < 1.005 else 0
    return f"the picture is {'enlarged' if scale > 1 else 'reduced'} to {scale * 100:.{places}f} %"


def placed_words(stations: int | None, told: bool = False) -> str:
    """How a reading was placed: ``by hand``, ``fitted at 212 places``, ``told by the camera``."""
    if told:
        return "told by the camera"
    return "by hand" if stations is None else f"fitted at {stations} places"


def lens_kind(lens: SolvedLens) -> str:
    """What kind of bow a lens has, by what it does to the border: ``barrel``."""
    if not any(lens.polynomial):
        return "no bow"
    if abs(lens.corner_shift) < 0.0005:
        return "hardly any bow"
    return "barrel" if lens.corner_shift > 0 else "pincushion"


def lens_words(lens: SolvedLens) -> str:
    """The same with how far it moves the corners: ``barrel, 2.1 % at the corners``."""
    if not any(lens.polynomial) or abs(lens.corner_shift) < 0.0005:
        return lens_kind(lens)
    by_file = ", as the file states it" if lens.source == "file" else ""
    return f"{lens_kind(lens)}, {abs(lens.corner_shift) * 100:.1f} % at the corners{by_file}"


def white_words(white: WhiteChoice) -> str:
    """For what light a raw picture is developed: ``for the light of a grey spot, 4,310 K``."""
    if white.chromaticity is None:
        return "with the white balance that the camera chose"
    kelvins = f"{round(colour_temperature(white.chromaticity), -1):,.0f}\u00a0K"
    return f"for {_LIGHTS[white.source]}, {kelvins}"


def camera_offset_words(found: CameraOffset) -> str:
    """What other pictures say of the camera's level."""
    among = f"In {found.pictures} other pictures of this set lines tell the roll"
    if not found.constant:
        return f"{among}: the camera's level is good to {found.sigma_deg:.1f}° in them."
    off, sure = size_words(found.offset_deg), f"{found.sigma_deg:.1f}°"
    return f"{among}: the camera's level is off by {off} in them, and good to {sure} without that."


WAYS: dict[Axis, tuple[str, str, str]] = {
    "roll": ("clockwise", "cw or acw", "acw"),
    "lean": ("up", "up or down", "down"),
    "swing": ("right", "left or right", "left"),
}


def guide_words(held: HeldAgainst) -> str:
    """What a guide shows."""
    if held.angle_deg is None:
        return {"beside": "beside the picture", "no_edge": "no clear edge"}.get(held.found, "")
    return in_words(held.angle_deg)


def risk_words(side: str, count: int) -> str:
    """A side at which filling is risky."""
    return (
        f"{count} straight edges cross the seam at the {side}: filling is risky there. Crop at the "
        f"{side} instead, by moving that edge of the frame inwards."
    )


def counted_words(pixels: int, empty: int, filled: int) -> str:
    """What came of counting the pixels of a frame."""
    said = f"{empty} of {_grouped(pixels)} pixels are empty"
    return f"{said}; {_grouped(filled)} were filled." if filled else f"{said}."


def next_line_words(line: NextLine, photo: PhotoFacts) -> str:
    """What the line that would tell most would tell, and where it would lie."""
    one = f"One more {line.kind} line {_place_words(line, photo)}, where the dots lie,"
    if line.axis is None or line.from_deg is None or line.to_deg is None:
        return f"{one} would tell which of them is wrong."
    return (
        f"{one} would make the {line.axis} sure to {max(line.to_deg, LEAST_SIGMA_DEG):.2f}° "
        f"instead of {line.from_deg:.2f}°."
    )


def _place_words(line: NextLine, photo: PhotoFacts) -> str:
    (ax, ay), (bx, by) = line.points
    across, down = (ax + bx) / 2 / photo.width, (ay + by) / 2 / photo.height
    side = "left" if across < _THIRD else "right" if across > 1 - _THIRD else ""
    height = "top" if down < _THIRD else "bottom" if down > 1 - _THIRD else ""
    where = " ".join(filter(None, (height, side)))
    return f"at the {where}" if where else "in the middle"


def _grouped(count: int) -> str:
    return f"{count:,}".replace(",", " ")


def focal_words(focal35_mm: float, sigma_mm: float) -> str:
    """A focal length with its deviation, with as many places as that has, and never no deviation.

    The estimate is never quite sure (`focal`).
    """
    places = max(0, math.ceil(-math.log10(sigma_mm)))
    return f"{focal35_mm:.{places}f} ± {sigma_mm:.{places}f} mm"


def coefficient_words(lens: SolvedLens) -> tuple[str, ...]:
    """What the traces say of the lens, each with its deviation, which is never none."""
    values = {name: lens.polynomial[2 * power + 1] for power, name in enumerate(("k1", "k2", "k3"))}
    values |= dict(zip(("p1", "p2"), lens.tangential, strict=True))

    def told(name: str) -> str:
        places = max(4, math.ceil(-math.log10(lens.sigma[name])))
        value = f"{'−' if values[name] < 0 else '+'}{abs(values[name]):.{places}f}"
        return f"{name} {value} ± {lens.sigma[name]:.{places}f}"

    found = [told(name) for name in values if name in lens.sigma]
    if "centre_x" in lens.sigma:
        off = [lens.sigma[name] * lens.unit_px for name in ("centre_x", "centre_y")]
        x, y = lens.centre
        found.append(f"centre {x:.1f} ± {off[0]:.1f}, {y:.1f} ± {off[1]:.1f} px")
    return tuple(found)


def placing_words(best: bool, kept_measured: bool) -> str:
    """Where the frame lies."""
    if not best:
        return "lies where you placed it"
    if kept_measured:
        return "keeps what you measured; the largest one would cut it"
    return "lies where it is largest"


def staying_words(stance: SolvedStance) -> str:
    """Why lean and swing are taken out or stay; nothing where neither is measured or the
    photographer has decided.
    """
    solved = {"lean": stance.lean, "swing": stance.swing}
    chosen = [n for n, one in solved.items() if one.sigma_deg is not None and not one.decided]
    named = " and ".join(chosen)
    are = "are" if len(chosen) > 1 else "is"
    if not chosen:
        return ""
    if all(solved[name].left_in for name in chosen):
        scene = "a front, but doubtful ones" if stance.front else "a landscape"
        return f"The readings are those of {scene}: {named} {are} left in."
    if not any(solved[name].left_in for name in chosen):
        return f"The readings are those of a front: {named} {are} taken out."
    return "Of lean and swing only what the readings show of a front is taken out."
