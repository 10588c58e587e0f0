"""Structures and props of a small hill railway. Metres; the origin is at the foot, in the middle."""

from __future__ import annotations

import numpy as np
from scipy.interpolate import CubicSpline

from ..mesh.mesh import Mesh, make_mesh, merge, transformed
from .shapes import bar, block, placed, post, sheet, tube


def _rng(seed: int) -> np.random.Generator:
    return np.random.Generator(np.random.Philox(seed))


def platform(seed: int, length: float = 16.0, width: float = 3.6, height: float = 0.85) -> Mesh:
    """A stone-faced platform with coping stones along the edge and a concrete top."""
    rng = _rng(seed)
    parts = [block((length, height - 0.10, width), (0, 0, 0), "stone", 0.02)]
    parts.append(block((length - 0.9, 0.06, width - 0.62), (0, height - 0.09, -0.30), "concrete", 0.01))
    x = -length / 2 - 0.04
    while x < length / 2 - 0.3:
        size = min(rng.uniform(0.85, 1.25), length / 2 + 0.04 - x)
        parts.append(
            block(
                (size - 0.012, 0.14, 0.62),
                (
                    x + size / 2,
                    height - 0.12 + rng.uniform(-0.008, 0.010),
                    width / 2 - 0.23 + rng.uniform(-0.008, 0.008),
                ),
                "coping",
                0.018,
            )
        )
        x += size
    for side in (-1, 1):
        parts.append(
            block((0.46, 0.13, width - 0.62), (side * (length / 2 - 0.2), height - 0.12, -0.30), "coping", 0.018)
        )
    return merge(parts)


def steps(seed: int, width: float = 1.5, count: int = 5, rise: float = 0.17, going: float = 0.32) -> Mesh:
    """A flight of worn stone steps with low side walls; climbs toward +z."""
    rng = _rng(seed)
    parts = []
    for k in range(count):
        depth = going * (count - k)
        parts.append(
            block(
                (width, rise, depth),
                (rng.normal(0, 0.006), k * rise, going * k / 2 + rng.normal(0, 0.004)),
                "stone",
                0.022,
            )
        )
    for side in (-1, 1):
        parts.append(
            block((0.26, rise * count * 0.55, going * count), (side * (width / 2 + 0.14), 0, 0), "stone", 0.03)
        )
        parts.append(
            block(
                (0.32, 0.09, going * count + 0.06), (side * (width / 2 + 0.14), rise * count * 0.55, 0), "coping", 0.018
            )
        )
    return merge(parts)


def shelter(seed: int, width: float = 4.2, depth: float = 2.1, height: float = 2.5) -> Mesh:
    """A timber shelter, open in front (+z), with one glazed pane and a corrugated tin roof falling to the back."""
    rng = _rng(seed)
    parts = []
    front, back = height, height - 0.45
    w, d = width / 2, depth / 2
    for x in (-w, 0.0, w):
        parts.append(block((0.12, front - 0.05, 0.12), (x, 0, d), "timber", 0.008))
        parts.append(block((0.12, back - 0.05, 0.12), (x, 0, -d), "timber", 0.008))
    for z, y in ((d, front), (-d, back)):
        parts.append(block((width + 0.3, 0.14, 0.12), (0, y - 0.14, z), "timber", 0.008))
    for x in (-w, w):
        parts.append(bar((x, back - 0.08, -d), (x, front - 0.08, d), 0.10, 0.12, "timber"))
    boards = int(width / 0.135)
    for k in range(boards):
        x = -w + (k + 0.5) * width / boards
        low = rng.uniform(0.03, 0.09) + (0.16 if rng.random() < 0.1 else 0)
        parts.append(
            block(
                (width / boards - 0.006, back - 0.12 - low, 0.022),
                (x, low, -d - 0.07 + rng.normal(0, 0.002)),
                "boards",
                0.003,
            )
        )
    side_boards = int(depth / 0.135)
    for side in (-1, 1):
        for k in range(side_boards):
            z = -d + (k + 0.5) * depth / side_boards
            top = back - 0.12 + (front - back) * (k + 0.5) / side_boards
            low = rng.uniform(0.03, 0.08)
            window = side == 1 and 0.30 < (k + 0.5) / side_boards < 0.74
            spans = ((low, 1.05), (1.72, top)) if window else ((low, top),)
            for y0, y1 in spans:
                parts.append(
                    block((0.022, y1 - y0, depth / side_boards - 0.006), (side * (w + 0.07), y0, z), "boards", 0.003)
                )
    z0, z1 = -d + 0.30 * depth, -d + 0.74 * depth
    parts.append(block((0.006, 0.67, z1 - z0), (w + 0.07, 1.05, (z0 + z1) / 2), "pane", 0.001))
    for y in (1.03, 1.36, 1.70):
        parts.append(block((0.06, 0.045, z1 - z0 + 0.06), (w + 0.07, y, (z0 + z1) / 2), "timber", 0.004))
    for z in (z0, z1):
        parts.append(block((0.06, 0.72, 0.05), (w + 0.07, 1.03, z), "timber", 0.004))
    parts.append(block((width - 0.4, 0.045, 0.36), (0, 0.46, -d + 0.24), "timber", 0.006))
    for x in (-w + 0.5, 0, w - 0.5):
        parts.append(block((0.07, 0.46, 0.30), (x, 0, -d + 0.24), "timber", 0.006))
    parts.append(_corrugated(width + 0.7, depth + 0.9, front - back, depth, (back + front) / 2 + 0.05))
    return merge(parts)


