"""Droplets in the path tracer's tables: each as fine as it is seen, and none that are less than a pixel."""

from __future__ import annotations

import numpy as np

from ..beads.base_pool import foot_pool
from ..beads.growth import Droplets
from ..beads.profile import foot_of, profiles
from ..beads.shape import bodies
from ..beads.site_droplets import carriers, droplets, shown
from ..mesh.mesh import Mesh
from ..patinas.drawn import as_film
from ..plan import PatinaPlan
from ..stations.camera import axes, field_of_view, in_view
from ..surfaces.clear import WATER
from .clear import WATER_LOSES, add_bodies
from .tables import Shot, Tables

_PIXELS = (0.6, 1.6, 3.5, 9.0)
"""Pixels of radius from which droplets are drawn at all, and from which they are of the next finer kind."""


def add_beads(out: Tables, shot: Shot) -> None:
    """Put all beads that are bodies into the tables."""
    meshes = []
    for key, plan in shown(shot.scene):
        for owner in carriers(shot.scene, plan):
            if key in {far for far, _ in too_far(shot, owner)}:
                continue
            for angle, drops in droplets(shot.scene, key, plan, owner).items():
                meshes.append(seen(shot, drops, angle, plan.uneven))
            pool = foot_pool(shot.scene, key, plan, owner) if plan.pool > 0 else None
            if pool is not None:
                meshes.append(pool)
    add_bodies(out, [mesh for mesh in meshes if len(mesh.faces)], WATER, WATER_LOSES)


def too_far(shot: Shot, owner: str) -> list[tuple[str, PatinaPlan]]:
    """Shaped droplets on an owner that are less than a pixel from the station, as films: from there they are drawn."""
    low, high = shot.meshes[owner].bounds()
    eye = axes(shot.station)[0]
    away = float(np.linalg.norm(eye - np.clip(eye, low, high)))
    pixel = 2 * np.tan(np.radians(field_of_view(shot.station.lens)) / 2) / shot.size[0]
    small = lambda plan: plan.size / 1000 < _PIXELS[0] * pixel * away  # noqa: E731
    return [
        (key, as_film(plan)) for key, plan in shown(shot.scene) if owner in carriers(shot.scene, plan) and small(plan)
    ]


def seen(shot: Shot, drops: Droplets, angle: float, uneven: float) -> Mesh:
    """Droplets of a contact angle as bodies, as a shot's station sees them."""
    made = profiles(angle)
    away = np.linalg.norm(drops.at - axes(shot.station)[0], axis=1)
    pixel = 2 * np.tan(np.radians(field_of_view(shot.station.lens)) / 2) / shot.size[0]
    size = foot_of(made, drops.volume) / np.maximum(away * pixel, 1e-9)
    kind = np.searchsorted(_PIXELS, size, side="right") - 1
    keep = (kind >= 0) & in_view(shot.station, shot.aspect, drops.at, 0.05)
    return bodies(drops.only(keep), made, uneven, kind[keep])
