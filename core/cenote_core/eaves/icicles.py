"""Icicles: where, how long and of what shape.

They grow where water comes to a lip and freezes on its way down (Makkonen, *A model of icicle growth*, 1988): the more
comes, the longer; a drop of five millimetres hangs at every tip while one grows. Their ripples are about a centimetre
apart, whatever their size (Ueno, *Pattern formation in crystal growth under parabolic shear flow*, 2003).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..base.compass import compass
from ..graph.derived import Ref, derived
from ..hashing import uniform
from ..mesh.mesh import Mesh, make_mesh, vertex_normals
from ..mesh.rings import between_rings, fan
from ..plan import GROUND
from ..scene.scene import Scene
from .lips import Lips, fed, fed_refs, lips, places_along

APART = 0.034
"""Metres of lip for each place at which one may hang."""
_WELL_FED = 1.2
"""Metres of rained-on surface from which on as many and as long ones hang as can."""
_LEAST_FED = 0.02
_SHORTEST = 0.012
"""Metres under which one is a frozen drop, and left out."""
_FREE = 0.04
"""Metres of air that stay under a tip."""
_TIP = 0.0024
"""Metres of radius: a drop hangs there while one grows."""
_SLENDER = 0.045
"""Radius at the root over length, beside what a short one has."""
_ROOT = 0.003
_SUNK = 0.006
"""Metres a root reaches up behind its lip."""
_RIPPLE, _RIPPLES_OUT = 0.0105, 0.09
"""Metres between ripples, and how far they stand out, as a share of the radius."""
_SIDES = 7
_RING, _MOST_RINGS, _FEW_RINGS = 0.0042, 60, 8
"""Metres between the rings of one, how many it has at most, and how many a short one has, whose ripples are not seen."""
_SHORT = 0.05
_MOST = 260
"""Icicles on one owner."""
_LEANS = 0.006
"""Slope by which one hangs aside, for each metre a second of wind while it grew."""


@dataclass(frozen=True)
class Icicles:
    """Where icicles hang.

    Attributes
    ----------
    root : (N, 3) float64 metres
    length : (N,) float64 metres
    name : (N,) uint64, what each draws its own shape from
    of : (N,) the lip each hangs from
    air : (N,) float64 metres from its root to what is below
    """

    root: np.ndarray
    length: np.ndarray
    name: np.ndarray
    of: np.ndarray
    air: np.ndarray


def hang(along: Lips, water: np.ndarray, longest: float) -> Icicles:
    """Icicles on some lips that (N,) metres of rained-on surface drain over; the longest has `longest` metres."""
    of, name, root = places_along(along, APART, 1)
    share = np.clip(water[of] / _WELL_FED, 0, 1)
    # Most stay short: water goes to those that are ahead.
    length = longest * np.sqrt(share) * (0.12 + 0.88 * uniform(name, 3) ** 3)
    length = np.minimum(length, along.air[of] - _FREE)
    hangs = (uniform(name, 4) < 0.25 + 0.75 * share) & (water[of] > _LEAST_FED) & (length > _SHORTEST)
    chosen = np.flatnonzero(hangs)
    chosen = chosen[np.sort(np.argsort(-length[chosen], kind="stable")[:_MOST])]
    return Icicles(root[chosen], length[chosen], name[chosen], of[chosen], along.air[of[chosen]])


def shape(icicles: Icicles, lean: np.ndarray) -> Mesh:
    """Closed bodies of icicles that hang aside by a level slope `lean` (2,), with smooth normals."""
    positions, faces, first = [], [], 0
    turn = np.linspace(0, 2 * np.pi, _SIDES, endpoint=False)
    drawn = np.stack([uniform(icicles.name, 10 + k) for k in range(6)], axis=1)
    for root, length, own in zip(icicles.root, icicles.length, drawn, strict=True):
        rings = _FEW_RINGS if length < _SHORT else int(np.clip(length / _RING, _FEW_RINGS, _MOST_RINGS))
        down = np.linspace(0, 1, rings) ** 0.9 * length
        radius = _radius(down, length, own)
        aside = lean[None] * down[:, None] + _wander(down, length, own)
        oval = 1 + 0.16 * np.cos(2 * (turn - 7 * own[4]))
        ring = np.empty((rings, _SIDES, 3))
        ring[..., 0] = root[0] + aside[:, :1] + radius[:, None] * oval * np.cos(turn)
        ring[..., 2] = root[2] + aside[:, 1:] + radius[:, None] * oval * np.sin(turn)
        ring[..., 1] = root[1] + _SUNK - down[:, None]
        tip = [root[0] + aside[-1, 0], root[1] + _SUNK - length - _TIP * 0.9, root[2] + aside[-1, 1]]
        top = [root[0], root[1] + _SUNK, root[2]]
        positions.append(np.concatenate([ring.reshape(-1, 3), [tip, top]]))
        faces.append(_faces(rings) + first)
        first += rings * _SIDES + 2
    if not positions:
        return make_mesh(np.zeros((0, 3), np.float32), np.zeros((0, 3), np.int32))
    at, corners = np.concatenate(positions).astype(np.float32), np.concatenate(faces).astype(np.int32)
    return make_mesh(at, corners, normals=vertex_normals(at, corners), uv=np.zeros((len(at), 2), np.float32))


def _radius(down: np.ndarray, length: float, own: np.ndarray) -> np.ndarray:
    """(R,) metres of radius so many metres down."""
    at_root = (_ROOT + _SLENDER * length) * (0.75 + 0.5 * own[0])
    tapered = at_root * (1 - down / length) ** (0.55 + 0.3 * own[1])
    flare = 0.7 * at_root * np.exp(-down / (0.9 * at_root))
    ripple = np.sin(2 * np.pi * (down / _RIPPLE + own[2])) * np.clip(down / 0.02, 0, 1)
    return np.asarray((tapered + flare) * (1 + _RIPPLES_OUT * ripple) + _TIP)


def _wander(down: np.ndarray, length: float, own: np.ndarray) -> np.ndarray:
    """(R, 2) metres an axis is off the plumb line: none grows quite straight."""
    t = down / length
    return 0.018 * length * np.stack(
        [np.sin(4.1 * t + 9 * own[3]) - np.sin(9 * own[3]), np.sin(3.3 * t + 9 * own[5]) - np.sin(9 * own[5])], axis=1
    )  # fmt: skip


def _faces(rings: int) -> np.ndarray:
    """Triangles of one body: its side, its tip and its lid, outsides outward."""
    last, tip = (rings - 1) * _SIDES, rings * _SIDES
    lid = fan(0, _SIDES, tip + 1)[:, ::-1]
    return np.concatenate([between_rings(rings, _SIDES), fan(last, _SIDES, tip), lid])


@derived(lambda scene, owner, longest: [*fed_refs(scene, owner), longest], keep="disk")
def _icicles(scene: Scene, owner: str, longest: float) -> Mesh:
    now = scene.site.weather
    lean = -compass(now.wind_from) * now.wind * _LEANS
    return shape(hang(lips(scene, owner), fed(scene, owner), longest), lean)


def icicles_ref(scene: Scene, owner: str) -> Ref[Mesh] | None:
    """Icicles on an owner in the weather that shows, without making them; None while there are none."""
    longest = scene.site.weather.icicles
    return _icicles.ref(scene, owner, longest / 100) if longest > 0 and owner != GROUND else None


def icicles(scene: Scene, owner: str) -> Mesh | None:
    """The same, made; None where none hang."""
    found = icicles_ref(scene, owner)
    mesh = found.value() if found else None
    return mesh if mesh is not None and len(mesh.faces) else None
