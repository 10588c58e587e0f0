"""Small things to be seen from near: a lantern, a bucket, and the ledge they stand on."""

from __future__ import annotations

import numpy as np

from ..mesh.mesh import Mesh, make_mesh, merge
from .shapes import block, tube
from .structures import curve


def _turned(outline: list[tuple[float, float]], slot: str, sides: int) -> Mesh:
    """A skin of revolution from (height, radius) pairs; its outside is to the right of the way they go, seen from the
    axis: upward outline, outer side."""
    height, radius = np.array(outline).T
    way = np.gradient(np.column_stack([radius, height]), axis=0)
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9)
    turn = np.linspace(0, 2 * np.pi, sides + 1)
    round_ = np.stack([np.cos(turn), np.zeros(sides + 1), -np.sin(turn)], axis=1)
    up = np.array([0.0, 1.0, 0.0])
    positions = radius[:, None, None] * round_ + height[:, None, None] * up
    normals = way[:, 1, None, None] * round_ - way[:, 0, None, None] * up
    along = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(radius), np.diff(height)))])
    uv = np.stack(np.broadcast_arrays(turn * radius.max(), along[:, None]), axis=-1)
    n = sides + 1
    k = (np.arange(len(height) - 1)[:, None] * n + np.arange(sides)).ravel()
    faces = np.concatenate([np.stack([k, k + 1, k + n], axis=1), np.stack([k + 1, k + n + 1, k + n], axis=1)])
    flat = lambda values, width: np.ascontiguousarray(values.reshape(-1, width), np.float32)  # noqa: E731
    return make_mesh(
        flat(positions, 3), faces.astype(np.int32), slot_names=(slot,), uv=flat(uv, 2), normals=flat(normals, 3)
    )


def lantern(seed: int) -> Mesh:
    """A hurricane lantern: tank, burner, glass chimney in a cage of wire, hood and bail."""
    del seed
    parts = [
        _turned([(0, 0.001), (0, 0.07), (0.004, 0.078), (0.03, 0.08), (0.042, 0.072), (0.05, 0.045), (0.055, 0.001)], "iron", 40),
        _turned([(0.05, 0.045), (0.056, 0.05), (0.066, 0.05), (0.07, 0.046), (0.072, 0.02)], "iron", 36),
        _turned([(0.07, 0.016), (0.09, 0.016), (0.094, 0.008), (0.1, 0.003)], "iron", 20),
        _turned(
            [(0.07, 0.044), (0.085, 0.05), (0.115, 0.0575), (0.14, 0.0585), (0.17, 0.053), (0.2, 0.043), (0.212, 0.04)],
            "pane", 56,
        ),
        _turned([(0.208, 0.046), (0.216, 0.048), (0.222, 0.044), (0.24, 0.03), (0.262, 0.03)], "iron", 36),
        _turned([(0.258, 0.05), (0.262, 0.052), (0.275, 0.036), (0.292, 0.02), (0.3, 0.004)], "iron", 36),
    ]  # fmt: skip
    for side in (-1, 1):
        wire = np.array(
            [[side * 0.07, 0.035, 0], [side * 0.094, 0.07, 0], [side * 0.09, 0.2, 0], [side * 0.045, 0.25, 0]]
        )
        parts.append(tube(curve(wire, 22), np.full(22, 0.0042), 10, "iron", 0.3))
    for turn in (35.0, 145.0):
        a = np.radians(turn)
        ring = np.array([[np.cos(a) * r, y, np.sin(a) * r] for y, r in ((0.07, 0.05), (0.14, 0.064), (0.212, 0.047))])
        for sign in (1, -1):
            parts.append(tube(curve(ring * [sign, 1, sign], 14), np.full(14, 0.0019), 6, "iron", 0.3))
    bail = np.array([[-0.09, 0.19, 0.005], [-0.1, 0.3, 0.03], [0.0, 0.37, 0.05], [0.1, 0.3, 0.03], [0.09, 0.19, 0.005]])
    parts.append(tube(curve(bail, 40), np.full(40, 0.0022), 8, "iron", 0.3))
    return merge(parts)


def bucket(seed: int) -> Mesh:
    """A zinc bucket, open, with a rolled rim, hoops and a bail that has fallen to the side."""
    del seed
    outer = [
        (0.0, 0.001),
        (0.0, 0.098),
        (0.006, 0.104),
        (0.05, 0.11),
        (0.1, 0.119),
        (0.15, 0.127),
        (0.2, 0.1355),
        (0.25, 0.144),
    ]
    rim = [(0.253, 0.1475), (0.258, 0.149), (0.263, 0.1475), (0.266, 0.144), (0.264, 0.1415)]
    inner = [(0.258, 0.1405), (0.2, 0.133), (0.1, 0.1165), (0.02, 0.103), (0.0125, 0.098), (0.012, 0.001)]
    parts = [_turned([*outer, *rim, *inner], "zinc", 64)]
    for y, r in ((0.055, 0.1108), (0.205, 0.1364)):
        parts.append(
            _turned(
                [(y - 0.005, r), (y - 0.003, r + 0.0028), (y + 0.003, r + 0.0034), (y + 0.006, r + 0.001)], "zinc", 64
            )
        )
    for side in (-1, 1):
        parts.append(block((0.012, 0.034, 0.03), (side * 0.1475, 0.222, 0), "zinc", 0.003))
    fallen = np.array(
        [
            [-0.153, 0.24, 0.0],
            [-0.15, 0.25, 0.09],
            [-0.07, 0.215, 0.17],
            [0.07, 0.21, 0.172],
            [0.15, 0.25, 0.09],
            [0.153, 0.24, 0.0],
        ]
    )
    parts.append(tube(curve(fallen, 48), np.full(48, 0.003), 8, "zinc", 0.3))
    return merge(parts)


def ledge(seed: int) -> Mesh:
    """Two worn slabs on a low course of stone."""
    rng = np.random.default_rng(seed)
    parts = [
        block((0.94, 0.1, 0.62), (-0.478, 0.3, 0), "coping", 0.012),
        block((0.94, 0.098, 0.6), (0.478, 0.3, 0.008), "coping", 0.012),
    ]
    x = -0.96
    while x < 0.9:
        wide = float(rng.uniform(0.26, 0.44))
        wide = min(wide, 0.96 - x)
        for y, tall in ((0.0, 0.145), (0.152, 0.142)):
            parts.append(
                block(
                    (wide - 0.012, tall, 0.5 + rng.normal(0, 0.006)),
                    (x + wide / 2, y, rng.normal(0, 0.006)),
                    "stone",
                    0.014,
                )
            )
        x += wide
    return merge(parts)
