"""photo + recipe -> solution: pure, no pixels, milliseconds.

The solution (solution.py) holds everything that the screen draws and the export
renders: how the picture turns, where the valid picture and the frame lie, what every
reading says and what is left of it, what the frame costs, and notes in plain words.
"""

import math
from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from sequor.core import notes
from sequor.core.angles import in_words
from sequor.core.bow import Bow, Traced, bow_of, sag_px
from sequor.core.camera import (
    ASSUMED_FOCAL35_MM,
    Matrix,
    Stance,
    apply_homography,
    conjugated,
    focal35_of,
    intrinsics,
    inverse,
    rotation,
    stance_of,
)
from sequor.core.cost import kept_share, lost_shares
from sequor.core.errors import UnusableInput
from sequor.core.frame import Rectangle, border_centres, whole_pixels
from sequor.core.framing import Framed, Hand, Wanted, allowance_to_keep, best_frame, placed_frame, share_to_keep_all
from sequor.core.notes import Steering
from sequor.core.readings import check_reading, length_px, reads_as, sigma_rad, straightened, tilt_rad
from sequor.core.recipe import (
    AXES,
    USUAL_RATIOS,
    Axis,
    Ease,
    Hold,
    PhotoFacts,
    Placed,
    Point,
    Reading,
    Recipe,
    parse_ratio,
    target_ratio,
)
from sequor.core.room import Room, contains
from sequor.core.solution import (
    Note,
    Row,
    Size,
    Solution,
    SolvedAxis,
    SolvedBow,
    SolvedCost,
    SolvedFocal,
    SolvedFrame,
    SolvedReading,
    SolvedSides,
    SolvedStance,
)
from sequor.core.stance import Measured, measure_stance

SAFE_STRETCH = 3.0
"""No corner of the picture is magnified more than this many times as much as its centre."""
_PER_SIDE = 96
_MAX_TRIMS = 40
_BEST_SIGMA_DEG, _POOR_SIGMA_DEG = 0.01, 1.0