def _corrugated(width: float, depth: float, rise: float, run: float, middle: float) -> Mesh:
    pitch, wave = 0.076, 0.018
    x = np.arange(-width / 2, width / 2 + 1e-6, pitch / 6)
    profile = np.column_stack([x, wave / 2 * np.cos(2 * np.pi * x / pitch)])
    roof = sheet(profile, (-depth / 2, depth / 2), "tin", 0.003)
    # Laid with its valleys down the slope: front (+z) high.
    angle = -np.degrees(np.arctan2(rise, run))
    return placed(roof, (0, middle + 0.02, 0), 0, angle, 0)


def track(seed: int, length: float = 24.0) -> Mesh:
    """Track bed: a shouldered bed of ballast, sleepers half sunk in it, two rails in chairs. Runs along x."""
    rng = _rng(seed)
    n = int(length / 0.25)
    x = np.linspace(-length / 2, length / 2, n)
    z = np.array([-1.75, -1.45, -1.15, -0.85, -0.55, -0.25, 0.0, 0.25, 0.55, 0.85, 1.15, 1.45, 1.75])
    y = np.array([-0.12, 0.03, 0.13, 0.15, 0.14, 0.13, 0.125, 0.13, 0.14, 0.15, 0.13, 0.03, -0.12])
    gx, gz = np.meshgrid(x, z, indexing="ij")
    gy = np.tile(y, (n, 1)) + rng.normal(0, 0.012, gx.shape)
    gz = gz + rng.normal(0, 0.03, gx.shape)
    a = (np.arange(n - 1)[:, None] * len(z) + np.arange(len(z) - 1)).ravel()
    faces = np.concatenate(
        [np.column_stack([a, a + 1, a + len(z)]), np.column_stack([a + 1, a + len(z) + 1, a + len(z)])]
    )
    parts = [make_mesh(np.column_stack([gx.ravel(), gy.ravel(), gz.ravel()]), faces, slot_names=("ballast",))]
    at = -length / 2 + 0.4
    while at < length / 2 - 0.2:
        parts.append(
            placed(
                block((0.24, 0.16, 2.3), (0, 0, 0), "sleeper", 0.012),
                (at, 0.03 + rng.normal(0, 0.006), rng.normal(0, 0.02)),
                rng.normal(0, 0.9),
            )
        )
        at += 0.68 + rng.normal(0, 0.015)
    profile = [
        (-0.055, 0.0),
        (-0.055, 0.012),
        (-0.010, 0.028),
        (-0.010, 0.085),
        (-0.032, 0.100),
        (-0.032, 0.125),
        (-0.022, 0.132),
        (0.022, 0.132),
        (0.032, 0.125),
        (0.032, 0.100),
        (0.010, 0.085),
        (0.010, 0.028),
        (0.055, 0.012),
        (0.055, 0.0),
    ]
    rail = placed(sheet(np.array(profile)[::-1], (-length / 2, length / 2), "rail"), (0, 0, 0), 90)
    for side in (-0.60, 0.60):
        parts.append(placed(rail, (0, 0.20, side)))
    return merge(parts)


