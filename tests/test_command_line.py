"""bin/sequor level: the same job without database or browser."""

import io
import json
import re
import subprocess
import sys
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from typing import NamedTuple

import numpy as np
import pytest
import tifffile
from PIL import Image

from sequor.cli import command
from sequor.cli.main import COMMANDS, main
from tests.conftest import ROOT, horizon_picture, measured_tilt_deg
from tests.pictures.raws import TO_SRGB, write_dng
from tests.pictures.test_reading_files import BAD


class Done(NamedTuple):
    returncode: int
    stdout: str
    stderr: str


def level(*arguments: object) -> Done:
    """What ``sequor level`` does, in this process: a new one takes seconds to start."""
    code = 0
    with redirect_stdout(io.StringIO()) as out, redirect_stderr(io.StringIO()) as err:
        try:
            main(["level", *map(str, arguments)])
        except SystemExit as stopped:
            code = int(stopped.code or 0)
    return Done(code, out.getvalue(), err.getvalue())


@pytest.fixture
def tilted(tmp_path: Path) -> Path:
    path = tmp_path / "tilted.jpg"
    Image.fromarray(horizon_picture(1.33)).save(path, quality=95)
    return path


def ends(tilt_deg: float) -> str:
    rise = np.tan(np.radians(tilt_deg)) * 400
    return f"50,{300 - rise},850,{300 + rise}"


def test_the_command_is_started_as_a_person_starts_it(tilted: Path, tmp_path: Path) -> None:
    command = [
        ROOT / "bin" / "sequor",
        "level",
        tilted,
        tmp_path / "out.jpg",
        "--level",
        ends(1.33),
    ]
    done = subprocess.run(command, capture_output=True, text=True)
    assert (done.returncode, done.stderr) == (0, "")
    assert done.stdout == level(tilted, tmp_path / "again.jpg", "--level", ends(1.33)).stdout
    assert (tmp_path / "out.jpg").read_bytes() == (tmp_path / "again.jpg").read_bytes()
    refused = subprocess.run([*command, "--sideways"], capture_output=True, text=True)
    assert (refused.returncode, refused.stdout) == (2, "")
    assert refused.stderr.startswith("sequor: No such option")


def test_one_line_levels_a_picture(tilted: Path, tmp_path: Path) -> None:
    done = level(tilted, tmp_path / "out.jpg", "--level", ends(1.33))
    assert done.returncode == 0, done.stderr
    report = json.loads(done.stdout)
    assert report["roll_deg"] == pytest.approx(-1.33)
    assert (report["lean_deg"], report["swing_deg"]) == (0, 0)
    # Closed form (elementary geometry): the linear scale 1 / (cos t + 1.5 sin t) is 0.96661; whole
    # pixels cost at most two more.
    assert 0.96661 * 900 - 2 <= report["output"]["width"] <= 0.96661 * 900
    assert report["kept_fraction"] == pytest.approx(
        report["output"]["width"] * report["output"]["height"] / (900 * 600)
    )
    assert report["empty_pixels"] == 0
    # It lies at eye level, where its direction does little: there is nothing to say.
    assert report["notes"] == []
    assert set(report["readings"][0]) == {
        "kind",
        "angle_deg",
        "sigma_deg",
        "residual_deg",
        "fitted",
        "outlier",
        "sag_px",
    }
    assert set(report["frame"]) == {"x", "y", "width", "height"}
    out = np.asarray(Image.open(tmp_path / "out.jpg"))
    assert out.shape[1::-1] == (report["output"]["width"], report["output"]["height"])
    assert measured_tilt_deg(out) == pytest.approx(0, abs=0.02)


