"""Shapes that structures and plants are built from. Metres, Y up."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..mesh.mesh import Mesh, euler_matrix, make_mesh, transformed


def placed(mesh: Mesh, at: Sequence[float] = (0, 0, 0), turn: float = 0, tilt: float = 0, roll: float = 0) -> Mesh:
    """The mesh turned and moved."""
    matrix = np.eye(4)
    matrix[:3, :3] = euler_matrix(turn, tilt, roll)
    matrix[:3, 3] = at
    return transformed(mesh, matrix)


def block(size: Sequence[float], at: Sequence[float] = (0, 0, 0), slot: str = "body", bevel: float = 0.008) -> Mesh:
    """A box of `size` standing on y = at[1], centred in x and z, its edges broken by `bevel` metres."""
    half = np.asarray(size, float) / 2
    b = min(bevel, float(half.min()) * 0.45)
    points: list[np.ndarray] = []
    faces: list[tuple[int, int, int]] = []
    corner: dict[tuple[int, int], int] = {}
    signs = [(sx, sy, sz) for sx in (-1, 1) for sy in (-1, 1) for sz in (-1, 1)]
    for c, sign in enumerate(signs):
        for axis in range(3):
            inner = half - b
            p = np.array(sign) * inner
            p[axis] = sign[axis] * half[axis]
            corner[(c, axis)] = len(points)
            points.append(p)
    index = {s: k for k, s in enumerate(signs)}

    def quad(*ids: int) -> None:
        faces.extend([(ids[0], ids[1], ids[2]), (ids[0], ids[2], ids[3])])

    for axis in range(3):
        u, v = [k for k in range(3) if k != axis]
        for side in (-1, 1):
            ring = []
            for su, sv in ((-1, -1), (1, -1), (1, 1), (-1, 1)):
                s = [0, 0, 0]
                s[axis], s[u], s[v] = side, su, sv
                ring.append(corner[(index[(s[0], s[1], s[2])], axis)])
            quad(*ring)
        for su in (-1, 1):
            for sv in (-1, 1):
                ends = []
                for sa in (-1, 1):
                    s = [0, 0, 0]
                    s[axis], s[u], s[v] = sa, su, sv
                    ends.append(index[(s[0], s[1], s[2])])
                quad(corner[(ends[0], u)], corner[(ends[1], u)], corner[(ends[1], v)], corner[(ends[0], v)])
    for c in range(8):
        faces.append((corner[(c, 0)], corner[(c, 1)], corner[(c, 2)]))
    positions = np.array(points) + [0, half[1], 0] + np.asarray(at, float)
    return outward(make_mesh(positions, np.array(faces), slot_names=(slot,)), np.asarray(at) + [0, half[1], 0])


def outward(mesh: Mesh, centre: np.ndarray) -> Mesh:
    """A convex mesh with every face turned away from `centre`."""
    middle = mesh.positions[mesh.faces].mean(axis=1)
    cross = np.cross(
        mesh.positions[mesh.faces[:, 1]] - mesh.positions[mesh.faces[:, 0]],
        mesh.positions[mesh.faces[:, 2]] - mesh.positions[mesh.faces[:, 0]],
    )
    inside = np.einsum("ij,ij->i", cross, middle - centre) < 0
    faces = np.where(inside[:, None], mesh.faces[:, ::-1], mesh.faces)
    return make_mesh(mesh.positions, faces, mesh.slots, mesh.slot_names)


def tube(
    path: np.ndarray, radii: np.ndarray, sides: int, slot: str = "body", repeat: float = 1.0, capped: bool = False
) -> Mesh:
    """A tube along points (N, 3) with a radius at each; uv runs in metres of `repeat` around and along."""
    path, radii = np.asarray(path, float), np.asarray(radii, float)
    forward = np.gradient(path, axis=0)
    forward /= np.maximum(np.linalg.norm(forward, axis=1, keepdims=True), 1e-9)
    side = np.cross(forward[0], [0, 0, 1.0] if abs(forward[0][2]) < 0.9 else [1.0, 0, 0])
    rings, normals, uv = [], [], []
    along = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(path, axis=0), axis=1))])
    angle = np.linspace(0, 2 * np.pi, sides + 1)
    turns = max(1, round(2 * np.pi * float(radii.max()) / repeat))
    for k in range(len(path)):
        side = side - forward[k] * (side @ forward[k])
        side /= max(float(np.linalg.norm(side)), 1e-9)
        other = np.cross(forward[k], side)
        ring = np.cos(angle)[:, None] * side + np.sin(angle)[:, None] * other
        rings.append(path[k] + ring * radii[k])
        normals.append(ring)
        uv.append(np.column_stack([angle / (2 * np.pi) * turns, np.full(sides + 1, along[k] / repeat)]))
    n = sides + 1
    faces = []
    for k in range(len(path) - 1):
        a = k * n + np.arange(sides)
        faces.append(np.column_stack([a, a + n, a + 1]))
        faces.append(np.column_stack([a + 1, a + n, a + n + 1]))
    positions, normal, coords = np.concatenate(rings), np.concatenate(normals), np.concatenate(uv)
    every = np.concatenate(faces)
    cross = np.cross(positions[every[0, 1]] - positions[every[0, 0]], positions[every[0, 2]] - positions[every[0, 0]])
    if cross @ normal[every[0, 0]] < 0:
        every = every[:, ::-1]
    if capped:
        for end, direction in ((0, -forward[0]), (len(path) - 1, forward[-1])):
            first = len(positions)
            positions = np.concatenate([positions, rings[end], path[end][None]])
            normal = np.concatenate([normal, np.tile(direction, (n + 1, 1))])
            coords = np.concatenate([coords, np.zeros((n + 1, 2))])
            fan = np.column_stack([first + np.arange(sides), first + np.arange(sides) + 1, np.full(sides, first + n)])
            c = np.cross(positions[fan[0, 1]] - positions[fan[0, 0]], positions[fan[0, 2]] - positions[fan[0, 0]])
            every = np.concatenate([every, fan if c @ direction > 0 else fan[:, ::-1]])
    return make_mesh(positions, every, slot_names=(slot,), uv=coords, normals=normal)


def post(radius: float, height: float, at: Sequence[float], slot: str = "body", sides: int = 12) -> Mesh:
    """An upright round post with ends."""
    path = np.array([[at[0], at[1], at[2]], [at[0], at[1] + height, at[2]]], float)
    return tube(path, np.array([radius, radius]), sides, slot, capped=True)


def bar(start: Sequence[float], end: Sequence[float], width: float, thick: float, slot: str = "body") -> Mesh:
    """A straight bar of rectangular section between two points."""
    a, b = np.asarray(start, float), np.asarray(end, float)
    direction = b - a
    length = float(np.linalg.norm(direction))
    mesh = block((width, length, thick), (0, 0, 0), slot, 0.004)
    up = direction / length
    side = np.cross(up, [0, 0, 1.0])
    if np.linalg.norm(side) < 1e-6:
        side = np.array([1.0, 0, 0])
    side /= np.linalg.norm(side)
    matrix = np.eye(4)
    matrix[:3, 0], matrix[:3, 1], matrix[:3, 2] = side, up, np.cross(side, up)
    matrix[:3, 3] = a
    return transformed(mesh, matrix)


def sheet(across: np.ndarray, along: Sequence[float], slot: str = "body", thick: float = 0.0) -> Mesh:
    """A bent sheet: a profile (N, 2) of x and y, drawn out between two z values; two-sided when `thick`."""

    def layer(offset: float) -> np.ndarray:
        low = np.column_stack([across[:, 0], across[:, 1] + offset, np.full(len(across), along[0])])
        high = np.column_stack([across[:, 0], across[:, 1] + offset, np.full(len(across), along[1])])
        return np.concatenate([low, high])

    n = len(across)
    a = np.arange(n - 1)
    faces = np.concatenate([np.column_stack([a, a + n, a + 1]), np.column_stack([a + 1, a + n, a + n + 1])])
    top = layer(thick / 2)
    if thick <= 0:
        return make_mesh(top, faces, slot_names=(slot,))
    positions = np.concatenate([top, layer(-thick / 2)])
    edge = []
    for row in (0, n):
        edge.append(np.column_stack([row + a, row + a + 1, row + a + 2 * n]))
        edge.append(np.column_stack([row + a + 1, row + a + 1 + 2 * n, row + a + 2 * n]))
    every = np.concatenate([faces, faces[:, ::-1] + 2 * n, *edge])
    return make_mesh(positions, every, slot_names=(slot,))


def sphere(level: int) -> tuple[np.ndarray, np.ndarray]:
    """Directions and faces of an icosahedron divided `level` times."""
    g = (1 + 5**0.5) / 2
    points = [
        (-1, g, 0),
        (1, g, 0),
        (-1, -g, 0),
        (1, -g, 0),
        (0, -1, g),
        (0, 1, g),
        (0, -1, -g),
        (0, 1, -g),
        (g, 0, -1),
        (g, 0, 1),
        (-g, 0, -1),
        (-g, 0, 1),
    ]
    faces = np.array(
        [
            (0, 11, 5),
            (0, 5, 1),
            (0, 1, 7),
            (0, 7, 10),
            (0, 10, 11),
            (1, 5, 9),
            (5, 11, 4),
            (11, 10, 2),
            (10, 7, 6),
            (7, 1, 8),
            (3, 9, 4),
            (3, 4, 2),
            (3, 2, 6),
            (3, 6, 8),
            (3, 8, 9),
            (4, 9, 5),
            (2, 4, 11),
            (6, 2, 10),
            (8, 6, 7),
            (9, 8, 1),
        ]
    )
    p = np.array(points, float)
    p /= np.linalg.norm(p, axis=1, keepdims=True)
    for _ in range(level):
        edges = np.sort(np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]]), axis=1)
        unique, inverse = np.unique(edges, axis=0, return_inverse=True)
        middle = p[unique].mean(axis=1)
        middle /= np.linalg.norm(middle, axis=1, keepdims=True)
        m = inverse.reshape(3, -1).T + len(p)
        p = np.concatenate([p, middle])
        faces = np.concatenate(
            [
                np.column_stack([faces[:, 0], m[:, 0], m[:, 2]]),
                np.column_stack([faces[:, 1], m[:, 1], m[:, 0]]),
                np.column_stack([faces[:, 2], m[:, 2], m[:, 1]]),
                m,
            ]
        )
    return p, faces


def card_strip(
    spine: np.ndarray,
    side: np.ndarray,
    widths: np.ndarray,
    fold: float,
    slot: str,
    tint: np.ndarray | None = None,
    u_range: tuple[float, float] = (0.0, 1.0),
) -> Mesh:
    """A leaf strip along a spine (N, 3): three points across, the edges lifted by `fold` of the half width.

    v runs along the spine from 0 to 1. `side` is (3,) or (N, 3).
    """
    spine = np.asarray(spine, float)
    forward = np.gradient(spine, axis=0)
    forward /= np.maximum(np.linalg.norm(forward, axis=1, keepdims=True), 1e-9)
    sides = (
        np.broadcast_to(side, spine.shape)
        - forward * np.einsum("ij,ij->i", np.broadcast_to(side, spine.shape), forward)[:, None]
    )
    sides = sides / np.maximum(np.linalg.norm(sides, axis=1, keepdims=True), 1e-9)
    up = np.cross(sides, forward)
    half = np.asarray(widths, float)[:, None] / 2
    left = spine - sides * half + up * half * fold
    right = spine + sides * half + up * half * fold
    n = len(spine)
    positions = np.concatenate([left, spine, right])
    normals = np.concatenate([up + sides * fold, up, up - sides * fold])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-9)
    v = np.linspace(0, 1, n)
    u0, u1 = u_range
    uv = np.concatenate([np.column_stack([np.full(n, u), v]) for u in (u0, (u0 + u1) / 2, u1)])
    a = np.arange(n - 1)
    faces = []
    for c in range(2):
        faces.append(np.column_stack([a + c * n, a + (c + 1) * n, a + c * n + 1]))
        faces.append(np.column_stack([a + c * n + 1, a + (c + 1) * n, a + (c + 1) * n + 1]))
    colour = None if tint is None else np.tile(np.append(tint, 1.0), (3 * n, 1))
    return make_mesh(positions, np.concatenate(faces), slot_names=(slot,), uv=uv, normals=normals, colour=colour)
