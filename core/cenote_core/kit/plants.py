"""Brambles and leaf litter. Each returns its levels of detail, finest first.

Every plant stands with its foot at the origin.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..mesh.mesh import Mesh, merge
from .shapes import card_strip, tube


def _rng(seed: int) -> np.random.Generator:
    return np.random.Generator(np.random.Philox(seed))


def swaying(mesh: Mesh, height: float, flutter: float = 1.0) -> Mesh:
    """The mesh with weights for the wind: what stands higher moves more, bent from the foot."""
    stem = np.clip(mesh.positions[:, 1] / max(height, 1e-3), 0, 1.2) ** 1.6
    phase = (np.arctan2(mesh.positions[:, 2], mesh.positions[:, 0]) / (2 * np.pi)) % 1.0
    sway = np.column_stack([stem, 0.4 * stem, np.full(len(stem), flutter) * stem, phase])
    return replace(mesh, sway=sway.astype(np.float32))


# Bramble ----------------------------------------------------------------------------------------------------


def bramble(seed: int, size: float = 1.1, canes: int = 9) -> list[Mesh]:
    """A bramble: thorny canes arch out and root again, set with three-parted leaves."""
    rng = _rng(seed)
    stems, leaves = [], []
    for k in range(canes):
        heading = 2 * np.pi * (k / canes + rng.uniform(-0.06, 0.06))
        reach, top = size * rng.uniform(0.5, 1.0), size * rng.uniform(0.38, 0.78)
        t = np.linspace(0, 1, 10)
        out = np.array([np.cos(heading), 0, np.sin(heading)])
        wobble = np.array([-out[2], 0, out[0]]) * rng.normal(0, 0.12)
        path = (
            np.outer(reach * t, out)
            + np.outer(top * 4 * t * (1 - t) * (1 - 0.3 * t), [0, 1, 0])
            + np.outer(np.sin(3 * t), wobble)
        )
        stems.append(path)
        for s in np.linspace(0.10, 0.98, 22):
            at = np.array([np.interp(s, t, path[:, j]) for j in range(3)])
            swing = heading + rng.choice([-1, 1]) * rng.uniform(0.5, 1.5)
            leaves.append((at, swing, rng.uniform(0.10, 0.16) * size, rng.uniform(-0.15, 0.75), rng.uniform(0.65, 1.1)))

    def level(step: int, sides: int, big: float, stem_step: int) -> Mesh:
        parts = [
            tube(
                p[::stem_step] if len(p[::stem_step]) > 1 else p,
                np.linspace(0.008, 0.003, len(p[::stem_step])),
                sides,
                "cane",
                0.4,
            )
            for p in stems
        ]
        for at, swing, length, pitch, tone in leaves[::step]:
            parts.append(
                _leaf_card(at, swing, pitch, length * big, length * big, tone, "leaf", np.array([0, size * 0.2, 0]))
            )
        return swaying(merge(parts), size)

    return [level(1, 5, 1.0, 1), level(2, 3, 1.3, 3), level(4, 3, 1.75, 9)]


def _leaf_card(
    at: np.ndarray,
    heading: float,
    pitch: float,
    length: float,
    width: float,
    tone: float,
    slot: str,
    centre: np.ndarray,
) -> Mesh:
    """One picture card hinged at `at`, gently bent, normals leaning away from `centre`."""
    out = np.array([np.cos(heading) * np.cos(pitch), np.sin(pitch), np.sin(heading) * np.cos(pitch)])
    droop = np.array([0, -0.22 * length, 0])
    spine = np.array([at, at + out * length * 0.5, at + out * length + droop])
    side = np.array([-np.sin(heading), 0, np.cos(heading)])
    card = card_strip(spine, side, np.full(3, width), 0.18, slot, np.array([tone, tone, tone]))
    away = card.positions - centre
    away /= np.maximum(np.linalg.norm(away, axis=1, keepdims=True), 1e-6)
    normals = card.normals * 0.55 + away * 0.6 + np.array([0, 0.25, 0])
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    return replace(card, normals=normals.astype(np.float32))


# Litter -----------------------------------------------------------------------------------------------------


def fallen_leaf(seed: int) -> list[Mesh]:
    """A few curled leaves lying close together."""
    rng = _rng(seed)

    def leaf(segments: int, spin: float, at: np.ndarray, pick: int, curl: float, size: float) -> Mesh:
        t = np.linspace(-0.5, 0.5, segments + 1)
        out = np.array([np.cos(spin), 0, np.sin(spin)])
        spine = np.outer(t * size, out) + np.outer(0.004 + curl * size * (2 * t) ** 2 * 0.35, [0, 1, 0]) + at
        side = np.array([-np.sin(spin), 0.0, np.cos(spin)])
        column, row = pick % 2, pick // 2
        card = card_strip(
            spine,
            side,
            np.full(segments + 1, size),
            0.25 * curl + 0.08,
            "leaf",
            np.ones(3) * rng.uniform(0.75, 1.1),
            (0.5 * column, 0.5 * column + 0.5),
        )
        uv = card.uv.copy()
        uv[:, 1] = 0.5 * row + 0.5 * uv[:, 1]
        return replace(card, uv=uv)

    plans = [
        (
            rng.uniform(0, 6.28),
            np.append(rng.normal(0, 0.055, 2), 0.0)[[0, 2, 1]],
            int(rng.integers(0, 4)),
            rng.uniform(0, 0.9),
            rng.uniform(0.05, 0.085),
        )
        for _ in range(5)
    ]
    return [
        merge([leaf(4, *p) for p in plans]),
        merge([leaf(2, *p) for p in plans[:4]]),
        merge([leaf(1, *p) for p in plans[:3]]),
    ]


def fallen_twigs(seed: int) -> list[Mesh]:
    """A few dead twigs lying across each other, some forked."""
    rng = _rng(seed)
    plans = []
    for _ in range(6):
        spin = rng.uniform(0, 6.28)
        along = np.array([np.cos(spin), 0.0, np.sin(spin)])
        at = np.append(rng.normal(0, 0.09, 2), 0.0)[[0, 2, 1]] + [0, 0.006, 0]
        length = rng.uniform(0.12, 0.38)
        bow = np.array([-along[2], 0.25, along[0]]) * rng.normal(0, 0.05)
        t = np.linspace(0, 1, 6)
        path = at + np.outer(t * length, along) + np.outer(np.sin(np.pi * t), bow)
        plans.append((path, rng.uniform(0.002, 0.0055)))
        if rng.random() < 0.6:
            turned = np.cos(0.7) * along + np.sin(0.7) * np.array([-along[2], 0.0, along[0]])
            plans.append((path[3] + np.outer(t * length * 0.4, turned), 0.002))

    def level(sides: int, step: int, every: int) -> Mesh:
        return merge(
            [tube(p[::step], np.linspace(r, 0.4 * r, len(p[::step])), sides, "twig", 0.2) for p, r in plans[::every]]
        )

    return [level(5, 1, 1), level(3, 2, 1), level(3, 5, 2)]
