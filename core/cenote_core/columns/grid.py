"""Plumb columns over an owner: a grid of nodes in the owner's own directions, each on the topmost surface below it.

Architecture has straight edges, so the grid lies along the piece and not along the compass, and where a surface ends
between two nodes is found to a small part of a cell. So a cap of snow ends where what carries it ends.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..base.kernels import inlined
from ..graph.derived import derived
from ..ground.terrain import axes as ground_axes
from ..ground.terrain import height_at
from ..mesh.rays import Met, RayScene
from ..plan import GROUND
from ..scene import land
from ..scene.scene import Scene

FINEST, COARSEST, ACROSS = 0.012, 0.06, 250
"""Metres a cell of a piece may be wide, and how many there are along the side of a square of its area."""
GROUND_CELL, GROUND_NODES = 0.125, 1_500_000
"""Metres a cell of the ground's columns is wide, and how many there are at most: on a larger ground they are wider."""
PIECE_NODES = 600_000
"""The same of a piece: one in a wrong unit must not take all the memory there is."""
STEEP = 1.5
"""Rise over run between two nodes from which they do not lie on one surface."""
_HALVINGS = 6
"""Where a surface ends is found to one part in two to the power of this of a cell."""
_ABOVE, _DOWN = 1.0, 1e4
"""Metres over an owner's top from which it is looked down, and how far."""
STEPS = ((0, 1), (1, 0), (0, -1), (-1, 0))
"""The four neighbours of a node: along rows' columns, then along rows."""


