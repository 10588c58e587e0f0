"""Crown: how far under the crowns of trees a place lies."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from ..base.fields import ItemId
from ..base.kernels import parallel_kernel, prange
from ..mesh.mesh import Points
from .ask import Ask
from .rule import SHARE, About, Rule, choose


@parallel_kernel
def _under(
    points: np.ndarray,
    feet: np.ndarray,
    radii: np.ndarray,
    tops: np.ndarray,
    low: np.ndarray,
    cell: float,
    wide: int,
    deep: int,
    starts: np.ndarray,
    order: np.ndarray,
    out: np.ndarray,
) -> None:
    for n in prange(len(points)):
        x, y, z = points[n, 0], points[n, 1], points[n, 2]
        cx, cz = int(np.floor((x - low[0]) / cell)), int(np.floor((z - low[1]) / cell))
        best = 0.0
        for j in range(max(0, cz - 1), min(deep, cz + 2)):
            for i in range(max(0, cx - 1), min(wide, cx + 2)):
                for k in range(starts[j * wide + i], starts[j * wide + i + 1]):
                    t = order[k]
                    if y > tops[t]:
                        continue
                    d = np.hypot(feet[t, 0] - x, feet[t, 2] - z)
                    best = max(best, 1.0 - d / radii[t])
        out[n] = best


def crown(positions: np.ndarray, feet: np.ndarray, radii: np.ndarray, tops: np.ndarray) -> np.ndarray:
    """(N,) float32: 1 at a stem, falling to 0 at the rim of its crown and beyond, as seen from above.

    Parameters
    ----------
    feet : (T, 3) where the trees stand
    radii : (T,) of their crowns, metres
    tops : (T,) height of their tops above the site's zero; what lies above a tree is not under it
    """
    out = np.zeros(len(positions), np.float32)
    if len(feet) == 0 or len(positions) == 0:
        return out
    cell = float(max(radii.max(), 0.05))
    low = feet[:, [0, 2]].min(axis=0).astype(np.float64)
    place = np.floor((feet[:, [0, 2]] - low) / cell).astype(np.int64)
    wide, deep = (place.max(axis=0) + 1).tolist()
    of = place[:, 1] * wide + place[:, 0]
    order = np.argsort(of, kind="stable")
    starts = np.searchsorted(of[order], np.arange(wide * deep + 1))
    _under(
        np.ascontiguousarray(positions, np.float32),
        np.ascontiguousarray(feet, np.float64),
        np.ascontiguousarray(radii, np.float64),
        np.ascontiguousarray(tops, np.float64),
        low,
        cell,
        wide,
        deep,
        starts,
        order,
        out,
    )
    return out


class CrownRule(Rule):
    """How far under the crowns of other drifts: 0 in the open, 1 at a stem."""

    measure: Literal["crown"] = "crown"
    drifts: list[ItemId] = choose("drift", "all larger tiers", 32, "Which drifts; none named: larger tiers.")
    about: ClassVar[About] = About(
        "under crowns", SHARE, "0 in the open, 1 at a stem", "cover of crowns", (0.05, 0.3, 1, 1), place=140,
        span=(0, 1), soft=0.4, more="which drifts",
    )  # fmt: skip

    def depends(self, ask: Ask) -> object:
        return ask.standing_ref(ask.drifts(self.drifts))

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        found = ask.standing(ask.drifts(self.drifts))
        return crown(at.positions, found.feet, found.crowns, found.tops)
