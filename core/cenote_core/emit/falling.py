"""Rain and snow in the air before a station, in the path tracer's tables: held as long as the shutter is open."""

from __future__ import annotations

import numpy as np

from ..falling.drops import Falling, rain_in_the_air, snow_in_the_air, streaks
from ..materials.material import Material
from ..mesh.mesh import make_mesh
from ..stations.camera import axes
from ..tracer import tables
from .tables import Shot, Tables

_NEAREST = 0.35
"""Metres from the eye within which a drop would be a blur over the whole picture."""
_SEEN_RAIN, _SEEN_SNOW = 0.16, 0.92
"""Opacity of a streak of rain, through which what is behind it is seen, and of a flake."""


def add_falling(out: Tables, shot: Shot) -> None:
    """Put what falls before a station into the tables, where nothing is over it."""
    weather = shot.scene.site.weather
    eye = axes(shot.station)[0].astype(np.float64)
    wind = weather.wind_from, weather.wind, weather.moment
    if weather.rain > 0:
        _add(out, shot, rain_in_the_air(eye, weather.rain, *wind), eye, _SEEN_RAIN, "streak of rain")
    if weather.snowfall > 0:
        _add(out, shot, snow_in_the_air(eye, weather.snowfall, *wind), eye, _SEEN_SNOW, "flake")


def _add(out: Tables, shot: Shot, falling: Falling, eye: np.ndarray, opacity: float, name: str) -> None:
    away = np.linalg.norm(falling.at - eye, axis=1)
    up = np.array([0.0, 1.0, 0.0])
    open_ = shot.scene.standing().open_toward(falling.at.astype(np.float32), up, 60.0) > 0
    on = (away > _NEAREST) & open_
    if not on.any():
        return
    seen = Falling(falling.at[on], falling.velocity[on], falling.size[on])
    corners, faces = streaks(seen, eye)
    uv = np.tile(np.array([[0, 0], [1, 0], [1, 1], [0, 1]], np.float32), (len(seen.size), 1))
    toward = eye - corners
    normals = (toward / np.linalg.norm(toward, axis=1, keepdims=True)).astype(np.float32)
    surface = out.surface(
        **out.picture(name, _faded(opacity)), flags=tables.CUT_OUT | tables.THIN | tables.FALLEN, translucency=1.0,
        least_roughness=0.3,
    )  # fmt: skip
    mesh = make_mesh(corners, faces, uv=uv, normals=normals)
    out.mesh(mesh, np.full(len(mesh.faces), surface), np.zeros((len(mesh.positions), 4), np.float32))


def _faded(opacity: float, side: int = 32) -> Material:
    """A white picture that fades toward its rim."""
    x, y = np.meshgrid(*[(np.arange(side) + 0.5) / side * 2 - 1] * 2)
    alpha = np.clip(1.6 * (1 - np.hypot(x, y)), 0, 1) * opacity
    flat = np.full((side, side, 3), 128, np.uint8)
    return Material(
        colour=np.full((side, side, 3), 240, np.uint8),
        roughness=np.full((side, side), 200, np.uint8),
        height=np.full((side, side), 128, np.uint8),
        normal=np.concatenate([flat[..., :2], np.full((side, side, 1), 255, np.uint8)], axis=-1),
        tile=0.0,
        alpha=(alpha * 255).astype(np.uint8),
        translucency=1.0,
    )
