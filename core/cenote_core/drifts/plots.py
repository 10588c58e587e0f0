"""A drift cut into plots of ground and packed for the way to the plate: 24 bytes an instance in place of 57.

The plate asks for the plots nearest the eye first, and after a change only for those whose content is another. Within
a plot instances keep their order, so every beginning of a plot is evenly spread as well.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..base.packet import pack, unpack
from ..graph.derived import derived
from ..hashing import content_hash
from ..plan import DriftPlan
from ..sampling.points import full_density
from ..scene.scene import Scene
from .instances import Instances
from .instancing import build_instances, build_some_instances, saved
from .places import places_of

Eye = tuple[float, float, float]
WHOLE = 24_000
"""A drift up to this number travels in one piece."""
PLOT = 16_384
"""So many places a plot holds where they lie as densely as the spacing allows."""
LEAST_SIDE = 1.0
_STEPS = 65535
_TENTH_BITS = 1023
_ROOT = 2**-0.5


@dataclass(frozen=True)
class Cell:
    """Which of a drift's instances stand on one plot.

    Attributes
    ----------
    name : str, side and number along x and z; "all" where the drift is one plot
    index : (K,) int, ascending numbers of instances
    low, high : (2,) float64, x and z, metres
    """

    name: str
    index: np.ndarray
    low: np.ndarray
    high: np.ndarray

    def distance(self, eye: Eye) -> float:
        """Metres from the eye to the plot, seen from above."""
        at = np.array([eye[0], eye[2]])
        return float(np.linalg.norm(at - np.clip(at, self.low, self.high)))


@dataclass(frozen=True)
class Plot:
    """One plot of a drift, packed.

    Attributes
    ----------
    cell : str, its name
    version : str, hash of its content
    low, high : metres, box around the feet of what stands on it
    count : int
    data : bytes, see `packed`
    """

    cell: str
    version: str
    low: tuple[float, float, float]
    high: tuple[float, float, float]
    count: int
    data: bytes

    def entry(self) -> dict[str, Any]:
        """What the plate has to know before it asks for the plot."""
        return {"cell": self.cell, "v": self.version, "low": self.low, "high": self.high, "count": self.count}


def side_of(spacing: float) -> float:
    """Metres along a plot's side: a power of two that holds about `PLOT` places; rules do not change it."""
    return float(max(LEAST_SIDE, 2.0 ** np.ceil(0.5 * np.log2(PLOT / full_density(spacing)))))


def cut(positions: np.ndarray, spacing: float, whole: int = WHOLE) -> list[Cell]:
    """Plots that what stands at (N, 3) positions is divided into, in order of their places; one up to `whole`."""
    if len(positions) == 0:
        return []
    if len(positions) <= whole:
        return [Cell("all", np.arange(len(positions)), np.full(2, -np.inf), np.full(2, np.inf))]
    side = side_of(spacing)
    at = np.floor(positions[:, [0, 2]].astype(np.float64) / side).astype(np.int64)
    first = at.min(axis=0)
    number = (at[:, 0] - first[0]) * (int(np.ptp(at[:, 1])) + 1) + at[:, 1] - first[1]
    if number.max() < 65536:
        number = number.astype(np.uint16)  # short numbers are sorted by their digits, which is much faster
    order = np.argsort(number, kind="stable")
    runs = np.split(order, np.flatnonzero(np.diff(number[order])) + 1)
    corners = [at[run[0]] for run in runs]
    return [
        Cell(f"{side:g}_{x}_{z}", run, np.array([x, z]) * side, np.array([x + 1, z + 1]) * side)
        for run, (x, z) in zip(runs, corners, strict=True)
    ]


def plot_of(instances: Instances, cell: Cell) -> Plot:
    """One plot, packed."""
    members = instances.taken(cell.index)
    data = packed(members)
    low, high = members.position.min(axis=0), members.position.max(axis=0)
    return Plot(cell.name, content_hash("plot", data), _triple(low), _triple(high), len(members), data)


def _triple(v: np.ndarray) -> tuple[float, float, float]:
    return float(v[0]), float(v[1]), float(v[2])


def packed(members: Instances) -> bytes:
    """Instances as few bits as the eye needs.

    `place` (N, 3) 16 bits of the box around all; `turn` 32 bits, see `pack_turns`; `size` 16 bits of the largest;
    `tint` (N, 3) 8 bits of the brightest; `kind` 8 bits: asset, and 128 more where mirrored; `identity` whole.
    """
    low, high = members.position.min(axis=0).astype(np.float64), members.position.max(axis=0).astype(np.float64)
    largest, brightest = float(members.scale.max()), float(members.tint.max())
    within = (members.position - low) / np.maximum(high - low, 1e-9)
    return pack(
        {
            "identity": members.identity.view(np.uint32).reshape(-1, 2),
            "turn": pack_turns(members.rotation),
            "place": np.rint(within * _STEPS).astype(np.uint16),
            "size": np.rint(members.scale / max(largest, 1e-9) * _STEPS).astype(np.uint16),
            "tint": np.rint(members.tint / max(brightest, 1e-9) * 255).astype(np.uint8),
            "kind": (members.asset + 128 * members.mirrored).astype(np.uint8),
        },
        {"low": _triple(low), "high": _triple(high), "largest": largest, "brightest": brightest},
    )


