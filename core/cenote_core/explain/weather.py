"""Why here, for the weather: how much snow lies and water stands at a spot, and what let it come or kept it away."""

from __future__ import annotations

import numpy as np

from ..columns.grid import Columns, columns_of
from ..mesh.mesh import Points
from ..mesh.texels import sample_map
from ..plan import GROUND
from ..pools.standing import standing_water
from ..scene.scene import Scene
from ..snow.cover import lying_ref
from ..snow.fall import reach, wind_of
from ..surfaces import formulas
from ..waters.bodies import in_water, waters
from ..waters.look import meets_mud
from ..weather.exposure import damp_at, sky_exposure, wetted
from .verdict import Line, Verdict

_BESIDE = 0.15
"""Metres above its columns from which a spot is not on top of its owner."""


def weather_verdicts(scene: Scene, owner: str, points: Points) -> list[Verdict]:
    """What lies and stands at a spot of an owner."""
    now = scene.site.weather
    node = _node(columns_of(scene, owner), points.positions[0].astype(np.float64))
    up = float(points.normals[0, 1])
    found = []
    if in_water(scene, owner):
        found += _open_water(scene, points.positions[0].astype(np.float64))
    if now.snow > 0:
        found.append(_snow(scene, owner, node, up))
    if now.standing > 0:
        depth = float(standing_water(scene, owner, now.standing / 1000).depth[node]) if node else 0.0
        lines = [
            Line("water in the hollow", depth * 1000, 1.0, "a hollow that filled" if depth else "no hollow here", "mm")
        ]
        found.append(Verdict("weather", "weather", "standing water", depth > 0, f"{depth * 1000:.0f} mm deep", lines))
    if now.wetness > 0 or wetted(scene):
        found.append(_wet(scene, owner, points))
    return found


def _open_water(scene: Scene, at: np.ndarray) -> list[Verdict]:
    """The ground's own water over a spot, if there is any."""
    columns, found = columns_of(scene, GROUND), waters(scene)
    node = _node(columns, at)
    if node is None or not found.depth[node] > 0:
        return []
    form = scene.site.ground.waters()[int(found.which[node])]
    fast = float(np.linalg.norm(found.speed[node]))
    clear = float(np.exp(-meets_mud(form.murk) * found.depth[node]))
    lines = [
        Line("level", float(found.level[node]), 1.0, "height of its surface", "m"),
        Line("runs", fast, 1.0, "it stands still" if fast == 0 else "faster where it is narrow or shallow", "m/s"),
        Line("seen through", clear, clear, f"{clear:.0%} of the light that comes straight up from the floor is left"),
    ]
    return [Verdict(GROUND, "water", "water", True, f"{found.depth[node] * 100:.0f} cm deep.", lines)]


def _node(columns: Columns, at: np.ndarray) -> tuple[int, int] | None:
    """The column a spot is on, or None for one that is not on top of what carries it."""
    row, column = (int(round(float(v[0]))) for v in columns.node_of(at[None, [0, 2]]))
    inside = 0 <= row < columns.height.shape[0] and 0 <= column < columns.height.shape[1]
    if not inside or not abs(columns.height[row, column] - at[1]) < _BESIDE:
        return None
    return row, column


def _snow(scene: Scene, owner: str, node: tuple[int, int] | None, up: float) -> Verdict:
    found = lying_ref(scene, owner)
    depth = max(float(found.value().depth[node]), 0.0) if found and node else 0.0
    holds = formulas.snow_depth(1.0, 1.0, up)
    lines = [Line("steepness", up, holds, "holds on what is this level" if holds > 0 else "too steep to hold")]
    if node:
        caught = max(float(reach(scene, owner, wind_of(scene))[node]), 0.0)
        lines.append(Line("falls here", caught, caught, f"{caught:.0%} of what falls in the open reaches it"))
    else:
        lines.append(Line("falls here", 0.0, 0.0, "not on top: something lies over it, or it is a side"))
    if scene.site.weather.melted > 0:
        lines.append(Line("melted", scene.site.weather.melted, 1.0, "taken by the sun in the open", "cm"))
    return Verdict("weather", "weather", "snow", depth > 0, f"{depth * 100:.1f} cm deep", lines)


def _wet(scene: Scene, owner: str, points: Points) -> Verdict:
    open_sky = float(sample_map(sky_exposure(scene, owner), points.uv2)[0])
    share = formulas.wet_share(scene.site.weather.wetness, scene.site.weather.dried, open_sky, 0.5)
    lines = [Line("open sky", open_sky, min(1.0, 2 * open_sky), "rain reaches it by how far it lies open")]
    beside = damp_at(scene, owner, points.uv2)
    if beside is not None:
        water = float(beside[0, 0])
        lines.append(Line("water near by", water, water, "it stands or runs here, or rises in the foot"))
        share = max(share, water)
    return Verdict("weather", "weather", "wetness", share > 0, f"{share:.0%} wet", lines)
