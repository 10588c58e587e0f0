"""Checks on files before a loader is let near them: sizes, references, cycles."""

from __future__ import annotations

import base64
import contextlib
import io
import json
import lzma
import struct
import zipfile
import zlib
from typing import Any
from urllib.parse import unquote

from PIL import Image

from ..errors import FormatError, TooHeavyError

MOST_NODES = 20_000
MOST_PRIMITIVES = 20_000
MOST_UNPACKED = 600_000_000
MOST_RATIO = 200
MOST_PIXELS = 8192 * 8192
PICTURES = (".png", ".jpg", ".jpeg", ".tga", ".bmp", ".tif", ".tiff", ".webp", ".exr")
_COMPONENTS = {5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4}
_WIDTH = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT2": 4, "MAT3": 9, "MAT4": 16}


def check_zip(data: bytes) -> zipfile.ZipFile:
    """The archive, if it is whole and does not blow up when unpacked."""
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
        entries = archive.infolist()
    except zipfile.BadZipFile as error:
        raise FormatError("The ZIP file is damaged or cut short. Pack it again.") from error
    unpacked = sum(e.file_size for e in entries)
    if unpacked > MOST_UNPACKED:
        raise TooHeavyError(
            f"The ZIP would unpack to {unpacked / 1e6:,.0f} MB; at most {MOST_UNPACKED / 1e6:.0f} MB are taken."
        )
    packed = max(len(data), 1000)
    if unpacked > MOST_RATIO * packed:
        raise TooHeavyError(
            f"The ZIP would unpack to {unpacked / packed:,.0f} times its size; no model does, and at most {MOST_RATIO} times "
            "are taken. Pack only the model and its pictures."
        )
    if len(entries) > 5000:
        raise TooHeavyError("The ZIP holds more than 5 000 files. Pack only the model and its pictures.")
    for entry in entries:
        if entry.filename.lower().endswith(PICTURES):
            check_picture(unpacked_entry(archive, entry.filename))
    return archive


def unpacked_entry(archive: zipfile.ZipFile, name: str) -> bytes:
    """A file of an archive. Raises FormatError with its name where it cannot be unpacked."""
    short = name[-80:]
    try:
        return archive.read(name)
    except NotImplementedError as error:
        raise FormatError(
            f"'{short}' in the ZIP is packed in a way that is not read. Pack it again as usual."
        ) from error
    except RuntimeError as error:
        raise FormatError(f"'{short}' in the ZIP is locked by a password. Pack it again without one.") from error
    except (zipfile.BadZipFile, zlib.error, EOFError, OSError, ValueError, lzma.LZMAError) as error:
        raise FormatError(f"'{short}' in the ZIP is damaged. Pack it again.") from error


def check_picture(data: bytes) -> bool:
    """Can a picture be read, by its header? One of absurd size is refused: TooHeavyError."""
    try:
        with Image.open(io.BytesIO(data)) as image:
            pixels = image.width * image.height
    except Image.DecompressionBombError:
        pixels = MOST_PIXELS + 1
    except (OSError, ValueError, SyntaxError):
        return False
    if pixels > MOST_PIXELS:
        raise TooHeavyError("A picture in the file is larger than 8192 × 8192. Reduce it first.")
    return True


def check_gltf(data: bytes, kind: str, resolver: Any) -> list[str]:
    """Structure of a glTF: header, JSON, node tree, accessors within their buffers, buffers present.

    Returns a sentence for each picture it names that is not there or cannot be read.
    """
    document, binary = _parts(data, kind)
    if not isinstance(document, dict) or not isinstance(document.get("asset"), dict):
        raise FormatError("This is not a glTF document: it has no 'asset' entry.")
    if not str(document["asset"].get("version", "")).startswith("2"):
        raise FormatError("Only glTF version 2 is read. Export it again as version 2.")
    needs = set(document.get("extensionsRequired") or [])
    refused = {e for e in needs if "draco" in e.lower() or "meshopt" in e.lower()}
    if refused:
        raise FormatError(
            f"The file needs {', '.join(sorted(refused))}. Export it again without compression of the mesh."
        )
    try:
        _check_nodes(document)
        _check_primitives(document)
        _check_buffers(document, binary, resolver)
        return _check_pictures(document, binary, resolver)
    except (TypeError, KeyError, AttributeError, IndexError, ValueError) as error:
        if isinstance(error, FormatError | TooHeavyError):
            raise
        raise FormatError("The glTF document contradicts itself and could not be read. Export it again.") from error


