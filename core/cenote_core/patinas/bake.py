"""Baked maps: base material and patinas of an owner worked into one set of textures.

The formulas are those of `surfaces/formulas.py`, as in the plate and in proofs.
"""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Any

import numpy as np

from ..base.kernels import inlined, parallel_kernel, prange
from ..graph.derived import derived
from ..materials.material import Material, linear_to_srgb, srgb_to_linear, to_bytes
from ..materials.tile import linear_colour
from ..mesh.mesh import Mesh
from ..mesh.texels import TexelTable, sample_map, texel_table
from ..plan import RESPONSE, PatinaPlan
from ..scene.scene import GROUND, VIEW_LIMIT, Scene
from ..surfaces import channels, formulas
from ..surfaces.formulas import MACRO
from ..surfaces.weather_inputs import DUST_COLOUR, MUD_COLOUR, Fallen
from ..weather.exposure import damp_at, damp_refs, exposure_at, reached, sky_exposure
from .cover import owner_covers, stack
from .heights import Sides, bases, layer_tile, sides_or, stack_heights
from .reading import bilinear, read_sides
from .triplanar import ground_triplanar

_macro_brightness = inlined(formulas.macro_brightness)
_variation_factor = inlined(formulas.variation_factor)
_laid_colour = inlined(formulas.laid_colour)
_blend_colour = inlined(formulas.blend_colour)
_kept_share = inlined(formulas.kept_share)
_mix = inlined(formulas.mix)
_under_relief = inlined(formulas.under_relief)
_dust_share = inlined(formulas.dust_share)
_mud_share = inlined(formulas.mud_share)
_frost_share = inlined(formulas.frost_share)
_frost_colour = inlined(formulas.frost_colour)
_frost_roughness = inlined(formulas.frost_roughness)
_wet_share = inlined(formulas.wet_share)
_wet_colour = inlined(formulas.wet_colour)
_wet_roughness = inlined(formulas.wet_roughness)
_kept_slope = inlined(formulas.kept_slope)
_snow_depth = inlined(formulas.snow_depth)
_snow_share = inlined(formulas.snow_share)
_snow_colour = inlined(formulas.snow_colour)
_snow_roughness = inlined(formulas.snow_roughness)


_AT_ONCE = 2**18
"""Texels that are worked out in one go."""
_MARGIN = 16
"""Rows beside them from which gaps between charts are filled."""


@dataclass(frozen=True)
class BakedMaps:
    """Maps over an owner's unwrap, row 0 at v = 0.

    Attributes
    ----------
    colour : (R, R, 3) uint8, sRGB
    roughness, metalness : (R, R) uint8
    normal : (R, R, 3) uint8, in the tangent frame of the unwrap `uv2`
    height : (R, R) float32, metres above the surface's own shape
    wetness : (R, R) uint8
    """

    colour: np.ndarray
    roughness: np.ndarray
    metalness: np.ndarray
    normal: np.ndarray
    height: np.ndarray
    wetness: np.ndarray


@parallel_kernel
def _base(
    places: np.ndarray, shares: np.ndarray, tile: float, macro: float, image: np.ndarray, out: np.ndarray
) -> None:
    for n in prange(len(places)):
        drift = 1.0
        if macro > 0:
            drift = _macro_brightness(
                bilinear(image, 4, places[n, 0, 0] / tile / macro, places[n, 0, 1] / tile / macro)
            )
        for c in range(3):
            out[n, c] = read_sides(image, c, places, shares, n, tile) * drift
        out[n, 3] = read_sides(image, 3, places, shares, n, tile)
        out[n, 4] = read_sides(image, 5, places, shares, n, tile)
        out[n, 5] = read_sides(image, 6, places, shares, n, tile)
        out[n, 6] = read_sides(image, 7, places, shares, n, tile)


