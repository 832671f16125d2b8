"""The demo pictures and what is said about them cannot drift apart: projected corners, and edges
found in the pixels.
"""

import json
from functools import cache

import cv2
import numpy as np
import pytest
from jsonschema import Draft202012Validator
from PIL import Image

from sequor.core.camera import Stance, focal_length_px, rotation
from sequor.core.photo import PhotoFacts
from sequor.pictures.decode import DecodedPicture, decode
from sequor.pictures.inspect import inspect
from tests.conftest import ROOT

DEMO = ROOT / "demo"
TRUTH = json.loads((DEMO / "truth.json").read_text())
STATIONS = 241
EDGES = [(name, edge["name"]) for name, picture in TRUTH.items() for edge in picture["edges"]]


@cache
def pixels_of(name: str) -> np.ndarray:
    """The upright picture in grey, by OpenCV (which applies the orientation of a JPEG itself).

    Float32.
    """
    pixels = cv2.imread(str(DEMO / "pictures" / name), cv2.IMREAD_ANYDEPTH | cv2.IMREAD_COLOR)
    scale = 255 / np.iinfo(pixels.dtype).max
    return cv2.GaussianBlur(pixels.astype(np.float32).mean(axis=2) * scale, (0, 0), 1.0)


def edge_of(name: str, edge_name: str) -> dict:
    return next(edge for edge in TRUTH[name]["edges"] if edge["name"] == edge_name)


def project(camera: dict, width: int, height: int, spots: np.ndarray) -> np.ndarray:
    """Where spots of the scene lie in the picture, through the stated camera and lens.

    Pinhole (Hartley & Zisserman, 2nd ed., section 6.1), then the radial model of Brown (1971) with
    the radius in half diagonals.
    """
    stance = Stance(*(np.radians(camera[axis]) for axis in ("roll_deg", "lean_deg", "swing_deg")))
    rays = (spots - camera["at_m"]) * [1, -1, 1] @ rotation(stance)
    plane = camera["focal_px"] * rays[:, :2] / rays[:, 2:]
    r2 = (plane**2).sum(axis=1, keepdims=True) / (width**2 / 4 + height**2 / 4)
    return plane * (1 + camera["k1"] * r2 + camera["k2"] * r2**2) + [width / 2, height / 2]


def test_the_truth_is_as_its_schema_says() -> None:
    schema = json.loads((DEMO / "truth.schema.json").read_text())
    Draft202012Validator.check_schema(schema)
    assert list(Draft202012Validator(schema).iter_errors(TRUTH)) == []
    listed = [
        name for found in json.loads((DEMO / "sets.json").read_text()) for name in found["pictures"]
    ]
    assert sorted(listed) == sorted(path.name for path in (DEMO / "pictures").iterdir())
    # A raw twin of a picture has its truth (`test_raw`).
    assert sorted(name for name in listed if not name.endswith(".dng")) == sorted(TRUTH)


def test_the_commission_covers_the_job() -> None:
    cameras = [picture["camera"] for picture in TRUTH.values()]
    megapixels = sorted(picture["width"] * picture["height"] / 1e6 for picture in TRUTH.values())
    assert len(TRUTH) >= 12
    assert megapixels[-1] >= 24
    assert sum(size >= 12 for size in megapixels) >= 4
    assert {0.4, 6.0} <= {abs(camera["roll_deg"]) for camera in cameras}
    assert any(camera["lean_deg"] >= 15 and camera["roll_deg"] for camera in cameras)
    assert any(
        abs(camera["swing_deg"]) > 10 and not camera["lean_deg"] and camera["roll_deg"]
        for camera in cameras
    )
    assert any(abs(camera["swing_deg"]) > 10 and camera["lean_deg"] > 5 for camera in cameras)
    assert (
        min(camera["k1"] for camera in cameras)
        < -0.1
        < 0.01
        < max(camera["k1"] for camera in cameras)
    )
    assert any(picture["height"] > picture["width"] for picture in TRUTH.values())
    assert any(picture["untrue"] for picture in TRUTH.values())
    assert any(picture["subject"] for picture in TRUTH.values())
    facts = [inspect(DEMO / "pictures" / name) for name in TRUTH]
    assert any(fact.orientation != 1 for fact in facts)
    assert any("P3" in (fact.profile or "") for fact in facts)
    tiff = decode(DEMO / "pictures" / "the-old-house.tif")
    assert tiff.bits == 16


@pytest.mark.parametrize("name", TRUTH)
def test_the_file_is_the_stated_camera_s(name: str) -> None:
    stated = TRUTH[name]
    facts = inspect(DEMO / "pictures" / name)
    assert (facts.width, facts.height) == (stated["width"], stated["height"])
    assert facts.focal.focal35_mm == stated["camera"]["focal35_mm"]
    photo = PhotoFacts(width=facts.width, height=facts.height, focal35_mm=facts.focal.focal35_mm)
    assert focal_length_px(photo) == pytest.approx(stated["camera"]["focal_px"], abs=0.001)
    with Image.open(DEMO / "pictures" / name) as picture:
        assert picture.getexif()[0x010F] == "Fenlight"  # the made-up maker


