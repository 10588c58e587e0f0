"""A mesh as it travels to the browser."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..base.packet import pack
from .mesh import Mesh


def mesh_packet(
    mesh: Mesh | None, info: dict[str, Any] | None = None, more: dict[str, np.ndarray] | None = None
) -> bytes:
    """A mesh with its faces sorted by slot, so that each slot is one run of indices; `more` values of its vertices."""
    if mesh is None:
        return pack({}, {"empty": True, **(info or {})})
    order = np.argsort(mesh.slots, kind="stable")
    counts = np.bincount(mesh.slots, minlength=len(mesh.slot_names))
    arrays = {
        "position": mesh.positions,
        "normal": mesh.normals,
        "uv": mesh.uv,
        "index": mesh.faces[order].astype(np.uint32).ravel(),
    }
    if mesh.uv2 is not None:
        arrays["uv1"] = mesh.uv2
    if mesh.base_uv is not None:
        arrays["baseUv"] = mesh.base_uv
    if mesh.colour is not None:
        arrays["color"] = mesh.colour
    if mesh.sway is not None:
        arrays["sway"] = np.clip(mesh.sway * 127 + 0.5, 0, 255).astype(np.uint8)
    return pack(
        {**arrays, **(more or {})},
        {"slots": list(mesh.slot_names), "counts": counts.tolist(), "ownUv": mesh.own_uv, **(info or {})},
    )
