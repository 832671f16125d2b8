"""Sequor as an application of the device: a manifest (W3C), with icons of our own, share target and
file handlers (WICG), and a page for when the server is away.
"""

import io

import pytest
from flask.testing import FlaskClient
from PIL import Image


def test_the_manifest_names_what_is_there(browserless: FlaskClient) -> None:
    answer = browserless.get("/manifest.webmanifest")
    assert answer.mimetype == "application/manifest+json"
    manifest = answer.json
    assert (manifest["start_url"], manifest["scope"], manifest["display"]) == (
        "/",
        "/",
        "standalone",
    )
    for icon in manifest["icons"]:
        image = Image.open(io.BytesIO(browserless.get(icon["src"]).data))
        assert f"{image.width}x{image.height}" == icon["sizes"]
        assert image.format == "PNG"
    sizes = {icon["sizes"] for icon in manifest["icons"] if icon["purpose"] == "any"}
    assert {"192x192", "512x512"} <= sizes  # what browsers ask before they offer to install it
    page = browserless.get(manifest["start_url"]).text
    assert 'rel="manifest" href="/manifest.webmanifest"' in page


def test_what_a_system_masks_has_its_sign_in_the_middle(browserless: FlaskClient) -> None:
    """The safe zone of a maskable icon is a circle of four fifths of it (W3C manifest)."""
    manifest = browserless.get("/manifest.webmanifest").json
    (masked,) = [icon for icon in manifest["icons"] if icon["purpose"] == "maskable"]
    image = Image.open(io.BytesIO(browserless.get(masked["src"]).data)).convert("RGBA")
    paper, middle, radius = image.getpixel((0, 0)), image.width / 2, image.width * 0.4
    assert isinstance(paper, tuple)
    assert paper[3] == 255
    outside = [
        image.getpixel((x, y))
        for x in range(0, image.width, 4)
        for y in range(0, image.height, 4)
        if (x - middle) ** 2 + (y - middle) ** 2 > radius**2
    ]
    assert set(outside) == {paper}


def test_pictures_are_shared_and_opened_with_it(browserless: FlaskClient) -> None:
    manifest = browserless.get("/manifest.webmanifest").json
    share = manifest["share_target"]
    assert (share["method"], share["enctype"]) == ("POST", "multipart/form-data")
    (files,) = share["params"]["files"]
    script = browserless.get("/sw.js").text
    assert f'getAll("{files["name"]}")' in script
    assert f'"{share["action"]}"' in script
    (handler,) = manifest["file_handlers"]
    assert ".jpg" in handler["accept"]["image/jpeg"]


@pytest.mark.parametrize(
    ("spoken", "words"), [("en", "tries again"), ("de", "versucht es von selbst")]
)
def test_the_page_without_the_server(browserless: FlaskClient, spoken: str, words: str) -> None:
    answer = browserless.get("/away", headers={"Accept-Language": spoken})
    assert f'<html lang="{spoken}">' in answer.text
    assert words in answer.text
    assert 'src="/away.js"' in answer.text
    assert browserless.get("/away.js").mimetype == "text/javascript"
    assert browserless.get("/sw.js").headers["Cache-Control"] == "no-cache"
