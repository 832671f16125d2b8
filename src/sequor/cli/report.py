"""What the command line prints: what was done, as plain values for JSON."""

from dataclasses import asdict

from sequor.core.camera import focal_px_of
from sequor.core.least_harm import LeastHarm
from sequor.core.propose.proposal import Proposal
from sequor.core.recipe import AXES
from sequor.core.report.proposals import proposal_words, reason_words
from sequor.core.report.report import notes_in_words
from sequor.core.solution import Solution
from sequor.core.solved import SolvedReading
from sequor.making.pipeline import Finished


def report(done: Finished) -> dict[str, object]:
    """The report; its fields are listed in docs/command-line.md."""
    solution, output = done.solution, done.output
    lens, stance = solution.lens, solution.stance
    return {
        "roll_deg": stance.roll_deg,
        "lean_deg": stance.lean_deg,
        "swing_deg": stance.swing_deg,
        "sigma_deg": {axis: stance.axis(axis).sigma_deg for axis in AXES},
        "left_in": [axis for axis in AXES if stance.axis(axis).left_in],
        "measured_deg": {axis: stance.axis(axis).measured_deg for axis in AXES},
        "homography": solution.homography,
        "focal_px": focal_px_of(solution.focal.focal35_mm, done.photo),
        "focal_source": solution.focal.source,
        "bow": {
            "k1": lens.polynomial[1],
            "k2": lens.polynomial[3],
            "k3": lens.polynomial[5],
            "p1": lens.tangential[0],
            "p2": lens.tangential[1],
            "centre": lens.centre,
            "polynomial": lens.polynomial,
            "source": lens.source,
            "sigma": lens.sigma,
        },
        "bend": _bend(solution),
        "frame": solution.frame.model_dump(),
        "kept_measured": solution.kept_measured,
        "output": {
            "width": output.width,
            "height": output.height,
            "ppi": output.ppi,
            "scale": output.scale,
        },
        "kept_fraction": solution.kept_fraction,
        "lost": solution.cost.lost.model_dump(),
        "empty_pixels": done.empty_pixels,
        "filled_share": done.filled_share,
        "doubt": done.judged.doubt if done.judged else None,
        "flaws": [asdict(flaw) for flaw in done.judged.flaws] if done.judged else [],
        "harm": _harm(done.weighed) if done.weighed else None,
        "readings": [_reading(reading) for reading in solution.readings],
        "notes": [note.text for note in notes_in_words(done.recipe, solution)],
        "next_line": solution.next_line.model_dump() if solution.next_line else None,
    }


def proposal_report(proposal: Proposal) -> dict[str, object]:
    """What is proposed; its fields are listed in docs/command-line.md."""
    return {
        "want": proposal.want,
        "told": proposal.told,
        "readings": [
            {
                "kind": one.reading.kind,
                "points": one.reading.points,
                "angle_deg": one.angle_deg,
                "sigma_deg": one.sigma_deg,
                "share": one.share,
                "reason": reason_words(one),
            }
            for one in proposal.readings
        ],
        **{f"{axis}_deg": proposal.axis(axis).deg for axis in AXES},
        "sigma_deg": {axis: proposal.axis(axis).sigma_deg for axis in AXES},
        "sure": proposal.sure,
        "words": proposal_words(proposal).summary,
    }


def _bend(solution: Solution) -> dict[str, object] | None:
    """How the picture bends, and what of each reading's wanted angle is met; None where it does
    not.
    """
    bend = solution.bend
    if bend is None:
        return None
    return {
        **bend.model_dump(exclude={"mesh"}),
        "met": [
            {
                "reading": reading.number,
                "wanted_deg": reading.wanted_deg,
                "left_deg": reading.left_deg,
                "sag_px": reading.sag_px,
            }
            for reading in solution.readings
            if reading.active and reading.kind != "check"
        ],
    }


def _harm(weighed: LeastHarm) -> dict[str, object]:
    """Points of harm of the mixture that does the least, and of the plain ways."""
    harm = weighed.best.harm
    return {
        "points": {**harm.model_dump(), "total": harm.total},
        "plain": {way: mixture.harm.total for way, mixture in weighed.plain},
        "compared": weighed.compared,
        "sure": weighed.sure,
    }


def _reading(reading: SolvedReading) -> dict[str, object]:
    named = {"kind", "angle_deg", "sigma_deg", "residual_deg", "outlier"}
    sag = None
    if reading.sag_px is not None:
        sag = {"before": reading.sag_before_px, "after": reading.sag_px}
    return {**reading.model_dump(include=named), "fitted": reading.fitted, "sag_px": sag}
