"""How like the truth fills are on photographs that nothing was chosen on, and what the risk that is
told of each is worth there.
"""

import numpy as np
from scipy.stats import spearmanr

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
from tests.judged_on import judged_on, open_photograph

TURN_DEG = 2.0
JUDGED = judged_on(tuple(PHOTOGRAPHS))


def test_fills_of_photographs_that_nothing_was_chosen_on() -> None:
    rows, risks, errors = [], [], []
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
        errors.append(1 - row[0])
    table = np.array(rows)
    print("| **mean** | " + " | ".join(f"{value:.3f}" for value in table.mean(axis=0)) + " |")
    ahead = int((table[:, 1] >= table[:, 2:].max(axis=1)).sum())
    tell(Measured("calm ahead of both", ahead, len(JUDGED), f"of {len(JUDGED)}", at_least=True))
    rank = float(spearmanr(risks, errors).statistic)
    tell(Measured("rank correlation of the risk with the error", rank, 0.5, at_least=True))
