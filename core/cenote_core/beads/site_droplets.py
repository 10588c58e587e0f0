"""Beads of a site: where on its surfaces droplets form, by rules, paint and regions, and the bodies they have."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..base.compass import compass
from ..graph.derived import derived
from ..hashing import text_seed, uniform
from ..materials.catalogue import contact_of
from ..mesh.mesh import Mesh, merge
from ..mesh.strewn import strewn
from ..mesh.texels import sample_map
from ..patinas.cover import cover
from ..patinas.drawn import inside
from ..plan import BeadsPlan, PatinaPlan
from ..scene.scene import Scene
from .base_pool import foot_pool
from .by_hand import laid_by_hand
from .growth import Droplets, grown, joined, steps_until
from .landing import landed
from .profile import foot_of, profiles, volume_of
from .rained import KEY, PANES, on_panes
from .shape import bodies, kind_by_size, triangles
from .sliding_drops import Running, ran

SMALLEST, _SMALL = 5e-5, 0.05
"""Metres: radius at which droplets begin at least; and as a share of that of the larger ones."""
MOST_SITES = 250_000
"""Places on one owner at which droplets of one kind may begin."""
_COVERS = (0.06, 1.5)
"""Share of the surface they would cover, had none met another: apart, and grown together as far as can be."""
_MET = 0.55
"""From this share on droplets have met, and those that are left are larger than one alone."""
_YOUNG = 4.0
"""Young ones for each square of the larger ones' size, at most."""
MOST_SEEN = 160_000
"""Triangles of the droplets on one owner as the plate and a hand-over have them."""
_FALLS_ON = 0.5
"""Metres about a thing in which is looked for what its drops may fall on."""
_LIMIT, _FINER = 512, 8
"""Texels along a side of the map that says where they may be, at most, and how many times finer it is than covers are:
what droplets lie on is small, and its parts lie close together in its unwrap."""


def as_patina(plan: BeadsPlan) -> PatinaPlan:
    """What says where beads gather, as a patina says it: rules, surfaces, amount."""
    return PatinaPlan(name=plan.name, amount=plan.amount, rules=plan.rules, uses=plan.uses)


def _side(scene: Scene, owner: str) -> int:
    return min(_LIMIT, _FINER * scene.resolution(owner, _LIMIT))


def _may_need(scene: Scene, key: str, plan: BeadsPlan, owner: str) -> list[Any]:
    side = _side(scene, owner)
    regions = [region.model_dump() for region in plan.regions]
    return [cover.ref(scene, key, as_patina(plan), owner, side), scene.table.ref(owner, side), regions]


@derived(_may_need)
def may_form(scene: Scene, key: str, plan: BeadsPlan, owner: str) -> np.ndarray:
    """(R, R) float32 over an owner's unwrap: the share of the droplets that could form there which do."""
    side = _side(scene, owner)
    table = scene.table(owner, side)
    found = cover(scene, key, as_patina(plan), owner, side)
    found = found * inside(plan.regions, table.points.positions.astype(np.float64))
    return np.ascontiguousarray(table.spread(np.asarray(found, np.float32)))


def _needs(scene: Scene, key: str, plan: BeadsPlan, owner: str) -> list[Any]:
    side = _side(scene, owner)
    settings = plan.model_dump(
        exclude={"name", "note", "visible", "locked", "rules", "amount", "order", "pool", "drawn"}
    )
    where = cover.ref(scene, key, as_patina(plan), owner, side)
    materials = [(s.slot, s.index, s.material) for s in scene.surfaces_of(owner) if not s.layer]
    around = scene.rays.ref(_below(scene, owner)) if plan.runs > 0 else None
    wind = scene.site.weather.wind_from if plan.runs > 0 and plan.blown > 0 else None
    by_hand = [t.model_dump(exclude={"name", "note", "locked"}) for t in scene.site.touches_of(key) if t.owner == owner]
    return [by_hand, settings, where, scene.mesh.ref(owner), scene.table.ref(owner, side), materials, key, around, wind,
            scene.rays.ref((owner,))]  # fmt: skip


@derived(_needs, keep="disk")
def droplets(scene: Scene, key: str, plan: BeadsPlan, owner: str) -> dict[float, Droplets]:
    """The droplets of beads on an owner, by contact angle in degrees."""
    mesh, side = scene.mesh(owner), _side(scene, owner)
    where = scene.table(owner, side).spread(cover(scene, key, as_patina(plan), owner, side))
    out: dict[float, list[np.ndarray]] = {}
    for surface in scene.surfaces():
        if surface.owner == owner and not surface.layer and any(u.surface == surface.ref for u in plan.uses):
            angle = plan.angle or contact_of(surface.material)
            out.setdefault(angle, []).append(np.flatnonzero(mesh.slots == surface.index))
    found: dict[float, Droplets] = {}
    rays, strokes = scene.rays((owner,)), scene.site.touches_of(key)
    for angle, faces in out.items():
        made, formed = profiles(angle), _formed(mesh, np.concatenate(faces), where, plan, angle, key)
        if not found:
            formed = joined([formed, laid_by_hand(scene, key, plan, owner, made, strokes, rays)])
        run = ran(formed, made, angle, rays, _running(scene, plan))
        below = landed(run.off, made, scene.rays(_below(scene, owner))) if len(run.off) else run.off
        found[angle] = joined([run.drops, below])
    return found


def _running(scene: Scene, plan: BeadsPlan) -> Running:
    x, z = -plan.blown * compass(scene.site.weather.wind_from)
    return Running(plan.runs, plan.speed / 1000, plan.pull, (float(x), 0.0, float(z)), plan.trail)


