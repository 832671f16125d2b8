"""Fronts and streets with a known stance, drawn for the tests: walls as planes of the world.

Everything that belongs to a building is a polygon in the world, seen by a pinhole camera (Hartley &
Zisserman, section 6.1) and painted far to near, three times as large as wanted. Distractors are
painted into the picture: curves, slanted lines, foliage, people. The noise is that of a sensor:
its variance grows with the light.
"""

import math
from dataclasses import dataclass

import cv2
import numpy as np

WIDTH, HEIGHT = 1500, 1000
_TIMES, _SHIFT = 3, 6
_NEAR_M = 0.4


@dataclass(frozen=True)
class Scene:
    """A picture, shape (height, width, 3), and what is true of it, in degrees."""

    pixels: np.ndarray
    kind: str
    focal35_mm: float
    stance: tuple[float, float, float]


def turned(roll: float, lean: float, swing: float) -> np.ndarray:
    """The rotation that sets the picture right: R_y(swing) R_x(lean) R_z(roll)."""
    r, x, y = np.radians([roll, lean, swing])
    about_z = [[math.cos(r), -math.sin(r), 0], [math.sin(r), math.cos(r), 0], [0, 0, 1]]
    about_x = [[1, 0, 0], [0, math.cos(x), -math.sin(x)], [0, math.sin(x), math.cos(x)]]
    about_y = [[math.cos(y), 0, math.sin(y)], [0, 1, 0], [-math.sin(y), 0, math.cos(y)]]
    return np.array(about_y) @ np.array(about_x) @ np.array(about_z)


class Canvas:
    """A picture being painted by a camera that stands at the origin."""

    def __init__(self, stance: tuple[float, float, float], focal35_mm: float, upright: bool):
        self.size = (HEIGHT, WIDTH) if upright else (WIDTH, HEIGHT)
        wide, high = self.size
        focal = focal35_mm / math.hypot(36, 24) * math.hypot(wide, high)
        k = np.array([[focal, 0, wide / 2], [0, focal, high / 2], [0, 0, 1]])
        self.projection = k @ turned(*stance).T
        self.camera_z = turned(*stance).T[2]
        self.pixels = np.zeros((high * _TIMES, wide * _TIMES, 3), np.uint8)

    def polygon(self, world: np.ndarray, colour: tuple) -> None:
        """Paint a polygon of the world, shape (N, 3): x right, y down, z away, in metres."""
        depth = world @ self.camera_z - _NEAR_M
        kept = []
        for i in range(len(world)):
            a, b, da, db = world[i - 1], world[i], depth[i - 1], depth[i]
            if (da < 0) != (db < 0):
                kept.append(a + (b - a) * da / (da - db))
            if db >= 0:
                kept.append(b)
        if len(kept) < 3:
            return
        seen = np.array(kept) @ self.projection.T
        self.paint(seen[:, :2] / seen[:, 2:], colour)

    def paint(self, points: np.ndarray, colour: tuple) -> None:
        """Paint a polygon of the picture, in its pixels."""
        placed = np.clip(points * _TIMES - 0.5, -2e4, 2e4)
        fixed = np.round(placed * 2**_SHIFT).astype(np.int32)
        cv2.fillPoly(self.pixels, [fixed], colour, cv2.LINE_8, _SHIFT)

    def stroke(self, points: np.ndarray, colour: tuple, width: float) -> None:
        """Paint an open line of the picture."""
        fixed = np.round(points * _TIMES * 2**_SHIFT).astype(np.int32)
        thick = max(1, round(width * _TIMES))
        cv2.polylines(self.pixels, [fixed], False, colour, thick, cv2.LINE_8, _SHIFT)

    def finished(self, random: np.random.Generator) -> np.ndarray:
        """The picture as a sensor saw it."""
        small = cv2.resize(self.pixels, self.size, interpolation=cv2.INTER_AREA).astype(np.float32)
        blurred = cv2.GaussianBlur(small, (0, 0), random.uniform(0.5, 1.1))
        small = np.asarray(blurred, np.float32)
        grain = random.standard_normal(small.shape, np.float32)
        noisy = small + grain * random.uniform(1.0, 6.0) * np.sqrt(0.3 + small / 255)
        return np.clip(np.round(noisy), 0, 255).astype(np.uint8)


