"""How the camera says that it was held, wherever its file says it.

In this order: the notes of the makers that write both angles and of whom ExifTool says what the
signs mean; what a drone's gimbal wrote; the pose of a panorama in XMP; and the elevation of the
axis in Exif (CameraElevationAngle, tag 0x9405 of Exif 2.31, CIPA DC-008), which tells no roll.

Clockwise rotation of the camera is a positive roll here, and a camera that points up a positive
lean. A camera that is held upright says a roll near 90 degrees; what counts is how far it is off
the side that it stands on, as its orientation has set the picture upright already.
"""

import json
import math
from pathlib import Path

from sequor.core.errors import UnusableInput
from sequor.core.photo import MOST_POSE_DEG, CameraPose, PoseSource
from sequor.pictures.exiftool import PROCESS

_MAKERS = ("Panasonic", "Olympus", "Nikon", "Pentax")
_WAYS: tuple[tuple[PoseSource, tuple[str, ...], str, str], ...] = (
    ("maker", _MAKERS, "RollAngle", "PitchAngle"),
    ("gimbal", ("XMP-drone-dji",), "GimbalRollDegree", "GimbalPitchDegree"),
    ("xmp", ("XMP-GPano",), "PoseRollDegrees", "PosePitchDegrees"),
    ("exif", ("ExifIFD",), "", "CameraElevationAngle"),
)
_ASKED = (
    *("-MakerNotes:RollAngle", "-MakerNotes:PitchAngle", "-XMP-drone-dji:GimbalRollDegree"),
    *("-XMP-drone-dji:GimbalPitchDegree", "-XMP-GPano:PoseRollDegrees"),
    *("-XMP-GPano:PosePitchDegrees", "-ExifIFD:CameraElevationAngle"),
)
_QUARTER_DEG = 90.0


def pose_of(path: Path) -> CameraPose | None:
    """What a file says of how its camera was held; None where it says nothing that can be."""
    try:
        arguments = ("-j", "-n", "-G1", "-q", "-charset", "filename=utf8", *_ASKED, str(path))
        _, answer, _ = PROCESS.execute(*arguments)
        (tags,) = json.loads(answer or "[{}]")
    except (UnusableInput, ValueError):  # a picture can be levelled without
        return None
    for source, groups, roll_name, lean_name in _WAYS:
        for group in groups:
            roll = _angle(tags.get(f"{group}:{roll_name}"))
            lean = _angle(tags.get(f"{group}:{lean_name}"))
            if lean is not None and abs(lean) > MOST_POSE_DEG:
                continue  # straight up or down nothing is level
            if roll is not None:
                roll -= _QUARTER_DEG * round(roll / _QUARTER_DEG)
            if roll is not None or lean is not None:
                return CameraPose(roll_deg=roll, lean_deg=lean, source=source)
    return None


def _angle(value: object) -> float | None:
    try:
        angle = float(value)  # type: ignore[arg-type]
    except (TypeError, ValueError):
        return None
    return angle if math.isfinite(angle) and abs(angle) <= 360 else None
