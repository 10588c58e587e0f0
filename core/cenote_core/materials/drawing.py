"""Drawing leaves: a sheet drawn large and reduced, leaf outlines, veins. Row 0 is the top (v = 1)."""

from __future__ import annotations

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

from .material import Material, material
from .tile import spectral

_OVER = 3  # drawn this many times larger, then reduced


def _ink(rgb: np.ndarray) -> tuple[int, int, int]:
    r, g, b = (int(np.clip(c, 0, 1) * 255) for c in rgb)
    return r, g, b


class Sheet:
    """A picture being drawn: colour and coverage, coordinates 0..1 with y up."""

    def __init__(self, size: int) -> None:
        self.size = size
        self.full = size * _OVER
        self.colour = Image.new("RGB", (self.full, self.full), (70, 84, 40))
        self.alpha = Image.new("L", (self.full, self.full), 0)
        self.height = Image.new("L", (self.full, self.full), 110)
        self._layers = [ImageDraw.Draw(layer) for layer in (self.colour, self.alpha, self.height)]

    def polygon(self, points: np.ndarray, rgb: np.ndarray, level: float = 0.5) -> None:
        """Fill a closed outline, (N, 2) in 0..1."""
        xy = [(float(x) * self.full, (1 - float(y)) * self.full) for x, y in points]
        fill = _ink(rgb)
        self._layers[0].polygon(xy, fill=fill)
        self._layers[1].polygon(xy, fill=255)
        self._layers[2].polygon(xy, fill=int(np.clip(level, 0, 1) * 255))

    def line(self, points: np.ndarray, width: float, rgb: np.ndarray, cover: bool = True, level: float = 0.5) -> None:
        """Draw a line of `width` (share of the picture)."""
        xy = [(float(x) * self.full, (1 - float(y)) * self.full) for x, y in points]
        pixels = max(1, round(width * self.full))
        fill = _ink(rgb)
        self._layers[0].line(xy, fill=fill, width=pixels, joint="curve")
        self._layers[2].line(xy, fill=int(np.clip(level, 0, 1) * 255), width=pixels)
        if cover:
            self._layers[1].line(xy, fill=255, width=pixels, joint="curve")

    def finished(self, seed: int, roughness: float, translucency: float, mottle: float = 0.2) -> Material:
        small = (self.size, self.size)
        alpha = np.asarray(self.alpha.resize(small, Image.Resampling.BOX), np.float32) / 255
        rgb = np.asarray(self._bled().resize(small, Image.Resampling.BOX), np.float32) / 255
        height = np.asarray(self.height.resize(small, Image.Resampling.BOX), np.float32) / 255
        noise = spectral(self.size, 0.1, 1.1, seed)
        rgb = rgb * (1 - mottle / 2 + mottle * noise)[..., None]
        return material(
            rgb,
            np.float32(roughness),
            np.clip(height + 0.1 * (noise - 0.5), 0, 1),
            0.0,
            0.03,
            alpha=alpha,
            translucency=translucency,
        )

    def _bled(self) -> Image.Image:
        """Leaf colour spread over the empty parts, so that reduced pictures have no rim."""
        blurred = self.colour.filter(ImageFilter.GaussianBlur(self.full / 60))
        weight = self.alpha.filter(ImageFilter.GaussianBlur(self.full / 60))
        rgb = np.asarray(blurred, np.float32)
        empty = np.array([70, 84, 40], np.float32)
        w = np.asarray(weight, np.float32)[..., None] / 255
        spread = np.where(w > 0.02, empty + (rgb - empty) / np.maximum(w, 0.02), rgb)
        out = np.where(np.asarray(self.alpha)[..., None] > 0, np.asarray(self.colour, np.float32), spread)
        return Image.fromarray(np.clip(out, 0, 255).astype(np.uint8))


def outline(kind: str, length: float, width: float, teeth: int, rng: np.random.Generator) -> np.ndarray:
    """A leaf outline along +y from the origin, (N, 2)."""
    t = np.linspace(0, 1, 40)
    if kind == "rhomb":  # birch: broad near the base, long tip
        half = width / 2 * np.where(t < 0.33, (t / 0.33) ** 0.75, (1 - (t - 0.33) / 0.67) ** 1.15)
    elif kind == "oval":  # bramble leaflet
        half = width / 2 * np.sin(np.pi * t**0.8) ** 0.8 * (1 - 0.25 * t)
    elif kind == "round":  # alder, hazel: broadest beyond the middle, blunt
        half = width / 2 * np.sin(np.pi * np.clip(t, 0, 1) ** 1.25) ** 0.6
    elif kind == "strap":  # rosette leaves: long, widest near the tip
        half = width / 2 * np.clip(t * 1.1, 0, 1) ** 1.1 * np.clip((1 - t) * 4.5, 0, 1) ** 0.6
    else:  # lance
        half = width / 2 * np.sin(np.pi * np.clip(t, 0, 1) ** 0.7) ** 1.1
    half = np.nan_to_num(half)
    half[-1] = 0.0
    saw = 1 + 0.14 * (((t * teeth) % 1.0) - 0.5) * (t > 0.1) * (t < 0.97) + rng.normal(0, 0.015, len(t))
    bend = 0.06 * rng.normal() * length * t**2
    left = np.column_stack([bend - half * saw, t * length])
    right = np.column_stack([bend + half * saw, t * length])[::-1]
    return np.concatenate([left, right])


def placed(points: np.ndarray, at: np.ndarray, angle: float) -> np.ndarray:
    """(N, 2) points turned by an angle in radians and moved to a place."""
    c, s = np.cos(angle), np.sin(angle)
    return np.asarray(points @ np.array([[c, s], [-s, c]]) + at)


def draw_leaf(
    sheet: Sheet,
    kind: str,
    at: np.ndarray,
    angle: float,
    length: float,
    width: float,
    rgb: np.ndarray,
    rng: np.random.Generator,
    veins: int = 5,
) -> None:
    """Draw a leaf: its blade, one half in the shade, the spine and so many veins a side; lengths in the sheet's units."""
    edge = outline(kind, length, width, 11, rng)
    sheet.polygon(placed(edge, at, angle), rgb, 0.45 + 0.25 * rng.random())
    half = edge[: len(edge) // 2]
    shade = np.concatenate([half, [[0, length]], [[0, 0]]])
    sheet.polygon(placed(shade, at, angle), rgb * 0.9, 0.40 + 0.2 * rng.random())
    light = rgb * 1.25 + 0.03
    spine = np.array([[0, 0], [half[20, 0] * 0 + half[-1, 0] * 0.5, length * 0.95]])
    sheet.line(placed(spine, at, angle), 0.012 * length, light, cover=False, level=0.25)
    for v in range(1, veins):
        y = length * v / (veins + 0.5)
        reach = 0.42 * width * (1 - abs(v / veins - 0.4))
        for side in (-1, 1):
            vein = np.array([[0, y], [side * reach, y + reach * 0.9]])
            sheet.line(placed(vein, at, angle), 0.006 * length, light * 0.97, cover=False, level=0.35)
