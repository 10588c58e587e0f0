"""Rime on twigs, canes and leaves near the eye: feathers of ice that have grown into the wind, each a small blade.

Where they root is drawn by area from what looks toward the wind; where the surface is narrow they grow longest, for the
droplets of freezing fog hit what is narrow and flow round what is wide (Langmuir and Blodgett 1946).
"""

from __future__ import annotations

import numpy as np

from ..mesh.mesh import Mesh

REACH = 5.0
"""Metres from the eye within which feathers are drawn one by one; farther off they are whitening."""
LONGEST = 0.014
"""Metres of the longest feathers where all is rimed."""
_EACH = 2.6e5
"""Feathers on a square metre of what looks straight into the wind."""
_MOST = 30_000
"""Feathers on one mesh's instances."""
_WIDE = 0.16
"""Width of a feather's root against its length."""
_TURNED = 0.15
"""Part of a normal toward the wind from which feathers root."""
_SPREAD = 0.35
"""How far feathers lean apart."""


def feathers(
    mesh: Mesh, faces: np.ndarray, at: np.ndarray, radius: np.ndarray, toward: np.ndarray, rime: float, eye: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray] | None:
    """(M, 3) positions, (M, 3) normals and (K, 3) corners of the feathers on instances of a mesh.

    Parameters
    ----------
    faces : (F, 3) of the mesh that they may root on
    at : (N, V, 3) where the instances' vertices stand
    radius : (N, V) metres, how narrow each place is
    toward : (3,) unit vector toward the wind
    rime : 0..1, how far it has grown
    """
    corners = at[:, faces].reshape(-1, 3, 3)
    middle = corners.mean(axis=1)
    near = np.flatnonzero(np.linalg.norm(middle - eye, axis=1) < REACH)
    across = np.cross(corners[near, 1] - corners[near, 0], corners[near, 2] - corners[near, 0])
    doubled = np.linalg.norm(across, axis=1)
    into = across @ toward / np.maximum(doubled, 1e-12)
    weight = 0.5 * doubled * np.clip((into - _TURNED) / (1 - _TURNED), 0, 1)
    if not weight.sum() > 0:
        return None
    rng = np.random.Generator(np.random.Philox(len(corners)))
    count = min(_MOST, int(_EACH * weight.sum()))
    chosen = near[np.searchsorted(np.cumsum(weight) / weight.sum(), rng.random(count)).clip(0, len(near) - 1)]
    one, other = rng.random((2, count))
    one, other = np.where(one + other > 1, 1 - one, one), np.where(one + other > 1, 1 - other, other)
    weights = np.stack([1 - one - other, one, other], axis=1)[..., None]
    root = (corners[chosen] * weights).sum(axis=1)
    narrow = (radius[:, faces].reshape(-1, 3)[chosen] * weights[..., 0]).sum(axis=1)
    length = LONGEST * rime * (0.3 + 0.7 * rng.random(count)) * np.clip(0.006 / np.maximum(narrow, 1e-4), 0.25, 1)
    along = toward + _SPREAD * rng.normal(size=(count, 3))
    along /= np.linalg.norm(along, axis=1, keepdims=True)
    side = np.cross(along, rng.normal(size=(count, 3)))
    side /= np.maximum(np.linalg.norm(side, axis=1, keepdims=True), 1e-9)
    half = (_WIDE * length)[:, None] * side
    # A feather widens toward its end and is blunt there, as rime does that grows by what it catches.
    tip = root + along * length[:, None]
    places = np.stack(
        [root - 0.5 * half, root + 0.5 * half, tip + half, tip + 0.15 * along * length[:, None], tip - half], 1
    )
    normals = np.repeat(np.cross(side, along)[:, None], 5, axis=1)
    fan = np.array([[0, 1, 2], [0, 2, 3], [0, 3, 4]])
    numbers = (np.arange(count) * 5)[:, None, None] + fan
    return places.reshape(-1, 3), normals.reshape(-1, 3), numbers.reshape(-1, 3)
