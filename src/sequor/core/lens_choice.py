"""How a recipe says what lens a picture was taken with."""

from typing import Literal

from pydantic import Field

from sequor.core.photo import Polynomial
from sequor.core.value import Value

MAX_RADIAL = 2.0
"""Of k1 and k2; a fisheye lens has about -0.3."""
LensSource = Literal["none", "traces", "hand", "database"]
FoundLensSource = Literal["none", "traces", "hand", "database", "file"]


class LensChoice(Value):
    """How the radial distortion of the lens is found.

    ``traces`` works it out from the trace readings, or takes what the file states where there are
    none, ``hand`` takes ``k1`` and ``k2``, ``database``
    takes ``polynomial``: the coefficients c1 to c4 of
    ``r_d = r (1 + c1 r + c2 r^2 + c3 r^3 + c4 r^4)``, converted exactly from the database's entry
    ``name``. All are in units of half the diagonal.
    """

    source: LensSource = "traces"
    k1: float = Field(default=0.0, ge=-MAX_RADIAL, le=MAX_RADIAL)
    k2: float = Field(default=0.0, ge=-MAX_RADIAL, le=MAX_RADIAL)
    polynomial: Polynomial = (0.0, 0.0, 0.0, 0.0)
    name: str = Field(default="", max_length=200)
