"""Words for single numbers: angles, shares, sizes, counts, and what is done about an axis."""

import math
from typing import Literal

from sequor.core.account.camera_offset import CameraOffset
from sequor.core.edges.guide import HeldAgainst
from sequor.core.language import listed, mark, mark_in, number, tr, tr_in, tr_plural
from sequor.core.names import named
from sequor.core.photo import PhotoFacts
from sequor.core.print_size import PrintSize
from sequor.core.recipe import Axis, FillMethod, FrameChoice, WhiteChoice, WhiteSource
from sequor.core.solved import NextLine, SolvedFrame, SolvedLens, SolvedStance
from sequor.core.white import colour_temperature

Turning = Literal["clockwise", "anticlockwise", ""]
LEAST_SIGMA_DEG = 0.01
"""Nothing is said to be surer than this: nobody sees less, and nothing is ever quite sure."""
_SLIGHT_DEG = 0.05
"""Lean or swing below this are not spoken of on the contact sheet."""
_LIGHTS: dict[WhiteSource, str] = {
    "daylight": mark("daylight"),
    "cloud": mark("a clouded sky"),
    "shade": mark("open shade"),
    "lamp": mark("incandescent lamps"),
    "spot": mark("the light of a grey spot"),
}
_POINTED: dict[Axis, tuple[str, str]] = {
    "lean": (mark_in("pointed", "up"), mark_in("pointed", "down")),
    "swing": (mark_in("pointed", "right"), mark_in("pointed", "left")),
}
"""Where the camera pointed: with the positive angle first."""
_THIRD = 1 / 3
"""What lies beyond the middle third is at a side."""


def turning(angle_deg: float, places: int = 2) -> Turning:
    """Which way an angle goes; empty for one that is shown as zero."""
    if round(abs(angle_deg), places) == 0:
        return ""
    return "clockwise" if angle_deg > 0 else "anticlockwise"


def size_words(angle_deg: float, places: int = 2) -> str:
    """How large an angle is: ``1.33°``."""
    return f"{number(abs(angle_deg), f'.{places}f')}°"


def pixels(size_px: float) -> str:
    """A length in the picture: ``2.3 px``."""
    return f"{number(size_px, '.1f')} px"


def in_words(angle_deg: float, places: int = 2) -> str:
    """An angle with its direction: ``1.33° clockwise``, ``0.20° anticlockwise``, ``0.00°``."""
    size, way = size_words(angle_deg, places), turning(angle_deg, places)
    return f"{size} {named(way)}" if way else size


def turn_words(roll_deg: float) -> str:
    """What is done to the picture: ``turned 1.33° anticlockwise``, or ``not turned``."""
    return tr("turned {angle}", angle=in_words(roll_deg)) if turning(roll_deg) else tr("not turned")


def axis_words(axis: Axis, angle_deg: float) -> str:
    """The camera's own turn: ``16.00° up``, ``28.00° right``, ``1.33° clockwise``, ``0.00°``."""
    if axis == "roll":
        return in_words(angle_deg)
    if not turning(angle_deg):
        return size_words(angle_deg)
    positive, negative = _POINTED[axis]
    way = tr_in("pointed", positive if angle_deg > 0 else negative)
    return f"{size_words(angle_deg)} {way}"


def perspective_words(lean_deg: float, swing_deg: float) -> str:
    """What lean and swing are taken out: ``16.00° up, 28.00° right taken out``; may be empty."""
    angles: tuple[tuple[Axis, float], ...] = (("lean", lean_deg), ("swing", swing_deg))
    parts = [axis_words(axis, deg) for axis, deg in angles if abs(deg) >= _SLIGHT_DEG]
    return tr("{angles} taken out", angles=", ".join(parts)) if parts else ""


