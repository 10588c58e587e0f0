"""What has fallen and what hangs: snow, pools, icicles, drops, and where rain hits, as the plate is told of them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal

import numpy as np
from pydantic import BaseModel

from ..base.packet import pack
from ..drifts.floating import floating, floating_ref
from ..eaves.drips import all_drips, drips_ref, drops, drops_ref
from ..eaves.icicles import icicles, icicles_ref
from ..falling.splashes import rained_on
from ..graph.derived import Ref, derived
from ..hashing import content_hash
from ..mesh.mesh import Mesh
from ..mesh.packed import mesh_packet
from ..plan import GROUND
from ..pools.surface import surface_ref, water_surface
from ..pools.wetness import damp_map, damp_ref
from ..scene.scene import Scene
from ..snow.cover import cover_ref, snow_cover
from ..weather.exposure import wetted
from .kind import Address, Part, or_ring

_TOPS_CELL, _TOPS_ABOVE, _MOST_TOPS = 0.3, 200.0, 400_000
"""Metres between places at which the plate knows what roofs there are, from which they are looked for, and how many there
are of a site: on a large one they lie further apart."""


class SnowOut(BaseModel):
    """Snow that lies on an owner as the plate knows it."""

    owner: str
    url: str


class PoolOut(BaseModel):
    """Water on an owner as the plate knows it: the surface of what stands, and how wet that and what runs down make it."""

    owner: str
    url: str
    damp: str


class BodyOut(BaseModel):
    """Bodies of ice or water, or leaves that float, on an owner as the plate knows them."""

    owner: str
    stuff: Literal["ice", "water", "leaves"]
    url: str


def _snow_version(scene: Scene, owner: str) -> str:
    return or_ring(lambda: found.key if (found := cover_ref(scene, owner)) else "")


def _snow_packet(scene: Scene, owner: str) -> bytes:
    """The cover of snow on an owner, in the site's coordinates."""
    cover = snow_cover(scene, owner)
    return mesh_packet(cover.mesh, {}, {"lift": cover.lift}) if cover else mesh_packet(None)


def _snow(scene: Scene, address: Address) -> list[dict[str, str]]:
    if not scene.site.weather.snow > scene.site.weather.melted:
        return []
    return [
        {"owner": o, "url": address("snow", o, _snow_version(scene, o))} for o in scene.owners() if cover_ref(scene, o)
    ]


def _pool_version(scene: Scene, owner: str) -> str:
    return or_ring(lambda: found.key if (found := surface_ref(scene, owner)) else "")


def _damp_version(scene: Scene, owner: str) -> str:
    return or_ring(lambda: found.key if (found := damp_ref(scene, owner)) else "")


def _damp_packet(scene: Scene, owner: str) -> bytes:
    values = damp_map(scene, owner)
    if values is None:
        return pack({}, {})
    # A texel as the card reads it: wetness, mud, nothing, nothing.
    texels = np.zeros((*values.shape[:2], 4), np.uint8)
    texels[..., :2] = np.clip(values * 255 + 0.5, 0, 255)
    return pack({"damp": texels}, {})


def _pools(scene: Scene, address: Address) -> list[dict[str, str]]:
    if not wetted(scene):
        return []
    return [
        {
            "owner": o,
            "url": address("pool", o, _pool_version(scene, o)),
            "damp": address("damp", o, _damp_version(scene, o)),
        }
        for o in scene.owners()
    ]


def _stands(scene: Scene, owner: str) -> bool:
    return owner in scene.owners()


def _hits_version(scene: Scene, owner: str) -> str:
    now = scene.site.weather
    keys = [or_ring(lambda o=o: found.key if (found := drips_ref(scene, o)) else "") for o in scene.owners()]  # type: ignore[misc]
    return content_hash(keys, now.rain > 0, now.wind_from, now.wind, _roofs_version(scene, owner))


@derived(
    lambda scene, wind_from, wind: [wind_from, wind, scene.rays.ref(tuple(scene.owners())), scene.mesh.ref(GROUND)],
    keep="disk",
)
def _rained_on(scene: Scene, wind_from: float, wind: float) -> np.ndarray:
    return rained_on(scene.standing(), *scene.mesh(GROUND).bounds(), wind_from, wind)


def _hits_packet(scene: Scene, owner: str) -> bytes:
    """`splashes` (N, 3) places rain hits; `drips` (M, 6) where drops hang, metres they fall, seconds, share gone by."""
    now, dripping = scene.site.weather, all_drips(scene)
    arrays: dict[str, np.ndarray] = {}
    if now.rain > 0:
        arrays["splashes"] = _rained_on(scene, now.wind_from, now.wind)
    if dripping is not None:
        columns = (dripping.at, dripping.air, dripping.period, dripping.phase)
        arrays["drips"] = np.column_stack(columns).astype(np.float32)
    return pack(arrays, {})


