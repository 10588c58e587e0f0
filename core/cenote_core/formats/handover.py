"""Handing a site over: GLB with instancing and baked maps, and a table of every instance."""

from __future__ import annotations

import csv
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from itertools import product
from pathlib import Path
from typing import Any

import numpy as np
import pygltflib as gl

from ..base.names import GROUND
from ..decals.project import decal_mesh, stacked
from ..drifts.instancing import saved
from ..drifts.wind import leaned, wind_of
from ..drifts.worn_colours import carries_any, worn_colours
from ..materials.tile import linear_colour
from ..patinas.bake import bake_maps
from ..scene.scene import Scene
from .fallen import add_beads, add_fallen, add_floating, add_hanging, add_waters
from .glb import Writer, plain_material, primitive

Report = Callable[[str, float], None]
MAP_LIMIT = 4096
TEXEL = 0.012
"""Wanted size of a texel of baked maps, metres."""


def _owner(out: Writer, scene: Scene, owner: str, name: str) -> None:
    maps = bake_maps(scene, owner, max(64, scene.resolution(owner, MAP_LIMIT, TEXEL)))
    mesh = scene.mesh(owner)
    orm = np.dstack([np.full_like(maps.roughness, 255), maps.roughness, maps.metalness])

    def make() -> gl.Material:
        # Pictures are stored with their top row first.
        normal = out.texture(np.ascontiguousarray(maps.normal[::-1]), "PNG")
        return gl.Material(
            name=name,
            pbrMetallicRoughness=gl.PbrMetallicRoughness(
                baseColorTexture=out.texture(np.ascontiguousarray(maps.colour[::-1]), "JPEG"),
                metallicRoughnessTexture=out.texture(np.ascontiguousarray(orm[::-1]), "JPEG"),
            ),
            normalTexture=gl.NormalMaterialTexture(index=normal.index),
        )

    assert mesh.uv2 is not None
    part = primitive(out, mesh, mesh.faces, mesh.uv2, out.material(f"owner {owner}", make))
    out.node(gl.Node(name=name, mesh=out.mesh(name, [part])))


def _asset_mesh(
    out: Writer, scene: Scene, drift: str, asset_id: str, mirrored: bool, meshes: dict[tuple[str, str, bool], int]
) -> int:
    """An asset's mesh; mirrored it is a mesh of its own, since readers differ about instances with a negative size.

    One that carries patinas in a drift is a mesh of its own too, with them in the colours of its vertices.
    """
    worn = carries_any(scene, drift, asset_id)
    known = (drift if worn else "", asset_id, mirrored)
    if known not in meshes:
        asset = scene.kit.asset(asset_id)
        mesh = asset.lods[0]
        if worn:
            mesh = replace(mesh, colour=worn_colours(scene, drift, scene.site.drifts[drift], asset_id, 0))
        mesh = mesh.mirrored() if mirrored else mesh
        primitives = []
        for slot, slot_name in enumerate(mesh.slot_names):
            faces = mesh.faces[mesh.slots == slot]
            if len(faces) == 0:
                continue
            material_id = scene.seasonal(asset.materials.get(slot_name, "concrete"))
            source = scene.material(material_id)
            number = out.material(f"kit {material_id}", partial(plain_material, out, material_id, source, False))
            uv = mesh.uv / source.tile if source.tile > 0 and not mesh.own_uv else mesh.uv
            primitives.append(primitive(out, mesh, faces, uv, number, _opaque(mesh.colour)))
        meshes[known] = out.mesh(f"{asset.title}, mirrored" if mirrored else asset.title, primitives)
    return meshes[known]


def _opaque(colour: np.ndarray | None) -> np.ndarray | None:
    """Vertex colours without their fourth value, which is for the wind."""
    return None if colour is None else np.column_stack([colour[:, :3], np.ones(len(colour))])