def solve(photo: PhotoFacts, recipe: Recipe) -> Solution:
    """Work out the whole correction of a photo.

    Raises
    ------
    UnusableInput
        When a reading measures nothing or lies outside the picture, or when no
        frame fits.
    """
    for number, reading in enumerate(recipe.readings, 1):
        check_reading(reading, f"Reading {number}", photo)

    source: Literal["stated", "file", "assumed"] = "stated" if recipe.focal35_mm else "file" if photo.focal35_mm else "assumed"
    focal35_mm = recipe.focal35_mm or photo.focal35_mm or ASSUMED_FOCAL35_MM
    camera = photo.model_copy(update={"focal35_mm": focal35_mm})
    k = intrinsics(camera)

    bow, traced = bow_of(photo, recipe)
    straight = tuple(straightened(reading, bow) for reading in recipe.readings)
    border = bow.undistorted(_border(photo, bow))

    steering = [(number, reading) for number, reading in enumerate(straight, 1) if reading.steers]
    measured = measure_stance(camera, tuple(reading for _, reading in steering), focal35_mm, recipe.hold, source != "assumed")
    wanted = _with_trim(measured.stance, recipe)
    turn, limited = safe_turn(_eased(measured.stance, wanted, recipe.ease), k, border)
    h, outline = _laid_out(conjugated(k, turn), recipe.proportion, photo, border)

    def eased_room(share: float) -> tuple[Room, Wanted]:
        """The room, and what is wanted in it, with only a share of roll, lean and swing taken out."""
        ease = Ease(roll=recipe.ease.roll * share, perspective=recipe.ease.perspective * share)
        less, _ = safe_turn(_eased(measured.stance, wanted, ease), k, border)
        laid, shape = _laid_out(conjugated(k, less), recipe.proportion, photo, border)
        other = Room(shape, not bow.straight)
        return other, _wanted_frame(recipe, photo, other, laid, bow, straight)

    room = Room(outline, not bow.straight)
    wanted_frame = _wanted_frame(recipe, photo, room, h, bow, straight)
    framed = best_frame(room, wanted_frame)
    hand = _hand(recipe.frame.placed, h, bow)
    best = _whole(framed.frame, wanted_frame, h, bow, photo)
    frame = _whole(placed_frame(room, wanted_frame, hand), wanted_frame, h, bow, photo) if hand else best
    back = inverse(h)
    seam = frame.corners if bow.straight else border_centres(frame)[_around(frame)]
    frame_source = bow.distorted(apply_homography(back, seam))
    kept = kept_share(outline, frame, back, bow, photo)

    places = {reading.id: index for index, (_, reading) in enumerate(steering)}
    solved = tuple(
        _solve_reading(number, reading, line, bow, h, measured, places.get(reading.id))
        for number, (reading, line) in enumerate(zip(recipe.readings, straight, strict=True), 1)
    )
    stance = _solved_stance(measured, wanted, stance_of(turn), limited, recipe.hold, camera)
    focal = SolvedFocal(
        focal35_mm=focal35_mm,
        source=source,
        estimate35_mm=focal35_of(measured.focal.focal_px, photo) if measured.focal else None,
        estimate_sigma_mm=focal35_of(measured.focal.sigma_px, photo) if measured.focal else None,
    )
    return Solution(
        stance=stance,
        focal=focal,
        bow=_solved_bow(recipe, bow, traced, border),
        homography=_rows(h),
        plane=Size(width=float(np.ptp(outline[:, 0])), height=float(np.ptp(outline[:, 1]))),
        outline=_points(outline),
        frame=SolvedFrame(x=frame.x, y=frame.y, width=int(frame.width), height=int(frame.height)),
        best=frame == best,
        frame_source=_points(frame_source),
        kept_fraction=kept,
        kept_words=notes.kept_words(kept),
        cost=_cost(recipe, room, frame, back, bow, photo),
        readings=solved,
        notes=(
            *notes.about_bow(traced, solved),
            *_notes(camera, recipe, steering, solved, measured, wanted, stance, focal),
            *_frame_notes(recipe, room, wanted_frame, framed, frame, hand is not None, eased_room),
        ),
    )


def safe_turn(turn: Matrix, k: Matrix, border: Matrix) -> tuple[Matrix, bool]:
    """A rotation with as much of its lean and swing as the picture can bear, and whether any was given up.

    The horizon of the projection, where the third row of ``K R K^-1`` is zero, is kept so
    far from the picture that no corner is magnified more than `SAFE_STRETCH` times as much as its centre.
    """
    rays = np.column_stack([border, np.ones(len(border))]) @ inverse(k).T
    stance = stance_of(turn)

    def at(share: float) -> Matrix:
        return rotation(Stance(stance.roll_rad, stance.lean_rad * share, stance.swing_rad * share))

    def safe(trial: Matrix) -> bool:
        return float(trial[2, 2]) > 0 and float((rays @ trial[2]).min()) >= float(trial[2, 2]) / SAFE_STRETCH

    if safe(turn):
        return turn, False
    low, high = 0.0, 1.0
    for _ in range(40):
        middle = (low + high) / 2
        low, high = (middle, high) if safe(at(middle)) else (low, middle)
    return at(low), True


def _border(photo: PhotoFacts, bow: Bow) -> Matrix:
    """The border of the picture as shot: its corners, and with a bow many points between them, since it becomes curved."""
    corners = Rectangle(0, 0, photo.width, photo.height).corners
    return corners if bow.straight else _dense(corners)


def _laid_out(h: Matrix, proportion: float, photo: PhotoFacts, border: Matrix) -> tuple[Matrix, Matrix]:
    """A homography moved so that the corrected picture's box begins at the origin, and the outline of the valid picture."""
    h = _with_proportion(h, proportion, photo)
    outline = apply_homography(h, border)
    origin = outline.min(axis=0)
    return np.array([[1, 0, -origin[0]], [0, 1, -origin[1]], [0, 0, 1]]) @ h, outline - origin


