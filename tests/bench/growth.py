"""How a cost grows: its exponent, and the plot of docs/speed.md (matplotlib)."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import matplotlib
import numpy as np

matplotlib.use("svg")
from matplotlib import pyplot


@dataclass(frozen=True)
class Curve:
    """What something cost at some sizes.

    Attributes
    ----------
    of, unit : str
        Of what the sizes count, and in what the cost is.
    """

    what: str
    of: str
    unit: str
    sizes: tuple[float, ...]
    costs: tuple[float, ...]

    @property
    def exponent(self) -> float:
        """That of the power of the size which the cost follows, by least squares over logarithms:
        1 is linear, 0 costs the same at every size.
        """
        return float(np.polyfit(np.log(self.sizes), np.log(self.costs), 1)[0])

    @property
    def last_exponent(self) -> float:
        """The same between the two largest sizes, where what is constant counts least."""
        rise = np.log(self.costs[-1] / self.costs[-2])
        return float(rise / np.log(self.sizes[-1] / self.sizes[-2]))

    def as_row(self) -> str:
        """A row of the table."""
        costs = " | ".join(f"{cost:.3g}" for cost in self.costs)
        return f"| {self.what}, {self.unit} | {costs} | {self.exponent:.2f} |"


def table(curves: Sequence[Curve]) -> str:
    """Curves over the same sizes, as a table."""
    sizes = " | ".join(f"{size:g}" for size in curves[0].sizes)
    lines = [f"| {curves[0].of} | {sizes} | exponent |", "|---" * (len(curves[0].sizes) + 2) + "|"]
    return "\n".join([*lines, *(curve.as_row() for curve in curves)])


def draw(curves: Sequence[Curve], path: Path) -> None:
    """All of them, those of the same sizes in one picture, over logarithms."""
    axes_of = list(dict.fromkeys(curve.of for curve in curves))
    pyplot.rcParams["svg.fonttype"] = "none"
    pyplot.rcParams["svg.hashsalt"] = "sequor"
    figure, axes = pyplot.subplots(1, len(axes_of), figsize=(4 * len(axes_of), 3.4))
    for axis, of in zip(np.atleast_1d(axes), axes_of, strict=True):
        for curve in (one for one in curves if one.of == of):
            axis.loglog(curve.sizes, curve.costs, "o-", label=f"{curve.what}, {curve.unit}")
        axis.set_xlabel(of)
        axis.grid(True, alpha=0.3)
        axis.legend(fontsize=7)
    figure.tight_layout()
    figure.savefig(path, metadata={"Date": None})
    pyplot.close(figure)
