"""The program that renders the demo pictures still runs: its files as cameras write them."""

import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import ExifTags, Image

from tests.conftest import ROOT

sys.path.insert(0, str(ROOT / "demo" / "scenes"))
import render
import shots


@pytest.mark.parametrize(("finish", "suffix"), [("16 bit", ".tif"), ("", ".jpg")])
def test_a_rendered_picture_says_how_it_was_taken(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path, finish: str, suffix: str
) -> None:
    (tmp_path / "pictures").mkdir()
    monkeypatch.setattr(render, "DEMO", tmp_path)
    width, height = 96, 64
    shot = replace(shots.SHOTS[0], name=f"trial{suffix}", size=(width, height), finish=finish)
    render.write(shot, np.full((height, width, 3), 0.5, np.float32))
    with Image.open(tmp_path / "pictures" / shot.name) as made:
        assert made.size == (width, height)
        said = made.getexif().get_ifd(ExifTags.IFD.Exif)
    assert said[ExifTags.Base.FocalLengthIn35mmFilm] == pytest.approx(shot.focal35_mm, abs=0.5)
