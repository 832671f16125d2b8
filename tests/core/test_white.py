"""The light that is to look neutral: lights of the standards, there and back through a camera."""

import numpy as np
import pytest
from hypothesis import given, reject
from hypothesis import strategies as st

from sequor.core.edits import CarryOver, ChooseWhite, PickGrey
from sequor.core.errors import UnusableInput
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Recipe, WhiteChoice
from sequor.core.white import (
    ILLUMINANTS,
    MAX_X,
    MIN_X,
    Illuminant,
    NoWhite,
    chromaticity_of,
    colour_temperature,
    gains_for,
)
from tests.edited import apply

# From XYZ to linear sRGB (IEC 61966-2-1): as good a camera as any.
CAMERA = np.array(
    [[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]]
)
RAW = PhotoFacts(width=600, height=400, raw=True)
FINISHED = RAW.changed(raw=False)


@pytest.mark.parametrize(
    ("light", "kelvins"),
    # CIE 15:2004: the correlated colour temperatures of D55, D65, D75 and A.
    [("daylight", 5503), ("cloud", 6504), ("shade", 7504), ("lamp", 2856)],
)
def test_the_lights_have_the_temperatures_of_the_standard(
    light: Illuminant, kelvins: float
) -> None:
    # McCamy's formula is good to a few kelvins where daylight and lamps are.
    assert colour_temperature(ILLUMINANTS[light]) == pytest.approx(kelvins, rel=2e-3)


def test_the_white_of_srgb_needs_no_gain() -> None:
    # IEC 61966-2-1: the white of sRGB is D65, so a camera of its primaries sees it as it is.
    np.testing.assert_allclose(gains_for(ILLUMINANTS["cloud"], CAMERA), 1, atol=2e-3)
    # Lamps have little blue, shade has much of it.
    lamp, shade = (gains_for(ILLUMINANTS[name], CAMERA) for name in ("lamp", "shade"))
    assert lamp[2] > 3
    assert lamp[0] == 1
    assert shade[2] == 1


@given(st.floats(0.25, 0.45), st.floats(0.25, 0.42), st.floats(0.01, 0.9))
def test_a_light_comes_back_from_what_the_camera_sees(x: float, y: float, level: float) -> None:
    try:
        gains = gains_for((x, y), CAMERA)
        found = chromaticity_of(level / gains, CAMERA)
    except NoWhite:
        reject()
    assert gains.min() == 1
    assert found == pytest.approx((x, y), abs=1e-9)


@pytest.mark.parametrize(
    # Table 1(3.3.11) of Wyszecki & Stiles, "Color Science", from memory; CIE 15:2004 for the rest.
    "light",
    [(0.4770, 0.4137), (0.4369, 0.4041), (0.3451, 0.3516), *ILLUMINANTS.values()],
    ids=["2500 K", "3000 K", "5000 K", *ILLUMINANTS],
)
def test_what_glows_and_daylight_are_lights(light: tuple[float, float]) -> None:
    assert chromaticity_of(0.4 / gains_for(light, CAMERA), CAMERA) == pytest.approx(light, abs=1e-9)


@pytest.mark.parametrize(
    "seen", [(1.0, 0.02, 0.02), (0.02, 1.0, 0.02), (0.0, 0.0, 1.0)], ids=["red", "green", "blue"]
)
def test_no_light_makes_what_is_coloured_grey(seen: tuple[float, float, float]) -> None:
    with pytest.raises(NoWhite):
        chromaticity_of(np.array(seen), CAMERA)


def test_a_camera_of_no_colours_tells_nothing() -> None:
    with pytest.raises(NoWhite):
        chromaticity_of(np.full(3, 0.5), np.ones((3, 3)))
    with pytest.raises(NoWhite):
        gains_for((0.3, 0.3), -np.eye(3))


def test_the_white_of_a_finished_picture_stays() -> None:
    for edit in (ChooseWhite(source="shade"), PickGrey(point=(10, 10), x=0.34, y=0.36)):
        with pytest.raises(UnusableInput, match="not a raw file"):
            apply(edit, Recipe(), FINISHED)
        assert apply(edit, Recipe(), RAW).white.chromaticity is not None
    # A spot that nobody has read says nothing.
    with pytest.raises(UnusableInput, match="not looked up"):
        apply(PickGrey(point=(10, 10)), Recipe(), RAW)


def test_a_spot_is_whole_or_not_there() -> None:
    for parts in ({"source": "spot"}, {"x": 0.3, "y": 0.3}, {"source": "lamp", "spot": (1, 1)}):
        with pytest.raises(ValueError, match="a grey spot has a place"):
            WhiteChoice.model_validate(parts)
    with pytest.raises(ValueError, match="x"):
        WhiteChoice(source="spot", spot=(1, 1), x=MAX_X + 0.01, y=0.3)
    assert WhiteChoice(source="spot", spot=(1, 1), x=MIN_X, y=0.3).chromaticity == (MIN_X, 0.3)


def test_a_light_is_carried_over_to_raw_pictures_only() -> None:
    recipe = apply(PickGrey(point=(10, 10), x=0.34, y=0.36), Recipe(), RAW)
    carried = CarryOver(parts=("white",), photo=RAW, recipe=recipe)
    other = RAW.changed(width=300, height=200)
    assert apply(carried, Recipe(), other).white == recipe.white
    assert apply(carried, Recipe(), FINISHED) == Recipe()
    assert carried.misfits(FINISHED, Recipe()) == {"white": "finished"}
    assert carried.misfits(other, Recipe()) == {}
