"""Grass: tufts of blades by length, width, bend, curl, lean, stiffness and colour.

A blade is a curve of the length it is given. Its angle from the upright grows with the 3/2 power of the way along it:
least at the stiff foot, most where it is thin.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..mesh.mesh import Mesh, make_mesh, merge

_POWER = 1.5
_FINE = 96
_UP = np.array([0.0, 1.0, 0.0])
_HEAD = 0.66
"""Where on a flowering stem its head begins."""
_NODES, _A_NODE = 12, 3
_MOST_BENT = 1.73
"""A leaf bends up to so many times the average."""
_A_SEGMENT = 0.6
"""Radians a leaf may bend within one segment of the finest level."""


@dataclass(frozen=True)
class Grass:
    """How a grass grows. Lengths in metres, shares 0..1, colours linear.

    Attributes
    ----------
    length : of the longest leaves, along the blade; flowering stems reach up to 1.35 times that
    root_width, tip_width : of a blade at its foot and at its tip, on average
    head_width : of the head of a flowering stem
    foot : radius of the disc the blades rise from
    blades : in one tuft
    bend : angle of a leaf's tip from the upright on average, radians; π hangs straight down
    curl : how far a blade turns about itself on its way up, at most, radians
    clump : how far blades lean with their neighbours, 0 each its own way, 1 all one way
    stiffness : 1 hardly moves in the wind, 0 lies down in it
    dry : share of dead blades; of the others some have dry tips
    flower : share of blades that are flowering stems
    root_colour, tip_colour, dry_colour, head_colour : (3,)
    """

    length: float = 0.42
    root_width: float = 0.0063
    tip_width: float = 0.0007
    head_width: float = 0.005
    foot: float = 0.088
    blades: int = 44
    bend: float = 1.15
    curl: float = 0.6
    clump: float = 0.0
    stiffness: float = 0.3
    dry: float = 0.25
    flower: float = 0.0
    root_colour: tuple[float, float, float] = (0.055, 0.062, 0.022)
    tip_colour: tuple[float, float, float] = (0.13, 0.19, 0.042)
    dry_colour: tuple[float, float, float] = (0.36, 0.29, 0.12)
    head_colour: tuple[float, float, float] = (0.26, 0.20, 0.13)


@dataclass(frozen=True)
class _Blades:
    """All blades of a tuft, (B,) each."""

    root: np.ndarray  # (B, 3)
    heading: np.ndarray
    length: np.ndarray
    bend: np.ndarray
    facing: np.ndarray
    twist: np.ndarray
    wide: np.ndarray
    tone: np.ndarray
    dead: np.ndarray
    tipped: np.ndarray
    flower: np.ndarray

    def only(self, which: np.ndarray | slice) -> _Blades:
        return _Blades(*(getattr(self, name)[which] for name in self.__dataclass_fields__))

    def first(self, count: int) -> _Blades:
        return self.only(slice(count))


def grass_tuft(seed: int, grass: Grass | None = None) -> list[Mesh]:
    """A tuft as three levels of detail, finest first, its foot at the origin.

    Every blade draws its own numbers, always the same many: more blades add to those that stand, and more dry or
    flowering ones change no other.
    """
    grass = grass or Grass()
    blades = _sown(seed, grass)
    fine = int(np.clip(np.ceil(_MOST_BENT * grass.bend / _A_SEGMENT), 4, 8))

    def level(share: float, segments: int, wide: float) -> Mesh:
        some = blades.first(max(min(3, grass.blades), int(grass.blades * share)))
        mesh = _drawn(some, grass, segments, wide)
        if wide == 1.0 and some.flower.any():
            mesh = merge([mesh, _husks(some.only(some.flower), grass)])
        return _swaying(mesh, grass)

    return [level(1.0, fine, 1.0), level(0.42, max(2, fine // 2), 1.85), level(0.16, max(1, fine // 3), 4.0)]


def _sown(seed: int, grass: Grass) -> _Blades:
    rng = np.random.Generator(np.random.Philox(seed))
    common = rng.uniform(0, 2 * np.pi)
    draw = rng.random((grass.blades, 12))
    # Angles about a heading spread like a normal distribution: the sum of three even ones is close enough to it.
    near = 2 * (draw[:, 9:12].sum(axis=1) - 1.5)
    angle = 2 * np.pi * draw[:, 0]
    out = grass.foot * np.sqrt(draw[:, 1])
    own = angle + 0.8 * near
    lean_x = grass.clump * np.cos(common) + (1 - grass.clump) * np.cos(own)
    lean_z = grass.clump * np.sin(common) + (1 - grass.clump) * np.sin(own)
    flower = draw[:, 2] < grass.flower
    dead = ~flower & (draw[:, 3] < grass.dry)
    arch = np.where(flower, 0.35, (2 - _MOST_BENT + 2 * (_MOST_BENT - 1) * draw[:, 4]) * np.where(dead, 1.3, 1.0))
    return _Blades(
        root=np.column_stack([out * np.cos(angle), np.zeros_like(out), out * np.sin(angle)]),
        heading=np.arctan2(lean_z, lean_x),
        length=grass.length * np.where(flower, 1.05 + 0.3 * draw[:, 5], 0.42 + 0.58 * draw[:, 5]),
        bend=np.minimum(grass.bend * arch, np.pi),
        facing=0.35 * near,
        twist=grass.curl * (2 * draw[:, 6] - 1),
        wide=0.65 + 0.7 * draw[:, 7],
        tone=draw[:, 8],
        dead=dead,
        tipped=~flower & ~dead & (draw[:, 3] < np.minimum(2.5 * grass.dry, 1.0)),
        flower=flower,
    )


def blade_curve(bend: np.ndarray, t: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Blades of length 1 in the plane they arch in.

    Parameters
    ----------
    bend : (B,) angle of the tip from the upright, radians
    t : (T,) share of the way along the blade, ascending, 0..1

    Returns
    -------
    outward, upward, angle : (B, T) each; angle of the blade from the upright, radians
    """
    fine = (np.arange(_FINE) + 0.5) / _FINE
    lean = bend[:, None] * fine**_POWER
    zero = np.zeros((len(bend), 1))
    edges = np.linspace(0, 1, _FINE + 1)
    sums = [np.concatenate([zero, np.cumsum(part, axis=1) / _FINE], axis=1) for part in (np.sin(lean), np.cos(lean))]
    at = np.clip(np.searchsorted(edges, t, side="right") - 1, 0, _FINE - 1)
    rest = (t - edges[at]) * _FINE
    outward, upward = (s[:, at] + rest * (s[:, at + 1] - s[:, at]) for s in sums)
    return outward, upward, bend[:, None] * t**_POWER


