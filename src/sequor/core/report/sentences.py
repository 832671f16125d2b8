"""Sentences for notes, and labels for what they offer."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from sequor.core import edits as e
from sequor.core import notes as n
from sequor.core.frame.composition import NAMES
from sequor.core.recipe import Axis, Kind, Recipe
from sequor.core.report.words import axis_words, focal_words, share_words, size_words


class Names:
    """What sentences and buttons call the readings of a recipe."""

    def __init__(self, recipe: Recipe) -> None:
        self._numbers = {r.id: number for number, r in enumerate(recipe.readings, 1)}
        self._names = {reading.id: reading.name for reading in recipe.readings}
        self._kinds = {reading.id: reading.kind for reading in recipe.readings}

    def short(self, reading: str) -> str:
        """For buttons: ``reading 2``."""
        kind = "trace" if self._kinds.get(reading) == "trace" else "reading"
        return f"{kind} {self._numbers.get(reading, '?')}"

    def long(self, reading: str) -> str:
        """For sentences: ``reading 2 (near rail)``."""
        name = self._names.get(reading)
        return f"reading {self._numbers.get(reading, '?')}{f' ({name})' if name else ''}"

    def listed(self, readings: Sequence[str]) -> str:
        """Several of them: ``readings 1, 2 (kerb) and 4``."""
        if len(readings) == 1:
            return self.long(readings[0])
        words = [self.long(reading).split(" ", 1)[1] for reading in readings]
        return f"readings {', '.join(words[:-1])} and {words[-1]}"


def note_text(note: n.Note, names: Names) -> str:
    """A note as one or two sentences."""
    return _TEXTS[type(note)](note, names)


def offer_label(edit: e.Edit, names: Names) -> str:
    """What a button says that does an edit."""
    return _LABELS[type(edit)](edit, names)


def _first_upper(text: str) -> str:
    return text[:1].upper() + text[1:]


def _traces_say_too_little(_: n.TracesSayTooLittle, __: Names) -> str:
    return (
        "The traces say too little of the bow, so none is taken out. A line through the middle of "
        "the picture stays straight in any lens: trace something long and straight near a border."
    )


def _decentring_open(_: n.DecentringOpen, __: Names) -> str:
    return (
        "The traces look as if the lens were not quite centred, but reach too little of the border "
        "to tell by how much. Trace something straight along another border."
    )


def _trace_stays_bent(note: n.TraceStaysBent, names: Names) -> str:
    why = (
        "perhaps it is not straight in reality."
        if note.alone
        else "it contradicts the other traces, or is not straight in reality."
    )
    trace = _first_upper(names.short(note.readings[0]))
    return f"{trace} stays bent by {note.sag_px:.1f} px when the bow is taken out: {why}"


def _odd_one_out(note: n.OddOneOut, names: Names) -> str:
    text = (
        f"{_first_upper(names.long(note.readings[0]))} does not fit: it is {note.off_deg:.2f}° off "
        f"what the others say, far more than its precision of {note.sigma_deg:.2f}°."
    )
    if note.direction == "plumb":
        why = "Perhaps what it lies on is not upright: old walls and posts really are crooked."
    elif note.farther:
        why = (
            f"It lies nearer to the camera than {names.long(note.farther)}; if it runs away from "
            "the camera, perspective tilts it, and the farther line is the better level."
        )
    else:
        why = "Perhaps it is not level in reality, or runs away from the camera."
    return f"{text} {why}"


def _contradiction(note: n.Contradiction, names: Names) -> str:
    text = (
        f"{_first_upper(names.listed(note.readings))} disagree by {note.apart_deg:.2f}°, more than "
        "their precision explains, and nothing says which is right."
    )
    if note.better and note.worse:
        why = (
            "A line that runs away from the camera is tilted by perspective, the nearer the more: "
            f"{names.short(note.better)} is farther and the better level than "
            f"{names.short(note.worse)}."
        )
    elif note.all_plumb:
        why = (
            "One of the things they lie on may really be crooked. "
            "One more plumb reading would tell."
        )
    else:
        why = "One more reading would tell; or an axis is held that must be free."
    return " ".join(filter(None, (text, why, _outcome_words(note.outcomes, names))))


def _outcome_words(outcomes: Sequence[n.Outcome], names: Names) -> str:
    """What the stance is without each of some readings."""
    return " ".join(f"Without {names.short(one.without)} {_stance_words(one)}." for one in outcomes)


def _stance_words(one: n.Outcome) -> str:
    axes: tuple[tuple[Axis, float | None], ...] = (("lean", one.lean_deg), ("swing", one.swing_deg))
    told = [f"the picture is tilted {axis_words('roll', -one.roll_deg)}"]
    told += [f"the {axis} is {axis_words(axis, deg)}" for axis, deg in axes if deg is not None]
    return ", ".join(told)


def _one_may_be_wrong(note: n.OneMayBeWrong, names: Names) -> str:
    return (
        "The readings agree, but so few could agree by chance with one of them wrong. "
        f"{_outcome_words(note.outcomes, names)} One more line would tell."
    )


def _roll_outside_readings(note: n.RollOutsideReadings, names: Names) -> str:
    said = " ".join(
        f"If {names.short(one.without)} really slopes, {_stance_words(one)}."
        for one in note.outcomes
    )
    if note.taken_deg is not None:
        return (
            f"By how its lines converge the picture would be tilted "
            f"{axis_words('roll', note.tilt_deg)}, which none of them is: "
            f"{axis_words('roll', note.taken_deg)} is taken out, as if they did not converge. "
        ) + (said or "A line on the other side would tell.")
    if note.outcomes:
        return (
            f"The picture is taken to be tilted {axis_words('roll', note.tilt_deg)}, which none of "
            f"its lines is: it rests on how they converge. {said}"
        )
    return (
        f"The picture is taken to be tilted {axis_words('roll', note.tilt_deg)}, which none of its "
        f"lines is: they are tilted from {axis_words('roll', note.least_deg)} to "
        f"{axis_words('roll', note.most_deg)}. It rests on how they converge; an upright that is "
        "crooked in reality has much weight there. A line on the other side would tell."
    )


def _lies_on_its_side(note: n.LiesOnItsSide, names: Names) -> str:
    turned = f"The picture is turned {axis_words('roll', note.roll_deg)}"
    if note.readings:
        return (
            f"{turned} onto its side by {names.long(note.readings[0])}: no tilt but another "
            "orientation. Is the line of the other kind in reality, or the other way up right?"
        )
    return f"{turned}. A line has no head: the other way up fits the readings as well."


def _several_do_not_fit(note: n.SeveralDoNotFit, names: Names) -> str:
    return (
        f"{_first_upper(names.listed(note.readings))} do not fit the others. Each is off by more "
        "than its precision explains; they count for little now."
    )


def _swing_rests_on_near(note: n.SwingRestsOnNear, names: Names) -> str:
    near, far = note.readings
    return (
        f"{_first_upper(names.long(near))} alone asks for a swing of "
        f"{axis_words('swing', note.swing_deg)}. It lies near, {note.apart_deg:.2f}° off "
        f"{names.long(far)}: if it runs away from the camera, perspective tilts it, and "
        f"{names.short(far)}, the farther one, is the better level."
    )


def _short_reading(note: n.ShortReading, names: Names) -> str:
    reading = _first_upper(names.long(note.readings[0]))
    yet = f" Yet the {note.decides} rests on it alone." if note.decides else ""
    return (
        f"{reading} is short: its angle is only good to {note.sigma_deg:.1f}°.{yet} "
        "A longer line along the same edge says more."
    )


def _same_line_twice(note: n.SameLineTwice, names: Names) -> str:
    one, other = note.readings
    return (
        f"{_first_upper(names.long(one))} and {names.long(other)} lie on nearly the same line: "
        "together they say little more than one. A line far from both would tell more."
    )


def _level_runs_away(note: n.LevelRunsAway, names: Names) -> str:
    reading = _first_upper(names.long(note.readings[0]))
    helps = "If it is the horizon itself, say so." if note.offers else "One nearer to eye level"
    if not note.offers:
        helps += ", or a plumb line, would be better."
    return (
        f"{reading} may run away from the camera: if it does so by {note.direction_deg:.0f}° from "
        f"square, it is {note.off_deg:.1f}° off. {helps}"
    )


def _plumb_may_lean(note: n.PlumbMayLean, names: Names) -> str:
    reading = _first_upper(names.long(note.readings[0]))
    return (
        f"{reading} stands away from the middle: if the camera pointed up or down by "
        f"{note.lean_deg:.0f}°, the roll is {note.off_deg:.1f}° off. A second plumb line on the "
        "other side tells which."
    )


def _axis_stays_open(note: n.AxisStaysOpen, names: Names) -> str:
    kind = "plumb" if note.axis == "lean" else "level"
    return (
        f"The {note.axis} cannot be told from {names.listed(note.readings)}: they are too short or "
        f"too near to each other. It is left in; a {kind} line far from them would tell."
    )


def _held_against_readings(note: n.HeldAgainstReadings, _: Names) -> str:
    kind = "plumb" if note.axis == "lean" else "level"
    return (
        f"The {kind} readings converge as if the camera had pointed "
        f"{axis_words(note.axis, note.free_deg)}, but the {note.axis} is held at "
        f"{size_words(note.held_deg)}."
    )


def _limited(note: n.Limited, _: Names) -> str:
    axes: tuple[tuple[Axis, float, float], ...] = (
        ("lean", note.wanted_lean_deg, note.lean_deg),
        ("swing", note.wanted_swing_deg, note.swing_deg),
    )
    spoken = [axis for axis in axes if round(axis[1], 2)]
    wanted = " and ".join(axis_words(axis, asked) for axis, asked, _ in spoken)
    taken = " and ".join(f"{abs(applied):.1f}° of {axis}" for axis, _, applied in spoken)
    is_taken = "is" if len(spoken) == 1 else "are"
    ease = "ease lean and swing, or hold one of them" if len(spoken) == 2 else "or ease or hold it"
    return (
        f"Taking out {wanted} would stretch a side of the picture beyond {note.stretch:g} times, "
        f"so only {taken} {is_taken} taken out. Check the readings, {ease}."
    )


def _focal_contradicted(note: n.FocalContradicted, _: Names) -> str:
    whose = "You stated" if note.source == "stated" else "The file says"
    return (
        f"{whose} a focal length of {note.focal35_mm:.0f} mm, the readings fit "
        f"{focal_words(note.estimate35_mm, note.estimate_sigma_mm)}. "
        "A picture that was cropped before has that effect."
    )


def _focal_assumed(note: n.FocalAssumed, _: Names) -> str:
    says = "State the right one in the Lens step if you know it."
    depends = "Proportions depend on it"
    if round(note.proportions_off, 2) > 0:
        depends += f": height against width may be {note.proportions_off * 100:.0f} % off"
    if note.hangs:
        hangs = note.hangs
        depends = (
            f"The {hangs.axis} is {axis_words(hangs.axis, hangs.short_deg)} for a lens of "
            f"{hangs.short_mm:.0f} mm and {axis_words(hangs.axis, hangs.long_deg)} for one of "
            f"{hangs.long_mm:.0f} mm. {depends}"
        )
    if note.misfit:
        depends = f"The readings do not agree with it. {depends}"
    if note.estimate35_mm and note.estimate_sigma_mm:
        says = f"The readings say {focal_words(note.estimate35_mm, note.estimate_sigma_mm)}."
    return (
        f"The file does not say its focal length; {note.focal35_mm:.0f} mm is assumed. "
        f"{depends}. {says}"
    )


def _bending_contradicts(note: n.BendingContradicts, names: Names) -> str:
    met = ", ".join(
        f"{names.short(one.reading)} to {one.share * 100:.0f} % ({size_words(one.left_deg)} left)"
        for one in note.met
    )
    return (
        f"{_first_upper(names.listed(note.readings))} cannot have all that is wanted of the lines "
        f"at once. Met {'is' if len(note.met) == 1 else 'are'} {met}."
    )


def _bending_limited(note: n.BendingLimited, _: Names) -> str:
    return (
        f"Bending all that is asked would stretch or squeeze a part of the picture more than "
        f"{note.limit:g} times, so {note.share * 100:.0f} % of it is done."
    )


def _keep_is_cut(note: n.KeepIsCut, _: Names) -> str:
    limit = "nothing filled"
    if note.allowance:
        limit = f"a fill allowance of {note.allowance * 100:.0f} %"
    helps = "" if note.offers else " Draw a smaller box."
    return (
        f"No frame of this shape can contain the whole of the box to keep with {limit}, "
        f"so it is cut.{helps}"
    )


def _keep_is_cut_by_hand(_: n.KeepIsCutByHand, __: Names) -> str:
    return "The frame as you placed it cuts the box to keep."


def _aim_is_missed(note: n.AimIsMissed, _: Names) -> str:
    if note.aim == "between":
        return (
            "No frame lies midway between these two edges without an empty corner; it lies where "
            "it is largest."
        )
    where = "a crossing" if note.aim == "crossing" else "a line"
    return f"No frame puts the point on {where} of the guide; the frame lies where it is largest."


def _aim_is_dear(note: n.AimIsDear, _: Names) -> str:
    kept, by_line = share_words(note.kept), share_words(note.by_line)
    return (
        f"The crossing keeps {kept} of the picture; with the point on a line of the "
        f"{NAMES[note.guide].lower()} instead it would be {by_line}."
    )


def _hand_gave_way(note: n.HandGaveWay, _: Names) -> str:
    turned = _first_upper(axis_words(note.axis, note.deg))
    return f"{turned}, as you had turned it by hand, gave way to what the lines say."


def _camera_tells(note: n.CameraTells, _: Names) -> str:
    tilted = f"Tilted {axis_words('roll', -note.roll_deg)}" if note.roll_deg else "Level"
    lean = f" It pointed {axis_words('lean', note.lean_deg)}." if note.lean_deg else ""
    return f"{tilted}, by the camera's own level, which is good to about a degree.{lean}"


_TEXTS: Mapping[type, Callable[[Any, Names], str]] = {
    n.TracesSayTooLittle: _traces_say_too_little,
    n.DecentringOpen: _decentring_open,
    n.TraceStaysBent: _trace_stays_bent,
    n.OddOneOut: _odd_one_out,
    n.Contradiction: _contradiction,
    n.OneMayBeWrong: _one_may_be_wrong,
    n.HandGaveWay: _hand_gave_way,
    n.CameraTells: _camera_tells,
    n.RollOutsideReadings: _roll_outside_readings,
    n.LiesOnItsSide: _lies_on_its_side,
    n.SeveralDoNotFit: _several_do_not_fit,
    n.SwingRestsOnNear: _swing_rests_on_near,
    n.ShortReading: _short_reading,
    n.SameLineTwice: _same_line_twice,
    n.LevelRunsAway: _level_runs_away,
    n.PlumbMayLean: _plumb_may_lean,
    n.AxisStaysOpen: _axis_stays_open,
    n.HeldAgainstReadings: _held_against_readings,
    n.Limited: _limited,
    n.FocalContradicted: _focal_contradicted,
    n.FocalAssumed: _focal_assumed,
    n.BendingContradicts: _bending_contradicts,
    n.BendingLimited: _bending_limited,
    n.KeepIsCut: _keep_is_cut,
    n.KeepIsCutByHand: _keep_is_cut_by_hand,
    n.AimIsMissed: _aim_is_missed,
    n.AimIsDear: _aim_is_dear,
}

_READ_AS: Mapping[Kind, str] = {
    "level": "It is a level line",
    "plumb": "It is a plumb line",
    "horizon": "It is the horizon",
    "check": "It really slopes",
    "trace": "Keep it as a trace",
    "set_out": "Make it a set-out line",
}

_LABELS: Mapping[type, Callable[[Any, Names], str]] = {
    e.ReadCamera: lambda _, __: "read the camera's level",
    e.SwitchReadings: lambda edit, names: (
        f"Switch {'on' if edit.active else 'off'} {names.short(edit.ids[0])}"
    ),
    e.PreferReading: lambda edit, names: f"Prefer {names.short(edit.id)}",
    e.MakeChecks: lambda edit, names: (
        f"{_first_upper(names.short(edit.ids[0]))} really slopes"
        if len(edit.ids) == 1
        else "They really slope"
    ),
    e.KeepAgreeing: lambda _, __: "Keep the readings that agree",
    e.TurnBy: lambda edit, _: (
        "Turn it the other way up" if abs(edit.deg) == 180 else f"Turn it by {edit.deg:g}°"
    ),
    e.HoldAxis: lambda edit, _: f"Hold the {edit.axis} at {edit.deg:g}°",
    e.FreeAxis: lambda edit, _: f"Let the {edit.axis} go free",
    e.AddStated: lambda _, __: "Put it on top",
    e.LeaveAxisIn: lambda edit, _: f"Leave the {edit.axis} in",
    e.ReadAs: lambda edit, _: _READ_AS[edit.kind],
    e.SetFocal: lambda edit, _: f"Take {edit.focal35_mm:.0f} mm",
    e.ChooseRatio: lambda edit, _: f"Take {edit.ratio}",
    e.AllowFill: lambda edit, _: f"Allow filling up to {edit.allowance * 100:.0f} %",
    e.ScaleEase: lambda edit, _: f"Ease the correction to {edit.share * 100:.0f} %",
    e.LetReadingBecome: lambda edit, names: f"Let {names.short(edit.id)} stay as it is",
    e.LimitBending: lambda edit, _: f"Allow up to {edit.max_stretch:g} times",
    e.ChangeAim: lambda _, __: "Meet a line",
    e.BestFrame: lambda _, __: "Back to the best frame",
}
