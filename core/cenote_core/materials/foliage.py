"""Pictures for leaf cards: drawn large and reduced, with alpha. Row 0 is the top (v = 1), stems start at the bottom."""

from __future__ import annotations

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

from .material import Material, material
from .tile import colour, mix, ramp, spectral

_OVER = 3  # drawn this many times larger, then reduced


def _ink(rgb: np.ndarray) -> tuple[int, int, int]:
    r, g, b = (int(np.clip(c, 0, 1) * 255) for c in rgb)
    return r, g, b


class _Sheet:
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


def _outline(kind: str, length: float, width: float, teeth: int, rng: np.random.Generator) -> np.ndarray:
    """A leaf outline along +y from the origin, (N, 2)."""
    t = np.linspace(0, 1, 40)
    if kind == "rhomb":  # birch: broad near the base, long tip
        half = width / 2 * np.where(t < 0.33, (t / 0.33) ** 0.75, (1 - (t - 0.33) / 0.67) ** 1.15)
    elif kind == "oval":  # bramble leaflet
        half = width / 2 * np.sin(np.pi * t**0.8) ** 0.8 * (1 - 0.25 * t)
    else:  # lance
        half = width / 2 * np.sin(np.pi * np.clip(t, 0, 1) ** 0.7) ** 1.1
    half = np.nan_to_num(half)
    half[-1] = 0.0
    saw = 1 + 0.14 * (((t * teeth) % 1.0) - 0.5) * (t > 0.1) * (t < 0.97) + rng.normal(0, 0.015, len(t))
    bend = 0.06 * rng.normal() * length * t**2
    left = np.column_stack([bend - half * saw, t * length])
    right = np.column_stack([bend + half * saw, t * length])[::-1]
    return np.concatenate([left, right])


def _placed(points: np.ndarray, at: np.ndarray, angle: float) -> np.ndarray:
    c, s = np.cos(angle), np.sin(angle)
    return np.asarray(points @ np.array([[c, s], [-s, c]]) + at)


