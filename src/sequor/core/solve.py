"""photo + recipe -> solution: pure, no pixels, milliseconds.

The order is that of the job: the focal length, the lens, the readings, the stance, how much of it
is taken out, the map, the frame, the account of it all. Each step has a room of its own.
"""

import math
from collections.abc import Iterator
from dataclasses import replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from sequor.core.account.diagnosis import (
    Steering,
    about_focal,
    about_holds,
    about_limit,
    about_readings,
    about_side,
    about_traces,
    about_what_is_open,
)
from sequor.core.account.next_line import next_line
from sequor.core.account.readings import Undistorted, account_of, drawn_straight
from sequor.core.bend.advice import about_bending
from sequor.core.bend.asked import asked_of
from sequor.core.bend.bend import Bent, bend
from sequor.core.camera import (
    Matrix,
    apply_homography,
    conjugated,
    focal35_of,
    focal_of,
    intrinsics,
    stance_of,
)
from sequor.core.frame.advice import about_frame
from sequor.core.frame.by_hand import placed_frame
from sequor.core.frame.convex import ConvexOutline
from sequor.core.frame.cost import kept_share, lost_shares
from sequor.core.frame.curved import CurvedOutline
from sequor.core.frame.outline import Outline
from sequor.core.frame.placing import Wanted, share_to_keep_all
from sequor.core.frame.rectangle import Rectangle, border_centres, whole_pixels
from sequor.core.frame.wanted import around_readings, framing, hand_of, wanted_frame
from sequor.core.lens.chosen import distortion_of
from sequor.core.lens.distortion import Distortion
from sequor.core.lens.plumb_line import Traced
from sequor.core.notes import Note
from sequor.core.readings.reading import check_reading, undistorted_reading
from sequor.core.recipe import AXES, Axis, Box, Ease, PhotoFacts, Point, Recipe, target_ratio
from sequor.core.solution import Solution
from sequor.core.solved import (
    Marks,
    NextLine,
    Row,
    Size,
    SolvedAxis,
    SolvedBend,
    SolvedCost,
    SolvedFocal,
    SolvedFrame,
    SolvedGrid,
    SolvedLens,
    SolvedMesh,
    SolvedReading,
    SolvedSides,
    SolvedStance,
)
from sequor.core.stance.staying import standing
from sequor.core.warp.bending import Bending
from sequor.core.warp.ease import scaled
from sequor.core.warp.limits import SAFE_STRETCH, safe_turn
from sequor.core.warp.map import Warp, border_of, laid_out

_MAX_SHRINKS = 40
"""A frame in a curved outline is drawn in by a pixel at each side at most so often; chords between
the outline's points stay within a pixel of it, so once is usual."""
_REMEMBERED = 64
"""Solutions that are kept: a draft is solved again for its report, its guide, its view."""
_SEAM_POINTS = 96
"""Points along each side of the frame that are told in source pixels where its sides are bent."""
_FINER = 3
"""Parts of each side of a cell of the mesh in the grid that the screen draws by: between its
places it is off by 3 pixels of 6000 at most where a turn of 5 degrees is bent away whole
(tests/core/test_bending.py), half a pixel of a screen; at rest the server's own pixels are seen."""
_SEEN_PX = 0.5
"""Less than half a pixel of empty area in the whole frame is rounding."""


@lru_cache(maxsize=_REMEMBERED)
def solve(photo: PhotoFacts, recipe: Recipe) -> Solution:
    """Work out the whole correction of a photo.

    Raises
    ------
    UnusableInput
        When a reading measures nothing or lies outside the picture, or when no frame fits.
    """
    for number, reading in enumerate(recipe.readings, 1):
        check_reading(reading, number, photo)
    return _Job(photo, recipe).solution()


