"""Drifts handed over: instances of assets, and what floats of them on pools."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from functools import partial
from itertools import product

import numpy as np

from ..drifts.floating import floating
from ..drifts.headroom import under_roofs
from ..drifts.instances import Instances
from ..drifts.instancing import saved
from ..drifts.wind import leaned, wind_of
from ..drifts.worn_colours import carries_any, worn_colours
from ..plan import DriftPlan
from ..scene.scene import Scene
from ..weather.exposure import reached
from .listing import Body, Delivery, Part, Rows, Scatter
from .owners import title_of
from .pictures import plain
from .slots import by_slots


def add_drifts(to: Delivery, scene: Scene) -> None:
    """Every visible drift; what stands under roofs apart from what the weather reaches."""
    to.told("drifts")
    for key, plan in sorted(scene.site.drifts.items()):
        if not plan.visible or not plan.assets:
            continue
        found = saved(scene, key, plan)
        for (number, share), mirrored in product(enumerate(plan.assets), (False, True)):
            chosen = np.flatnonzero((found.asset == number) & (found.mirrored == mirrored))
            if len(chosen) == 0:
                continue
            some = found.taken(chosen)
            to.rows.append(_rows(plan.name, share.asset, some))
            for reached_there, part in _by_roofs(scene, share.asset, some):
                shape = _shape(to, scene, key, plan, share.asset, mirrored, reached_there)
                to.scattered.append(_scatter(scene, f"{plan.name}: {share.asset}", shape, part))


def _by_roofs(scene: Scene, asset: str, some: Instances) -> Iterator[tuple[bool, Instances]]:
    """Those the weather reaches, and those it does not, as far as there are any."""
    roofed = under_roofs(scene, scene.kit.asset(asset).lods[0], some) if reached(scene) else None
    if roofed is None:
        yield reached(scene), some
        return
    for under in (False, True):
        if (roofed == under).any():
            yield not under, some.taken(np.flatnonzero(roofed == under))


def _scatter(scene: Scene, name: str, shape: str, some: Instances) -> Scatter:
    # Instances cannot bend, so the held moment of the wind leans whole plants.
    turn = leaned(wind_of(scene.site.weather), some.position, some.rotation).astype(np.float64)
    turn /= np.linalg.norm(turn, axis=1, keepdims=True)
    return Scatter(name, shape, some.position, turn, some.scale, some.tint)


def _rows(drift: str, asset: str, some: Instances) -> Rows:
    return Rows(drift, asset, some.identity, some.position, some.rotation, some.scale, some.tint, some.mirrored)


def _shape(to: Delivery, scene: Scene, drift: str, plan: DriftPlan, asset_id: str, mirrored: bool, wet: bool) -> str:
    """An asset's shape; mirrored it is a shape of its own, since readers differ about instances with a negative size.

    One that carries patinas in a drift is a shape of its own too, with them in the colours of its vertices, and so is one
    that answers to the weather in a way of its own.
    """
    worn = carries_any(scene, drift, asset_id)
    answer = (plan.soaks, plan.takes_snow, plan.takes_frost) if wet else None

    def make() -> Body:
        asset = scene.kit.asset(asset_id)
        mesh = asset.lods[0]
        if worn:
            mesh = replace(mesh, colour=worn_colours(scene, drift, plan, asset_id, 0))
        mesh = mesh.mirrored() if mirrored else mesh
        materials = [scene.seasonal(asset.materials.get(name, "concrete")) for name in mesh.slot_names]
        title = f"{asset.title}, mirrored" if mirrored else asset.title
        return Body(title, by_slots(to, scene, mesh, materials, plan if wet else None))

    return to.shape(f"{drift if worn else ''} {asset_id} {mirrored} {answer}", make)


def add_floating(to: Delivery, scene: Scene) -> None:
    """Leaves that float on pools, in the materials of the litter they are of."""
    for owner in scene.owners():
        mesh = floating(scene, owner)
        if mesh is None or mesh.colour is None:
            continue
        parts = []
        colour = np.column_stack([mesh.colour[:, :3], np.ones(len(mesh.colour))])
        for slot, material_id in enumerate(mesh.slot_names):
            make = partial(plain, material_id, scene.material(material_id), False)
            material = to.material(f"kit {material_id}", make)
            parts.append(Part(mesh, mesh.faces[mesh.slots == slot], mesh.uv, material, colour))
        to.stand(f"leaves afloat on {title_of(scene, owner)}", parts)
