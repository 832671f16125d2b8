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
from dataclasses import replace
from pathlib import Path

import cv2
import exiftool
import numpy as np
import pyvips
from PIL import ExifTags, Image
from shots import SHOTS, Edge, Look, Shot

HERE = Path(__file__).parent
DEMO = HERE.parent
FULL_FRAME_DIAGONAL_MM = math.hypot(36, 24)
BOW_MARGIN = 1.16
TRACE_POINTS = 25
SOFTNESS_PX = 0.65


def rotation(shot: Shot) -> np.ndarray:
    """The corrective rotation R_y(swing) R_x(lean) R_z(roll), axes x right, y down, z forward."""
    a, b, c = (math.radians(v) for v in (shot.roll_deg, shot.lean_deg, shot.swing_deg))
    roll = np.array([[math.cos(a), -math.sin(a), 0], [math.sin(a), math.cos(a), 0], [0, 0, 1]])
    lean = np.array([[1, 0, 0], [0, math.cos(b), -math.sin(b)], [0, math.sin(b), math.cos(b)]])
    swing = np.array([[math.cos(c), 0, math.sin(c)], [0, 1, 0], [-math.sin(c), 0, math.cos(c)]])
    turned: np.ndarray = swing @ lean @ roll
    return turned


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
    """Linear light, float32, shape (height, width, 3), at the tracing size.

    Wider than the picture when it is bowed.
    """
    margin = BOW_MARGIN if shot.k1 or shot.k2 else 1.0
    width = round(shot.render_width * margin)
    height = round(shot.render_width * shot.size[1] / shot.size[0] * margin)
    scale = shot.render_width / shot.size[0]
    axes = rotation(shot)
    world = [",".join(f"{v:.12f}" for v in (axes[0, i], -axes[1, i], axes[2, i])) for i in range(3)]
    up = ",".join(f"{-v:.12f}" for v in (axes[0, 1], -axes[1, 1], axes[2, 1]))
    names = {"Soft_Light": "1", **shot.declare}
    source = "#version 3.7;\n" + "".join(
        f"#declare {key} = {value};\n" for key, value in names.items()
    )
    source += (
        f"#declare Cam_At = <{','.join(map(str, shot.at))}>;\n#declare Cam_Right = "
        f"<{world[0]}>;\n#declare Cam_Up = <{up}>;\n"
        f"#declare Cam_Forward = <{world[2]}>;\n#declare Pixel_W = {width};\n#declare Pixel_H = "
        f"{height};\n"
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
            "-A",  # one sample in the middle of every pixel: edges lie where they are said to lie
            f"+L{HERE}",
            "-D",
            "+FN16",
            "File_Gamma=1.0",
        ]
        done = subprocess.run(command, cwd=HERE, capture_output=True, text=True)
        if done.returncode:
            sys.exit(done.stderr[-1500:])
        image = cv2.imread(str(out), cv2.IMREAD_UNCHANGED)
        if image is None:
            sys.exit(f"{out} was not rendered")
        return np.asarray(image[:, :, ::-1], np.float32) / 65535


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
    traced = cv2.GaussianBlur(traced, (0, 0), SOFTNESS_PX)
    return cv2.remap(traced, map_x, map_y, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)


def expose(shot: Shot, linear: np.ndarray) -> np.ndarray:
    """Linear light to sRGB numbers: exposure, vignette, a shoulder for the highlights.

    The tone curve, contrast and colour.

    Pixel by pixel and before anything is softened: were an edge blurred in linear
    light first, the tone curve would move it towards its darker side.
    """
    look: Look = shot.look
    height, width = linear.shape[:2]
    x, y = np.meshgrid(
        np.linspace(-1, 1, width, dtype=np.float32), np.linspace(-1, 1, height, dtype=np.float32)
    )
    light = (
        np.maximum(linear, 0)
        * look.exposure
        * (1 - look.vignette * (x * x + y * y) / 2)[:, :, None]
    )
    light *= np.array([1 + look.warmth, 1, 1 - look.warmth], np.float32)
    light = light / (1 + 0.18 * light) * 1.18
    tone = np.where(
        light <= 0.0031308,
        12.92 * light,
        1.055 * np.power(np.maximum(light, 1e-9), 1 / 2.4) - 0.055,
    )
    tone = np.clip(tone, 0, 1.1)
    tone = tone + (look.contrast - 1) * (tone - 0.5) * (1 - np.abs(2 * np.clip(tone, 0, 1) - 1)) * 2
    grey = tone @ np.array([0.2126, 0.7152, 0.0722], np.float32)
    coloured = grey[:, :, None] + (tone - grey[:, :, None]) * look.saturation
    return np.asarray(np.clip(coloured, 0, 1), np.float32)


