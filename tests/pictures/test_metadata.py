"""What metadata an export keeps, tag by tag, as ExifTool's own command reads both files.

The map from IPTC to XMP is that of the IPTC Photo Metadata Standard.
"""

import json
import subprocess
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from sequor.pictures import metadata
from sequor.pictures.decode import decode
from sequor.pictures.encode import SUFFIXES, FileChoice, Format, encode
from sequor.pictures.metadata import has_metadata

ALL: tuple[Format, ...] = ("jpeg", "png", "tiff", "webp", "avif")
WORDS = "Zoë Müller, Łukasz 写真"
TAGS = (
    f"-EXIF:Artist={WORDS}",
    f"-EXIF:ImageDescription={WORDS}",
    f"-EXIF:UserComment={WORDS}",
    "-EXIF:Make=Fenlight",
    "-EXIF:LensModel=Fenlight 28",
    "-EXIF:FocalLengthIn35mmFormat=28",
    "-EXIF:Orientation#=6",
    "-EXIF:XResolution=300",
    "-EXIF:YResolution=300",
    "-IPTC:CodedCharacterSet=UTF8",
    "-IPTC:Keywords=weir",
    "-IPTC:Keywords=Brücke",
    f"-IPTC:By-line={WORDS}",
    "-IPTC:Headline=The weir",
    "-XMP-dc:Title=Łąka",
    "-XMP-xmp:Rating=4",
)
PLACES = (
    "-IPTC:City=Ouldmere",
    "-IPTC:Sub-location=Ouldmere lock",
    "-EXIF:GPSLatitude=51.5",
    "-EXIF:GPSLatitudeRef=N",
    "-EXIF:GPSLongitude=3.5",
    "-EXIF:GPSLongitudeRef=W",
    "-XMP:City=Ouldmere",
    "-XMP:Country=Nowhere at Ouldmere",
    "-XMP-iptcCore:Location=Ouldmere",
    "-XMP-iptcExt:LocationShownCity=Ouldmere",
    "-XMP-iptcExt:LocationCreatedSublocation=Ouldmere",
    "-XMP-exif:GPSLatitude=51.5",
    "-XMP-exif:GPSLongitude=3.5",
)
# What describes how pixels are stored differs by nature; the profile is tested elsewhere.
STORED = {
    *("ImageWidth", "ImageHeight", "ExifImageWidth", "ExifImageHeight", "Orientation"),
    *("BitsPerSample", "Compression", "PhotometricInterpretation", "StripOffsets", "Predictor"),
    *("SamplesPerPixel", "RowsPerStrip", "StripByteCounts", "PlanarConfiguration", "XMPToolkit"),
    *("YCbCrPositioning", "ComponentsConfiguration", "FlashpixVersion", "ExifVersion"),
    *("CodedCharacterSet", "EnvelopeRecordVersion", "ApplicationRecordVersion", "ColorSpace"),
    *("XResolution", "YResolution", "ResolutionUnit", "GPSVersionID", "SampleFormat"),
}


def tags_of(path: Path) -> dict[str, object]:
    """All tags of Exif, IPTC and XMP by their group and name."""
    command = ["exiftool", "-j", "-n", "-G0", "-EXIF:All", "-IPTC:All", "-XMP:All", str(path)]
    said = subprocess.run(command, capture_output=True, check=True, text=True).stdout
    (found,) = json.loads(said)
    return {
        name: value
        for name, value in found.items()
        if ":" in name and name.split(":")[1] not in STORED
    }


def everything_of(path: Path) -> str:
    """All that ExifTool finds in a file, unknown tags and blocks too."""
    command = ["exiftool", "-a", "-u", "-G", "-s", str(path)]
    return subprocess.run(command, capture_output=True, check=True, text=True).stdout


