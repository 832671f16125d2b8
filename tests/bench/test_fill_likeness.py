"""How like the truth fills are on photographs that nothing was chosen on, and what the risk that is
told of each is worth there.
"""

import numpy as np
import scipy
from scipy.stats import spearmanr

from sequor.core.fill.judge import judge
from sequor.core.fill.risk import crossings_of
from tests.bench.targets import Measured, tell
from tests.core.test_fill import (
    CALM,
    METHODS,
    PHOTOGRAPHS,
    SHARP,
    filled,
    inpainted,
    likeness,
    wedges,
)
from tests.core.test_judge import marked_regions
from tests.judged_on import judged_on, open_photograph

TURN_DEG = 2.0
SMALLEST_PX, DEEP_PX, RADIUS_PX, LEAST_PX = 300, 5, 14, 250
OTHER, STEP_LEVELS = 90, 22
"""Grey levels by which a planted piece and a planted step differ."""
JUDGED = judged_on(tuple(PHOTOGRAPHS))


def test_fills_of_photographs_that_nothing_was_chosen_on() -> None:
    rows, risks, doubts, marked, regions = [], [], [], 0, 0
    print("\n| picture | sharp (default) | calm | Telea | Navier-Stokes |\n|---|---|---|---|---|")
    for name in JUDGED:
        truth = open_photograph(name)
        hole = wedges(*truth.shape[:2], TURN_DEG)
        made = {
            "sharp": filled(truth, hole, SHARP),
            "calm": filled(truth, hole, CALM),
            "Telea": inpainted(truth, hole, 1),
            "Navier-Stokes": inpainted(truth, hole, 0),
        }
        row = [likeness(truth, made[method], hole)[0] for method in METHODS]
        rows.append(row)
        print(f"| {name} | " + " | ".join(f"{value:.3f}" for value in row) + " |")
        known = np.where(hole[..., None], 0, truth).astype(np.float32)
        risks.append(len(crossings_of(known, hole)))
        doubts.append([judge(made[m].astype(np.float32), hole).doubt for m in METHODS])
        counts = marked_regions(truth, hole)
        marked, regions = marked + counts[0], regions + counts[1]
    table = np.array(rows)
    print("| **mean** | " + " | ".join(f"{value:.3f}" for value in table.mean(axis=0)) + " |")
    ahead = int((table[:, 1] >= table[:, 2:].max(axis=1)).sum())
    tell(Measured("calm ahead of both", ahead, len(JUDGED), f"of {len(JUDGED)}", at_least=True))
    rank = float(spearmanr(risks, 1 - table[:, 0]).statistic)
    tell(Measured("rank correlation of the risk with the error", rank, 0.5, at_least=True))
    rank = float(spearmanr(np.ravel(doubts), np.ravel(1 - table)).statistic)
    tell(Measured("rank correlation of the doubt with the error", rank, 0.6, at_least=True))
    tell(Measured("regions of the truth that are marked", marked / regions, 0.1))


def test_planted_blunders_are_marked() -> None:
    """In a fill of each photograph that nothing was chosen on: discs from elsewhere, of another
    colour, and a step of brightness all along the seam.
    """
    random = np.random.default_rng(1)
    found = planted = steps = pictures = 0
    for name in JUDGED:
        truth = open_photograph(name)
        if min(truth.shape[:2]) < SMALLEST_PX:
            continue
        hole = wedges(*truth.shape[:2], TURN_DEG)
        made = filled(truth, hole, SHARP).astype(np.float32)
        for _ in range(6):
            blunder = with_disc(made, truth, hole, random)
            if blunder is not None:
                spoilt, x, y = blunder
                flaws = judge(spoilt, hole).flaws
                planted += 1
                found += any(np.hypot(f.x - x, f.y - y) < f.radius + RADIUS_PX for f in flaws)
        brighter = made.copy()
        brighter[hole] = np.clip(brighter[hole] + STEP_LEVELS, 0, 255)
        pictures += 1
        steps += any(flaw.kind == "seam" for flaw in judge(brighter, hole).flaws)
    print(f"\n{planted} discs, {pictures} pictures")
    tell(Measured("discs that are marked at their place", found / planted, 0.9, at_least=True))
    tell(Measured("steps at the seam that are marked", steps / pictures, 0.9, at_least=True))


def with_disc(
    made: np.ndarray, truth: np.ndarray, hole: np.ndarray, random: np.random.Generator
) -> tuple[np.ndarray, int, int] | None:
    """A fill with a disc of another part of the picture somewhere in the hole, and where; None
    where the hole is too thin or the picture has no other colour.
    """
    height, width = hole.shape
    deep = np.argwhere(scipy.ndimage.distance_transform_edt(hole) >= DEEP_PX)
    y, x = deep[random.integers(len(deep))]
    row, column = np.mgrid[0:height, 0:width]
    disc = hole & (np.hypot(row - y, column - x) < RADIUS_PX)
    if disc.sum() < LEAST_PX:
        return None
    own = made[disc].mean(axis=0)
    far = 2 * RADIUS_PX
    for _ in range(200):
        v, u = random.integers(far, height - far), random.integers(far, width - far)
        part = slice(v - RADIUS_PX, v + RADIUS_PX), slice(u - RADIUS_PX, u + RADIUS_PX)
        if not hole[part].any() and np.abs(truth[part].mean(axis=(0, 1)) - own).mean() > OTHER:
            rows, columns = np.nonzero(disc)
            spoilt = made.copy()
            spoilt[disc] = truth[rows - y + v, columns - x + u]
            return spoilt, int(x), int(y)
    return None
