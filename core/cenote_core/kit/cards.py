"""Many leaf cards at once, as arrays: sprays of a tree, leaves of a herb."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np

from ..mesh.mesh import Mesh, make_mesh


@dataclass
class Cards:
    """A growing list of leaf cards.

    Attributes
    ----------
    at : list of (3,), where each card is hinged, metres
    out : list of (3,), direction it grows in, unit length
    size : list of (length, width), metres
    tone : list of float, brightness factor
    sway : list of (4,), weights of stem, branch and leaf movement and the phase of its branch
    """

    at: list[np.ndarray] = field(default_factory=list)
    out: list[np.ndarray] = field(default_factory=list)
    size: list[tuple[float, float]] = field(default_factory=list)
    tone: list[float] = field(default_factory=list)
    sway: list[tuple[float, float, float, float]] = field(default_factory=list)

    def add(
        self,
        at: np.ndarray,
        out: np.ndarray,
        size: tuple[float, float],
        tone: float,
        sway: tuple[float, float, float, float],
    ) -> None:
        self.at.append(at)
        self.out.append(out)
        self.size.append(size)
        self.tone.append(tone)
        self.sway.append(sway)

    def __len__(self) -> int:
        return len(self.at)


def direction(heading: float, pitch: float) -> np.ndarray:
    """Unit vector by heading about the upright axis and pitch above the horizontal, radians."""
    return np.array([np.cos(heading) * np.cos(pitch), np.sin(pitch), np.sin(heading) * np.cos(pitch)])


def cards_mesh(
    cards: Cards, slot: str, centre: np.ndarray, droop: float, fold: float, seed: int, roll: float = 0.5
) -> Mesh:
    """All cards as one mesh: each bent once along its length and folded along its middle, six corners.

    Normals lean away from `centre`, so that a crown is lit as a body and not as loose paper.

    Parameters
    ----------
    centre : (3,) middle of the crown, metres
    droop : float
        How far a card's tip hangs down, as a share of its length.
    fold : float
        How far its edges are lifted, as a share of half its width.
    roll : float
        Largest random turn of a card about its own length, radians.
    """
    count = len(cards)
    rng = np.random.Generator(np.random.Philox(seed))
    at, out = np.array(cards.at), np.array(cards.out)
    length, width = np.array(cards.size).T
    side = np.cross(out, [0.0, 1.0, 0.0])
    short = np.linalg.norm(side, axis=1) < 1e-3
    side[short] = [1.0, 0.0, 0.0]
    side /= np.linalg.norm(side, axis=1, keepdims=True)
    up = np.cross(side, out)
    angle = rng.uniform(-roll, roll, count)[:, None]
    side, up = side * np.cos(angle) + up * np.sin(angle), up * np.cos(angle) - side * np.sin(angle)
    t = np.array([0.0, 0.55, 1.0])
    down = np.array([0.0, -1.0, 0.0])
    spine = (
        at[:, None]
        + out[:, None] * (length[:, None, None] * t[None, :, None])
        + down * (length[:, None, None] * droop * (t**2)[None, :, None])
    )
    half = (width / 2)[:, None, None] * side[:, None]
    lift = up[:, None] * (width / 2 * fold)[:, None, None]
    left, right = spine - half + lift, spine + half + lift
    positions = np.concatenate([left, right], axis=1).reshape(-1, 3)
    uv = np.array([(0, v) for v in t] + [(1, v) for v in t], float)
    quad = np.array([(0, 3, 1), (1, 3, 4), (1, 4, 2), (2, 4, 5)])
    faces = (np.arange(count)[:, None, None] * 6 + quad[None]).reshape(-1, 3)
    away = positions - centre
    away /= np.maximum(np.linalg.norm(away, axis=1, keepdims=True), 1e-6)
    own = np.repeat(up, 6, axis=0)
    own *= np.where(np.einsum("ij,ij->i", own, away) < 0, -1.0, 1.0)[:, None]
    normals = own * 0.45 + away * 0.7 + np.array([0, 0.22, 0])
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    # Leaves within the crown get less light than a card alone could know.
    reach = np.linalg.norm(positions - centre, axis=1)
    inner = 0.72 + 0.28 * np.clip(reach / max(float(np.percentile(reach, 90)), 1e-6), 0, 1)
    tone = np.repeat(np.array(cards.tone), 6) * inner
    colour = np.column_stack([tone, tone, tone, np.ones(len(tone))])
    sway = np.repeat(np.array(cards.sway, np.float32), 6, axis=0)
    sway[:, 2] *= np.tile(uv[:, 1], count)
    mesh = make_mesh(positions, faces, slot_names=(slot,), uv=np.tile(uv, (count, 1)), normals=normals, colour=colour)
    return replace(mesh, sway=sway.astype(np.float32))