def applied_words(axis: Axis, angle_deg: float) -> str:
    """What is taken out of the picture about an axis."""
    if axis == "roll":
        return turn_words(angle_deg)
    if not turning(angle_deg):
        return tr("no {axis} taken out", axis=named(axis))
    return tr("{angles} taken out", angles=axis_words(axis, angle_deg))


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
        return tr("held by hand")
    if sigma_deg is None:
        return tr("no reading yet") if axis == "roll" else tr("not measured, taken as none")
    sigma_deg = max(sigma_deg, LEAST_SIGMA_DEG)
    unchecked = "" if checked else tr("; unchecked")
    if axis == "roll":
        off = math.radians(sigma_deg) * across_px
        seen = tr("under 1 px") if off < 1 else tr("{off:.0f} px", off=off)
        return tr(
            "sure to {sigma_deg:.2f}°, {seen} side to side{unchecked}",
            sigma_deg=sigma_deg,
            seen=seen,
            unchecked=unchecked,
        )
    # A plumb line at the side of the picture, or a level one at its top, is tilted by this much.
    said = (
        mark("sure to {sigma_deg:.2f}°, lines at the sides to {border_deg:.2f}°{unchecked}")
        if axis == "lean"
        else mark("sure to {sigma_deg:.2f}°, lines at the top to {border_deg:.2f}°{unchecked}")
    )
    border_deg = sigma_deg * at_border
    return tr(said, sigma_deg=sigma_deg, border_deg=border_deg, unchecked=unchecked)


_ALL = 1 - 1e-9


def share_words(fraction: float) -> str:
    """A share of the picture: ``93.4 %``; ``all`` is said of nothing less."""
    return tr("all") if fraction > _ALL else percent_words(min(fraction, 0.999))


def percent_words(fraction: float) -> str:
    """A share to a tenth of a per cent: ``3.1 %``."""
    return tr("{percent:.1f} %", percent=fraction * 100)


def kept_words(fraction: float) -> str:
    """What the frame costs: ``keeps 93.4 % of the picture``."""
    return tr("keeps {share} of the picture", share=share_words(fraction))


def lost_words(kept_fraction: float, lost: dict[str, float]) -> str:
    """What is lost at each side: ``lost left 1.2, top 2.0 %``."""
    if kept_fraction > _ALL:
        return tr("nothing is lost")
    said = [
        f"{named(side)} {number(share * 100, '.1f')}"
        for side, share in lost.items()
        if share >= 0.0005
    ]
    return tr("lost {sides} %", sides=", ".join(said)) if said else tr("under 0.1 % is lost")


def filled_words(share: float, method: FillMethod) -> str:
    """What must be filled, briefly: ``3.1 % of the frame is filled``."""
    if share <= 0:
        return tr("nothing empty in its corners")
    amount = percent_words(share) if share >= 0.001 else tr("under 0.1 %")
    if method == "transparent":
        return tr("{amount} of the frame is empty", amount=amount)
    return tr("{amount} of the frame is filled", amount=amount)


def mended_words(count: int, share: float) -> str:
    """What is made anew by hand: ``2 places mended, 0.4 % of the frame``."""
    if not count:
        return ""
    places = tr_plural("{count} place mended", "{count} places mended", count)
    if share <= 0:
        return tr("{places}, none of it in the frame", places=places)
    amount = percent_words(share) if share >= 0.001 else tr("under 0.1 %")
    return tr("{places}, {amount} of the frame", places=places, amount=amount)


def fill_words(share: float, method: FillMethod) -> str:
    """What must be filled, and how."""
    if share <= 0:
        return tr("nothing is filled")
    how = {
        "patches": tr("from the surroundings"),
        "mirror": tr("by mirroring"),
        "colour": tr("with a colour"),
        "transparent": tr("and stays transparent"),
    }
    return f"{filled_words(share, method)} {how[method]}"


def print_words(size: PrintSize, scale: float) -> str:
    """What a print size asks: ``1800 × 1200 px at 300 ppi; the picture is reduced to 42 %``."""
    width, height = size.pixels
    return tr(
        "{width} × {height} px at {ppi:g} ppi; {scale}",
        width=width,
        height=height,
        ppi=size.ppi,
        scale=scale_words(scale),
    )


def margin_words(choice: FrameChoice, frame: SolvedFrame) -> str:
    """What a margin adds: ``3 cm all round; 66 × 46 cm with it``, or in pixels."""
    if (size := choice.print_size) is not None:
        length = choice.margin * size.shorter
        return tr(
            "{length} {unit} all round; {width:g} × {height:g} {unit} with it",
            length=number(length, ".3g"),
            unit=named(size.unit),
            width=round(size.width + 2 * length, 2),
            height=round(size.height + 2 * length, 2),
        )
    return tr(
        "{share} % of the shorter side all round; {width} × {height} px with it",
        share=number(choice.margin * 100, ".3g"),
        width=frame.width,
        height=frame.height,
    )


