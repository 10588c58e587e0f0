"""Keep-outs: what a drift's plants may not touch, measured with their own bodies against real triangles."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..measures.distance import stems
from ..measures.path import path_distance
from ..plan import DriftPlan, KeepOut
from ..scene.scene import Scene
from ..stations.camera import axes
from .bodies import BANDS, bodies_of, bodies_refs, standing_bodies

PIECES, PATHS, STATIONS = "pieces", "paths", "stations"


def pieces_kept(scene: Scene, plan: DriftPlan, keep: KeepOut) -> list[str]:
    """The pieces a keep-out names. `pieces` means all but those the drift is to stand on."""
    if keep.of == PIECES:
        carrying = {ref.split("/")[0] for ref in plan.surfaces}
        return [owner for owner in scene.owners()[1:] if owner not in carrying]
    return [keep.of] if scene.stands(keep.of) else []


def keep_needs(scene: Scene, plan: DriftPlan) -> list[Any]:
    """Everything a drift's keep-outs depend on."""
    parts = [(keep, _kept_from(scene, plan, keep)) for keep in plan.keep_outs]
    return [parts, bodies_refs(scene, plan)] if parts else []


def _kept_from(scene: Scene, plan: DriftPlan, keep: KeepOut) -> list[Any]:
    if keep.of == STATIONS:
        return sorted(scene.site.stations.items())
    if keep.of == PATHS:
        return list(scene.site.ground.paths())
    if keep.of in scene.site.drifts:
        return [standing_bodies.ref(scene, (keep.of,))]
    return [scene.mesh.ref(piece) for piece in pieces_kept(scene, plan, keep)]


def free_space(
    scene: Scene, plan: DriftPlan, keep: KeepOut, feet: np.ndarray, up: np.ndarray, asset: np.ndarray, scale: np.ndarray
) -> np.ndarray:
    """(N,) float64 metres of free space around each plant's body toward what is kept out, clearance not yet taken off.

    Negative where the body reaches into it. For pieces every band of the body is measured against their triangles;
    for a drift stems are measured against stems; for paths and ditches stems against their floors; for stations the body against the corridor's middle line.

    Parameters
    ----------
    feet, up : (N, 3) where they stand and their own axes
    asset : (N,) index into the mix, scale : (N,)
    """
    bodies = bodies_of(scene, [share.asset for share in plan.assets])
    own = np.array([b.stem for b in bodies])[asset] * scale
    if keep.of == PATHS:
        return path_distance(feet, scene.site.ground.paths()).astype(np.float64) - own
    if keep.of in scene.site.drifts:
        others = standing_bodies(scene, (keep.of,))
        return stems(feet, others.feet, others.stems).astype(np.float64) - own
    out = np.full(len(feet), np.inf)
    tree = None
    if keep.of != STATIONS:
        pieces = pieces_kept(scene, plan, keep)
        if not pieces:
            return out
        tree = scene.pieces_tree(pieces)
    for band in range(BANDS):
        above = np.array([b.heights[band] for b in bodies])[asset] * scale
        thick = np.array([b.radii[band] for b in bodies])[asset] * scale
        middle = feet + up * above[:, None]
        if tree is not None:
            limit = float(thick.max(initial=0.0)) + keep.clearance + 0.5
            distance = tree.distance(middle, limit)
        else:
            distance = _corridors(scene, middle, keep.reach)
        out = np.minimum(out, distance - thick)
    return out


def _corridors(scene: Scene, at: np.ndarray, reach: float) -> np.ndarray:
    """(N,) metres from the nearest line of sight, each `reach` metres long."""
    out = np.full(len(at), np.inf)
    for _, station in sorted(scene.site.stations.items()):
        eye, _, _, forward = axes(station)
        along = np.clip((at - eye) @ forward, 0.0, reach)
        out = np.minimum(out, np.linalg.norm(at - eye - along[:, None] * forward, axis=1))
    return out
