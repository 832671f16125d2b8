"""A ledger as lines: the way that leads through what holds, and the branches beside it."""

from collections.abc import Sequence


def depths_of(entries: Sequence[tuple[int, int | None]], head_id: int) -> dict[int, int]:
    """How far every entry lies off the main line.

    The main line leads from the first entry to the one that holds, and on as redo goes, always to
    the newest. A branch is one further off than what it left; the newest entry of a branch goes on
    with it.

    Parameters
    ----------
    entries : sequence of (int, int or None)
        Entries and what each was based on, in the order they were made.
    head_id : int
        The entry that holds.
    """
    parents = dict(entries)
    newest = {parent: entry for entry, parent in entries if parent is not None}
    main = {head_id}
    at = parents[head_id]
    while at is not None:
        main.add(at)
        at = parents[at]
    onward = newest.get(head_id)
    while onward is not None:
        main.add(onward)
        onward = newest.get(onward)
    depths: dict[int, int] = {}
    for entry, parent in entries:
        if entry in main or parent is None:
            depths[entry] = 0
        else:
            goes_on = parent not in main and newest[parent] == entry
            depths[entry] = depths[parent] + (0 if goes_on else 1)
    return depths