def _wanted_frame(recipe: Recipe, photo: PhotoFacts, room: Room, h: Matrix, bow: Bow, straight: tuple[Reading, ...]) -> Wanted:
    """What the recipe asks of the frame, in pixels of the corrected picture.

    Raises
    ------
    UnusableInput
        When the box to keep or the point of the aim lies outside the picture, or the aim names readings that are not there.
    """
    choice = recipe.frame

    def laid(points: Matrix) -> Matrix:
        return apply_homography(h, bow.undistorted(points))

    centre = laid(np.array([[photo.width / 2, photo.height / 2]]))[0]
    keep = None
    if choice.keep:
        left, top = max(0.0, choice.keep.left), max(0.0, choice.keep.top)
        right, bottom = min(float(photo.width), choice.keep.right), min(float(photo.height), choice.keep.bottom)
        if right - left < 1 or bottom - top < 1:
            raise UnusableInput("The box to keep lies outside the picture; draw it over what must not be cut.")
        corners = Rectangle(left, top, right - left, bottom - top).corners
        around = laid(corners if bow.straight else _dense(corners))
        low, high = around.min(axis=0), around.max(axis=0)
        keep = Rectangle(float(low[0]), float(low[1]), float(high[0] - low[0]), float(high[1] - low[1]))
    at, axis = (0.0, 0.0), None
    if choice.aim and choice.aim.point:
        x, y = choice.aim.point
        if not (0 <= x <= photo.width and 0 <= y <= photo.height):
            raise UnusableInput("The point to aim at lies outside the picture.")
        at = _pair(laid(np.array([[x, y]]))[0])
    elif choice.aim and choice.aim.between:
        at, axis = _midway(choice.aim.between, recipe, straight, h)
    return Wanted(
        ratio=target_ratio(choice, photo),
        preferred=_pair(centre),
        allowance=recipe.corners.allowance,
        keep=keep,
        aim=choice.aim,
        aim_at=at,
        aim_axis=axis,
    )


def _midway(between: tuple[str, str], recipe: Recipe, straight: tuple[Reading, ...], h: Matrix) -> tuple[Point, int]:
    """The middle between two readings in the corrected picture, and the axis along which it counts."""
    known = {reading.id: line for reading, line in zip(recipe.readings, straight, strict=True)}
    if any(name not in known for name in between):
        raise UnusableInput("The frame is to be centred between two readings, one of which is no longer there; choose two again.")
    one, other = (known[name] for name in between)
    if reads_as(one) != reads_as(other):
        raise UnusableInput(
            "The frame can be centred between two plumb edges or between two level ones, not between one of each."
        )
    middles = [apply_homography(h, np.array(line.ends)).mean(axis=0) for line in (one, other)]
    return _pair((middles[0] + middles[1]) / 2), 0 if reads_as(one) == "plumb" else 1


def _hand(placed: Placed | None, h: Matrix, bow: Bow) -> Hand | None:
    """A frame placed by hand, in pixels of the corrected picture."""
    if placed is None:
        return None
    at = apply_homography(h, bow.undistorted(np.array([placed.at])))[0]
    return Hand(_pair(at), placed.anchor, placed.width, placed.height, placed.past)


def _whole(frame: Rectangle, wanted: Wanted, h: Matrix, bow: Bow, photo: PhotoFacts) -> Rectangle:
    """A frame of whole pixels; of one that nothing may be filled in, every pixel is covered by the source."""
    whole = whole_pixels(frame, wanted.ratio)
    if bow.straight or wanted.allowance > 0:
        return whole
    # The outline is known at many points, not everywhere: what sticks out between them is cut off pixel by pixel.
    for _ in range(_MAX_TRIMS):
        source = bow.distorted(apply_homography(inverse(h), border_centres(whole)))
        if bool((source >= 0).all() and (source <= [photo.width, photo.height]).all()):
            break
        smaller = Rectangle(whole.x + 1, whole.y + 1, whole.width - 2, whole.height - 2)
        whole = whole_pixels(smaller, wanted.ratio)
    return whole