@parallel_kernel
def _blend_layer(
    places: np.ndarray, shares: np.ndarray, amounts: np.ndarray, tile: float, image: np.ndarray, tint: np.ndarray,
    variation: float, variation_tile: float, roughness: float, relief: float, stain: float, film: float, metal: float,
    answer: np.ndarray,
    out: np.ndarray,
) -> None:  # fmt: skip
    for n in prange(len(places)):
        amount = amounts[n]
        if amount <= 0.0:
            continue
        drift = _variation_factor(
            variation, bilinear(image, 4, places[n, 0, 0] / variation_tile, places[n, 0, 1] / variation_tile)
        )
        for c in range(3):
            laid = _laid_colour(read_sides(image, c, places, shares, n, tile), tint[c], drift)
            out[n, c] = _blend_colour(out[n, c], laid, stain, amount)
        keep = _kept_share(amount, stain, film)
        out[n, 3] = _mix(out[n, 3], min(1.0, read_sides(image, 3, places, shares, n, tile) * roughness), keep)
        out[n, 4] = _mix(out[n, 4], read_sides(image, 5, places, shares, n, tile) * relief, keep)
        out[n, 5] = _mix(out[n, 5], read_sides(image, 6, places, shares, n, tile) * relief, keep)
        out[n, 6] = _mix(out[n, 6], metal, keep)
        for c in range(3):
            out[n, 9 + c] = _mix(out[n, 9 + c], answer[c], keep)


@parallel_kernel
def _dusty(dust: float, up: np.ndarray, depth: np.ndarray, out: np.ndarray) -> None:
    for n in prange(len(out)):
        share = _dust_share(dust, up[n], _under_relief(out[n, 7], depth[n]))
        for c in range(3):
            out[n, c] = _mix(out[n, c], DUST_COLOUR[c], share)
        out[n, 3] = _mix(out[n, 3], 1.0, share)
        out[n, 6] *= 1.0 - share


@parallel_kernel
def _muddy(mud: np.ndarray, depth: np.ndarray, out: np.ndarray) -> None:
    for n in prange(len(out)):
        share = _mud_share(mud[n], _under_relief(out[n, 7], depth[n]))
        for c in range(3):
            out[n, c] = _mix(out[n, c], MUD_COLOUR[c], share)
        out[n, 3] = _mix(out[n, 3], 1.0, share)
        out[n, 6] *= 1.0 - share


@parallel_kernel
def _frosted(frost: float, exposure: np.ndarray, up: np.ndarray, depth: np.ndarray, out: np.ndarray) -> None:
    for n in prange(len(out)):
        share = _frost_share(frost, exposure[n], up[n], _under_relief(out[n, 7], depth[n])) * (1.0 - out[n, 11])
        for c in range(3):
            out[n, c] = _frost_colour(out[n, c], share)
        out[n, 3] = _frost_roughness(out[n, 3], share)
        out[n, 6] *= 1.0 - share


@parallel_kernel
def _wet(
    wetness: float,
    dried: float,
    exposure: np.ndarray,
    damp: np.ndarray,
    depth: np.ndarray,
    out: np.ndarray,
) -> None:
    for n in prange(len(out)):
        wet = max(_wet_share(wetness, dried, exposure[n], _under_relief(out[n, 7], depth[n])), damp[n])
        for c in range(3):
            out[n, c] = _wet_colour(out[n, c], wet, out[n, 6], out[n, 9])
        out[n, 3] = _wet_roughness(out[n, 3], wet)
        out[n, 4] *= _kept_slope(wet)
        out[n, 5] *= _kept_slope(wet)
        out[n, 8] = wet


@parallel_kernel
def _snow(fallen: float, exposure: np.ndarray, up: np.ndarray, depth: np.ndarray, out: np.ndarray) -> None:
    for n in prange(len(out)):
        lies = _snow_depth(fallen, exposure[n], up[n])
        share = _snow_share(lies, depth[n], _under_relief(out[n, 7], depth[n])) * (1.0 - out[n, 10])
        for c in range(3):
            out[n, c] = _snow_colour(out[n, c], share)
        out[n, 3] = _snow_roughness(out[n, 3], share)
        out[n, 4] *= 1.0 - share
        out[n, 5] *= 1.0 - share
        out[n, 6] *= 1.0 - share
        out[n, 7] += lies * share


