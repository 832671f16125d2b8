"""Files of every kind through the door, to the bench and out again."""

import io
from pathlib import Path

import imagecodecs
import numpy as np
import pillow_heif
import pytest
import tifffile
from flask.testing import FlaskClient
from PIL import Image

from sequor.core.recipe import WhiteChoice
from tests.conftest import horizon_picture
from tests.pictures.raws import TO_SRGB, Camera, warp_rectilinear, write_dng
from tests.web.conftest import finished, keep, level_line, send

READ_CAMERA = {"do": "read_camera"}


def soft(height: int = 80, width: int = 120) -> np.ndarray:
    y, x = np.mgrid[0:height, 0:width] / width
    return np.stack([0.2 + 0.5 * x, 0.3 + 0.4 * y, 0.6 - 0.3 * x], axis=-1)


def raw(folder: Path) -> bytes:
    camera = Camera(tags=(warp_rectilinear((1.0, -0.05, 0.0, 0.0)),))
    return write_dng(folder / "a.dng", soft(), camera).read_bytes()


def state_of(client: FlaskClient, set_id: int, name: str, content: bytes) -> dict:
    taken = send(client, set_id, name, content)
    assert taken.status_code == 201, taken.json
    return client.get(f"/api/pictures/{taken.json['picture']['id']}").json


def test_a_raw_file_is_developed_and_freed_of_its_bow(
    browserless: FlaskClient, set_id: int, tmp_path: Path
) -> None:
    state = state_of(browserless, set_id, "a.dng", raw(tmp_path))
    assert (state["file"]["format"], state["file"]["bits"]) == ("DNG", 16)
    assert "LibRaw" in state["file"]["remarks"][0]
    assert state["solution"]["lens"]["source"] == "file"
    assert "as the file states it" in state["report"]["lens"]["bow"]
    started = browserless.post(f"/api/pictures/{state['id']}/exports", json={"format": "tiff"})
    done = finished(browserless, started.json)
    assert (done["state"], done["empty_pixels"]) == ("done", 0)
    made = tifffile.imread(io.BytesIO(browserless.get(f"/api/exports/{done['id']}/file").data))
    assert made.dtype == np.uint16


def test_a_grey_spot_develops_the_picture_anew(
    browserless: FlaskClient, set_id: int, tmp_path: Path
) -> None:
    x, y = 0.44758, 0.40745  # illuminant A (CIE 15:2004)
    lamp = TO_SRGB @ np.array([x / y, 1, (1 - x - y) / y]) * 0.2
    content = write_dng(tmp_path / "a.dng", np.broadcast_to(lamp, (80, 120, 3))).read_bytes()
    state = state_of(browserless, set_id, "a.dng", content)
    assert state["report"]["white"] == "with the white balance that the camera chose"
    warm = shown(browserless, state)
    assert warm[0] > 1.8 * warm[2]
    after = keep(browserless, state, {"do": "pick_grey", "point": [60, 40], "seen": "as_shot"}).json
    assert after["report"]["white"].startswith("for the light of a grey spot, 2,8")
    assert after["addresses"]["original"] != state["addresses"]["original"]
    assert np.ptp(shown(browserless, after)) < 3
    # What the address names is what the recipe says, so that nothing is developed twice.
    named = after["addresses"]["original"].partition("@")[2].split(",")
    white = WhiteChoice.model_validate(after["recipe"]["white"])
    assert tuple(map(float, named)) == white.chromaticity
    # The thumbnail, the tile and the file are developed alike.
    tile = browserless.get(f"{after['addresses']['original']}/tiles/0/0.png").data
    assert np.ptp(np.asarray(Image.open(io.BytesIO(tile)))[40, 60]) < 3
    started = browserless.post(f"/api/pictures/{state['id']}/exports", json={"format": "tiff"})
    done = finished(browserless, started.json)
    made = tifffile.imread(io.BytesIO(browserless.get(f"/api/exports/{done['id']}/file").data))
    assert np.ptp(made[40, 60].astype(int)) < 400
    undone = browserless.post(
        f"/api/pictures/{state['id']}/undo", json={"based_on": after["entry_id"]}
    ).json
    assert undone["addresses"]["original"] == state["addresses"]["original"]
    # An address of a light that none is, and a picture whose colours are finished.
    strange = state["addresses"]["original"] + "@0.9,0.9/proxy.jpg"
    assert browserless.get(strange).status_code == 404
    other = state_of(browserless, set_id, "b.jpg", jpeg())
    refused = keep(browserless, other, {"do": "pick_grey", "point": [6, 4]})
    assert (refused.status_code, "not a raw file" in refused.json["problem"]) == (422, True)
    assert other["report"]["white"] == ""


