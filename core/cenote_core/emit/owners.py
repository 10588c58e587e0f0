"""Ground and pieces in the path tracer's tables, with their patinas and the weather on them."""

from __future__ import annotations

import numpy as np

from ..materials.tile import linear_colour
from ..patinas.cover import owner_covers, stack
from ..patinas.heights import layer_tile
from ..plan import GROUND, PatinaPlan
from ..scene.scene import VIEW_LIMIT, Scene, Surface
from ..tracer import tables
from ..tracer.tables import LAYER, layer_run, packed_row
from ..weather.exposure import exposure_map
from .tables import SMOOTHEST, Shot, Tables


def add_owners(out: Tables, shot: Shot, owners: list[str]) -> None:
    """The ground or pieces, each with the mesh it is drawn by, and the patinas on them."""
    scene = shot.scene
    surfaces = [s for s in scene.surfaces() if not s.layer]
    for owner in owners:
        mesh = shot.meshes[owner]
        assert mesh.uv2 is not None
        patinas = stack(scene, owner)
        maps = _maps(scene, owner)
        covers = out.cover(maps) if len(maps) else {}
        numbers = np.zeros(len(mesh.slot_names), np.int64)
        for surface in surfaces:
            if surface.owner == owner:
                numbers[surface.index] = _add_surface(out, scene, surface, patinas, covers)
        own = mesh.uv if mesh.base_uv is None else mesh.base_uv
        out.mesh(mesh, numbers[mesh.slots], np.concatenate([mesh.uv2, own], axis=1))


def _maps(scene: Scene, owner: str) -> np.ndarray:
    """(P, R, R): how far an owner lies open to the sky, if the weather is wet, and the covers of its patinas."""
    covers = owner_covers(scene, owner, VIEW_LIMIT)
    if not _wet(scene):
        return covers
    return np.concatenate([exposure_map(scene, owner, covers.shape[1])[None], covers])


def _wet(scene: Scene) -> bool:
    return scene.site.weather.wetness > 0


def _add_surface(
    out: Tables, scene: Scene, surface: Surface, patinas: list[tuple[str, PatinaPlan]], covers: dict[str, float]
) -> int:
    material = scene.material(surface.material)
    tiles = material.tile > 0
    first = len(out.layers)
    for number, (_, plan) in enumerate(patinas, start=int(_wet(scene))):
        # The ground's surfaces are named one by one, but lie on one slot.
        if surface.owner == GROUND or any(use.surface == surface.ref for use in plan.uses):
            out.layers.append(_layer(out, scene, plan, number))
    flags = (tables.MACRO_DRIFT if tiles else tables.OWN_BASE) | (tables.SIDES if surface.owner == GROUND else 0)
    flags |= tables.OPEN if _wet(scene) else 0
    return out.surface(
        **out.picture(surface.material, material), **covers,
        flags=flags, tile=material.tile if tiles else 1.0, metalness=material.metalness,
        least_roughness=SMOOTHEST, layers=layer_run(first, len(out.layers) - first), depth=material.depth, relief=1.0,
    )  # fmt: skip


def _layer(out: Tables, scene: Scene, plan: PatinaPlan, number: int) -> np.ndarray:
    finish = plan.finish
    material = scene.material(finish.material)
    red, green, blue = (float(v) for v in linear_colour(finish.tint))
    values = {
        "tile": layer_tile(plan, material.tile), "variation_tile": 4.0 * finish.variation_size,
        "red": red, "green": green, "blue": blue, "variation": finish.variation,
        "roughness": finish.roughness, "relief": finish.relief, "break_up": finish.break_up, "stain": finish.stain,
        "number": number, "fill": finish.fill, "thickness": finish.thickness / 1000,
        "depth": material.depth * finish.relief,
    }  # fmt: skip
    return packed_row(LAYER, values | out.picture(finish.material, material))
