"""Drifts in a proof: every instance's triangles, turned, sized, bent by the wind and tinted."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..base.kernels import parallel_kernel, prange
from ..drifts.headroom import under_roofs
from ..drifts.instance_patinas import Carried, carried, covers_on, ramps, tile_on
from ..drifts.instances import Instances
from ..drifts.instancing import saved
from ..drifts.wind import Wind, bent, rhythm, wind_of
from ..kit.catalogue import Asset
from ..kit.impostor import SLOT
from ..kit.kit import LOD_REACH
from ..materials.catalogue import sheds_of
from ..materials.seasons import parted
from ..mesh.mesh import Mesh
from ..plan import DriftPlan, Response, StationPlan
from ..scene.scene import Scene
from ..stations.camera import in_view
from ..tracer import tables
from ..tracer.tables import ROOFED_AT, Triangles, as_words, layer_run, pack_colour, pack_normal
from .caps import add_caps
from .detail import Detail
from .tables import WHITE, Shot, Tables, finish_layer

SHADOW_REACH = 30.0
_WORTH_A_CARD = 64
"""Triangles of a plant's coarsest growth from which on a card pays: light that passes its holes costs more than a few
triangles do."""
_BLADE = "blade"
"""Slot whose colour is that of its vertices alone."""


def _lods(asset: Asset) -> int:
    """How many levels of an asset a proof may use, finest first."""
    *own, last = asset.lods
    card = bool(own) and last.slot_names == (SLOT,)
    return len(own) if card and own[-1].triangle_count < _WORTH_A_CARD else len(asset.lods)


def _levels(
    scene: Scene,
    station: StationPlan,
    aspect: float,
    instances: Instances,
    heights: np.ndarray,
    lods: list[int],
    detail: Detail,
) -> np.ndarray:
    """(N,) level of detail of each instance, −1 for those that neither show nor throw shadow into view."""
    eye = np.asarray(station.position)
    tall = heights[instances.asset] * instances.scale
    distance = np.linalg.norm(instances.position - eye, axis=1)
    relative = distance / np.maximum(tall, 0.05) / detail.lod_scale
    level = np.searchsorted(LOD_REACH, relative)
    seen = in_view(station, aspect, instances.position, 1.0) | in_view(
        station, aspect, instances.position, 0.5 + 1.2 * float(tall.max(initial=0))
    )
    shades = (tall > 1.0) & (distance < SHADOW_REACH)
    # What only throws shadow into view may be coarser.
    level = np.minimum(np.where(seen, level, level + 1), np.array(lods)[instances.asset] - 1)
    return np.where(seen | shades, level, -1)


def add_drifts(out: Tables, shot: Shot) -> None:
    """Every visible drift, each plant as fine as its distance asks for."""
    scene = shot.scene
    wind = wind_of(scene.site.weather)
    numbers: dict[tuple[str, ...], int] = {}
    for key, plan in sorted(scene.site.drifts.items()):
        if not plan.visible or not plan.assets:
            continue
        instances = saved(scene, key, plan)
        assets = [scene.kit.asset(share.asset) for share in plan.assets]
        heights = np.array([float(np.ptp(a.lods[0].positions, axis=0).max()) for a in assets])
        level = _levels(
            scene, shot.station, shot.aspect, instances, heights, [_lods(asset) for asset in assets], shot.detail
        )
        for number, asset in enumerate(assets):
            for lod, mesh in enumerate(asset.lods):
                chosen = np.flatnonzero((instances.asset == number) & (level == lod))
                if len(chosen):
                    surfaces = _surfaces(out, scene, plan, key, asset, mesh, numbers)
                    taken = instances.taken(chosen)
                    roofed = under_roofs(scene, mesh, taken)
                    part = placed(mesh, surfaces, taken, wind, roofed)
                    out.parts.append(replace(part, seams=_seams(scene, key, mesh, taken)))
                    add_caps(out, shot, plan, mesh, _solid(scene, asset, mesh), taken, part, roofed)


def _solid(scene: Scene, asset: Asset, mesh: Mesh) -> np.ndarray:
    """(slots,) bool: wood and stone, which snow lies on as a body; leaves are whitened."""
    materials = [scene.material(scene.seasonal(asset.materials.get(slot, "concrete"))) for slot in mesh.slot_names]
    return np.array([m.alpha is None and m.translucency <= 0 for m in materials], bool)


def _seams(scene: Scene, drift: str, mesh: Mesh, instances: Instances) -> np.ndarray | None:
    """(N · V, 4) how far the patinas of a drift lie on its vertices; None where it carries none."""
    out = None
    for number, slot in enumerate(mesh.slot_names):
        for plane, carries in enumerate(carried(scene, drift, slot)):
            if out is None:
                out = np.zeros((len(instances) * len(mesh.positions), 4), np.float32)
            lies = covers_on(scene, carries, mesh, number, instances)
            out[:, plane] = np.maximum(out[:, plane], lies.reshape(-1))
    return out


def _surfaces(
    out: Tables,
    scene: Scene,
    plan: DriftPlan,
    drift: str,
    asset: Asset,
    mesh: Mesh,
    numbers: dict[tuple[str, ...], int],
) -> np.ndarray:
    """(slots,) the numbers of a mesh's surfaces; one a material, whatever plants it grows on and nothing lies on."""
    found = []
    for slot in mesh.slot_names:
        name = scene.seasonal(asset.materials.get(slot, "concrete"))
        plain = slot == _BLADE and mesh.colour is not None
        laid = carried(scene, drift, slot)
        answers = tables.answering(scene.answer(plan, parted(name)[0]))
        known = (name, str(mesh.own_uv), str(plain), str(answers), *(f"{drift} {key}" for key, _, _ in laid))
        if known not in numbers:
            numbers[known] = _add_surface(out, scene, name, mesh.own_uv, plain, laid, answers)
        found.append(numbers[known])
    return np.array(found)