def _cost(recipe: Recipe, room: Room, frame: Rectangle, back: Matrix, bow: Bow, photo: PhotoFacts) -> SolvedCost:
    lost = lost_shares(room.outline, frame, back, bow, photo)
    empty = room.empty_share(frame)
    fill = empty if recipe.corners.allowance > 0 and empty * frame.width * frame.height >= 0.5 else 0.0
    size = recipe.frame.print_size
    return SolvedCost(
        lost=SolvedSides(**lost),
        lost_words=notes.lost_words(lost),
        fill_fraction=fill,
        fill_words=notes.fill_share_words(fill, recipe.corners.method),
        keep_all_fraction=share_to_keep_all(room, frame.width / frame.height),
        print_words=notes.print_words(size, frame) if size else "",
    )


def _frame_notes(
    recipe: Recipe,
    room: Room,
    wanted: Wanted,
    framed: Framed,
    frame: Rectangle,
    by_hand: bool,
    eased_room: Callable[[float], tuple[Room, Wanted]],
) -> Iterator[Note]:
    """Sentences about what the frame cannot do, and what would help."""
    if wanted.keep and by_hand and not contains(frame, wanted.keep, 1.0):
        yield notes.about_cut_by_hand()
    elif wanted.keep and not framed.keeps:
        yield notes.about_keep(
            other_ratio=_ratio_that_keeps(recipe, room, wanted),
            allowance=allowance_to_keep(room, wanted.ratio, wanted.keep) if wanted.ratio else None,
            now=wanted.allowance,
            ease=_ease_that_keeps(recipe, eased_room),
        )
    if wanted.aim and not framed.meets and not by_hand:
        yield notes.about_aim(wanted.aim)


def _ratio_that_keeps(recipe: Recipe, room: Room, wanted: Wanted) -> str | None:
    """Of the usual ratios that let the frame contain the box, the one most like the present one."""
    now = wanted.ratio or 1.0
    trials = sorted(USUAL_RATIOS, key=lambda text: abs(math.log(parse_ratio(text) / now)))
    for text in trials:
        trial = replace(wanted, ratio=parse_ratio(text), aim=None)
        if text != recipe.frame.ratio and best_frame(room, trial).keeps:
            return text
    return None


def _ease_that_keeps(recipe: Recipe, eased_room: Callable[[float], tuple[Room, Wanted]]) -> float | None:
    """The largest share of the correction that lets the frame contain the box, in steps of a hundredth; None when none does."""

    def keeps(share: float) -> bool:
        room, wanted = eased_room(share)
        return best_frame(room, replace(wanted, aim=None)).keeps

    if not keeps(0.0):
        return None
    low, high = 0, 100
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (middle, high) if keeps(middle / 100) else (low, middle)
    return low / 100


def _dense(corners: Matrix) -> Matrix:
    """Many points along the sides of a quadrilateral."""
    share = (np.arange(_PER_SIDE) / _PER_SIDE)[None, :, None]
    dense: Matrix = (corners[:, None] * (1 - share) + np.roll(corners, -1, axis=0)[:, None] * share).reshape(-1, 2)
    return dense


def _pair(point: Matrix) -> Point:
    return float(point[0]), float(point[1])


def _around(frame: Rectangle) -> NDArray[np.intp]:
    """Indices into the border centres of a frame, some of them, in order around it."""
    wide, high = int(frame.width), int(frame.height)
    across, down = np.linspace(0, wide - 1, _PER_SIDE).astype(int), np.linspace(0, high - 1, _PER_SIDE).astype(int)
    return np.concatenate([across, 2 * wide + high + down, wide + across[::-1], 2 * wide + down[::-1]])


def _solved_bow(recipe: Recipe, bow: Bow, traced: Traced | None, border: Matrix) -> SolvedBow:
    low, high = border.min(axis=0), border.max(axis=0)
    return SolvedBow(
        source="none" if bow.straight else recipe.bow.source,
        polynomial=bow.polynomial,
        centre=bow.centre,
        unit_px=bow.unit_px,
        sigma=traced.sigma if traced else (None, None),
        box=(float(low[0]), float(low[1]), float(high[0] - low[0]), float(high[1] - low[1])),
        lens=recipe.bow.lens if recipe.bow.source == "database" else "",
        words=notes.bow_words(bow),
    )


