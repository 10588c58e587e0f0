"""Handing a site over: GLB with instancing and baked maps, and a table of every instance."""

from __future__ import annotations

import csv
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
import pygltflib as gl

from ..decals.project import decal_mesh, lifted, stacked
from ..decals.weathered import open_and_damp
from ..materials.tile import linear_colour
from ..mesh.mesh import Mesh
from ..plan import DecalPlan
from ..scene.scene import Scene
from ..weather.exposure import reached
from .fallen import add_beads, add_fallen, add_floating, add_hanging, add_waters
from .glb import Writer, plain_material, primitive
from .owners import add_owner, title_of
from .scattered import COLUMNS, add_drifts
from .views import add_stations, add_sun
from .weathered import LOOKS_UP, Look, weathered

Report = Callable[[str, float], None]
MAP_LIMIT = 2048
"""Most texels along a side of baked pictures, unless more are asked for."""


def _decals(out: Writer, scene: Scene) -> None:
    for order, (_, plan) in enumerate(stacked(scene)):
        mesh = decal_mesh(scene, plan)
        if mesh is None or mesh.colour is None:
            continue
        tint = linear_colour(plan.tint)
        colour = mesh.colour * np.append(tint, 1.0)
        number = _decal_material(out, scene, plan, mesh)
        # Pictures that lie on one another in one plane would flicker: each a little over the one beneath it.
        part = primitive(out, lifted(mesh, order), mesh.faces, mesh.uv, number, colour)
        out.node(gl.Node(name=plan.name, mesh=out.mesh(plan.name, [part])))


def _decal_material(out: Writer, scene: Scene, plan: DecalPlan, mesh: Mesh) -> int:
    """Its picture; in the weather, as that leaves it where it lies on the mean."""
    source = scene.material(plan.picture)
    if not reached(scene):
        return out.material(f"decal {plan.picture}", partial(plain_material, out, plan.picture, source, True))
    exposure, damp = open_and_damp(scene, mesh).mean(axis=0).round(2).tolist()
    look = Look(bool(mesh.normals[:, 1].mean() >= LOOKS_UP), damp, exposure)
    named = f"decal {plan.picture} {look} {plan.soaks} {plan.takes_snow} {plan.takes_frost}"
    return out.material(
        named, lambda: plain_material(out, plan.picture, weathered(scene, plan.picture, plan, look), True)
    )


def hand_over(scene: Scene, name: str, folder: Path, report: Report, most: int = MAP_LIMIT) -> dict[str, Any]:
    """Write `site.glb` and `instances.csv` into a folder.

    Ground and pieces carry one baked texture set each, laid by their unwrap; drifts are nodes with
    EXT_mesh_gpu_instancing; decals are meshes of their own with alpha, and so are snow and standing water; stations are
    cameras and the sun is a light.

    Parameters
    ----------
    most : most texels along a side of baked pictures
    """
    out = Writer()
    owners = scene.owners()
    for k, owner in enumerate(owners):
        title = title_of(scene, owner)
        report(f"surfaces of {title}", 0.7 * k / len(owners))
        add_owner(out, scene, owner, title, most)
    report("drifts", 0.72)
    scattered = add_drifts(out, scene)
    _decals(out, scene)
    report("what has fallen", 0.85)
    add_fallen(out, scene)
    add_hanging(out, scene)
    add_beads(out, scene)
    add_waters(out, scene)
    add_floating(out, scene)
    add_stations(out, scene)
    add_sun(out, scene)
    report("writing files", 0.92)
    out.save(folder / "site.glb")
    with (folder / "instances.csv").open("w", newline="") as file:
        writer = csv.writer(file)
        writer.writerow(COLUMNS)
        writer.writerows(scattered.rows)
    files = {n: (folder / n).stat().st_size for n in ("site.glb", "instances.csv")}
    return {"files": files, "instances": scattered.count, "pieces": len(owners) - 1, "name": name}