class _Job:
    """One solving, step by step; every attribute is set once, in order."""

    def __init__(self, photo: PhotoFacts, recipe: Recipe) -> None:
        self.photo, self.recipe = photo, recipe
        # The camera.
        self.focal_source, self.focal35_mm = focal_of(photo, recipe)
        self.camera = photo.model_copy(update={"focal35_mm": self.focal35_mm})
        self.k = intrinsics(self.camera)
        # The lens, and everything without its distortion.
        self.distortion, self.traced = distortion_of(photo, recipe)
        self.border = border_of(photo, self.distortion)
        self.readings = tuple(
            Undistorted(number, reading, undistorted_reading(reading, self.distortion))
            for number, reading in enumerate(recipe.readings, 1)
        )
        # How the camera stood, and how much of that is taken out.
        self.steering = [one for one in self.readings if one.line.steers]
        self.lines = tuple(one.line for one in self.steering)
        known = self.focal_source != "assumed"
        self.standing = standing(self.camera, self.lines, recipe, known)
        self.measured = self.standing.measured
        # The map, and the frame in what it makes of the picture.
        self.turn, self.limited, self.warp, self.outline = self.warped(recipe.ease)
        self.unbent = self.outline
        self.bent: Bent | None = None
        if recipe.bend.bends:
            self.bent, self.warp, self.outline = self.bend()
        self.asked = wanted_frame(recipe, photo, self.warp, self.readings)
        measured = around_readings(self.readings, self.warp)
        keeps = recipe.frame.keep_measured and recipe.frame.placed is None
        self.framed, self.kept_measured = framing(
            self.outline, self.asked, measured if keeps else None
        )
        self.best = self.whole(self.framed.frame)
        hand = hand_of(recipe.frame.placed, self.warp)
        self.by_hand = hand is not None
        self.frame = self.whole(placed_frame(self.outline, self.asked, hand)) if hand else self.best

    def warped(self, ease: Ease) -> tuple[Matrix, bool, Warp, Outline]:
        """The turn with an ease, whether it was limited, and the map and the outline it gives."""
        turn, limited = safe_turn(self.standing.turn(ease), self.k, self.border)
        moved = conjugated(self.k, turn)
        h, border = laid_out(moved, self.recipe.proportion, self.photo, self.border)
        straight = self.distortion.straight
        outline = ConvexOutline(border) if straight else CurvedOutline(border)
        return turn, limited, Warp(h, self.distortion), outline

    def bend(self) -> tuple[Bent, Warp, Outline]:
        """How the picture bends, and the map and the outline then."""
        border = border_of(self.photo, self.distortion, dense=True)
        turned = apply_homography(self.warp.homography, border)
        own = self.recipe.frame.ratio == "original" and not self.recipe.frame.print_size
        ratio = target_ratio(self.recipe.frame, self.photo) if own else None
        asked = asked_of(self.recipe, self.photo, self.warp, turned, self.readings, ratio)
        bent = bend(asked)
        outline = bent.bending.bent(turned)
        low = outline.min(axis=0)
        # The box around the outline begins at the origin, as without bending.
        moved = replace(self.warp, bending=bent.bending.moved(-low))
        return bent, moved, CurvedOutline(outline - low)

    def eased_framing(self, share: float) -> tuple[Outline, Wanted]:
        """The outline, and what is wanted in it, with a share of the correction taken out."""
        _, _, warp, outline = self.warped(scaled(self.recipe.ease, share))
        return outline, wanted_frame(self.recipe, self.photo, warp, self.readings)

    def whole(self, frame: Rectangle) -> Rectangle:
        """A frame of whole pixels, all of them covered by the source when nothing may be filled."""
        whole = whole_pixels(frame, self.asked.ratio)
        if self.warp.straight or self.asked.allowance > 0:
            return whole
        # The outline is known at many points, not everywhere: what sticks out between them is cut
        # off pixel by pixel.
        size = [self.photo.width, self.photo.height]
        for _ in range(_MAX_SHRINKS):
            source = self.warp.to_source(border_centres(whole))
            if bool((source >= 0).all() and (source <= size).all()):
                break
            smaller = Rectangle(whole.x + 1, whole.y + 1, whole.width - 2, whole.height - 2)
            whole = whole_pixels(smaller, self.asked.ratio)
        return whole

    def solution(self) -> Solution:
        """The account of it all."""
        stance, focal, readings = self.stance(), self.focal(), self.accounts()
        outline, frame = self.outline.points, self.frame
        return Solution(
            stance=stance,
            focal=focal,
            lens=_solved_lens(self.recipe, self.distortion, self.traced, self.border),
            bend=self.solved_bend(),
            homography=_rows(self.warp.homography),
            plane=Size(width=float(np.ptp(outline[:, 0])), height=float(np.ptp(outline[:, 1]))),
            outline=_points(outline),
            frame=SolvedFrame(
                x=frame.x, y=frame.y, width=int(frame.width), height=int(frame.height)
            ),
            kept_measured=self.kept_measured,
            best=frame == self.best,
            frame_source=_points(self.warp.to_source(self.seam())),
            kept_fraction=kept_share(outline, frame, self.warp, self.photo),
            cost=self.cost(),
            marks=_marks(self.recipe, self.warp),
            readings=readings,
            notes=tuple(self.notes(stance, focal, readings)),
            next_line=self.next_line(),
        )

    def next_line(self) -> NextLine | None:
        """The line that would tell most, with where it is drawn."""
        found = next_line(self.photo, self.focal35_mm, self.lines, self.measured)
        if found is None:
            return None
        drawn = drawn_straight(self.warp, np.array(found.points))
        return found.model_copy(update={"corrected_points": drawn})

    def stance(self) -> SolvedStance:
        """The three axes."""
        roll, lean, swing = (self.axis(place, axis) for place, axis in enumerate(AXES))
        return SolvedStance(
            roll=roll, lean=lean, swing=swing, limited=self.limited, front=self.measured.front
        )

    def axis(self, place: int, axis: Axis) -> SolvedAxis:
        """One of them."""
        measured, recipe = self.measured, self.recipe
        held = getattr(recipe.hold, f"{axis}_deg") is not None
        known = measured.determined[place] or held or not self.standing.stay[place]
        found, wanted, applied = (
            math.degrees(getattr(stance, f"{axis}_rad"))
            for stance in (measured.stance, self.standing.wanted, stance_of(self.turn))
        )
        trim_deg = getattr(recipe.trim, f"{axis}_deg")
        return SolvedAxis(
            applied_deg=applied,
            measured_deg=found if known else None,
            as_shot_deg=wanted if known else trim_deg,
            sigma_deg=math.degrees(measured.sigma_rad[place]) if known and not held else None,
            held=held,
            trimmed=abs(trim_deg) > 1e-9,
            left_in=known and self.standing.stay[place],
            checked=measured.checked[place],
            decided=not held and getattr(recipe.leave_in, axis) is not None,
        )

    def focal(self) -> SolvedFocal:
        """The focal length, and what the readings say of it."""
        estimate = self.measured.focal
        return SolvedFocal(
            focal35_mm=self.focal35_mm,
            source=self.focal_source,
            estimate35_mm=focal35_of(estimate.focal_px, self.photo) if estimate else None,
            estimate_sigma_mm=focal35_of(estimate.sigma_px, self.photo) if estimate else None,
        )

    def accounts(self) -> tuple[SolvedReading, ...]:
        """What every reading says."""
        places = {one.reading.id: place for place, one in enumerate(self.steering)}
        return tuple(
            account_of(one, self.warp, self.measured, places.get(one.reading.id))
            for one in self.readings
        )

    def off_unbent_deg(self) -> dict[str, float]:
        """How far the readings that bend would be off what is wanted without that, by their ids."""
        turned = replace(self.warp, bending=None)
        found = (
            account_of(one, turned, self.measured, None)
            for one in self.readings
            if one.reading.bends and one.reading.becomes != "stays"
        )
        return {one.id: one.left_deg for one in found if one.left_deg is not None}

    def cost(self) -> SolvedCost:
        """What the frame costs."""
        frame, size = self.frame, self.recipe.frame.print_size
        empty = self.outline.empty_share(frame)
        seen = empty * frame.width * frame.height >= _SEEN_PX
        lost = lost_shares(self.outline.points, frame, self.warp, self.photo)
        return SolvedCost(
            lost=SolvedSides(**lost),
            fill_fraction=empty if self.recipe.fill.allowance > 0 and seen else 0.0,
            keep_all_fraction=share_to_keep_all(self.outline, frame.width / frame.height),
            print_scale=size.pixels[0] / frame.width if size else None,
        )

    def solved_bend(self) -> SolvedBend | None:
        """How the picture bends."""
        bent, asked, frame = self.bent, self.recipe.bend, self.frame
        bending = self.warp.bending
        if bent is None or bending is None:
            return None
        open_before, open_now = (
            share_to_keep_all(outline, frame.width / frame.height)
            for outline in (self.unbent, self.outline)
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

    def seam(self) -> Matrix:
        """The frame's corners, or points along its sides where those are bent as shot."""
        if self.warp.straight:
            return self.frame.corners
        return border_centres(self.frame)[_around(self.frame)]

    def notes(
        self, stance: SolvedStance, focal: SolvedFocal, readings: tuple[SolvedReading, ...]
    ) -> Iterator[Note]:
        """What is to be said."""
        yield from about_traces(self.traced, readings)
        if self.limited:
            lean_deg, swing_deg = (
                getattr(self.recipe.trim, f"{axis}_deg")
                if self.standing.stay[AXES.index(axis)]
                else stance.axis(axis).as_shot_deg
                for axis in AXES[1:]
            )
            yield about_limit(stance, lean_deg, swing_deg, SAFE_STRETCH)
        steering = [
            Steering(readings[one.number - 1], one.line, float(below))
            for one, below in zip(self.steering, self.standing.below_rad, strict=True)
        ]
        diagonal = math.hypot(self.photo.width, self.photo.height)
        # What was stated by hand is said before any reading is doubted.
        yield from about_holds(self.camera, self.recipe.hold, self.lines, self.focal35_mm)
        yield from about_side(stance)
        yield from about_readings(steering, self.standing, diagonal)
        yield from about_what_is_open(steering, self.measured, self.recipe.hold)
        yield from about_focal(self.photo, self.recipe, focal, stance, self.standing)
        if self.bent:
            yield from about_bending(self.recipe.bend, self.bent, readings, self.off_unbent_deg)
        yield from about_frame(
            self.outline,
            self.asked,
            self.framed,
            self.frame,
            self.by_hand,
            self.recipe.frame.ratio,
            self.eased_framing,
        )


def _solved_lens(
    recipe: Recipe, distortion: Distortion, traced: Traced | None, border: Matrix
) -> SolvedLens:
    box = Rectangle.around(border)
    source = recipe.lens.source
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
        border=() if distortion.straight else _points(border),
        name=recipe.lens.name if source == "database" else "",
    )


def _marks(recipe: Recipe, warp: Warp) -> Marks:
    """The boxes and the point that belong to the frame, where the screen draws them."""

    def corners(box: Box) -> Matrix:
        return Rectangle(box.left, box.top, box.right - box.left, box.bottom - box.top).corners

    def around(box: Box) -> tuple[Point, ...]:
        square = corners(box)
        straight = warp.distortion.undistorted(np.concatenate([square, square[:1]]))
        return drawn_straight(warp, straight)

    frame = recipe.frame
    aimed = frame.aim.point if frame.aim else None
    return Marks(
        keep=around(frame.keep) if frame.keep else (),
        keep_corners=_points(warp.to_corrected(corners(frame.keep))) if frame.keep else (),
        aim=_points(warp.to_corrected(np.array([aimed])))[0] if aimed else None,
        avoid=tuple(around(box) for box in recipe.fill.avoid),
        still=tuple(around(box) for box in recipe.bend.still),
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