def _with_trim(measured: Stance, recipe: Recipe) -> Stance:
    trim = recipe.trim
    return Stance(
        # Remainder, so that turns of more than half a circle come back as the short way round.
        roll_rad=math.remainder(measured.roll_rad + math.radians(trim.roll_deg), 2 * math.pi),
        lean_rad=measured.lean_rad + math.radians(trim.lean_deg),
        swing_rad=measured.swing_rad + math.radians(trim.swing_deg),
    )


def _eased(measured: Stance, wanted: Stance, ease: Ease) -> Matrix:
    """The corrective rotation that leaves the picture as if the camera had stood with the rest of what was measured."""
    rest = Stance(
        roll_rad=(1 - ease.roll) * measured.roll_rad,
        lean_rad=(1 - ease.perspective) * measured.lean_rad,
        swing_rad=(1 - ease.perspective) * measured.swing_rad,
    )
    turn: Matrix = rotation(rest).T @ rotation(wanted)
    return turn


def _with_proportion(h: Matrix, proportion: float, photo: PhotoFacts) -> Matrix:
    """The homography followed by a stretch of height against width about the centre, of the same area."""
    across, down = proportion**-0.5, proportion**0.5
    cx, cy = photo.width / 2, photo.height / 2
    stretched: Matrix = np.array([[across, 0, cx - across * cx], [0, down, cy - down * cy], [0, 0, 1]]) @ h
    return stretched


def _solved_stance(
    measured: Measured, wanted: Stance, applied: Stance, limited: bool, hold: Hold, camera: PhotoFacts
) -> SolvedStance:
    k = intrinsics(camera)
    at_border = {"roll": 0.0, "lean": k[0, 2] / k[0, 0], "swing": k[1, 2] / k[1, 1]}

    def axis(place: int, name: Axis) -> SolvedAxis:
        held = getattr(hold, f"{name}_deg") is not None
        known = measured.determined[place]
        sigma = measured.sigma_rad[place] if known else None
        found, as_shot = (getattr(stance, f"{name}_rad") for stance in (measured.stance, wanted))
        applied_deg = math.degrees(getattr(applied, f"{name}_rad"))
        as_shot_deg = math.degrees(as_shot)
        return SolvedAxis(
            applied_deg=applied_deg,
            measured_deg=math.degrees(found) if held or known else None,
            as_shot_deg=as_shot_deg,
            sigma_deg=None if sigma is None else math.degrees(sigma),
            held=held,
            words=notes.applied_words(name, applied_deg),
            # The camera's own roll is the opposite of the turn that takes it out.
            as_shot_words=notes.axis_words(name, -as_shot_deg if name == "roll" else as_shot_deg),
            sigma_words=notes.sigma_words(name, sigma, held, camera.width, at_border[name]),
        )

    roll, lean, swing = (axis(place, name) for place, name in enumerate(AXES))
    return SolvedStance(roll=roll, lean=lean, swing=swing, limited=limited)


