"""Grasses of a site's own: their tufts, level by level."""

from __future__ import annotations

import numpy as np

from ..base.packet import pack
from ..kit.kit import drawn_lods_for_now
from ..kit.site_grasses import tuft_ids
from ..mesh.packed import mesh_packet
from ..plan import GrassPlan
from ..scene.scene import Scene
from .kind import Draft, Kind, Part


def _preview(draft: Draft) -> bytes:
    """The tufts of a grass as it would be: their levels of detail, one array of bytes each."""
    tufts = tuft_ids(draft.key)
    levels = {
        f"{asset}/{n}": np.frombuffer(mesh_packet(lod), np.uint8)
        for asset in tufts
        for n, lod in enumerate(drawn_lods_for_now(draft.after.kit, asset))
    }
    return pack(levels, {"own": tufts})


def _level(name: str) -> tuple[str, int]:
    """Asset and level of `asset/level`; a level that is none is −1."""
    asset, _, level = name.partition("/")
    return asset, int(level) if level.isdecimal() and len(level) < 3 else -1


def _there(scene: Scene, name: str) -> bool:
    asset, level = _level(name)
    return asset in scene.kit.own_ids() and 0 <= level < len(drawn_lods_for_now(scene.kit, asset))


def _tuft(scene: Scene, name: str) -> bytes:
    asset, level = _level(name)
    return mesh_packet(drawn_lods_for_now(scene.kit, asset)[level])


KINDS_HERE = (
    Kind(
        plan=GrassPlan,
        place=30,
        parts={"own": Part(_there, lambda scene, name: scene.kit.asset_ref(_level(name)[0]).key, _tuft)},
        preview=_preview,
        trial=lambda scene, key, plan: [scene.kit.asset(tuft) for tuft in tuft_ids(key)],
    ),
)
