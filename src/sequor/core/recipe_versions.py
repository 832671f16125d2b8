"""Recipes of older versions, brought up to date as plain values before they are validated.

Every version that was ever stored still opens. Version 2 named three things by the field's terms:
``bow`` became ``lens``, ``corners`` became ``fill``, and the numbers in ``corners.seeds``, of
which odd ones stood for sharp candidates and even ones for calm ones, became
``fill.candidates``, which say so. Version 3 has axes that are left in the picture, and frames
that keep what was measured; before, everything that was measured was taken out, and frames cut it.
Version 4 can bend; nothing of an older one does. Version 5 knows what a hand has stated from what
it added: of an older one all is stated where no reading steered, and nothing where one did. Version
6 eases lean and swing apart, and its frames keep the foot of what was measured where they cannot
keep all of it; older ones kept nothing of it then. Nor does a lean or swing that is not believed
turn its picture, as it did before. Version 8 has mends; no older one has; and what bends is closed
further, where older ones gave up.
"""

from collections.abc import Callable, Mapping

CURRENT = 8


def up_to_date(value: object) -> object:
    """A recipe as stored, in the newest version; what is no older recipe is returned as it is.

    Parameters
    ----------
    value : object
        A mapping as JSON gives it, of any version; other values are left to the validation. A
        mapping without a version is of the newest one.
    """
    if not isinstance(value, Mapping):
        return value
    for version, newer in _STEPS:
        if value.get("version", CURRENT) == version:
            value = newer(value)
    return value


def _from_1(old: Mapping[str, object]) -> dict[str, object]:
    new = {name: part for name, part in old.items() if name not in ("version", "bow", "corners")}
    bow, corners = old.get("bow"), old.get("corners")
    if isinstance(bow, Mapping):
        new["lens"] = {("name" if key == "lens" else key): part for key, part in bow.items()}
    elif bow is not None:
        new["lens"] = bow
    if isinstance(corners, Mapping):
        fill = {key: part for key, part in corners.items() if key != "seeds"}
        seeds = corners.get("seeds")
        if isinstance(seeds, (list, tuple)):
            fill["candidates"] = [_candidate(seed) for seed in seeds]
        new["fill"] = fill
    elif corners is not None:
        new["fill"] = corners
    return new | {"version": 2}


def _from_2(old: Mapping[str, object]) -> dict[str, object]:
    leave_in = {"roll": False, "lean": False, "swing": False}
    frame = old.get("frame")
    framed = {**(frame if isinstance(frame, Mapping) else {}), "keep_measured": False}
    return {**old, "leave_in": leave_in, "frame": framed, "version": 3}


def _from_3(old: Mapping[str, object]) -> dict[str, object]:
    return {**old, "version": 4}


def _from_4(old: Mapping[str, object]) -> dict[str, object]:
    trim, readings = old.get("trim"), old.get("readings")
    new = {**old, "version": 5}
    if isinstance(trim, Mapping) and not (isinstance(readings, (list, tuple)) and readings):
        axes = [axis for axis in ("roll", "lean", "swing") if trim.get(f"{axis}_deg")]
        new["trim"] = {**trim, "stated": axes}
    return new


def _from_5(old: Mapping[str, object]) -> dict[str, object]:
    new = {**old, "version": 6}
    ease, frame = old.get("ease"), old.get("frame")
    if isinstance(ease, Mapping) and "perspective" in ease:
        both = ease["perspective"]
        others = {name: part for name, part in ease.items() if name != "perspective"}
        new["ease"] = {**others, "lean": both, "swing": both}
    readings = old.get("readings")
    if not (isinstance(readings, (list, tuple)) and readings):
        return new  # what the rest is about rests on readings
    leave_in = old.get("leave_in")
    left = leave_in if isinstance(leave_in, Mapping) else {}
    new["leave_in"] = {**left, "turn_the_roll": True}
    new["frame"] = {**(frame if isinstance(frame, Mapping) else {}), "foot_first": False}
    return new


def _from_6(old: Mapping[str, object]) -> dict[str, object]:
    return {**old, "version": 7}


def _from_7(old: Mapping[str, object]) -> dict[str, object]:
    new, bend = {**old, "version": 8}, old.get("bend")
    if isinstance(bend, Mapping) and (bend.get("lines") or bend.get("corners")):
        new["bend"] = {**bend, "persistent": False}
    return new


def _candidate(seed: object) -> object:
    """Odd seeds were sharp, even ones calm; a sharp one and the calm one after it began alike."""
    if not isinstance(seed, int):
        return seed
    return {"style": "sharp" if seed % 2 else "calm", "draw": (seed + 1) // 2}


_STEPS: tuple[tuple[int, Callable[[Mapping[str, object]], dict[str, object]]], ...] = (
    (1, _from_1),
    (2, _from_2),
    (3, _from_3),
    (4, _from_4),
    (5, _from_5),
    (6, _from_6),
    (7, _from_7),
)