def test_pages_of_a_tiff_are_taken_one_by_one(
    browserless: FlaskClient, set_id: int, tmp_path: Path
) -> None:
    path, deep = tmp_path / "scans.tif", (soft() * 65535).astype(np.uint16)
    with tifffile.TiffWriter(path) as file:
        file.write((soft() * 255).astype(np.uint8), photometric="rgb", metadata=None)
        # A smaller copy of the first is no page (TIFF 6.0, NewSubfileType).
        small = (soft(20, 30) * 255).astype(np.uint8)
        file.write(small, photometric="rgb", subfiletype=1, metadata=None)
        file.write(deep, photometric="rgb", metadata=None, description="the second sheet")
    refused = send(browserless, set_id, "scans.tif", path.read_bytes())
    assert (refused.status_code, refused.json["pages"]) == (422, 2)

    def page(number: int):
        data = {"file": (io.BytesIO(path.read_bytes()), "scans.tif"), "page": str(number)}
        return browserless.post(f"/api/sets/{set_id}/pictures", data=data)

    taken = page(2)
    assert (taken.status_code, taken.json["picture"]["name"]) == (201, "scans, page 2.tif")
    state = browserless.get(f"/api/pictures/{taken.json['picture']['id']}").json
    assert (state["file"]["bits"], state["file"]["width"]) == (16, 120)
    started = browserless.post(f"/api/pictures/{state['id']}/exports", json={"format": "tiff"})
    done = finished(browserless, started.json)
    made = tifffile.TiffFile(
        io.BytesIO(browserless.get(f"/api/exports/{done['id']}/file").data)
    ).pages[0]
    np.testing.assert_array_equal(made.asarray(), deep)
    assert made.description == "the second sheet"
    # The same page again is the same picture; another one is another.
    assert page(2).status_code == 200
    assert page(1).status_code == 201
    none_such = page(3)
    assert (none_such.status_code, "no page 3" in none_such.json["problem"]) == (422, True)
    # One that is to stay where it lies says where a page can be chosen.
    opened = browserless.post(f"/api/sets/{set_id}/opened", json={"path": str(path)})
    assert (opened.status_code, "contact sheet" in opened.json["problem"]) == (422, True)
    # A file of one page, and what is no TIFF.
    single = {"file": (io.BytesIO(jpeg()), "a.jpg"), "page": "1"}
    assert browserless.post(f"/api/sets/{set_id}/pictures", data=single).status_code == 422


def shown(client: FlaskClient, state: dict) -> np.ndarray:
    """The middle of what the screen shows of a picture."""
    proxy = client.get(f"{state['addresses']['original']}/proxy.jpg").data
    return np.asarray(Image.open(io.BytesIO(proxy)))[40, 60].astype(int)


def test_the_cameras_own_level_is_offered_and_taken(
    browserless: FlaskClient, set_id: int, tmp_path: Path
) -> None:
    path = tmp_path / "a.jpg"
    packet = (
        b'<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf'
        b'-syntax-ns#"><rdf:Description xmlns:GPano="http://ns.google.com/photos/1.0/panorama/" '
        b'GPano:PoseRollDegrees="1.5" GPano:PosePitchDegrees="2"/></rdf:RDF></x:xmpmeta>'
    )
    Image.fromarray((soft() * 255).astype(np.uint8)).save(path, xmp=packet)
    state = state_of(browserless, set_id, "a.jpg", path.read_bytes())
    (note,) = [n for n in state["report"]["notes"] if "camera's own level" in n["text"]]
    assert note["text"].startswith("Tilted 1.50° anticlockwise")
    after = keep(browserless, state, READ_CAMERA).json
    assert after["solution"]["stance"]["roll"]["applied_deg"] == pytest.approx(1.5, abs=1e-3)
    assert after["report"]["readings"][0]["placed"] == "told by the camera"
    other = state_of(browserless, set_id, "b.jpg", jpeg())
    refused = keep(browserless, other, READ_CAMERA)
    assert (refused.status_code, "does not say" in refused.json["problem"]) == (422, True)


def told(roll_deg: float, tilt_deg: float, number: int) -> bytes:
    """The horizon picture, tilted, of a camera that says a roll."""
    packet = (
        '<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf'
        '-syntax-ns#"><rdf:Description xmlns:GPano="http://ns.google.com/photos/1.0/panorama/" '
        f'GPano:PoseRollDegrees="{roll_deg}" GPano:PosePitchDegrees="0"/></rdf:RDF></x:xmpmeta>'
    )
    file = io.BytesIO()
    pixels = horizon_picture(tilt_deg)
    pixels[0, number] = 255 - pixels[0, number]  # no two files are the same
    Image.fromarray(pixels).save(file, "JPEG", xmp=packet.encode())
    return file.getvalue()


