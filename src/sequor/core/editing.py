"""One way to change a recipe: ``apply(edit, recipe, photo) -> recipe``.

Every edit of `edits` has one small rule here. What must be read off the picture, the edges under
lines that are to be fitted, is done afterwards by `fitted_readings`, which alone needs pixels.
"""

import math
from collections.abc import Callable, Mapping
from typing import Any

import numpy as np
from pydantic import ValidationError

from sequor.core import edits as e
from sequor.core.errors import UnusableInput
from sequor.core.frame.rectangle import in_picture
from sequor.core.lens.chosen import distortion_of
from sequor.core.measure.account import hand_points
from sequor.core.measure.angles import tilt_of
from sequor.core.measure.expecting import expected_angle
from sequor.core.measure.readings import check_reading
from sequor.core.measure.rectangle import fit_all, rectangle
from sequor.core.measure.typed_angle import TypedTilt, parse_tilt
from sequor.core.pixels import Pixels
from sequor.core.recipe import (
    MAX_HELD_ROLL_DEG,
    MAX_ROLL_DEG,
    MAX_RUBBED_OUT,
    MAX_SIGMA_PX,
    MAX_TILT_DEG,
    MIN_SIGMA_PX,
    Aim,
    Axis,
    Box,
    Edges,
    Kind,
    PhotoFacts,
    Placed,
    Point,
    Reading,
    Recipe,
)
from sequor.core.solution import Solution, SolvedReading
from sequor.core.solve import solve
from sequor.core.warp.ease import scaled

_BY_KEY_SIGMA_PX = 1.0
"""A point placed by key is as good as the step, not as the pointer."""
_LEAST_FRAME_PX = 24.0
"""No edge of a frame can be dragged closer than this to the one across."""
_LEAST_BOX_PX = 4.0
"""A box that is drawn smaller was a click."""
_SAME_POINT_PX = 1e-6
"""Corners of two sides of a rectangle are one when they are nearer than this."""