def wall(seed: int, length: float = 10.0, height: float = 1.6, thick: float = 0.5) -> Mesh:
    """A battered retaining wall of rubble with coping; its face looks to +z."""
    rng = _rng(seed)
    body = block((length, height, thick), (0, 0, 0), "stone", 0.02)
    lean = np.eye(4)
    lean[2, 1] = -0.08
    parts = [transformed(body, lean)]
    x = -length / 2
    while x < length / 2 - 0.2:
        size = min(rng.uniform(0.5, 0.85), length / 2 - x)
        parts.append(
            block(
                (size - 0.014, 0.12 + rng.uniform(0, 0.03), thick + 0.10),
                (x + size / 2, height, -0.08 * height + rng.normal(0, 0.01)),
                "coping",
                0.02,
            )
        )
        x += size
    return merge(parts)


def tank(seed: int, height: float = 3.4) -> Mesh:
    """An iron water tank of flanged plates on four braced legs, with an outlet and its chain."""
    parts = []
    w, d, h = 2.4, 1.6, 1.25
    for x in (-w / 2 + 0.12, w / 2 - 0.12):
        for z in (-d / 2 + 0.12, d / 2 - 0.12):
            parts.append(block((0.14, height, 0.14), (x, 0, z), "iron", 0.01))
            parts.append(block((0.34, 0.14, 0.34), (x, -0.04, z), "footing", 0.02))
    for z in (-d / 2 + 0.12, d / 2 - 0.12):
        parts.append(bar((-w / 2 + 0.12, 0.25, z), (w / 2 - 0.12, height - 0.3, z), 0.05, 0.012, "iron"))
        parts.append(bar((w / 2 - 0.12, 0.25, z), (-w / 2 + 0.12, height - 0.3, z), 0.05, 0.012, "iron"))
        parts.append(block((w + 0.1, 0.16, 0.12), (0, height, z), "iron", 0.008))
    for x in np.linspace(-w / 2 + 0.12, w / 2 - 0.12, 4):
        parts.append(block((0.10, 0.12, d + 0.1), (float(x), height + 0.14, 0), "iron", 0.008))
    base = height + 0.26
    parts.append(block((w, 0.03, d), (0, base, 0), "iron", 0.004))
    for z in (-d / 2, d / 2):
        parts.append(block((w, h, 0.02), (0, base, z), "iron", 0.004))
        for x in np.linspace(-w / 2, w / 2, 4):
            parts.append(block((0.03, h, 0.07), (float(x), base, z), "iron", 0.004))
        for y in (base + 0.02, base + h / 2, base + h - 0.03):
            parts.append(block((w + 0.06, 0.03, 0.075), (0, y, z), "iron", 0.004))
    for x in (-w / 2, w / 2):
        parts.append(block((0.02, h, d), (x, base, 0), "iron", 0.004))
        for y in (base + 0.02, base + h / 2, base + h - 0.03):
            parts.append(block((0.075, 0.03, d + 0.06), (x, y, 0), "iron", 0.004))
    spout = np.array(
        [
            [0, base + 0.12, d / 2],
            [0, base + 0.10, d / 2 + 0.5],
            [0, base - 0.05, d / 2 + 0.85],
            [0, base - 0.55, d / 2 + 0.95],
        ]
    )
    parts.append(tube(curve(spout, 16), np.full(16, 0.07), 12, "iron", 0.5))
    hoop = np.column_stack([np.full(24, 0.4), base + 0.02 - 0.5 * np.linspace(0, 1, 24), np.full(24, d / 2 + 0.06)])
    parts.append(tube(hoop, np.full(24, 0.008), 5, "iron", 0.2))
    return merge(parts)