def _drawn(blades: _Blades, grass: Grass, segments: int, wide: float) -> Mesh:
    """One band of triangles a blade, from foot to tip."""
    t = np.linspace(0, 1, segments + 1)
    path, along, out, level = _frames(blades, t)
    turned = (blades.facing[:, None] + blades.twist[:, None] * t)[..., None]
    side = np.cos(turned) * level + np.sin(turned) * np.cross(along, level)
    half = _half_widths(blades, grass, t, flat=wide > 1.0) * wide
    edges = np.concatenate([path - side * half[..., None], path + side * half[..., None]], axis=1)
    shown = np.broadcast_to(0.75 * _UP + 0.4 * out, path.shape)
    shown = shown / np.linalg.norm(shown, axis=-1, keepdims=True)
    normals = np.concatenate([shown - 0.35 * side, shown + 0.35 * side], axis=1)
    normals /= np.linalg.norm(normals, axis=-1, keepdims=True)
    colour = np.tile(_colours(blades, grass, t), (1, 2, 1))
    count, n = len(blades.heading), segments + 1
    a = np.arange(segments)
    band = np.concatenate([np.column_stack([a, a + n, a + 1]), np.column_stack([a + 1, a + n, a + n + 1])])
    faces = (band[None] + 2 * n * np.arange(count)[:, None, None]).reshape(-1, 3)
    uv = np.tile(np.concatenate([np.column_stack([np.full(n, u), t]) for u in (0.0, 1.0)]), (count, 1))
    return make_mesh(
        edges.reshape(-1, 3), faces, slot_names=("blade",), uv=uv, normals=normals.reshape(-1, 3),
        colour=np.column_stack([colour.reshape(-1, 3), np.ones(2 * n * count)]),
    )  # fmt: skip


