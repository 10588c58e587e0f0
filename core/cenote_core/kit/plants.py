"""Plants with form: branching stems, curved blades, leaf cards. Each returns its levels of detail, finest first.

Every plant stands with its foot at the origin. Normals of leaf cards lean outward from the crown, so that a
crown is lit as a body and not as loose paper.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..mesh.mesh import Mesh, make_mesh, merge
from .shapes import card_strip, tube


def _rng(seed: int) -> np.random.Generator:
    return np.random.Generator(np.random.Philox(seed))


def _tinted(mesh: Mesh, tint: np.ndarray) -> Mesh:
    colour = np.tile(np.append(tint, 1.0).astype(np.float32), (len(mesh.positions), 1))
    return replace(mesh, colour=colour)


# Grass ------------------------------------------------------------------------------------------------------


def grass_tuft(
    seed: int, height: float = 0.42, spread: float = 0.16, blades: int = 44, dry: float = 0.25
) -> list[Mesh]:
    """A tuft of curved, tapering blades; colour from root to tip in the vertices, some blades dry."""
    rng = _rng(seed)
    items = []
    for _ in range(blades):
        angle = rng.uniform(0, 2 * np.pi)
        root = spread * 0.55 * np.sqrt(rng.random()) * np.array([np.cos(angle), 0, np.sin(angle)])
        heading = angle + rng.normal(0, 0.8)
        items.append(
            (
                root,
                heading,
                height * rng.uniform(0.45, 1.05),
                rng.uniform(0.15, 0.95),
                rng.random() < dry,
                rng.uniform(0.0035, 0.0075),
                rng.uniform(-0.6, 0.6),
                rng.random(),
            )
        )

    def level(share: float, segments: int, wide: float) -> Mesh:
        count = max(3, int(len(items) * share))
        return merge([_blade(*item, segments=segments, wide=wide) for item in items[:count]])

    return [level(1.0, 4, 1.15), level(0.42, 2, 2.1), level(0.16, 1, 4.6)]


def _blade(
    root: np.ndarray,
    heading: float,
    length: float,
    bend: float,
    dead: bool,
    width: float,
    twist: float,
    tone: float,
    segments: int,
    wide: float,
) -> Mesh:
    t = np.linspace(0, 1, segments + 1)
    out = np.array([np.cos(heading), 0, np.sin(heading)])
    lean = bend * (1.2 if dead else 0.9) * t**1.8
    path = root + length * (np.outer(np.sin(lean) * t * 0.9, out) + np.outer(t * np.cos(lean * 0.8), [0, 1, 0]))
    side = np.array([-np.sin(heading + twist), 0, np.cos(heading + twist)])
    half = width * wide * (1 - t**1.6 * 0.94) / 2
    left, right = path - side * half[:, None], path + side * half[:, None]
    n = len(t)
    a = np.arange(n - 1)
    faces = np.concatenate([np.column_stack([a, a + n, a + 1]), np.column_stack([a + 1, a + n, a + n + 1])])
    root_c = np.array([0.055, 0.062, 0.022])
    tip_c = np.array([0.36, 0.29, 0.12]) if dead else np.array([0.13, 0.19, 0.042]) * (0.75 + 0.6 * tone)
    colour = root_c + (tip_c - root_c) * np.clip(t[:, None] * 1.5, 0, 1)
    if not dead and tone > 0.6:
        colour[-1] = [0.30, 0.26, 0.10]
    colour = np.column_stack([np.concatenate([colour, colour]), np.concatenate([t, t])])
    up = np.array([0, 1.0, 0]) * 0.75 + out * 0.4
    normals = (
        np.tile(up / np.linalg.norm(up), (2 * n, 1))
        + np.concatenate([-np.tile(side, (n, 1)), np.tile(side, (n, 1))]) * 0.35
    )
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    uv = np.concatenate([np.column_stack([np.zeros(n), t]), np.column_stack([np.ones(n), t])])
    return make_mesh(np.concatenate([left, right]), faces, slot_names=("blade",), uv=uv, normals=normals, colour=colour)


# Fern -------------------------------------------------------------------------------------------------------


def fern(seed: int, height: float = 0.7, fronds: int = 11) -> list[Mesh]:
    """A lady fern: fronds rise from a crown and arch over, the young ones upright, the old ones browning."""
    rng = _rng(seed)
    plans = []
    for k in range(fronds):
        heading = 2 * np.pi * (k * 0.381966 + rng.uniform(-0.05, 0.05))
        old = rng.random() < 0.18
        plans.append(
            (
                heading,
                height * rng.uniform(0.72, 1.12),
                rng.uniform(0.5, 1.0) + 0.25 * old,
                rng.uniform(0.24, 0.32),
                np.array([0.62, 0.47, 0.26]) if old else np.array([0.85, 0.95, 0.72]) * rng.uniform(0.7, 1.05),
                rng.normal(0, 0.25),
            )
        )

    def level(segments: int, share: float, wide: float) -> Mesh:
        parts = []
        for heading, length, arch, width, tint, roll in plans[: max(3, int(fronds * share))]:
            t = np.linspace(0, 1, segments + 1)
            out = np.array([np.cos(heading), 0, np.sin(heading)])
            pitch = 1.25 - arch * (0.35 + 1.25 * t)
            step = length / segments
            run = np.concatenate([[0], np.cumsum(np.cos(pitch[:-1]) * step)])
            rise = np.concatenate([[0], np.cumsum(np.sin(pitch[:-1]) * step)])
            spine = np.outer(run, out) + np.outer(rise, [0, 1, 0]) + out * 0.02
            side = np.array([-np.sin(heading), roll * 0.4, np.cos(heading)])
            widths = np.full(segments + 1, length * width * 1.5 * wide)
            parts.append(card_strip(spine, side, widths, -0.22, "frond", tint))
        return merge(parts)

    return [level(7, 1.0, 1.0), level(3, 0.8, 1.1), level(2, 0.5, 1.35)]


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
        return merge(parts)

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


# Birch ------------------------------------------------------------------------------------------------------


def birch(seed: int, height: float = 9.0) -> list[Mesh]:
    """A silver birch: slender leaning trunk, ascending limbs, fine hanging twigs carrying leaf sprays.

    Limbs follow the golden angle up the trunk; lengths taper to a narrow, open crown (after the crown outline
    tables used for parametric trees, Weber and Penn 1995).
    """
    rng = _rng(seed)
    t = np.linspace(0, 1, 16)
    lean = rng.normal(0, 0.05, 2)
    trunk = np.column_stack(
        [
            height * (lean[0] * t**1.5 + 0.012 * np.sin(t * 7 + rng.uniform(0, 6))),
            height * t,
            height * (lean[1] * t**1.5 + 0.012 * np.sin(t * 6 + rng.uniform(0, 6))),
        ]
    )
    foot = 0.013 * height + 0.02
    radii = foot * (1 - t) ** 0.85 + 0.006 + 0.35 * foot * np.exp(-t * 40)
    limbs: list[tuple[np.ndarray, np.ndarray]] = []
    sprays: list[tuple[np.ndarray, float, float, float, float]] = []
    count = int(26 + height * 1.6)
    for k in range(count):
        s = 0.24 + 0.74 * (k / count) ** 0.9
        at = np.array([np.interp(s, t, trunk[:, j]) for j in range(3)])
        heading = k * 2.39996 + rng.normal(0, 0.3)
        crown = np.sin(np.pi * np.clip((s - 0.16) / 0.86, 0, 1) ** 0.75) ** 0.8
        length = height * (0.05 + 0.20 * crown) * rng.uniform(0.75, 1.2)
        rise = rng.uniform(0.75, 1.15) * (0.55 + 0.6 * s)
        limb = _limb(at, heading, rise, length, rng)
        thick = max(0.006, 0.42 * float(np.interp(s, t, radii)) * (0.5 + 0.5 * crown))
        limbs.append((limb, np.linspace(thick, 0.003, len(limb))))
        twigs = int(5 + length * 5)
        for j in range(twigs):
            f = 0.22 + 0.78 * (j + rng.random()) / twigs
            base = _along(limb, f)
            swing = heading + (1 if j % 2 else -1) * rng.uniform(0.4, 1.3)
            sprays.append(
                (
                    base,
                    swing,
                    rng.uniform(-0.95, 0.35),
                    rng.uniform(0.42, 0.66) * (height / 9) ** 0.4,
                    rng.uniform(0.75, 1.15),
                )
            )
        sprays.append((limb[-1], heading, -0.2, 0.6, 1.0))
    for _ in range(6):
        sprays.append(
            (trunk[-1] - [0, rng.uniform(0, 0.04) * height, 0], rng.uniform(0, 6.28), rng.uniform(0.2, 1.1), 0.5, 1.05)
        )
    middle = np.array([trunk[10][0], height * 0.6, trunk[10][2]])

    def level(step: int, big: float, sides: int, limb_sides: int, limb_step: int, every_limb: int) -> Mesh:
        parts = [tube(trunk, radii, sides, "trunk", 0.8)]
        parts += [
            tube(p[::limb_step], r[::limb_step], limb_sides, "twig", 0.4)
            for p, r in limbs[::every_limb]
            if len(p[::limb_step]) > 1
        ]
        parts += [
            _leaf_card(a, h, p, size * big, size * big * 0.85, tone, "leaf", middle)
            for a, h, p, size, tone in sprays[::step]
        ]
        return merge(parts)

    return [level(1, 1.0, 12, 5, 1, 1), level(3, 1.55, 7, 3, 2, 1), level(10, 2.7, 5, 3, 5, 3)]


def _limb(at: np.ndarray, heading: float, rise: float, length: float, rng: np.random.Generator) -> np.ndarray:
    steps = 7
    pitch = rise
    point = at.copy()
    points = [point.copy()]
    for k in range(steps):
        pitch -= rng.uniform(0.02, 0.20) + (0.10 if k > 3 else 0)
        heading += rng.normal(0, 0.12)
        point = point + length / steps * np.array(
            [np.cos(heading) * np.cos(pitch), np.sin(pitch), np.sin(heading) * np.cos(pitch)]
        )
        points.append(point.copy())
    return np.array(points)


def _along(path: np.ndarray, f: float) -> np.ndarray:
    s = np.linspace(0, 1, len(path))
    return np.array([np.interp(f, s, path[:, j]) for j in range(3)])


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
