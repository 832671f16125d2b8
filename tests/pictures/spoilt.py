"""Picture files with bytes changed, cut, repeated and exchanged, for the fuzz of reading."""

import io
import random
from collections.abc import Iterator
from pathlib import Path

from PIL import Image

from sequor.core.errors import UnusableInput
from sequor.pictures.decode import decode
from sequor.pictures.proxy import make_proxy
from tests.conftest import OPEN_PICTURES

SPOILT = ("JPEG", "PNG", "TIFF", "WEBP")
_ENDINGS = {"JPEG": ".jpg", "PNG": ".png", "TIFF": ".tif", "WEBP": ".webp"}
_HEADER = 600


def good_files() -> dict[str, bytes]:
    """A small photograph in every format that is read, with Exif and a profile where it can be."""
    picture = Image.open(OPEN_PICTURES / "building.jpg").convert("RGB").resize((217, 150))
    exif = Image.Exif()
    exif[0x0112], exif[0x010F] = 6, "Maker"
    made = {}
    for name, options in {
        "JPEG": {"quality": 90, "exif": exif},
        "JPEG progressive": {"quality": 90, "progressive": True},
        "PNG": {"exif": exif},
        "TIFF": {},
        "TIFF deflated": {"compression": "tiff_deflate"},
        "TIFF packed": {"compression": "tiff_lzw"},
        "WEBP": {"exif": exif.tobytes()},
    }.items():
        content = io.BytesIO()
        picture.save(content, name.split()[0], **options)
        made[name] = content.getvalue()
    return made


def spoilt_files(count: int, seed: int) -> Iterator[tuple[str, bytes]]:
    """So many spoilt files, the same for a seed, most of them spoilt in the header."""
    chance = random.Random(seed)
    good = good_files()
    for number in range(count):
        kind = chance.choice(sorted(good))
        content = bytearray(good[kind])
        for _ in range(chance.choice((1, 1, 2, 8))):
            end = min(_HEADER, len(content)) if chance.random() < 0.7 else len(content)
            at = chance.randrange(max(1, end))
            way = chance.randrange(6)
            if way == 0:
                content[at] = chance.randrange(256)
            elif way == 1:
                content[at : at + 4] = chance.choice((b"\xff" * 4, bytes(4), b"\x7f\xff\xff\xff"))
            elif way == 2:
                del content[at : at + chance.randrange(1, 50)]
            elif way == 3:
                content[at:at] = content[at : at + chance.randrange(1, 200)]
            elif way == 4:
                del content[max(at, 1) :]
            else:
                content[at : at + 8] = bytes(chance.randrange(256) for _ in range(8))
        yield f"{number}{_ENDINGS[kind.split()[0]]}", bytes(content)


def taken(folder: Path, name: str, content: bytes) -> bool:
    """Whether a file is taken in; nothing but a refusal in words may come of it otherwise."""
    path = folder / name
    path.write_bytes(content)
    try:
        make_proxy(decode(path, max_megapixels=300))
    except UnusableInput:
        return False
    finally:
        path.unlink()
    return True
