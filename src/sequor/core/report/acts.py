"""What an edit is called in the ledger."""

from collections.abc import Callable, Mapping
from typing import Any

from sequor.core import edits as e
from sequor.core.report.words import millimetres


def edit_words(edit: e.Edit) -> str:
    """An edit in a few words, such as ``level reading added``."""
    return _WORDS[type(edit)](edit)


def _drawn(edit: e.DrawReading) -> str:
    other = {"trace": "trace added", "set_out": "set-out line added"}
    return other.get(edit.kind, f"{edit.kind} reading added")


def _focal(edit: e.SetFocal) -> str:
    if edit.focal35_mm is None:
        return "focal length of the file"
    return f"focal length {millimetres(edit.focal35_mm)}"


def _printed(edit: e.ChoosePrintSize) -> str:
    if edit.size is None:
        return "no print size"
    return f"print {edit.size.width:g} × {edit.size.height:g} {edit.size.unit}"


def _candidate(edit: e.ChooseCandidate) -> str:
    draw = f", draw {edit.candidate.draw}" if edit.candidate.draw > 1 else ""
    return f"{edit.candidate.style} fill{draw}"


def _becoming(edit: e.LetReadingBecome) -> str:
    if edit.becomes == "angle":
        return "wanted angle" if edit.wanted_deg is None else f"wanted at {edit.wanted_deg:g}°"
    return {"true": "to come true", "straight": "only to be straight"}.get(
        edit.becomes, "to stay as it is"
    )


_READ_AS = {"horizon": "the horizon", "set_out": "a set-out line"}
_SOURCES = {"none": "bow left in", "traces": "bow from traces", "hand": "bow by hand"}
_LEFT = {True: "{} left in", False: "{} taken out", None: "{} left to the readings"}
_EASED = {"roll": "roll eased", "perspective": "lean and swing eased"}

_WORDS: Mapping[type, Callable[[Any], str]] = {
    e.DrawReading: _drawn,
    e.PlaceRectangle: lambda _: "rectangle placed",
    e.MovePoint: lambda _: "reading moved",
    e.NudgePoint: lambda _: "reading moved",
    e.FitReading: lambda edit: f"reading fitted{' to another edge' if edit.another else ''}",
    e.UnfitReading: lambda _: "reading as drawn",
    e.RemoveReading: lambda _: "reading deleted",
    e.SwitchReadings: lambda edit: f"reading switched {'on' if edit.active else 'off'}",
    e.PreferReading: lambda _: "one reading preferred",
    e.MakeChecks: lambda _: "kept as a check",
    e.KeepAgreeing: lambda _: "readings that agree kept",
    e.ShowReading: lambda edit: f"reading {'shown' if edit.shown else 'hidden'}",
    e.NameReading: lambda _: "reading named",
    e.WeighReading: lambda _: "reading weighted",
    e.InkReadings: lambda edit: (
        "proposed reading inked"
        if len(edit.readings) == 1
        else f"{len(edit.readings)} proposed readings inked"
    ),
    e.RubOut: lambda _: "proposed line rubbed out",
    e.ReadAs: lambda edit: f"read as {_READ_AS.get(edit.kind, edit.kind)}",
    e.LetTraceServe: lambda edit: f"trace {edit.serves_as or 'for the bow only'}",
    e.TurnBy: lambda edit: "turned by hand" if edit.axis == "roll" else f"{edit.axis} by hand",
    e.TypeAngle: lambda edit: "tilt typed" if edit.axis == "roll" else f"{edit.axis} typed",
    e.ResetTrim: lambda _: "trim taken back",
    e.HoldAxis: lambda edit: f"{edit.axis} held",
    e.FreeAxis: lambda edit: f"{edit.axis} let go",
    e.LeaveAxisIn: lambda edit: _LEFT[edit.leave].format(edit.axis),
    e.SetEase: lambda edit: _EASED[edit.part],
    e.ScaleEase: lambda edit: f"correction eased to {edit.share * 100:.0f} %",
    e.SetFocal: _focal,
    e.ChooseLensSource: lambda edit: _SOURCES[edit.source],
    e.SetRadial: lambda _: "bow by hand",
    e.UseLens: lambda _: "bow of a lens",
    e.SetProportion: lambda _: "proportion",
    e.ChooseRatio: lambda edit: f"frame {edit.ratio}",
    e.ChoosePrintSize: _printed,
    e.TurnShape: lambda _: "frame turned over",
    e.KeepBox: lambda edit: "box to keep" if edit.corners else "nothing to keep",
    e.KeepMeasured: lambda edit: f"what was measured {'kept' if edit.keep else 'may be cut'}",
    e.MoveKeepCorner: lambda _: "box to keep",
    e.AimAt: lambda _: "aim",
    e.MoveAim: lambda _: "aim",
    e.ChangeAim: lambda _: "aim",
    e.AimBetween: lambda _: "centred between two edges",
    e.ClearAim: lambda _: "no aim",
    e.DragFrame: lambda edit: "frame moved" if edit.handle == (0, 0) else "frame resized",
    e.BestFrame: lambda _: "best frame",
    e.AllowFill: lambda _: "fill allowance",
    e.FillWith: lambda edit: f"corners {edit.method}",
    e.ChooseColour: lambda _: "colour of the corners",
    e.ChooseCandidate: _candidate,
    e.AvoidBox: lambda _: "not to be copied",
    e.CopyEverything: lambda _: "everything may be copied",
    e.LetReadingBecome: _becoming,
    e.PointReading: lambda _: "wanted angle",
    e.BendLines: lambda edit: f"lines bent {edit.share * 100:.0f} %",
    e.BendCorners: lambda edit: f"corners bent {edit.share * 100:.0f} %",
    e.ShareCorners: lambda _: "corners shared out",
    e.LimitBending: lambda _: "limit of bending",
    e.KeepStill: lambda _: "not to be bent",
    e.BendEverything: lambda _: "everything may bend",
    e.OpenRecipe: lambda _: "recipe opened",
}