def pictures(material: Material) -> np.ndarray:
    """(N, N, 8) float32: linear colour, roughness, height, normal x and y, metalness."""
    normal = material.normal[..., :2].astype(np.float32) / 127.5 - 1
    parts = [
        srgb_to_linear(material.colour.astype(np.float32) / 255),
        material.roughness[..., None].astype(np.float32) / 255,
        material.height[..., None].astype(np.float32) / 255,
        normal,
        np.full((material.size, material.size, 1), material.metalness, np.float32)
        if material.metal is None
        else material.metal[..., None].astype(np.float32) / 255,
    ]
    return np.ascontiguousarray(np.concatenate(parts, axis=-1))


@derived(lambda scene, material_id: scene.material_ref(material_id))
def _pictures(scene: Scene, material_id: str) -> np.ndarray:
    return pictures(scene.material(material_id))


def blend_values(
    scene: Scene,
    owner: str,
    uv: np.ndarray,
    base_uv: np.ndarray,
    slots: np.ndarray,
    covers: list[tuple[PatinaPlan, np.ndarray]],
    sides: Sides | None = None,
    base_turn: np.ndarray | None = None,
    exposure: np.ndarray | None = None,
    up: np.ndarray | None = None,
    damp: np.ndarray | None = None,
    tint: np.ndarray | None = None,
) -> np.ndarray:
    """(N, WIDTH) float32 at points: the channels named in `surfaces/channels.py`.

    Parameters
    ----------
    uv : (N, 2) coordinates in metres, for tiling materials and patinas
    base_uv : (N, 2) coordinates of materials that do not tile
    slots : (N,) slot of each point
    covers : the patinas, lowest first, each with its cover (N,) at the points
    sides : places (N, P, 2) and shares (N, P) where pictures are laid on from more than one side, instead of `uv`
    base_turn : (N, 2, 2) from the frame of `base_uv` to that of `uv`, for the relief of what does not tile
    exposure : (N,) how far the points lie open to the sky, or None where weather does not reach
    up : (N,) upward part of the normals of the shape, where anything falls
    damp : (N, 2) how wet the points are besides what falls on them, and the mud on them, where any water stands or runs
    tint : (N, 3) colours the model has at its vertices, by which the base is multiplied
    """
    places, shares = sides_or(uv, sides)
    out, depth = np.zeros((len(uv), channels.WIDTH), np.float32), np.zeros(len(uv), np.float32)
    out[:, channels.HEIGHT], amounts = stack_heights(scene, owner, uv, base_uv, slots, covers, sides)
    for surface, on in bases(scene, owner, slots):
        image, material = _pictures(scene, surface.material), scene.material(surface.material)
        depth[on], part = material.depth, np.zeros((len(on), 7), np.float32)
        if material.tile > 0:
            _base(places[on], shares[on], material.tile, MACRO, image, part)
        else:
            _base(*sides_or(base_uv[on], None), 1.0, 0.0, image, part)
            if base_turn is not None:
                part[:, channels.SLOPE] = _turned(part[:, channels.SLOPE], base_turn[on])
        out[on, :7] = part
        out[on, channels.ANSWER] = scene.answer(scene.response(surface.owner), surface.material)
    if tint is not None:
        out[:, channels.COLOUR] *= tint
    for (plan, _), amount in zip(covers, amounts, strict=True):
        finish, material = plan.finish, scene.material(plan.finish.material)
        _blend_layer(
            places, shares, amount, layer_tile(plan, material.tile), _pictures(scene, finish.material),
            linear_colour(finish.tint), finish.variation, 4.0 * finish.variation_size, finish.roughness,
            finish.relief, finish.stain, float(finish.film), material.metalness, np.array(scene.answer(finish, finish.material), np.float32), out,
        )  # fmt: skip
    if exposure is not None:
        fall_on(scene.site.weather.fallen, exposure, up, damp, depth, out)
    return out