def _parts(data: bytes, kind: str) -> tuple[Any, bytes | None]:
    if kind == "gltf":
        try:
            return json.loads(data), None
        except (ValueError, UnicodeDecodeError, RecursionError) as error:
            raise FormatError("The glTF file is not valid JSON. Export it again.") from error
    if len(data) < 20 or data[:4] != b"glTF":
        raise FormatError("This is not a GLB file, whatever its name says. Export it again.")
    length = struct.unpack_from("<I", data, 8)[0]
    if length > len(data):
        raise FormatError(
            f"The GLB file is cut short: {len(data):,} of {length:,} bytes are there. Copy or export it again."
        )
    size = struct.unpack_from("<I", data, 12)[0]
    if 20 + size > len(data):
        raise FormatError("The GLB file is cut short inside its description. Copy or export it again.")
    try:
        document = json.loads(data[20 : 20 + size])
    except (ValueError, UnicodeDecodeError, RecursionError) as error:
        raise FormatError("The description inside the GLB file is damaged. Export it again.") from error
    start = 20 + size
    if len(data) >= start + 8:
        count = struct.unpack_from("<I", data, start)[0]
        return document, data[start + 8 : start + 8 + count]
    return document, None


def _check_nodes(document: dict[str, Any]) -> None:
    nodes = document.get("nodes") or []
    if len(nodes) > MOST_NODES:
        raise TooHeavyError(f"The file has {len(nodes):,} nodes; at most {MOST_NODES:,} are taken. Merge parts first.")
    parents = [0] * len(nodes)
    for node in nodes:
        for child in node.get("children") or []:
            if not 0 <= child < len(nodes):
                raise FormatError(f"A node refers to a child {child} that does not exist. Export it again.")
            parents[child] += 1
    # Kahn's algorithm: what is left over after taking roots away hangs in a ring.
    waiting = [k for k, count in enumerate(parents) if count == 0]
    seen = 0
    while waiting:
        seen += 1
        for child in nodes[waiting.pop()].get("children") or []:
            parents[child] -= 1
            if parents[child] == 0:
                waiting.append(child)
    if seen < len(nodes):
        raise FormatError(
            "Nodes in the file are their own ancestors (a ring). Put the hierarchy right and export it again."
        )


def _check_primitives(document: dict[str, Any]) -> None:
    """Parts of meshes, counted each time a node shows them: every one is read and placed by itself."""
    parts = [len(mesh.get("primitives") or []) for mesh in document.get("meshes") or []]
    shown = sum(parts[node["mesh"]] for node in document.get("nodes") or [] if "mesh" in node)
    most = max(sum(parts), shown)
    if most > MOST_PRIMITIVES:
        raise TooHeavyError(
            f"The file has {most:,} parts of meshes; at most {MOST_PRIMITIVES:,} are taken. Merge parts first."
        )


def _buffer_length(buffer: dict[str, Any], number: int, binary: bytes | None, resolver: Any) -> int:
    uri = buffer.get("uri")
    if uri is None:
        if number != 0 or binary is None:
            raise FormatError("The file refers to data that is not in it. Export it again as one GLB.")
        return len(binary)
    if uri.startswith("data:"):
        return len(base64.b64decode(uri.partition(",")[2], validate=False))
    if resolver is None:
        raise FormatError(f"Its data is in another file, '{uri[:80]}'. Give both in one ZIP, or export a GLB.")
    try:
        return len(resolver.get(uri))
    except FileNotFoundError as error:
        raise FormatError(f"The file '{uri[:80]}' it refers to is missing from the ZIP.") from error


def _check_buffers(document: dict[str, Any], binary: bytes | None, resolver: Any) -> None:
    lengths = [_buffer_length(b, k, binary, resolver) for k, b in enumerate(document.get("buffers") or [])]
    views = document.get("bufferViews") or []
    for view in views:
        if int(view.get("byteOffset", 0)) + int(view["byteLength"]) > lengths[view["buffer"]]:
            raise FormatError("The file's data is shorter than its description says. It is cut short; export it again.")
    for accessor in document.get("accessors") or []:
        count, width = int(accessor["count"]), _WIDTH[accessor["type"]] * _COMPONENTS[accessor["componentType"]]
        if count < 0 or count > 200_000_000:
            raise TooHeavyError("The file describes more data than can be taken.")
        if "bufferView" in accessor:
            view = views[accessor["bufferView"]]
            stride = int(view.get("byteStride") or width)
            if int(accessor.get("byteOffset", 0)) + stride * max(count - 1, 0) + width > int(view["byteLength"]):
                raise FormatError("An entry of the file reaches beyond its data. Export it again.")


def _check_pictures(document: dict[str, Any], binary: bytes | None, resolver: Any) -> list[str]:
    views, said = document.get("bufferViews") or [], []
    for number, image in enumerate(document.get("images") or []):
        uri = str(image.get("uri", ""))
        name = str(image.get("name") or (uri if not uri.startswith("data:") else "") or f"number {number + 1}")[-80:]
        data = b""
        if uri.startswith("data:"):
            data = base64.b64decode(uri.partition(",")[2])
        elif uri:
            with contextlib.suppress(FileNotFoundError):
                data = resolver.get(unquote(uri)) if resolver is not None else b""
            if not data:
                said.append(f"The picture '{name}' is not in the file and was left out. Give both in one ZIP.")
                continue
        elif "bufferView" in image and binary is not None:
            view = views[image["bufferView"]]
            start = int(view.get("byteOffset", 0))
            data = binary[start : start + int(view["byteLength"])]
        if not check_picture(data):
            said.append(f"The picture '{name}' cannot be read and was left out. Export it as PNG or JPEG.")
    return said
