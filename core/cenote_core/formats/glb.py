"""A GLB in the making: buffers, pictures, materials, meshes and nodes."""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pygltflib as gl
from PIL import Image

from ..materials.material import Material
from ..mesh.mesh import Mesh
from ..mesh.tangents import tangents

_ARRAY, _ELEMENT = 34962, 34963
_FLOAT, _UINT = 5126, 5125
_PNG, _JPEG = "PNG", "JPEG"
_QUALITY, _COMPRESSION = 92, 3
"""Of JPEG, and how long PNG looks for what repeats: more takes several times as long for a few per cent."""
CUT_AT = 0.4
"""Alpha under which nothing of a cut-out is drawn."""


def encoded(pixels: np.ndarray, kind: str) -> bytes:
    """A picture, (H, W, 1 to 4) uint8, as the bytes of a file."""
    out = io.BytesIO()
    more: dict[str, Any] = {"quality": _QUALITY} if kind == _JPEG else {"compress_level": _COMPRESSION}
    Image.fromarray(np.ascontiguousarray(pixels)).save(out, kind, **more)
    return out.getvalue()


def occlusion_roughness_metal(roughness: np.ndarray, metalness: np.ndarray) -> np.ndarray:
    """(H, W, 3) uint8: nothing occluded, roughness and metalness, as the format packs them."""
    return np.dstack([np.full_like(roughness, 255), roughness, metalness])


class Writer:
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

    def picture(self, data: bytes) -> gl.TextureInfo:
        """A texture from the bytes of a JPEG or PNG file."""
        mime = "image/png" if data.startswith(b"\x89PNG") else "image/jpeg"
        self.document.images.append(gl.Image(bufferView=self.view(data), mimeType=mime))
        self.document.textures.append(gl.Texture(source=len(self.document.images) - 1, sampler=0))
        return gl.TextureInfo(index=len(self.document.textures) - 1)

    def texture(self, pixels: np.ndarray, kind: str) -> gl.TextureInfo:
        return self.picture(encoded(pixels, kind))

    def normal(self, data: bytes, scale: float = 1.0) -> gl.NormalMaterialTexture:
        """A normal map from the bytes of a file."""
        return gl.NormalMaterialTexture(index=self.picture(data).index, scale=scale)

    def uses(self, extension: str, required: bool = False) -> None:
        """Say that an extension is used, and whether a reader must know it."""
        used = self.document.extensionsUsed = [*(self.document.extensionsUsed or []), extension]
        self.document.extensionsUsed = sorted(set(used))
        if required:
            self.document.extensionsRequired = sorted({*(self.document.extensionsRequired or []), extension})

    def material(self, key: str, make: Callable[[], gl.Material]) -> int:
        if key not in self._materials:
            self.document.materials.append(make())
            self._materials[key] = len(self.document.materials) - 1
        return self._materials[key]

    def has_relief(self, material: int) -> bool:
        """Does a material have a normal map, so that what carries it needs tangents?"""
        return self.document.materials[material].normalTexture is not None

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


def primitive(
    out: Writer, mesh: Mesh, faces: np.ndarray, uv: np.ndarray, material: int, colour: np.ndarray | None = None
) -> gl.Primitive:
    """Some faces of a mesh in one material; with tangents where that has a normal map.

    Parameters
    ----------
    uv : (V, 2) coordinates of the material's pictures
    colour : (V, 4) linear colours, or None
    """
    used, local = np.unique(faces.ravel(), return_inverse=True)
    local = local.reshape(-1, 3)
    normals = mesh.normals[used].astype(np.float64)
    length = np.linalg.norm(normals, axis=1, keepdims=True)
    normals = np.where(length > 1e-6, normals / np.maximum(length, 1e-6), [0.0, 1.0, 0.0])
    at = uv[used]
    attributes = gl.Attributes(
        POSITION=out.accessor(mesh.positions[used], "VEC3", bounds=True),
        NORMAL=out.accessor(normals, "VEC3"),
        # glTF counts v from the top of a picture.
        TEXCOORD_0=out.accessor(np.column_stack([at[:, 0], 1.0 - at[:, 1]]), "VEC2"),
    )
    if out.has_relief(material):
        attributes.TANGENT = out.accessor(tangents(mesh.positions[used], local, normals, at), "VEC4")
    if colour is not None:
        attributes.COLOR_0 = out.accessor(np.clip(colour[used], 0, 1), "VEC4")
    indices = out.accessor(local.ravel().astype(np.uint32), "SCALAR", _ELEMENT)
    return gl.Primitive(attributes=attributes, indices=indices, material=material)


def plain_material(out: Writer, name: str, source: Material, blend: bool) -> gl.Material:
    """A material by its own pictures; with alpha it is cut out, or blended where `blend`."""
    colour = source.colour if source.alpha is None else np.dstack([source.colour, source.alpha])
    metal = np.full_like(source.roughness, int(source.metalness * 255)) if source.metal is None else source.metal
    mode = "OPAQUE" if source.alpha is None else ("BLEND" if blend else "MASK")
    return gl.Material(
        name=name,
        doubleSided=True,
        alphaMode=mode,
        alphaCutoff=CUT_AT if mode == "MASK" else None,
        pbrMetallicRoughness=gl.PbrMetallicRoughness(
            baseColorTexture=out.texture(colour, _JPEG if source.alpha is None else _PNG),
            metallicRoughnessTexture=out.texture(occlusion_roughness_metal(source.roughness, metal), _JPEG),
        ),
        normalTexture=out.normal(encoded(source.normal, _PNG)),
    )