def colour_of(random: np.random.Generator, low: float = 40, high: float = 215) -> tuple:
    base = random.uniform(low, high)
    return tuple(float(v) for v in np.clip(base + random.uniform(-25, 25, 3), 0, 255))


def wall(
    canvas: Canvas,
    random: np.random.Generator,
    origin: np.ndarray,
    along: np.ndarray,
    length: float,
    high: float,
    clutter: bool = True,
) -> None:
    """A wall with windows, bands and a door, from a lower left corner along a level direction."""
    up = np.array([0.0, -1.0, 0.0])

    def patch(x0: float, y0: float, x1: float, y1: float, colour: tuple) -> None:
        corners = [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]
        world = np.array([origin + x * along + y * up for x, y in corners])
        canvas.polygon(world, colour)

    stone = colour_of(random, 80, 210)
    patch(0, 0, length, high, stone)
    for _ in range(int(random.integers(0, 60)) if clutter else 0):
        # Stains, without edges of their own that are long.
        x, y = random.uniform(0, length), random.uniform(0, high)
        size = random.uniform(0.05, 0.3)
        tone = tuple(float(np.clip(c + random.uniform(-18, 18), 0, 255)) for c in stone)
        turn = random.uniform(0, math.pi)
        corners = [(x + size * math.cos(turn + a), y + size * math.sin(turn + a)) for a in range(6)]
        world = np.array([origin + a * along + b * up for a, b in corners])
        canvas.polygon(world, tone)
    storeys = max(1, int(high / random.uniform(2.8, 4.2)))
    columns = max(1, int(length / random.uniform(2.0, 4.5)))
    rise, step = high / storeys, length / columns
    glass, frame = colour_of(random, 20, 90), colour_of(random, 120, 250)
    wide, tall = random.uniform(0.3, 0.6) * step, random.uniform(0.4, 0.7) * rise
    for storey in range(storeys):
        for column in range(columns):
            if random.uniform() < 0.12:
                continue
            x, y = (column + 0.5) * step, (storey + 0.5) * rise
            rim = 0.08
            patch(
                x - wide / 2 - rim,
                y - tall / 2 - rim,
                x + wide / 2 + rim,
                y + tall / 2 + rim,
                frame,
            )
            patch(x - wide / 2, y - tall / 2, x + wide / 2, y + tall / 2, glass)
            if random.uniform() < 0.6:
                patch(x - 0.03, y - tall / 2, x + 0.03, y + tall / 2, frame)
        if storey and random.uniform() < 0.5:
            patch(0, storey * rise - 0.1, length, storey * rise + 0.1, colour_of(random, 60, 230))
    if random.uniform() < 0.7:
        patch(-0.2, high - 0.3, length + 0.2, high, colour_of(random, 60, 230))


def distract(canvas: Canvas, random: np.random.Generator) -> None:
    """Wires, slanted lines, foliage and people: what has nothing to do with the stance."""
    wide, high = canvas.size
    for _ in range(int(random.integers(0, 4))):
        x = np.linspace(-0.05, 1.05, 60)
        y = random.uniform(0.05, 0.5) + random.uniform(-0.3, 0.3) * x
        y = y + random.uniform(0.02, 0.15) * 4 * x * (1 - x)
        canvas.stroke(np.column_stack([x * wide, y * high]), colour_of(random, 10, 80), 1.5)
    for _ in range(int(random.integers(0, 6))):
        middle, turn = random.uniform(0, 1, 2) * canvas.size, random.uniform(0, math.pi)
        half = random.uniform(0.03, 0.15) * wide * np.array([math.cos(turn), math.sin(turn)])
        canvas.stroke(np.array([middle - half, middle + half]), colour_of(random), 2.5)
    for _ in range(int(random.integers(0, 3))):
        middle = np.array([random.uniform(0, 1) * wide, random.uniform(0.5, 1) * high])
        spread = random.uniform(0.03, 0.12) * wide
        green = (random.uniform(20, 70), random.uniform(60, 120), random.uniform(10, 60))
        for _ in range(220):
            at = middle + random.standard_normal(2) * spread * [0.6, 0.5]
            leaf = at + random.standard_normal((5, 2)) * spread * 0.06
            tone = tuple(float(np.clip(c + random.uniform(-30, 30), 0, 255)) for c in green)
            canvas.paint(leaf, tone)
    for _ in range(int(random.integers(0, 5))):
        foot = np.array([random.uniform(0, 1) * wide, random.uniform(0.75, 1.0) * high])
        size = random.uniform(0.03, 0.1) * high
        around = np.linspace(0, 2 * math.pi, 30)
        body = foot + np.column_stack([0.22 * np.cos(around), -1 + np.sin(around)]) * size / 2
        canvas.paint(body, colour_of(random, 20, 160))


