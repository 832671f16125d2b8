"""Damaged pictures are refused, and it is said how much of them can be read.

Damage that a format has no way of telling (a changed sample of an uncompressed TIFF, a flipped bit
in a JPEG's data) is not claimed to be found.
"""

import io
import random
import re
import struct
import zlib
from contextlib import suppress
from pathlib import Path

import numpy as np
import pytest
import tifffile
from PIL import Image

from sequor.core.errors import UnusableInput
from sequor.pictures.decode import Damaged, decode
from tests.conftest import OPEN_PICTURES
from tests.pictures.spoilt import spoilt_files, taken

ENDINGS = {"JPEG": ".jpg", "PNG": ".png", "TIFF": ".tif", "WEBP": ".webp"}
KINDS = [
    ("JPEG", {"quality": 95}),
    ("JPEG", {"quality": 90, "progressive": True}),
    ("PNG", {}),
    ("TIFF", {}),
    ("TIFF", {"compression": "tiff_deflate"}),
    ("TIFF", {"compression": "tiff_lzw"}),
    ("WEBP", {"quality": 90}),
]


@pytest.fixture(scope="module")
def photograph() -> Image.Image:
    return Image.open(OPEN_PICTURES / "building.jpg").convert("RGB")


def saved(picture: Image.Image, kind: str, options: dict) -> bytes:
    content = io.BytesIO()
    picture.save(content, kind, **options)
    return content.getvalue()


def refusal(tmp_path: Path, content: bytes, kind: str) -> str:
    path = tmp_path / f"picture{ENDINGS[kind]}"
    path.write_bytes(content)
    with pytest.raises(UnusableInput) as refused:
        decode(path)
    return str(refused.value)


@pytest.mark.parametrize(("kind", "options"), KINDS, ids=str)
def test_a_cut_file(photograph: Image.Image, tmp_path: Path, kind: str, options: dict) -> None:
    content = saved(photograph, kind, options)
    for share in (0.3, 0.5, 0.9, 0.99):
        said = refusal(tmp_path, content[: int(len(content) * share)], kind)
        assert "damaged" in said or "not a picture" in said


