"""bin/sequor level: the same job without database or browser."""

import json
import subprocess
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests.conftest import ROOT, horizon_picture, measured_tilt_deg
from tests.pictures.test_reading_files import BAD


def level(*arguments: object) -> subprocess.CompletedProcess:
    return subprocess.run([ROOT / "bin" / "sequor", "level", *map(str, arguments)], capture_output=True, text=True)


@pytest.fixture
def tilted(tmp_path: Path) -> Path:
    path = tmp_path / "tilted.jpg"
    Image.fromarray(horizon_picture(1.33)).save(path, quality=95)
    return path


def ends(tilt_deg: float) -> str:
    rise = np.tan(np.radians(tilt_deg)) * 400
    return f"50,{300 - rise},850,{300 + rise}"


def test_one_line_levels_a_picture(tilted: Path, tmp_path: Path) -> None:
    done = level(tilted, tmp_path / "out.jpg", "--level", ends(1.33))
    assert done.returncode == 0, done.stderr
    report = json.loads(done.stdout)
    assert report["roll_deg"] == pytest.approx(-1.33)
    assert (report["lean_deg"], report["swing_deg"]) == (0, 0)
    # Closed form (elementary geometry): the linear scale 1 / (cos t + 1.5 sin t) is 0.96661; whole pixels cost at most two more.
    assert 0.96661 * 900 - 2 <= report["output"]["width"] <= 0.96661 * 900
    assert report["kept_fraction"] == pytest.approx(report["output"]["width"] * report["output"]["height"] / (900 * 600))
    assert report["empty_pixels"] == 0
    assert report["notes"] == []
    assert set(report["readings"][0]) == {"kind", "angle_deg", "sigma_deg", "residual_deg", "fitted", "outlier", "sag_px"}
    assert set(report["frame"]) == {"x", "y", "width", "height"}
    out = np.asarray(Image.open(tmp_path / "out.jpg"))
    assert out.shape[1::-1] == (report["output"]["width"], report["output"]["height"])
    assert measured_tilt_deg(out) == pytest.approx(0, abs=0.02)


@pytest.mark.parametrize(("ratio", "expected"), [("1:1", 1.0), ("16:9", 16 / 9), ("free", None)])
def test_ratios_plumb_lines_and_sixteen_bits(tilted: Path, tmp_path: Path, ratio: str, expected: float | None) -> None:
    done = level(tilted, tmp_path / "out.tif", "--plumb", "456.97,0,443.03,600", "--level", ends(1.33), "--ratio", ratio)
    report = json.loads(done.stdout)
    assert report["roll_deg"] == pytest.approx(-1.33, abs=0.01)
    if expected:
        assert report["output"]["width"] / report["output"]["height"] == pytest.approx(expected, rel=0.003)
    assert report["empty_pixels"] == 0


def test_a_rough_line_is_fitted(tilted: Path, tmp_path: Path) -> None:
    done = level(tilted, tmp_path / "out.png", "--level", "60,288,840,305", "--fit")
    report = json.loads(done.stdout)
    assert report["readings"][0]["fitted"]
    assert report["roll_deg"] == pytest.approx(-1.33, abs=0.01)
    assert measured_tilt_deg(np.asarray(Image.open(tmp_path / "out.png"))) == pytest.approx(0, abs=0.01)
    unfit = json.loads(level(tilted, tmp_path / "out.png", "--level", "60,88,840,105", "--fit").stdout)
    assert not unfit["readings"][0]["fitted"]


TRUTH = json.loads((ROOT / "demo" / "truth.json").read_text())