def _add_surface(
    out: Tables, scene: Scene, name: str, own_uv: bool, plain: bool, laid: list[Carried], answers: int
) -> int:
    material = scene.material(name)
    thin, cut = material.translucency > 0, material.alpha is not None
    picture = out.picture("white", WHITE) if plain else out.picture(name, material)
    first = len(out.layers)
    for number, (_, plan, _) in enumerate(laid):
        tile = tile_on(plan, scene.material(plan.finish.material).tile, material.tile, own_uv)
        out.layers.append(finish_layer(out, scene, plan, number, tile))
    covers = out.cover(ramps()) if laid else {}
    # Leaves that shed let some of the snow slip; what takes none lets all of it.
    sheds = 0 if answers >> tables.SHEDS_AT else tables.shedding(sheds_of(parted(name)[0]))
    return out.surface(
        **picture, **covers, flags=(tables.THIN if thin else 0) | (tables.CUT_OUT if cut else 0) | answers | sheds,
        tile=1.0 if own_uv or material.tile <= 0 else material.tile, layers=layer_run(first, len(laid)),
        roughness=0.0, least_roughness=max(float(material.roughness.mean() / 255), 0.3 if thin else 0.1),
        translucency=material.translucency, relief=0.0 if thin else 1.0, depth=material.depth,
    )  # fmt: skip


def leaf_surface(out: Tables, scene: Scene, material_id: str) -> int:
    """Put the surface of a leaf by itself in, which answers to the weather as its material does; its number."""
    answer = tables.answering(scene.answer(Response(), parted(material_id)[0]))
    return _add_surface(out, scene, material_id, True, False, [], answer)