def fall_on(
    fallen: Fallen, exposure: np.ndarray, up: np.ndarray | None, damp: np.ndarray | None, depth: np.ndarray,
    out: np.ndarray,
) -> None:  # fmt: skip
    """What the weather lays on surfaces, in place: dust, water, frost, and snow over all.

    Parameters
    ----------
    exposure : (N,) how far each place lies open to the sky
    up : (N,) upward part of the normals of the shape; without it nothing but water
    damp : (N, 2) wetness besides what falls, and mud
    depth : (N,) metres of relief of what each place is made of
    out : (N, WIDTH) the channels of `surfaces/channels.py`
    """
    if up is not None and fallen.dust > 0:
        _dusty(fallen.dust, up, depth, out)
    if damp is None:
        damp = np.zeros((len(exposure), 2), np.float32)
    else:
        _muddy(damp[:, 1], depth, out)
    _wet(fallen.wetness, fallen.dried, exposure, damp[:, 0], depth, out)
    if up is not None and fallen.frost > 0:
        _frosted(fallen.frost, exposure, up, depth, out)
    if up is not None and fallen.snow > 0:
        _snow(fallen.snow, exposure, up, depth, out)


def _as_bytes(values: np.ndarray) -> BakedMaps:
    """(…, WIDTH) as `blend_values` gives them."""
    normal = np.concatenate([values[..., channels.SLOPE], np.ones_like(values[..., :1])], axis=-1)
    normal /= np.linalg.norm(normal, axis=-1, keepdims=True)
    return BakedMaps(
        to_bytes(linear_to_srgb(values[..., channels.COLOUR])),
        to_bytes(values[..., channels.ROUGHNESS]),
        to_bytes(values[..., channels.METALNESS]),
        to_bytes(normal * 0.5 + 0.5),
        np.ascontiguousarray(values[..., channels.HEIGHT]),
        to_bytes(values[..., channels.WETNESS]),
    )


def _worked_in(scene: Scene, owner: str, resolution: int, cover_limit: int = VIEW_LIMIT) -> list[Any]:
    finishes = [plan.finish for _, plan in stack(scene, owner)]
    laid = [(finish, scene.material_ref(finish.material)) for finish in finishes]
    materials = [(s.slot, scene.material_ref(s.material)) for s in scene.surfaces_of(owner)]
    now = scene.site.weather
    # Rime grows on what is scattered alone.
    weather = [list(now.fallen[:-1]), sky_exposure.ref(scene, owner), damp_refs(scene, owner)] if reached(scene) else []
    answers = scene.response(owner).model_dump(include=RESPONSE)
    return [
        scene.mesh.ref(owner),
        resolution,
        owner_covers.ref(scene, owner, cover_limit),
        laid,
        materials,
        weather,
        answers,
    ]


