"""Pictures out: bit depth, profile, metadata, orientation and size tags, read back by other
libraries.
"""

import io
import os
import re
from pathlib import Path

import cv2
import numpy as np
import pytest
import pyvips
import tifffile
from PIL import Image, ImageCms

from sequor.core.errors import UnusableInput
from sequor.pictures.decode import DecodedPicture, decode
from sequor.pictures.encode import SUFFIXES, FileChoice, Format, encode, on_white, to_8_bits
from sequor.pictures.proxy import halved, make_proxy
from tests.core.test_render import unseen_green_beside_red

XMP = (
    b'<x:xmpmeta xmlns:x="adobe:ns:meta/">'
    b'<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">'
    b'<rdf:Description rdf:about="" xmlns:tiff="http://ns.adobe.com/tiff/1.0/"'
    b' xmlns:exif="http://ns.adobe.com/exif/1.0/" xmlns:own="urn:nobody:own:1.0/"'
    b' tiff:Orientation="6" exif:PixelXDimension="60" own:Word="kept">'
    b'<dc:title xmlns:dc="http://purl.org/dc/elements/1.1/"><rdf:Alt>'
    b'<rdf:li xml:lang="x-default">Mill</rdf:li></rdf:Alt></dc:title>'
    b"</rdf:Description></rdf:RDF></x:xmpmeta>"
)
PROFILE = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
EXIF_IFD, GPS_IFD = 0x8769, 0x8825


def tagged_original(folder: Path, name: str = "original.jpg") -> Path:
    exif = Image.Exif()
    exif[0x010F] = "Fenlight"
    exif[0x8298] = "nobody in particular"
    exif[0x0112] = 6
    exif[0x0100] = 60
    details = exif.get_ifd(EXIF_IFD)
    details[0xA405] = 28
    details[0xA002], details[0xA003] = 60, 40
    details[0x927C] = b"maker's own note"
    exif.get_ifd(GPS_IFD)[1] = "N"
    pixels = np.random.default_rng(5).integers(0, 256, (40, 60, 3), dtype=np.uint8)
    Image.fromarray(pixels).save(
        folder / name, exif=exif, xmp=XMP, icc_profile=PROFILE, dpi=(300, 300), quality=95
    )
    return folder / name


@pytest.fixture
def original(tmp_path: Path) -> tuple[Path, DecodedPicture]:
    path = tagged_original(tmp_path)
    return path, decode(path)


@pytest.mark.parametrize("format", ["jpeg", "png", "tiff"])
def test_profile_and_metadata_are_kept_and_made_true(
    tmp_path: Path, original: tuple[Path, DecodedPicture], format: Format
) -> None:
    source, picture = original
    target = tmp_path / f"out{SUFFIXES[format]}"
    encode(picture.pixels[:50, :30], picture, source, target, FileChoice(format))
    with Image.open(target) as out:
        out.load()
        exif = out.getexif()
        assert out.size == (30, 50)
        assert out.info["icc_profile"] == PROFILE
        assert exif[0x0112] == 1
        assert exif[0x010F] == "Fenlight"
        assert exif[0x8298] == "nobody in particular"
        details = exif.get_ifd(EXIF_IFD)
        assert (details[0xA002], details[0xA003]) == (30, 50)
        assert details[0xA405] == 28
        assert details[0x927C] == b"maker's own note"
        assert exif.get_ifd(GPS_IFD)[1] == "N"
        assert out.info["dpi"] == pytest.approx((300, 300), abs=0.01)
        xmp = (
            out.info.get("xmp")
            or out.info.get("XML:com.adobe.xmp")
            or getattr(out, "tag_v2", {})[700]
        )
    text = xmp if isinstance(xmp, str) else xmp.decode()
    assert re.search(r'tiff:Orientation(="|>)1', text)
    assert re.search(r'exif:PixelXDimension(="|>)30', text)
    assert "Mill" in text
    assert "kept" in text  # what no program knows is carried over too
    assert exif.get(0x0100) in (None, 30)


def test_another_reader_finds_the_exif_of_a_tiff(
    tmp_path: Path, original: tuple[Path, DecodedPicture]
) -> None:
    source, picture = original
    encode(picture.pixels, picture, source, tmp_path / "out.tif", FileChoice("tiff"))
    with tifffile.TiffFile(tmp_path / "out.tif") as file:
        tags = file.pages[0].tags
        assert tags["ExifTag"].value["FocalLengthIn35mmFilm"] == 28
        assert tags["Make"].value == "Fenlight"
        assert tags["Orientation"].value == 1
        np.testing.assert_array_equal(file.asarray(), picture.pixels)


