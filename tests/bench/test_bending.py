"""Bending: how long it takes, what it does to straight edges, and how much of a frame it closes."""

import math
import time
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
import pytest
import skimage.data

from sequor.core.bend.bend import Asked, bend, sides_of
from sequor.core.bend.lines import BentLine
from sequor.core.camera import Matrix
from sequor.core.photo import PhotoFacts
from sequor.core.propose.straight import straight_edges
from sequor.core.recipe import BendChoice, Reading, Recipe, Trim
from sequor.core.render.rendering import render
from sequor.core.solve import solve
from sequor.core.stance.orientation import measure_stance
from sequor.pictures.decode import decode
from sequor.pictures.encode import FileChoice, encode
from tests.bench.conftest import median_seconds
from tests.bench.targets import Measured, hold_to, tell
from tests.conftest import OPEN_PICTURES, ROOT
from tests.judged_on import judged_on, open_photograph

PHOTO = PhotoFacts(width=6000, height=4000, focal35_mm=28)
ROLLS_DEG = (2, 4, 6, 8)
OPEN = ("building.jpg", "home.jpg", "aloeL.jpg", "fruits.jpg")


def hundred_lines() -> tuple[Reading, ...]:
    rng = np.random.default_rng(9)
    readings = []
    for n in range(100):
        start = np.array([500 + 500 * (n % 10), 350 + 330 * (n // 10)])
        deg = rng.uniform(-1, 1) + 90 * (n % 2)
        end = start + 300 * np.array([math.cos(math.radians(deg)), math.sin(math.radians(deg))])
        kind = "plumb" if n % 2 else "level"
        points = (tuple(start.tolist()), tuple(end.tolist()))
        readings.append(Reading(id=str(n), kind=kind, points=points, becomes="true"))  # type: ignore[arg-type]
    return tuple(readings)


def test_a_mesh_with_a_hundred_lines() -> None:
    recipe = Recipe(readings=hundred_lines(), bend=BendChoice(lines=1, corners=0.5))
    lines = tuple(
        BentLine(np.array(one.points), math.radians(90 if one.kind == "plumb" else 0), 1.0)
        for one in recipe.readings
    )
    corners = np.array([[0, 0], [6000, 0], [6000, 4000], [0, 4000]], float)
    border = np.concatenate(
        [corners[k] + np.linspace(0, 1, 96, False)[:, None] * (corners[(k + 1) % 4] - corners[k])
         for k in range(4)]
    )  # fmt: skip
    asked = Asked(sides_of(border), 0.5, 1.5, lines)
    took = median_seconds(lambda: bend(asked), 9)
    tell(Measured("mesh with 100 lines", took * 1000, 60, "ms"))

    def solved() -> None:
        solve.cache_clear()
        measure_stance.cache_clear()
        solve(PHOTO, recipe)

    tell(Measured("the whole solution with it", median_seconds(solved) * 1000, 100, "ms"))


def test_export_of_24_megapixels_bent(large_jpeg: Path, tmp_path: Path) -> None:
    """The same export bent and unbent, by turns."""
    picture = decode(large_jpeg)
    edges = straight_edges(picture.pixels)
    plain = Recipe(trim=Trim(roll_deg=1.33))
    bent = plain.model_copy(update={"bend": BendChoice(corners=1, edges=edges)})

    def export(recipe: Recipe) -> float:
        start = time.perf_counter()
        read = decode(large_jpeg)
        rendered = render(read.pixels, solve(read.facts.photo, recipe))
        encode(rendered.pixels, read, large_jpeg, tmp_path / "a.jpg", FileChoice("jpeg", 95))
        assert rendered.empty_pixels == 0
        return time.perf_counter() - start

    took = np.array([[export(plain), export(bent)] for _ in range(6)])[1:]
    ratio = float(np.median(took[:, 1] / took[:, 0]))
    print(
        f"\nexport, 24 MP: {np.median(took[:, 0]):.2f} s unbent, {np.median(took[:, 1]):.2f} bent"
    )
    hold_to(Measured("bent export against unbent", ratio, 1.25, "times"))


def test_readings_on_24_megapixels() -> None:
    """As far as they do not contradict each other."""
    wanted = [
        ((600, 700), (2600, 760), 0.0),
        ((3600, 500), (3680, 2600), 90.0),
        ((900, 3300), (4300, 3000), -2.0),
        ((4800, 900), (5500, 1400), 38.0),
        ((700, 1400), (900, 2900), 84.0),
    ]
    readings = tuple(
        Reading(id=str(n), kind="set_out", points=(a, b), becomes="angle", wanted_deg=deg)
        for n, (a, b, deg) in enumerate(wanted)
    )
    x = np.linspace(1200, 5200, 30)
    kerb = np.column_stack([x, 3650 - 40 * np.sin((x - 1200) / 4000 * np.pi)])
    trace = Reading(id="kerb", kind="set_out", points=kerb.tolist(), becomes="straight")
    found = solve(PHOTO, Recipe(readings=(*readings, trace), bend=BendChoice(lines=1)))
    assert found.bend is not None
    assert found.bend.share == 1
    off = max(abs(one.left_deg) for one in found.readings if one.left_deg is not None)
    hold_to(Measured("angle left of what was wanted", off, 0.02, "deg"))
    sag = max(one.sag_px for one in found.readings if one.sag_px is not None)
    hold_to(Measured("sag left", sag, 0.3, "px"))


def pictures() -> dict[str, np.ndarray]:
    """The demo pictures, and open photographs of opencv-doc and scikit-image."""
    found = {
        path.name: decode(path).pixels for path in sorted((ROOT / "demo" / "pictures").iterdir())
    }
    for name in OPEN:
        path = OPEN_PICTURES / name
        if path.exists():
            found[name] = np.asarray(cv2.imread(str(path)), np.uint8)[:, :, ::-1]
    found["astronaut"] = skimage.data.astronaut()
    found["rocket"] = skimage.data.rocket()
    found["coffee"] = skimage.data.coffee()
    return found


def judged() -> dict[str, np.ndarray]:
    """Open photographs that nothing was chosen on."""
    return {name: open_photograph(name) for name in judged_on(OPEN)}


@pytest.mark.parametrize("deg", ROLLS_DEG)
@pytest.mark.parametrize("taken", [pictures, judged], ids=["made on", "judged on"])
def test_rolled_pictures_kept_whole(taken: Callable[[], dict[str, np.ndarray]], deg: int) -> None:
    """Straight edges over 40 pixels of the picture as the screen shows it, corners bent at 1."""
    kept, shares, sags, near, aslant, areas, empty = [], [], [], [], [], [], 0
    for name, pixels in taken().items():
        height, width = pixels.shape[:2]
        photo = PhotoFacts(width=width, height=height, focal35_mm=28)
        edges = straight_edges(pixels)
        bent = BendChoice(corners=1, edges=edges)
        plain = solve(photo, Recipe(trim=Trim(roll_deg=deg)))
        found = solve(photo, Recipe(trim=Trim(roll_deg=deg), bend=bent))
        assert found.bend is not None
        kept.append(found.kept_fraction)
        shares.append(found.bend.share)
        areas += [found.bend.min_jacobian, found.bend.max_jacobian]
        empty += render(pixels, found, size=(600, round(600 * height / width))).empty_pixels
        for a, b in edges:
            line = np.array(a) + np.linspace(0, 1, 41)[:, None] * (np.array(b) - np.array(a))
            before, after = (one.warp.to_corrected(line) for one in (plain, found))
            sags.append(sag_share(after))
            turned, direction = turn_deg(before, after)
            (near if direction < 15 else aslant).append(turned)
        done = f"{found.bend.share:.2f} done, {found.kept_fraction * 100:.1f} % kept"
        print(f"\n{name}: {done}, up to {found.bend.max_stretch:.2f} times", end="")
    assert empty == 0
    whole = np.array(kept) > 0.99
    print(f"\nroll {deg}: invented pixels {empty}, areas {min(areas):.2f} to {max(areas):.2f}")
    tell(Measured(f"roll {deg}, pictures kept whole", float(whole.mean()), 1, at_least=True))
    tell(Measured("  mean share of the bending done", float(np.mean(shares)), 1, at_least=True))
    tell(Measured("  edges straight within 1 in 1,000", share_below(sags, 0.001), 1, at_least=True))
    tell(Measured("  near level or plumb within 0.3 deg", share_below(near, 0.3), 1, at_least=True))
    tell(Measured("  others within 1 deg", share_below(aslant, 1.0), 1, at_least=True))
    assert min(areas) >= 0.6
    assert max(areas) <= 1.6 + 1e-6


def share_below(values: list[float], limit: float) -> float:
    return float((np.array(values) <= limit).mean())


def sag_share(points: Matrix) -> float:
    """How far a line bends from its chord, as a share of its length."""
    chord = points[-1] - points[0]
    length = math.hypot(*chord)
    across = np.array([-chord[1], chord[0]]) / length
    return float(np.abs((points - points[0]) @ across).max() / length)


def turn_deg(before: Matrix, after: Matrix) -> tuple[float, float]:
    """By how much a line was turned, and how far it had been from level or plumb."""
    (ax, ay), (bx, by) = before[-1] - before[0], after[-1] - after[0]
    was, now = math.degrees(math.atan2(ay, ax)), math.degrees(math.atan2(by, bx))
    return abs(math.remainder(now - was, 180)), abs(math.remainder(was, 90))


def test_a_drag_from_the_hand_to_the_solution() -> None:
    """What the server takes for each step of a drag of the corners."""
    picture = decode(ROOT / "demo" / "pictures" / "mill-at-sixmile.jpg")
    edges = straight_edges(picture.pixels)
    took = []
    for n in range(41):
        recipe = Recipe(
            trim=Trim(roll_deg=-5.2), bend=BendChoice(corners=(n + 1) / 41, edges=edges)
        )
        start = time.perf_counter()
        solve(picture.facts.photo, recipe)
        took.append((time.perf_counter() - start) * 1000)
    tell(Measured("a step of a drag, 95th percentile", float(np.percentile(took, 95)), 100, "ms"))