@pytest.mark.parametrize("name", TRUTH)
def test_corners_of_the_scene_lie_at_the_stated_pixels(name: str) -> None:
    stated = TRUTH[name]
    for edge in stated["edges"] + stated["untrue"]:
        found = project(
            stated["camera"], stated["width"], stated["height"], np.array(edge["world_m"])
        )
        assert found == pytest.approx(np.array(edge["points"]), abs=0.0051), edge["name"]
        if "trace" in edge:
            along = np.linspace(*np.array(edge["world_m"]), len(edge["trace"]))
            found = project(stated["camera"], stated["width"], stated["height"], along)
            assert found == pytest.approx(np.array(edge["trace"]), abs=0.0051)
        assert (np.array(edge["points"]) > 0).all()
        assert (np.array(edge["points"]) < [stated["width"], stated["height"]]).all()
    true = [np.subtract(*edge["world_m"]) != 0 for edge in stated["edges"]]
    for edge, differs in zip(stated["edges"], true, strict=True):
        assert differs[1] == (edge["kind"] == "plumb"), edge[
            "name"
        ]  # plumb: along y only; level: not along y
        assert edge["kind"] == "level" or not (differs[0] or differs[2]), edge["name"]


def offset_px(
    name: str, edge: dict, share: tuple[float, float] = (0, 1), reach: float = 6.0
) -> tuple[float, float]:
    """How far the real image edge lies from the stated one, and by how much it stands out.

    The gradient across the edge is averaged along it, so that leaves and bricks on either
    side cancel and the straight edge remains; its strongest place is the edge.
    """
    stated = TRUTH[name]
    start, end = np.array(edge["world_m"])
    along = start + (end - start) * np.linspace(*share, STATIONS)[:, None]
    line = project(stated["camera"], stated["width"], stated["height"], along)
    tangent = np.gradient(line, axis=0)
    normal = np.column_stack([-tangent[:, 1], tangent[:, 0]]) / np.linalg.norm(
        tangent, axis=1, keepdims=True
    )
    steps = np.arange(-reach, reach + 0.01, 0.1)
    places = line[:, None, :] + normal[:, None, :] * steps[None, :, None]
    # OpenCV counts from the centre of the first pixel.
    samples = cv2.remap(
        pixels_of(name),
        (places[..., 0] - 0.5).astype(np.float32),
        (places[..., 1] - 0.5).astype(np.float32),
        cv2.INTER_CUBIC,
    )
    strength = np.abs(np.gradient(samples, axis=1).mean(axis=0))
    return float(steps[strength.argmax()]), float(strength.max() / np.median(strength))


@pytest.mark.parametrize(("name", "edge_name"), EDGES)
def test_the_picture_has_the_stated_edge(name: str, edge_name: str) -> None:
    edge = edge_of(name, edge_name)
    _, contrast = offset_px(name, edge)
    assert contrast > 2.5
    for half in (
        (0, 0.5),
        (0.5, 1),
    ):  # each half by itself, so that an edge at a wrong angle is found out too
        offset, _ = offset_px(name, edge, half)
        assert abs(offset) < 0.5


def test_the_near_rail_trap() -> None:
    # Common practice, no published source: a near receding rail reads several degrees more than the
    # far line; use the far one.
    stated = TRUTH["rail-by-the-cut.jpg"]

    def tilt(name: str) -> float:
        (ax, ay), (bx, by) = edge_of("rail-by-the-cut.jpg", name)["points"]
        return float(np.degrees(np.arctan2(by - ay, bx - ax)))

    assert tilt("far dike") == pytest.approx(-stated["camera"]["roll_deg"], abs=0.02)
    assert tilt("near rail, top") / tilt("far dike") > 2
    assert abs(tilt("near rail, top") - tilt("far dike")) > 2


def test_the_print_on_the_scanner_is_a_bright_rectangle_on_a_dark_bed() -> None:
    name = "old-print-on-the-scanner.jpg"

    def angle(edge_name: str) -> float:
        (ax, ay), (bx, by) = edge_of(name, edge_name)["points"]
        return float(np.degrees(np.arctan2(by - ay, bx - ax))) % 180

    for sheet in ("paper", "print"):
        upper, lower, left, right = (
            angle(f"{sheet}, {side} edge") for side in ("upper", "lower", "left", "right")
        )
        assert upper == pytest.approx(lower, abs=0.01)
        assert left == pytest.approx(right, abs=0.01)
        assert abs(upper - left) == pytest.approx(90, abs=0.01)
    picture: DecodedPicture = decode(DEMO / "pictures" / name)
    (ax, ay), (bx, by) = edge_of(name, "paper, upper edge")["points"]
    column, row = round((ax + bx) / 2), round((ay + by) / 2)
    assert picture.pixels[row - 20, column].mean() < 40
    assert picture.pixels[row + 20, column].mean() > 180