@dataclass(frozen=True)
class Columns:
    """Nodes of a grid over an owner.

    Attributes
    ----------
    origin : (2,) x and z of the first node, metres
    along : (2, 2) unit directions of columns and of rows
    cell : metres
    height : (R, C) float64 of the surface, metres; nan where there is none
    up : (R, C) float32 upward part of the surface's normal
    joined : (R, C, 4) bool, does the surface go on to each of `STEPS`?
    ends : (R, C, 4) float32, share of the way to each neighbour at which it ends; 1 where it goes on
    end_height : (R, C, 4) float32 of the surface where it ends, metres
    slot : (R, C) int16, which of the owner's materials it is of; −1 where there is none
    """

    origin: np.ndarray
    along: np.ndarray
    cell: float
    height: np.ndarray
    up: np.ndarray
    joined: np.ndarray
    ends: np.ndarray
    end_height: np.ndarray
    slot: np.ndarray

    @property
    def there(self) -> np.ndarray:
        """(R, C) bool: is there a surface?"""
        return ~np.isnan(self.height)

    def places(self) -> np.ndarray:
        """(R, C, 3) float64 where the nodes are, metres; at height 0 where there is no surface."""
        rows, columns = self.height.shape
        flat = plan_of(self, *np.meshgrid(np.arange(columns), np.arange(rows)))
        return np.stack([flat[..., 0], np.nan_to_num(self.height), flat[..., 1]], axis=-1)

    def node_of(self, at: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """(N, 2) x and z → fractional row and column, (N,) each."""
        column, row = ((at - self.origin) @ self.along.T / self.cell).T
        return row, column


def plan_of(columns: Columns, column: np.ndarray, row: np.ndarray) -> np.ndarray:
    """(…, 2) x and z of fractional columns and rows."""
    step = columns.along * columns.cell
    return np.asarray(columns.origin + column[..., None] * step[0] + row[..., None] * step[1])


def _carried(scene: Scene, owner: str) -> list[Any]:
    if owner == GROUND:
        return [scene.mesh.ref(owner)]
    return [scene.mesh.ref(owner), scene.piece(owner).turn, _leaves(scene, owner)]


@derived(_carried)
def columns_of(scene: Scene, owner: str) -> Columns:
    """The columns of the ground or a piece."""
    return _ground_columns(scene) if owner == GROUND else _piece_columns(scene, owner)


def _ground_columns(scene: Scene) -> Columns:
    """The ground is one sheet: no surface of it ends but at its rim."""
    plan = scene.site.ground
    cell = max(GROUND_CELL, float(np.sqrt(plan.width * plan.depth / GROUND_NODES)))
    x, z = ground_axes(plan.model_copy(update={"cell": cell}))
    cell = float(x[1] - x[0])
    gx, gz = np.meshgrid(x, np.arange(len(z)) * cell + z[0])
    height = height_at(plan, land.heights(scene), np.column_stack([gx.ravel(), gz.ravel()])).reshape(gx.shape)
    slope_z, slope_x = np.gradient(height, cell)
    up = 1 / np.sqrt(1 + slope_x**2 + slope_z**2)
    joined = neighbours(np.ones(height.shape, bool), False)
    return Columns(
        origin=np.array([x[0], z[0]]),
        along=np.eye(2),
        cell=cell,
        height=height,
        up=up.astype(np.float32),
        joined=joined,
        ends=joined.astype(np.float32),
        end_height=np.repeat(height[..., None], len(STEPS), axis=2).astype(np.float32),
        slot=np.zeros(height.shape, np.int16),
    )


def _piece_columns(scene: Scene, owner: str) -> Columns:
    mesh, turn = scene.mesh(owner), np.radians(scene.piece(owner).turn)
    along = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    flat = mesh.positions[:, [0, 2]].astype(np.float64) @ along.T
    low, size = flat.min(axis=0), np.ptp(flat, axis=0)
    wanted = np.clip(np.sqrt(size[0] * size[1]) / ACROSS, FINEST, COARSEST)
    cell = float(max(wanted, np.sqrt(size[0] * size[1] / PIECE_NODES), size.max() / PIECE_NODES))
    # Half a cell beyond on all sides, so that the outermost nodes lie beside the piece.
    count = np.ceil(size / cell).astype(int) + 2
    origin = (low - (count - 1) * cell / 2 + size / 2) @ along
    gx, gz = np.meshgrid(np.arange(count[0]), np.arange(count[1]))
    step = along * cell
    at = (origin + gx[..., None] * step[0] + gz[..., None] * step[1]).reshape(-1, 2)
    rays, slots = _bearing(scene, owner)
    look = _Look(rays, float(mesh.bounds()[1][1]) + _ABOVE)
    met = look.down(at)
    height = np.where(met.hit, met.positions[:, 1].astype(np.float64), np.nan).reshape(gx.shape)
    slot = (
        np.where(met.hit, slots[np.maximum(met.face, 0)] if len(slots) else -1, -1).astype(np.int16).reshape(gx.shape)
    )
    joined = joints(height, cell)
    grid = Columns(
        origin=origin,
        along=along,
        cell=cell,
        height=height,
        up=np.where(met.hit, met.normals[:, 1], 0).astype(np.float32).reshape(gx.shape),
        joined=joined,
        ends=joined.astype(np.float32),
        end_height=np.repeat(height[..., None], len(STEPS), axis=2).astype(np.float32),
        slot=slot,
    )
    _find_ends(grid, look)
    return grid


def _leaves(scene: Scene, owner: str) -> list[int]:
    """Slots of a piece that bear nothing: leaves bend under it."""
    return [s.index for s in scene.surfaces_of(owner) if scene.is_cut_out(s.material)]


def _bearing(scene: Scene, owner: str) -> tuple[RayScene, np.ndarray]:
    """What of a piece may bear something, and (F,) the slots of its faces."""
    mesh, thin = scene.mesh(owner), _leaves(scene, owner)
    if not thin:
        return scene.rays((owner,)), mesh.slots
    on = ~np.isin(mesh.slots, thin)
    return RayScene(mesh.positions, mesh.faces[on]), mesh.slots[on]


@dataclass(frozen=True)
class _Look:
    """Looking down on one owner."""

    rays: RayScene
    top: float

    def down(self, at: np.ndarray) -> Met:
        """What is met first below (N, 2) places."""
        start = np.column_stack([at[:, 0], np.full(len(at), self.top), at[:, 1]]).astype(np.float32)
        return self.rays.meet(start, np.tile(np.array([0, -1, 0], np.float32), (len(at), 1)), _DOWN)


@inlined()
def stepped(row: int, column: int, way: int) -> tuple[int, int]:
    """The neighbour of a node by `STEPS`, for compiled loops."""
    return row + (way == 1) - (way == 3), column + (way == 0) - (way == 2)


def neighbours(values: np.ndarray, beyond: float | bool = np.nan) -> np.ndarray:
    """(R, C) values → (R, C, 4) those of each node's neighbours by `STEPS`; `beyond` the rim."""
    padded = np.pad(values, 1, constant_values=beyond)
    rows, columns = values.shape
    return np.stack([padded[1 + dr : 1 + dr + rows, 1 + dc : 1 + dc + columns] for dr, dc in STEPS], axis=-1)


def joints(height: np.ndarray, cell: float) -> np.ndarray:
    """(R, C, 4) bool: does a surface go on to the neighbour?"""
    return np.abs(neighbours(height) - height[..., None]) <= STEEP * cell


def _find_ends(grid: Columns, look: _Look) -> None:
    """Fill in where surfaces end between nodes, by halving the way again and again."""
    row, column, way = np.nonzero(~grid.joined & grid.there[..., None])
    if not len(row):
        return
    step = np.array(STEPS)[way]
    own = grid.height[row, column]
    last = own.copy()
    low, high = np.zeros(len(row)), np.ones(len(row))
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        at = plan_of(grid, column + step[:, 1] * middle, row + step[:, 0] * middle)
        met = look.down(at)
        on = met.hit & (np.abs(met.positions[:, 1] - own) <= STEEP * grid.cell)
        low, high = np.where(on, middle, low), np.where(on, high, middle)
        last = np.where(on, met.positions[:, 1], last)
    grid.ends[row, column, way] = low
    grid.end_height[row, column, way] = last