def test_a_level_that_is_off_in_a_set_is_recognised(browserless: FlaskClient, set_id: int) -> None:
    # The camera says half a degree too much, to a tenth, in every picture; lines tell the truth.
    for number, tilt in enumerate((0.5, -1.0, 1.5, -2.0, 0.8, 1.2)):
        says = -tilt + 0.5 + 0.1 * (-1) ** number
        state = state_of(browserless, set_id, f"{number}.jpg", told(says, tilt, number))
        if number < 5:
            assert browserless.get(f"/api/pictures/{state['id']}/camera-level").json["words"] == ""
            kept = keep(browserless, state, level_line(tilt, kind="horizon"))
            assert kept.json["solution"]["stance"]["roll"]["sigma_deg"] < 0.4
    found = browserless.get(f"/api/pictures/{state['id']}/camera-level").json
    assert (
        "off by 0.4" in found["words"]
        or "off by 0.5" in found["words"]
        or "off by 0.6" in (found["words"])
    )
    after = keep(browserless, state, found["take"]).json
    roll = after["solution"]["stance"]["roll"]
    assert roll["applied_deg"] == pytest.approx(-1.2, abs=0.25)
    assert roll["sigma_deg"] < 0.4


def jpeg() -> bytes:
    file = io.BytesIO()
    Image.fromarray((soft() * 255).astype(np.uint8)).save(file, "JPEG")
    return file.getvalue()


@pytest.mark.parametrize("kind", ["heic", "jxl", "exr-like"])
def test_other_files_come_in_and_go_out(
    browserless: FlaskClient, set_id: int, tmp_path: Path, kind: str
) -> None:
    pixels = (soft() * 255).astype(np.uint8)
    if kind == "heic":
        file = io.BytesIO()
        pillow_heif.from_bytes("RGB", (120, 80), pixels.tobytes()).save(file, quality=90)
        name, content = "a.heic", file.getvalue()
    elif kind == "jxl":
        name, content = "a.jxl", bytes(imagecodecs.jpegxl_encode(pixels, lossless=True))
    else:
        name = "a.tif"
        tifffile.imwrite(tmp_path / name, soft().astype(np.float32) * 3, photometric="rgb")
        content = (tmp_path / name).read_bytes()
    state = state_of(browserless, set_id, name, content)
    proxy = browserless.get(f"{state['addresses']['original']}/proxy.jpg")
    assert Image.open(io.BytesIO(proxy.data)).size == (120, 80)
    for format in ("jxl", "exr"):
        asked = {"format": format, "quality": 90, "sharpen": 20}
        started = browserless.post(f"/api/pictures/{state['id']}/exports", json=asked)
        done = finished(browserless, started.json)
        assert done["state"] == "done", done
        assert done["file_name"].endswith(f".{format}")


def test_names_are_looked_at_before_a_batch(browserless: FlaskClient, set_id: int) -> None:
    file = io.BytesIO()
    exif = Image.Exif()
    exif.get_ifd(0x8769)[0x9003] = "2026:04:01 09:30:05"  # DateTimeOriginal, CIPA DC-008
    Image.fromarray((soft() * 255).astype(np.uint8)).save(file, "JPEG", exif=exif)
    first = send(browserless, set_id, "mill.jpg", jpeg()).json["picture"]["id"]
    second = send(browserless, set_id, "gate.jpg", file.getvalue()).json["picture"]["id"]
    asked = {"picture_ids": [first, second], "format": "png"}

    def names(pattern: str) -> tuple[list[str], str]:
        answer = browserless.post("/api/exports/names", json=asked | {"pattern": pattern})
        assert answer.status_code == 200, answer.json
        return [one["name"] for one in answer.json["names"]], answer.json["words"]

    assert names("{number}-{name}-{width}") == (["001-mill-120.png", "002-gate-120.png"], "")
    assert names("{date} {time}")[0][1] == "2026-04-01 093005.png"
    found, words = names("same")
    assert found == ["same.png", "same.png"]
    assert words.startswith("2 would have the name of another one")
    refused = browserless.post("/api/exports/names", json=asked | {"pattern": "{camera}"})
    assert (refused.status_code, "{time}" in refused.json["problem"]) == (422, True)
