"""Reading models: glTF/GLB, OBJ with MTL, PLY, STL, alone or in a ZIP with their pictures."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import PurePosixPath
from typing import Any, Literal

import numpy as np
import trimesh
from PIL import Image

from ..errors import CenoteError, FormatError, TooHeavyError
from ..kit.catalogue import Asset, with_coarser
from ..materials.material import Material, linear_to_srgb, srgb_to_linear, to_bytes
from ..mesh.mesh import Mesh, cleaned, make_mesh, merge, transformed, with_box_uv
from .checks import MOST_PIXELS, check_gltf, check_zip, unpacked_entry

KINDS = {"glb", "gltf", "obj", "ply", "stl"}
MOST_TRIANGLES = 3_000_000
PICTURE_SIDE = 2048
Image.MAX_IMAGE_PIXELS = MOST_PIXELS


@dataclass(frozen=True)
class Model:
    """What a file held, in its own unit and axes.

    Attributes
    ----------
    mesh : Mesh, one slot a material
    materials : list of Material, in the order of the mesh's slots
    parts : int, separate objects merged into the mesh
    warnings : list of str, what was left out or put right
    kind : str, file type without the dot
    """

    mesh: Mesh
    materials: list[Material]
    parts: int
    warnings: list[str]
    kind: str


def read_model(data: bytes, filename: str, tell: Callable[[str], None] = lambda stage: None) -> Model:
    """Read a model file; `tell` hears what is being done.

    Raises
    ------
    FormatError, TooHeavyError
        With a sentence that says what is wrong with the file and what to do.
    """
    if not data:
        raise FormatError("The file is empty. Export it again.")
    kind = PurePosixPath(filename.lower()).suffix.lstrip(".")
    resolver: Any = None
    if kind == "zip":
        tell("unpacking the ZIP")
        data, kind, resolver = _from_zip(data)
    if kind not in KINDS:
        raise FormatError(
            f"Files of type '.{kind}' are not read. Give a GLB, glTF, OBJ, PLY or STL, or a ZIP of one with its pictures."
        )
    tell("checking what it holds")
    said = check_gltf(data, kind, resolver) if kind in ("glb", "gltf") else []
    tell(f"reading the {kind.upper()}")
    try:
        loaded = trimesh.load(io.BytesIO(data), file_type=kind, resolver=resolver, process=False, maintain_order=True)
    except CenoteError:
        raise
    except Image.DecompressionBombError as error:
        raise TooHeavyError("A picture in the file is larger than 8192 × 8192. Reduce it first.") from error
    except MemoryError as error:
        raise TooHeavyError("The file asks for more memory than there is. Reduce it first.") from error
    except Exception as error:
        raise FormatError(
            f"The {kind.upper()} file is damaged or cut short and could not be read. Export it again."
        ) from error
    tell("putting parts and pictures together")
    return _gathered(loaded, kind, said)


def _from_zip(data: bytes) -> tuple[bytes, str, Any]:
    archive = check_zip(data)
    models = [
        n
        for n in archive.namelist()
        if PurePosixPath(n.lower()).suffix.lstrip(".") in KINDS and "__macosx" not in n.lower()
    ]
    if not models:
        raise FormatError("The ZIP holds no GLB, glTF, OBJ, PLY or STL file.")
    name = min(models, key=len)
    folder = str(PurePosixPath(name).parent)
    files = {}
    for entry in archive.namelist():
        if not entry.endswith("/"):
            local = entry[len(folder) + 1 :] if folder != "." and entry.startswith(folder + "/") else entry
            files[local] = entry
    return unpacked_entry(archive, name), PurePosixPath(name.lower()).suffix.lstrip("."), _Files(archive, files)


class _Files(trimesh.resolvers.Resolver):
    """Gives a loader the other files of the same ZIP, and nothing from anywhere else."""

    def __init__(self, archive: zipfile.ZipFile, files: dict[str, str]) -> None:
        self.archive, self.files = archive, files

    def get(self, name: str) -> bytes:
        clean = name.replace("\\", "/").removeprefix("./")
        found = self.files.get(clean) or next(
            (e for e in self.files.values() if PurePosixPath(e).name == PurePosixPath(clean).name), None
        )
        if found is None:
            raise FileNotFoundError(name)
        return unpacked_entry(self.archive, found)

    def keys(self) -> Any:
        return self.files.keys()

    def namespaced(self, namespace: str) -> _Files:
        """The files of a folder within the ZIP."""
        start = namespace.rstrip("/") + "/"
        return _Files(self.archive, {k.removeprefix(start): v for k, v in self.files.items() if k.startswith(start)})

    def write(self, name: str, data: bytes) -> None:
        raise OSError("A ZIP that was brought in is only read.")


def _gathered(loaded: Any, kind: str, said: list[str]) -> Model:
    warnings = list(said)
    scene = loaded if isinstance(loaded, trimesh.Scene) else trimesh.Scene(loaded)
    placements = []
    for node in scene.graph.nodes_geometry:
        matrix, name = scene.graph[node]
        placements.append((scene.geometry[name], np.asarray(matrix, float)))
    solid = [(g, m) for g, m in placements if isinstance(g, trimesh.Trimesh) and len(g.faces)]
    if len(solid) < len(placements):
        warnings.append(f"{len(placements) - len(solid)} parts without triangles were left out.")
    if not solid:
        raise FormatError("The file holds no triangles. Points and lines alone cannot be placed.")
    total = sum(len(g.faces) for g, _ in solid)
    if total > MOST_TRIANGLES:
        raise TooHeavyError(
            f"The model has {total:,} triangles; at most {MOST_TRIANGLES:,} are taken. Reduce it first."
        )
    materials: list[Material] = []
    names: list[str] = []
    seen: dict[Any, int] = {}
    parts, dropped = [], 0
    for geometry, matrix in solid:
        part, lost = _part(geometry, matrix, seen, names, materials, warnings)
        dropped += lost
        if part is not None:
            parts.append(part)
    if dropped:
        warnings.append(f"{dropped:,} broken triangles (no area, twins, bad numbers) were left out.")
    if not parts:
        raise FormatError("All triangles in the file are broken (no area or not numbers). Export it again.")
    mesh = merge(parts)
    order = [names.index(n) for n in mesh.slot_names]
    if kind in ("obj", "stl", "ply") and not any(m.size > 8 for m in materials):
        warnings.append(
            "No pictures came with it; its surfaces get plain colours. Patinas and materials can be laid on it all the same."
        )
    return Model(mesh, [materials[k] for k in order], len(solid), warnings, kind)


def _part(
    geometry: trimesh.Trimesh,
    matrix: np.ndarray,
    seen: dict[Any, int],
    names: list[str],
    materials: list[Material],
    warnings: list[str],
) -> tuple[Mesh | None, int]:
    number = _slot(geometry, seen, names, materials, warnings)
    uv = getattr(geometry.visual, "uv", None)
    colour = None
    if geometry.visual.kind == "vertex":
        colours = np.asarray(geometry.visual.vertex_colors, np.float32) / 255
        colour = np.column_stack([srgb_to_linear(colours[:, :3]), colours[:, 3]])
    with np.errstate(all="ignore"):
        faces = np.asarray(geometry.faces)
        valid = np.all((faces >= 0) & (faces < len(geometry.vertices)), axis=1)
        finite = np.nan_to_num(np.asarray(geometry.vertices, float), nan=np.nan)
        raw = make_mesh(finite, np.where(valid[:, None], faces, 0), slot_names=(names[number],))
        if valid.all() and np.isfinite(geometry.vertex_normals).all():
            raw = replace(raw, normals=np.asarray(geometry.vertex_normals, np.float32))
        base_uv = None
        if uv is not None and len(uv) == len(raw.positions):
            base_uv = np.nan_to_num(np.asarray(uv, np.float32))
        raw = replace(raw, colour=None if colour is None else colour.astype(np.float32), base_uv=base_uv)
        clean = cleaned(raw)
    lost = len(faces) - clean.triangle_count
    if clean.triangle_count == 0:
        return None, lost
    if not np.isfinite(matrix).all() or abs(np.linalg.det(matrix[:3, :3])) < 1e-18:
        return None, len(faces)
    return transformed(clean, matrix), lost


def _slot(
    geometry: trimesh.Trimesh, seen: dict[Any, int], names: list[str], materials: list[Material], warnings: list[str]
) -> int:
    material = getattr(geometry.visual, "material", None)
    identity = id(material) if material is not None else "plain"
    if identity in seen:
        return seen[identity]
    title = re.sub(r"[^A-Za-z0-9_. -]+", "_", str(getattr(material, "name", "") or "body"))[:40].strip() or "body"
    name, count = title, 2
    while name in names:
        name, count = f"{title} {count}", count + 1
    try:
        made = _material(material)
    except (CenoteError, Image.DecompressionBombError, OSError, ValueError) as error:
        if isinstance(error, TooHeavyError | Image.DecompressionBombError):
            raise TooHeavyError("A picture in the file is larger than 8192 × 8192. Reduce it first.") from error
        warnings.append(f"A picture of material '{name}' could not be read; it gets a plain colour.")
        made = _plain(np.array([0.6, 0.6, 0.6]), 0.8, 0.0)
    names.append(name)
    materials.append(made)
    seen[identity] = len(names) - 1
    return seen[identity]


def _plain(rgb: np.ndarray, roughness: float, metalness: float) -> Material:
    size = 8
    return Material(
        colour=np.tile(to_bytes(np.asarray(rgb, np.float32)), (size, size, 1)),
        roughness=np.full((size, size), int(np.clip(roughness, 0, 1) * 255), np.uint8),
        height=np.full((size, size), 128, np.uint8),
        normal=np.tile(np.array([128, 128, 255], np.uint8), (size, size, 1)),
        tile=0.0,
        metalness=float(np.clip(metalness, 0, 1)),
    )


def _picture(image: Any, side: int, mode: str) -> np.ndarray:
    if image.width * image.height > MOST_PIXELS:
        raise TooHeavyError("A picture in the file is larger than 8192 × 8192. Reduce it first.")
    return np.asarray(image.convert(mode).resize((side, side), Image.Resampling.LANCZOS))


def _material(source: Any) -> Material:
    if source is None:
        return _plain(np.array([0.72, 0.70, 0.66]), 0.85, 0.0)
    pbr = hasattr(source, "baseColorFactor")
    picture = getattr(source, "baseColorTexture", None) if pbr else getattr(source, "image", None)
    factor = getattr(source, "baseColorFactor", None) if pbr else getattr(source, "diffuse", None)
    rgba = np.ones(4, np.float32)
    if factor is not None:
        values = np.asarray(factor, np.float32).ravel()
        rgba[: len(values[:4])] = values[:4] / (255.0 if values.max(initial=0) > 1 else 1.0)
    roughness = getattr(source, "roughnessFactor", None)
    metalness = getattr(source, "metallicFactor", None)
    roughness = (1.0 if pbr else 0.8) if roughness is None else float(roughness)
    metalness = (
        (
            1.0
            if pbr and getattr(source, "metallicRoughnessTexture", None) is None and picture is None and factor is None
            else 0.0
        )
        if metalness is None
        else float(metalness)
    )
    if picture is None:
        return _plain(linear_to_srgb(rgba[:3]) if pbr else rgba[:3], roughness, metalness)
    side = int(min(PICTURE_SIDE, 2 ** np.ceil(np.log2(max(picture.width, picture.height, 8)))))
    pixels = _picture(picture, side, "RGBA").astype(np.float32) / 255
    linear = srgb_to_linear(pixels[..., :3]) * (rgba[:3] if pbr else 1.0)
    rough = np.full((side, side), int(np.clip(roughness, 0, 1) * 255), np.uint8)
    metal = None
    linear = _shaded(source, linear, side)
    both = getattr(source, "metallicRoughnessTexture", None)
    if both is not None:
        orm = _picture(both, side, "RGB").astype(np.float32)
        rough = np.clip(orm[..., 1] * roughness, 0, 255).astype(np.uint8)
        metal = np.clip(orm[..., 2] * metalness, 0, 255).astype(np.uint8)
        metalness = float(metal.mean() / 255)
    normals = getattr(source, "normalTexture", None)
    normal = (
        np.tile(np.array([128, 128, 255], np.uint8), (side, side, 1))
        if normals is None
        else _picture(normals, side, "RGB")
    )
    cut = str(getattr(source, "alphaMode", "") or "OPAQUE") != "OPAQUE"
    return Material(
        colour=to_bytes(linear_to_srgb(linear)),
        roughness=rough,
        height=np.full((side, side), 128, np.uint8),
        normal=np.ascontiguousarray(normal),
        tile=0.0,
        metalness=metalness,
        alpha=to_bytes(pixels[..., 3]) if cut else None,
        metal=None if cut else metal,
    )


def _shaded(source: Any, linear: np.ndarray, side: int) -> np.ndarray:
    """(side, side, 3) colours darkened where a model says that light hardly comes, and bright where it shines by itself.

    Renderers here trace what is hidden by shapes; what is hidden by finer forms than those is part of the picture.
    """
    occlusion = getattr(source, "occlusionTexture", None)
    if occlusion is not None:
        linear = linear * (_picture(occlusion, side, "RGB")[..., :1].astype(np.float32) / 255)
    glow, factor = getattr(source, "emissiveTexture", None), getattr(source, "emissiveFactor", None)
    strength = np.zeros(3, np.float32) if factor is None else np.asarray(factor, np.float32).ravel()[:3]
    if strength.any():
        shines = np.ones((side, side, 3), np.float32)
        if glow is not None:
            shines = srgb_to_linear(_picture(glow, side, "RGB").astype(np.float32) / 255)
        linear = np.minimum(linear + shines * strength, 1.0)
    return np.asarray(linear, np.float32)


@dataclass(frozen=True)
class Proposal:
    """Scale and axis that make a model a likely size, and why."""

    scale: float
    up: Literal["y", "z"]
    reason: str


_UNITS = ((1.0, "metres"), (0.01, "centimetres"), (0.001, "millimetres"), (0.0254, "inches"), (0.3048, "feet"))


def proposed_settings(model: Model) -> Proposal:
    """glTF is in metres with y up by its standard; for the others the likeliest unit is taken."""
    low, high = model.mesh.bounds()
    extent = (high - low).astype(float)
    largest = max(float(extent.max()), 1e-9)
    up: Literal["y", "z"] = "z" if model.kind in ("stl", "ply") else "y"
    if model.kind in ("glb", "gltf") and 0.02 <= largest <= 60:
        return Proposal(1.0, up, f"glTF counts in metres, and {largest:.3g} m across is a likely size.")
    for scale, unit in _UNITS:
        if 0.1 <= largest * scale <= 40:
            return Proposal(scale, up, f"Read as {unit} it is {largest * scale:.3g} m across, a likely size.")
    scale = float(10.0 ** np.round(np.log10(2.0 / largest)))
    return Proposal(scale, up, f"In no usual unit is it a likely size; this makes it {largest * scale:.3g} m across.")


def settled_asset(model: Model, asset_id: str, title: str, scale: float, up: str) -> Asset:
    """The model as a kit asset: metres, y up, foot at zero, centred over its origin."""
    matrix = np.eye(4)
    if up == "z":
        matrix[:3, :3] = [[1, 0, 0], [0, 0, 1], [0, -1, 0]]
    matrix[:3, :3] *= scale
    mesh = transformed(model.mesh, matrix)
    low, high = mesh.bounds()
    shift = np.array([-(low[0] + high[0]) / 2, -low[1], -(low[2] + high[2]) / 2], np.float32)
    mesh = with_box_uv(replace(mesh, positions=mesh.positions + shift))
    lods = with_coarser([mesh])
    materials = {name: f"{asset_id}.{k}" for k, name in enumerate(mesh.slot_names)}
    return Asset(lods, materials, title, "imported")