@pytest.mark.parametrize(("ratio", "expected"), [("1:1", 1.0), ("16:9", 16 / 9), ("free", None)])
def test_ratios_plumb_lines_and_sixteen_bits(
    tilted: Path, tmp_path: Path, ratio: str, expected: float | None
) -> None:
    done = level(
        tilted,
        tmp_path / "out.tif",
        "--plumb",
        "456.97,0,443.03,600",
        "--level",
        ends(1.33),
        "--ratio",
        ratio,
    )
    report = json.loads(done.stdout)
    assert report["roll_deg"] == pytest.approx(-1.33, abs=0.01)
    if expected:
        assert report["output"]["width"] / report["output"]["height"] == pytest.approx(
            expected, rel=0.003
        )
    assert report["empty_pixels"] == 0


def test_a_rough_line_is_fitted(tilted: Path, tmp_path: Path) -> None:
    done = level(tilted, tmp_path / "out.png", "--level", "60,288,840,305", "--fit")
    report = json.loads(done.stdout)
    assert report["readings"][0]["fitted"]
    assert report["roll_deg"] == pytest.approx(-1.33, abs=0.01)
    assert measured_tilt_deg(np.asarray(Image.open(tmp_path / "out.png"))) == pytest.approx(
        0, abs=0.01
    )
    unfit = json.loads(
        level(tilted, tmp_path / "out.png", "--level", "60,88,840,105", "--fit", "--force").stdout
    )
    assert not unfit["readings"][0]["fitted"]


TRUTH = json.loads((ROOT / "demo" / "truth.json").read_text())


def test_all_three_axes_of_a_demo_picture(tmp_path: Path) -> None:
    name = "pumping-station-from-the-left.jpg"
    camera, edges = TRUTH[name]["camera"], TRUTH[name]["edges"]
    lines = [
        (f"--{edge['kind']}", ",".join(str(v) for point in edge["points"] for v in point))
        for edge in edges[1:]
    ]
    check = ("--check", ",".join(str(v) for point in edges[0]["points"] for v in point))
    source = ROOT / "demo" / "pictures" / name
    done = level(
        source, tmp_path / "out.jpg", "--fit", *(word for pair in [*lines, check] for word in pair)
    )
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
    assert_turned_by_a_camera(np.array(report["homography"]), camera["focal_px"])

    eased = json.loads(
        level(
            source, tmp_path / "eased.jpg", *(w for pair in lines for w in pair), "--ease", "0.5"
        ).stdout
    )
    assert eased["lean_deg"] == pytest.approx(camera["lean_deg"] / 2, abs=1)
    held = json.loads(
        level(
            source,
            tmp_path / "held.jpg",
            *lines[-1],
            "--hold",
            "roll=1.5",
            "--hold",
            "swing",
            "--focal35",
            "50",
        ).stdout
    )
    assert (held["roll_deg"], held["swing_deg"]) == (pytest.approx(1.5), 0)
    assert held["sigma_deg"]["roll"] is None
    assert (held["focal_px"], held["focal_source"]) == (
        pytest.approx(camera["focal_px"] * 50 / 26, rel=1e-4),
        "stated",
    )


def assert_turned_by_a_camera(h: np.ndarray, focal_px: float) -> None:
    """Hartley & Zisserman, Multiple View Geometry, section 8.4.2: H = K' R K^-1 up to scale.

    So the rows of H K are f r1 + cx' r3, f r2 + cy' r3 and r3, with r1, r2, r3 orthonormal and
    the corrected picture's own principal point (cx', cy').
    """
    k = np.array([[focal_px, 0, 1500], [0, focal_px, 1000], [0, 0, 1]])
    rows = h @ k
    rows /= np.linalg.norm(rows[2])
    across, down = (row - (row @ rows[2]) * rows[2] for row in rows[:2])
    assert np.linalg.norm(across) == pytest.approx(focal_px, rel=1e-6)
    assert np.linalg.norm(down) == pytest.approx(focal_px, rel=1e-6)
    assert across @ down == pytest.approx(0, abs=1e-6 * focal_px**2)
    # The principal point of the corrected picture lies where its optical axis leaves the lens: the
    # point of the source that the rotated axis went through is mapped onto it.
    axis = k @ np.linalg.inv(np.stack([across / focal_px, down / focal_px, rows[2]])) @ [0, 0, 1]
    mapped = h @ axis
    assert mapped[:2] / mapped[2] == pytest.approx(rows[:2] @ rows[2], abs=1e-6)