def _leaf(
    sheet: _Sheet,
    kind: str,
    at: np.ndarray,
    angle: float,
    length: float,
    width: float,
    rgb: np.ndarray,
    rng: np.random.Generator,
    veins: int = 5,
) -> None:
    outline = _outline(kind, length, width, 11, rng)
    sheet.polygon(_placed(outline, at, angle), rgb, 0.45 + 0.25 * rng.random())
    half = outline[: len(outline) // 2]
    shade = np.concatenate([half, [[0, length]], [[0, 0]]])
    sheet.polygon(_placed(shade, at, angle), rgb * 0.9, 0.40 + 0.2 * rng.random())
    light = rgb * 1.25 + 0.03
    spine = np.array([[0, 0], [half[20, 0] * 0 + half[-1, 0] * 0.5, length * 0.95]])
    sheet.line(_placed(spine, at, angle), 0.012 * length, light, cover=False, level=0.25)
    for v in range(1, veins):
        y = length * v / (veins + 0.5)
        reach = 0.42 * width * (1 - abs(v / veins - 0.4))
        for side in (-1, 1):
            vein = np.array([[0, y], [side * reach, y + reach * 0.9]])
            sheet.line(_placed(vein, at, angle), 0.006 * length, light * 0.97, cover=False, level=0.35)


def _spray(
    size: int,
    seed: int,
    kind: str,
    leaf: tuple[float, float],
    count: int,
    stops: tuple[str, ...],
    wood: str,
) -> Material:
    """A twig with alternate side twigs and leaves, filling the picture."""
    rng = np.random.Generator(np.random.Philox(seed))
    sheet = _Sheet(size)
    palette = np.array([colour(c) for c in stops])
    t = np.linspace(0, 1, 12)
    sway = 0.05 * np.sin(t * 4 + rng.random() * 6)
    stem = np.column_stack([0.5 + sway, 0.02 + 0.80 * t])
    sheet.line(stem, 0.010, colour(wood))
    jobs = []
    for k in range(count):
        s = 0.10 + 0.9 * (k + 0.5) / count
        side = -1 if k % 2 else 1
        base = np.array([np.interp(s, t, stem[:, 0]), np.interp(s, t, stem[:, 1])])
        angle = -side * np.radians(rng.uniform(35, 75)) * (1.05 - 0.6 * s)
        stalk = rng.uniform(0.14, 0.40) * (1.12 - s)
        tip = base + stalk * np.array([-np.sin(angle), np.cos(angle)])
        sheet.line(np.array([base, tip]), 0.005, colour(wood))
        inner = max(1, int(stalk / 0.055))
        for j in range(inner + 1):
            place = base + (tip - base) * (j + 0.4) / (inner + 0.6)
            turn = angle + rng.uniform(-0.7, 0.7) + (0.8 if j % 2 else -0.8) * (j < inner)
            jobs.append((place, turn, rng.uniform(*leaf)))
    jobs.append((stem[-1], 0.0, leaf[1]))
    for number in rng.permutation(len(jobs)):
        place, turn, length = jobs[number]
        pick = rng.random() * (len(palette) - 1)
        low = int(pick)
        rgb = palette[low] + (palette[min(low + 1, len(palette) - 1)] - palette[low]) * (pick - low)
        _leaf(sheet, kind, place, turn, length, length * rng.uniform(0.66, 0.82), rgb, rng)
    return sheet.finished(seed, 0.55, 0.55)


def birch_spray(size: int, seed: int) -> Material:
    """A twig of birch leaves, early autumn: green going to yellow."""
    return _spray(
        size, seed, "rhomb", (0.085, 0.125), 17, ("#5d7030", "#728238", "#889440", "#a9a447", "#c4ab48"), "#4a3a2c"
    )


def bramble_spray(size: int, seed: int) -> Material:
    """Bramble leaves in threes, dark with a few reddened."""
    rng = np.random.Generator(np.random.Philox(seed))
    sheet = _Sheet(size)
    sheet.line(np.array([[0.5, 0.0], [0.48, 0.45]]), 0.014, colour("#6b4a3a"))
    palette = [colour(c) for c in ("#44592b", "#526a31", "#5f783a", "#776c38")]
    for at, angle, length in (((0.48, 0.34), 1.25, 0.42), ((0.48, 0.34), -1.2, 0.42), ((0.48, 0.44), 0.05, 0.52)):
        _leaf(sheet, "oval", np.array(at), angle, length, length * 0.72, palette[rng.integers(0, 4)], rng, 7)
    return sheet.finished(seed, 0.45, 0.4, 0.3)


def fern_frond(size: int, seed: int) -> Material:
    """One frond: pinnae set with lobed pinnules, broadest a third up, tapering to the tip."""
    rng = np.random.Generator(np.random.Philox(seed))
    sheet = _Sheet(size)
    pairs = 25
    for k in range(pairs):
        s = (k + 0.5) / pairs
        reach = 0.47 * (1 - s) ** 0.85 * min(1.0, 0.45 + 2.2 * s) + 0.012
        for side in (-1, 1):
            base = np.array([0.5, 0.02 + 0.95 * s])
            direction = np.array([side * np.cos(0.42), np.sin(0.42)])
            across = np.array([-direction[1], direction[0]])
            count = max(3, int(reach / 0.019))
            tone = 0.5 + 0.5 * s + rng.normal(0, 0.12)
            for j in range(count):
                f = (j + 0.5) / count
                place = base + direction * reach * f
                length = 0.032 * (1 - f) ** 0.75 * (0.5 + reach) + 0.006
                for up in (-1, 1):
                    tip = place + across * up * length + direction * length * 0.5
                    w = direction * reach / count * 0.52
                    rgb = ramp(
                        np.array([[np.clip(tone + rng.normal(0, 0.08), 0, 1.5)]]),
                        (0.2, "#4d6428"),
                        (0.7, "#6d8a38"),
                        (1.3, "#9aa854"),
                    )[0, 0]
                    outline = np.array(
                        [
                            place - w,
                            place - w * 0.7 + (tip - place) * 0.7,
                            tip,
                            place + w * 0.9 + (tip - place) * 0.6,
                            place + w,
                        ]
                    )
                    sheet.polygon(outline, rgb, 0.4 + 0.2 * (up > 0))
            sheet.line(np.array([base, base + direction * reach]), 0.004, colour("#6c7a35"), level=0.7)
    sheet.line(np.array([[0.5, 0.0], [0.5, 0.97]]), 0.010, colour("#6e6132"), level=0.8)
    return sheet.finished(seed, 0.6, 0.5)


def fallen_leaves(size: int, seed: int) -> Material:
    """Four birch leaves as they lie: yellow, ochre, brown and spotted, one in each quarter."""
    rng = np.random.Generator(np.random.Philox(seed))
    sheet = _Sheet(size)
    for quarter, tone in enumerate(("#b8923a", "#9a6f2c", "#6d4a2a", "#a98f4e")):
        at = np.array([0.25 + 0.5 * (quarter % 2), 0.06 + 0.5 * (quarter // 2)])
        sheet.line(np.array([at + [0.01, -0.05], at]), 0.008, colour("#5a4128"))
        _leaf(sheet, "rhomb", at, rng.uniform(-0.1, 0.1), 0.38, 0.30, colour(tone), rng, 7)
    return sheet.finished(seed, 0.75, 0.25, 0.5)


def bark_birch(size: int, seed: int) -> Material:
    """White birch bark with dark bands of pores and black breaks near the foot. Tiles; 0.8 m."""
    band = spectral(size, 0.12, 1.1, seed, 0.08)
    drift = spectral(size, 0.4, 1.5, seed + 1)
    fine = spectral(size, 0.03, 0.5, seed + 2, 0.4)
    lenticel = np.clip((band - 0.68) * 9, 0, 1)
    broken = np.clip((drift + 0.25 * fine - 0.83) * 8, 0, 1)
    base = ramp(0.6 * drift + 0.4 * fine, (0.2, "#b3aa9c"), (0.5, "#d0c9bd"), (0.8, "#e0dbd1"))
    base = mix(base, colour("#4b4138"), 0.75 * lenticel)
    base = mix(base, colour("#2c2723"), 0.9 * broken)
    return material(base, 0.7, np.clip(0.6 + 0.15 * fine - 0.25 * lenticel - 0.35 * broken, 0, 1), 0.8, 0.008)


def twig_bark(size: int, seed: int) -> Material:
    """Dark red-brown bark of twigs and canes. Tiles; 0.4 m."""
    fine = spectral(size, 0.06, 0.8, seed, 4.0)
    drift = spectral(size, 0.4, 1.5, seed + 1)
    base = ramp(0.5 * fine + 0.5 * drift, (0.2, "#3a2c24"), (0.5, "#54412f"), (0.8, "#6f5a45"))
    return material(base, 0.8, fine, 0.4, 0.004)


def blade(size: int, seed: int) -> Material:
    """Surface of grass blades: fine lengthwise ribs; colour comes from the vertices."""
    rib = spectral(size, 0.08, 0.7, seed, 20.0)
    base = 0.78 + 0.22 * rib[..., None] * np.ones(3, np.float32)
    return material(base, 0.6, rib, 0.1, 0.001, translucency=0.45)