def test_how_much_can_be_read_is_said(photograph: Image.Image, tmp_path: Path) -> None:
    content = saved(photograph, "TIFF", {})  # rows lie one after the other, from the front
    said = refusal(tmp_path, content[: len(content) // 2], "TIFF")
    rows = re.search(r"([\d,]+) of 600 rows can be read", said)
    assert rows
    assert 270 <= int(rows[1]) <= 300


@pytest.mark.parametrize(
    ("kind", "options"),
    [one for one in KINDS if one not in (("TIFF", {}), ("WEBP", {"quality": 90}))],
    ids=str,
)
def test_a_hole_of_zeros(photograph: Image.Image, tmp_path: Path, kind: str, options: dict) -> None:
    content = saved(photograph.resize((1736, 1200)), kind, options)
    for share in (0.2, 0.5, 0.8):
        start = int(len(content) * share)
        spoilt = bytearray(content)
        spoilt[start : start + 40_000] = bytes(min(40_000, len(content) - start))
        assert "damaged" in refusal(tmp_path, bytes(spoilt), kind)


@pytest.mark.parametrize("way", ["repeated", "inserted", "exchanged"])
def test_a_jpeg_that_was_changed_in_the_middle_is_refused(
    photograph: Image.Image, tmp_path: Path, way: str
) -> None:
    """50 bytes of 117,000: half of the picture can be wrong then. Where its codes fall into step
    again and the number of blocks comes out right, no reader can tell; of 25 files so few pass.
    """
    chance, content = random.Random(5), saved(photograph, "JPEG", {"quality": 92})
    taken_in = 0
    for _ in range(25):
        spoilt, at = bytearray(content), chance.randrange(2000, len(content) - 2600)
        if way == "repeated":
            spoilt[at:at] = spoilt[at : at + 50]
        elif way == "inserted":
            spoilt[at:at] = bytes(chance.randrange(256) for _ in range(50))
        else:
            spoilt[at : at + 50], spoilt[at + 500 : at + 550] = (
                spoilt[at + 500 : at + 550],
                spoilt[at : at + 50],
            )
        path = tmp_path / "picture.jpg"
        path.write_bytes(spoilt)
        with suppress(Damaged):
            decode(path)
            taken_in += 1
    assert taken_in <= {"repeated": 3, "inserted": 3, "exchanged": 10}[way]


def test_what_is_damaged_is_read_as_far_as_it_goes_when_it_is_wanted(
    photograph: Image.Image, tmp_path: Path
) -> None:
    path, whole = tmp_path / "picture.jpg", saved(photograph, "JPEG", {"quality": 92})
    path.write_bytes(whole)
    good = decode(path).pixels
    path.write_bytes(whole[: len(whole) // 2])
    with pytest.raises(UnusableInput, match="can be taken in as it is"):
        decode(path)
    half = decode(path, damaged=True).pixels
    assert half.shape == good.shape
    np.testing.assert_array_equal(half[:250], good[:250])
    again = decode(path, stored=True).pixels  # what was taken in is read again
    np.testing.assert_array_equal(again, half)


def test_sound_files_with_harmless_oddities_are_taken(
    photograph: Image.Image, tmp_path: Path
) -> None:
    """Bytes after the end, and before a JPEG's end marker; tags that nobody knows."""
    content = saved(photograph, "JPEG", {"quality": 90})
    oddities = {
        "after.jpg": content + bytes(500),
        "before.jpg": content[:-2] + bytes(2) + content[-2:],
        "after.png": saved(photograph, "PNG", {}) + bytes(500),
    }
    for name, odd in oddities.items():
        (tmp_path / name).write_bytes(odd)
        assert decode(tmp_path / name).pixels.shape == (600, 868, 3)
    unknown = [(65000, "s", 0, "unknown to everybody", True)]
    tifffile.imwrite(tmp_path / "tag.tif", np.asarray(photograph), extratags=unknown)
    assert decode(tmp_path / "tag.tif").pixels.shape == (600, 868, 3)


def png_chunks(width: int, height: int, bits: int, colour: int, packed: bytes) -> bytes:
    """A PNG of a header and deflated data (W3C PNG, 11.2)."""

    def chunk(kind: bytes, content: bytes) -> bytes:
        check = struct.pack(">I", zlib.crc32(kind + content))
        return struct.pack(">I", len(content)) + kind + content + check

    header = struct.pack(">IIBBBBB", width, height, bits, colour, 0, 0, 0)
    parts = chunk(b"IHDR", header), chunk(b"IDAT", packed), chunk(b"IEND", b"")
    return b"\x89PNG\r\n\x1a\n" + b"".join(parts)


def png_claiming(width: int, height: int) -> bytes:
    return png_chunks(width, height, 8, 0, zlib.compress(b"\0\0"))


@pytest.mark.parametrize("size", [(1, 300_000_000), (300_000, 1), (15_000, 15_000)], ids=str)
def test_a_small_file_with_a_large_claim_is_refused_from_its_header(
    tmp_path: Path, size: tuple[int, int], monkeypatch: pytest.MonkeyPatch
) -> None:
    import pyvips

    def never(*_: object, **__: object) -> None:
        raise AssertionError("it was opened to be decoded")

    monkeypatch.setattr(pyvips.Image, "new_from_file", never)
    assert "claims" in refusal(tmp_path, png_claiming(*size), "PNG")


def test_a_tiff_without_its_width(tmp_path: Path) -> None:
    content = bytearray(saved(Image.new("L", (8, 8)), "TIFF", {}))
    at = (
        content.index(struct.pack("<HH", 256, 4))
        if struct.pack("<HH", 256, 4) in content
        else (content.index(struct.pack("<HH", 256, 3)))
    )
    content[at : at + 2] = struct.pack("<H", 65001)
    assert refusal(tmp_path, bytes(content), "TIFF")


def test_a_tiff_that_does_not_say_how_long_its_strips_are(tmp_path: Path) -> None:
    # Found by spoiling files at random: without StripByteCounts, tag 279 (TIFF 6.0), its decoder
    # guesses, and the checksum cannot be looked for.
    noise = np.random.default_rng(3).random((120, 160, 3)).astype(np.float32)
    path = tmp_path / "a.tif"
    tifffile.imwrite(path, noise, photometric="rgb", compression="deflate")
    content = path.read_bytes()
    entry = content.index(struct.pack("<HH", 279, 4))
    path.write_bytes(content[:entry] + struct.pack("<H", 32768 + 279) + content[entry + 2 :])
    with pytest.raises(UnusableInput, match="damaged"):
        decode(path)


def test_five_channels(tmp_path: Path) -> None:
    five = np.zeros((20, 30, 5), np.uint8)
    tifffile.imwrite(tmp_path / "five.tif", five, photometric="rgb", extrasamples=(0, 0))
    with pytest.raises(UnusableInput):
        decode(tmp_path / "five.tif")


def test_one_pixel(tmp_path: Path) -> None:
    Image.new("L", (1, 1), 200).save(tmp_path / "one.png")
    assert decode(tmp_path / "one.png").pixels.tolist() == [[[200]]]


def test_files_spoilt_in_any_way_are_taken_or_refused(tmp_path: Path) -> None:
    """A short run of the fuzz that tests/bench runs longer."""
    found = [taken(tmp_path, name, content) for name, content in spoilt_files(250, seed=3)]
    assert 0 < sum(found) < len(found)
