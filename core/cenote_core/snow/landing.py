"""Snow that slides off what is too steep or too smooth for it, and where it comes down."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..columns.grid import STEPS, Columns, columns_of, plan_of
from ..graph.derived import by_value, derived
from ..plan import GROUND
from ..scene.scene import Scene
from ..surfaces.formulas import HOLDS, SLIDES
from .fall import Wind, reach
from .shift import slide

_SMOOTH_HOLDS, _SMOOTH_SLIDES = 0.93, 0.74
"""On what is smooth all of it holds up to twenty-two degrees and nothing from forty-two on (upward parts of normals)."""
_SMOOTH = 0.5
"""Mean roughness, or metalness, from which a surface counts as smooth."""
_THROWN = 0.12
"""Metres from an edge at which comes down what slides over it."""
_DOWN, _ASIDE = 60.0, 0.5
"""Metres it may fall, and how far aside of what sheds it anything counts as below."""


@dataclass(frozen=True)
class RunOff:
    """What became of the snow that fell on an owner.

    Attributes
    ----------
    stays : (R, C) float64 metres that stay on it
    at : (N, 3) float64 where some falls over its edges, metres
    volume : (N,) float64 m³ that falls there
    """

    stays: np.ndarray
    at: np.ndarray
    volume: np.ndarray


def held(columns: Columns, smooth: np.ndarray) -> np.ndarray:
    """(R, C) float64 share of what falls on each column that holds there; `smooth` (S,) bool, of the owner's slots."""
    on = np.where(columns.slot >= 0, smooth[np.maximum(columns.slot, 0)], False)
    least, full = np.where(on, _SMOOTH_SLIDES, SLIDES), np.where(on, _SMOOTH_HOLDS, HOLDS)
    share = np.clip((columns.up - least) / (full - least), 0, 1)
    return np.asarray(share * share * (3 - 2 * share), np.float64)


def _smooth(scene: Scene, owner: str) -> list[bool]:
    """Which of an owner's surfaces are smooth, by slot."""
    found = {s.index: s.material for s in scene.surfaces_of(owner) if not s.layer}
    return [_is_smooth(scene, found[index]) for index in sorted(found)]


def _is_smooth(scene: Scene, name: str) -> bool:
    with by_value():
        material = scene.material(name)
    return material.metalness > _SMOOTH or float(material.roughness.mean()) / 255 < _SMOOTH


def _ran(scene: Scene, owner: str, fallen: float, wind: Wind) -> list[Any]:
    return [columns_of.ref(scene, owner), reach.ref(scene, owner, wind), _smooth(scene, owner), fallen]


@derived(_ran)
def run_off(scene: Scene, owner: str, fallen: float, wind: Wind) -> RunOff:
    """What stays of `fallen` metres on an owner, and what slides off it and where."""
    columns = columns_of(scene, owner)
    fell = np.maximum(reach(scene, owner, wind), 0).astype(np.float64) * fallen
    if owner == GROUND:
        # The ground is what everything comes to rest on; how steep it is its settling says.
        return RunOff(fell, np.zeros((0, 3)), np.zeros(0))
    share = held(columns, np.array(_smooth(scene, owner)))
    order = np.argsort(-np.nan_to_num(columns.height, nan=-np.inf), axis=None, kind="stable")
    order = order[: int(columns.there.sum())]
    stays = fell * share
    rest, falls, side = slide(columns.height, columns.joined, order, fell - stays, share)
    row, column = np.nonzero(falls > 0)
    way = np.array(STEPS, float)[side[row, column]]
    out = columns.ends[row, column, side[row, column]] + _THROWN / columns.cell
    flat = plan_of(columns, column + way[:, 1] * out, row + way[:, 0] * out)
    at = np.column_stack([flat[:, 0], columns.height[row, column], flat[:, 1]])
    return RunOff(stays + rest, at, falls[row, column] * columns.cell**2)


def _below(scene: Scene, owner: str, fallen: float, wind: Wind) -> list[Any]:
    return [run_off.ref(scene, owner, fallen, wind), [scene.mesh.ref(o) for o in _under(scene, owner)]]


@derived(_below)
def lands_on(scene: Scene, owner: str, fallen: float, wind: Wind) -> dict[str, np.ndarray]:
    """(N,) bool for each owner below, which of what falls over an owner's edges comes down on it."""
    at = run_off(scene, owner, fallen, wind).at
    if not len(at):
        return {}
    with by_value():
        owners, rays = scene.owners(), scene.standing()
        ends = np.cumsum([len(scene.mesh(o).faces) for o in owners])
    met = rays.meet(at.astype(np.float32), np.tile(np.array([0, -1, 0], np.float32), (len(at), 1)), _DOWN)
    of = np.where(met.hit, np.searchsorted(ends, met.face, side="right"), -1)
    return {owners[number]: of == number for number in np.unique(of) if number >= 0}


def _under(scene: Scene, owner: str) -> list[str]:
    """What lies under an owner or close beside it as seen from above, itself included."""
    with by_value():
        # Who is found here is in the key of what is made of it; of the others nothing counts but that they are not.
        low, high = scene.mesh(owner).bounds()
        boxes = [(other, scene.mesh(other).bounds()) for other in scene.owners()]
    flat = [0, 2]
    return [
        other
        for other, (least, greatest) in boxes
        if (least[flat] <= high[flat] + _ASIDE).all() and (greatest[flat] >= low[flat] - _ASIDE).all()
    ]


def _sheds(scene: Scene, owner: str) -> list[str]:
    """Pieces that may shed onto an owner."""
    return [other for other in _under(scene, owner) if other != GROUND]


def _landed(scene: Scene, owner: str, fallen: float, wind: Wind) -> list[Any]:
    shed = [(run_off.ref(scene, o, fallen, wind), lands_on.ref(scene, o, fallen, wind)) for o in _sheds(scene, owner)]
    return [columns_of.ref(scene, owner), shed]


@derived(_landed)
def landed(scene: Scene, owner: str, fallen: float, wind: Wind) -> np.ndarray:
    """(R, C) float64 metres that come down on an owner, from others and from higher parts of itself."""
    columns = columns_of(scene, owner)
    out = np.zeros(columns.height.shape)
    for other in _sheds(scene, owner):
        mine = lands_on(scene, other, fallen, wind).get(owner)
        if mine is not None:
            off = run_off(scene, other, fallen, wind)
            _lay(columns, out, off.at[mine], off.volume[mine])
    return out


def _lay(columns: Columns, out: np.ndarray, at: np.ndarray, volume: np.ndarray) -> None:
    """Share volumes out among the four nodes round where they come down; all of them stay on the grid."""
    if not len(at):
        return
    row, column = columns.node_of(at[:, [0, 2]])
    rows, count = out.shape
    row, column = np.clip(row, 0, rows - 1.001), np.clip(column, 0, count - 1.001)
    r, c = row.astype(int), column.astype(int)
    fr, fc = row - r, column - c
    depth = volume / columns.cell**2
    shares = [(r + i, c + j, np.abs(1 - i - fr) * np.abs(1 - j - fc)) for i in (0, 1) for j in (0, 1)]
    # Only where there is something to lie on.
    weights = np.stack([w * columns.there[a, b] for a, b, w in shares])
    total = np.maximum(weights.sum(axis=0), 1e-12)
    for (a, b, _), weight in zip(shares, weights, strict=True):
        np.add.at(out, (a, b), depth * weight / total)