def _below(scene: Scene, owner: str) -> tuple[str, ...]:
    """What drops that leave an owner may fall on."""
    return tuple(scene.near(owner, _FALLS_ON)[1:])


def _formed(mesh: Mesh, faces: np.ndarray, where: np.ndarray, plan: BeadsPlan, angle: float, key: str) -> Droplets:
    """Droplets that formed on some faces; `where` (R, R) is the share of sites that are any."""
    size, made = plan.size / 1000, profiles(angle)
    covers = _COVERS[0] + (_COVERS[1] - _COVERS[0]) * plan.crowded**1.5
    # What has merged is larger than one alone would be: lone ones grow the less far the more have merged.
    lone = size * min(1.0, _MET / covers)
    seed = text_seed(key) + plan.seed
    old, old_at = _sites(mesh, faces, where, plan, covers / (np.pi * lone * lone), seed)
    begin = max(SMALLEST, _SMALL * size)
    steps = steps_until(begin, lone)
    young, young_at = _sites(mesh, faces, where, plan, _YOUNG * plan.between / (size * size), seed + 1)
    late = np.floor(steps * (0.35 + 0.65 * uniform(young, 5))).astype(np.int64)
    names = np.concatenate([old, young])
    at = np.concatenate([old_at[0], young_at[0]])
    normal = np.concatenate([old_at[1], young_at[1]])
    start = np.concatenate([np.zeros(len(old), np.int64), late])
    shape = float(volume_of(made, np.array([lone]))[0]) / lone**3
    found = grown(at, normal, start, begin, max(lone, begin), shape)
    return Droplets(found.at, found.normal, found.volume, found.memory, names[found.name].view(np.int64))


def _sites(
    mesh: Mesh, faces: np.ndarray, where: np.ndarray, plan: BeadsPlan, density: float, seed: int
) -> tuple[np.ndarray, tuple[np.ndarray, np.ndarray]]:
    """Names (N,) of the places at which droplets begin, and where they are: positions and normals (N, 3)."""
    area = float(mesh.face_areas()[faces].sum())
    density = min(density, MOST_SITES / max(area, 1e-9))
    face, shares, name = strewn(mesh, faces, density, 11)
    name = name ^ np.uint64((seed * 0x9E3779B97F4A7C15) & 0xFFFFFFFFFFFFFFFF)
    assert mesh.uv2 is not None
    corners = mesh.faces[face]
    uv2 = np.einsum("nk,nkc->nc", shares, mesh.uv2[corners]).astype(np.float32)
    at = np.einsum("nk,nkc->nc", shares, mesh.positions[corners].astype(np.float64))
    on = uniform(name, 4) < sample_map(where, uv2) * inside(plan.regions, at)
    normal = np.einsum("nk,nkc->nc", shares[on], mesh.normals[corners[on]].astype(np.float64))
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-9)
    return name[on], (at[on], normal)


def _largest(found: dict[float, Droplets], most: int) -> dict[float, Droplets]:
    """The largest droplets that come to so many triangles."""
    volume = np.concatenate([drops.volume for drops in found.values()] or [np.zeros(0)])
    cost = np.concatenate(
        [triangles(kind_by_size(foot_of(profiles(a), d.volume))) for a, d in found.items()] or [volume]
    )
    order = np.argsort(-volume, kind="stable")
    keep = np.zeros(len(volume), bool)
    keep[order[np.cumsum(cost[order]) <= most]] = True
    ends = np.cumsum([len(drops) for drops in found.values()])
    return {a: drops.only(keep[end - len(drops) : end]) for (a, drops), end in zip(found.items(), ends, strict=True)}


def _mesh_needs(scene: Scene, key: str, plan: BeadsPlan, owner: str) -> list[Any]:
    pool = foot_pool.ref(scene, key, plan, owner) if plan.pool > 0 else None
    return [droplets.ref(scene, key, plan, owner), plan.uneven, MOST_SEEN, pool]


@derived(_mesh_needs, keep="disk")
def bead_mesh(scene: Scene, key: str, plan: BeadsPlan, owner: str) -> Mesh:
    """Bodies of beads on an owner, in the site's coordinates: the largest, of which so many are seen from anywhere."""
    found = _largest(droplets(scene, key, plan, owner), MOST_SEEN)
    parts = [bodies(drops, profiles(angle), plan.uneven) for angle, drops in sorted(found.items())]
    pool = foot_pool(scene, key, plan, owner) if plan.pool > 0 else None
    return merge([*parts, pool] if pool is not None else parts)


def carriers(scene: Scene, plan: BeadsPlan) -> list[str]:
    """The owners of surfaces beads form on that are there."""
    wanted = {use.surface for use in plan.uses}
    found = {surface.owner for surface in scene.surfaces() if surface.ref in wanted and not surface.layer}
    return [owner for owner in scene.owners() if owner in found]


def shown(scene: Scene) -> list[tuple[str, BeadsPlan]]:
    """The beads that are to be seen, in their order; last those that rain lays on panes."""
    found = [
        (plan.order, key, plan) for key, plan in scene.site.of(BeadsPlan).items() if plan.visible and not plan.drawn
    ]
    glass = [s.ref for s in scene.surfaces() if s.material in PANES and not s.layer]
    rained = on_panes(scene.site.weather, glass)
    return [(key, plan) for _, key, plan in sorted(found, key=lambda f: f[:2])] + ([(KEY, rained)] if rained else [])