@pytest.fixture(scope="module")
def original(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("metadata") / "original.jpg"
    pixels = np.random.default_rng(5).integers(0, 256, (40, 60, 3), np.uint8)
    Image.fromarray(pixels).save(path, quality=95, dpi=(300, 300), comment="Grüße vom Wehr")
    charset = ("-charset", "iptc=utf8", "-charset", "exif=utf8")
    command = ["exiftool", "-q", "-overwrite_original", *charset, *TAGS, *PLACES, str(path)]
    subprocess.run(command, check=True)
    return path


def export(original: Path, folder: Path, choice: FileChoice) -> Path:
    picture = decode(original)
    target = folder / f"out{SUFFIXES[choice.format]}"
    encode(picture.pixels[:50, :30], picture, original, target, choice)
    return target


@pytest.mark.parametrize("format", ALL)
def test_every_tag_survives(original: Path, tmp_path: Path, format: Format) -> None:
    before, after = tags_of(original), tags_of(export(original, tmp_path, FileChoice(format)))
    if format in ("webp", "avif"):
        # No place for IPTC there: what it says stands in XMP.
        assert after["XMP:Subject"] == ["weir", "Brücke"]
        assert after["XMP:Creator"] == WORDS
        assert after["XMP:Headline"] == "The weir"
        before = {name: value for name, value in before.items() if not name.startswith("IPTC:")}
    assert {name: after.get(name) for name in before} == before
    assert before["EXIF:Artist"] == WORDS
    if format in ("jpeg", "png"):
        assert "Grüße vom Wehr" in everything_of(tmp_path / f"out{SUFFIXES[format]}")


@pytest.mark.parametrize("format", ALL)
def test_the_resolution_survives(original: Path, tmp_path: Path, format: Format) -> None:
    said = everything_of(export(original, tmp_path, FileChoice(format)))
    for tag in ("XResolution", "YResolution"):
        assert {line.split(":")[1].strip() for line in said.splitlines() if f" {tag} " in line} <= {
            "300"
        }
    assert "XResolution" in said


@pytest.mark.parametrize("format", ALL)
@pytest.mark.parametrize("unit", [0, 1, 2])
def test_a_resolution_whose_unit_is_left_out_is_per_inch(
    tmp_path: Path, format: Format, unit: int
) -> None:
    source = tmp_path / "a.jpg"
    exif = Image.Exif()
    exif[0x011A] = exif[0x011B] = 300.0
    exif[0x0128] = unit
    Image.fromarray(np.zeros((8, 8, 3), np.uint8)).save(source, exif=exif)
    content = source.read_bytes()
    jfif = content.index(b"JFIF") + 7  # the density's unit and both densities, JFIF 1.02
    source.write_bytes(
        content[:jfif] + bytes([unit % 2]) + b"\x01\x2c\x01\x2c" + content[jfif + 5 :]
    )
    assert decode(source).facts.ppi == 300
    picture = decode(source)
    target = tmp_path / f"b{SUFFIXES[format]}"
    encode(picture.pixels, picture, source, target, FileChoice(format))
    with Image.open(target) as out:
        exif = out.getexif()
        assert (float(exif[0x011A]), exif[0x0128]) == (pytest.approx(300), 2)
        if format not in ("webp", "avif"):
            assert out.info["dpi"] == pytest.approx((300, 300), abs=0.01)


@pytest.mark.parametrize("format", ALL)
def test_no_word_of_the_place_is_left(original: Path, tmp_path: Path, format: Format) -> None:
    target = export(original, tmp_path, FileChoice(format, metadata="no_place"))
    assert b"Ouldmere" not in target.read_bytes()
    said = everything_of(target)
    assert "Ouldmere" not in said
    assert "Latitude" not in said
    after = tags_of(target)
    assert after["EXIF:Artist"] == WORDS
    assert after["XMP:Title"] == "Łąka"
    assert after.get("IPTC:Keywords", after.get("XMP:Subject")) == ["weir", "Brücke"]


@pytest.mark.parametrize("format", ALL)
def test_nothing_is_left_when_nothing_is_to_be_kept(
    original: Path, tmp_path: Path, format: Format
) -> None:
    target = export(original, tmp_path, FileChoice(format, metadata="none"))
    assert tags_of(target) == {}
    for word in (b"Ouldmere", b"Fenlight", "Zoë".encode()):
        assert word not in target.read_bytes()


def test_broken_metadata_are_no_reason_to_lose_the_picture(original: Path, tmp_path: Path) -> None:
    content = bytearray(original.read_bytes())
    start = content.index(b"Exif\0\0") + 14
    content[start : start + 60] = b"\xff" * 60
    broken = tmp_path / "broken.jpg"
    broken.write_bytes(content)
    target = export(broken, tmp_path, FileChoice("jpeg"))
    assert Image.open(target).size == (30, 40)
    assert tags_of(target)["XMP:Title"] == "Łąka"


def test_a_file_without_metadata_is_not_touched(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def never(*_: object) -> None:
        raise AssertionError("ExifTool was asked")

    source = tmp_path / "plain.png"
    Image.fromarray(np.zeros((8, 8, 3), np.uint8)).save(source)
    assert not has_metadata(source)
    monkeypatch.setattr(metadata, "_execute", never)
    picture = decode(source)
    encode(picture.pixels, picture, source, tmp_path / "out.jpg", FileChoice("jpeg"))
    assert (tmp_path / "out.jpg").exists()
