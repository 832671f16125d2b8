"""Trace the scenes and finish them as photographs: ``python demo/scenes/render.py [NAME ...]``.

Needs POV-Ray (Debian package povray). Writes demo/pictures/ and demo/truth.json. Each scene
is traced with an ideal pinhole camera in the stated pose; then the lens bow, the
sharpness, the grain and the tone of a camera are put on, and the file is written as
a camera writes it. Only the positions matter to the tests, and only the bow moves them.
"""

import json
import math
import subprocess
import sys
import tempfile
from pathlib import Path

import cv2
import numpy as np
from PIL import ExifTags, Image
from shots import SHOTS, Look, Shot

HERE = Path(__file__).parent
DEMO = HERE.parent
FULL_FRAME_DIAGONAL_MM = math.hypot(36, 24)
BOW_MARGIN = 1.16


def rotation(shot: Shot) -> np.ndarray:
    """The corrective rotation R_y(swing) R_x(lean) R_z(roll), axes x right, y down, z forward."""
    a, b, c = (math.radians(v) for v in (shot.roll_deg, shot.lean_deg, shot.swing_deg))
    roll = np.array([[math.cos(a), -math.sin(a), 0], [math.sin(a), math.cos(a), 0], [0, 0, 1]])
    lean = np.array([[1, 0, 0], [0, math.cos(b), -math.sin(b)], [0, math.sin(b), math.cos(b)]])
    swing = np.array([[math.cos(c), 0, math.sin(c)], [0, 1, 0], [-math.sin(c), 0, math.cos(c)]])
    return swing @ lean @ roll


def focal_px(shot: Shot) -> float:
    return shot.focal35_mm / FULL_FRAME_DIAGONAL_MM * math.hypot(*shot.size)


def project(shot: Shot, spot: tuple[float, float, float]) -> tuple[float, float]:
    """Where a spot of the scene lies in the picture, in continuous pixels."""
    x, y, z = np.subtract(spot, shot.at)
    ray = rotation(shot).T @ (x, -y, z)
    assert ray[2] > 0, f"{shot.name}: {spot} is behind the camera"
    width, height = shot.size
    u, v = focal_px(shot) * ray[:2] / ray[2]
    r2 = (u * u + v * v) / (width * width / 4 + height * height / 4)
    bow = 1 + shot.k1 * r2 + shot.k2 * r2 * r2
    return width / 2 + u * bow, height / 2 + v * bow


def trace(shot: Shot) -> np.ndarray:
    """Linear light, float32, shape (height, width, 3), at the tracing size; wider than the picture when it is bowed."""
    margin = BOW_MARGIN if shot.k1 or shot.k2 else 1.0
    width = round(shot.render_width * margin)
    height = round(shot.render_width * shot.size[1] / shot.size[0] * margin)
    scale = shot.render_width / shot.size[0]
    axes = rotation(shot)
    world = [",".join(f"{v:.12f}" for v in (axes[0, i], -axes[1, i], axes[2, i])) for i in range(3)]
    up = ",".join(f"{-v:.12f}" for v in (axes[0, 1], -axes[1, 1], axes[2, 1]))
    names = {"Soft_Light": "1", **shot.declare}
    source = "#version 3.7;\n" + "".join(f"#declare {key} = {value};\n" for key, value in names.items())
    source += (
        f"#declare Cam_At = <{','.join(map(str, shot.at))}>;\n#declare Cam_Right = <{world[0]}>;\n#declare Cam_Up = <{up}>;\n"
        f"#declare Cam_Forward = <{world[2]}>;\n#declare Pixel_W = {width};\n#declare Pixel_H = {height};\n"
        f'#declare Focal = {focal_px(shot) * scale:.9f};\n#include "{shot.scene}.inc"\n'
    )
    with tempfile.TemporaryDirectory() as folder:
        scene, out = Path(folder) / "shot.pov", Path(folder) / "shot.png"
        scene.write_text(source)
        command = [
            "povray",
            f"+I{scene}",
            f"+O{out}",
            f"+W{width}",
            f"+H{height}",
            "+A0.25",
            "+AM2",
            "+R2",
            f"+L{HERE}",
            "-D",
            "+FN16",
            "File_Gamma=1.0",
        ]
        done = subprocess.run(command, cwd=HERE, capture_output=True, text=True)
        if done.returncode:
            sys.exit(done.stderr[-1500:])
        return cv2.imread(str(out), cv2.IMREAD_UNCHANGED)[:, :, ::-1].astype(np.float32) / 65535


def through_lens(shot: Shot, traced: np.ndarray) -> np.ndarray:
    """Bring the traced picture to full size, with the bow of the lens: one interpolation."""
    width, height = shot.size
    scale = shot.render_width / width
    x, y = np.meshgrid(np.arange(width) + 0.5 - width / 2, np.arange(height) + 0.5 - height / 2)
    radius = math.hypot(width, height) / 2
    distorted = np.hypot(x, y) / radius
    straight = distorted.copy()
    for _ in range(30):  # Newton steps on r_d = r_u (1 + k1 r_u^2 + k2 r_u^4)
        excess = straight * (1 + shot.k1 * straight**2 + shot.k2 * straight**4) - distorted
        straight -= excess / (1 + 3 * shot.k1 * straight**2 + 5 * shot.k2 * straight**4)
    ratio = np.where(distorted > 0, straight / np.maximum(distorted, 1e-12), 1) * scale
    map_x = (x * ratio + traced.shape[1] / 2 - 0.5).astype(np.float32)
    map_y = (y * ratio + traced.shape[0] / 2 - 0.5).astype(np.float32)
    return cv2.remap(traced, map_x, map_y, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)


