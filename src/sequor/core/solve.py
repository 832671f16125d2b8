"""photo + recipe -> solution: pure, no pixels, milliseconds.

The solution (solution.py) holds everything that the screen draws and the export
renders: how the picture turns, where the valid picture and the frame lie, what every
reading says and what is left of it, what the frame costs, and notes in plain words.
"""

import math
from typing import Literal

import numpy as np

from sequor.core import notes
from sequor.core.angles import in_words
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
from sequor.core.frame import Rectangle, largest_free_rectangle, largest_rectangle, polygon_area, whole_pixels
from sequor.core.notes import Steering
from sequor.core.readings import check_reading, length_px, reads_as, sigma_rad, tilt_rad
from sequor.core.recipe import AXES, Axis, Ease, Hold, PhotoFacts, Point, Reading, Recipe, target_ratio
from sequor.core.solution import Note, Row, Size, Solution, SolvedAxis, SolvedFocal, SolvedFrame, SolvedReading, SolvedStance
from sequor.core.stance import Measured, measure_stance

SAFE_STRETCH = 3.0
"""No corner of the picture is magnified more than this many times as much as its centre."""
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

    steering = [(number, reading) for number, reading in enumerate(recipe.readings, 1) if reading.steers]
    measured = measure_stance(camera, tuple(reading for _, reading in steering), focal35_mm, recipe.hold, source != "assumed")
    wanted = _with_trim(measured.stance, recipe)
    turn, limited = safe_turn(_eased(measured.stance, wanted, recipe.ease), k)
    h = _with_proportion(conjugated(k, turn), recipe.proportion, photo)

    outline = apply_homography(h, Rectangle(0, 0, photo.width, photo.height).corners)
    origin = outline.min(axis=0)
    h = np.array([[1, 0, -origin[0]], [0, 1, -origin[1]], [0, 0, 1]]) @ h
    outline = outline - origin

    centre = apply_homography(h, np.array([[photo.width / 2, photo.height / 2]]))[0]
    preferred = (float(centre[0]), float(centre[1]))
    ratio = target_ratio(recipe.frame, photo)
    largest = largest_rectangle(outline, ratio, preferred) if ratio else largest_free_rectangle(outline, preferred)
    frame = whole_pixels(largest, ratio)
    frame_source = apply_homography(inverse(h), frame.corners)
    kept = min(1.0, polygon_area(frame_source) / (photo.width * photo.height))

    places = {reading.id: index for index, (_, reading) in enumerate(steering)}
    solved = tuple(
        _solve_reading(number, reading, h, measured, places.get(reading.id)) for number, reading in enumerate(recipe.readings, 1)
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
        homography=_rows(h),
        plane=Size(width=float(np.ptp(outline[:, 0])), height=float(np.ptp(outline[:, 1]))),
        outline=_points(outline),
        frame=SolvedFrame(x=frame.x, y=frame.y, width=int(frame.width), height=int(frame.height)),
        frame_source=_points(frame_source),
        kept_fraction=kept,
        kept_words=notes.kept_words(kept),
        readings=solved,
        notes=tuple(_notes(camera, recipe, steering, solved, measured, wanted, stance, focal)),
    )


def safe_turn(turn: Matrix, k: Matrix) -> tuple[Matrix, bool]:
    """A rotation with as much of its lean and swing as the picture can bear, and whether any was given up.

    The horizon of the projection, where the third row of ``K R K^-1`` is zero, is kept so
    far from the picture that no corner is magnified more than `SAFE_STRETCH` times as much as its centre.
    """
    half_width, half_height = k[0, 2] / k[0, 0], k[1, 2] / k[1, 1]
    rays = np.array([[x, y, 1.0] for x in (-half_width, half_width) for y in (-half_height, half_height)])
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


def _solve_reading(number: int, reading: Reading, h: Matrix, measured: Measured, place: int | None) -> SolvedReading:
    direction = reads_as(reading, h)
    angle_deg = math.degrees(tilt_rad(reading, direction=direction))
    residual_deg = math.degrees(tilt_rad(reading, h, direction))
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
    )


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
        ids = tuple(reading.id for reading in readings if reading.kind == kind)
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
