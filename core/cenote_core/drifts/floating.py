"""Leaves that float on pools: those that fell there, driven by the wind to the lee shore."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy.ndimage import label
from scipy.spatial import cKDTree
from scipy.spatial.transform import Rotation

from ..base.compass import compass
from ..columns.grid import Columns, columns_of, plan_of
from ..graph.derived import Ref, derived
from ..mesh.mesh import Mesh, merge
from ..plan import DriftPlan
from ..pools.standing import standing_water
from ..pools.surface import LEAST, large, surface_ref, water_surface
from ..scene.scene import Scene
from .instances import Instances
from .instancing import build_instances, saved

_BLOWN_IN = 1.2
"""Metres round a pool from which leaves end up in it."""
_GATHERED, _CALM = 0.09, 4.0
"""Metres from the lee shore within which most leaves lie, and the wind (m/s) from which all are driven there."""
_MOST = 400
"""Leaves on one owner's pools."""
_TIPPED = 0.09
"""Radians that a floating leaf is tipped by its curl."""
_OVER = 0.0006
"""Metres it lies over the water."""


@dataclass(frozen=True)
class _Pool:
    """One pool's nodes: row and column (K,), and how likely a leaf comes to lie at each."""

    row: np.ndarray
    column: np.ndarray
    weight: np.ndarray


def litter(scene: Scene) -> list[tuple[str, DriftPlan]]:
    """The drifts of litter that show, with at least one asset that floats."""
    drifts = sorted(scene.site.drifts.items())
    return [(k, plan) for k, plan in drifts if plan.visible and plan.tier == "litter" and _leaves(scene, plan)]


def _leaves(scene: Scene, plan: DriftPlan) -> list[str]:
    """The assets of a mix that float: fallen leaves and twigs, and no stones."""
    known = {share.asset: scene.kit.plant(share.asset) for share in plan.assets}
    return [asset for asset, plant in known.items() if plant is not None and plant.kind == "litter"]


def _needs(scene: Scene, owner: str, standing: float, wind: float, wind_from: float) -> list[object]:
    drifts = [build_instances.ref(scene, key, plan) for key, plan in litter(scene)]
    assets = [scene.kit.asset_ref(asset) for _, plan in litter(scene) for asset in _leaves(scene, plan)]
    return [
        standing_water.ref(scene, owner, standing),
        columns_of.ref(scene, owner),
        drifts,
        assets,
        scene.half(),
        wind,
        wind_from,
    ]


@derived(_needs, keep="disk")
def _floating(scene: Scene, owner: str, standing: float, wind: float, wind_from: float) -> Mesh | None:
    columns, found = columns_of(scene, owner), standing_water(scene, owner, standing)
    depth = large(found)
    parts: list[Mesh] = []
    pools = _pools(columns, depth, -compass(wind_from), min(1.0, wind / _CALM))
    for number, (key, plan) in enumerate(litter(scene)):
        instances, leaves = saved(scene, key, plan), _leaves(scene, plan)
        on = np.isin([share.asset for share in plan.assets], leaves)[instances.asset]
        fallen = instances.taken(np.flatnonzero(on))
        rng = np.random.Generator(np.random.Philox([number, 29]))
        for leaf, of in _blown_in(columns, pools, fallen):
            if len(parts) < _MOST:
                parts.append(_afloat(scene, plan, fallen, leaf, _place(columns, found.level, pools[of], rng), rng))
    return merge(parts) if parts else None


def _pools(columns: Columns, depth: np.ndarray, toward: np.ndarray, driven: float) -> list[_Pool]:
    """The pools of an owner, each with where the wind puts what floats on it."""
    labels, count = label(depth > LEAST)
    out = []
    for number in range(1, count + 1):
        row, column = np.nonzero(labels == number)
        at = plan_of(columns, column, row)
        along, across = at @ toward, at @ np.array([-toward[1], toward[0]])
        strip = np.round((across - across.min()) / columns.cell).astype(int)
        lee = np.full(strip.max() + 1, -np.inf)
        np.maximum.at(lee, strip, along)
        gathered = np.exp(-(lee[strip] - along) / _GATHERED)
        # What floats on a strip stays on it, however short the shore it comes to.
        share = np.bincount(strip)[strip] * gathered / np.bincount(strip, gathered)[strip]
        weight = (1 - driven) + driven * share
        out.append(_Pool(row, column, np.cumsum(weight) / weight.sum()))
    return out


def _blown_in(columns: Columns, pools: list[_Pool], fallen: Instances) -> list[tuple[int, int]]:
    """Numbers of the leaves that fell so near a pool that they are in it, each with its pool."""
    if not pools:
        return []
    row, column = (np.concatenate([getattr(pool, name) for pool in pools]) for name in ("row", "column"))
    of = np.repeat(np.arange(len(pools)), [len(pool.row) for pool in pools])
    at = plan_of(columns, column, row)
    tree = cKDTree(np.column_stack([at[:, 0], columns.height[row, column], at[:, 1]]))
    away, nearest = tree.query(fallen.position, distance_upper_bound=_BLOWN_IN)
    return [(int(leaf), int(of[nearest[leaf]])) for leaf in np.flatnonzero(away < _BLOWN_IN)]


def _place(columns: Columns, level: np.ndarray, pool: _Pool, rng: np.random.Generator) -> np.ndarray:
    """(3,) a place on a pool."""
    k = min(int(np.searchsorted(pool.weight, rng.random())), len(pool.row) - 1)
    row, column = pool.row[k], pool.column[k]
    x, z = plan_of(columns, *(np.array(v) + rng.uniform(-0.5, 0.5) for v in (column, row)))
    high = max(float(np.nan_to_num(level[row, column])), float(columns.height[row, column]))
    return np.array([x, high + _OVER, z])


def _afloat(
    scene: Scene, plan: DriftPlan, fallen: Instances, number: int, at: np.ndarray, rng: np.random.Generator
) -> Mesh:
    """One of the leaves, lying level at a place; its slots are named after its materials."""
    asset = scene.kit.asset(plan.assets[int(fallen.asset[number])].asset)
    mesh = asset.lods[0]
    turn = Rotation.from_euler("yxz", [rng.uniform(0, 2 * np.pi), *rng.normal(0, _TIPPED, 2)]).as_matrix()
    low, high = mesh.bounds()
    middle = np.array([low[0] + high[0], 2 * low[1], low[2] + high[2]]) / 2
    local = (mesh.positions - middle) * float(fallen.scale[number])
    colour = np.ones((len(mesh.positions), 4), np.float32) if mesh.colour is None else mesh.colour.copy()
    colour[:, :3] *= fallen.tint[number]
    names = tuple(scene.seasonal(asset.materials.get(slot, slot)) for slot in mesh.slot_names)
    return replace(
        mesh, positions=(local @ turn.T + at).astype(np.float32), normals=(mesh.normals @ turn.T).astype(np.float32),
        slot_names=names, colour=colour, sway=None,
    )  # fmt: skip


def floating_ref(scene: Scene, owner: str) -> Ref[Mesh | None] | None:
    """The leaves on an owner's pools in the weather that shows, without laying them; None while no water stands."""
    now = scene.site.weather
    if surface_ref(scene, owner) is None or not litter(scene):
        return None
    return _floating.ref(scene, owner, now.standing / 1000, now.wind, now.wind_from)


def floating(scene: Scene, owner: str) -> Mesh | None:
    """The same, laid; None where none float. Its slots are materials, and `colour` their tint."""
    found = floating_ref(scene, owner)
    return found.value() if found and water_surface(scene, owner) is not None else None
