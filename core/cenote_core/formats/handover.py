"""Handing a site over: GLB with instancing and baked maps, and a table of every instance."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from itertools import product
from pathlib import Path
from typing import Any

import numpy as np
import pygltflib as gl
from PIL import Image

from ..base.names import GROUND
from ..decals.project import decal_mesh, stacked
from ..drifts.instancing import saved
from ..drifts.wind import leaned, wind_of
from ..drifts.worn_colours import carries_any, worn_colours
from ..materials.material import Material
from ..materials.tile import linear_colour
from ..mesh.mesh import Mesh
from ..patinas.bake import bake_maps
from ..pools.surface import MATERIAL as WATER
from ..pools.surface import water_surface
from ..scene.scene import Scene
from ..snow.cover import MATERIAL as SNOW
from ..snow.cover import snow_cover

Report = Callable[[str, float], None]
MAP_LIMIT = 4096
TEXEL = 0.012
"""Wanted size of a texel of baked maps, metres."""
_WATER_SEEN, _WATER_ROUGH = 0.35, 0.04
"""Opacity and roughness of water, for renderers that know neither its depth nor its film."""
_ARRAY, _ELEMENT = 34962, 34963
_FLOAT, _UINT, _USHORT = 5126, 5125, 5123


class _Writer:
    """Collects buffers, accessors, pictures and materials of one GLB."""

    def __init__(self) -> None:
        self.document = gl.GLTF2(asset=gl.Asset(version="2.0", generator="Cenote"))
        self.document.scene = 0
        self.document.scenes = [gl.Scene(nodes=[])]
        self.document.samplers = [gl.Sampler(magFilter=9729, minFilter=9987, wrapS=10497, wrapT=10497)]
        self.blob = bytearray()
        self._materials: dict[str, int] = {}

    def view(self, data: bytes, target: int | None = None) -> int:
        self.blob += b"\0" * (-len(self.blob) % 4)
        self.document.bufferViews.append(
            gl.BufferView(buffer=0, byteOffset=len(self.blob), byteLength=len(data), target=target)
        )
        self.blob += data
        return len(self.document.bufferViews) - 1

    def accessor(self, array: np.ndarray, kind: str, target: int | None = _ARRAY, bounds: bool = False) -> int:
        component = {"f": _FLOAT, "u": _UINT}[array.dtype.kind]
        data = np.ascontiguousarray(array, np.float32 if component == _FLOAT else np.uint32)
        limits = (
            {"min": np.atleast_1d(data.min(axis=0)).tolist(), "max": np.atleast_1d(data.max(axis=0)).tolist()}
            if bounds
            else {}
        )
        self.document.accessors.append(
            gl.Accessor(
                bufferView=self.view(data.tobytes(), target),
                componentType=component,
                count=len(data),
                type=kind,
                **limits,
            )
        )
        return len(self.document.accessors) - 1

    def texture(self, pixels: np.ndarray, kind: str) -> gl.TextureInfo:
        out = io.BytesIO()
        Image.fromarray(pixels).save(out, kind, quality=92)
        mime = "image/jpeg" if kind == "JPEG" else "image/png"
        self.document.images.append(gl.Image(bufferView=self.view(out.getvalue()), mimeType=mime))
        self.document.textures.append(gl.Texture(source=len(self.document.images) - 1, sampler=0))
        return gl.TextureInfo(index=len(self.document.textures) - 1)

    def material(self, key: str, make: Callable[[], gl.Material]) -> int:
        if key not in self._materials:
            self.document.materials.append(make())
            self._materials[key] = len(self.document.materials) - 1
        return self._materials[key]

    def mesh(self, name: str, primitives: list[gl.Primitive]) -> int:
        self.document.meshes.append(gl.Mesh(name=name, primitives=primitives))
        return len(self.document.meshes) - 1

    def node(self, node: gl.Node) -> None:
        self.document.nodes.append(node)
        self.document.scenes[0].nodes.append(len(self.document.nodes) - 1)

    def save(self, path: Path) -> None:
        self.document.buffers = [gl.Buffer(byteLength=len(self.blob))]
        self.document.set_binary_blob(bytes(self.blob))
        self.document.save_binary(str(path))


def _primitive(
    out: _Writer, mesh: Mesh, faces: np.ndarray, uv: np.ndarray, material: int, colour: np.ndarray | None = None
) -> gl.Primitive:
    used, local = np.unique(faces.ravel(), return_inverse=True)
    normals = mesh.normals[used].astype(np.float64)
    length = np.linalg.norm(normals, axis=1, keepdims=True)
    normals = np.where(length > 1e-6, normals / np.maximum(length, 1e-6), [0.0, 1.0, 0.0])
    # glTF counts v from the top of a picture.
    coords = np.column_stack([uv[used, 0], 1.0 - uv[used, 1]])
    attributes = gl.Attributes(
        POSITION=out.accessor(mesh.positions[used], "VEC3", bounds=True),
        NORMAL=out.accessor(normals, "VEC3"),
        TEXCOORD_0=out.accessor(coords, "VEC2"),
    )
    if colour is not None:
        attributes.COLOR_0 = out.accessor(np.clip(colour[used], 0, 1), "VEC4")
    indices = out.accessor(local.astype(np.uint32), "SCALAR", _ELEMENT)
    return gl.Primitive(attributes=attributes, indices=indices, material=material)


def _owner(out: _Writer, scene: Scene, owner: str, name: str) -> None:
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
    primitive = _primitive(out, mesh, mesh.faces, mesh.uv2, out.material(f"owner {owner}", make))
    out.node(gl.Node(name=name, mesh=out.mesh(name, [primitive])))


def _plain_material(out: _Writer, name: str, source: Material, blend: bool) -> gl.Material:
    colour = source.colour if source.alpha is None else np.dstack([source.colour, source.alpha])
    orm = np.dstack(
        [
            np.full_like(source.roughness, 255),
            source.roughness,
            np.full_like(source.roughness, int(source.metalness * 255)),
        ]
    )
    normal = out.texture(source.normal, "PNG")
    mode = "OPAQUE" if source.alpha is None else ("BLEND" if blend else "MASK")
    return gl.Material(
        name=name,
        doubleSided=True,
        alphaMode=mode,
        alphaCutoff=0.4 if mode == "MASK" else None,
        pbrMetallicRoughness=gl.PbrMetallicRoughness(
            baseColorTexture=out.texture(colour, "JPEG" if source.alpha is None else "PNG"),
            metallicRoughnessTexture=out.texture(orm, "JPEG"),
        ),
        normalTexture=gl.NormalMaterialTexture(index=normal.index),
    )


def _asset_mesh(
    out: _Writer, scene: Scene, drift: str, asset_id: str, mirrored: bool, meshes: dict[tuple[str, str, bool], int]
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
            number = out.material(f"kit {material_id}", partial(_plain_material, out, material_id, source, False))
            uv = mesh.uv / source.tile if source.tile > 0 and not mesh.own_uv else mesh.uv
            primitives.append(_primitive(out, mesh, faces, uv, number, _opaque(mesh.colour)))
        meshes[known] = out.mesh(f"{asset.title}, mirrored" if mirrored else asset.title, primitives)
    return meshes[known]


def _opaque(colour: np.ndarray | None) -> np.ndarray | None:
    """Vertex colours without their fourth value, which is for the wind."""
    return None if colour is None else np.column_stack([colour[:, :3], np.ones(len(colour))])


def _drifts(out: _Writer, scene: Scene, rows: list[list[Any]]) -> int:
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
        out.document.extensionsUsed = ["EXT_mesh_gpu_instancing"]
        out.document.extensionsRequired = ["EXT_mesh_gpu_instancing"]
    return count


def _decals(out: _Writer, scene: Scene) -> None:
    for _, plan in stacked(scene):
        mesh = decal_mesh(scene, plan)
        if mesh is None or mesh.colour is None:
            continue
        source = scene.material(plan.picture)
        tint = linear_colour(plan.tint)
        colour = mesh.colour * np.append(tint, 1.0)
        number = out.material(f"decal {plan.picture}", partial(_plain_material, out, plan.picture, source, True))
        out.node(
            gl.Node(
                name=plan.name, mesh=out.mesh(plan.name, [_primitive(out, mesh, mesh.faces, mesh.uv, number, colour)])
            )
        )


def _fallen(out: _Writer, scene: Scene) -> None:
    """Snow and standing water: what lies on each owner is a mesh of its own, so that it can be left out."""
    for owner in scene.owners():
        cover, pool = snow_cover(scene, owner), water_surface(scene, owner)
        found = [("snow", SNOW, cover.mesh)] if cover else []
        found += [("water", WATER, pool)] if pool is not None else []
        for what, material_id, mesh in found:
            source = scene.material(material_id)
            make = partial(_water_material if what == "water" else _snow_material, out, source)
            number = out.material(f"fallen {what}", make)
            name = f"{what} on {GROUND if owner == GROUND else scene.piece(owner).name}"
            primitive = _primitive(out, mesh, mesh.faces, mesh.uv / source.tile, number)
            out.node(gl.Node(name=name, mesh=out.mesh(name, [primitive])))


def _snow_material(out: _Writer, source: Material) -> gl.Material:
    return _plain_material(out, "snow", source, False)


def _water_material(out: _Writer, source: Material) -> gl.Material:
    """Clear water: hardly any colour of its own, smooth, with its ripples."""
    normal = out.texture(source.normal, "PNG")
    return gl.Material(
        name="water",
        doubleSided=True,
        alphaMode="BLEND",
        pbrMetallicRoughness=gl.PbrMetallicRoughness(
            baseColorFactor=[0.02, 0.025, 0.025, _WATER_SEEN], metallicFactor=0.0, roughnessFactor=_WATER_ROUGH
        ),
        normalTexture=gl.NormalMaterialTexture(index=normal.index),
    )


def hand_over(scene: Scene, name: str, folder: Path, report: Report) -> dict[str, Any]:
    """Write `site.glb` and `instances.csv` into a folder.

    Ground and pieces carry one baked texture set each, laid by their unwrap; drifts are nodes with
    EXT_mesh_gpu_instancing; decals are meshes of their own with alpha, and so are snow and standing water.
    """
    out = _Writer()
    owners = scene.owners()
    for k, owner in enumerate(owners):
        report(f"surfaces of {owner}", 0.7 * k / len(owners))
        _owner(out, scene, owner, GROUND if owner == GROUND else scene.site.pieces[owner].name)
    report("drifts", 0.72)
    rows: list[list[Any]] = []
    count = _drifts(out, scene, rows)
    _decals(out, scene)
    report("what has fallen", 0.85)
    _fallen(out, scene)
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