def finish(shot: Shot, tone: np.ndarray, seed: int) -> np.ndarray:
    """Grain, more of it in the shadows, as coarse as demosaicing makes it, and the sharpening of
    a camera.
    """
    grain = np.random.default_rng(seed).standard_normal(tone.shape, np.float32)
    grain = cv2.GaussianBlur(grain, (0, 0), 0.6) * 1.6
    tone = tone + grain * shot.look.noise * (1.3 - 0.7 * tone)
    sharper = tone + 0.6 * (tone - cv2.GaussianBlur(tone, (0, 0), 1.2))
    return np.asarray(np.clip(sharper, 0, 1))


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


def on_scanner(shot: Shot, print_tone: np.ndarray, seed: int) -> np.ndarray:
    """Lay a faded print with its paper border askew on a dark scanner bed."""
    width, height = shot.size
    noise = np.random.default_rng(seed)
    fine = 3  # edges are drawn finer and averaged, so that they lie where they are said to lie
    angle = -math.radians(shot.roll_deg)
    x, y = np.meshgrid(
        (np.arange(width * fine) + 0.5) / fine - width / 2,
        (np.arange(height * fine) + 0.5) / fine - height / 2,
    )
    u = (math.cos(angle) * x + math.sin(angle) * y).astype(np.float32)
    v = (-math.sin(angle) * x + math.cos(angle) * y).astype(np.float32)

    def inside(left: float, right: float, top: float, bottom: float) -> np.ndarray:
        return cv2.resize(
            ((u > left) & (u < right) & (v > top) & (v < bottom)).astype(np.float32),
            shot.size,
            interpolation=cv2.INTER_AREA,
        )[..., None]

    paper, image = inside(-1150, 1150, -750, 750), inside(-1070, 1070, -680, 640)
    x, y = np.meshgrid(np.arange(width) + 0.5 - width / 2, np.arange(height) + 0.5 - height / 2)
    u, v = math.cos(angle) * x + math.sin(angle) * y, -math.sin(angle) * x + math.cos(angle) * y
    scale = print_tone.shape[1] / 2140
    picked = cv2.remap(
        print_tone,
        ((u + 1070) * scale).astype(np.float32),
        ((v + 680) * scale).astype(np.float32),
        cv2.INTER_AREA,
        borderMode=cv2.BORDER_REFLECT,
    )
    grey = picked @ np.array([0.3, 0.59, 0.11], np.float32)
    faded = (
        0.16
        + 0.66 * grey[..., None] * np.array([1.0, 0.92, 0.76], np.float32)
        + np.array([0.02, 0.0, -0.02], np.float32)
    )
    blotch = cv2.resize(
        noise.normal(size=(24, 32)).astype(np.float32), shot.size, interpolation=cv2.INTER_CUBIC
    )[..., None]
    page = np.array([0.90, 0.86, 0.76], np.float32) * (1 + 0.012 * blotch)
    bed = np.full((height, width, 3), 0.055, np.float32) + 0.006 * blotch
    shadow = cv2.GaussianBlur(paper, (0, 0), 14)[..., None]
    out = bed * (1 - 0.5 * shadow)
    out = out * (1 - paper) + (page * (1 - image) + faded * image) * paper
    scanned = cv2.GaussianBlur(out, (0, 0), 0.6) + noise.normal(0, 0.006, out.shape)
    return np.asarray(np.clip(scanned, 0, 1))


