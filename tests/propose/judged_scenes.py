"""Pictures to judge proposals on: fronts, streets, rooms, seas, slanted things, nothing.

Nothing of the project was made or tuned on these, and they share no code with those of
`tests/propose/scenes.py`: the world has y upwards, a picture is a list of planes with a texture
that is looked up along every pixel's ray (the mapping of section 6.1 in Hartley & Zisserman, 2nd
ed., read backwards), four rays a pixel. What is nearer hides what is farther.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np

WIDE, HIGH = 1200, 800
KINDS = ("front", "street", "room", "sea", "slanted", "nothing")
Colour = np.ndarray
Texture = Callable[[np.ndarray, np.ndarray], np.ndarray]


@dataclass(frozen=True)
class Judged:
    """A picture, shape (HIGH, WIDE, 3), and the correction that is true of it: roll, lean and swing
    in degrees; None for what nothing in the picture tells.
    """

    pixels: np.ndarray
    kind: str
    focal35_mm: float
    roll: float | None
    lean: float | None
    swing: float | None


class Eye:
    """A camera at a height, and its picture."""

    def __init__(self, chance: np.random.Generator, stance: tuple[float, float, float]) -> None:
        self.chance = chance
        self.focal35 = float(chance.choice([20, 24, 28, 35, 50, 70]))
        self.height = float(chance.uniform(1.4, 2.2))
        focal = self.focal35 / math.hypot(36, 24) * math.hypot(WIDE, HIGH) * 2
        y, x = np.mgrid[0 : HIGH * 2, 0 : WIDE * 2].astype(np.float32)
        x, y = x + 0.5 - WIDE, HIGH - 0.5 - y
        roll, lean, swing = np.radians(stance)
        # The camera's axes in the world: rolled about its own axis, then leaned, then swung.
        right = (x * math.cos(roll) + y * math.sin(roll)) / focal
        up = (y * math.cos(roll) - x * math.sin(roll)) / focal
        up, ahead = (
            up * math.cos(lean) + math.sin(lean),
            math.cos(lean) - up * math.sin(lean),
        )
        self.ray = (
            right * math.cos(swing) + ahead * math.sin(swing),
            up,
            ahead * math.cos(swing) - right * math.sin(swing),
        )
        self.depth = np.full(x.shape, 1e9, np.float32)
        self.light = np.zeros((*x.shape, 3), np.float32)

    def sky(self, low: Colour, high: Colour) -> None:
        """From the horizon up, with some clouds."""
        steep = np.clip(self.ray[1] / np.hypot(self.ray[0], self.ray[2]), 0, 1)[..., None]
        self.light = low + (high - low) * steep
        clouds = self.cloud(90.0) * self.chance.uniform(0, 18)
        self.light = self.light + clouds[..., None]

    def cloud(self, wide: float) -> np.ndarray:
        """Smooth noise over the picture, of deviation 1."""
        small = self.chance.standard_normal((HIGH // 8, WIDE // 8)).astype(np.float32)
        soft = cv2.GaussianBlur(small, (0, 0), wide / 8)
        return cv2.resize(soft / soft.std(), (WIDE * 2, HIGH * 2), interpolation=cv2.INTER_CUBIC)

    def plane(
        self,
        at: tuple[float, float, float],
        along: tuple[float, float, float],
        up: tuple[float, float, float],
        size: tuple[float, float],
        texture: Texture,
        mask: Callable[[np.ndarray, np.ndarray], np.ndarray] | None = None,
    ) -> None:
        """A rectangle from a corner along two directions, seen where nothing nearer hides it."""
        along_, up_ = np.array(along), np.array(up)
        normal = np.cross(along_, up_)
        ray = sum(r * n for r, n in zip(self.ray, normal, strict=True))
        far = np.dot(at, normal) / np.where(np.abs(ray) < 1e-9, 1e-9, ray)
        place = [r * far - a for r, a in zip(self.ray, at, strict=True)]
        u = sum(p * a for p, a in zip(place, along_, strict=True))
        v = sum(p * a for p, a in zip(place, up_, strict=True))
        seen = (far > 0.1) & (far < self.depth)
        seen &= (u >= 0) & (u < size[0]) & (v >= 0) & (v < size[1])
        if mask is not None:
            seen &= mask(u, v)
        self.depth[seen] = far[seen]
        self.light[seen] = texture(u[seen], v[seen])

    def ground(self, texture: Texture) -> None:
        """The level ground under the camera, as far as the horizon."""
        far = self.height / np.maximum(-self.ray[1], 1e-9)
        seen = (self.ray[1] < 0) & (far < self.depth)
        self.depth[seen] = far[seen]
        self.light[seen] = texture((self.ray[0] * far)[seen], (self.ray[2] * far)[seen])

    def developed(self) -> np.ndarray:
        """As a sensor sees it."""
        small = cv2.resize(self.light, (WIDE, HIGH), interpolation=cv2.INTER_AREA)
        small = cv2.GaussianBlur(small, (0, 0), self.chance.uniform(0.4, 0.9))
        noise = self.chance.standard_normal(small.shape) * self.chance.uniform(1, 4)
        return np.clip(small + noise, 0, 255).astype(np.uint8)


def tone(chance: np.random.Generator, low: float, high: float) -> Colour:
    return np.clip(chance.uniform(low, high) + chance.uniform(-20, 20, 3), 5, 250)


def plain(chance: np.random.Generator, colour: Colour, rough: float) -> Texture:
    """One colour with a grain of its own."""

    def look(u: np.ndarray, v: np.ndarray) -> np.ndarray:
        grain = np.sin(u * 37.1 + np.sin(v * 23.7) * 3) * np.sin(v * 41.3 + np.sin(u * 19.1) * 3)
        return colour + (grain * rough)[:, None] + chance.normal(0, rough, (len(u), 1))

    return look


def windows(chance: np.random.Generator, columns: float, storeys: float) -> Texture:
    """A wall with rows of windows, all alike, and sometimes bands between the storeys."""
    wall, glass, frame = tone(chance, 90, 210), tone(chance, 20, 70), tone(chance, 150, 245)
    wide, high = chance.uniform(0.3, 0.6), chance.uniform(0.4, 0.65)
    bands, rim = chance.uniform() < 0.5, 0.05

    def look(u: np.ndarray, v: np.ndarray) -> np.ndarray:
        a, b = np.abs(u / columns % 1 - 0.5), np.abs(v / storeys % 1 - 0.5)
        found = np.repeat(wall[None], len(u), axis=0) + chance.normal(0, 5, (len(u), 1))
        if bands:
            found[b > 0.46] = frame * 0.8
        found[(a < wide / 2 + rim / columns) & (b < high / 2 + rim / storeys)] = frame
        found[(a < wide / 2) & (b < high / 2)] = glass
        return found

    return look


def front(chance: np.random.Generator) -> Judged:
    """A plain wall of windows, seen from any side."""
    lean, swing = float(chance.uniform(-12, 22)), float(chance.uniform(-28, 28))
    roll = float(chance.uniform(-5, 5))
    eye = Eye(chance, (roll, lean, swing))
    eye.sky(tone(chance, 170, 230), tone(chance, 120, 200))
    eye.ground(plain(chance, tone(chance, 60, 130), 12))
    away = chance.uniform(14, 22) * eye.focal35 / 35
    wide = 2.5 * away * 18 / eye.focal35 * chance.uniform(0.6, 1.6)
    shift = away * math.tan(math.radians(swing))
    left = shift - wide * chance.uniform(0.4, 0.6)
    high = chance.uniform(9, 22)
    columns, storeys = chance.uniform(1.8, 3.2), chance.uniform(2.7, 3.6)
    wall = windows(chance, columns, storeys)
    eye.plane((left, -eye.height, away), (1, 0, 0), (0, 1, 0), (wide, high), wall)
    return Judged(eye.developed(), "front", eye.focal35, roll, lean, swing)


def street(chance: np.random.Generator) -> Judged:
    """Houses along both sides, looking down the street."""
    roll, lean = float(chance.uniform(-5, 5)), float(chance.uniform(-6, 14))
    swing = float(chance.uniform(-20, 20))
    eye = Eye(chance, (roll, lean, swing))
    eye.sky(tone(chance, 170, 230), tone(chance, 120, 200))
    eye.ground(plain(chance, tone(chance, 60, 120), 12))
    half = chance.uniform(4, 8)
    for side in (-1, 1):
        at = float(chance.uniform(2, 5))
        while at < 70:
            long, high = chance.uniform(6, 14), chance.uniform(6, 14)
            wall = windows(chance, chance.uniform(1.8, 3), chance.uniform(2.7, 3.4))
            eye.plane((side * half, -eye.height, at), (0, 0, 1), (0, 1, 0), (long, high), wall)
            at += long
    return Judged(eye.developed(), "street", eye.focal35, roll, lean, swing)


def room(chance: np.random.Generator) -> Judged:
    """Five sides of a room with a door, pictures and a window."""
    roll, lean = float(chance.uniform(-4, 4)), float(chance.uniform(-10, 6))
    swing = float(chance.uniform(-18, 18))
    eye = Eye(chance, (roll, lean, swing))
    eye.focal35 = eye.focal35 if eye.focal35 < 40 else 35.0
    half, deep, high = chance.uniform(2, 3.5), chance.uniform(4, 7), chance.uniform(2.5, 3.2)
    eye = Eye(np.random.default_rng(int(chance.integers(1 << 30))), (roll, lean, swing))
    walls = [plain(chance, tone(chance, 130, 220), 3) for _ in range(3)]
    floor, ceiling = (
        plain(chance, tone(chance, 60, 140), 8),
        plain(chance, tone(chance, 190, 240), 2),
    )
    low = -eye.height
    eye.plane((-half, low, deep), (1, 0, 0), (0, 1, 0), (2 * half, high), walls[0])
    eye.plane((-half, low, -1), (0, 0, 1), (0, 1, 0), (deep + 1, high), walls[1])
    eye.plane((half, low, -1), (0, 0, 1), (0, 1, 0), (deep + 1, high), walls[2])
    eye.plane((-half, low, -1), (1, 0, 0), (0, 0, 1), (2 * half, deep + 1), floor)
    eye.plane((-half, low + high, -1), (1, 0, 0), (0, 0, 1), (2 * half, deep + 1), ceiling)
    for _ in range(int(chance.integers(2, 6))):
        wide, tall = chance.uniform(0.4, 1.2), chance.uniform(0.4, 1.1)
        at = chance.uniform(-half + 0.2, half - 0.2 - wide)
        colour = plain(chance, tone(chance, 30, 200), 6)
        up = low + chance.uniform(0.9, max(1.0, high - tall - 0.2))
        eye.plane((at, up, deep - 0.03), (1, 0, 0), (0, 1, 0), (wide, tall), colour)
    door = plain(chance, tone(chance, 50, 180), 4)
    eye.plane((-half + 0.02, low, deep * 0.4), (0, 0, 1), (0, 1, 0), (0.9, 2.05), door)
    return Judged(eye.developed(), "room", eye.focal35, roll, lean, swing)


def sea(chance: np.random.Generator) -> Judged:
    """Open water to the horizon; hills on it sometimes, which do not reach all along."""
    roll, lean = float(chance.uniform(-6, 6)), float(chance.uniform(-7, 7))
    eye = Eye(chance, (roll, lean, 0.0))
    low = tone(chance, 180, 235)
    eye.sky(low, tone(chance, 110, 190))
    deep, speed = tone(chance, 50, 130), chance.uniform(1.5, 4)

    def water(u: np.ndarray, v: np.ndarray) -> np.ndarray:
        far = np.hypot(u, v)
        waves = np.sin(v * speed + np.sin(u * 0.7) * 2) * np.sin(u * speed * 0.4 + v * 0.3)
        gleam = np.clip(1 - far / 4000, 0, 1)
        return deep + (waves * 14 * np.exp(-far / 90))[:, None] + 18 * (1 - gleam)[:, None]

    eye.ground(water)
    for _ in range(int(chance.integers(0, 3))):
        high, half = chance.uniform(60, 200), chance.uniform(300, 900)
        middle, land = chance.uniform(-2000, 2000), plain(chance, tone(chance, 60, 110), 3)
        top = lambda u, v, h=high, w=half: v < h * (1 - ((u - w) / w) ** 2)  # noqa: E731
        size = (2 * half, high)
        eye.plane((middle - half, -eye.height, 4000), (1, 0, 0), (0, 1, 0), size, land, top)
    return Judged(eye.developed(), "sea", eye.focal35, roll, lean, None)


def slanted(chance: np.random.Generator) -> Judged:
    """One straight thing that is not level and looks as if it were: a hillside, a ramp, a wire, the
    top of a wall that runs away; sometimes with uprights beside it.
    """
    roll = float(chance.uniform(-4, 4))
    eye = Eye(chance, (roll, 0.0, 0.0))
    eye.sky(tone(chance, 170, 230), tone(chance, 120, 200))
    slope = math.tan(math.radians(chance.uniform(3, 14) * chance.choice([-1, 1])))
    what = str(chance.choice(["hill", "ramp", "wire", "wall"]))
    rough = plain(chance, tone(chance, 60, 120), 14)
    upright = chance.uniform() < 0.4
    if what == "hill":
        base = chance.uniform(-30, 30)
        below = lambda u, v: v < 200 + base + slope * (u - 2000)  # noqa: E731
        eye.plane((-2000, -200, 400), (1, 0, 0), (0, 1, 0), (4000, 900), rough, below)
    elif what == "ramp":
        eye.ground(rough)
        side = plain(chance, tone(chance, 120, 200), 6)
        below = lambda u, v: v < 1.2 + slope * (u - 8)  # noqa: E731
        eye.plane((-8, -eye.height, 9), (1, 0, 0), (0, 1, 0), (16, 5), side, below)
    elif what == "wire":
        eye.ground(rough)
        far = chance.uniform(8, 14)
        near = lambda u, v: np.abs(v - 3 - slope * (u - 12)) < 0.04  # noqa: E731
        eye.plane(
            (-12, 0, far),
            (1, 0, 0),
            (0, 1, 0),
            (24, 8),
            plain(chance, tone(chance, 10, 40), 1),
            near,
        )
    else:
        eye.ground(rough)
        away = math.atan(slope) * 4
        along = (math.cos(away), 0.0, math.sin(away))
        side = plain(chance, tone(chance, 110, 190), 8)
        eye.plane((-7 * along[0], -eye.height, 8 - 7 * along[2]), along, (0, 1, 0), (14, 3.4), side)
    if upright:
        for at in chance.uniform(-5, 5, 3):
            post = plain(chance, tone(chance, 20, 60), 3)
            eye.plane((at, -eye.height, 7.0), (1, 0, 0), (0, 1, 0), (0.16, 4.5), post)
    # Where there is ground its horizon is there to be seen; a hill hides it.
    lean = 0.0 if upright or what != "hill" else None
    return Judged(eye.developed(), "slanted", eye.focal35, roll, lean, None)


def nothing(chance: np.random.Generator) -> Judged:
    """Foliage, clouds, pebbles, a bough across: nothing level, nothing upright."""
    eye = Eye(chance, (0.0, 0.0, 0.0))
    base, other = tone(chance, 60, 180), tone(chance, 30, 200)
    share = np.zeros(eye.depth.shape, np.float32)
    for wide in chance.choice([12.0, 20.0, 40.0, 90.0, 200.0], 3, replace=False):
        share += eye.cloud(float(wide)) * chance.uniform(0.1, 0.5)
    if chance.uniform() < 0.5:
        share = np.sign(share) * np.sqrt(np.abs(share))
    eye.light = base + (other - base) * np.clip(share + 0.5, 0, 1)[..., None]
    for _ in range(int(chance.integers(0, 40))):
        # Stalks and twigs, each bent its own way.
        t = np.linspace(0, 1, 40)
        start, end = chance.uniform(0, [WIDE * 2, HIGH * 2]), chance.normal(0, 350, 2)
        bow = chance.normal(0, 60, 2)
        path = start + t[:, None] * end + (t * (1 - t))[:, None] * 4 * bow
        colour = tuple(float(v) for v in tone(chance, 20, 160))
        thick = int(chance.integers(3, 14))
        points = np.round(path * 16).astype(np.int32)
        cv2.polylines(eye.light, [points], False, colour, thick, cv2.LINE_AA, 4)
    return Judged(eye.developed(), "nothing", eye.focal35, None, None, None)


_MADE = {
    "front": front,
    "street": street,
    "room": room,
    "sea": sea,
    "slanted": slanted,
    "nothing": nothing,
}


def judged_scene(seed: int) -> Judged:
    """The picture of a number; kinds take turns."""
    return _MADE[KINDS[seed % len(KINDS)]](np.random.default_rng(70_000 + seed))
