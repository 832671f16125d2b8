"""Sentences for notes, and labels for what they offer."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from sequor.core import edits as e
from sequor.core import notes as n
from sequor.core.frame.composition import NAMES
from sequor.core.language import listed, lower, mark, tr, tr_in, tr_plural
from sequor.core.names import named
from sequor.core.recipe import Axis, Kind
from sequor.core.report.reading_names import Names
from sequor.core.report.words import axis_words, focal_words, share_words, size_words


def note_text(note: n.Note, names: Names) -> str:
    """A note as one or two sentences."""
    return _TEXTS[type(note)](note, names)


def offer_label(edit: e.Edit, names: Names) -> str:
    """What a button says that does an edit."""
    return _LABELS[type(edit)](edit, names)


def _first_upper(text: str) -> str:
    return text[:1].upper() + text[1:]


def _traces_say_too_little(_: n.TracesSayTooLittle, __: Names) -> str:
    return tr(
        "The traces say too little of the bow, so none is taken out. A line "
        "through the middle of the picture stays straight in any lens: trace "
        "something long and straight near a border."
    )


def _decentring_open(_: n.DecentringOpen, __: Names) -> str:
    return tr(
        "The traces look as if the lens were not quite centred, but reach too "
        "little of the border to tell by how much. Trace something straight along "
        "another border."
    )


def _trace_stays_bent(note: n.TraceStaysBent, names: Names) -> str:
    why = (
        tr("perhaps it is not straight in reality.")
        if note.alone
        else tr("it contradicts the other traces, or is not straight in reality.")
    )
    trace = _first_upper(names.short(note.readings[0]))
    return tr(
        "{trace} stays bent by {sag_px:.1f} px when the bow is taken out: {why}",
        trace=trace,
        sag_px=note.sag_px,
        why=why,
    )


def _odd_one_out(note: n.OddOneOut, names: Names) -> str:
    text = tr(
        "{reading} does not fit: it is {off_deg:.2f}° off what the others say, "
        "far more than its precision of {sigma_deg:.2f}°.",
        reading=_first_upper(names.long(note.readings[0])),
        off_deg=note.off_deg,
        sigma_deg=note.sigma_deg,
    )
    if note.direction == "plumb":
        why = tr("Perhaps what it lies on is not upright: old walls and posts really are crooked.")
    elif note.farther:
        why = tr(
            "It lies nearer to the camera than {other}; if it runs away from the "
            "camera, perspective tilts it, and the farther line is the better level.",
            other=names.long(note.farther),
        )
    else:
        why = tr("Perhaps it is not level in reality, or runs away from the camera.")
    return f"{text} {why}"


def _contradiction(note: n.Contradiction, names: Names) -> str:
    text = tr(
        "{readings} disagree by {apart_deg:.2f}°, more than their precision "
        "explains, and nothing says which is right.",
        readings=_first_upper(names.listed(note.readings)),
        apart_deg=note.apart_deg,
    )
    if note.better and note.worse:
        why = tr(
            "A line that runs away from the camera is tilted by perspective, the "
            "nearer the more: {reading} is farther and the better level than {worse}.",
            reading=names.short(note.better),
            worse=names.short(note.worse),
        )
    elif note.all_plumb:
        why = tr(
            "One of the things they lie on may really be crooked. One more plumb "
            "reading would tell."
        )
    else:
        why = tr("One more reading would tell; or an axis is held that must be free.")
    return " ".join(filter(None, (text, why, _outcome_words(note.outcomes, names))))


def _outcome_words(outcomes: Sequence[n.Outcome], names: Names) -> str:
    """What the stance is without each of some readings."""
    return " ".join(
        tr(
            "Without {reading} {stance}.",
            reading=names.short(one.without),
            stance=_stance_words(one),
        )
        for one in outcomes
    )


def _stance_words(one: n.Outcome) -> str:
    axes: tuple[tuple[Axis, float | None], ...] = (("lean", one.lean_deg), ("swing", one.swing_deg))
    told = [tr("the picture is tilted {angle}", angle=axis_words("roll", -one.roll_deg))]
    told += [
        tr("the {axis} is {angle}", axis=named(axis), angle=axis_words(axis, deg))
        for axis, deg in axes
        if deg is not None
    ]
    return ", ".join(told)


def _one_may_be_wrong(note: n.OneMayBeWrong, names: Names) -> str:
    return tr(
        "The readings agree, but so few could agree by chance with one of them "
        "wrong. {outcomes} One more line would tell.",
        outcomes=_outcome_words(note.outcomes, names),
    )


def _roll_outside_readings(note: n.RollOutsideReadings, names: Names) -> str:
    said = " ".join(
        tr(
            "If {reading} really slopes, {stance}.",
            reading=names.short(one.without),
            stance=_stance_words(one),
        )
        for one in note.outcomes
    )
    if note.taken_deg is not None:
        return (
            tr(
                "By how its lines converge the picture would be tilted {angle}, which "
                "none of them is: {angle2} is taken out, as if they did not converge. ",
                angle=axis_words("roll", note.tilt_deg),
                angle2=axis_words("roll", note.taken_deg),
            )
        ) + (said or tr("A line on the other side would tell."))
    if note.outcomes:
        return tr(
            "The picture is taken to be tilted {angle}, which none of its lines "
            "is: it rests on how they converge. {said}",
            angle=axis_words("roll", note.tilt_deg),
            said=said,
        )
    return tr(
        "The picture is taken to be tilted {angle}, which none of its lines "
        "is: they are tilted from {angle2} to {angle3}. It rests on how "
        "they converge; an upright that is crooked in reality has much weight "
        "there. A line on the other side would tell.",
        angle=axis_words("roll", note.tilt_deg),
        angle2=axis_words("roll", note.least_deg),
        angle3=axis_words("roll", note.most_deg),
    )


def _lies_on_its_side(note: n.LiesOnItsSide, names: Names) -> str:
    turned = tr("The picture is turned {angle}", angle=axis_words("roll", note.roll_deg))
    if note.readings:
        return tr(
            "{turned} onto its side by {other}: no tilt but another orientation. Is the "
            "line of the other kind in reality, or the other way up right?",
            turned=turned,
            other=names.long(note.readings[0]),
        )
    return tr(
        "{turned}. A line has no head: the other way up fits the readings as well.", turned=turned
    )


def _several_do_not_fit(note: n.SeveralDoNotFit, names: Names) -> str:
    return tr(
        "{readings} do not fit the others. Each is off by more than its "
        "precision explains; they count for little now.",
        readings=_first_upper(names.listed(note.readings)),
    )


def _swing_rests_on_near(note: n.SwingRestsOnNear, names: Names) -> str:
    near, far = note.readings
    return tr(
        "{near} alone asks for a swing of {angle}. It lies near, "
        "{apart_deg:.2f}° off {other}: if it runs away from the camera, perspective "
        "tilts it, and {reading}, the farther one, is the better level.",
        near=_first_upper(names.long(near)),
        angle=axis_words("swing", note.swing_deg),
        apart_deg=note.apart_deg,
        other=names.long(far),
        reading=names.short(far),
    )


def _short_reading(note: n.ShortReading, names: Names) -> str:
    reading = _first_upper(names.long(note.readings[0]))
    yet = (
        tr(" Yet the {decides} rests on it alone.", decides=named(note.decides))
        if note.decides
        else ""
    )
    return tr(
        "{reading} is short: its angle is only good to {sigma_deg:.1f}°.{yet} A "
        "longer line along the same edge says more.",
        reading=reading,
        sigma_deg=note.sigma_deg,
        yet=yet,
    )


def _same_line_twice(note: n.SameLineTwice, names: Names) -> str:
    one, other = note.readings
    return tr(
        "{one} and {other} lie on nearly the same line: together they say "
        "little more than one. A line far from both would tell more.",
        one=_first_upper(names.long(one)),
        other=names.long(other),
    )


def _level_runs_away(note: n.LevelRunsAway, names: Names) -> str:
    reading = _first_upper(names.long(note.readings[0]))
    helps = (
        tr("If it is the horizon itself, say so.")
        if note.offers
        else tr("One nearer to eye level, or a plumb line, would be better.")
    )
    return tr(
        "{reading} may run away from the camera: if it does so by "
        "{direction_deg:.0f}° from square, it is {off_deg:.1f}° off. {helps}",
        reading=reading,
        direction_deg=note.direction_deg,
        off_deg=note.off_deg,
        helps=helps,
    )


def _plumb_may_lean(note: n.PlumbMayLean, names: Names) -> str:
    reading = _first_upper(names.long(note.readings[0]))
    return tr(
        "{reading} stands away from the middle: if the camera pointed up or down "
        "by {lean_deg:.0f}°, the roll is {off_deg:.1f}° off. A second plumb line "
        "on the other side tells which.",
        reading=reading,
        lean_deg=note.lean_deg,
        off_deg=note.off_deg,
    )


def _axis_stays_open(note: n.AxisStaysOpen, names: Names) -> str:
    kind = "plumb" if note.axis == "lean" else "level"
    return tr(
        "The {axis} cannot be told from {readings}: they are too short or too near "
        "to each other. It is left in; a {kind} line far from them would tell.",
        axis=named(note.axis),
        readings=names.listed(note.readings),
        kind=named(kind),
    )


def _held_against_readings(note: n.HeldAgainstReadings, _: Names) -> str:
    kind = "plumb" if note.axis == "lean" else "level"
    return tr(
        "The {kind} readings converge as if the camera had pointed {angle}, "
        "but the {axis} is held at {size}.",
        kind=named(kind),
        angle=axis_words(note.axis, note.free_deg),
        axis=named(note.axis),
        size=size_words(note.held_deg),
    )


def _limited(note: n.Limited, _: Names) -> str:
    axes: tuple[tuple[Axis, float, float], ...] = (
        ("lean", note.wanted_lean_deg, note.lean_deg),
        ("swing", note.wanted_swing_deg, note.swing_deg),
    )
    spoken = [axis for axis in axes if round(axis[1], 2)]
    wanted = listed([axis_words(axis, asked) for axis, asked, _ in spoken])
    taken = listed(
        [
            tr("{applied:.1f}° of {axis}", applied=abs(applied), axis=named(axis))
            for axis, _, applied in spoken
        ]
    )
    ease = (
        tr("ease lean and swing, or hold one of them")
        if len(spoken) == 2
        else tr("or ease or hold it")
    )
    return tr_plural(
        "Taking out {wanted} would stretch a side of the picture beyond {stretch:g} times, so only "
        "{taken} is taken out. Check the readings, {ease}.",
        "Taking out {wanted} would stretch a side of the picture beyond {stretch:g} times, so only "
        "{taken} are taken out. Check the readings, {ease}.",
        len(spoken),
        wanted=wanted,
        stretch=note.stretch,
        taken=taken,
        ease=ease,
    )


def _focal_contradicted(note: n.FocalContradicted, _: Names) -> str:
    said = (
        mark(
            "You stated a focal length of {focal35_mm:.0f} mm, the readings fit {focal}. "
            "A picture that was cropped before has that effect."
        )
        if note.source == "stated"
        else mark(
            "The file says a focal length of {focal35_mm:.0f} mm, the readings fit {focal}. "
            "A picture that was cropped before has that effect."
        )
    )
    return tr(
        said,
        focal35_mm=note.focal35_mm,
        focal=focal_words(note.estimate35_mm, note.estimate_sigma_mm),
    )


def _focal_assumed(note: n.FocalAssumed, _: Names) -> str:
    says = tr("State the right one in the Lens step if you know it.")
    depends = tr("Proportions depend on it")
    if round(note.proportions_off, 2) > 0:
        depends += tr(
            ": height against width may be {proportions_off:.0f} % off",
            proportions_off=note.proportions_off * 100,
        )
    if note.hangs:
        hangs = note.hangs
        depends = tr(
            "The {axis} is {angle} for a lens of {short_mm:.0f} mm and "
            "{angle2} for one of {long_mm:.0f} mm. {depends}",
            axis=named(hangs.axis),
            angle=axis_words(hangs.axis, hangs.short_deg),
            short_mm=hangs.short_mm,
            angle2=axis_words(hangs.axis, hangs.long_deg),
            long_mm=hangs.long_mm,
            depends=depends,
        )
    if note.misfit:
        depends = tr("The readings do not agree with it. {depends}", depends=depends)
    if note.estimate35_mm and note.estimate_sigma_mm:
        says = tr(
            "The readings say {focal}.",
            focal=focal_words(note.estimate35_mm, note.estimate_sigma_mm),
        )
    return tr(
        "The file does not say its focal length; {focal35_mm:.0f} mm is assumed. {depends}. {says}",
        focal35_mm=note.focal35_mm,
        depends=depends,
        says=says,
    )


def _bending_contradicts(note: n.BendingContradicts, names: Names) -> str:
    met = ", ".join(
        tr(
            "{reading} to {share:.0f} % ({size} left)",
            reading=names.short(one.reading),
            share=one.share * 100,
            size=size_words(one.left_deg),
        )
        for one in note.met
    )
    return tr_plural(
        "{readings} cannot have all that is wanted of the lines at once. Met is {met}.",
        "{readings} cannot have all that is wanted of the lines at once. Met are {met}.",
        len(note.met),
        readings=_first_upper(names.listed(note.readings)),
        met=met,
    )


def _bending_limited(note: n.BendingLimited, _: Names) -> str:
    return tr(
        "Bending all that is asked would stretch or squeeze a part of the picture "
        "more than {limit:g} times, so {share:.0f} % of it is done.",
        limit=note.limit,
        share=note.share * 100,
    )


def _keep_is_cut(note: n.KeepIsCut, _: Names) -> str:
    limit = tr("nothing filled")
    if note.allowance:
        limit = tr("a fill allowance of {allowance:.0f} %", allowance=note.allowance * 100)
    helps = "" if note.offers else tr(" Draw a smaller box.")
    return tr(
        "No frame of this shape can contain the whole of the box to keep with "
        "{limit}, so it is cut.{helps}",
        limit=limit,
        helps=helps,
    )


def _keep_is_cut_by_hand(_: n.KeepIsCutByHand, __: Names) -> str:
    return tr("The frame as you placed it cuts the box to keep.")


def _aim_is_missed(note: n.AimIsMissed, _: Names) -> str:
    if note.aim == "between":
        return tr(
            "No frame lies midway between these two edges without an empty corner; it "
            "lies where it is largest."
        )
    where = tr("a crossing") if note.aim == "crossing" else tr("a line")
    return tr(
        "No frame puts the point on {where} of the guide; the frame lies where it is largest.",
        where=where,
    )


def _aim_is_dear(note: n.AimIsDear, _: Names) -> str:
    kept, by_line = share_words(note.kept), share_words(note.by_line)
    return tr(
        "The crossing keeps {kept} of the picture; with the point on a line of the "
        "{guide} instead it would be {by_line}.",
        kept=kept,
        guide=lower(tr(NAMES[note.guide])),
        by_line=by_line,
    )


def _hand_gave_way(note: n.HandGaveWay, _: Names) -> str:
    turned = _first_upper(axis_words(note.axis, note.deg))
    return tr(
        "{turned}, as you had turned it by hand, gave way to what the lines say.", turned=turned
    )


def _camera_tells(note: n.CameraTells, _: Names) -> str:
    tilted = (
        tr("Tilted {angle}", angle=axis_words("roll", -note.roll_deg))
        if note.roll_deg
        else tr_in("camera", "Level")
    )
    lean = (
        tr(" It pointed {angle}.", angle=axis_words("lean", note.lean_deg)) if note.lean_deg else ""
    )
    return tr(
        "{tilted}, by the camera's own level, which is good to about a degree.{lean}",
        tilted=tilted,
        lean=lean,
    )


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
    "level": mark("It is a level line"),
    "plumb": mark("It is a plumb line"),
    "horizon": mark("It is the horizon"),
    "check": mark("It really slopes"),
    "trace": mark("Keep it as a trace"),
    "set_out": mark("Make it a set-out line"),
}

_LABELS: Mapping[type, Callable[[Any, Names], str]] = {
    e.ReadCamera: lambda _, __: tr("read the camera's level"),
    e.SwitchReadings: lambda edit, names: tr(
        mark("Switch on {reading}") if edit.active else mark("Switch off {reading}"),
        reading=names.short(edit.ids[0]),
    ),
    e.PreferReading: lambda edit, names: tr("Prefer {reading}", reading=names.short(edit.id)),
    e.MakeChecks: lambda edit, names: (
        tr("{reading} really slopes", reading=_first_upper(names.short(edit.ids[0])))
        if len(edit.ids) == 1
        else tr("They really slope")
    ),
    e.KeepAgreeing: lambda _, __: tr("Keep the readings that agree"),
    e.TurnBy: lambda edit, _: (
        tr("Turn it the other way up")
        if abs(edit.deg) == 180
        else tr("Turn it by {deg:g}°", deg=edit.deg)
    ),
    e.HoldAxis: lambda edit, _: tr(
        "Hold the {axis} at {deg:g}°", axis=named(edit.axis), deg=edit.deg
    ),
    e.FreeAxis: lambda edit, _: tr("Let the {axis} go free", axis=named(edit.axis)),
    e.AddStated: lambda _, __: tr("Put it on top"),
    e.LeaveAxisIn: lambda edit, _: tr("Leave the {axis} in", axis=named(edit.axis)),
    e.ReadAs: lambda edit, _: tr(_READ_AS[edit.kind]),
    e.SetFocal: lambda edit, _: tr("Take {focal35_mm:.0f} mm", focal35_mm=edit.focal35_mm),
    e.ChooseRatio: lambda edit, _: tr("Take {ratio}", ratio=edit.ratio),
    e.AllowFill: lambda edit, _: tr(
        "Allow filling up to {allowance:.0f} %", allowance=edit.allowance * 100
    ),
    e.ScaleEase: lambda edit, _: tr("Ease the correction to {share:.0f} %", share=edit.share * 100),
    e.LetReadingBecome: lambda edit, names: tr(
        "Let {reading} stay as it is", reading=names.short(edit.id)
    ),
    e.LimitBending: lambda edit, _: tr(
        "Allow up to {max_stretch:g} times", max_stretch=edit.max_stretch
    ),
    e.ChangeAim: lambda _, __: tr("Meet a line"),
    e.BestFrame: lambda _, __: tr("Back to the best frame"),
}
