"""Rain and snow in the air, drawn over a proof: each drop and flake as the streak it leaves while the shutter is open.

They are too fine and too many to be traced: each would be a single bright pixel. They are laid over the clean picture
where nothing is before them, in the light of the whole sky, which is what a drop shows turned upside down and a flake
scatters.
"""

from __future__ import annotations

import numpy as np

from ..base.kernels import kernel
from ..base.physics import GRAVITY
from ..eaves.drips import LARGEST, Drips, all_drips
from ..falling.drops import SHUTTER, Falling, ends, rain_in_the_air, snow_in_the_air
from ..falling.splashes import LIFE, crowns, rain_hits
from ..light.sky import Sky
from ..plan import StationPlan
from ..scene.scene import Scene
from ..stations.camera import axes, field_of_view

_NEAREST = 0.7
"""Metres from the eye within which a drop would be a blur over the whole picture."""
_SEEN_RAIN, _SEEN_DRIP, _SEEN_SNOW = 0.8, 0.5, 0.95
"""How much a drop of rain hides of what is behind it, one that has dripped, which shows more of it, and a flake."""
_FLAKE_WHITE, _SUNLIT = 0.85, 0.25
"""Share of light a flake throws back, and share of the sun's on it that goes toward the eye."""
_LINGERS = 8.0
"""A streak pales once it is so many times as long as wide."""
_DRIPS_SEEN = 14.0
"""Metres from the eye within which single drips are seen."""
_OPEN = 60.0
"""Metres over a drop within which a roof keeps it from being there."""


def falling_over(
    depth: np.ndarray, scene: Scene, station: StationPlan, size: tuple[int, int], box: tuple[int, int, int, int]
) -> np.ndarray:
    """(H, W, 4) what falls before a picture, of a box of one of a size in pixels: colour times share, and the share.

    `depth` (H, W) metres, 0 for the sky.
    """
    now = scene.site.weather
    eye = axes(station)[0].astype(np.float64)
    out = np.zeros((*depth.shape, 4), np.float32)
    wind = now.wind_from, now.wind, now.moment
    light = _mean_light(scene.sky())
    if now.rain > 0:
        drops = _open(scene, rain_in_the_air(eye, now.rain, *wind), eye)
        _lay(out, depth, drops, station, size, box, light, _SEEN_RAIN)
        crowned = crowns(*rain_hits(scene.standing(), eye, now.rain, *wind))
        _lay(out, depth, crowned, station, size, box, light, _SEEN_RAIN)
    dripping = all_drips(scene)
    if dripping is not None:
        for drops in _on_their_way(dripping, now.moment, eye):
            _lay(out, depth, drops, station, size, box, light, _SEEN_DRIP)
    if now.snowfall > 0:
        flakes = _open(scene, snow_in_the_air(eye, now.snowfall, *wind), eye)
        sunlit = scene.sky().sun_colour * _SUNLIT / np.pi
        _lay(out, depth, flakes, station, size, box, (light + sunlit) * _FLAKE_WHITE, _SEEN_SNOW)
    return out


def _on_their_way(dripping: Drips, moment: float, eye: np.ndarray) -> list[Falling]:
    """Drops from lower edges as they fall, and the crowns of those that have just come down."""
    since = dripping.since(moment)
    lasts = np.sqrt(2 * dripping.air / GRAVITY)
    near = np.linalg.norm(dripping.at - eye, axis=1) < _DRIPS_SEEN
    falls, hit = near & (since < lasts), near & (since >= lasts) & (since < lasts + LIFE)
    t = since[falls, None]
    down = np.array([0.0, -GRAVITY, 0.0])
    count = int(falls.sum())
    drops = Falling(dripping.at[falls] + 0.5 * down * t * t, down * t, np.full(count, 2 * LARGEST), SHUTTER)
    ground = dripping.at[hit] - dripping.air[hit, None] * [0.0, 1.0, 0.0]
    return [drops, crowns(ground, np.tile([0.0, 1.0, 0.0], (len(ground), 1)), (since - lasts)[hit])]


