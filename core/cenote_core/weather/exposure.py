"""How far each place of a surface lies open to the sky: the one map by which weather reaches it.

It hangs on what stands where and on nothing of the weather itself, so that other weather computes nothing anew.
"""

from __future__ import annotations

import numpy as np

from ..graph.derived import Ref, derived
from ..measures.sky import sky_map_ref
from ..mesh.texels import sample_map
from ..scene.measuring import Answers, RuleContext
from ..scene.provided import DAMP
from ..scene.scene import Scene

_ASKER = RuleContext("weather")


def _seen(scene: Scene, owner: str) -> Ref[np.ndarray]:
    return sky_map_ref(Answers(scene, owner, _ASKER))


@derived(lambda scene, owner: [_seen(scene, owner)])
def sky_exposure(scene: Scene, owner: str) -> np.ndarray:
    """(R, R) float32 over an owner's unwrap, row 0 at v = 0: 1 under open sky, half on a wall, 0 under a roof."""
    return np.clip(_seen(scene, owner).value(), 0, 1)


def reached(scene: Scene) -> bool:
    """Does it matter how far places lie open to the sky: does anything fall, or stand water?"""
    return scene.site.weather.falls or bool(scene.site.ground.waters())


def wetted(scene: Scene) -> bool:
    """Are places wet besides what falls on them?"""
    return scene.site.weather.wets or bool(scene.site.ground.waters())


def exposure_at(scene: Scene, owner: str, uv2: np.ndarray) -> np.ndarray | None:
    """(N,) exposure at unwrapped coordinates, or None while nothing falls from it."""
    return None if not reached(scene) else sample_map(sky_exposure(scene, owner), uv2)


Window = tuple[tuple[float, float], tuple[float, float]]
"""Least and greatest coordinates of a part of an unwrap."""
WHOLE: Window = ((0.0, 0.0), (1.0, 1.0))


def exposure_map(scene: Scene, owner: str, resolution: int, window: Window = WHOLE) -> np.ndarray:
    """(R, R) float32: the same as fine as other maps of the owner are, over a part of its unwrap."""
    return resampled(sky_exposure(scene, owner), resolution, window)


def resampled(values: np.ndarray, resolution: int, window: Window = WHOLE) -> np.ndarray:
    """(R, R) float32: a map of an unwrap as fine as other maps of it are, over a part of it."""
    centres = (np.arange(resolution, dtype=np.float32) + 0.5) / resolution
    (u0, v0), (u1, v1) = window
    u, v = np.meshgrid(u0 + centres * (u1 - u0), v0 + centres * (v1 - v0))
    found = sample_map(values, np.column_stack([u.ravel(), v.ravel()]))
    return np.ascontiguousarray(found.reshape(resolution, resolution), np.float32)


def damp_at(scene: Scene, owner: str, uv2: np.ndarray) -> np.ndarray | None:
    """(N, 2) how wet points of the unwrap are besides what falls on them and what mud lies there; None while all is dry."""
    found = damp_refs(scene, owner)
    return sample_map(found[0].value(), uv2) if found else None


def damp_refs(scene: Scene, owner: str) -> list[Ref[np.ndarray]]:
    """What `damp_at` hangs on."""
    return [DAMP.answering(scene, owner)] if wetted(scene) else []