def develop(shot: Shot, linear: np.ndarray, seed: int) -> np.ndarray:
    """Linear light to sRGB numbers in 0..1, as a camera would: exposure, vignette, grain, tone, sharpening."""
    look: Look = shot.look
    width, height = shot.size
    noise = np.random.default_rng(seed)
    x, y = np.meshgrid(np.linspace(-1, 1, width), np.linspace(-1, 1, height))
    light = np.maximum(linear, 0) * look.exposure * (1 - look.vignette * (x * x + y * y) / 2)[:, :, None]
    light *= np.array([1 + look.warmth, 1, 1 - look.warmth])
    light = light / (1 + 0.18 * light) * 1.18  # a shoulder for the highlights
    # Photon noise grows with the light, read noise does not; demosaicing makes both a little coarse.
    grain = noise.normal(size=light.shape).astype(np.float32)
    grain = cv2.GaussianBlur(grain, (0, 0), 0.6) * 1.6
    light = np.maximum(light + grain * look.noise * np.sqrt(np.maximum(light, 0) * 0.5 + 0.01), 0)
    tone = np.where(light <= 0.0031308, 12.92 * light, 1.055 * np.power(np.maximum(light, 1e-9), 1 / 2.4) - 0.055)
    tone = np.clip(tone, 0, 1.2)
    tone = tone + (look.contrast - 1) * (tone - 0.5) * (1 - np.abs(2 * np.clip(tone, 0, 1) - 1)) * 2
    grey = tone @ np.array([0.2126, 0.7152, 0.0722])
    tone = grey[:, :, None] + (tone - grey[:, :, None]) * look.saturation
    tone = tone.astype(np.float32)
    tone += 0.5 * (tone - cv2.GaussianBlur(tone, (0, 0), 1.2))
    return np.clip(tone, 0, 1)


def exif_of(shot: Shot) -> Image.Exif:
    exif = Image.Exif()
    exif[ExifTags.Base.Make] = "Fenlight"
    exif[ExifTags.Base.Model] = "Fenlight F2"
    exif[ExifTags.Base.Orientation] = 1
    details = exif.get_ifd(ExifTags.IFD.Exif)
    details[ExifTags.Base.FocalLengthIn35mmFilm] = round(shot.focal35_mm)
    details[ExifTags.Base.FocalLength] = float(shot.focal35_mm)
    details[ExifTags.Base.ISOSpeedRatings] = 200
    return exif


def write(shot: Shot, tone: np.ndarray) -> None:
    pixels = (tone * 255 + 0.5).astype(np.uint8)
    Image.fromarray(pixels).save(DEMO / "pictures" / shot.name, quality=90, subsampling=2, exif=exif_of(shot), optimize=True)


def truth_of(shot: Shot) -> dict[str, object]:
    """What is known of a picture; demo/truth.schema.json describes every field."""

    def pixels(spot: tuple[float, float, float]) -> list[float]:
        return [round(value, 2) for value in project(shot, spot)]

    return {
        "summary": shot.summary,
        "width": shot.size[0],
        "height": shot.size[1],
        "camera": {
            "at_m": shot.at,
            "roll_deg": shot.roll_deg,
            "lean_deg": shot.lean_deg,
            "swing_deg": shot.swing_deg,
            "focal35_mm": shot.focal35_mm,
            "focal_px": round(focal_px(shot), 4),
            "k1": shot.k1,
            "k2": shot.k2,
        },
        "edges": [
            {
                "name": edge.name,
                "kind": edge.kind,
                "range": edge.range,
                "world_m": edge.ends,
                "points": [pixels(end) for end in edge.ends],
            }
            for edge in shot.edges
        ],
    }


def main() -> None:
    """Make the named pictures, or all."""
    wanted = set(sys.argv[1:])
    (DEMO / "pictures").mkdir(exist_ok=True)
    for number, shot in enumerate(SHOTS):
        if not wanted or shot.name in wanted:
            print(shot.name, flush=True)
            write(shot, develop(shot, through_lens(shot, trace(shot)), seed=number))
    truth = {shot.name: truth_of(shot) for shot in SHOTS}
    (DEMO / "truth.json").write_text(json.dumps(truth, indent=1) + "\n")
    sets: dict[str, list[str]] = {}
    for shot in SHOTS:
        sets.setdefault(shot.set, []).append(shot.name)
    listed = [{"name": name, "pictures": pictures} for name, pictures in sets.items()]
    (DEMO / "sets.json").write_text(json.dumps(listed, indent=1) + "\n")


if __name__ == "__main__":
    main()