def _mean_light(sky: Sky) -> np.ndarray:
    """(3,) mean radiance of the whole sky and the country below it."""
    rows = sky.image.shape[0]
    weight = np.sin((np.arange(rows) + 0.5) / rows * np.pi)
    return np.asarray((sky.image.mean(axis=1) * weight[:, None]).sum(axis=0) / weight.sum())


def _open(scene: Scene, falling: Falling, eye: np.ndarray) -> Falling:
    """Those with nothing over them, and not right before the eye."""
    if not len(falling.size):
        return falling
    up = np.array([0.0, 1.0, 0.0])
    free = scene.standing().open_toward(falling.at.astype(np.float32), up, _OPEN) > 0
    on = free & (np.linalg.norm(falling.at - eye, axis=1) > _NEAREST)
    return Falling(falling.at[on], falling.velocity[on], falling.size[on], falling.shutter)


def _lay(
    out: np.ndarray, depth: np.ndarray, falling: Falling, station: StationPlan, size: tuple[int, int],
    box: tuple[int, int, int, int], light: np.ndarray, opacity: float,
) -> None:  # fmt: skip
    eye, right, up, forward = axes(station)
    half = np.tan(np.radians(field_of_view(station.lens)) / 2)
    pixels = size[0] / 2 / half
    seen = []
    for at in ends(falling):
        delta = at - eye
        far = np.maximum(delta @ forward, 1e-3)
        x = size[0] / 2 + (delta @ right) / far * pixels - box[0]
        y = size[1] / 2 - (delta @ up) / far * pixels - box[1]
        seen.append(np.column_stack([x, y, np.linalg.norm(delta, axis=1), far]))
    before = (seen[0][:, 3] > _NEAREST) & (seen[1][:, 3] > _NEAREST)
    width = falling.size * pixels / seen[0][:, 3]
    _draw(out, depth, seen[0][before], seen[1][before], width[before], light.astype(np.float32), opacity)


@kernel
def _draw(
    out: np.ndarray, depth: np.ndarray, start: np.ndarray, end: np.ndarray, width: np.ndarray, light: np.ndarray,
    opacity: float,
) -> None:  # fmt: skip
    rows, columns = depth.shape
    for n in range(len(start)):
        # What is narrower than a pixel covers a share of it.
        radius = max(width[n], 1.0) / 2
        thin = min(1.0, width[n])
        ax, ay, bx, by = start[n, 0], start[n, 1], end[n, 0], end[n, 1]
        low_x, high_x = max(0, int(min(ax, bx) - radius - 1)), min(columns - 1, int(max(ax, bx) + radius + 1))
        low_y, high_y = max(0, int(min(ay, by) - radius - 1)), min(rows - 1, int(max(ay, by) + radius + 1))
        dx, dy = bx - ax, by - ay
        long = max(dx * dx + dy * dy, 1e-9)
        # The longer the way while the shutter is open, the less it stays over any pixel of it.
        stays = min(1.0, 2 * radius / (np.sqrt(long) + 2 * radius) * _LINGERS)
        for y in range(low_y, high_y + 1):
            for x in range(low_x, high_x + 1):
                if 0.0 < depth[y, x] < start[n, 2]:
                    continue
                px, py = x + 0.5 - ax, y + 0.5 - ay
                along = min(1.0, max(0.0, (px * dx + py * dy) / long))
                away = np.sqrt((px - along * dx) ** 2 + (py - along * dy) ** 2)
                share = opacity * thin * stays * min(1.0, max(0.0, radius + 0.5 - away))
                for k in range(3):
                    out[y, x, k] += (light[k] - out[y, x, k]) * share
                out[y, x, 3] += (1.0 - out[y, x, 3]) * share
