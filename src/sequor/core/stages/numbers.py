"""The account in numbers: stance, focal length, lens, bending, readings, frame and its cost."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sequor.core.account.next_line import next_line
from sequor.core.account.readings import account_of, drawn_straight
from sequor.core.camera import Matrix, focal35_of, stance_of
from sequor.core.frame.cost import kept_share, lost_shares
from sequor.core.frame.outline import Outline
from sequor.core.frame.placing import share_to_keep_all
from sequor.core.frame.rectangle import Rectangle, border_centres
from sequor.core.frame.strokes import marked, under_any
from sequor.core.lens_choice import FoundLensSource
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import AXES, Axis, Box, Point, Recipe
from sequor.core.solved import (
    MarkedStroke,
    Marks,
    NextLine,
    Row,
    Size,
    Solved,
    SolvedAxis,
    SolvedBend,
    SolvedCost,
    SolvedFocal,
    SolvedFrame,
    SolvedGrid,
    SolvedLens,
    SolvedMesh,
    SolvedReading,
    SolvedShape,
    SolvedSides,
    SolvedStance,
)
from sequor.core.stages.framing import Framed
from sequor.core.stages.setting import Camera, FoundLens, Readings
from sequor.core.stages.turning import Mapped, Turned
from sequor.core.stance.staying import Staying
from sequor.core.warp.bending import Bending
from sequor.core.warp.map import Warp

_SEAM_POINTS = 96
"""Points along each side of the frame that are told in source pixels where its sides are bent."""
_FINER = 3
"""Parts of each side of a cell of the mesh in the grid that the screen draws by: between its
places it is off by 3 pixels of 6000 at most where a turn of 5 degrees is bent away whole
(tests/core/test_bending.py), half a pixel of a screen; at rest the server's own pixels are seen."""
_COUNTED_PX = 600
"""The longer side of the frame on which the share under strokes is counted."""
_SEEN_PX = 0.5
"""Less than half a pixel of empty area in the whole frame is rounding."""


@dataclass(frozen=True, eq=False)
class Stages:
    """What the stages made, in their order."""

    photo: PhotoFacts
    recipe: Recipe
    camera: Camera
    lens: FoundLens
    readings: Readings
    standing: Staying
    turned: Turned
    map: Mapped
    framed: Framed


def numbers_of(made: Stages) -> Solved:
    """The account of all stages, in numbers."""
    outline, frame, warp = made.map.outline.points, made.framed.frame, made.map.warp
    strokes = tuple(marked(mend, warp, mend.copied_from) for mend in made.recipe.mends)
    return Solved(
        stance=_stance(made),
        focal=_focal(made),
        lens=_lens(made.recipe, made.lens),
        bend=_bend(made),
        homography=_rows(warp.homography),
        plane=Size(width=float(np.ptp(outline[:, 0])), height=float(np.ptp(outline[:, 1]))),
        outline=_points(outline),
        frame=_solved_frame(frame),
        face=_solved_frame(made.framed.face),
        kept_measured=made.framed.kept_measured,
        best=made.framed.face == made.framed.best,
        frame_source=_points(warp.to_source(_seam(frame, warp))),
        kept_fraction=kept_share(outline, frame, warp, made.photo),
        mended_fraction=_mended(strokes, frame),
        cost=_cost(made.recipe, made.framed, made.map.outline, warp, made.photo),
        marks=_marks(made.recipe, warp, made.photo, strokes),
        shape=_shape(made.recipe, warp),
        readings=_accounts(made),
        next_line=_next_line(made),
    )


def _stance(made: Stages) -> SolvedStance:
    roll, lean, swing = (_axis(made, place, axis) for place, axis in enumerate(AXES))
    limited, front = made.turned.limited, made.standing.measured.front
    return SolvedStance(roll=roll, lean=lean, swing=swing, limited=limited, front=front)


def _axis(made: Stages, place: int, axis: Axis) -> SolvedAxis:
    measured, standing, recipe = made.standing.measured, made.standing, made.recipe
    held = getattr(recipe.hold, f"{axis}_deg") is not None
    known = measured.determined[place] or held or not standing.stay[place]
    found, wanted, applied = (
        math.degrees(getattr(stance, f"{axis}_rad"))
        for stance in (measured.stance, standing.wanted, stance_of(made.turned.turn))
    )
    trim_deg = getattr(recipe.trim, f"{axis}_deg")
    sigma_deg = math.degrees(measured.sigma_rad[place]) if known and not held else None
    if axis == "roll" and recipe.trim.by_eye_sigma_deg is not None:
        sigma_deg = recipe.trim.by_eye_sigma_deg
    return SolvedAxis(
        applied_deg=applied,
        measured_deg=found if known else None,
        as_shot_deg=wanted if known else trim_deg,
        sigma_deg=sigma_deg,
        held=held,
        trimmed=abs(trim_deg) > 1e-9,
        left_in=known and standing.stay[place],
        checked=measured.checked[place],
        decided=not held and getattr(recipe.leave_in, axis) is not None,
    )


