"""A GLB in the making: buffers, accessors, pictures and nodes."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pygltflib as gl

VERTICES, ELEMENTS = 34962, 34963
"""What a buffer view is for."""
_FLOAT, _UINT = 5126, 5125


class Document:
    """Collects what one GLB consists of."""

    def __init__(self) -> None:
        self.document = gl.GLTF2(asset=gl.Asset(version="2.0", generator="Cenote"))
        self.document.scene = 0
        self.document.scenes = [gl.Scene(nodes=[])]
        self.document.samplers = [gl.Sampler(magFilter=9729, minFilter=9987, wrapS=10497, wrapT=10497)]
        self._blob = bytearray()

    def add(self, what: str, one: Any) -> int:
        """Put something into one of the document's lists; its number there."""
        found = getattr(self.document, what)
        found.append(one)
        return len(found) - 1

    def _view(self, data: bytes, target: int | None = None) -> int:
        self._blob += b"\0" * (-len(self._blob) % 4)
        view = gl.BufferView(buffer=0, byteOffset=len(self._blob), byteLength=len(data), target=target)
        self._blob += data
        return self.add("bufferViews", view)

    def accessor(self, array: np.ndarray, kind: str, target: int | None = VERTICES, bounds: bool = False) -> int:
        """An array of floats or counts; `kind` as the format names it, SCALAR to VEC4."""
        component = {"f": _FLOAT, "u": _UINT}[array.dtype.kind]
        data = np.ascontiguousarray(array, np.float32 if component == _FLOAT else np.uint32)
        limits = (
            {"min": np.atleast_1d(data.min(axis=0)).tolist(), "max": np.atleast_1d(data.max(axis=0)).tolist()}
            if bounds
            else {}
        )
        view = self._view(data.tobytes(), target)
        return self.add(
            "accessors", gl.Accessor(bufferView=view, componentType=component, count=len(data), type=kind, **limits)
        )

    def picture(self, data: bytes) -> gl.TextureInfo:
        """A texture from the bytes of a JPEG or PNG file."""
        mime = "image/png" if data.startswith(b"\x89PNG") else "image/jpeg"
        image = self.add("images", gl.Image(bufferView=self._view(data), mimeType=mime))
        return gl.TextureInfo(index=self.add("textures", gl.Texture(source=image, sampler=0)))

    def normal(self, data: bytes, scale: float) -> gl.NormalMaterialTexture:
        """A normal map from the bytes of a file."""
        return gl.NormalMaterialTexture(index=self.picture(data).index, scale=scale)

    def uses(self, extension: str, required: bool = False) -> None:
        """Say that an extension is used, and whether a reader must know it."""
        self.document.extensionsUsed = sorted({*(self.document.extensionsUsed or []), extension})
        if required:
            self.document.extensionsRequired = sorted({*(self.document.extensionsRequired or []), extension})

    def extension(self, name: str, value: dict[str, Any]) -> None:
        """What an extension says of the whole document."""
        self.document.extensions[name] = value

    def node(self, node: gl.Node) -> None:
        """Put a node into the scene."""
        self.document.scenes[0].nodes.append(self.add("nodes", node))

    def save(self, path: Path) -> None:
        """Write the file."""
        self.document.buffers = [gl.Buffer(byteLength=len(self._blob))]
        self.document.set_binary_blob(bytes(self._blob))
        self.document.save_binary(str(path))