def sky_and_ground(canvas: Canvas, random: np.random.Generator, below_m: float) -> None:
    high = canvas.size[1]
    top, bottom = random.uniform(120, 250), random.uniform(160, 255)
    column = np.linspace(top, bottom, high * _TIMES)[:, None, None]
    canvas.pixels[:] = np.clip(column + np.array([-15, 0, 12]), 0, 255).astype(np.uint8)
    ground = np.array([[-300, below_m, 0.5], [300, below_m, 0.5], [300, below_m, 600.0]])
    ground = np.vstack([ground, [[-300, below_m, 600.0]]])
    canvas.polygon(ground, colour_of(random, 50, 130))


def scene(seed: int) -> Scene:
    """The picture of a number: three fronts to two streets."""
    random = np.random.default_rng(seed)
    kind = "front" if seed % 5 < 3 else "street"
    focal = float(np.exp(random.uniform(math.log(20), math.log(85))))
    roll, lean = random.uniform(-8, 8), random.uniform(-25, 25)
    swing = random.uniform(-30, 30)
    # Nobody looks down by 25 degrees at a front with a long lens and sees it whole.
    lean = lean if focal < 40 else lean * 0.6
    stance = (float(roll), float(lean), float(swing))
    canvas = Canvas(stance, focal, upright=bool(random.uniform() < 0.3))
    below = float(random.uniform(1.4, 3.0))
    sky_and_ground(canvas, random, below)
    # How far away a front must be for the picture to hold some storeys of it.
    seen_m = random.uniform(9, 22)
    away = max(5.0, seen_m * focal / 36)
    middle = np.linalg.solve(canvas.projection, [canvas.size[0] / 2, canvas.size[1] / 2, 1.0])
    x = middle[0] / middle[2] * away
    y = middle[1] / middle[2] * away
    tall = max(random.uniform(7, 16), -y + random.uniform(1, 4))
    if y > 0:
        # Looking down: the camera stands high up.
        below = float(y + random.uniform(2, 6))
        sky_and_ground(canvas, random, below)
        tall = below + random.uniform(1, 6)
    first = np.array([1.0, 0.0, 0.0])
    if kind == "front":
        length = seen_m * random.uniform(0.8, 1.6)
        left = x - length * random.uniform(0.35, 0.65)
        if random.uniform() < 0.6:
            # A neighbour that stands at another angle, further back.
            turn = math.radians(random.uniform(20, 70)) * random.choice([-1, 1])
            side = np.array([math.cos(turn), 0.0, math.sin(turn)])
            corner = np.array([left + length * random.uniform(-0.3, 1.0), below, away * 1.6])
            wall(canvas, random, corner, side, length * 0.6, tall * random.uniform(0.5, 1.1))
        wall(canvas, random, np.array([left, below, away]), first, length, below + tall * 0.8)
        if random.uniform() < 0.4:
            gable = np.array([[left, -tall * 0.8, away], [left + length, -tall * 0.8, away]])
            ridge = gable.mean(axis=0) + [random.uniform(-1, 1), -random.uniform(1, 3), 0]
            canvas.polygon(np.vstack([gable, ridge]), colour_of(random, 40, 120))
    else:
        # A street: its end across, a row of houses along either side.
        half = random.uniform(3, 6)
        deep = away * random.uniform(1.4, 2.2)
        wall(canvas, random, np.array([x - 3 * half, below, deep]), first, 6 * half, below + tall)
        into = np.array([0.0, 0.0, 1.0])
        for sign in (-1.0, 1.0):
            at, houses = away * 0.35, []
            while at < deep:
                length = random.uniform(5, 12)
                houses.append((at, length, below + random.uniform(5, 12)))
                at += length
            for start, length, high in reversed(houses):
                corner = np.array([x + sign * half, below, start])
                wall(canvas, random, corner, into, length, high)
    distract(canvas, random)
    return Scene(canvas.finished(random), kind, focal, stance)


