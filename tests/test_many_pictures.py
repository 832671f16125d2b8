"""bin/sequor level with many pictures: each for itself, a summary, an exit status that tells."""

import json
import os
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests.conftest import measured_tilt_deg, sea_picture
from tests.test_command_line import Done, ends, level

TILTS = (1.33, -0.8, 2.4)


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    made = tmp_path / "in"
    made.mkdir()
    for number, tilt in enumerate(TILTS):
        Image.fromarray(sea_picture(tilt)).save(made / f"sea-{number}.png")
    (made / "notes.txt").write_text("no picture")
    return made


def lines(done: Done) -> list[dict]:
    return [json.loads(line) for line in done.stdout.splitlines()]


def test_a_folder_is_levelled_by_what_each_picture_tells(folder: Path, tmp_path: Path) -> None:
    out = tmp_path / "out"
    done = level(folder, out, "--propose", "level", "--jobs", "1")
    assert (done.returncode, done.stderr) == (0, "sequor: 3 of 3 done\n")
    assert sorted(path.name for path in out.iterdir()) == [
        f"sea-{number}-levelled.png" for number in range(3)
    ]
    for line, tilt in zip(lines(done), TILTS, strict=True):
        assert line["roll_deg"] == pytest.approx(-tilt, abs=0.05)
        pixels = np.asarray(Image.open(line["file"]))
        assert measured_tilt_deg(pixels) == pytest.approx(0, abs=0.05)


def test_processes_make_the_same_files(folder: Path, tmp_path: Path) -> None:
    more = ("--level", ends(1.33), "--pattern", "{number}-{name}-{width}", "--format", "jpeg")
    for jobs in (1, 2):
        done = level(folder, tmp_path / str(jobs), *more, "--jobs", jobs)
        assert done.returncode == 0, done.stderr
    one, two = ({p.name: p.read_bytes() for p in (tmp_path / j).iterdir()} for j in ("1", "2"))
    assert one == two
    width = Image.open(tmp_path / "1" / min(one)).width
    assert min(one) == f"001-sea-0-{width}.jpg"


def test_one_bad_file_stops_no_other_and_nothing_is_overwritten(
    folder: Path, tmp_path: Path
) -> None:
    (folder / "broken.jpg").write_bytes(b"\xff\xd8\xff nothing")
    out = tmp_path / "out"
    arguments = (folder, out, "--level", ends(1.33), "--jobs", "1")
    done = level(*arguments)
    assert (done.returncode, len(lines(done))) == (4, 3)
    assert "broken.jpg: " in done.stderr
    assert done.stderr.endswith("sequor: 3 of 4 done, 1 refused\n")
    before = {path: path.stat().st_mtime_ns for path in out.iterdir()}
    again = level(*arguments)
    assert (again.returncode, again.stdout) == (4, "")
    assert again.stderr.count("--force replaces it") == 3
    assert {path: path.stat().st_mtime_ns for path in out.iterdir()} == before
    forced = level(*arguments, "--force")
    assert len(lines(forced)) == 3


def test_what_cannot_be_told_has_a_status_of_its_own(folder: Path, tmp_path: Path) -> None:
    Image.fromarray(np.full((300, 400, 3), 90, np.uint8)).save(folder / "blank.png")
    done = level(folder, tmp_path / "out", "--propose", "level", "--jobs", "1")
    assert done.returncode == 3
    assert done.stderr.endswith("sequor: 3 of 4 done, 1 cannot be told\n")
    assert not (tmp_path / "out" / "blank-levelled.png").exists()


def test_several_files_and_what_cannot_be_meant(folder: Path, tmp_path: Path) -> None:
    out = tmp_path / "out"
    files = sorted(folder.glob("*.png"))
    done = level(*files[:2], out, "--level", ends(1.33), "--jobs", "1")
    assert (done.returncode, len(lines(done))) == (0, 2)
    for arguments, said in (
        ((files[0],), "Name the picture and then the file"),
        ((files[0], files[1], files[2]), "is a file"),
        ((files[0], files[1], out, "--save-recipe", tmp_path / "r.json"), "for one picture"),
        ((tmp_path / "out", folder, "--pattern", "{nonsense}"), "cannot be used as a file name"),
    ):
        refused = level(*arguments)
        assert (refused.returncode, refused.stdout) == (2, "")
        assert said in refused.stderr
    empty = tmp_path / "empty"
    empty.mkdir()
    assert "no picture in the folder" in level(empty, out).stderr


def test_an_original_in_its_own_folder_is_not_overwritten(folder: Path) -> None:
    before = (folder / "sea-0.png").read_bytes()
    done = level(folder / "sea-0.png", folder, "--pattern", "{name}", "--jobs", "1", "--force")
    assert done.returncode == 4
    assert "overwrite the original" in done.stderr
    assert (folder / "sea-0.png").read_bytes() == before
    assert os.listdir(folder).count("sea-0.png") == 1