def _drifts(out: Writer, scene: Scene, rows: list[list[Any]]) -> int:
    meshes: dict[tuple[str, str, bool], int] = {}
    wind = wind_of(scene.site.weather)
    count = 0
    for key, plan in sorted(scene.site.drifts.items()):
        if not plan.visible or not plan.assets:
            continue
        found = saved(scene, key, plan)
        count += len(found)
        for (number, share), mirrored in product(enumerate(plan.assets), (False, True)):
            chosen = np.flatnonzero((found.asset == number) & (found.mirrored == mirrored))
            if len(chosen) == 0:
                continue
            # Instances cannot bend, so the held moment of the wind leans whole plants.
            rotation = leaned(wind, found.position[chosen], found.rotation[chosen]).astype(np.float64)
            rotation /= np.linalg.norm(rotation, axis=1, keepdims=True)
            instancing = {
                "TRANSLATION": out.accessor(found.position[chosen], "VEC3", None),
                "ROTATION": out.accessor(rotation, "VEC4", None),
                "SCALE": out.accessor(np.repeat(found.scale[chosen, None], 3, axis=1), "VEC3", None),
                "_TINT": out.accessor(found.tint[chosen], "VEC3", None),
            }
            out.node(
                gl.Node(
                    name=f"{plan.name}: {share.asset}",
                    mesh=_asset_mesh(out, scene, key, share.asset, mirrored, meshes),
                    extensions={"EXT_mesh_gpu_instancing": {"attributes": instancing}},
                )
            )
            for n in chosen:
                rows.append(
                    [
                        plan.name,
                        share.asset,
                        f"{found.identity[n]:016x}",
                        *found.position[n].round(4).tolist(),
                        *found.rotation[n].round(6).tolist(),
                        round(float(found.scale[n]), 4),
                        *found.tint[n].round(4).tolist(),
                        int(mirrored),
                    ]
                )
    if count:
        out.uses("EXT_mesh_gpu_instancing", required=True)
    return count


def _decals(out: Writer, scene: Scene) -> None:
    for _, plan in stacked(scene):
        mesh = decal_mesh(scene, plan)
        if mesh is None or mesh.colour is None:
            continue
        source = scene.material(plan.picture)
        tint = linear_colour(plan.tint)
        colour = mesh.colour * np.append(tint, 1.0)
        number = out.material(f"decal {plan.picture}", partial(plain_material, out, plan.picture, source, True))
        out.node(
            gl.Node(
                name=plan.name, mesh=out.mesh(plan.name, [primitive(out, mesh, mesh.faces, mesh.uv, number, colour)])
            )
        )


def hand_over(scene: Scene, name: str, folder: Path, report: Report) -> dict[str, Any]:
    """Write `site.glb` and `instances.csv` into a folder.

    Ground and pieces carry one baked texture set each, laid by their unwrap; drifts are nodes with
    EXT_mesh_gpu_instancing; decals are meshes of their own with alpha, and so are snow and standing water.
    """
    out = Writer()
    owners = scene.owners()
    for k, owner in enumerate(owners):
        report(f"surfaces of {owner}", 0.7 * k / len(owners))
        _owner(out, scene, owner, GROUND if owner == GROUND else scene.site.pieces[owner].name)
    report("drifts", 0.72)
    rows: list[list[Any]] = []
    count = _drifts(out, scene, rows)
    _decals(out, scene)
    report("what has fallen", 0.85)
    add_fallen(out, scene)
    add_hanging(out, scene)
    add_beads(out, scene)
    add_waters(out, scene)
    add_floating(out, scene)
    report("writing files", 0.92)
    out.save(folder / "site.glb")
    with (folder / "instances.csv").open("w", newline="") as file:
        writer = csv.writer(file)
        writer.writerow(
            ["drift", "asset", "identity", "x", "y", "z", "qx", "qy", "qz", "qw", "scale"]
            + ["tint_r", "tint_g", "tint_b", "mirrored"]
        )
        writer.writerows(rows)
    files = {n: (folder / n).stat().st_size for n in ("site.glb", "instances.csv")}
    return {"files": files, "instances": count, "pieces": len(owners) - 1, "name": name}
