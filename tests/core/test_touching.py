"""What a change of a recipe touches."""

from sequor.core.advance import advance
from sequor.core.edits import ChooseRatio, MovePoint, TurnBy
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Recipe
from sequor.core.touching import touched
from tests.conftest import line

PHOTO = PhotoFacts(width=900, height=600)
BEFORE = Recipe(
    readings=(line("level", 50, 300, 850, 310, id="a"), line("level", 50, 200, 850, 210, id="b"))
)


def after(*edits) -> Recipe:
    return advance(PHOTO, BEFORE, edits, None).recipe


def test_what_is_apart_and_what_is_not() -> None:
    turned = touched(BEFORE, after(TurnBy(axis="roll", deg=1)))
    leaned = touched(BEFORE, after(TurnBy(axis="lean", deg=2)))
    shaped = touched(BEFORE, after(ChooseRatio(ratio="3:2")))
    first = touched(BEFORE, after(MovePoint(id="a", point=1, to=(800, 305))))
    second = touched(BEFORE, after(MovePoint(id="b", point=1, to=(800, 205))))
    apart = [turned, leaned, shaped, first, second]
    for place, one in enumerate(apart):
        assert one
        assert all(not one & other for other in apart[place + 1 :])
    assert turned & touched(BEFORE, after(TurnBy(axis="roll", deg=3)))
    assert first & touched(BEFORE, after(MovePoint(id="a", point=1, to=(801, 305))))


def test_nothing_is_touched_by_nothing() -> None:
    assert touched(BEFORE, after()) == frozenset()


def test_another_part_of_a_list_is_apart_from_those_before() -> None:
    more = BEFORE.model_copy(
        update={"readings": (*BEFORE.readings, line("plumb", 90, 80, 95, 500, id="c"))}
    )
    found = touched(BEFORE, more)
    assert found
    assert all(place.startswith("readings.c") for place in found)