def unpacked(data: bytes) -> Instances:
    """The reverse of `packed`, as the plate reads it."""
    arrays, info = unpack(data)
    low, high = np.array(info["low"]), np.array(info["high"])
    return Instances(
        (low + (high - low) * (arrays["place"] / _STEPS)).astype(np.float32),
        unpack_turns(arrays["turn"]),
        (arrays["size"] * (info["largest"] / _STEPS)).astype(np.float32),
        (arrays["tint"] * (info["brightest"] / 255)).astype(np.float32),
        (arrays["kind"] & 127).astype(np.int32),
        np.ascontiguousarray(arrays["identity"]).view(np.uint64).ravel(),
        0,
        arrays["kind"] >= 128,
    )


def pack_turns(quaternions: np.ndarray) -> np.ndarray:
    """(N, 4) unit quaternions → (N,) uint32: the largest part by its number, the others in ten bits each.

    The largest part follows from the rest, which lie within ±1/√2 (the "smallest three" of the trade). Off by less
    than 0.25°.
    """
    q = quaternions.astype(np.float64)
    q = q / np.maximum(np.linalg.norm(q, axis=1, keepdims=True), 1e-12)
    largest = np.abs(q).argmax(axis=1)
    rows = np.arange(len(q))
    q = q * np.where(q[rows, largest] < 0, -1.0, 1.0)[:, None]
    rest = q[rows[:, None], (largest[:, None] + np.arange(1, 4)) % 4]
    bits = np.rint((rest / _ROOT + 1) / 2 * _TENTH_BITS).astype(np.uint32)
    return np.asarray(bits[:, 0] | bits[:, 1] << 10 | bits[:, 2] << 20 | largest.astype(np.uint32) << 30, np.uint32)


def unpack_turns(turns: np.ndarray) -> np.ndarray:
    """(N,) uint32 → (N, 4) float32 quaternions; the reverse of `pack_turns`."""
    bits = np.stack([turns >> shift & _TENTH_BITS for shift in (0, 10, 20)], axis=1)
    rest = (bits / _TENTH_BITS * 2 - 1) * _ROOT
    out = np.empty((len(turns), 4))
    largest, rows = (turns >> 30).astype(np.int64), np.arange(len(turns))
    out[rows[:, None], (largest[:, None] + np.arange(1, 4)) % 4] = rest
    out[rows, largest] = np.sqrt(np.maximum(0.0, 1 - (rest**2).sum(axis=1)))
    return out.astype(np.float32)


@derived(lambda scene, drift_id, plan: build_instances.ref(scene, drift_id, plan), keep="disk")
def plots_of(scene: Scene, drift_id: str, plan: DriftPlan) -> tuple[list[Plot], int]:
    """A saved drift's plots, and how many places its spacing allows before rules."""
    found = saved(scene, drift_id, plan)
    return [plot_of(found, cell) for cell in cut(found.position, plan.spacing)], found.places


def nearest(cells: list[Cell], eye: Eye, most: int) -> list[Cell]:
    """The plots nearest the eye that together hold no more than `most`; always at least one, if there is any."""
    out: list[Cell] = []
    count = 0
    for cell in sorted(cells, key=lambda cell: cell.distance(eye)):
        count += len(cell.index)
        if out and count > most:
            break
        out.append(cell)
    return out


@dataclass(frozen=True)
class Counted:
    """How many stand, and how many places the spacing allows before rules."""

    standing: int
    places: int


def near_plots(
    scene: Scene, drift_id: str, plan: DriftPlan, eye: Eye, most: int
) -> tuple[list[Plot], list[tuple[str, int]], Counted]:
    """Of a drift as it would be the plots nearest the eye, name and number of the others, and what there is in all.

    Of a large drift no more is turned, sized, tinted and packed than is asked for. A small one is made whole, and kept
    for when it is saved.
    """
    if len(places_of(scene, plan)) <= most:
        whole = build_instances(scene, drift_id, plan)
        return (
            [plot_of(whole, cell) for cell in cut(whole.position, plan.spacing)],
            [],
            Counted(len(whole), whole.places),
        )
    beyond: list[tuple[str, int]] = []
    wanted: set[str] = set()
    taken = 0

    def choose(positions: np.ndarray) -> np.ndarray:
        nonlocal taken
        cells = cut(positions, plan.spacing)
        near = nearest(cells, eye, most)
        wanted.update(cell.name for cell in near)
        beyond.extend((cell.name, len(cell.index)) for cell in cells if cell.name not in wanted)
        # In their order, which makes every beginning of a plot evenly spread.
        chosen = np.sort(np.concatenate([cell.index for cell in near])) if near else np.zeros(0, np.int64)
        taken = len(chosen)
        return chosen

    found, standing = build_some_instances(scene, drift_id, plan, choose)
    cells = cut(found.position, plan.spacing, WHOLE if standing <= WHOLE else 0)
    # What the hand set down far off is left out with the plot it stands on.
    come = [cell for cell in cells if cell.name in wanted or not beyond]
    # Beside those chosen there is what the hand set down.
    count = standing + len(found) - taken
    return [plot_of(found, cell) for cell in come], beyond, Counted(count, found.places)