def _roofs_version(scene: Scene, owner: str) -> str:
    return content_hash([scene.mesh.ref(o).key for o in scene.owners()])


def _roofs_packet(scene: Scene, owner: str) -> bytes:
    """`tops` (R, C) metres of the uppermost thing over the ground's box."""
    low, high = scene.mesh(GROUND).bounds()
    return pack({"tops": tops(scene)}, {"low": low.tolist(), "high": high.tolist()})


def _roofs(scene: Scene, address: Address) -> str:
    now = scene.site.weather
    needed = now.falls or max(now.rain, now.snowfall) > 0
    return address("roofs", GROUND, _roofs_version(scene, GROUND)) if needed else ""


@derived(lambda scene: [scene.rays.ref(tuple(scene.owners())), scene.mesh.ref(GROUND)], keep="disk")
def tops(scene: Scene) -> np.ndarray:
    """(R, C) float32 metres of height of the uppermost thing over the ground's box: under it nothing falls."""
    low, high = scene.mesh(GROUND).bounds()
    size = high - low
    cell = max(_TOPS_CELL, float(np.sqrt(size[0] * size[2] / _MOST_TOPS)))
    rows, columns = (int(np.ceil(size[k] / cell)) for k in (2, 0))
    x, z = np.meshgrid((np.arange(columns) + 0.5) / columns, (np.arange(rows) + 0.5) / rows)
    at = np.column_stack([x.ravel(), np.full(x.size, 1.0), z.ravel()]) * size + low
    at[:, 1] = _TOPS_ABOVE
    down = np.tile(np.array([0, -1, 0], np.float32), (len(at), 1))
    met = scene.standing().meet(at.astype(np.float32), down, 2 * _TOPS_ABOVE)
    return np.where(met.hit, met.positions[:, 1], -_TOPS_ABOVE).astype(np.float32).reshape(rows, columns)


def _hits(scene: Scene, address: Address) -> str:
    now = scene.site.weather
    return address("hits", GROUND, _hits_version(scene, GROUND)) if max(now.rain, now.drips) > 0 else ""


def _hanging(
    stuff: str, ref: Callable[[Scene, str], Ref[Any] | None], made: Callable[[Scene, str], Mesh | None]
) -> tuple[Part, Callable[[Scene, Address], list[dict[str, str]]]]:
    """What hangs from lower edges or floats: how its meshes are asked for, and the list of them."""

    def version(scene: Scene, owner: str) -> str:
        return or_ring(lambda: found.key if (found := ref(scene, owner)) else "")

    def listed(scene: Scene, address: Address) -> list[dict[str, str]]:
        return [
            {"owner": o, "stuff": stuff, "url": address(f"hanging-{stuff}", o, version(scene, o))}
            for o in scene.owners()
            if ref(scene, o)
        ]

    return Part(_stands, version, lambda scene, owner: mesh_packet(made(scene, owner))), listed


_ICE, _list_ice = _hanging("ice", icicles_ref, icicles)
_DROPS, _list_drops = _hanging("water", drops_ref, drops)
_LEAVES, _list_leaves = _hanging("leaves", floating_ref, floating)

SECTIONS: dict[str, Any] = {
    "snow": list[SnowOut],
    "pools": list[PoolOut],
    "bodies": list[BodyOut],
    "hits": str,
    "roofs": str,
}
"""What the manifest says of it."""
PARTS = {
    "snow": Part(_stands, _snow_version, _snow_packet),
    "pool": Part(_stands, _pool_version, lambda scene, owner: mesh_packet(water_surface(scene, owner))),
    "damp": Part(_stands, _damp_version, _damp_packet),
    "hits": Part(_stands, _hits_version, _hits_packet),
    "roofs": Part(_stands, _roofs_version, _roofs_packet),
    "hanging-ice": _ICE,
    "hanging-water": _DROPS,
    "hanging-leaves": _LEAVES,
}


def listed(scene: Scene, address: Address) -> dict[str, Any]:
    """The values of `SECTIONS`."""
    return {
        "snow": _snow(scene, address),
        "pools": _pools(scene, address),
        "bodies": [each for listed in (_list_ice, _list_drops, _list_leaves) for each in listed(scene, address)],
        "hits": _hits(scene, address),
        "roofs": _roofs(scene, address),
    }