def apply(edit: e.Edit, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    """The recipe after an edit.

    Raises
    ------
    UnusableInput
        When the edit cannot be done: a reading that is not there, a value out of its range, a text
        that is no angle. The recipe is as it was.
    """
    try:
        return _RULES[type(edit)](edit, recipe, photo)
    except ValidationError as problem:
        said = str(problem.errors()[0]["msg"]).removeprefix("Value error, ")
        raise UnusableInput(f"{said[:1].upper()}{said[1:]}.") from problem


def apply_all(edits: tuple[e.Edit, ...], recipe: Recipe, photo: PhotoFacts) -> Recipe:
    """The recipe after several edits, one after the other."""
    for edit in edits:
        recipe = apply(edit, recipe, photo)
    return recipe


def to_fit(edit: e.Edit, before: Recipe) -> tuple[str, ...]:
    """The ids of the readings that an edit wants fitted to the edges under them."""
    if isinstance(edit, e.DrawReading):
        return (edit.id,) if edit.fit else ()
    if isinstance(edit, e.PlaceRectangle):
        return tuple(f"{edit.group}-{side}" for side in range(4)) if edit.fit else ()
    if isinstance(edit, e.FitReading) or (isinstance(edit, e.MovePoint) and edit.refit):
        reading = _find(before, edit.id)
        if isinstance(edit, e.FitReading) or reading.fitted:
            return tuple(other.id for other in _linked(before, reading))
    return ()


def fitted_readings(
    ids: tuple[str, ...], recipe: Recipe, photo: PhotoFacts, pixels: Pixels
) -> Recipe:
    """The recipe with some of its readings fitted to the edges under them.

    Parameters
    ----------
    ids : tuple of str
        One reading, or the four sides of a rectangle.
    pixels : ndarray, shape (height, width, channels), uint8 or uint16
        The upright original.
    """
    number = {reading.id: place for place, reading in enumerate(recipe.readings, 1)}
    chosen = tuple(_find(recipe, name) for name in ids)
    for reading in chosen:
        check_reading(reading, number[reading.id], photo)
    distortion, _ = distortion_of(photo, recipe)
    expected = expected_angle(photo, recipe, chosen[0]) if len(chosen) == 1 else None
    return _with_readings(recipe, *fit_all(chosen, pixels, distortion, expected))


def fit_everything(recipe: Recipe, photo: PhotoFacts, pixels: Pixels) -> Recipe:
    """The recipe with every reading fitted, each for itself.

    Traces come first: the other lines are straight only in the undistorted picture.
    """
    traces = [r.id for r in recipe.readings if r.by_points]
    others = [r.id for r in recipe.readings if not r.by_points]
    for group in (traces, others):
        distortion, _ = distortion_of(photo, recipe)
        readings = (fit_all((_find(recipe, name),), pixels, distortion) for name in group)
        recipe = _with_readings(recipe, *(reading for one in readings for reading in one))
    return recipe


def understood(edit: e.TypeAngle, recipe: Recipe, photo: PhotoFacts) -> TypedTilt:
    """What a typed angle is taken for.

    The direction of a bare number is that of the angle known so far: the one the readings say, else
    the one set before.
    """
    solved = solve(photo, recipe).stance.axis(edit.axis)
    measured = solved.measured_deg or 0.0
    surely = abs(measured) > (solved.sigma_deg or 0.0)
    known = _sense(edit.axis) * (measured if surely else solved.as_shot_deg)
    return parse_tilt(edit.text, known, edit.axis)


def _sense(axis: Axis) -> int:
    """The picture's tilt is the opposite of the roll that takes it out; the others are alike."""
    return -1 if axis == "roll" else 1


def _find(recipe: Recipe, name: str) -> Reading:
    for reading in recipe.readings:
        if reading.id == name:
            return reading
    raise _gone()


def _gone() -> UnusableInput:
    return UnusableInput(
        "A reading that this was about is not there any more; nothing was changed."
    )


def _linked(recipe: Recipe, reading: Reading) -> tuple[Reading, ...]:
    """The reading and those that are linked with it as sides of one rectangle."""
    if reading.group is None:
        return (reading,)
    return tuple(other for other in recipe.readings if other.group == reading.group)


def _with_readings(recipe: Recipe, *changed: Reading) -> Recipe:
    by_id = {reading.id: reading for reading in changed}
    readings = tuple(by_id.get(reading.id, reading) for reading in recipe.readings)
    return recipe.changed(readings=readings)


def _adding(recipe: Recipe, *added: Reading) -> Recipe:
    return recipe.changed(readings=(*recipe.readings, *added))


def _reading(recipe: Recipe, reading_id: str, **parts: object) -> Recipe:
    return _with_readings(recipe, _find(recipe, reading_id).changed(**parts))


def _in_source(
    edit: e.OnPicture, points: tuple[Point, ...], recipe: Recipe, photo: PhotoFacts
) -> tuple[Point, ...]:
    """The points of an edit in source pixels.

    Those a hand placed are brought inside the picture.
    """
    if edit.seen is None:
        return points
    places = np.array(points, dtype=float)
    if edit.seen == "undistorted":
        with np.errstate(over="ignore", invalid="ignore"):
            places = distortion_of(photo, recipe)[0].distorted(places)
        if not np.isfinite(places).all():
            raise UnusableInput("That place lies beyond the picture.")
    inside = np.clip(places, 0, [photo.width, photo.height])
    return tuple((float(x), float(y)) for x, y in inside)


def _sigma_px(zoom: float | None) -> float:
    """Each end is placed to about one screen pixel."""
    return _BY_KEY_SIGMA_PX if zoom is None else _clamped(1 / zoom, MIN_SIGMA_PX, MAX_SIGMA_PX)


def _clamped(value: float, low: float, high: float) -> float:
    return min(high, max(low, value))


def _draw_reading(edit: e.DrawReading, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    points = _in_source(edit, edit.points, recipe, photo)
    sigma = _sigma_px(edit.zoom)
    return _adding(recipe, Reading(id=edit.id, kind=edit.kind, points=points, sigma_px=sigma))


def _place_rectangle(edit: e.PlaceRectangle, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    a, b, c, d = _in_source(edit, edit.corners, recipe, photo)
    return _adding(recipe, *rectangle((a, b, c, d), edit.group, _sigma_px(edit.zoom)))


def _move_point(edit: e.MovePoint, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    (to,) = _in_source(edit, (edit.to,), recipe, photo)
    sigma = None if edit.zoom is None else _sigma_px(edit.zoom)
    return _moved(recipe, edit.id, edit.point, to, sigma)


def _nudge_point(edit: e.NudgePoint, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    points = hand_points(_find(recipe, edit.id))
    if edit.point >= len(points):
        raise UnusableInput("That reading has no such point.")
    (x, y), (dx, dy) = points[edit.point], edit.by
    to = _clamped(x + dx, 0, photo.width), _clamped(y + dy, 0, photo.height)
    return _moved(recipe, edit.id, edit.point, to, None)


def _moved(recipe: Recipe, name: str, place: int, to: Point, sigma_px: float | None) -> Recipe:
    """A point moved, with the ends of the sides of its rectangle that are the same corner."""
    moved = _find(recipe, name)
    if place >= len(hand_points(moved)):
        raise UnusableInput("That reading has no such point.")
    before = hand_points(moved)[place]
    sigma = min(moved.sigma_px, _BY_KEY_SIGMA_PX) if sigma_px is None else sigma_px
    changed = []
    for reading in _linked(recipe, moved):
        points = hand_points(reading)
        same = [
            i == place if reading.id == name else math.dist(p, before) < _SAME_POINT_PX
            for i, p in enumerate(points)
        ]
        if any(same):
            new = tuple(to if here else p for p, here in zip(points, same, strict=True))
            changed.append(reading.changed(points=new, sigma_px=sigma, fitted=None))
    return _with_readings(recipe, *changed)


def _fit_reading(edit: e.FitReading, recipe: Recipe, _: PhotoFacts) -> Recipe:
    now = _find(recipe, edit.id).fitted
    if not edit.another or now is None:
        return recipe  # the fit itself needs the picture: see `to_fit`
    return _reading(recipe, edit.id, fitted=now.changed(choice=(now.choice + 1) % 1000))


def _unfit_reading(edit: e.UnfitReading, recipe: Recipe, _: PhotoFacts) -> Recipe:
    drawn = (
        side.changed(points=side.fitted.drawn, fitted=None)
        for side in _linked(recipe, _find(recipe, edit.id))
        if side.fitted
    )
    return _with_readings(recipe, *drawn)


def _remove_reading(edit: e.RemoveReading, recipe: Recipe, _: PhotoFacts) -> Recipe:
    _find(recipe, edit.id)
    return recipe.changed(readings=tuple(r for r in recipe.readings if r.id != edit.id))


def _switched(recipe: Recipe, ids: tuple[str, ...], **parts: object) -> Recipe:
    return _with_readings(recipe, *(_find(recipe, name).changed(**parts) for name in ids))


def _prefer_reading(edit: e.PreferReading, recipe: Recipe, _: PhotoFacts) -> Recipe:
    preferred = _reading(recipe, edit.id, active=True)
    return _switched(preferred, edit.over, active=False)


def _keep_agreeing(_: e.KeepAgreeing, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    while True:
        steers = {reading.id for reading in recipe.readings if reading.steers}
        readings = solve(photo, recipe).readings
        odd = [reading for reading in readings if reading.outlier and reading.id in steers]
        if not odd or len(steers) < 2:
            return recipe
        worst = max(odd, key=lambda reading: abs(reading.residual_deg))
        recipe = _switched(recipe, (worst.id,), active=False)


def _ink_readings(edit: e.InkReadings, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    there = {reading.id for reading in recipe.readings}
    added = [reading for reading in edit.readings if reading.id not in there]
    for number, reading in enumerate(added, len(recipe.readings) + 1):
        check_reading(reading, number, photo)
    return recipe.changed(
        readings=(*recipe.readings, *added),
        leave_in=recipe.leave_in if edit.leave_in is None else edit.leave_in,
    )


def _read_anew(recipe: Recipe, ids: tuple[str, ...], kind: Kind) -> Recipe:
    """Readings of another kind; what was wanted of them by bending was wanted of the old one."""
    return _switched(recipe, ids, kind=kind, becomes="true", wanted_deg=None)


def _read_as(edit: e.ReadAs, recipe: Recipe, _: PhotoFacts) -> Recipe:
    if _find(recipe, edit.id).kind == "trace":
        raise UnusableInput("A trace stays a trace; let it serve as level or plumb instead.")
    return _read_anew(recipe, (edit.id,), edit.kind)


def _let_trace_serve(edit: e.LetTraceServe, recipe: Recipe, _: PhotoFacts) -> Recipe:
    if _find(recipe, edit.id).kind != "trace":
        raise UnusableInput("Only a trace can serve as level or plumb as well.")
    return _reading(recipe, edit.id, serves_as=edit.serves_as)


def _let_reading_become(edit: e.LetReadingBecome, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    wanted = edit.wanted_deg
    if edit.becomes == "angle" and wanted is None:
        wanted = round(_solved(solve(photo, recipe), edit.id).residual_deg, 3)
    if edit.becomes != "angle":
        wanted = None
    return _wanted(recipe, edit.id, becomes=edit.becomes, wanted_deg=wanted)


def _point_reading(edit: e.PointReading, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    reading, solution = _find(recipe, edit.id), solve(photo, recipe)
    other = solution.warp.to_corrected(np.array([reading.ends[1 - edit.end]]))[0]
    dx, dy = edit.to[0] - other[0], edit.to[1] - other[1]
    if math.hypot(dx, dy) < _LEAST_BOX_PX:
        raise UnusableInput("That is too near to the line's other end to tell a direction.")
    tilt = math.degrees(tilt_of(dx, dy, _solved(solution, edit.id).reads_as))
    return _wanted(recipe, edit.id, becomes="angle", wanted_deg=round(tilt, 2))


def _solved(solution: Solution, name: str) -> SolvedReading:
    for reading in solution.readings:
        if reading.id == name:
            return reading
    raise _gone()


def _wanted(recipe: Recipe, name: str, **parts: object) -> Recipe:
    """What a reading is to become; what does nothing yet then bends all that is left over."""
    if _find(recipe, name).kind == "check":
        raise UnusableInput(
            "A check is measured and does nothing; read it as something else first."
        )
    changed = _reading(recipe, name, **parts)
    if parts["becomes"] in ("angle", "straight") and recipe.bend.lines == 0:
        return _bending(changed, lines=1.0)
    return changed


def _turn_by(edit: e.TurnBy, recipe: Recipe, _: PhotoFacts) -> Recipe:
    limit = MAX_ROLL_DEG if edit.axis == "roll" else MAX_TILT_DEG
    turned = getattr(recipe.trim, f"{edit.axis}_deg") + edit.deg
    # A millionth of a degree is nothing: so that turning there and back gives zero.
    return _trimmed(recipe, edit.axis, round(_clamped(turned, -limit, limit), 6))


def _trimmed(recipe: Recipe, axis: Axis, deg: float) -> Recipe:
    return recipe.changed(trim=recipe.trim.changed(**{f"{axis}_deg": deg}))


def _type_angle(edit: e.TypeAngle, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    wanted = _sense(edit.axis) * understood(edit, recipe, photo).tilt_deg
    trim = wanted - (solve(photo, recipe).stance.axis(edit.axis).measured_deg or 0.0)
    if edit.axis != "roll" and max(abs(wanted), abs(trim)) > MAX_TILT_DEG:
        raise UnusableInput(
            f"{abs(wanted):g}° of {edit.axis} is more than any picture can bear; "
            f"it must lie below {MAX_TILT_DEG:g} degrees."
        )
    return _trimmed(recipe, edit.axis, trim)


def _hold_axis(edit: e.HoldAxis, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    if edit.deg is not None:
        return _held(recipe, edit.axis, edit.deg)
    limit = MAX_HELD_ROLL_DEG if edit.axis == "roll" else MAX_TILT_DEG
    now = solve(photo, recipe).stance.axis(edit.axis).as_shot_deg
    return _held(recipe, edit.axis, _clamped(now, -limit, limit))


def _held(recipe: Recipe, axis: Axis, deg: float | None) -> Recipe:
    """An axis held at a value, or let go; what was added by hand is in the value, or given up."""
    untrimmed = _trimmed(recipe, axis, 0.0)
    return untrimmed.changed(hold=recipe.hold.changed(**{f"{axis}_deg": deg}))


def _leave_axis_in(edit: e.LeaveAxisIn, recipe: Recipe, _: PhotoFacts) -> Recipe:
    if edit.leave is not None and getattr(recipe.hold, f"{edit.axis}_deg") is not None:
        recipe = _held(recipe, edit.axis, None)
    if edit.leave:
        recipe = _trimmed(recipe, edit.axis, 0.0)
    return recipe.changed(leave_in=recipe.leave_in.changed(**{edit.axis: edit.leave}))


def _choose_lens_source(edit: e.ChooseLensSource, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    parts: dict[str, object] = {"source": edit.source}
    if edit.source == "hand":
        _, k1, _, k2, _, _ = solve(photo, recipe).lens.polynomial
        parts |= {"k1": round(k1, 5), "k2": round(k2, 5)}
    return recipe.changed(lens=recipe.lens.changed(**parts))


def _set_radial(edit: e.SetRadial, recipe: Recipe, _: PhotoFacts) -> Recipe:
    given = {"k1": edit.k1, "k2": edit.k2}
    parts = {name: value for name, value in given.items() if value is not None}
    return recipe.changed(lens=recipe.lens.changed(source="hand", **parts))


def _use_lens(edit: e.UseLens, recipe: Recipe, _: PhotoFacts) -> Recipe:
    if edit.polynomial is None:
        raise UnusableInput(f"The distortion of {edit.name} was not looked up.")
    parts = {"source": "database", "polynomial": edit.polynomial, "name": edit.name}
    return recipe.changed(lens=recipe.lens.changed(**parts))


def _framed(recipe: Recipe, **parts: object) -> Recipe:
    return recipe.changed(frame=recipe.frame.changed(**parts))


def _filled(recipe: Recipe, **parts: object) -> Recipe:
    return recipe.changed(fill=recipe.fill.changed(**parts))


def _bending(recipe: Recipe, **parts: object) -> Recipe:
    return recipe.changed(bend=recipe.bend.changed(**parts))


def _turn_shape(_: e.TurnShape, recipe: Recipe, __: PhotoFacts) -> Recipe:
    frame, turned = recipe.frame, recipe.frame.turned_over
    if frame.print_size:
        return _framed(recipe, print_size=turned.print_size)
    if ":" not in frame.ratio:
        raise UnusableInput("This shape has no sides to change; choose a ratio.")
    return _framed(recipe, ratio=turned.ratio)


def _box(corners: tuple[Point, ...]) -> Box:
    (x0, y0), (x1, y1) = corners
    if abs(x1 - x0) < _LEAST_BOX_PX or abs(y1 - y0) < _LEAST_BOX_PX:
        raise UnusableInput("That box is too small; drag it from corner to corner.")
    return Box(left=min(x0, x1), top=min(y0, y1), right=max(x0, x1), bottom=max(y0, y1))


def _keep_box(edit: e.KeepBox, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    if edit.corners is None:
        return _framed(recipe, keep=None)
    keep = _box(_in_source(edit, edit.corners, recipe, photo))
    return _framed(recipe, keep=keep, placed=None)


def _move_keep_corner(edit: e.MoveKeepCorner, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    keep = recipe.frame.keep
    if keep is None:
        raise UnusableInput("There is no box to keep any more.")
    ((x, y),) = _in_source(edit, (edit.to,), recipe, photo)
    if edit.corner == "top_left":
        left, top = min(x, keep.right - _LEAST_BOX_PX), min(y, keep.bottom - _LEAST_BOX_PX)
        return _framed(recipe, keep=keep.changed(left=left, top=top))
    right, bottom = max(x, keep.left + _LEAST_BOX_PX), max(y, keep.top + _LEAST_BOX_PX)
    return _framed(recipe, keep=keep.changed(right=right, bottom=bottom))


def _aim_at(edit: e.AimAt, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    (point,) = _in_source(edit, (edit.point,), recipe, photo)
    aim, now = Aim(point=point), recipe.frame.aim
    if now and now.point:
        aim = now.changed(point=point)
    elif edit.guide:
        aim = aim.changed(guide=edit.guide)
    return _framed(recipe, aim=aim, placed=None)


def _aimed(recipe: Recipe) -> Aim:
    if recipe.frame.aim is None or recipe.frame.aim.point is None:
        raise UnusableInput("There is no point to aim at any more.")
    return recipe.frame.aim


def _move_aim(edit: e.MoveAim, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    (point,) = _in_source(edit, (edit.to,), recipe, photo)
    return _framed(recipe, aim=_aimed(recipe).changed(point=point))


def _change_aim(edit: e.ChangeAim, recipe: Recipe, _: PhotoFacts) -> Recipe:
    parts = {name: v for name in ("guide", "meets") if (v := getattr(edit, name)) is not None}
    return _framed(recipe, aim=_aimed(recipe).changed(**parts))


def _aim_between(edit: e.AimBetween, recipe: Recipe, _: PhotoFacts) -> Recipe:
    return _framed(recipe, aim=Aim(between=edit.between, guide="centre", meets="line"))


def _drag_frame(edit: e.DragFrame, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    """The frame as the hand wants it; where it may lie is found when the recipe is solved."""
    solution = solve(photo, recipe)
    frame, (hx, hy), (dx, dy) = solution.frame, edit.handle, edit.by
    fixed = recipe.frame.ratio != "free" or recipe.frame.print_size is not None
    across, down = (frame.width + hx * dx) / frame.width, (frame.height + hy * dy) / frame.height
    if fixed:
        across = down = max(across, down) if hx and hy else across if hx else down
    width, height = float(frame.width), float(frame.height)
    if hx or (hy and fixed):
        width = max(_LEAST_FRAME_PX, frame.width * across)
    if hy or (hx and fixed):
        height = max(_LEAST_FRAME_PX, frame.height * down)
    anchor = ((1 - hx) / 2, (1 - hy) / 2)
    at = np.array([[frame.x + anchor[0] * frame.width, frame.y + anchor[1] * frame.height]])
    if not (hx or hy):
        at += [dx, dy]
    past = edit.past
    if past is None:
        placed = recipe.frame.placed
        past = placed.past if placed else solution.cost.fill_fraction > 0
    past = past and recipe.fill.allowance > 0
    x, y = solution.warp.to_source(at)[0]
    if not past:
        # A frame that reaches past the picture is anchored to the nearest point of it only when
        # nothing may lie past it.
        x, y = np.clip([x, y], 0, [photo.width, photo.height])
    new = Placed(at=(float(x), float(y)), anchor=anchor, width=width, height=height, past=past)
    return _framed(recipe, placed=new)


def _choose_candidate(edit: e.ChooseCandidate, recipe: Recipe, _: PhotoFacts) -> Recipe:
    chosen = [
        edit.candidate if edit.corner in (None, corner) else now
        for corner, now in enumerate(recipe.fill.candidates)
    ]
    return _filled(recipe, candidates=tuple(chosen))


def _avoid_box(edit: e.AvoidBox, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    box = _box(_in_source(edit, edit.corners, recipe, photo))
    return _filled(recipe, avoid=(*recipe.fill.avoid, box))


def _keep_still(edit: e.KeepStill, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    box = _box(_in_source(edit, edit.corners, recipe, photo))
    if in_picture(box, photo) is None:
        raise UnusableInput("That box lies outside the picture; draw it over what must not bend.")
    return _bending(recipe, still=(*recipe.bend.still, box))


def lacks_edges(recipe: Recipe) -> bool:
    """Whether a recipe bends and nobody has looked yet for the edges that are to stay straight."""
    return recipe.bend.bends and recipe.bend.edges is None


def with_edges(recipe: Recipe, edges: Edges) -> Recipe:
    """The recipe with the straight edges that were found in the picture."""
    return _bending(recipe, edges=edges)


Rule = Callable[[Any, Recipe, PhotoFacts], Recipe]
_RULES: Mapping[type, Rule] = {
    e.DrawReading: _draw_reading,
    e.PlaceRectangle: _place_rectangle,
    e.MovePoint: _move_point,
    e.NudgePoint: _nudge_point,
    e.FitReading: _fit_reading,
    e.UnfitReading: _unfit_reading,
    e.RemoveReading: _remove_reading,
    e.SwitchReadings: lambda edit, now, _: _switched(now, edit.ids, active=edit.active),
    e.PreferReading: _prefer_reading,
    e.MakeChecks: lambda edit, now, _: _read_anew(now, edit.ids, "check"),
    e.KeepAgreeing: _keep_agreeing,
    e.ShowReading: lambda edit, now, _: _reading(now, edit.id, hidden=not edit.shown),
    e.NameReading: lambda edit, now, _: _reading(now, edit.id, name=edit.name.strip()),
    e.WeighReading: lambda edit, now, _: _reading(now, edit.id, weight=edit.weight),
    e.InkReadings: _ink_readings,
    e.RubOut: lambda edit, now, _: now.changed(
        rubbed_out=(*now.rubbed_out, edit.points)[-MAX_RUBBED_OUT:]
    ),
    e.ReadAs: _read_as,
    e.LetTraceServe: _let_trace_serve,
    e.TurnBy: _turn_by,
    e.TypeAngle: _type_angle,
    e.ResetTrim: lambda edit, now, _: _trimmed(now, edit.axis, 0.0),
    e.HoldAxis: _hold_axis,
    e.FreeAxis: lambda edit, now, _: _held(now, edit.axis, None),
    e.LeaveAxisIn: _leave_axis_in,
    e.SetEase: lambda edit, now, _: now.changed(ease=now.ease.changed(**{edit.part: edit.share})),
    e.ScaleEase: lambda edit, now, _: now.changed(ease=scaled(now.ease, edit.share)),
    e.SetFocal: lambda edit, now, _: now.changed(focal35_mm=edit.focal35_mm),
    e.ChooseLensSource: _choose_lens_source,
    e.SetRadial: _set_radial,
    e.UseLens: _use_lens,
    e.SetProportion: lambda edit, now, _: now.changed(proportion=edit.proportion),
    e.ChooseRatio: lambda edit, now, _: _framed(now, ratio=edit.ratio, print_size=None),
    e.ChoosePrintSize: lambda edit, now, _: _framed(now, print_size=edit.size),
    e.TurnShape: _turn_shape,
    e.KeepBox: _keep_box,
    e.KeepMeasured: lambda edit, now, _: _framed(now, keep_measured=edit.keep, placed=None),
    e.MoveKeepCorner: _move_keep_corner,
    e.AimAt: _aim_at,
    e.MoveAim: _move_aim,
    e.ChangeAim: _change_aim,
    e.AimBetween: _aim_between,
    e.ClearAim: lambda _, now, __: _framed(now, aim=None),
    e.DragFrame: _drag_frame,
    e.BestFrame: lambda _, now, __: _framed(now, placed=None),
    e.AllowFill: lambda edit, now, _: _filled(now, allowance=edit.allowance),
    e.FillWith: lambda edit, now, _: _filled(now, method=edit.method),
    e.ChooseColour: lambda edit, now, _: _filled(now, colour=edit.colour),
    e.ChooseCandidate: _choose_candidate,
    e.AvoidBox: _avoid_box,
    e.CopyEverything: lambda _, now, __: _filled(now, avoid=()),
    e.LetReadingBecome: _let_reading_become,
    e.PointReading: _point_reading,
    e.BendLines: lambda edit, now, _: _bending(now, lines=edit.share),
    e.BendCorners: lambda edit, now, _: _bending(now, corners=edit.share),
    e.ShareCorners: lambda edit, now, _: _bending(
        _filled(now, allowance=edit.fill), corners=edit.bend
    ),
    e.LimitBending: lambda edit, now, _: _bending(now, max_stretch=edit.max_stretch),
    e.KeepStill: _keep_still,
    e.BendEverything: lambda _, now, __: _bending(now, still=()),
    # Edges are looked for anew: the recipe may be of another picture.
    e.OpenRecipe: lambda edit, _, __: _bending(edit.recipe, edges=None),
}
