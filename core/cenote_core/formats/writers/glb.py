"""The list of a site as one GLB: glTF 2.0 with instancing, clear bodies and lights by its registered extensions."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pygltflib as gl

from ...delivery.listing import Body, Camera, Delivery, Finish, Light, Part, Scatter
from ...mesh.tangents import tangents
from .format import Format
from .glb_buffers import ELEMENTS, Document

INSTANCING = "EXT_mesh_gpu_instancing"
_LIGHTS = "KHR_lights_punctual"
_TRANSMISSION, _IOR, _VOLUME = "KHR_materials_transmission", "KHR_materials_ior", "KHR_materials_volume"
CUT_AT = 0.4
"""Alpha under which nothing of a cut-out is drawn."""
_MODES = {"opaque": "OPAQUE", "cut": "MASK", "blend": "BLEND"}
_NEAR, _FAR = 0.05, 2000.0
"""Metres between which cameras see."""


def write(delivery: Delivery, path: Path) -> None:
    """One scene; each body, each lot of instances, each camera and each light is a node of it."""
    out = Document()
    materials = {key: out.add("materials", _material(out, finish)) for key, finish in delivery.materials.items()}
    for body in delivery.bodies:
        out.node(gl.Node(name=body.name, mesh=_mesh(out, body, materials)))
    shapes = {key: _mesh(out, body, materials) for key, body in delivery.shapes.items()}
    for some in delivery.scattered:
        out.uses(INSTANCING, required=True)
        out.node(_instances(out, some, shapes[some.shape]))
    for camera in delivery.cameras:
        out.node(_camera(out, camera))
    if delivery.lights:
        out.uses(_LIGHTS)
        out.extension(_LIGHTS, {"lights": [_light(light) for light in delivery.lights]})
        for number, light in enumerate(delivery.lights):
            out.node(_lit(light, number))
    out.save(path)


def _material(out: Document, finish: Finish) -> gl.Material:
    extensions: dict[str, Any] = {}
    if finish.transmits:
        extensions[_TRANSMISSION] = {"transmissionFactor": finish.transmits}
    if finish.bends is not None:
        extensions[_IOR] = {"ior": finish.bends}
    if finish.volume is not None:
        extensions[_VOLUME] = {"thicknessFactor": finish.volume.thick}
        if finish.volume.away is not None:
            taken = {"attenuationDistance": finish.volume.away, "attenuationColor": list(finish.volume.colour)}
            extensions[_VOLUME].update(taken)
    for extension in extensions:
        out.uses(extension)
    own = {"baseColorTexture": finish.colour_map, "metallicRoughnessTexture": finish.surface_map}
    pictures = {name: out.picture(data) for name, data in own.items() if data is not None}
    plain = finish.colour_map is None and finish.surface_map is None
    factors: dict[str, Any] = {"metallicFactor": finish.metalness, "roughnessFactor": finish.roughness} if plain else {}
    if finish.colour != (1.0, 1.0, 1.0, 1.0):
        factors["baseColorFactor"] = list(finish.colour)
    return gl.Material(
        name=finish.name,
        doubleSided=finish.both_sides,
        alphaMode=_MODES[finish.alpha],
        alphaCutoff=CUT_AT if finish.alpha == "cut" else None,
        pbrMetallicRoughness=gl.PbrMetallicRoughness(**pictures, **factors),
        normalTexture=None if finish.normal_map is None else out.normal(finish.normal_map, finish.relief),
        extensions=extensions,
    )


def _mesh(out: Document, body: Body, materials: dict[str, int]) -> int:
    primitives = [_primitive(out, part, materials[part.material]) for part in body.parts]
    return out.add("meshes", gl.Mesh(name=body.name, primitives=primitives))


def _primitive(out: Document, part: Part, material: int) -> gl.Primitive:
    """Some faces of a mesh in one material; with tangents where that has a normal map."""
    used, local = np.unique(part.faces.ravel(), return_inverse=True)
    local = local.reshape(-1, 3)
    positions = part.mesh.positions[used]
    normals = part.mesh.normals[used].astype(np.float64)
    length = np.linalg.norm(normals, axis=1, keepdims=True)
    normals = np.where(length > 1e-6, normals / np.maximum(length, 1e-6), [0.0, 1.0, 0.0])
    at = part.uv[used]
    attributes = gl.Attributes(
        POSITION=out.accessor(positions, "VEC3", bounds=True),
        NORMAL=out.accessor(normals, "VEC3"),
        # glTF counts v from the top of a picture.
        TEXCOORD_0=out.accessor(np.column_stack([at[:, 0], 1.0 - at[:, 1]]), "VEC2"),
    )
    if out.document.materials[material].normalTexture is not None:
        attributes.TANGENT = out.accessor(tangents(positions, local, normals, at), "VEC4")
    if part.colour is not None:
        attributes.COLOR_0 = out.accessor(np.clip(part.colour[used], 0, 1), "VEC4")
    indices = out.accessor(local.ravel().astype(np.uint32), "SCALAR", ELEMENTS)
    return gl.Primitive(attributes=attributes, indices=indices, material=material)


def _instances(out: Document, some: Scatter, mesh: int) -> gl.Node:
    attributes = {
        "TRANSLATION": out.accessor(some.position, "VEC3", None),
        "ROTATION": out.accessor(some.turn, "VEC4", None),
        "SCALE": out.accessor(np.repeat(some.scale[:, None], 3, axis=1), "VEC3", None),
        "_TINT": out.accessor(some.tint, "VEC3", None),
    }
    return gl.Node(name=some.name, mesh=mesh, extensions={INSTANCING: {"attributes": attributes}})


def _camera(out: Document, camera: Camera) -> gl.Node:
    seen = gl.Perspective(yfov=camera.tall, aspectRatio=camera.aspect, znear=_NEAR, zfar=_FAR)
    number = out.add("cameras", gl.Camera(name=camera.name, type="perspective", perspective=seen))
    return gl.Node(name=camera.name, camera=number, translation=list(camera.eye), rotation=list(camera.turn))


def _light(light: Light) -> dict[str, Any]:
    kind = "directional" if light.at is None else "point"
    return {"type": kind, "name": light.name, "color": list(light.colour), "intensity": light.strength}


def _lit(light: Light, number: int) -> gl.Node:
    return gl.Node(
        name=light.name,
        translation=None if light.at is None else list(light.at),
        rotation=None if light.turn is None else list(light.turn),
        extensions={_LIGHTS: {"light": number}},
    )


FORMAT = Format("site.glb", write)
