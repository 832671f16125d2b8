"""photo + recipe -> solution: pure, no pixels, milliseconds.

The solution (solution.py) holds everything that the screen draws and the export
renders: how the picture turns, where the valid picture and the frame lie, what every
reading says and what is left of it, what the frame costs, and notes in plain words.
"""

import math
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
from sequor.core.frame import (
    Rectangle,
    border_centres,
    largest_free_in_curve,
    largest_free_rectangle,
    largest_in_curve,
    largest_rectangle,
    polygon_area,
    whole_pixels,
)
from sequor.core.notes import Steering
from sequor.core.readings import check_reading, length_px, reads_as, sigma_rad, straightened, tilt_rad
from sequor.core.recipe import AXES, Axis, Ease, Hold, PhotoFacts, Point, Reading, Recipe, target_ratio
from sequor.core.solution import (
    Note,
    Row,
    Size,
    Solution,
    SolvedAxis,
    SolvedBow,
    SolvedFocal,
    SolvedFrame,
    SolvedReading,
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
    h = _with_proportion(conjugated(k, turn), recipe.proportion, photo)

    outline = apply_homography(h, border)
    origin = outline.min(axis=0)
    h = np.array([[1, 0, -origin[0]], [0, 1, -origin[1]], [0, 0, 1]]) @ h
    outline = outline - origin

    centre = apply_homography(h, np.array([[photo.width / 2, photo.height / 2]]))[0]
    preferred = (float(centre[0]), float(centre[1]))
    ratio = target_ratio(recipe.frame, photo)
    frame = _largest_frame(outline, ratio, preferred, h, bow, photo)
    seam = frame.corners if bow.straight else border_centres(frame)[_around(frame)]
    frame_source = bow.distorted(apply_homography(inverse(h), seam))
    kept = min(1.0, polygon_area(frame_source) / (photo.width * photo.height))

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
        frame_source=_points(frame_source),
        kept_fraction=kept,
        kept_words=notes.kept_words(kept),
        readings=solved,
        notes=(
            *notes.about_bow(traced, solved),
            *_notes(camera, recipe, steering, solved, measured, wanted, stance, focal),
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
    if bow.straight:
        return corners
    share = (np.arange(_PER_SIDE) / _PER_SIDE)[None, :, None]
    dense: Matrix = (corners[:, None] * (1 - share) + np.roll(corners, -1, axis=0)[:, None] * share).reshape(-1, 2)
    return dense


def _largest_frame(
    outline: Matrix, ratio: float | None, preferred: tuple[float, float], h: Matrix, bow: Bow, photo: PhotoFacts
) -> Rectangle:
    """The largest frame of whole pixels, every one of which is covered by the source."""
    if bow.straight:
        return whole_pixels(
            largest_rectangle(outline, ratio, preferred) if ratio else largest_free_rectangle(outline, preferred), ratio
        )
    largest = largest_in_curve(outline, ratio, preferred) if ratio else largest_free_in_curve(outline, preferred)
    frame = whole_pixels(largest, ratio)
    # The outline is known at many points, not everywhere: what sticks out between them is cut off pixel by pixel.
    for _ in range(_MAX_TRIMS):
        source = bow.distorted(apply_homography(inverse(h), border_centres(frame)))
        if bool((source >= 0).all() and (source <= [photo.width, photo.height]).all()):
            return frame
        smaller = Rectangle(frame.x + 1, frame.y + 1, frame.width - 2, frame.height - 2)
        frame = whole_pixels(smaller, ratio)
    return frame


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