def _solve_reading(
    number: int, reading: Reading, line: Reading, bow: Bow, h: Matrix, measured: Measured, place: int | None
) -> SolvedReading:
    """What a reading says; ``line`` is the same reading in the straight picture."""
    direction = reads_as(line, h)
    angle_deg = math.degrees(tilt_rad(line, direction=direction))
    residual_deg = math.degrees(tilt_rad(line, h, direction))
    bent = _bent(reading)
    sigma_deg = math.degrees(sigma_rad(reading))
    worth = math.log(_POOR_SIGMA_DEG / sigma_deg) / math.log(_POOR_SIGMA_DEG / _BEST_SIGMA_DEG)
    return SolvedReading(
        id=reading.id,
        number=number,
        kind=reading.kind,
        reads_as=direction,
        angle_deg=angle_deg,
        sigma_deg=sigma_deg,
        worth=min(1.0, max(0.0, worth)),
        residual_deg=residual_deg,
        off_deg=math.degrees(float(measured.off_rad[place])) if place is not None and len(measured.off_rad) > 1 else None,
        outlier=place is not None and (place in measured.outliers or measured.suspects == (place,)),
        length_px=length_px(reading),
        words=in_words(angle_deg),
        residual_words=in_words(residual_deg),
        fitted=reading.fitted is not None,
        placed_words=notes.placed_words(reading.fitted.stations if reading.fitted else None),
        sag_before_px=None if bent is None else sag_px(bent),
        sag_px=None if bent is None else sag_px(apply_homography(h, bow.undistorted(bent))),
    )


def _bent(reading: Reading) -> Matrix | None:
    """Points that tell how a reading bends: a trace's own, or the ends and the middle of a line fitted to an edge."""
    if reading.kind == "trace":
        return np.array(reading.points)
    if reading.fitted and reading.fitted.middle:
        return np.array([reading.points[0], reading.fitted.middle, reading.points[1]])
    return None


def _notes(
    camera: PhotoFacts,
    recipe: Recipe,
    steering: list[tuple[int, Reading]],
    solved: tuple[SolvedReading, ...],
    measured: Measured,
    wanted: Stance,
    stance: SolvedStance,
    focal: SolvedFocal,
) -> list[Note]:
    k = intrinsics(camera)
    turn, back = rotation(measured.stance), inverse(k)
    seen = []
    for number, reading in steering:
        middle = tuple(float(v) for v in np.mean(reading.points, axis=0))
        seen.append(
            Steering(
                solved[number - 1],
                reading.name,
                (middle[0], middle[1]),
                notes.below_eye_level(turn, back, (middle[0], middle[1])),
            )
        )
    said = []
    if stance.limited:
        said.append(
            notes.about_limit(
                (math.degrees(wanted.lean_rad), math.degrees(wanted.swing_rad)), (stance.lean_deg, stance.swing_deg), SAFE_STRETCH
            )
        )
    said.extend(notes.about_readings(seen, measured, math.hypot(camera.width, camera.height)))
    said.extend(_about_holds(camera, recipe, [reading for _, reading in steering], focal.focal35_mm))
    estimate = (focal.estimate35_mm, focal.estimate_sigma_mm) if focal.estimate35_mm and focal.estimate_sigma_mm else None
    tilted = max(abs(stance.lean_deg), abs(stance.swing_deg)) > 2
    about = notes.about_focal(focal.source, focal.focal35_mm, estimate, tilted)
    return said + [about] if about else said


def _about_holds(camera: PhotoFacts, recipe: Recipe, readings: list[Reading], focal35_mm: float) -> list[Note]:
    """Notes on held axes that the readings would move by much."""
    said = []
    for name, kind in (("lean", "plumb"), ("swing", "level")):
        held = getattr(recipe.hold, f"{name}_deg")
        ids = tuple(reading.id for reading in readings if reading.direction == kind)
        if held is None or len(ids) < 2:
            continue
        place = AXES.index("lean" if name == "lean" else "swing")
        freed = measure_stance(camera, tuple(readings), focal35_mm, recipe.hold.model_copy(update={f"{name}_deg": None}))
        free_deg = math.degrees(getattr(freed.stance, f"{name}_rad"))
        apart = abs(free_deg - held)
        if freed.determined[place] and apart > max(1.0, 3 * math.degrees(freed.sigma_rad[place])):
            said.append(notes.about_hold("lean" if name == "lean" else "swing", held, free_deg, ids))
    return said


def _rows(matrix: Matrix) -> tuple[Row, Row, Row]:
    a, b, c = ((float(row[0]), float(row[1]), float(row[2])) for row in matrix)
    return a, b, c


def _points(array: Matrix) -> tuple[Point, ...]:
    return tuple((float(x), float(y)) for x, y in array)