def _frames(blades: _Blades, t: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """(B, T, 3) points and directions of each blade, (B, 1, 3) the way it leans and the level way across that."""
    outward, upward, angle = blade_curve(blades.bend, t)
    none = np.zeros(len(blades.heading))
    out = np.column_stack([np.cos(blades.heading), none, np.sin(blades.heading)])[:, None]
    level = np.column_stack([-np.sin(blades.heading), none, np.cos(blades.heading)])[:, None]
    reach = outward[..., None] * out + upward[..., None] * _UP
    along = np.sin(angle)[..., None] * out + np.cos(angle)[..., None] * _UP
    return blades.root[:, None] + blades.length[:, None, None] * reach, along, out, level


def _husks(blades: _Blades, grass: Grass) -> Mesh:
    """The heads of flowering stems seen from near: husks around the last third, one triangle each, leaning outward."""
    nodes = np.repeat(np.linspace(_HEAD, 0.985, _NODES), _A_NODE)
    path, along, out, level = _frames(blades, nodes)
    # About the golden angle from one to the next, so that none stands above another.
    around = (2.4 * np.arange(len(nodes)) + 6.3 * blades.tone[:, None])[..., None]
    away = np.cos(around) * level + np.sin(around) * np.cross(along, level)
    long = 1.9 * blades.length[:, None, None] * (1 - _HEAD) / _NODES
    size = np.sqrt(np.sin(np.pi * np.interp(nodes, (_HEAD, 1), (0.15, 0.93))))[:, None]
    lean = np.minimum(grass.head_width / 2 / long, 0.8)
    tip = path + long * size * (np.sqrt(1 - lean**2) * along + lean * away)
    half = 0.16 * grass.head_width * size * np.cross(along, away)
    corners = np.stack([path - half, path + half, tip], axis=2)
    count = corners.shape[0] * len(nodes)
    normals = np.repeat((0.6 * _UP + 0.6 * away + 0.2 * out).reshape(-1, 3), 3, axis=0)
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    shade = 0.8 + 0.4 * np.resize([0.2, 0.9, 0.5, 0.0, 0.7], count)
    colour = np.repeat(np.array(grass.head_colour) * shade[:, None], 3, axis=0)
    return make_mesh(
        corners.reshape(-1, 3), np.arange(3 * count).reshape(-1, 3), slot_names=("blade",),
        uv=np.tile([(0.0, 0.0), (1.0, 0.0), (0.5, 1.0)], (count, 1)), normals=normals,
        colour=np.column_stack([colour, np.ones(3 * count)]),
    )  # fmt: skip


def _half_widths(blades: _Blades, grass: Grass, t: np.ndarray, flat: bool) -> np.ndarray:
    """(B, T) half the width along each blade; from afar a head is a flat band."""
    root = grass.root_width * blades.wide * np.where(blades.flower, 0.45, 1.0)
    half = (root[:, None] + (grass.tip_width - root)[:, None] * t**1.6) / 2
    if not flat:
        return half
    head = grass.head_width / 2 * np.interp(t, (0.5, 0.8, 1.0), (0.0, 1.0, 0.6))
    return np.where(blades.flower[:, None] & (t > 0.5), np.maximum(head, grass.tip_width / 2), half)


def _colours(blades: _Blades, grass: Grass, t: np.ndarray) -> np.ndarray:
    """(B, T, 3) linear: from root to tip, each blade a little lighter or darker."""
    tip = np.array(grass.tip_colour) * (0.72 + 0.56 * blades.tone)[:, None]
    tip = np.where(blades.dead[:, None], np.array(grass.dry_colour) * (0.85 + 0.3 * blades.tone)[:, None], tip)
    root = np.array(grass.root_colour)
    colour = root + (tip[:, None] - root) * np.clip(1.5 * t, 0, 1)[None, :, None]
    colour[blades.tipped, -1] = (np.array(grass.tip_colour) + np.array(grass.dry_colour)) / 2
    head = blades.flower[:, None] & (t > _HEAD + 0.06)
    colour[head] = grass.head_colour
    return np.asarray(colour)


def _swaying(mesh: Mesh, grass: Grass) -> Mesh:
    """Weights for the wind: what is higher bends more, stiff blades less; 0.3 is the stiffness of plain grass."""
    soft = 1.36 - 1.2 * grass.stiffness
    p = mesh.positions
    stem = soft * np.clip(p[:, 1] / max(grass.length, 1e-3), 0, 1.2) ** 1.6
    flutter = (1.0 - grass.stiffness) * np.clip(p[:, 1] / max(grass.length, 1e-3), 0, 1.2) ** 1.6
    phase = (np.arctan2(p[:, 2], p[:, 0]) / (2 * np.pi)) % 1.0
    return replace(mesh, sway=np.column_stack([stem, 0.4 * stem, flutter, phase]).astype(np.float32))