def _focal(made: Stages) -> SolvedFocal:
    estimate, photo = made.standing.measured.focal, made.photo
    return SolvedFocal(
        focal35_mm=made.camera.focal35_mm,
        source=made.camera.source,
        estimate35_mm=focal35_of(estimate.focal_px, photo) if estimate else None,
        estimate_sigma_mm=focal35_of(estimate.sigma_px, photo) if estimate else None,
    )


def _lens(recipe: Recipe, lens: FoundLens) -> SolvedLens:
    distortion, traced, box = lens.distortion, lens.traced, Rectangle.around(lens.border)
    chosen = recipe.lens.source
    by_file = chosen == "traces" and traced is None
    source: FoundLensSource = "file" if by_file else chosen
    return SolvedLens(
        source="none" if distortion.straight else source,
        polynomial=distortion.polynomial,
        tangential=distortion.tangential,
        centre=distortion.centre,
        unit_px=distortion.unit_px,
        sigma=dict(traced.sigma) if traced else {},
        traces=sum(reading.kind == "trace" and reading.active for reading in recipe.readings),
        corner_shift=0.0 if distortion.straight else distortion.corner_shift(),
        box=(box.x, box.y, box.width, box.height),
        border=() if distortion.straight else _points(lens.border),
        name=recipe.lens.name if chosen == "database" else "",
    )


def _accounts(made: Stages) -> tuple[SolvedReading, ...]:
    """What every reading says."""
    places = {one.reading.id: place for place, one in enumerate(made.readings.steering)}
    return tuple(
        account_of(one, made.map.warp, made.standing.measured, places.get(one.reading.id))
        for one in made.readings.every
    )


def _next_line(made: Stages) -> NextLine | None:
    """The line that would tell most, with where it is drawn."""
    lines, measured = made.readings.lines, made.standing.measured
    found = next_line(made.photo, made.camera.focal35_mm, lines, measured)
    if found is None:
        return None
    drawn = drawn_straight(made.map.warp, np.array(found.points))
    return found.model_copy(update={"corrected_points": drawn})


def _bend(made: Stages) -> SolvedBend | None:
    bent, asked, face = made.map.bent, made.recipe.bend, made.framed.face
    bending = made.map.warp.bending
    if bent is None or bending is None:
        return None
    open_before, open_now = (
        share_to_keep_all(outline, face.width / face.height)
        for outline in (made.turned.outline, made.map.outline)
    )
    return SolvedBend(
        lines=asked.lines * bent.share,
        corners=asked.corners * bent.share,
        share=bent.share,
        max_stretch=bent.max_stretch,
        limit=asked.max_stretch,
        max_turn_deg=math.degrees(bent.max_turn_rad),
        min_jacobian=bent.min_jacobian,
        max_jacobian=bent.max_jacobian,
        bent_share=bent.bent_share,
        closes_fraction=max(0.0, open_before - open_now),
        grid=_grid(bending),
        mesh=SolvedMesh(
            left=bending.left,
            top=bending.top,
            cell=bending.cell,
            rows=bending.shift.shape[0],
            columns=bending.shift.shape[1],
            shift=tuple(bending.shift.ravel().tolist()),
        ),
    )


def _grid(bending: Bending) -> SolvedGrid:
    """The grid that the picture is drawn by: its mesh, each cell in parts."""
    rows, columns = bending.rows * _FINER + 1, bending.columns * _FINER + 1
    step = bending.cell / _FINER
    x, y = np.meshgrid(np.arange(columns), np.arange(rows))
    places = np.column_stack([x.ravel(), y.ravel()]) * step + [bending.left, bending.top]
    i, j = np.meshgrid(np.arange(bending.columns) + 0.5, np.arange(bending.rows) + 0.5)
    middles = np.column_stack([i.ravel(), j.ravel()]) * bending.cell + [bending.left, bending.top]
    growth = np.linalg.det(bending.jacobian(middles))
    return SolvedGrid(
        left=bending.left,
        top=bending.top,
        step=step,
        rows=rows,
        columns=columns,
        places=tuple(bending.bent(places).round(1).ravel().tolist()),
        coarse=_FINER,
        growth=tuple(growth.round(4).tolist()),
    )


