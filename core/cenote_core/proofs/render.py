"""Path-traced stills with their passes, denoised with guides."""

from __future__ import annotations

import gc
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
import pyoidn
from PIL import Image

from ..errors import CenoteError
from ..mesh import engine
from ..plan import StationPlan
from ..scene.scene import Scene
from .assemble import GOOD, ROUGH, Detail, decal_meshes, lights, owner_meshes
from .camera import axes, field_of_view
from .guides import guides
from .lifting import halved, lifted
from .settings import ProofSettings
from .tone import to_screen
from .vegetation import drift_meshes

__all__ = ["ProofSettings", "render_proof"]
Report = Callable[[str, float], None]
_PASS = 2
"""Samples a pixel in one go, so that progress is shown and cancelling is quick."""


def render_proof(scene: Scene, settings: ProofSettings, folder: Path, report: Report) -> dict[str, Any]:
    """Render a station into `folder`: picture.png and passes.exr (beauty, surface colour, normal, depth).

    Returns
    -------
    dict with `files` (name → size in bytes), `seconds`, `samples` and `triangles`
    """
    station = scene.site.stations.get(settings.station)
    if station is None:
        raise CenoteError("That station is gone. Choose another one.")
    started = time.monotonic()
    detail = ROUGH if settings.quality == "rough" else GOOD
    passes, triangles = engine.run(lambda mi: _render(mi, scene, station, settings, detail, report))
    report("denoising", 0.93)
    clean = _lifted(passes) if detail.half_light else _denoised(passes)
    clean = _hazed(clean, passes["depth"], scene)
    report("writing files", 0.97)
    with ThreadPoolExecutor() as side_by_side:
        written = side_by_side.submit(_write_exr, folder / "passes.exr", clean, passes)
        Image.fromarray(to_screen(clean, scene.site.light.exposure)).save(folder / "picture.png", compress_level=3)
        written.result()
    files = {name: (folder / name).stat().st_size for name in ("picture.png", "passes.exr")}
    return {
        "files": files,
        "seconds": round(time.monotonic() - started, 1),
        "samples": detail.samples,
        "triangles": triangles,
        "width": settings.width,
        "height": settings.height,
    }


def _render(
    mi: Any, scene: Scene, station: StationPlan, settings: ProofSettings, detail: Detail, report: Report
) -> tuple[dict[str, np.ndarray], int]:
    full = settings.width, settings.height
    # What is left of the proof before would shift the numbers of this one's surfaces, and its kernels be made anew.
    gc.collect()
    report("surfaces", 0.02)
    parts = owner_meshes(mi, scene, station, full, detail)
    report("drifts", 0.20)
    parts.update(drift_meshes(mi, scene, station, settings.width / settings.height, detail))
    parts.update(decal_meshes(mi, scene))
    triangles = sum(p.face_count() for p in parts.values())
    parts.update(lights(mi, scene))
    report("gathering", 0.30)
    built = mi.load_dict(
        {"type": "scene", **parts, "camera": _camera(mi, station, *full), "integrator": _integrator(detail)}
    )
    report("guides", 0.33)
    seen = guides(mi, built, *full, detail.guides)
    size = tuple((side + 1) // 2 for side in full) if detail.half_light else full
    sensor = mi.load_dict(_camera(mi, station, *size))
    total = None
    at_once = min(_PASS, detail.samples)
    count = detail.samples // at_once
    for k in range(count):
        report(f"light, {k * at_once} of {detail.samples} samples", 0.38 + 0.55 * k / count)
        image = np.array(mi.render(built, sensor=sensor, spp=at_once, seed=k))[..., :3]
        # Rare very bright samples would leave spots the denoiser keeps.
        image = np.minimum(np.nan_to_num(image), 40.0)
        total = image if total is None else total + image
    assert total is not None
    return {"beauty": np.nan_to_num(total / count), **seen}, triangles


def _integrator(detail: Detail) -> dict[str, Any]:
    return {"type": "volpath", "max_depth": detail.bounces, "rr_depth": 4}


def _camera(mi: Any, station: StationPlan, width: int, height: int) -> dict[str, Any]:
    eye, _, up, forward = axes(station)
    return {
        "type": "perspective",
        "fov": field_of_view(station.lens),
        "fov_axis": "x",
        "near_clip": 0.02,
        "far_clip": 5000.0,
        "to_world": mi.ScalarTransform4f().look_at(
            origin=eye.tolist(), target=(eye + forward).tolist(), up=up.tolist()
        ),
        "film": {
            "type": "hdrfilm",
            "width": width,
            "height": height,
            "pixel_format": "rgba",
            "rfilter": {"type": "box"},
            "component_format": "float32",
        },
        "sampler": {"type": "independent"},
    }


def _lifted(passes: dict[str, np.ndarray]) -> np.ndarray:
    seen = {name: plane for name, plane in passes.items() if name != "beauty"}
    small = _denoised({"beauty": passes["beauty"], **{name: halved(plane) for name, plane in seen.items()}})
    passes["beauty"] = np.repeat(np.repeat(passes["beauty"], 2, axis=0), 2, axis=1)[
        : seen["depth"].shape[0], : seen["depth"].shape[1]
    ]
    return lifted(small, seen)


def _denoised(passes: dict[str, np.ndarray]) -> np.ndarray:
    colour = np.ascontiguousarray(passes["beauty"], np.float32)
    return np.asarray(
        pyoidn.denoise(
            colour,
            albedo=np.ascontiguousarray(np.clip(passes["colour"], 0, 1), np.float32),
            normal=np.ascontiguousarray(passes["normal"], np.float32),
            hdr=True,
        )
    )


def _hazed(beauty: np.ndarray, depth: np.ndarray, scene: Scene) -> np.ndarray:
    """Distance pales toward the horizon's colour, exponentially, as in the plate."""
    light = scene.site.light
    colour = scene.sky().haze_colour
    amount = 1 - np.exp(-depth * haze_density(light.haze))
    amount = np.where(depth > 0, amount, 0.0)[..., None]
    return np.asarray(beauty * (1 - amount) + colour * amount, np.float32)


def haze_density(haze: float) -> float:
    """Extinction per metre for the haze setting 0..1."""
    return 0.012 * haze * haze


def _write_exr(path: Path, clean: np.ndarray, passes: dict[str, np.ndarray]) -> None:
    """One multi-layer EXR; layers by the usual dotted channel names. Light and directions in half floats."""
    channels: dict[str, np.ndarray] = {}
    for c, name in enumerate("RGB"):
        channels[name] = clean[..., c].astype(np.float16)
        channels[f"noisy.{name}"] = passes["beauty"][..., c].astype(np.float16)
        channels[f"colour.{name}"] = passes["colour"][..., c].astype(np.float16)
    for c, name in enumerate("XYZ"):
        channels[f"normal.{name}"] = passes["normal"][..., c].astype(np.float16)
    channels["depth.Z"] = passes["depth"].astype(np.float32)
    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    OpenEXR.File(header, {name: np.ascontiguousarray(pixels) for name, pixels in channels.items()}).write(str(path))
