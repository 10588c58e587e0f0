"""Drops at lower edges: those that hang there, and when each of them falls.

A drop hangs until its weight is more than its rim of water holds (Tate 1864: about 2.6 millimetres of radius), falls
freely, and another one grows where it was.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..graph.derived import Ref, derived
from ..hashing import uniform
from ..mesh.mesh import Mesh, make_mesh, vertex_normals
from ..mesh.rings import between_rings, fan
from ..plan import GROUND
from ..scene.scene import Scene
from .icicles import hang
from .lips import fed, fed_refs, lips, places_along

LARGEST = 0.0026
"""Metres of radius at which a drop falls."""
_APART = 0.05
"""Metres of lip for each place that drips."""
_LEAST_FED = 0.02
_QUICKEST, _SLOWEST = 0.35, 9.0
"""Seconds between two drops from one place."""
_MOST = 240
"""Places on one owner that drip."""
_SIDES = 10
_PROFILE = ((0.0, 0.0), (0.5, 0.05), (0.62, 0.45), (0.86, 0.95), (1.0, 1.45), (0.9, 1.95), (0.55, 2.32))
"""Radius and depth of a drop that hangs, in radii of its own: a neck, and a round belly."""
_BOTTOM = 2.42


@dataclass(frozen=True)
class Drips:
    """Places that drops fall from.

    Attributes
    ----------
    at : (N, 3) float64 metres, where a drop hangs
    air : (N,) float64 metres it falls
    period : (N,) float64 seconds between two of them
    phase : (N,) float64 0..1 of a period, that has gone by at the moment 0
    """

    at: np.ndarray
    air: np.ndarray
    period: np.ndarray
    phase: np.ndarray

    def since(self, moment: float) -> np.ndarray:
        """(N,) seconds since the last drop of each left."""
        return np.asarray(np.mod(moment / self.period + self.phase, 1.0) * self.period)


def _needs(scene: Scene, owner: str, rate: float, longest: float) -> list[object]:
    return [*fed_refs(scene, owner), rate, longest]


@derived(_needs)
def _drips(scene: Scene, owner: str, rate: float, longest: float) -> Drips:
    along = lips(scene, owner)
    water = fed(scene, owner)
    of, name, at = places_along(along, _APART, 21)
    air = along.air[of]
    if longest > 0:
        # What hangs there lets drops go from its tip.
        ice = hang(along, water, longest)
        at = np.concatenate([at, ice.root - np.column_stack([0 * ice.length, ice.length, 0 * ice.length])])
        air = np.concatenate([air, ice.air - ice.length])
        of, name = np.concatenate([of, ice.of]), np.concatenate([name, ice.name + np.uint64(1 << 40)])
    # A place gives a drop the sooner the more water comes to it, and none quite in step with another.
    period = np.clip(1.1 / np.maximum(rate * np.minimum(water[of], 3.0), 1e-6), _QUICKEST, None)
    period = period * (0.6 + 0.8 * uniform(name, 23))
    chosen = np.flatnonzero((water[of] > _LEAST_FED) & (period < _SLOWEST))
    chosen = chosen[np.sort(np.argsort(period[chosen], kind="stable")[:_MOST])]
    return Drips(at[chosen], air[chosen], period[chosen], uniform(name[chosen], 24))


def drips_ref(scene: Scene, owner: str) -> Ref[Drips] | None:
    """Places on an owner that drip in the weather that shows, without making them; None while nothing drips."""
    now = scene.site.weather
    return _drips.ref(scene, owner, now.drips, now.icicles / 100) if now.drips > 0 and owner != GROUND else None


def drips(scene: Scene, owner: str) -> Drips | None:
    """The same, made; None where nothing drips."""
    found = drips_ref(scene, owner)
    made = found.value() if found else None
    return made if made is not None and len(made.at) else None


def hanging(found: Drips, moment: float) -> Mesh:
    """Drops that hang at the moment, as closed bodies; each has grown since the last one fell."""
    grown = np.cbrt(np.clip(found.since(moment) / found.period, 0.02, 1.0))
    size = LARGEST * grown
    turn = np.linspace(0, 2 * np.pi, _SIDES, endpoint=False)
    wide, deep = np.array(_PROFILE).T
    ring = np.stack(
        [
            wide[:, None] * np.cos(turn),
            np.broadcast_to(-deep[:, None], (len(deep), _SIDES)),
            wide[:, None] * np.sin(turn),
        ],
        axis=-1,
    ).reshape(-1, 3)
    # The first ring has no width: it is the point at which the drop hangs.
    body = np.concatenate([ring, [[0.0, -_BOTTOM, 0.0]]])
    # Small ones are caps, large ones have a neck.
    stretch = np.stack([np.ones_like(grown), 0.45 + 0.55 * grown**3, np.ones_like(grown)], axis=1)
    at = found.at[:, None] + body[None] * (size[:, None] * stretch)[:, None]
    rows = len(_PROFILE)
    one = np.concatenate([between_rings(rows, _SIDES), fan((rows - 1) * _SIDES, _SIDES, rows * _SIDES)])
    faces = (one[None] + (np.arange(len(at)) * len(body))[:, None, None]).reshape(-1, 3).astype(np.int32)
    positions = at.reshape(-1, 3).astype(np.float32)
    return make_mesh(
        positions, faces, normals=vertex_normals(positions, faces), uv=np.zeros((len(positions), 2), np.float32)
    )


def all_drips(scene: Scene) -> Drips | None:
    """Places of the whole site that drip; None while nothing does."""
    found = [made for made in (drips(scene, owner) for owner in scene.owners()) if made is not None]
    if not found:
        return None
    return Drips(*(np.concatenate([getattr(f, name) for f in found]) for name in Drips.__dataclass_fields__))


def drops_ref(scene: Scene, owner: str) -> Ref[Mesh] | None:
    """Drops that hang on an owner at the moment of the weather, without making them; None while nothing drips."""
    found = drips_ref(scene, owner)
    now = scene.site.weather
    return _drops.ref(scene, owner, now.drips, now.icicles / 100, now.moment) if found else None


@derived(lambda scene, owner, rate, longest, moment: [_drips.ref(scene, owner, rate, longest), moment])
def _drops(scene: Scene, owner: str, rate: float, longest: float, moment: float) -> Mesh:
    return hanging(_drips(scene, owner, rate, longest), moment)


def drops(scene: Scene, owner: str) -> Mesh | None:
    """The same, made; None where none hang."""
    found = drops_ref(scene, owner)
    mesh = found.value() if found else None
    return mesh if mesh is not None and len(mesh.faces) else None
