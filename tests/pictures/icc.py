"""How the working profile `src/sequor/pictures/wide.icc` was made: the primaries and white of
ITU-R BT.2020 (table 3) with the transfer curve of sRGB (IEC 61966-2-1), as a display profile of
ICC.1:2010 (version 4.3), whose numbers are seen from D50 (Bradford's adaptation, annex E).

Run as a module it writes the file anew.
"""

import struct
from pathlib import Path

import numpy as np

PRIMARIES = ((0.708, 0.292), (0.170, 0.797), (0.131, 0.046))
WHITE = (0.3127, 0.3290)
D50 = np.array([0.9642, 1.0, 0.8249])
BRADFORD = np.array(
    [[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]]
)
NAME = "Sequor wide: BT.2020 colours, sRGB curve"
RIGHTS = "Free for any use"
FILE = Path(__file__).parents[2] / "src/sequor/pictures/wide.icc"


def xyz_of(x: float, y: float) -> np.ndarray:
    return np.array([x / y, 1.0, (1 - x - y) / y])


def adaptation() -> np.ndarray:
    cones = BRADFORD @ D50 / (BRADFORD @ xyz_of(*WHITE))
    return np.linalg.inv(BRADFORD) @ np.diag(cones) @ BRADFORD


def to_xyz() -> np.ndarray:
    """From linear red, green and blue to XYZ under D65."""
    columns = np.column_stack([xyz_of(*primary) for primary in PRIMARIES])
    return columns * np.linalg.solve(columns, xyz_of(*WHITE))


def fixed(values: np.ndarray) -> bytes:
    return b"".join(struct.pack(">i", round(float(v) * 65536)) for v in np.ravel(values))


def text(words: str) -> bytes:
    coded = words.encode("utf-16-be")
    return (
        b"mluc" + bytes(4) + struct.pack(">II2s2sII", 1, 12, b"en", b"US", len(coded), 28) + coded
    )


def wide_profile() -> bytes:
    colours = adaptation() @ to_xyz()
    # Type 3 of a parametric curve: ((X + 0.055) / 1.055) ^ 2.4 from 0.04045 on, else X / 12.92.
    curve = b"para" + bytes(4) + struct.pack(">HH", 3, 0)
    curve += fixed(np.array([2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045]))
    tags = {
        b"desc": text(NAME),
        b"cprt": text(RIGHTS),
        b"wtpt": b"XYZ " + bytes(4) + fixed(D50),
        b"chad": b"sf32" + bytes(4) + fixed(adaptation()),
        **{
            name: b"XYZ " + bytes(4) + fixed(colours[:, place])
            for place, name in enumerate((b"rXYZ", b"gXYZ", b"bXYZ"))
        },
        **dict.fromkeys((b"rTRC", b"gTRC", b"bTRC"), curve),
    }
    table, data, places = b"", b"", {}
    start = 128 + 4 + 12 * len(tags)
    for name, content in tags.items():
        if content not in places:
            places[content] = start + len(data)
            data += content + bytes(-len(content) % 4)
        table += name + struct.pack(">II", places[content], len(content))
    size = start + len(data)
    head = struct.pack(">I4sI4s4s4s", size, bytes(4), 0x04300000, b"mntr", b"RGB ", b"XYZ ")
    head += struct.pack(">6H", 2026, 1, 1, 0, 0, 0) + b"acsp" + bytes(28) + fixed(D50)
    return head + bytes(128 - len(head)) + struct.pack(">I", len(tags)) + table + data


if __name__ == "__main__":
    FILE.write_bytes(wide_profile())
