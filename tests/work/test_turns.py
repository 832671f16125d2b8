"""Whose turn it is, as a pure rule."""

from hypothesis import given
from hypothesis import strategies as st

from sequor.work.engine import Lane, Task
from sequor.work.turns import PATIENCE_S, Busy, Turn, Waiting, next_turn, turns_of


def task(about: str, asker: str = "", memory_mb: float = 0.0, alone: str = "") -> Task:
    return Task(print, (), Lane.EXPORT, about, asker, memory_mb, alone)


def order_of(waiting: list[Task], budget_mb: float = 1e9) -> list[Task]:
    """The order in which tasks are begun by one worker."""
    left = [Waiting(one, float(place)) for place, one in enumerate(waiting)]
    turns: dict[str, float] = {}
    begun: list[Task] = []
    while left:
        turn = next_turn(left, Busy([], turns, budget_mb), 100.0)
        assert turn.place is not None
        chosen = left.pop(turn.place).task
        begun.append(chosen)
        turns |= dict.fromkeys(turns_of(chosen), float(len(begun)))
    return begun


def test_pictures_take_turns() -> None:
    begun = order_of([task("a"), task("a"), task("a"), task("b"), task("b")])
    assert [one.about for one in begun] == ["a", "b", "a", "b", "a"]


def test_people_take_turns_however_many_pictures_they_ask_for() -> None:
    many = [task(str(n), "one") for n in range(20)]
    begun = order_of([*many, task("x", "other"), task("y", "other")])
    assert [one.asker for one in begun[:5]] == ["one", "other", "one", "other", "one"]


def test_what_does_not_fit_is_passed_over_and_then_waited_for() -> None:
    waiting = [Waiting(task("large", memory_mb=900), 0.0), Waiting(task("small"), 1.0)]
    busy = Busy([task("other", memory_mb=200)], {"about small": 5.0}, 1000)
    assert next_turn(waiting, busy, 2.0) == Turn(1)
    assert next_turn(waiting, busy, PATIENCE_S + 1) == Turn(None, hold=True)
    assert next_turn(waiting, Busy([], {}, 1000), PATIENCE_S + 1) == Turn(0)


def test_the_hand_does_not_wait_for_memory() -> None:
    hand = Task(print, (), Lane.HAND, "a", memory_mb=900)
    assert next_turn([Waiting(hand, 0.0)], Busy([task("b", memory_mb=1000)], {}, 1000), 1.0) == (
        Turn(0)
    )


def test_what_must_run_alone_does_not_block_others() -> None:
    waiting = [Waiting(task("a", alone="fill"), 0.0), Waiting(task("b"), 1.0)]
    assert next_turn(waiting, Busy([task("c", alone="fill")], {}, 1), 100.0) == Turn(1)


@given(st.lists(st.tuples(st.sampled_from("abcd"), st.sampled_from("xy")), max_size=30))
def test_nobody_waits_for_more_than_one_turn_of_each_other(asked: list[tuple[str, str]]) -> None:
    """Between two turns of somebody who still waits, no other person has two."""
    begun = order_of([task(about, asker) for about, asker in asked])
    left = [one.asker for one in begun]
    for place, asker in enumerate(left[:-1]):
        if asker in left[place + 1 :] and set(left[place + 1 :]) != {asker}:
            assert left[place + 1] != asker
