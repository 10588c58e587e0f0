"""Ground and pieces in the path tracer's tables, with their patinas and the weather on them."""

from __future__ import annotations

import numpy as np

from ..materials.catalogue import is_window
from ..mesh.mesh import Mesh, part
from ..patinas.cover import cover, saved_covers, stack
from ..patinas.heights import layer_tile
from ..patinas.pages import Page, page_cover, page_covers
from ..plan import GROUND, PatinaPlan
from ..pools.wetness import damp_map
from ..scene.scene import Scene, Surface
from ..tracer import tables
from ..tracer.tables import layer_run
from ..weather.exposure import WHOLE, exposure_map, reached, resampled, wetted
from .beads import too_far
from .pages import near_page
from .surface_bodies import add_standing
from .tables import SMOOTHEST, Shot, Tables, finish_layer


def add_owners(out: Tables, shot: Shot, owners: list[str]) -> None:
    """The ground or pieces, each with the mesh it is drawn by, and the patinas on them."""
    for owner in owners:
        mesh = shot.meshes[owner]
        page = near_page(shot.scene, owner, shot.station, shot.detail.relief_reach, shot.detail.page_side)
        if page is None:
            _add(out, shot, owner, mesh, None)
            continue
        assert mesh.uv2 is not None
        on = np.ones(len(mesh.faces), bool) if page.whole else page.holds(mesh.uv2)[mesh.faces].all(axis=1)
        for faces, part_page in ((on, page), (~on, None)):
            if faces.any():
                _add(out, shot, owner, part(mesh, faces), part_page)
    add_standing(out, shot, owners)


def _add(out: Tables, shot: Shot, owner: str, mesh: Mesh, page: Page | None) -> None:
    """A mesh of an owner, of which all lies on one page or none."""
    scene, films = shot.scene, too_far(shot, owner)
    maps = _maps(scene, owner, page, films)
    covers = out.cover(maps) if len(maps) else {}
    numbers = np.zeros(len(mesh.slot_names), np.int64)
    for surface in scene.surfaces():
        if surface.owner == owner and not surface.layer:
            numbers[surface.index] = _add_surface(out, scene, surface, [*stack(scene, owner), *films], covers)
    assert mesh.uv2 is not None
    own = mesh.uv if mesh.base_uv is None else mesh.base_uv
    at = page.local(mesh.uv2) if page else mesh.uv2
    out.mesh(mesh, numbers[mesh.slots], np.concatenate([at, own], axis=1))


def _maps(scene: Scene, owner: str, page: Page | None, films: list[tuple[str, PatinaPlan]]) -> np.ndarray:
    """(P, R, R): how far an owner lies open to the sky, if anything falls from it, how damp it is and what mud lies on it, if
    it is wet, the covers of its patinas, and those of `films` over them."""
    covers = page_covers(scene, owner, page) if page else saved_covers(scene, owner)
    if films:
        over = [_film_cover(scene, owner, page, key, film, covers.shape[1])[None] for key, film in films]
        covers = np.concatenate([covers, *over])
    if not reached(scene):
        return covers
    window = (page.low, page.high) if page else WHOLE
    falls = [exposure_map(scene, owner, covers.shape[1], window)[None]]
    damp = damp_map(scene, owner)
    if damp is not None:
        falls += [resampled(plane, covers.shape[1], window)[None] for plane in np.moveaxis(damp, -1, 0)]
    return np.concatenate([*falls, covers])


def _film_cover(
    scene: Scene, owner: str, page: Page | None, key: str, film: PatinaPlan, side: int
) -> np.ndarray:  # fmt: skip
    """(R, R) cover of what lies over an owner without being among its patinas."""
    if page:
        return page_cover(scene, key, film, owner, page)
    return scene.table(owner, side).spread(cover(scene, key, film, owner, side))


def _add_surface(
    out: Tables, scene: Scene, surface: Surface, patinas: list[tuple[str, PatinaPlan]], covers: dict[str, float]
) -> int:
    name = scene.seasonal(surface.material)
    material = scene.material(name)
    tiles = material.tile > 0
    thin, cut = material.translucency > 0, material.alpha is not None
    first = len(out.layers)
    for number, (_, plan) in enumerate(patinas, start=int(reached(scene)) + 2 * int(wetted(scene))):
        # The ground's surfaces are named one by one, but lie on one slot.
        if surface.owner == GROUND or any(use.surface == surface.ref for use in plan.uses):
            tile = layer_tile(plan, scene.material(plan.finish.material).tile)
            out.layers.append(finish_layer(out, scene, plan, number, tile))
    flags = (tables.MACRO_DRIFT if tiles else tables.OWN_BASE) | (tables.SIDES if surface.owner == GROUND else 0)
    flags |= tables.PANE if is_window(surface.material) else 0
    flags |= tables.POOLED if wetted(scene) else 0
    flags |= (tables.CUT_OUT if cut else 0) | (tables.THIN if thin else 0)
    answer = scene.answer(scene.response(surface.owner), surface.material)
    flags |= (tables.OPEN if reached(scene) else 0) | tables.answering(answer)
    return out.surface(
        **out.picture(name, material), **covers,
        flags=flags, tile=material.tile if tiles else 1.0, metalness=material.told_metal,
        least_roughness=SMOOTHEST, layers=layer_run(first, len(out.layers) - first), depth=material.depth, relief=1.0,
        translucency=material.translucency,
    )  # fmt: skip