def test_the_bow_by_traces_by_hand_and_from_the_database(tmp_path: Path) -> None:
    source, edges = ROOT / "demo" / "pictures" / "glasshouse.jpg", TRUTH["glasshouse.jpg"]["edges"]

    def trace(edge: dict) -> str:
        points = edge["trace"]
        return ",".join(
            str(v) for point in (points[0], points[len(points) // 2], points[-1]) for v in point
        )

    lines = [word for edge in edges[:3] for word in ("--trace", trace(edge))]
    door = ("--level", ",".join(str(v) for point in edges[3]["points"] for v in point))
    report = json.loads(level(source, tmp_path / "a.jpg", "--fit", *lines, *door).stdout)
    assert report["bow"]["source"] == "traces"
    assert report["bow"]["k1"] == pytest.approx(-0.13, abs=0.01)
    assert all(sigma < 0.02 for sigma in report["bow"]["sigma"].values())
    assert report["readings"][0]["sag_px"]["before"] > 40
    assert report["readings"][0]["sag_px"]["after"] < 2
    assert report["empty_pixels"] == 0

    by_hand = json.loads(level(source, tmp_path / "b.jpg", "--bow", "-0.13,0.015").stdout)
    assert (by_hand["bow"]["k1"], by_hand["bow"]["k2"], by_hand["bow"]["source"]) == (
        -0.13,
        0.015,
        "hand",
    )
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


def test_corners_are_shared_out_with_the_least_harm(tilted: Path, tmp_path: Path) -> None:
    def report(*more: str) -> dict:
        done = level(tilted, tmp_path / "a.png", "--level", ends(1.33), "--force", *more)
        assert done.returncode == 0, done.stderr
        return json.loads(done.stdout)

    cropped = report()["kept_fraction"]
    assert report()["harm"] is None
    weighed = report("--least-harm", "usual")
    assert weighed["kept_fraction"] > cropped + 0.01
    points, plain = weighed["harm"]["points"], weighed["harm"]["plain"]
    assert points["total"] == pytest.approx(points["lost"] + points["bent"] + points["made_up"])
    assert plain.keys() == {"crop", "bend", "fill"}
    assert points["total"] <= min(plain.values())
    # Cropping costs a point for each hundredth that is lost (docs/fills.md).
    assert plain["crop"] == pytest.approx(100 * (1 - cropped))
    never = report("--least-harm", "made-up=never,bent=never,foot")
    assert never["kept_fraction"] == cropped
    refused = level(tilted, tmp_path / "b.png", "--least-harm", "lost=always")
    assert refused.returncode != 0
    assert "lost=" in refused.stderr


def test_a_print_with_a_margin_for_its_wrap(tilted: Path, tmp_path: Path) -> None:
    """2 x 1.6 in and 0.4 in all round are 2.8 x 2.4 in."""
    wrap = ("--print", "2x1.6in@300", "--margin", "0.4", "--fill", "mirror")
    done = level(tilted, tmp_path / "wrap.png", "--level", ends(1.33), *wrap)
    report = json.loads(done.stdout)
    with Image.open(tmp_path / "wrap.png") as out:
        assert out.size == (pytest.approx(840, abs=1), pytest.approx(720, abs=1))
    assert report["empty_pixels"] == 0
    refused = level(tilted, tmp_path / "no.png", "--margin", "0.4")
    assert refused.returncode == 2
    assert "needs a print size" in refused.stderr


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
    assert report["output"] == {
        "width": 600,
        "height": 480,
        "ppi": 300,
        "scale": pytest.approx(600 / report["frame"]["width"]),
    }
    assert (
        report["lost"]["left"] < 0.03 < report["lost"]["right"]
    )  # the box near the left edge is kept
    with Image.open(tmp_path / "print.tif") as out:
        assert (out.size, out.info["dpi"]) == ((600, 480), (300, 300))
    filled = json.loads(
        level(
            tilted,
            tmp_path / "all.webp",
            "--level",
            ends(1.33),
            "--allow",
            "1",
            "--candidate",
            "calm",
            "--size",
            "600",
        ).stdout
    )
    assert filled["kept_fraction"] > 0.995
    assert filled["empty_pixels"] == 0
    assert 0 <= filled["doubt"] < 1
    assert all({"kind", "x", "y", "radius", "strength"} == set(f) for f in filled["flaws"])
    # The upright box around a turned 3:2 picture at its own ratio; elementary geometry.
    t = np.radians(1.33)
    high = max(600 * np.cos(t) + 900 * np.sin(t), (900 * np.cos(t) + 600 * np.sin(t)) / 1.5)
    assert filled["filled_share"] == pytest.approx(1 - 900 * 600 / (high * high * 1.5), abs=0.004)
    assert max(Image.open(tmp_path / "all.webp").size) == 600


def test_a_recipe_is_saved_changed_by_edits_and_gives_the_same_file_again(
    tilted: Path, tmp_path: Path
) -> None:
    first, second, saved = (tmp_path / name for name in ("a.png", "b.png", "recipe.json"))
    done = level(
        *(tilted, first, "--level", ends(1.33), "--ratio", "1:1", "--trim", "roll=0.4"),
        *("--hold", "lean=2", "--save-recipe", saved),
    )
    assert json.loads(done.stdout)["roll_deg"] == pytest.approx(-0.93)
    recipe = json.loads(saved.read_text())
    assert (recipe["version"], recipe["frame"]["ratio"], recipe["trim"]["roll_deg"]) == (
        8,
        "1:1",
        0.4,
    )
    again = level(tilted, second, "--recipe", saved)
    assert json.loads(again.stdout) == json.loads(done.stdout)
    assert second.read_bytes() == first.read_bytes()
    edits = tmp_path / "edits.json"
    edits.write_text(
        json.dumps(
            [
                {"do": "reset_trim", "axis": "roll"},
                {"do": "free_axis", "axis": "lean"},
                {"do": "choose_ratio", "ratio": "original"},
            ]
        )
    )
    changed = level(tilted, second, "--recipe", saved, "--edits", edits, "--force")
    plain = level(tilted, first, "--level", ends(1.33), "--force")
    assert json.loads(changed.stdout) == json.loads(plain.stdout)
    assert second.read_bytes() == first.read_bytes()


def test_recipes_and_edits_that_make_no_sense(tilted: Path, tmp_path: Path) -> None:
    out, file = tmp_path / "out.jpg", tmp_path / "it.json"
    for text, option, says in (
        ("no json", "--recipe", "Invalid JSON"),
        ('{"version": 9}', "--recipe", "version"),
        ('[{"do": "sing"}]', "--edits", "sing"),
        ('[{"do": "remove_reading", "id": "9"}]', "--edits", "not there any more"),
    ):
        file.write_text(text)
        refused(tmp_path, says, tilted, out, option, file)
    file.unlink()
    refused(tmp_path, "cannot be read", tilted, out, "--recipe", file)
    refused(tmp_path, "does not exist", tilted, out, "--save-recipe", tmp_path / "no" / "r.json")


def test_what_the_bench_can_do_the_command_line_can(tilted: Path, tmp_path: Path) -> None:
    """Angles typed, aims, centring, rectangles and boxes to avoid."""
    out = tmp_path / "out.png"

    def report_of(*arguments: str) -> dict:
        done = level(tilted, out, "--force", *arguments)
        assert done.returncode == 0, done.stderr
        return json.loads(done.stdout)

    assert report_of("--as-shot", "roll=1.33 cw")["roll_deg"] == pytest.approx(-1.33)
    assert report_of("--as-shot", "lean=3 up")["lean_deg"] == pytest.approx(3)
    # A point on a third of the frame, as the guide's name says.
    aimed = report_of("--aim", "280,250:thirds:crossing", "--ratio", "4:3")["frame"]
    assert (280 - aimed["x"]) / aimed["width"] == pytest.approx(1 / 3, abs=0.002)
    assert (250 - aimed["y"]) / aimed["height"] == pytest.approx(1 / 3, abs=0.002)
    lines = ("--check", "200,100,200,500", "--check", "500,100,500,500")
    centred = report_of(*lines, "--between", "1,2", "--ratio", "1:1")["frame"]
    assert centred["x"] + centred["width"] / 2 == pytest.approx(350, abs=1)
    turned = np.radians(2.0)
    corners = np.array([[-200, -150], [200, -150], [200, 150], [-200, 150]])
    corners = corners @ [[np.cos(turned), np.sin(turned)], [-np.sin(turned), np.cos(turned)]]
    written = ",".join(str(v) for v in (corners + [450, 300]).ravel())
    square = report_of("--rectangle", written)
    assert square["roll_deg"] == pytest.approx(-2.0, abs=1e-3)
    filled = report_of("--trim", "roll=3", "--allow", "1", "--avoid", "300,200,600,400")
    assert filled["filled_share"] > 0.05
    assert filled["empty_pixels"] == 0
    mended = report_of("--mend", "300,200,20", "--mend", "500,300,10:700,400")
    assert mended["filled_share"] == pytest.approx(np.pi * (20**2 + 10**2) / (900 * 600), rel=0.05)


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["--trim", "roll"], "not an axis"),
        (["--aim", "1,2,3"], "not an aim"),
        (["--between", "1"], "not two readings"),
        (["--rectangle", "1,2,3,4"], "four corners"),
        (["--candidate", "loud"], "not a candidate"),
        (["--mend", "300,200"], "not a mend"),
        (["--mend", "300,200,20:1"], "not a mend"),
        (["--mend", "300,200,0"], "reach"),
        (["--as-shot", "roll=sideways"], "not an angle"),
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
        (["--quality", "best"], "not a valid integer"),
        (["--print", "ten by eight"], "not a print size"),
        (["--print", "30x0.2in"], "50 times"),
        (["--size", "huge"], "not a size"),
        (["--size", "5000"], "adds no detail"),
        (["--size", "400x400"], "another shape"),
        (["--keep", "1,2,3"], "not a box"),
        (["--keep", "2000,2000,2400,2400"], "outside the picture"),
        (["--allow", "2"], "less than or equal to 1"),
        (["--allow", "1", "--fill", "guess"], "is not one of"),
        (["--colour", "red"], "colour"),
        (["--bend-lines", "1.5"], "less than or equal to 1"),
        (["--bend-corners", "-1"], "greater than or equal to 0"),
        (["--max-stretch", "9"], "less than or equal to 2.5"),
        (["--line-at", "95:1,1,90,90"], "an angle from level of -90 to 90"),
        (["--line-at", "1,1,90,90"], "write DEG:X1,Y1,X2,Y2"),
        (["--straight", "1,2,3"], "not a line"),
        (["--straight", "1,1,2,1"], "shorter"),
        (["--sideways"], "No such option"),
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


def test_a_horizon_what_stays_in_how_well_and_what_is_kept(tilted: Path, tmp_path: Path) -> None:
    far = level(tilted, tmp_path / "a.jpg", "--horizon", ends(1.33), "--sigma", "0.5")
    report = json.loads(far.stdout)
    assert report["roll_deg"] == pytest.approx(-1.33)
    assert (report["left_in"], report["lean_deg"]) == (["lean"], 0)
    assert report["measured_deg"]["lean"] is not None
    coarse = level(tilted, tmp_path / "b.jpg", "--horizon", ends(1.33), "--sigma", "5")
    sharp, rough = (r["sigma_deg"]["roll"] for r in (report, json.loads(coarse.stdout)))
    assert rough == pytest.approx(10 * sharp, rel=0.05)
    out = level(tilted, tmp_path / "c.jpg", "--horizon", ends(1.33), "--take-out", "lean")
    taken = json.loads(out.stdout)
    assert taken["left_in"] == []
    assert taken["lean_deg"] == pytest.approx(report["measured_deg"]["lean"], abs=1e-6)
    assert {"k3", "p1", "p2", "centre"} <= taken["bow"].keys()
    # A line that the largest frame would cut.
    near_top = ("--level", "300,5,480,9.18")
    kept, cut = (
        json.loads(level(tilted, tmp_path / "d.jpg", "--force", *near_top, *more).stdout)
        for more in ((), ("--cut-measured",))
    )
    assert (kept["kept_measured"], cut["kept_measured"]) == (True, False)
    for wrong, says in (
        (("--leave-in", "lean", "--hold", "lean=1"), "name one"),
        (("--sigma", "0"), "A precision of 0 pixels"),
    ):
        refused = level(tilted, tmp_path / "e.jpg", *near_top, *wrong)
        assert refused.returncode == 2
        assert says in refused.stderr


def test_lines_and_corners_by_bending(tilted: Path, tmp_path: Path) -> None:
    # The horizon of the picture itself is bent level, without a turn and without a reading that
    # steers; a line drawn across the sky is brought to ten degrees.
    rise = np.tan(np.radians(1.33)) * 400
    horizon = f"50,{300 - rise},450,300,850,{300 + rise}"
    done = level(tilted, tmp_path / "a.png", "--line-at", f"0:{ends(1.33)}", "--bend-lines", "1")
    found = json.loads(done.stdout)
    assert found["roll_deg"] == 0
    bend = found["bend"]
    assert bend["lines"] == 1
    assert bend["min_jacobian"] > 0
    assert bend["max_stretch"] <= bend["limit"] == 1.6
    (met,) = bend["met"]
    assert (met["reading"], met["wanted_deg"]) == (1, 0)
    assert met["left_deg"] == pytest.approx(0, abs=0.02)
    assert met["sag_px"] == pytest.approx(0, abs=0.3)
    assert found["empty_pixels"] == 0
    assert steps_tilt(tmp_path / "a.png") == pytest.approx(0, abs=0.05)
    # Corners: all of it kept, nothing invented.
    shut = level(
        *(tilted, tmp_path / "b.png", "--level", ends(1.33), "--straight", horizon),
        *("--bend-corners", 1, "--bend-lines", 0.5, "--still", "30,30,200,150"),
        *("--save-recipe", tmp_path / "b.json"),
    )
    found = json.loads(shut.stdout)
    assert found["bend"]["corners"] == found["bend"]["lines"] * 2 == 1
    assert found["kept_fraction"] > 0.98
    assert (found["empty_pixels"], found["filled_share"]) == (0, 0)
    recipe = json.loads((tmp_path / "b.json").read_text())
    assert recipe["bend"]["still"] == [{"left": 30, "top": 30, "right": 200, "bottom": 150}]
    assert isinstance(recipe["bend"]["edges"], list)  # looked for, and kept with the recipe
    again = level(tilted, tmp_path / "c.png", "--recipe", tmp_path / "b.json")
    assert json.loads(again.stdout)["bend"] == found["bend"]
    assert (tmp_path / "c.png").read_bytes() == (tmp_path / "b.png").read_bytes()
    plain = json.loads(level(tilted, tmp_path / "d.png", "--level", ends(1.33)).stdout)
    assert plain["bend"] is None


def steps_tilt(path: Path) -> float:
    """The tilt of the boundary between a light and a dark half, by its place in every column."""
    grey = np.asarray(Image.open(path).convert("L")).astype(float)
    middle = (grey[:20].mean() + grey[-20:].mean()) / 2
    places = np.abs(np.cumsum(grey > middle, axis=0)[-1]).astype(float)
    inner = places[40:-40]
    return float(np.degrees(np.arctan(np.polyfit(np.arange(len(inner)), inner, 1)[0])))


def test_what_a_picture_proposes_itself(tmp_path: Path) -> None:
    mill, missing = ROOT / "demo" / "pictures" / "mill-at-sixmile.jpg", tmp_path / "none.jpg"
    with (
        redirect_stdout(io.StringIO()) as out,
        redirect_stderr(io.StringIO()) as err,
        pytest.raises(SystemExit) as stopped,
    ):
        main(["propose", str(missing), str(mill), "--want", "level"])
    assert stopped.value.code == 2
    assert "none.jpg" in err.getvalue()
    told = json.loads(out.getvalue())
    assert told["roll_deg"] == pytest.approx(-6.0, abs=0.1)
    assert told["sure"] is True
    assert told["want"] == told["told"] == "level"
    assert {"kind", "points", "angle_deg", "sigma_deg", "share", "reason"} == set(
        told["readings"][0]
    )
    assert set(told["sigma_deg"]) == {"roll", "lean", "swing"}
    done = level(mill, tmp_path / "out.jpg", "--propose", "level", "--size", "800")
    assert done.returncode == 0
    report = json.loads(done.stdout)
    assert report["roll_deg"] == pytest.approx(-6.0, abs=0.1)
    assert report["left_in"] == ["lean", "swing"]
    assert len(report["readings"]) == len(told["readings"])


def test_a_picture_that_does_not_tell_gives_no_file(tmp_path: Path) -> None:
    Image.fromarray(np.full((300, 400, 3), 90, np.uint8)).save(tmp_path / "blank.png")
    done = level(tmp_path / "blank.png", tmp_path / "out.jpg", "--propose", "any")
    assert done.returncode == 3
    assert "no line" in done.stderr
    assert "No file was written" in done.stderr
    assert not (tmp_path / "out.jpg").exists()


def test_help_names_all_that_the_command_does() -> None:
    """What is done with all data at once has a program of its own behind the same command."""
    said = subprocess.run(
        [ROOT / "bin" / "sequor", "--help"], capture_output=True, text=True, check=True
    ).stdout
    script = (ROOT / "bin" / "sequor").read_text()
    upkeep = re.search(r"^  ([a-z |]+)\) exec", script, re.MULTILINE)
    assert upkeep
    for word in ("level", "propose", *upkeep[1].split(" | ")):
        assert word in said


def test_a_raw_picture_is_developed_for_a_light_and_by_a_grey_spot(tmp_path: Path) -> None:
    x, y = 0.44758, 0.40745  # illuminant A (CIE 15:2004)
    lamp = TO_SRGB @ np.array([x / y, 1, (1 - x - y) / y]) * 0.2
    raw = write_dng(tmp_path / "a.dng", np.broadcast_to(lamp, (80, 120, 3)))
    for white, neutral in (("lamp", True), ("60,40", True), ("camera", False)):
        out = tmp_path / f"{white}.png"
        done = level(raw, out, "--level", "10,40,110,40", "--white", white)
        assert done.returncode == 0, done.stderr
        middle = np.asarray(Image.open(out))[30:50, 50:70].reshape(-1, 3).mean(axis=0)
        assert (np.ptp(middle) < 3) == neutral
    refused(tmp_path, "no light", raw, tmp_path / "b.png", "--white", "moon")
    finished = tmp_path / "a.jpg"
    Image.fromarray(np.full((80, 120, 3), 90, np.uint8)).save(finished)
    refused(tmp_path, "not a raw file", finished, tmp_path / "b.png", "--white", "lamp")


def test_a_page_of_a_tiff(tmp_path: Path) -> None:
    path = tmp_path / "scans.tif"
    with tifffile.TiffWriter(path) as file:
        for tilt in (0.0, 1.33):
            file.write(horizon_picture(tilt), photometric="rgb", metadata=None)
    refused(tmp_path, "holds 2 pictures", path, tmp_path / "a.png", "--level", ends(1.33))
    refused(tmp_path, "no page 3", path, tmp_path / "a.png", "--level", ends(1.33), "--page", "3")
    done = level(path, tmp_path / "a.png", "--level", ends(1.33), "--page", "2")
    assert done.returncode == 0, done.stderr
    out = np.asarray(Image.open(tmp_path / "a.png"))
    assert measured_tilt_deg(out) == pytest.approx(0, abs=0.02)


def test_a_dry_run_says_what_would_come_and_writes_nothing(tilted: Path, tmp_path: Path) -> None:
    line, target = ("--level", "50,300,850,320"), tmp_path / "out.jpg"
    fills = ("--allow", "1", "--ratio", "2:1", "--fill", "colour", "--colour", "#808080")
    for more in ((), ("--size", "300"), fills, (*fills[:4], "--fill", "transparent")):
        dry = level(tilted, target, *line, *more, "--dry-run")
        assert not target.exists()
        assert json.loads(dry.stdout) == json.loads(level(tilted, target, *line, *more).stdout)
        target.unlink()


def test_names_of_many_are_seen_before_they_are_made(tilted: Path, tmp_path: Path) -> None:
    for folder in ("a", "b"):
        (tmp_path / folder).mkdir()
        (tmp_path / folder / "same.jpg").write_bytes(tilted.read_bytes())
    target = tmp_path / "made"
    sources = tmp_path / "a", tmp_path / "b" / "same.jpg"
    options = "--trim", "roll=1", "--pattern", "{name}-{width}", "--jobs", "1", "--dry-run"
    done = level(*sources, target, *options)
    assert done.returncode == 4
    (line,) = done.stdout.splitlines()
    width = json.loads(line)["output"]["width"]
    assert json.loads(line)["file"] == str(target / f"same-{width}.jpg")
    assert "would be there already, of same.jpg" in done.stderr
    assert "1 of 2 would be done" in done.stderr
    assert not target.exists()


def test_the_list_of_commands_says_what_each_says_itself() -> None:
    for name, (function, words) in COMMANDS.items():
        found = getattr(command, function)
        assert (found.name, found.help) == (name, words)


LOADED = """
import sys
from sequor.cli.main import main
try:
    main(sys.argv[1:])
except SystemExit:
    pass
print(*sys.modules, file=sys.stderr)
"""


def loaded_by(*words: object) -> set[str]:
    """The modules that a run of the command line loads."""
    ran = subprocess.run(
        [sys.executable, "-c", LOADED, *map(str, words)], capture_output=True, text=True, check=True
    )
    return set(ran.stderr.splitlines()[-1].split())


def test_nothing_is_loaded_that_is_not_needed(tilted: Path, tmp_path: Path) -> None:
    assert not loaded_by("--help") & {"numpy", "pydantic", "numba", "PIL"}
    line = "--level", "50,300,850,320"
    turn = loaded_by("level", tilted, tmp_path / "turned.png", *line)
    assert (tmp_path / "turned.png").exists()
    assert not turn & {
        *("cv2", "skimage", "scipy.optimize", "scipy.ndimage", "scipy.stats", "scipy.sparse"),
        *("scipy.interpolate", "tifffile", "imagecodecs", "sqlalchemy", "flask"),
    }


def test_uprights_and_levels_ease_apart_and_a_box_has_air(tilted: Path, tmp_path: Path) -> None:
    saved = tmp_path / "recipe.json"
    done = level(
        *(tilted, tmp_path / "a.jpg", "--trim", "lean=4", "--ease-lean", "0.5"),
        *("--ease-swing", "0.9", "--keep", "300,200,500,350", "--air", "0.2", "--looks", "left"),
        *("--save-recipe", saved),
    )
    assert done.returncode == 0, done.stderr
    recipe = json.loads(saved.read_text())
    assert recipe["ease"] == {"roll": 1, "lean": 0.5, "swing": 0.9}
    assert (recipe["frame"]["air"], recipe["frame"]["looks"]) == (0.2, "left")
    refused = level(tilted, tmp_path / "b.jpg", "--air", "0.2")
    assert refused.returncode == 2
    assert "no box to keep" in refused.stderr