def curve(points: np.ndarray, count: int) -> np.ndarray:
    """(count, D) places along a cubic spline through points (N, D)."""
    s = np.linspace(0, 1, len(points))
    return np.asarray(CubicSpline(s, points)(np.linspace(0, 1, count)))


def lamp(seed: int, height: float = 3.2) -> Mesh:
    """A cast-iron lamp post with a ladder bar and a four-paned lantern."""
    parts = [post(0.16, 0.18, (0, 0, 0), "iron", 16), post(0.10, 0.35, (0, 0.18, 0), "iron", 16)]
    parts.append(tube(np.array([[0, 0.5, 0], [0, height, 0]]), np.array([0.055, 0.038]), 14, "iron", 1.0))
    for y in (0.53, 0.62, height - 0.35):
        parts.append(post(0.075, 0.035, (0, y, 0), "iron", 16))
    parts.append(placed(post(0.014, 0.6, (0, 0, 0), "iron", 8), (0.3, height - 0.32, 0), 0, 0, 90))
    y = height
    for k in range(4):
        a = np.radians(45 + 90 * k)
        low, high = 0.11, 0.19
        parts.append(
            bar(
                (low * np.cos(a), y, low * np.sin(a)),
                (high * np.cos(a), y + 0.38, high * np.sin(a)),
                0.016,
                0.016,
                "iron",
            )
        )
    parts.append(block((0.17, 0.02, 0.17), (0, y - 0.01, 0), "iron", 0.004))
    parts.append(block((0.29, 0.02, 0.29), (0, y + 0.38, 0), "iron", 0.004))
    parts.append(
        tube(
            np.array([[0, y + 0.39, 0], [0, y + 0.50, 0], [0, y + 0.55, 0]]),
            np.array([0.19, 0.08, 0.03]),
            4,
            "iron",
            1.0,
        )
    )
    parts.append(tube(np.array([[0, y + 0.01, 0], [0, y + 0.37, 0]]), np.array([0.10, 0.17]), 4, "pane", 1.0))
    return merge(parts)


def seat(seed: int, length: float = 1.7) -> Mesh:
    """A slatted station bench on cast-iron ends."""
    rng = _rng(seed)
    parts = []
    for z in (-0.16, -0.05, 0.06, 0.17):
        parts.append(block((length, 0.03, 0.095), (rng.normal(0, 0.004), 0.43, z), "timber", 0.006))
    for y in (0.58, 0.71, 0.84):
        parts.append(
            placed(
                block((length, 0.095, 0.028), (0, 0, 0), "timber", 0.006),
                (rng.normal(0, 0.004), y - 0.05, -0.24 - 0.1 * (y - 0.58)),
                0,
                -12,
            )
        )
    for x in (-length / 2 + 0.14, length / 2 - 0.14):
        for pts in (
            [[x, 0, 0.22], [x, 0.22, 0.17], [x, 0.42, 0.20], [x, 0.60, 0.22], [x, 0.63, 0.05], [x, 0.60, -0.22]],
            [[x, 0, -0.26], [x, 0.20, -0.18], [x, 0.42, -0.22], [x, 0.66, -0.27], [x, 0.92, -0.33]],
            [[x, 0.41, 0.21], [x, 0.40, 0.0], [x, 0.41, -0.22]],
        ):
            parts.append(tube(curve(np.array(pts, float), 14), np.full(14, 0.018), 8, "iron", 0.5, True))
    return merge(parts)


