"""Materials as maps: base colour, roughness, height, normal, and alpha for leaves and decals."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

LUMINANCE = np.array([0.2126, 0.7152, 0.0722], np.float32)
"""Luminance of linear sRGB's primaries (IEC 61966-2-1)."""


@dataclass(frozen=True)
class Material:
    """A set of maps of one size.

    Attributes
    ----------
    colour : (N, N, 3) uint8, sRGB
    roughness : (N, N) uint8
    height : (N, N) uint8, 128 is the middle
    normal : (N, N, 3) uint8, tangent space, y up
    alpha : (N, N) uint8 or None
    tile : float, metres one repeat covers; 0 for pictures that do not tile
    metalness : float, the mean where `metal` says it place by place
    metal : (N, N) uint8 or None; of what is cut out nobody asks for it
    translucency : float, share of light that comes through a leaf
    depth : float, metres of relief between height 0 and 255
    """

    colour: np.ndarray
    roughness: np.ndarray
    height: np.ndarray
    normal: np.ndarray
    tile: float
    alpha: np.ndarray | None = None
    metalness: float = 0.0
    translucency: float = 0.0
    depth: float = 0.0
    metal: np.ndarray | None = None

    @property
    def fourth(self) -> np.ndarray | None:
        """(N, N) uint8 what goes along with the colour as its fourth value: alpha, or how metallic what has none is."""
        return self.metal if self.alpha is None else self.alpha

    @property
    def told_metal(self) -> float:
        """Metalness as renderers take it: −1 where the fourth value of the colour tells it."""
        return -1.0 if self.metal is not None and self.alpha is None else self.metalness

    @property
    def size(self) -> int:
        return int(self.colour.shape[0])


def to_bytes(values: np.ndarray) -> np.ndarray:
    """0..1 → 0..255, rounded."""
    return np.clip(values * 255 + 0.5, 0, 255).astype(np.uint8)


def normal_map(height: np.ndarray, depth: float, tile: float, wrap: bool = True) -> np.ndarray:
    """Tangent-space normals of a height field.

    Parameters
    ----------
    height : (N, N) float, 0..1, row 0 at the top (v = 1)
    depth : float
        Metres between height 0 and 1.
    tile : float
        Metres the picture covers.

    Returns
    -------
    (N, N, 3) uint8, x to the right, y up, OpenGL convention as in glTF
    """
    texel = tile / height.shape[0]
    if wrap:
        dx = (np.roll(height, -1, 1) - np.roll(height, 1, 1)) / 2
        dy = (np.roll(height, -1, 0) - np.roll(height, 1, 0)) / 2
    else:
        dy, dx = np.gradient(height)
    normal = np.stack([-dx * depth / texel, dy * depth / texel, np.ones_like(height)], axis=-1)
    normal /= np.linalg.norm(normal, axis=-1, keepdims=True)
    return to_bytes(normal * 0.5 + 0.5)


def material(
    colour: np.ndarray,
    roughness: np.ndarray | float | np.floating,
    height: np.ndarray,
    tile: float,
    depth: float,
    alpha: np.ndarray | None = None,
    metalness: float = 0.0,
    translucency: float = 0.0,
) -> Material:
    """A material from float fields; `depth` is the relief in metres from lowest to highest."""
    return Material(
        colour=to_bytes(colour),
        roughness=to_bytes(np.broadcast_to(np.asarray(roughness), height.shape)),
        height=to_bytes(height),
        normal=normal_map(height, depth, tile if tile > 0 else 1.0, wrap=tile > 0),
        tile=tile,
        alpha=None if alpha is None else to_bytes(alpha),
        metalness=metalness,
        translucency=translucency,
        depth=depth,
    )


def srgb_to_linear(values: np.ndarray) -> np.ndarray:
    """IEC 61966-2-1 decoding, 0..1 → 0..1."""
    return np.where(values <= 0.04045, values / 12.92, ((values + 0.055) / 1.055) ** 2.4).astype(np.float32)


def linear_to_srgb(values: np.ndarray) -> np.ndarray:
    """IEC 61966-2-1 encoding, 0..1 → 0..1."""
    values = np.clip(values, 0, 1)
    return np.where(values <= 0.0031308, values * 12.92, 1.055 * values ** (1 / 2.4) - 0.055).astype(np.float32)


def tinted(colour: np.ndarray, tint: np.ndarray) -> np.ndarray:
    """A picture with its light taken times a tint; by a table, for a picture of bytes knows but 256 values.

    Parameters
    ----------
    colour : (H, W, 3) uint8, sRGB
    tint : (3,) float, linear

    Returns
    -------
    (H, W, 3) uint8, sRGB
    """
    values = srgb_to_linear(np.arange(256, dtype=np.float32) / 255)
    table = to_bytes(linear_to_srgb(values[:, None] * np.asarray(tint, np.float32)))
    return np.stack([table[:, channel][colour[..., channel]] for channel in range(3)], axis=-1)