@derived(_worked_in, keep="not")
def bake_maps(scene: Scene, owner: str, resolution: int, cover_limit: int = VIEW_LIMIT) -> BakedMaps:
    """Baked maps of an owner at `resolution`² texels, some rows at a time: all at once would take gigabytes."""
    mesh = scene.mesh(owner)
    assert mesh.uv2 is not None
    base_turn = None if mesh.base_uv is None else _frame_turn(mesh, mesh.base_uv, mesh.uv)
    frames = base_turn, _frame_turn(mesh, mesh.uv, mesh.uv2)
    maps = owner_covers(scene, owner, cover_limit)
    out: BakedMaps | None = None
    rows = max(1, _AT_ONCE // resolution)
    for begin in range(0, resolution, rows):
        end = min(resolution, begin + rows)
        first, last = max(0, begin - _MARGIN), min(resolution, end + _MARGIN)
        table = texel_table(mesh, resolution, (first, last))
        found = _bake_rows(scene, owner, table, maps, frames)
        out = out or _empty(found, resolution)
        for field in fields(BakedMaps):
            spread = table.spread(getattr(found, field.name))
            getattr(out, field.name)[begin:end] = spread[begin - first : end - first]
    assert out is not None
    return out


def _empty(like: BakedMaps, resolution: int) -> BakedMaps:
    """Room for whole maps of the kind that some texels have."""
    made = {f.name: getattr(like, f.name) for f in fields(BakedMaps)}
    return BakedMaps(**{n: np.empty((resolution, resolution, *v.shape[1:]), v.dtype) for n, v in made.items()})


def _bake_rows(
    scene: Scene, owner: str, table: TexelTable, maps: np.ndarray, frames: tuple[np.ndarray | None, np.ndarray]
) -> BakedMaps:
    """What lies at the texels of a table, (N, …) each; `maps` are the owner's covers."""
    mesh = scene.mesh(owner)
    corner = mesh.faces[table.face]
    w = np.column_stack([1 - table.bary.sum(axis=1), table.bary[:, 0], table.bary[:, 1]])
    uv = np.einsum("nk,nkc->nc", w, mesh.uv[corner]).astype(np.float32)
    base_uv = uv if mesh.base_uv is None else np.einsum("nk,nkc->nc", w, mesh.base_uv[corner]).astype(np.float32)
    covers = [(plan, _resampled(maps[k], table.points.uv2)) for k, (_, plan) in enumerate(stack(scene, owner))]
    seen = ground_triplanar(scene, table.points.positions[:, [0, 2]]) if owner == GROUND else None
    base_turn = None if frames[0] is None else frames[0][table.face]
    opened, pools = exposure_at(scene, owner, table.points.uv2), damp_at(scene, owner, table.points.uv2)
    up = np.ascontiguousarray(table.points.normals[:, 1], np.float32)
    tint = None if mesh.colour is None else np.einsum("nk,nkc->nc", w, mesh.colour[corner, :3])
    values = blend_values(
        scene, owner, uv, base_uv, table.points.slots, covers, seen, base_turn, opened, up, pools, tint
    )
    values[:, channels.SLOPE] = _turned(values[:, channels.SLOPE], frames[1][table.face])
    return _as_bytes(values)


def _gradient(mesh: Mesh, uv: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(F, 3) directions in which u and v of a coordinate set grow along each face, unit length."""
    p, t = mesh.positions[mesh.faces].astype(np.float64), uv[mesh.faces].astype(np.float64)
    e1, e2 = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    d1, d2 = t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]
    det = d1[:, 0] * d2[:, 1] - d1[:, 1] * d2[:, 0]
    sign = np.where(det < 0, -1.0, 1.0)[:, None]
    along_u = (e1 * d2[:, 1:2] - e2 * d1[:, 1:2]) * sign
    along_v = (e2 * d1[:, 0:1] - e1 * d2[:, 0:1]) * sign
    unit = [g / np.maximum(np.linalg.norm(g, axis=1, keepdims=True), 1e-12) for g in (along_u, along_v)]
    return unit[0], unit[1]


def _frame_turn(mesh: Mesh, one: np.ndarray, other: np.ndarray) -> np.ndarray:
    """(F, 2, 2) from tangent components in the frame of one set of coordinates to those in the frame of another."""
    u, v = _gradient(mesh, one)
    u2, v2 = _gradient(mesh, other)
    dot = lambda a, b: np.einsum("ij,ij->i", a, b)  # noqa: E731
    return np.stack([np.stack([dot(u, u2), dot(v, u2)], -1), np.stack([dot(u, v2), dot(v, v2)], -1)], -2)


def _turned(xy: np.ndarray, turn: np.ndarray) -> np.ndarray:
    return np.einsum("nij,nj->ni", turn, xy).astype(np.float32)


def _resampled(image: np.ndarray, uv: np.ndarray) -> np.ndarray:
    return np.ascontiguousarray(sample_map(image, uv), np.float32)
