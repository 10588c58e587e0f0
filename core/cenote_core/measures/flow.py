"""Where water runs: every texel of a site hands what it holds to those below it, over edges and onto other objects.

Flow routing as on terrain (O'Callaghan and Mark, *The extraction of drainage networks from digital elevation data*, 1984),
on the true surfaces: where water goes from a texel is found by rays, so it turns round edges, falls off what hangs over
and goes on where it lands (after Dorsey, Pedersen and Hanrahan, *Flow and changes in appearance*, 1996). Routes lead
downhill only, so one pass from the highest texel to the lowest carries everything, and nothing is lost or made.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..base.kernels import kernel
from ..base.noise import noise
from ..mesh.rays import Met, RayScene

STEP = 1.5
"""Texels water is followed over at a time."""
_LIFT, _TUCK, _ROUND = 0.7, 0.6, 1.2
"""Steps: how high over a surface it is looked for, how far behind an edge, and how far beyond it."""
_CLINGS = -0.3
"""Water clings to what faces down less than this (upward part of the normal); from the rest it drips."""
_FALL = 0.02
"""Level tops drain outward with this slope, as they are laid (2 %)."""
_LEVEL = 0.03
"""Slope under which a surface counts as level."""
_RILL, _DETAIL, _WANDER, _SEED = 0.09, 3, 1.1, 77
"""Metres between rills, layers of their unevenness, and how strongly water wanders into them."""
_DROP = 40.0
"""Metres water may fall."""
_ASTRAY = 3.0
"""Steps from where a ray met a surface within which texels beside it in the unwrap are beside it in truth."""
SHARP = 2.0
"""Exponent of the shares of the texels water goes to: keeps rills from spreading out on their way."""

Targets = Callable[[Met], tuple[np.ndarray, np.ndarray]]
"""What rays met → (N, 4) texels beside it, −1 for none, and (N, 4) shares."""


@dataclass(frozen=True)
class Nodes:
    """Texels of all surfaces of a site.

    Attributes
    ----------
    positions, normals : (N, 3) float32
    areas : (N,) float32, m²
    outward : (N, 3) float32, unit and level: which way a level top there drains
    out : (N,) float32, metres from the middle it drains from
    """

    positions: np.ndarray
    normals: np.ndarray
    areas: np.ndarray
    outward: np.ndarray
    out: np.ndarray

    @property
    def potential(self) -> np.ndarray:
        """(N,) what falls along every route: height, and on level tops the way to the rim."""
        return self.positions[:, 1].astype(np.float64) - _FALL / 10 * self.out


@dataclass(frozen=True)
class Flow:
    """Routes of water.

    Attributes
    ----------
    target : (N, 4) int32 texels that take what a texel lets go; −1 for none
    share : (N, 4) float32, which sum to 1, or to 0 where water stays or leaves the site
    length : (N,) float32 metres to them
    advance : (N,) float32 metres of that along the surface, straight down it
    order : (N,) int32, highest first
    """

    target: np.ndarray
    share: np.ndarray
    length: np.ndarray
    advance: np.ndarray
    order: np.ndarray


def route(rays: RayScene, nodes: Nodes, targets: Targets) -> Flow:
    """Find where water goes from every texel."""
    step = (STEP * np.sqrt(nodes.areas)).astype(np.float32)
    straight, down = _downhill(nodes)
    drips = nodes.normals[:, 1] < _CLINGS
    count = len(step)
    met = _empty(count)
    left = np.flatnonzero(~drips)
    for ray in (_along, _round):
        start, toward, reach = ray(nodes, left, down[left], step[left])
        found = rays.meet(start, toward, float(reach.max(initial=0.0)))
        near = found.hit & (np.linalg.norm(found.positions - start, axis=1) <= reach)
        _keep(met, found, left, near & (found.normals[:, 1] > _CLINGS))
        left = left[~met.hit[left]]
    left = np.flatnonzero(~met.hit)
    start = nodes.positions[left] + (down[left] * (step[left] * 0.2)[:, None] + nodes.normals[left] * 2e-3)
    _keep(
        met, rays.meet(start.astype(np.float32), np.tile(np.array([0, -1, 0], np.float32), (len(left), 1)), _DROP), left
    )
    target, share = targets(met)
    share = _downward(nodes, met, step, target, share)
    length = np.maximum(np.linalg.norm(met.positions - nodes.positions, axis=1), step)
    end = np.einsum("nk,nkc->nc", share, nodes.positions[np.maximum(target, 0)])
    advance = np.clip(((end - nodes.positions) * straight).sum(axis=1), 0.2 * step, 1.5 * step)
    order = np.argsort(-nodes.potential, kind="stable").astype(np.int32)
    return Flow(
        np.where(share > 0, target, -1).astype(np.int32),
        share,
        length.astype(np.float32),
        advance.astype(np.float32),
        order,
    )


def _downhill(nodes: Nodes) -> tuple[np.ndarray, np.ndarray]:
    """(N, 3) unit directions straight down surfaces, or out to the rim on level tops; and those water takes, into rills."""
    n = nodes.normals
    down = n * n[:, 1:2] - np.array([0, 1, 0], np.float32)
    slope = np.linalg.norm(down, axis=1)
    level = slope < _LEVEL
    down = np.where(level[:, None], nodes.outward - n * (n * nodes.outward).sum(1)[:, None], down)
    down /= np.maximum(np.linalg.norm(down, axis=1, keepdims=True), 1e-9)
    aside = np.cross(n, down)
    off = aside * (0.35 * _RILL)
    uneven = [noise(nodes.positions + sign * off, _RILL, _DETAIL, _SEED) for sign in (-1, 1)]
    turned = down + aside * (_WANDER * (uneven[0] - uneven[1]))[:, None]
    return down, np.asarray(turned / np.linalg.norm(turned, axis=1, keepdims=True), np.float32)


def _along(
    nodes: Nodes, on: np.ndarray, down: np.ndarray, step: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Rays onto the surface itself a step further on."""
    up = nodes.normals[on] * (_LIFT * step)[:, None]
    return nodes.positions[on] + down * step[:, None] + up, -nodes.normals[on], 2 * _LIFT * step


