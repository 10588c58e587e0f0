"""The sky: Preetham's daylight with drifting cloud, and a horizon of hazed hills. One picture for plate and proof."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..base.compass import sun_direction as toward_sun
from ..base.noise import noise
from ..plan import LightPlan

WIDTH, HEIGHT = 1536, 768


@dataclass(frozen=True)
class Sky:
    """Environment of a site.

    Attributes
    ----------
    image : (H, W, 3) float32
        Linear radiance in scene units, latitude-longitude, row 0 straight up, column 0 looking along −z
        (north), going east. The sun's disk is not in it.
    sun_direction : (3,) float64, toward the sun
    sun_colour : (3,) float64, irradiance on a surface facing it
    haze_colour : (3,) float64
    """

    image: np.ndarray
    sun_direction: np.ndarray
    sun_colour: np.ndarray
    haze_colour: np.ndarray


def sun_direction(plan: LightPlan) -> np.ndarray:
    """Unit vector toward the sun of a plan; north is −z, east is +x."""
    return toward_sun(plan.azimuth, plan.elevation)


def _perez(cos_theta: np.ndarray, gamma: np.ndarray, k: np.ndarray) -> np.ndarray:
    a, b, c, d, e = k
    return np.asarray(
        (1 + a * np.exp(b / np.maximum(cos_theta, 0.01))) * (1 + c * np.exp(d * gamma) + e * np.cos(gamma) ** 2)
    )


def _preetham(directions: np.ndarray, sun: np.ndarray, t: float) -> np.ndarray:
    """Clear-sky colour, linear sRGB, kcd/m² (Preetham, Shirley, Smits, *A Practical Analytic Model for
    Daylight*, 1999): Perez distribution of luminance and chromaticity."""
    coefficients = {
        "Y": [
            0.1787 * t - 1.4630,
            -0.3554 * t + 0.4275,
            -0.0227 * t + 5.3251,
            0.1206 * t - 2.5771,
            -0.0670 * t + 0.3703,
        ],
        "x": [
            -0.0193 * t - 0.2592,
            -0.0665 * t + 0.0008,
            -0.0004 * t + 0.2125,
            -0.0641 * t - 0.8989,
            -0.0033 * t + 0.0452,
        ],
        "y": [
            -0.0167 * t - 0.2608,
            -0.0950 * t + 0.0092,
            -0.0079 * t + 0.2102,
            -0.0441 * t - 1.6537,
            -0.0109 * t + 0.0529,
        ],
    }
    zenith = np.arccos(np.clip(sun[1], 0, 1))
    chi = (4 / 9 - t / 120) * (np.pi - 2 * zenith)
    luminance = (4.0453 * t - 4.9710) * np.tan(chi) - 0.2155 * t + 2.4192
    s = np.array([zenith**3, zenith**2, zenith, 1.0])
    tt = np.array([t * t, t, 1.0])
    mx = np.array(
        [[0.00166, -0.00375, 0.00209, 0], [-0.02903, 0.06377, -0.03202, 0.00394], [0.11693, -0.21196, 0.06052, 0.25886]]
    )
    my = np.array(
        [[0.00275, -0.00610, 0.00317, 0], [-0.04214, 0.08970, -0.04153, 0.00516], [0.15346, -0.26756, 0.06670, 0.26688]]
    )
    zenith_value = {"Y": max(luminance, 0.1), "x": float(tt @ mx @ s), "y": float(tt @ my @ s)}
    cos_theta = np.clip(directions[..., 1], 0.0, 1.0)
    gamma = np.arccos(np.clip(directions @ sun, -1, 1))
    value = {}
    for name, k in coefficients.items():
        at_zenith = _perez(np.array(1.0), np.array(zenith), np.array(k))
        value[name] = zenith_value[name] * _perez(cos_theta, gamma, np.array(k)) / at_zenith
    y = np.clip(value["Y"], 0, None)
    big_x = value["x"] / value["y"] * y
    big_z = (1 - value["x"] - value["y"]) / value["y"] * y
    xyz = np.stack([big_x, y, big_z], axis=-1)
    matrix = np.array([[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]])
    return np.clip(xyz @ matrix.T, 0, None)


def texel_directions(width: int, height: int) -> tuple[np.ndarray, np.ndarray]:
    """Unit vectors (H, W, 3) of a sky picture's texels, and the azimuth (W,) of its columns, radians."""
    elevation = (0.5 - (np.arange(height) + 0.5) / height)[:, None] * np.pi
    azimuth = ((np.arange(width) + 0.5) / width)[None, :] * 2 * np.pi
    directions = np.stack(
        [np.sin(azimuth) * np.cos(elevation), np.sin(elevation) + 0 * azimuth, -np.cos(azimuth) * np.cos(elevation)],
        axis=-1,
    )
    return directions, azimuth[0]