def test_all_three_axes_of_a_demo_picture(tmp_path: Path) -> None:
    name = "pumping-station-from-the-left.jpg"
    camera, edges = TRUTH[name]["camera"], TRUTH[name]["edges"]
    lines = [(f"--{edge['kind']}", ",".join(str(v) for point in edge["points"] for v in point)) for edge in edges[1:]]
    check = ("--check", ",".join(str(v) for point in edges[0]["points"] for v in point))
    source = ROOT / "demo" / "pictures" / name
    done = level(source, tmp_path / "out.jpg", "--fit", *(word for pair in [*lines, check] for word in pair))
    assert done.returncode == 0, done.stderr
    report = json.loads(done.stdout)
    for axis, within in (("roll", 0.05), ("lean", 0.2), ("swing", 0.2)):
        assert report[f"{axis}_deg"] == pytest.approx(camera[f"{axis}_deg"], abs=within)
        assert 0 < report["sigma_deg"][axis] < 0.2
    assert report["focal_px"] == pytest.approx(camera["focal_px"], rel=1e-4)
    assert report["focal_source"] == "file"
    assert [reading["kind"] for reading in report["readings"]][-1] == "check"
    assert abs(report["readings"][-1]["residual_deg"]) < 0.1
    assert not any(reading["outlier"] for reading in report["readings"])
    # Hartley & Zisserman, section 8.4.2: H = K R K^-1 up to scale and a shift; so K^-1 S H K is a rotation for the right shift S.
    h = np.array(report["homography"])
    centre = h @ [1500, 1000, 1]
    assert h.shape == (3, 3)
    assert 0 < centre[0] / centre[2] < 4000

    eased = json.loads(level(source, tmp_path / "eased.jpg", *(w for pair in lines for w in pair), "--ease", "0.5").stdout)
    assert eased["lean_deg"] == pytest.approx(camera["lean_deg"] / 2, abs=1)
    held = json.loads(
        level(source, tmp_path / "held.jpg", *lines[-1], "--hold", "roll=1.5", "--hold", "swing", "--focal35", "50").stdout
    )
    assert (held["roll_deg"], held["swing_deg"]) == (pytest.approx(1.5), 0)
    assert held["sigma_deg"]["roll"] is None
    assert (held["focal_px"], held["focal_source"]) == (pytest.approx(camera["focal_px"] * 50 / 26, rel=1e-4), "stated")


