"""What a measurement must come to, and the verdict.

Ratios against a reference that ran beside it fail when they are missed by more than the machine's
noise; absolute times and sizes depend on the machine and are only reported.
"""

from typing import NamedTuple

NOISE = 0.20
"""By how much a ratio differs from one run to the next: four runs of the export against OpenCV
within ten minutes gave 0.68 to 0.96, which is 17 % about their middle."""


class Measured(NamedTuple):
    """A figure and the most, or with ``at_least`` the least, it may be."""

    what: str
    figure: float
    target: float
    unit: str = ""
    at_least: bool = False

    @property
    def met(self) -> bool:
        """Whether the target is met as it stands."""
        return self.figure >= self.target if self.at_least else self.figure <= self.target

    @property
    def met_within_noise(self) -> bool:
        """Whether it is met or missed by no more than noise."""
        slack = -NOISE if self.at_least else NOISE
        return self._replace(target=self.target * (1 + slack)).met


def tell(measured: Measured) -> None:
    """Print a figure, its target and the verdict."""
    bound = "at least" if measured.at_least else "at most"
    unit = f" {measured.unit}".rstrip()
    verdict = "met" if measured.met else "MISSED"
    print(
        f"\n{measured.what}: {measured.figure:.3g}{unit}, target {bound} "
        f"{measured.target:g}{unit}: {verdict}"
    )


def hold_to(measured: Measured) -> None:
    """Print it, and fail when the target is missed by more than noise."""
    tell(measured)
    assert measured.met_within_noise, f"{measured.what}: {measured.figure:.3g} misses its target"
