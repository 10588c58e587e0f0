"""Keep-outs: what a drift's plants may not touch, measured with their own bodies against real triangles."""

from __future__ import annotations

import numpy as np

from ..hashing import content_hash
from ..measures.distance import stems
from ..measures.path import path_distance
from ..plan import DriftPlan, KeepOut
from ..scene.provided import provided
from ..scene.scene import Scene
from ..stations.camera import axes
from .bodies import BANDS, bodies_of, standing_bodies

PIECES, PATHS, STATIONS = "pieces", "paths", "stations"


def pieces_kept(scene: Scene, plan: DriftPlan, keep: KeepOut) -> list[str]:
    """The pieces a keep-out names. `pieces` means all but those the drift is to stand on."""
    if keep.of == PIECES:
        carrying = {ref.split("/")[0] for ref in plan.surfaces}
        return [owner for owner in scene.owners()[1:] if owner not in carrying]
    return [keep.of] if scene.stands(keep.of) else []


def keep_key(scene: Scene, plan: DriftPlan) -> str:
    """Hash of everything a drift's keep-outs depend on."""
    parts: list[object] = []
    for keep in plan.keep_outs:
        if keep.of == STATIONS:
            parts.append((keep.model_dump(), [s.model_dump() for _, s in sorted(scene.site.stations.items())]))
        elif keep.of == PATHS:
            parts.append((keep.model_dump(), [path.model_dump() for path in scene.site.ground.paths()]))
        elif keep.of in scene.site.drifts:
            parts.append((keep.model_dump(), provided("drift key")(scene, keep.of)))
        else:
            parts.append((keep.model_dump(), [scene.owner_key(p) for p in pieces_kept(scene, plan, keep)]))
    bodies = [scene.kit.asset_key(share.asset) for share in plan.assets]
    return content_hash("keep-outs", parts, bodies) if parts else ""


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
        others = standing_bodies(scene, [keep.of])
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
