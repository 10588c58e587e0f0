"""From traced light to the files of a proof: denoised, hazed, on the screen and as layers."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import OpenEXR
import pyoidn
from PIL import Image

from ..scene.scene import Scene
from ..surfaces.formulas import fog_density, haze_density
from .passes import CLEAN, FALLING, HAZE, LAYERS, WHOLE
from .settings import GROWING, PASSES, PICTURE
from .tone import to_screen
from .upsampling import half_sized, joint_bilateral_upsample


def denoised(passes: dict[str, np.ndarray]) -> np.ndarray:
    """(H, W, 3) light without its noise, guided by surface colour and normal."""
    colour = np.ascontiguousarray(passes["beauty"], np.float32)
    return np.asarray(
        pyoidn.denoise(
            colour,
            albedo=np.ascontiguousarray(np.clip(passes["colour"], 0, 1), np.float32),
            normal=np.ascontiguousarray(passes["normal"], np.float32),
            hdr=True,
        )
    )


def lifted_to_full(light: np.ndarray, features: dict[str, np.ndarray]) -> tuple[np.ndarray, np.ndarray]:
    """Light of half the size made clean and lifted to full size by full-size features; and as it was, enlarged."""
    small = denoised({"beauty": light} | {name: half_sized(features[name]) for name in ("colour", "normal")})
    height, width = features["depth"].shape
    rough = np.repeat(np.repeat(light, 2, axis=0), 2, axis=1)[:height, :width]
    return joint_bilateral_upsample(small, features), rough


def haze(depth: np.ndarray, scene: Scene) -> np.ndarray:
    """(H, W, 4) what the air lays over each pixel: distance pales toward the horizon's colour, exponentially, as in the
    plate. Colour times share, and the share."""
    density = haze_density(scene.site.light.haze) + fog_density(scene.site.weather.fog)
    amount = np.where(depth > 0, 1 - np.exp(-depth * density), 0.0)[..., None]
    return np.concatenate([scene.sky().haze_colour * amount, amount], axis=-1).astype(np.float32)


def laid_over(beauty: np.ndarray, layer: np.ndarray) -> np.ndarray:
    """(H, W, 3) a picture with a layer over it, (H, W, 4): colour times share, and the share (Porter and Duff 1984)."""
    return np.asarray(beauty * (1 - layer[..., 3:]) + layer[..., :3], np.float32)


def write_growing(folder: Path, clean: np.ndarray, exposure: float) -> None:
    """What is there so far; whoever reads meanwhile gets this one whole or the one before."""
    unfinished = folder / f"next-{GROWING}"
    Image.fromarray(to_screen(clean, exposure)).save(unfinished, quality=88)
    unfinished.replace(folder / GROWING)


def write_files(folder: Path, passes: dict[str, np.ndarray], exposure: float) -> dict[str, int]:
    """The picture, as its clean light, haze and falling drops make it, and its layers; their sizes in bytes by name."""
    whole = laid_over(laid_over(passes[CLEAN], passes[HAZE]), passes[FALLING])
    with ThreadPoolExecutor() as side_by_side:
        written = side_by_side.submit(_write_exr, folder / PASSES, passes | {WHOLE: whole})
        Image.fromarray(to_screen(whole, exposure)).save(folder / PICTURE, compress_level=3)
        written.result()
    (folder / GROWING).unlink(missing_ok=True)
    return {name: (folder / name).stat().st_size for name in (PICTURE, PASSES)}


def _write_exr(path: Path, passes: dict[str, np.ndarray]) -> None:
    """One multi-layer EXR."""
    pixels = {name: plane for layer in LAYERS for name, plane in layer.planes(passes[layer.of]).items()}
    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    OpenEXR.File(header, pixels).write(str(path))