def _cost(
    recipe: Recipe, framed: Framed, outline: Outline, warp: Warp, photo: PhotoFacts
) -> SolvedCost:
    frame, face = framed.frame, framed.face
    size, empty = recipe.frame.print_size, outline.empty_share(frame)
    seen = empty * frame.width * frame.height >= _SEEN_PX
    return SolvedCost(
        lost=SolvedSides(**lost_shares(outline.points, frame, warp, photo)),
        fill_fraction=empty if recipe.fills and seen else 0.0,
        keep_all_fraction=share_to_keep_all(outline, face.width / face.height),
        print_scale=size.pixels[0] / face.width if size else None,
    )


def _mended(strokes: tuple[MarkedStroke, ...], frame: Rectangle) -> float:
    """The share of the frame that is made anew by hand."""
    if not strokes:
        return 0.0
    scale = _COUNTED_PX / max(frame.width, frame.height)
    size = max(1, round(frame.width * scale)), max(1, round(frame.height * scale))
    return float(under_any(strokes, _solved_frame(frame), size).mean())


def _solved_frame(frame: Rectangle) -> SolvedFrame:
    return SolvedFrame(x=frame.x, y=frame.y, width=int(frame.width), height=int(frame.height))


def _marks(
    recipe: Recipe, warp: Warp, photo: PhotoFacts, strokes: tuple[MarkedStroke, ...]
) -> Marks:
    """What belongs to the frame, and the picture's corners, where the screen draws them."""

    def vertices(box: Box) -> Matrix:
        return Rectangle(box.left, box.top, box.right - box.left, box.bottom - box.top).vertices

    def around(box: Box) -> tuple[Point, ...]:
        square = vertices(box)
        straight = warp.distortion.undistorted(np.concatenate([square, square[:1]]))
        return drawn_straight(warp, straight)

    frame = recipe.frame
    aimed = frame.aim.point if frame.aim else None
    whole = Rectangle(0.0, 0.0, float(photo.width), float(photo.height))
    return Marks(
        vertices=_points(warp.to_corrected(whole.vertices)),
        keep=around(frame.keep) if frame.keep else (),
        keep_vertices=_points(warp.to_corrected(vertices(frame.keep))) if frame.keep else (),
        aim=_points(warp.to_corrected(np.array([aimed])))[0] if aimed else None,
        avoid=tuple(around(box) for box in recipe.fill.avoid),
        still=tuple(around(box) for box in recipe.bend.still),
        brushed=tuple(marked(stroke, warp) for stroke in recipe.bend.brushed),
        true_shape=_points(warp.to_corrected(np.array(recipe.true_shape)))
        if recipe.true_shape
        else (),
        mends=strokes,
    )


def _shape(recipe: Recipe, warp: Warp) -> SolvedShape | None:
    """How a thing that is as high as it is wide is stretched.

    The middles of opposite sides are ends of conjugate diameters of the ellipse that its circle
    has become; its extents follow from them.
    """
    if recipe.true_shape is None:
        return None
    left, top, right, bottom = warp.to_corrected(np.array(recipe.true_shape))
    wide, high = np.hypot(right - left, bottom - top)
    if not (wide > 0 and high > 0):
        return None
    times = float(wide / high)
    return SolvedShape(times_as_wide=times, true_proportion=recipe.proportion * times)


def _seam(frame: Rectangle, warp: Warp) -> Matrix:
    """The frame's corners, or points along its sides where those are bent as shot."""
    if warp.straight:
        return frame.vertices
    return border_centres(frame)[_around(frame)]


def _around(frame: Rectangle) -> NDArray[np.intp]:
    """Indices into the border centres of a frame, some of them, in order around it."""
    wide, high = int(frame.width), int(frame.height)
    across = np.linspace(0, wide - 1, _SEAM_POINTS).astype(int)
    down = np.linspace(0, high - 1, _SEAM_POINTS).astype(int)
    right, left = 2 * wide + high + down, 2 * wide + down[::-1]
    return np.concatenate([across, right, wide + across[::-1], left])


def _rows(matrix: Matrix) -> tuple[Row, Row, Row]:
    a, b, c = ((float(row[0]), float(row[1]), float(row[2])) for row in matrix)
    return a, b, c


def _points(array: Matrix) -> tuple[Point, ...]:
    return tuple((x, y) for x, y in array.tolist())