def make_sky(plan: LightPlan) -> Sky:
    """Sky picture, sun and haze of a light plan. Radiance is scaled so that exposure 0 suits open daylight."""
    sun = sun_direction(plan)
    directions, azimuth = texel_directions(WIDTH, HEIGHT)
    clear = _preetham(directions, sun, plan.turbidity) / 16.0 * np.array([0.93, 1.0, 1.10])
    level = float(np.mean(clear[: HEIGHT // 2] @ [0.2126, 0.7152, 0.0722]))
    # Clouds on a plane overhead, read in perspective, lit from the sun's side.
    up = np.maximum(directions[..., 1], 0.03)
    plane = np.stack([directions[..., 0] / (up + 0.12), np.zeros_like(up), directions[..., 2] / (up + 0.12)], axis=-1)
    flat = plane.reshape(-1, 3).astype(np.float32)
    field = noise(flat, 1.7, 6, plan.seed).reshape(up.shape)
    toward = noise(flat + (sun * [0.12, 0, 0.12]).astype(np.float32), 1.7, 6, plan.seed).reshape(up.shape)
    threshold = 0.80 - 0.62 * plan.cloud
    body = np.clip((field - threshold) / 0.22, 0, 1)
    body = body * body * (3 - 2 * body)
    body = np.maximum(body, plan.cloud**3) * np.clip(directions[..., 1] * 14, 0, 1)
    glow = np.clip(directions @ sun, 0, 1)
    light = np.clip(0.62 + 2.2 * (field - toward) + 0.25 * glow**4, 0.3, 1.5)
    tone = np.stack([light * 1.00, light * 0.99, light * 1.0], axis=-1) * level * (2.3 - 1.0 * plan.cloud)
    tone = tone * (1 - 0.1 * (1 - light[..., None]) * np.array([1.0, 0.9, 0.6]))
    image = clear * (1 - body[..., None]) + tone * body[..., None]
    grey = image @ np.array([0.2126, 0.7152, 0.0722])
    image = image * 0.78 + grey[..., None] * 0.22
    horizon = image[HEIGHT // 2 - 12 : HEIGHT // 2 - 4].mean(axis=(0, 1))
    image = _with_land(image, directions, azimuth, horizon, plan)
    strength = 8.5 * (1 - 0.93 * plan.cloud**1.5) * np.clip(np.sin(np.radians(plan.elevation)) * 3.0, 0.15, 1.0) ** 0.35
    warm = np.exp(-np.array([0.06, 0.13, 0.26]) * (0.6 + 0.18 * plan.turbidity) / max(sun[1], 0.06))
    return Sky(image.astype(np.float32), sun, strength * warm, horizon)


def _with_land(
    image: np.ndarray, directions: np.ndarray, azimuth: np.ndarray, horizon: np.ndarray, plan: LightPlan
) -> np.ndarray:
    """Lay three ranges of wooded hills over the horizon, paler the farther, and ground below it."""
    out = image.copy()
    elevation = np.degrees(np.arcsin(np.clip(directions[:, :1, 1], -1, 1)))
    circle = np.column_stack([np.cos(azimuth), np.zeros_like(azimuth), np.sin(azimuth)]).astype(np.float32)
    ranges = ((7.5, 0.9, 0.80, 11), (5.0, 0.55, 0.60, 23), (3.4, 0.35, 0.36, 37))
    for height, size, pale, seed in ranges:
        pale = min(0.95, pale * (0.55 + 0.6 * plan.haze))
        ridge = height * (0.15 + 1.05 * noise(circle, size, 4, plan.seed + seed)) - 1.2
        trees = 0.35 * (noise(circle * 1.0, 0.012, 2, plan.seed + seed + 1) - 0.4) * (1 - pale)
        inside = np.clip((ridge + trees - elevation) / 0.25, 0, 1)[..., None]
        texture = noise(
            (circle[None] * 1.0 + np.array([0, 1, 0], np.float32) * elevation[:, :, None] * 0.05).reshape(-1, 3),
            0.05,
            4,
            seed,
        ).reshape(inside.shape[:2])
        level = float(horizon.mean())
        wood = np.array([0.10, 0.135, 0.065]) * level * (0.55 + 0.9 * texture[..., None])
        tone = wood * (1 - pale) + horizon * np.array([0.86, 0.95, 1.05]) * 0.85 * pale
        out = out * (1 - inside) + tone * inside
    return _with_fields(out, directions, horizon, plan)


EYE = 6.0
"""Height the country round the site is seen from, metres."""


def _with_fields(image: np.ndarray, directions: np.ndarray, horizon: np.ndarray, plan: LightPlan) -> np.ndarray:
    """Lay open country below the horizon: meadows and rough ground in perspective, lost in haze far out."""
    out = image.copy()
    rows = directions[:, 0, 1] < 0
    d = directions[rows]
    distance = EYE / np.maximum(-d[..., 1], 0.004)
    places = np.stack([d[..., 0] * distance, np.zeros_like(distance), d[..., 2] * distance], axis=-1)
    flat = places.reshape(-1, 3).astype(np.float32)
    patch = noise(flat, 90.0, 3, plan.seed + 61).reshape(distance.shape)[..., None]
    tuft = noise(flat, 9.0, 4, plan.seed + 62).reshape(distance.shape)[..., None]
    # Fine structure melts together where a texel covers more of it than one tuft.
    tuft = 0.5 + (tuft - 0.5) * np.exp(-distance / 400.0)[..., None]
    meadow, rough = np.array([0.12, 0.15, 0.065]), np.array([0.24, 0.20, 0.11])
    ground = (meadow + (rough - meadow) * np.clip((patch - 0.35) * 3.3, 0, 1)) * (0.35 + 1.3 * tuft)
    ground = ground * float(horizon.mean())
    # Never paler than the nearest hills it runs up to.
    farthest = min(0.95, 0.36 * (0.55 + 0.6 * plan.haze))
    veil = farthest * (1 - np.exp(-distance * 0.006))[..., None]
    tone = ground * (1 - veil) + horizon * np.array([0.86, 0.95, 1.05]) * 0.8 * veil
    edge = np.clip(-np.degrees(np.arcsin(np.clip(d[..., 1], -1, 1))) / 0.35, 0, 1)[..., None]
    out[rows] = out[rows] * (1 - edge) + tone * edge
    return np.asarray(out)