def crate(seed: int, width: float = 0.62, depth: float = 0.46, height: float = 0.42) -> Mesh:
    """A slatted crate with corner posts; a slat may hang or be missing."""
    rng = _rng(seed)
    parts = []
    w, d = width / 2, depth / 2
    for x in (-w + 0.03, w - 0.03):
        for z in (-d + 0.03, d - 0.03):
            parts.append(block((0.04, height - 0.02, 0.04), (x, 0.01, z), "timber", 0.003))
    for k in range(4):
        y = 0.015 + k * (height - 0.03) / 4
        slat = (height - 0.03) / 4 - 0.018
        for z in (-d, d):
            if rng.random() > 0.12:
                parts.append(
                    placed(block((width, slat, 0.014), (0, 0, 0), "timber", 0.003), (0, y, z), 0, 0, rng.normal(0, 0.8))
                )
        for x in (-w, w):
            parts.append(block((0.014, slat, depth - 0.02), (x, y, 0), "timber", 0.003))
    for k in range(4):
        parts.append(
            block((width / 4 - 0.012, 0.014, depth - 0.03), (-w + (k + 0.5) * width / 4, 0.02, 0), "timber", 0.003)
        )
    return merge(parts)


def churn(seed: int, height: float = 0.72) -> Mesh:
    """A tall conical milk churn with a mushroom lid and two handles."""
    outline = [
        (0.0, 0.19),
        (0.02, 0.195),
        (0.40, 0.165),
        (0.46, 0.155),
        (0.56, 0.10),
        (0.62, 0.10),
        (0.63, 0.125),
        (0.655, 0.125),
        (0.66, 0.11),
        (0.69, 0.06),
        (0.70, 0.01),
    ]
    path = np.array([[0, y * height / 0.7, 0] for y, _ in outline])
    parts = [tube(path, np.array([r for _, r in outline]), 28, "zinc", 0.6)]
    for side in (-1, 1):
        loop = np.array(
            [[side * 0.115, 0.60, 0], [side * 0.19, 0.58, 0], [side * 0.20, 0.50, 0], [side * 0.145, 0.47, 0]]
        ) * [1, height / 0.7, 1]
        parts.append(tube(curve(loop, 12), np.full(12, 0.009), 8, "zinc", 0.3))
    return merge(parts)


def pole(seed: int, height: float = 7.0) -> Mesh:
    """A telegraph pole with two arms and insulators."""
    parts = [tube(np.array([[0, -0.2, 0], [0, height, 0]]), np.array([0.13, 0.09]), 14, "timber", 1.0, True)]
    for y in (height - 0.5, height - 1.0):
        parts.append(block((1.5, 0.09, 0.08), (0, y, 0.11), "timber", 0.006))
        for x in (-0.65, -0.3, 0.3, 0.65):
            parts.append(post(0.012, 0.10, (x, y + 0.09, 0.11), "iron", 6))
            parts.append(post(0.035, 0.09, (x, y + 0.15, 0.11), "concrete", 10))
    return merge(parts)


def figure(seed: int) -> Mesh:
    """A standing person, 1.75 m tall, as a plain drawing figure for scale."""
    parts = [
        tube(
            np.array([[0, 1.48, 0], [0, 1.54, 0], [0, 1.66, 0], [0, 1.73, 0], [0, 1.75, 0]]),
            np.array([0.05, 0.09, 0.105, 0.07, 0.01]),
            14,
            "body",
            1.0,
        )
    ]
    trunk = np.array([[0, 0.86, 0], [0, 1.05, 0], [0, 1.30, 0], [0, 1.44, 0], [0, 1.50, 0]])
    parts.append(tube(trunk, np.array([0.17, 0.15, 0.20, 0.16, 0.055]), 16, "body", 1.0))
    for side in (-1, 1):
        parts.append(
            tube(
                np.array([[side * 0.09, 0.92, 0], [side * 0.10, 0.5, 0.01], [side * 0.11, 0.06, 0]]),
                np.array([0.095, 0.065, 0.045]),
                12,
                "body",
                1.0,
            )
        )
        parts.append(block((0.10, 0.07, 0.26), (side * 0.11, 0, 0.05), "body", 0.03))
        parts.append(
            tube(
                np.array([[side * 0.20, 1.40, 0], [side * 0.26, 1.12, 0], [side * 0.25, 0.84, 0.06]]),
                np.array([0.06, 0.045, 0.035]),
                10,
                "body",
                1.0,
            )
        )
    return merge(parts)