def _round(
    nodes: Nodes, on: np.ndarray, down: np.ndarray, step: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Rays back from beyond an edge onto what lies round it."""
    behind = nodes.normals[on] * (_TUCK * step)[:, None]
    return nodes.positions[on] + down * (_ROUND * step)[:, None] - behind, -down, 1.6 * step


def _empty(count: int) -> Met:
    rows = lambda width: np.zeros((count, width), np.float32)  # noqa: E731
    return Met(np.zeros(count, bool), np.full(count, -1), rows(2), rows(3), rows(3))


def _keep(met: Met, found: Met, on: np.ndarray, which: np.ndarray | None = None) -> None:
    """Write down what was met for the texels `on`."""
    which = found.hit if which is None else which
    at = on[which]
    met.hit[at], met.face[at], met.bary[at] = True, found.face[which], found.bary[which]
    met.positions[at], met.normals[at] = found.positions[which], found.normals[which]


def _downward(nodes: Nodes, met: Met, step: np.ndarray, target: np.ndarray, share: np.ndarray) -> np.ndarray:
    """(N, 4) shares of those targets that lie lower and where the ray met something."""
    there = np.maximum(target, 0)
    away = np.linalg.norm(nodes.positions[there] - met.positions[:, None], axis=2)
    good = (target >= 0) & met.hit[:, None] & (away < _ASTRAY * np.maximum(step[:, None], step[there]))
    good &= nodes.potential[there] < nodes.potential[:, None] - 1e-7
    kept = np.where(good, share, 0.0) ** SHARP
    return (kept / np.maximum(kept.sum(axis=1, keepdims=True), 1e-12)).astype(np.float32)


@kernel
def _carry(
    target: np.ndarray, share: np.ndarray, length: np.ndarray, order: np.ndarray, dry: float, held: np.ndarray
) -> None:
    for n in order:
        if held[n] <= 0.0:
            continue
        goes_on = held[n] * np.exp(-length[n] / dry) if dry > 0 else held[n]
        for k in range(4):
            if target[n, k] >= 0:
                held[target[n, k]] += share[n, k] * goes_on


def passed(flow: Flow, sources: np.ndarray, dry: float = 0.0) -> np.ndarray:
    """(N,) how much passes through each texel, its own source included, in the unit of the sources.

    Parameters
    ----------
    sources : (N,) what lands on each texel
    dry : metres over which what runs falls to 1/e on its way; 0: it does not dry
    """
    held = np.array(sources, np.float64)
    _carry(flow.target, flow.share, flow.length, flow.order, dry, held)
    return held


def line_load(flow: Flow, nodes: Nodes, held: np.ndarray) -> np.ndarray:
    """(N,) float32 metres of rained-on surface that drain over a metre's width, from what passes in m².

    A route visits only every so manyth texel of its way, so a visit stands for all that it passes over.
    """
    return np.asarray(held * flow.advance / np.maximum(nodes.areas, 1e-12), np.float32)
