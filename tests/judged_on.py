"""Which open photographs are judged on: a split that nobody chose.

A photograph of `opencv-doc` is judged on when the SHA-256 of its file's name is odd and nothing was
ever made or tuned on it; every figure in docs/ that comes from photographs is of those. What is
even, or was looked at while building, is made on.
"""

import hashlib
from pathlib import Path

import cv2
import numpy as np

from tests.conftest import OPEN_PICTURES

_PHOTOGRAPHS = (
    *("aero1.jpg", "aero3.jpg", "aloeL.jpg", "apple.jpg", "baboon.jpg", "basketball1.png"),
    *(
        "box.png",
        "box_in_scene.png",
        "building.jpg",
        "butterfly.jpg",
        "cards.png",
        "chicky_512.png",
    ),
    *("ela_original.jpg", "fruits.jpg", "graf1.png", "graf3.png", "HappyFish.jpg", "home.jpg"),
    *("left.jpg", "leuvenA.jpg", "leuvenB.jpg", "licenseplate_motion.jpg", "messi5.jpg"),
    *("orange.jpg", "pic1.png", "pic2.png", "pic3.png", "pic4.png", "pic5.png", "pic6.png"),
    *("right.jpg", "rubberwhale1.png", "smarties.png", "squirrel_cls.jpg", "stuff.jpg"),
    *("sudoku.png",),
)
"""Photographs of things in the world, once each; no drawings, masks and chessboards."""


def judged_on(made_on: tuple[str, ...]) -> tuple[str, ...]:
    """Names of photographs to judge on, where some were made on before the split."""
    return tuple(
        name
        for name in _PHOTOGRAPHS
        if int(hashlib.sha256(name.encode()).hexdigest(), 16) % 2 and name not in made_on
    )


def open_photograph(name: str) -> np.ndarray:
    """RGB, shape (height, width, 3)."""
    read = cv2.imread(str(Path(OPEN_PICTURES) / name))
    assert read is not None, name
    return np.ascontiguousarray(read[..., ::-1])