def add_exif(path: Path, exif: Image.Exif) -> None:
    """Give a finished file the tags of an Exif block."""
    with tempfile.TemporaryDirectory() as folder, exiftool.ExifTool() as tool:
        carrier = Path(folder) / "exif.jpg"
        Image.new("L", (8, 8)).save(carrier, exif=exif)
        tool.execute("-overwrite_original", "-tagsfromfile", str(carrier), "-exif:all", str(path))


def write(shot: Shot, tone: np.ndarray) -> None:
    """Write the file as its camera would: most as JPEG.

    Some as the odd ones that photographers also have.
    """
    path = DEMO / "pictures" / shot.name
    exif = exif_of(shot)
    pixels = (tone * 255 + 0.5).astype(np.uint8)
    if shot.finish == "16 bit":
        # Twelve bits of signal, as the converters of most cameras give.
        deep = (np.round(tone * 4095) * (65535 / 4095) + 0.5).astype(np.uint16)
        image = pyvips.Image.new_from_memory(deep, *shot.size, 3, "ushort").copy(
            interpretation="rgb16"
        )
        image.tiffsave(str(path), compression="deflate", predictor="horizontal")
        add_exif(path, exif)
    elif shot.finish == "wide gamut":
        image = pyvips.Image.new_from_memory(pixels, *shot.size, 3, "uchar").copy(
            interpretation="srgb"
        )
        image.set_type(
            pyvips.GValue.blob_type,
            "exif-data",
            b"Exif\0\0" + exif.tobytes().removeprefix(b"Exif\0\0"),
        )
        image.icc_transform("p3", input_profile="srgb").jpegsave(str(path), Q=90)
    elif shot.finish == "orientation 8":
        exif[ExifTags.Base.Orientation] = 8
        Image.fromarray(np.rot90(pixels, -1)).save(path, quality=90, exif=exif, optimize=True)
    else:
        Image.fromarray(pixels).save(path, quality=90, subsampling=2, exif=exif, optimize=True)


def truth_of(shot: Shot) -> dict[str, object]:
    """What is known of a picture; demo/truth.schema.json describes every field."""

    def pixels(spot: tuple[float, float, float]) -> list[float]:
        return [round(value, 2) for value in project(shot, spot)]

    def described(edge: Edge) -> dict[str, object]:
        found: dict[str, object] = {
            "name": edge.name,
            "kind": edge.kind,
            "range": edge.range,
            "world_m": edge.ends,
            "points": [pixels(end) for end in edge.ends],
        }
        if shot.k1 or shot.k2:
            start, end = map(np.array, edge.ends)
            found["trace"] = [
                pixels(start + (end - start) * share) for share in np.linspace(0, 1, TRACE_POINTS)
            ]
        return found

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
        "edges": [described(edge) for edge in shot.edges],
        "untrue": [described(edge) for edge in shot.untrue],
        "subject": [pixels(corner) for corner in shot.subject] if shot.subject else None,
    }


def picture_of(shot: Shot, seed: int) -> np.ndarray:
    """The whole way from the scene to the tone of the finished picture."""
    if shot.finish == "print on a scanner":
        taken = replace(
            shot,
            size=(2140, 1320),
            render_width=2140,
            roll_deg=0.0,
            at=(-2.0, 2.6, -2.0),
            focal35_mm=30,
        )
        return on_scanner(
            shot, finish(taken, through_lens(taken, expose(taken, trace(taken))), seed), seed
        )
    return finish(shot, through_lens(shot, expose(shot, trace(shot))), seed)


def main() -> None:
    """Make the named pictures, or all."""
    wanted = set(sys.argv[1:])
    (DEMO / "pictures").mkdir(exist_ok=True)
    for number, shot in enumerate(SHOTS):
        if not wanted or shot.name in wanted:
            print(shot.name, flush=True)
            write(shot, picture_of(shot, number))
    truth = {shot.name: truth_of(shot) for shot in SHOTS}
    (DEMO / "truth.json").write_text(json.dumps(truth) + "\n")
    sets: dict[str, list[str]] = {}
    for shot in SHOTS:
        sets.setdefault(shot.set, []).append(shot.name)
    listed = [{"name": name, "pictures": pictures} for name, pictures in sets.items()]
    (DEMO / "sets.json").write_text(json.dumps(listed, indent=1) + "\n")


if __name__ == "__main__":
    main()
