"""Pictures of leaves by species and half month: sprays, whole boughs, fronds, leaves of herbs, flowers.

Stems start at the bottom middle of a picture and grow up, so that a card is hinged at v = 0.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .drawing import Sheet, draw_leaf, placed
from .material import Material
from .seasons import SUMMER, YEARS
from .tile import colour, ramp


@dataclass(frozen=True)
class LeafStyle:
    """A species' leaf.

    Attributes
    ----------
    year : name in YEARS
    shape : outline of `drawing.outline`, or "pinnate" or "needles"
    length : of a leaf against the picture of a spray
    slim : width of a leaf against its length
    wood : colour of the twig
    gap : distance of leaves along a twig, in leaf lengths
    spread : how far leaves stand off their twig, radians
    """

    year: str
    shape: str
    length: float
    slim: float
    wood: str
    gap: float = 0.55
    spread: float = 0.9
    gloss: float = 0.5


STYLES: dict[str, LeafStyle] = {
    "birch": LeafStyle("birch", "rhomb", 0.125, 0.74, "#4a3a2c"),
    "alder": LeafStyle("alder", "round", 0.17, 0.82, "#4b4136"),
    "rowan": LeafStyle("rowan", "pinnate", 0.36, 0.5, "#5a4c40", 0.4, 0.8),
    "hazel": LeafStyle("hazel", "round", 0.27, 0.84, "#5f4c3a", 0.6),
    "pine": LeafStyle("pine", "needles", 0.2, 0.03, "#6b4f38", 0.16, 0.75, 0.45),
}


def _pick(palette: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    at = rng.random() * (len(palette) - 1)
    low = int(at)
    high = min(low + 1, len(palette) - 1)
    return np.asarray(palette[low] + (palette[high] - palette[low]) * (at - low))


def _one_leaf(
    sheet: Sheet,
    style: LeafStyle,
    at: np.ndarray,
    angle: float,
    length: float,
    rgb: np.ndarray,
    rng: np.random.Generator,
) -> None:
    if style.shape == "needles":
        for _ in range(5):
            turn = angle + rng.normal(0, 0.22)
            tip = at + length * rng.uniform(0.7, 1.1) * np.array([-np.sin(turn), np.cos(turn)])
            sheet.line(np.array([at, tip]), 0.0055, rgb * rng.uniform(0.8, 1.15), level=rng.uniform(0.3, 0.7))
    elif style.shape == "pinnate":
        along = np.array([-np.sin(angle), np.cos(angle)])
        sheet.line(np.array([at, at + along * length]), 0.005, colour(style.wood) * 1.2)
        for k in range(6):
            base = at + along * length * (0.25 + 0.13 * k)
            for side in (-1, 1):
                leaflet = length * 0.3 * (1 - 0.06 * abs(k - 2.5))
                draw_leaf(sheet, "lance", base, angle - side * 1.05, leaflet, leaflet * 0.36, rgb, rng, 2)
        draw_leaf(sheet, "lance", at + along * length * 0.92, angle, length * 0.28, length * 0.1, rgb, rng, 2)
    else:
        draw_leaf(sheet, style.shape, at, angle, length, length * style.slim * rng.uniform(0.9, 1.08), rgb, rng, 3)


def twig_picture(size: int, seed: int, name: str, half: int = SUMMER, bough: bool = False) -> Material:
    """A twig of a species with side twigs and leaves; a bough shows the same leaves smaller and many more of them.

    Share and colour of leaves follow the species' year.
    """
    style = STYLES[name]
    share, palette = YEARS[style.year].at(half)
    rng = np.random.Generator(np.random.Philox(seed))
    sheet = Sheet(size)
    leaf = style.length * (0.42 if bough else 1.0)
    t = np.linspace(0, 1, 14)
    sway = 0.045 * np.sin(t * 4 + rng.random() * 6) * t
    stem = np.column_stack([0.5 + sway, 0.01 + 0.86 * t])
    sheet.line(stem, 0.009, colour(style.wood))
    jobs = [(stem[-1], 0.0)]
    step = (0.075 if bough else 0.11) if style.shape != "pinnate" else 0.17
    count = int(0.86 / step)
    for k in range(count):
        s = 0.08 + 0.9 * (k + 0.5) / count
        side = -1 if k % 2 else 1
        base = np.array([np.interp(s, t, stem[:, 0]), np.interp(s, t, stem[:, 1])])
        angle = -side * rng.uniform(0.75, 1.2) * (1.05 - 0.55 * s)
        reach = (0.44 if bough else 0.36) * np.sin(np.pi * (0.12 + 0.8 * s)) ** 0.8 * rng.uniform(0.7, 1.05)
        path = [base]
        for _ in range(5):
            angle += rng.normal(0, 0.1) + side * 0.05
            path.append(path[-1] + reach / 5 * np.array([-np.sin(angle), np.cos(angle)]))
        twig = np.array(path)
        sheet.line(twig, 0.0045, colour(style.wood))
        places = max(1, int(reach / (leaf * style.gap)))
        for j in range(places + 1):
            f = (j + 0.35) / (places + 0.35)
            at = np.array([np.interp(f, np.linspace(0, 1, 6), twig[:, c]) for c in range(2)])
            off = 0.0 if j == places else (1 if j % 2 else -1) * style.spread * rng.uniform(0.7, 1.2)
            jobs.append((at, angle + off))
    for number in rng.permutation(len(jobs)):
        at, angle = jobs[number]
        # Which leaves have fallen is drawn for all leaves alike, so that a picture thins and never reshuffles.
        kept, length, rgb = rng.random() < share, leaf * rng.uniform(0.75, 1.1), _pick(palette, rng)
        if kept:
            _one_leaf(sheet, style, at, angle, length, rgb * rng.uniform(0.88, 1.1), rng)
    return sheet.finished(seed, style.gloss, 0.5)


def bramble_spray(size: int, seed: int, half: int = SUMMER) -> Material:
    """Bramble leaves in threes."""
    share, palette = YEARS["bramble"].at(half)
    rng = np.random.Generator(np.random.Philox(seed))
    sheet = Sheet(size)
    sheet.line(np.array([[0.5, 0.0], [0.48, 0.45]]), 0.014, colour("#6b4a3a"))
    places = (((0.48, 0.34), 1.25, 0.42), ((0.48, 0.34), -1.2, 0.42), ((0.48, 0.44), 0.05, 0.52))
    for number, (at, angle, length) in enumerate(places):
        if number / 3 < share + 0.01:
            draw_leaf(sheet, "oval", np.array(at), angle, length, length * 0.72, _pick(palette, rng), rng, 7)
    return sheet.finished(seed, 0.45, 0.4, 0.3)


def frond(size: int, seed: int, half: int = SUMMER, wide: float = 1.0, pairs: int = 25) -> Material:
    """A fern frond: pinnae set with lobed pinnules, broadest a third up, tapering to the tip."""
    _, palette = YEARS["fern"].at(half)
    rng = np.random.Generator(np.random.Philox(seed))
    sheet = Sheet(size)
    for k in range(pairs):
        s = (k + 0.5) / pairs
        reach = 0.47 * (1 - s) ** (0.85 * wide) * min(1.0, 0.45 + 2.2 * s * wide) + 0.012
        for side in (-1, 1):
            base = np.array([0.5, 0.02 + 0.95 * s])
            along = np.array([side * np.cos(0.42), np.sin(0.42)])
            across = np.array([-along[1], along[0]])
            count = max(3, int(reach / 0.019))
            tone = float(np.clip(0.5 * s + rng.normal(0.3, 0.15), 0, 0.999)) * (len(palette) - 1)
            rgb = palette[int(tone)] + (palette[int(tone) + 1] - palette[int(tone)]) * (tone % 1)
            for j in range(count):
                f = (j + 0.5) / count
                at = base + along * reach * f
                length = 0.032 * (1 - f) ** 0.75 * (0.5 + reach) + 0.006
                for up in (-1, 1):
                    tip = at + across * up * length + along * length * 0.5
                    w = along * reach / count * 0.52
                    near, far = at - w * 0.7 + (tip - at) * 0.7, at + w * 0.9 + (tip - at) * 0.6
                    edge = np.array([at - w, near, tip, far, at + w])
                    sheet.polygon(edge, rgb * rng.uniform(0.86, 1.12), 0.4 + 0.2 * (up > 0))
            sheet.line(np.array([base, base + along * reach]), 0.004, rgb * 1.1, level=0.7)
    sheet.line(np.array([[0.5, 0.0], [0.5, 0.97]]), 0.010, 0.6 * palette[0] + 0.4 * colour("#6e6132"), level=0.8)
    return sheet.finished(seed, 0.6, 0.5)


def herb_leaf(
    size: int, seed: int, half: int = SUMMER, shape: str = "oval", slim: float = 0.5, teeth: bool = False
) -> Material:
    """One leaf of a herb filling the picture, in the colours of its half month."""
    _, palette = YEARS["herb"].at(half)
    rng = np.random.Generator(np.random.Philox(seed))
    sheet = Sheet(size)
    sheet.line(np.array([[0.5, 0.0], [0.5, 0.12]]), 0.03, palette[1] * 1.2)
    if shape == "clover":
        for turn in (2.1, -2.1, 0.0):
            draw_leaf(sheet, "round", np.array([0.5, 0.46]), turn, 0.42, 0.44, _pick(palette, rng), rng, 5)
    elif shape == "ivy":
        lobes = np.array([(0.5, 0.05), (0.2, 0.02), (0.24, 0.26), (0.03, 0.42), (0.3, 0.55), (0.5, 0.98)])
        edge = np.concatenate([lobes, (lobes * [-1, 1] + [1, 0])[::-1]])
        sheet.polygon(edge, palette[0] * 0.92)
        for tip in (lobes[5], lobes[3], lobes[3] * [-1, 1] + [1, 0], lobes[1], lobes[1] * [-1, 1] + [1, 0]):
            sheet.line(np.array([[0.5, 0.06], 0.85 * tip + 0.15 * lobes[0]]), 0.012, palette[2] * 1.15, cover=False)
    else:
        draw_leaf(sheet, shape, np.array([0.5, 0.04]), 0.0, 0.95, 0.95 * slim, palette[1], rng, 9 if teeth else 7)
    return sheet.finished(seed, 0.55, 0.4, 0.3)


def sprig(
    size: int, seed: int, half: int = SUMMER, bloom: str = "#8d5a86", bloom_at: float = 15.5, year: str = "ever"
) -> Material:
    """A sprig of a dwarf shrub: stems set with short leaves, flowering around a half month."""
    _, palette = YEARS[year].at(half)
    rng = np.random.Generator(np.random.Philox(seed))
    sheet = Sheet(size)
    away = min(abs(half - bloom_at), 24 - abs(half - bloom_at))
    flowers = float(np.clip(1.2 - away / 3.0, 0, 1))
    stems = [(np.array([0.5, 0.0]), rng.normal(0, 0.1), 0.95)]
    stems += [
        (np.array([0.5, 0.08 * k]), (-1 if k % 2 else 1) * rng.uniform(0.3, 0.6), 0.7 - 0.045 * k) for k in range(9)
    ]
    for at, angle, length in stems:
        tip = at + length * np.array([-np.sin(angle), np.cos(angle)])
        sheet.line(np.array([at, tip]), 0.008, colour("#5b4636"))
        for f in np.linspace(0.08, 1, 34):
            base = at + (tip - at) * f
            for side in (-1, 1):
                turn = angle + side * rng.uniform(0.4, 1.0)
                end = base + 0.045 * rng.uniform(0.7, 1.2) * np.array([-np.sin(turn), np.cos(turn)])
                sheet.line(np.array([base, end]), 0.011, _pick(palette, rng) * rng.uniform(0.85, 1.15))
            if f > 0.45 and rng.random() < 0.7 * flowers:
                ring = np.linspace(0, 2 * np.pi, 8)
                bell = base + 0.016 * np.column_stack([np.cos(ring), np.sin(ring)]) + rng.normal(0, 0.012, 2)
                sheet.polygon(bell, colour(bloom) * rng.uniform(0.8, 1.2), 0.8)
    return sheet.finished(seed, 0.6, 0.35, 0.3)


def spike(
    size: int, seed: int, half: int = SUMMER, bloom: str = "#c2849a", bloom_at: float = 12.5, downy: bool = False
) -> Material:
    """A flowering spike: bells or small flowers up a stem; when they are over seed heads, split and downy or round."""
    _, palette = YEARS["herb"].at(half)
    rng = np.random.Generator(np.random.Philox(seed))
    sheet = Sheet(size)
    away = min(abs(half - bloom_at), 24 - abs(half - bloom_at))
    if away >= 3:
        _seed_heads(sheet, palette, rng, downy)
        return sheet.finished(seed, 0.55, 0.4, 0.3)
    sheet.line(np.array([[0.5, 0.0], [0.5, 0.98]]), 0.02, palette[0] * 1.1)
    for k in range(34):
        y = 0.12 + 0.84 * k / 34
        side = -1 if k % 2 else 1
        long = 0.17 * (1.05 - y) + 0.03
        at = np.array([0.5, y])
        tone = colour(bloom) * rng.uniform(0.8, 1.15)
        draw_leaf(sheet, "oval", at, -side * rng.uniform(1.1, 1.9), long, long * 0.55, tone, rng, 2)
    return sheet.finished(seed, 0.55, 0.4, 0.3)


def _seed_heads(sheet: Sheet, palette: np.ndarray, rng: np.random.Generator, downy: bool) -> None:
    """What a spike is when its flowers are over: air between the heads, the lowest the ripest."""
    stem = palette[0] * 0.5 + colour("#8d7046") * 0.5
    sheet.line(np.array([[0.5, 0.0], [0.5, 0.99]]), 0.016, stem)
    count = 26 if downy else 19
    for k in range(count):
        y = 0.06 + 0.88 * k / count
        side = -1 if k % 2 else 1
        ripe = float(np.clip(1.25 - y + rng.normal(0, 0.12), 0, 1))
        tone = (palette[0] * (1 - ripe) + colour("#9b7c50") * ripe) * rng.uniform(0.85, 1.15)
        angle = -side * rng.uniform(0.55, 0.95)
        if not downy:
            long = 0.105 * (1.12 - y) + 0.02
            draw_leaf(sheet, "oval", np.array([0.5, y]), angle, long, long * 0.72, tone, rng, 2)
            continue
        long = 0.2 * (1.1 - y) + 0.04
        tip = np.array([0.5, y]) + long * np.array([-np.sin(angle), np.cos(angle)])
        sheet.line(np.array([[0.5, y], tip]), 0.012, tone)
        if ripe > 0.45 and rng.random() < 0.6:
            # Pods split from the tip and let the down out.
            for _ in range(3):
                fluff = 0.045 * rng.uniform(0.6, 1.2)
                at = tip + rng.normal(0, 0.018, 2)
                draw_leaf(sheet, "oval", at, rng.uniform(0, 6.28), fluff, fluff * 0.8, colour("#d8d0c0"), rng, 0)


def flower_head(
    size: int, seed: int, half: int = SUMMER, petal: str = "#d8b62c", heart: str = "#b98a1c", petals: int = 26
) -> Material:
    """A flower from above: petals around a heart."""
    rng = np.random.Generator(np.random.Philox(seed))
    sheet = Sheet(size)
    for k in range(petals):
        angle = 2 * np.pi * k / petals + rng.normal(0, 0.05)
        edge = placed(
            np.array([[-0.045, 0.1], [-0.055, 0.36], [0.0, 0.44], [0.055, 0.36], [0.045, 0.1]]),
            np.array([0.5, 0.5]),
            angle,
        )
        sheet.polygon(edge, colour(petal) * rng.uniform(0.85, 1.08), 0.5)
    ring = np.linspace(0, 2 * np.pi, 20)
    sheet.polygon(0.5 + 0.13 * np.column_stack([np.cos(ring), np.sin(ring)]), colour(heart), 0.8)
    return sheet.finished(seed, 0.6, 0.4, 0.2)


def litter(size: int, seed: int, tones: tuple[str, str, str, str], shape: str = "rhomb", slim: float = 0.8) -> Material:
    """Four leaves as they lie, from fresh to brown, one in each quarter."""
    rng = np.random.Generator(np.random.Philox(seed))
    sheet = Sheet(size)
    for quarter, tone in enumerate(tones):
        at = np.array([0.25 + 0.5 * (quarter % 2), 0.06 + 0.5 * (quarter // 2)])
        sheet.line(np.array([at + [0.01, -0.05], at]), 0.008, colour("#5a4128"))
        draw_leaf(sheet, shape, at, rng.uniform(-0.1, 0.1), 0.38, 0.38 * slim, colour(tone), rng, 7)
    return sheet.finished(seed, 0.75, 0.25, 0.5)


def needles(size: int, seed: int) -> Material:
    """Fallen pine needles in a loose tangle, with a cone scale or two."""
    rng = np.random.Generator(np.random.Philox(seed))
    sheet = Sheet(size)
    for _ in range(90):
        at, turn = rng.uniform(0.12, 0.88, 2), rng.uniform(0, np.pi)
        along = 0.11 * rng.uniform(0.6, 1.1) * np.array([np.cos(turn), np.sin(turn)])
        tone = ramp(np.array([[rng.random()]]), (0.0, "#5e4127"), (0.6, "#8a6238"), (1.0, "#a8854c"))[0, 0]
        sheet.line(np.array([at - along, at + along]), 0.007, tone, level=rng.uniform(0.3, 0.8))
    return sheet.finished(seed, 0.8, 0.1, 0.3)