def scale_words(scale: float) -> str:
    """By how much a picture is enlarged or reduced."""
    if abs(scale - 1) < 0.0005:
        return tr("the picture keeps its size")
    # Within half a per cent of one a decimal tells it from 100 %.
    places = 1 if 0.995 < scale < 1.005 else 0
    percent = number(scale * 100, f".{places}f")
    if scale > 1:
        return tr("the picture is enlarged to {percent} %", percent=percent)
    return tr("the picture is reduced to {percent} %", percent=percent)


def placed_words(stations: int | None, told: bool = False) -> str:
    """How a reading was placed: ``by hand``, ``fitted at 212 places``, ``told by the camera``."""
    if told:
        return tr("told by the camera")
    if stations is None:
        return tr("by hand")
    return tr("fitted at {stations} places", stations=stations)


def lens_kind(lens: SolvedLens) -> str:
    """What kind of bow a lens has, by what it does to the border: ``barrel``."""
    if not any(lens.polynomial):
        return tr("no bow")
    if abs(lens.corner_shift) < 0.0005:
        return tr("hardly any bow")
    return tr("barrel") if lens.corner_shift > 0 else tr("pincushion")


def lens_words(lens: SolvedLens) -> str:
    """The same with how far it moves the corners: ``barrel, 2.1 % at the corners``."""
    if not any(lens.polynomial) or abs(lens.corner_shift) < 0.0005:
        return lens_kind(lens)
    by_file = tr(", as the file states it") if lens.source == "file" else ""
    return tr(
        "{kind}, {corner_shift:.1f} % at the corners{by_file}",
        kind=lens_kind(lens),
        corner_shift=abs(lens.corner_shift) * 100,
        by_file=by_file,
    )


def white_words(white: WhiteChoice) -> str:
    """For what light a raw picture is developed: ``for the light of a grey spot, 4,310 K``."""
    if white.chromaticity is None:
        return tr("with the white balance that the camera chose")
    kelvins = f"{number(round(colour_temperature(white.chromaticity), -1), ',.0f')}\u00a0K"
    return tr("for {light}, {kelvins}", light=tr(_LIGHTS[white.source]), kelvins=kelvins)


def camera_offset_words(found: CameraOffset) -> str:
    """What other pictures say of the camera's level."""
    among = tr(
        "In {pictures} other pictures of this set lines tell the roll", pictures=found.pictures
    )
    if not found.constant:
        return tr(
            "{among}: the camera's level is good to {sigma_deg:.1f}° in them.",
            among=among,
            sigma_deg=found.sigma_deg,
        )
    off, sure = size_words(found.offset_deg), size_words(found.sigma_deg, 1)
    return tr(
        "{among}: the camera's level is off by {off} in them, and good to {sure} without that.",
        among=among,
        off=off,
        sure=sure,
    )


WAYS: dict[Axis, tuple[str, str, str]] = {
    "roll": (mark("clockwise"), mark("cw or acw"), mark("acw")),
    "lean": (mark("up"), mark("up or down"), mark("down")),
    "swing": ("right", mark("left or right"), "left"),
}


def guide_words(held: HeldAgainst) -> str:
    """What a guide shows."""
    if held.angle_deg is None:
        return {"beside": tr("beside the picture"), "no_edge": tr("no clear edge")}.get(
            held.found, ""
        )
    return in_words(held.angle_deg)


def risk_words(side: str, count: int) -> str:
    """A side at which filling is risky."""
    return tr(
        "{count} straight edges cross the seam at the {side}: filling is risky "
        "there. Crop at the {side} instead, by moving that edge of the frame "
        "inwards.",
        count=count,
        side=named(side),
    )


def counted_words(pixels: int, empty: int, filled: int) -> str:
    """What came of counting the pixels of a frame."""
    said = tr("{empty} of {pixels} pixels are empty", empty=empty, pixels=_grouped(pixels))
    if not filled:
        return f"{said}."
    return tr("{said}; {filled} were filled.", said=said, filled=_grouped(filled))