def placed(
    mesh: Mesh, surfaces: np.ndarray, instances: Instances, wind: Wind, roofed: np.ndarray | None = None
) -> Triangles:
    """Triangles of all instances of a mesh.

    Parameters
    ----------
    surfaces : (slots,) the surface of each of the mesh's slots
    roofed : (N,) bool, which stand under a roof; None: none of them
    """
    count, size = len(instances), len(mesh.positions)
    colour = np.ones((size, 3), np.float32) if mesh.colour is None else np.ascontiguousarray(mesh.colour[:, :3])
    still = mesh.sway is None or wind.still
    sway = np.zeros((size, 4)) if mesh.sway is None else mesh.sway.astype(np.float64)
    tall = (float(mesh.bounds()[1][1]) * instances.scale).astype(np.float64)
    positions, vertices = np.empty((count * size, 3), np.float32), np.empty((count * size, 4), np.uint32)
    _place(
        mesh.positions, mesh.normals, as_words(mesh.uv), colour, sway, still,
        instances.position, instances.rotation, instances.scale, instances.tint, instances.mirrored,
        *rhythm(wind, instances.position, tall), wind.time, wind.load, wind.toward,
        np.zeros(count, bool) if roofed is None else roofed, positions, vertices,
    )  # fmt: skip
    faces = np.empty((count, len(mesh.faces), 4), np.uint32)
    faces[..., :3] = mesh.faces[None] + (np.arange(count) * size)[:, None, None]
    # A mirror turns faces inside out; the other order of their corners turns them back.
    faces[instances.mirrored, :, :3] = faces[instances.mirrored, :, 2::-1]
    faces[..., 3] = surfaces[mesh.slots]
    return Triangles(positions, vertices, faces.reshape(-1, 4))


@parallel_kernel
def _place(
    positions: np.ndarray, normals: np.ndarray, uv_words: np.ndarray, colour: np.ndarray, sway: np.ndarray, still: bool,
    at: np.ndarray, rotation: np.ndarray, scale: np.ndarray, tint: np.ndarray, mirrored: np.ndarray,
    force: np.ndarray, own: np.ndarray, rate: np.ndarray, tall: np.ndarray, time: float, load: float, toward: np.ndarray,
    roofed: np.ndarray, out: np.ndarray, out_vertices: np.ndarray,
) -> None:  # fmt: skip
    size = len(positions)
    for n in prange(len(at)):
        x, y, z, w = rotation[n, 0], rotation[n, 1], rotation[n, 2], rotation[n, 3]
        flip = np.float32(-1.0) if mirrored[n] else np.float32(1.0)
        a0, a1, a2 = (1 - 2 * (y * y + z * z)) * flip, 2 * (x * y - z * w), 2 * (x * z + y * w)
        b0, b1, b2 = 2 * (x * y + z * w) * flip, 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)
        c0, c1, c2 = 2 * (x * z - y * w) * flip, 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)
        for v in range(size):
            k = n * size + v
            px, py, pz = positions[v, 0] * scale[n], positions[v, 1] * scale[n], positions[v, 2] * scale[n]
            dx, dy, dz = 0.0, 0.0, 0.0
            if not still:
                dx, dy, dz = bent(
                    force[n],
                    own[n],
                    rate[n],
                    tall[n],
                    time,
                    load,
                    toward,
                    sway[v, 0],
                    sway[v, 1],
                    sway[v, 2],
                    sway[v, 3],
                )
            out[k, 0] = a0 * px + a1 * py + a2 * pz + at[n, 0] + dx
            out[k, 1] = b0 * px + b1 * py + b2 * pz + at[n, 1] + dy
            out[k, 2] = c0 * px + c1 * py + c2 * pz + at[n, 2] + dz
            nx, ny, nz = normals[v, 0], normals[v, 1], normals[v, 2]
            out_vertices[k, 0], out_vertices[k, 1] = uv_words[v, 0], uv_words[v, 1]
            out_vertices[k, 2] = pack_normal(
                a0 * nx + a1 * ny + a2 * nz, b0 * nx + b1 * ny + b2 * nz, c0 * nx + c1 * ny + c2 * nz
            )
            out_vertices[k, 3] = pack_colour(
                colour[v, 0] * tint[n, 0], colour[v, 1] * tint[n, 1], colour[v, 2] * tint[n, 2]
            ) | (int(roofed[n]) << ROOFED_AT)