def test_the_bow_by_traces_by_hand_and_from_the_database(tmp_path: Path) -> None:
    source, edges = ROOT / "demo" / "pictures" / "glasshouse.jpg", TRUTH["glasshouse.jpg"]["edges"]

    def trace(edge: dict) -> str:
        points = edge["trace"]
        return ",".join(str(v) for point in (points[0], points[len(points) // 2], points[-1]) for v in point)

    lines = [word for edge in edges[:3] for word in ("--trace", trace(edge))]
    door = ("--level", ",".join(str(v) for point in edges[3]["points"] for v in point))
    report = json.loads(level(source, tmp_path / "a.jpg", "--fit", *lines, *door).stdout)
    assert report["bow"]["source"] == "traces"
    assert report["bow"]["k1"] == pytest.approx(-0.13, abs=0.01)
    assert all(sigma is None or sigma < 0.02 for sigma in report["bow"]["sigma"])
    assert report["readings"][0]["sag_px"]["before"] > 40
    assert report["readings"][0]["sag_px"]["after"] < 2
    assert report["empty_pixels"] == 0

    by_hand = json.loads(level(source, tmp_path / "b.jpg", "--bow", "-0.13,0.015").stdout)
    assert (by_hand["bow"]["k1"], by_hand["bow"]["k2"], by_hand["bow"]["source"]) == (-0.13, 0.015, "hand")
    known = json.loads(level(source, tmp_path / "c.jpg", "--lens", "Nikkor 28mm f/2.8D 62").stdout)
    assert known["bow"]["source"] == "database"
    assert known["bow"]["polynomial"][0] != 0
    before = set(tmp_path.iterdir())
    for arguments, says in (
        (["--lens", "auto"], "knows no lens"),
        (["--lens", "24-70"], "name one in full"),
        (["--lens", "no such lens"], "0 lenses"),
        (["--bow", "-0.1", "--lens", "auto"], "not by both"),
        (["--bow", "-0.4"], "folds the picture over"),
    ):
        done = level(source, tmp_path / "d.jpg", *arguments)
        assert done.returncode == 2
        assert says in done.stderr
    assert set(tmp_path.iterdir()) == before


def test_a_print_that_keeps_a_box_and_one_that_is_filled(tilted: Path, tmp_path: Path) -> None:
    done = level(
        tilted,
        tmp_path / "print.tif",
        "--level",
        ends(1.33),
        "--print",
        "2x1.6in@300",
        "--keep",
        "20,100,300,400",
        "--srgb",
        "--bits",
        "16",
    )
    report = json.loads(done.stdout)
    assert report["output"] == {"width": 600, "height": 480, "ppi": 300, "scale": pytest.approx(600 / report["frame"]["width"])}
    assert report["lost"]["left"] < 0.03 < report["lost"]["right"]  # the box near the left edge is kept
    with Image.open(tmp_path / "print.tif") as out:
        assert (out.size, out.info["dpi"]) == ((600, 480), (300, 300))
    filled = json.loads(
        level(tilted, tmp_path / "all.webp", "--level", ends(1.33), "--allow", "1", "--seed", "2", "--size", "600").stdout
    )
    assert filled["kept_fraction"] > 0.995
    assert filled["empty_pixels"] == 0
    # The upright box around a turned 3:2 picture at its own ratio; elementary geometry.
    t = np.radians(1.33)
    high = max(600 * np.cos(t) + 900 * np.sin(t), (900 * np.cos(t) + 600 * np.sin(t)) / 1.5)
    assert filled["filled_share"] == pytest.approx(1 - 900 * 600 / (high * high * 1.5), abs=0.004)
    assert max(Image.open(tmp_path / "all.webp").size) == 600


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["--trace", "1,2,3,4"], "at least three points"),
        (["--trace", "1,2,3,4,5"], "at least three points"),
        (["--bow", "much"], "not a bow"),
        (["--bow", "0.1,0.2,0.3"], "not a bow"),
        (["--check", "1,2,3"], "X1,Y1,X2,Y2"),
        (["--hold", "yaw"], "not an axis"),
        (["--hold", "roll=abc"], "not an axis"),
        (["--hold", "roll=nan"], "not an axis"),
        (["--hold", "roll=1", "--hold", "roll=2"], "cannot be held at 1 and at 2"),
        (["--hold", "lean=95"], "less than or equal to 80"),
        (["--ease", "2"], "less than or equal to 1"),
        (["--focal35", "0"], "greater than or equal to 4"),
        (["--focal35", "nan"], "focal35_mm"),
        (["--level", "1,2,3"], "X1,Y1,X2,Y2"),
        (["--level", "a,b,c,d"], "X1,Y1,X2,Y2"),
        (["--level", "1,1,1,1"], "shorter"),
        (["--level", "1,1,5000,1"], "outside the picture"),
        (["--level", "1,1,nan,1"], "finite"),
        (["--ratio", "wide"], "ratio"),
        (["--quality", "0"], "quality"),
        (["--quality", "best"], "invalid int"),
        (["--print", "ten by eight"], "not a print size"),
        (["--print", "30x0.2in"], "50 times"),
        (["--size", "huge"], "not a size"),
        (["--size", "5000"], "adds no detail"),
        (["--size", "400x400"], "another shape"),
        (["--keep", "1,2,3"], "not a box"),
        (["--keep", "2000,2000,2400,2400"], "outside the picture"),
        (["--allow", "2"], "less than or equal to 1"),
        (["--allow", "1", "--fill", "guess"], "invalid choice"),
        (["--colour", "red"], "colour"),
        (["--sideways"], "unrecognized"),
    ],
)
def test_bad_arguments(tilted: Path, tmp_path: Path, arguments: list[str], says: str) -> None:
    refused(tmp_path, says, tilted, tmp_path / "out.jpg", *arguments)


@pytest.mark.parametrize("kind", ["empty", "text", "truncated", "hidden type", "absurd size"])
def test_bad_files(tmp_path: Path, kind: str) -> None:
    name, content, says = BAD[kind]
    (tmp_path / name).write_bytes(content)
    refused(tmp_path, says, tmp_path / name, tmp_path / "out.jpg")


def test_bad_places(tilted: Path, tmp_path: Path) -> None:
    refused(tmp_path, "must end in", tilted, tmp_path / "out.xyz")
    refused(tmp_path, "does not exist", tilted, tmp_path / "no" / "out.jpg")
    refused(tmp_path, "overwrite the original", tilted, tilted)
    refused(tmp_path, "cannot be read", tmp_path / "missing.jpg", tmp_path / "out.jpg")


def refused(folder: Path, says: str, *arguments: object) -> None:
    before = {p: p.read_bytes() for p in folder.iterdir()}
    done = level(*arguments)
    assert done.returncode == 2
    assert done.stdout == ""
    assert says in done.stderr
    assert done.stderr.count("\n") == 1
    assert {p: p.read_bytes() for p in folder.iterdir()} == before