def next_line_words(line: NextLine, photo: PhotoFacts) -> str:
    """What the line that would tell most would tell, and where it would lie."""
    one = tr(
        "One more {kind} line {place}, where the dots lie,",
        kind=named(line.kind),
        place=_place_words(line, photo),
    )
    if line.axis is None or line.from_deg is None or line.to_deg is None:
        return tr("{one} would tell which of them is wrong.", one=one)
    return tr(
        "{one} would make the {axis} sure to {to_deg:.2f}° instead of {from_deg:.2f}°.",
        one=one,
        axis=named(line.axis),
        to_deg=max(line.to_deg, LEAST_SIGMA_DEG),
        from_deg=line.from_deg,
    )


def _place_words(line: NextLine, photo: PhotoFacts) -> str:
    (ax, ay), (bx, by) = line.points
    across, down = (ax + bx) / 2 / photo.width, (ay + by) / 2 / photo.height
    side = "left" if across < _THIRD else "right" if across > 1 - _THIRD else ""
    height = "top" if down < _THIRD else "bottom" if down > 1 - _THIRD else ""
    where = " ".join(filter(None, (height, side)))
    return tr("at the {where}", where=named(where)) if where else tr("in the middle")


def _grouped(count: int) -> str:
    return f"{count:,}".replace(",", " ")


def focal_words(focal35_mm: float, sigma_mm: float) -> str:
    """A focal length with its deviation, with as many places as that has, and never no deviation.

    The estimate is never quite sure (`focal`).
    """
    places = max(0, math.ceil(-math.log10(sigma_mm)))
    return tr(
        "{focal35_mm} ± {sigma_mm} mm",
        focal35_mm=number(focal35_mm, f".{places}f"),
        sigma_mm=number(sigma_mm, f".{places}f"),
    )


def coefficient_words(lens: SolvedLens) -> tuple[str, ...]:
    """What the traces say of the lens, each with its deviation, which is never none."""
    values = {name: lens.polynomial[2 * power + 1] for power, name in enumerate(("k1", "k2", "k3"))}
    values |= dict(zip(("p1", "p2"), lens.tangential, strict=True))

    def told(name: str) -> str:
        places = max(4, math.ceil(-math.log10(lens.sigma[name])))
        sign, spec = "−" if values[name] < 0 else "+", f".{places}f"
        size, sigma = number(abs(values[name]), spec), number(lens.sigma[name], spec)
        return f"{name} {sign}{size} ± {sigma}"

    found = [told(name) for name in values if name in lens.sigma]
    if "centre_x" in lens.sigma:
        off = [lens.sigma[name] * lens.unit_px for name in ("centre_x", "centre_y")]
        x, y = lens.centre
        found.append(
            tr(
                "centre {x:.1f} ± {off:.1f}, {y:.1f} ± {off2:.1f} px",
                x=x,
                off=off[0],
                y=y,
                off2=off[1],
            )
        )
    return tuple(found)


def placing_words(best: bool, kept_measured: bool) -> str:
    """Where the frame lies."""
    if not best:
        return tr("lies where you placed it")
    if kept_measured:
        return tr("keeps what you measured; the largest one would cut it")
    return tr("lies where it is largest")


def staying_words(stance: SolvedStance) -> str:
    """Why lean and swing are taken out or stay; nothing where neither is measured or the
    photographer has decided.
    """
    solved = {"lean": stance.lean, "swing": stance.swing}
    chosen = [n for n, one in solved.items() if one.sigma_deg is not None and not one.decided]
    axes = listed([named(name) for name in chosen])
    if not chosen:
        return ""
    if all(solved[name].left_in for name in chosen):
        scene = tr("a front, but doubtful ones") if stance.front else tr("a landscape")
        return tr_plural(
            "The readings are those of {scene}: {axes} is left in.",
            "The readings are those of {scene}: {axes} are left in.",
            len(chosen),
            scene=scene,
            axes=axes,
        )
    if not any(solved[name].left_in for name in chosen):
        return tr_plural(
            "The readings are those of a front: {axes} is taken out.",
            "The readings are those of a front: {axes} are taken out.",
            len(chosen),
            axes=axes,
        )
    return tr("Of lean and swing only what the readings show of a front is taken out.")