@pytest.mark.parametrize("format", ["png", "tiff"])
@pytest.mark.parametrize("channels", [1, 3, 4])
def test_sixteen_bits_are_written_exactly(
    tmp_path: Path, original: tuple[Path, DecodedPicture], format: Format, channels: int
) -> None:
    source, picture = original
    deep = np.random.default_rng(4).integers(0, 65536, (31, 47, channels), dtype=np.uint16)
    target = tmp_path / f"deep{SUFFIXES[format]}"
    encode(deep, picture, source, target, FileChoice(format))
    back = cv2.imread(str(target), cv2.IMREAD_UNCHANGED)
    back = back[:, :, None] if back.ndim == 2 else back[:, :, [2, 1, 0, 3][: back.shape[2]]]
    np.testing.assert_array_equal(back, deep)


def test_jpeg_quality_is_honest(
    tmp_path: Path, original: tuple[Path, DecodedPicture], photograph: np.ndarray
) -> None:
    source, picture = original
    errors = []
    for quality in (60, 95):
        target = tmp_path / f"{quality}.jpg"
        encode(photograph, picture, source, target, FileChoice("jpeg", quality))
        errors.append(np.abs(np.asarray(Image.open(target), dtype=int) - photograph).mean())
    assert errors[1] < 1.5 < errors[0]


def test_eight_bits_from_sixteen_are_rounded() -> None:
    deep = np.array([0, 128, 129, 257, 32896, 65406, 65535], np.uint16)
    assert to_8_bits(deep).tolist() == [round(v / 257) for v in deep.tolist()]
    see_through = np.array([[[100, 100, 100, 0], [100, 100, 100, 255]]], np.uint8)
    assert on_white(see_through).tolist() == [[[255] * 3, [100] * 3]]


def test_a_failed_write_leaves_nothing(
    tmp_path: Path, original: tuple[Path, DecodedPicture], monkeypatch: pytest.MonkeyPatch
) -> None:
    source, picture = original
    folder = tmp_path / "out"
    folder.mkdir()

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "replace", full)
    with pytest.raises(UnusableInput, match="No space left on device"):
        encode(picture.pixels, picture, source, folder / "out.jpg", FileChoice("jpeg"))
    assert list(folder.iterdir()) == []


def test_a_jpeg_that_would_be_too_wide_is_refused(
    tmp_path: Path, original: tuple[Path, DecodedPicture]
) -> None:
    source, picture = original
    with pytest.raises(UnusableInput, match="65535"):
        encode(
            np.zeros((1, 65536, 3), np.uint8),
            picture,
            source,
            tmp_path / "wide.jpg",
            FileChoice("jpeg"),
        )


def test_the_proxy_of_a_deep_grey_picture(tmp_path: Path) -> None:
    tifffile.imwrite(tmp_path / "deep.tif", np.full((600, 900), 65535 // 2, np.uint16))
    proxy = Image.open(io.BytesIO(make_proxy(decode(tmp_path / "deep.tif"), long_edge=300)))
    assert proxy.size == (300, 200)
    assert np.asarray(proxy).mean() == pytest.approx(127, abs=1)


def test_what_is_transparent_does_not_bleed_into_proxies_and_halves(tmp_path: Path) -> None:
    picture = unseen_green_beside_red(np.uint8)
    Image.fromarray(picture, "RGBA").save(tmp_path / "red.png")
    proxy = np.asarray(Image.open(io.BytesIO(make_proxy(decode(tmp_path / "red.png"), 40))))
    assert proxy.shape[:2] == (27, 40)
    # Red on white has as much green as blue.
    assert (proxy[:, :, 1].astype(int) - proxy[:, :, 2]).max() < 40  # the JPEG's own colours
    for kind in (np.uint8, np.uint16):
        half = halved(unseen_green_beside_red(kind)[:, 1:])
        assert half[half[:, :, 3] > 0][:, 1].max() == 0
        assert half.shape == (40, 60, 4)
        between = half[:, 29]  # of one red and one unseen pixel
        assert abs(between[0, 3] / np.iinfo(kind).max - 0.5) < 0.01
        assert between[0, 0] == np.iinfo(kind).max


def test_the_proxy_is_converted_to_srgb(tmp_path: Path) -> None:
    # The same red in numbers of the wide Display P3 space; LittleCMS (through libvips) made them
    # from sRGB (IEC 61966-2-1).
    srgb = pyvips.Image.black(60, 40, bands=3) + [200, 30, 30]
    wide = srgb.cast("uchar").copy(interpretation="srgb").icc_transform("p3", input_profile="srgb")
    wide.pngsave(str(tmp_path / "wide.png"))
    picture = decode(tmp_path / "wide.png")
    assert abs(int(picture.pixels[5, 5, 0]) - 200) > 10
    proxy = np.asarray(Image.open(io.BytesIO(make_proxy(picture))))
    assert proxy[20, 30] == pytest.approx((200, 30, 30), abs=4)