def sea(seed: int) -> Scene:
    """Open water under a sky, sharp or hazy, with islands, boats and waves; eye level is true."""
    random = np.random.default_rng(10_000 + seed)
    focal = float(np.exp(random.uniform(math.log(20), math.log(85))))
    stance = (float(random.uniform(-8, 8)), float(random.uniform(-9, 9)), 0.0)
    wide, high = WIDTH, HEIGHT
    focal_px = focal / math.hypot(36, 24) * math.hypot(wide, high)
    y, x = np.mgrid[0:high, 0:wide]
    roll, lean = math.radians(stance[0]), math.radians(stance[1])
    x, y = x + 0.5 - wide / 2, y + 0.5 - high / 2
    # How far below eye level each pixel looks, in pixels.
    below = x * math.sin(roll) + y * math.cos(roll) - focal_px * math.tan(lean)
    sky = np.stack([np.full(below.shape, v) for v in (195.0, 210.0, 228.0)], axis=2)
    sky += (below / high * random.uniform(10, 60))[..., None]
    deep = np.array([60.0, 90.0, 110.0]) * random.uniform(0.7, 1.5)
    near = np.clip(below, 1.0, None)
    waves = np.sin(3e4 / near + x / near * 40) * np.minimum(near / 60, 1) * random.uniform(3, 14)
    chop = cv2.GaussianBlur(random.standard_normal(below.shape), (0, 0), 2.0, sigmaY=0.7)
    water = deep + (waves + chop * np.minimum(near / 10, 3) * random.uniform(5, 25))[..., None]
    haze = float(np.exp(random.uniform(math.log(0.6), math.log(9.0))))
    water = water + (sky - water) * (random.uniform(0.2, 0.75) * np.exp(-near / 80))[..., None]
    mixed = 1 / (1 + np.exp(-np.clip(below / (0.4 * haze), -50, 50)))
    pixels = sky + (water - sky) * mixed[..., None]
    along = x * math.cos(roll) - y * math.sin(roll)
    for _ in range(int(random.integers(0, 4))):
        middle, half = random.uniform(-0.5, 0.5) * wide, random.uniform(0.02, 0.16) * wide
        hill = random.uniform(8, 45) * np.clip(1 - ((along - middle) / half) ** 2, 0, None)
        hill = hill * (1 + 0.2 * np.sin(along / 17 + seed))
        land = (below > -hill) & (below < random.uniform(1, 4)) & (hill > 0)
        pixels[land] = pixels[land] * 0.3 + np.array([70.0, 80.0, 75.0]) * 0.7
    for _ in range(int(random.integers(0, 4))):
        at, down = random.uniform(-0.45, 0.45) * wide, random.uniform(0, 120)
        size = random.uniform(8, 50)
        hull = (np.abs(along - at) < size) & (np.abs(below - down) < size * 0.25)
        mast = (np.abs(along - at) < 2) & (below < down) & (below > down - 2 * size)
        pixels[hull | mast] = random.uniform(20, 240)
    noise = random.standard_normal(pixels.shape) * random.uniform(1, 5)
    pixels = np.clip(np.round(pixels + noise), 0, 255).astype(np.uint8)
    return Scene(pixels, "sea", focal, stance)
