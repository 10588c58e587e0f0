"""Mineral and made surfaces: stone, concrete, gravel, soil, tin, iron, wood. Each takes a size and a seed."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from .feathers import feathers
from .material import Material, material
from .tile import blur, cells, colour, mix, ramp, smooth, spectral, warped


def stone(size: int, seed: int) -> Material:
    """Squared rubble walling: uneven courses of weathered grey stone with recessed lime joints. 1.6 m."""
    rows, cols = np.mgrid[0:size, 0:size] / size
    wx, wy = spectral(size, 0.3, 1.6, seed), spectral(size, 0.3, 1.6, seed + 1)
    fine = spectral(size, 0.12, 1.4, seed + 2)
    y = (rows + (wy - 0.5) * 0.035) * 7
    course = np.floor(y).astype(int) % 7
    rng = np.random.Generator(np.random.Philox(seed + 9))
    counts = rng.integers(3, 6, 7)
    shift = rng.random(7)
    x = (cols + (wx - 0.5) * 0.03) * counts[course] + shift[course]
    # Uneven stone widths: bend the running coordinate within each course, keeping the period whole.
    x = x + 0.22 * np.sin(2 * np.pi * x / counts[course] + course * 1.7)
    block = np.floor(x).astype(int) % counts[course]
    tone = rng.random((7, 8))[course, block]
    warm = rng.random((7, 8))[course, block]
    fx, fy = x - np.floor(x), y - np.floor(y)
    width = 7.0 / counts[course]
    edge = np.minimum(np.minimum(fx, 1 - fx) * width, np.minimum(fy, 1 - fy))
    edge = edge + (fine - 0.5) * 0.07 + (spectral(size, 0.05, 1.4, seed + 3) - 0.5) * 0.02
    face = smooth(0.035, 0.17, edge)
    pits = spectral(size, 0.06, 0.8, seed + 4)
    chip = spectral(size, 0.2, 1.8, seed + 5)
    height = face * (0.55 + 0.22 * (tone - 0.5) + 0.30 * (chip - 0.5) + 0.09 * (pits - 0.5)) + 0.12 * (1 - face) * fine
    grain = spectral(size, 0.02, 0.3, seed + 6)
    base = ramp(
        0.5 * tone + 0.3 * chip + 0.2 * fine, (0.2, "#67655d"), (0.45, "#85817a"), (0.7, "#a39c8f"), (0.9, "#b3ab9b")
    )
    base = mix(base, colour("#a38d6c"), 0.35 * smooth(0.6, 1.0, warm))
    base = mix(base, colour("#6a726f"), 0.30 * smooth(0.0, 0.35, 1 - warm) * smooth(0.4, 0.8, chip))
    base = base * (0.86 + 0.28 * grain[..., None])
    lichen = smooth(0.66, 0.74, spectral(size, 0.09, 1.1, seed + 7)) * face
    base = mix(base, colour("#b9b8a4"), 0.55 * lichen)
    joint = ramp(fine, (0.2, "#6d675b"), (0.8, "#918876"))
    out = mix(joint, base, face)
    out = out * (0.72 + 0.28 * smooth(0.0, 0.5, height))[..., None]
    return material(out, 0.82 + 0.14 * (1 - face) + 0.06 * (grain - 0.5), np.clip(height, 0, 1), 1.6, 0.030)


def concrete(size: int, seed: int) -> Material:
    """Old cast concrete: a cement skin worn through to its stones, blow holes of all sizes, faint board marks. 1.6 m."""
    drift = spectral(size, 0.5, 1.8, seed)
    wear = spectral(size, 0.12, 1.2, seed + 2)
    grain = spectral(size, 0.012, 0.3, seed + 1)
    skin = smooth(0.44, 0.56, 0.6 * wear + 0.3 * drift + 0.1 * grain)
    stones, tone = _aggregate(size, seed + 10)
    sand = spectral(size, 0.006, 0.1, seed + 4)
    holes = _blow_holes(size, seed + 20) * smooth(0.35, 0.6, drift)
    rows = np.mgrid[0:size, 0:size][0] / size
    board = np.abs(((rows * 9 + (drift - 0.5) * 0.03) % 1.0) - 0.5) * 2
    seam = smooth(0.972, 0.996, board) * skin
    hair = _hairlines(size, 3, seed + 30) * smooth(0.5, 0.7, spectral(size, 0.4, 1.6, seed + 31))
    worn = 0.38 + 0.30 * stones + 0.08 * (sand - 0.5)
    whole = 0.62 + 0.08 * (drift - 0.5) + 0.05 * (grain - 0.5)
    height = worn + (whole - worn) * skin - 0.40 * holes - 0.10 * seam - 0.12 * hair
    cement = ramp(0.5 * drift + 0.35 * wear + 0.15 * grain, (0.2, "#817e76"), (0.5, "#97938a"), (0.8, "#a9a59b"))
    mortar = ramp(sand, (0.2, "#6f6a60"), (0.5, "#878174"), (0.85, "#a39c8c"))
    pebble = ramp(tone, (0.0, "#5e5b57"), (0.3, "#7d7a75"), (0.5, "#8f8371"), (0.7, "#a1967f"), (0.9, "#b9b4aa"))
    base = mix(mix(mortar, pebble, smooth(0.15, 0.5, stones)), cement, skin)
    base = base * (0.93 + 0.14 * grain)[..., None]
    base = mix(base, colour("#4e4b44"), 0.75 * np.maximum(holes, 0.8 * hair) + 0.25 * seam)
    return material(base, 0.84 + 0.1 * (1 - skin) + 0.05 * (grain - 0.5), np.clip(height, 0, 1), 1.6, 0.007)


def _aggregate(size: int, seed: int) -> tuple[np.ndarray, np.ndarray]:
    """How far stones of two sizes stand out of their mortar, 0..1, and the tone of each."""
    near, second, who = cells(size, 110, seed)
    near2, second2, who2 = cells(size, 210, seed + 1)
    large = smooth(0.10, 0.55, second - near) * (who > 0.45)
    small = 0.6 * smooth(0.10, 0.5, second2 - near2) * (who2 > 0.3)
    return np.maximum(large, small), np.where(large > small, who, who2)


def _blow_holes(size: int, seed: int) -> np.ndarray:
    """Holes that air left in casting, 0..1: many small ones, few large ones, none round."""
    wander = spectral(size, 0.02, 1.0, seed), spectral(size, 0.02, 1.0, seed + 1)
    out = np.zeros((size, size), np.float32)
    for across, share in ((34, 0.10), (70, 0.16), (150, 0.12)):
        near, _, who = cells(size, across, seed + across)
        near, who = (warped(field, *wander, 0.0025) for field in (near, who))
        radius = np.clip((who - (1 - share)) / share, 0, 1) * 0.30
        out = np.maximum(out, smooth(0.0, 0.16, radius - near) * (radius > 0.03))
    return out


def _hairlines(size: int, across: int, seed: int) -> np.ndarray:
    """Thin cracks between large irregular fields, 0..1."""
    near, second, _ = cells(size, across, seed)
    wander = spectral(size, 0.15, 1.1, seed + 1), spectral(size, 0.15, 1.1, seed + 2)
    return smooth(0.012, 0.003, warped(second - near, *wander, 0.06))


def gravel(size: int, seed: int) -> Material:
    """Angular track ballast and gravel in two sizes, with dust between. 1.2 m."""
    near, second, who = cells(size, 26, seed)
    near2, second2, who2 = cells(size, 58, seed + 1)
    fine = spectral(size, 0.03, 0.6, seed + 2)
    drift = spectral(size, 0.4, 1.5, seed + 3)
    big = smooth(0.04, 0.30, second - near) * (who > 0.22)
    small = smooth(0.05, 0.35, second2 - near2)
    tilt = warped(spectral(size, 0.05, 1.2, seed + 4), who, who2, 0.2)
    height = np.maximum(big * (0.55 + 0.35 * who + 0.25 * (tilt - 0.5)), small * (0.22 + 0.2 * who2)) + 0.06 * fine
    tone = np.where(big * 0.6 > small * 0.3, who, who2)
    base = ramp(tone, (0.0, "#54524e"), (0.35, "#74716a"), (0.6, "#8b867b"), (0.8, "#9b8f7c"), (1.0, "#a9a497"))
    base *= (0.84 + 0.32 * fine)[..., None]
    base = mix(base, colour("#6f5a45"), 0.34 * smooth(0.5, 0.85, drift))
    shade = 0.34 + 0.66 * smooth(0.05, 0.5, height)
    return material(base * shade[..., None], 0.9 + 0.08 * (fine - 0.5), np.clip(height, 0, 1), 1.2, 0.035)


def soil(size: int, seed: int) -> Material:
    """Dark crumbly soil with small stones and root threads. 1.5 m."""
    clod, second, who = cells(size, 34, seed)
    fine = spectral(size, 0.04, 0.7, seed + 1)
    drift = spectral(size, 0.4, 1.6, seed + 2)
    near, _, pick = cells(size, 40, seed + 3)
    wander = spectral(size, 0.04, 2.4, seed + 4), spectral(size, 0.04, 2.4, seed + 5)
    near, pick = warped(near, *wander, 0.008), warped(pick, *wander, 0.008)
    # Rounded from foot to top: near the eye they are solid.
    reach = 0.16 + 1.6 * np.clip(pick - 0.86, 0, 1)
    pebble = np.sqrt(np.clip(1 - (near / reach) ** 2, 0, 1)) * (pick > 0.86)
    height = 0.35 * smooth(0, 0.5, second - clod) * who + 0.35 * fine + 0.2 * drift
    height = np.maximum(height, 0.72 * pebble)
    base = ramp(0.5 * fine + 0.3 * drift + 0.2 * who, (0.2, "#3a2f25"), (0.5, "#544434"), (0.8, "#6e5b47"))
    stone = ramp(np.clip((pick - 0.86) / 0.14, 0, 1), (0.0, "#6d675e"), (0.5, "#8b8171"), (1.0, "#989388"))
    stone = stone * (0.55 + 0.5 * pebble * (0.7 + 0.6 * fine))[..., None]
    base = mix(base, stone, 0.85 * smooth(0.05, 0.4, pebble))
    return material(base, 0.95, np.clip(height, 0, 1), 1.5, 0.03)


def turf(size: int, seed: int) -> Material:
    """Ground under grass: earth with moss, dead blades and short new growth. 1.6 m."""
    drift = spectral(size, 0.35, 1.5, seed)
    fibre = np.maximum(
        warped(spectral(size, 0.05, 0.9, seed + 1, 7.0), drift, drift, 0.06),
        warped(spectral(size, 0.05, 0.9, seed + 2, 7.0).T, drift, drift, 0.06),
    )
    fine = spectral(size, 0.03, 0.6, seed + 3)
    earth = ramp(fine, (0.2, "#3b3125"), (0.8, "#5d4e3a"))
    green = ramp(0.6 * fibre + 0.4 * fine, (0.3, "#2f3a1c"), (0.6, "#51602b"), (0.9, "#768044"))
    dead = ramp(fibre, (0.4, "#6a5c3d"), (0.9, "#a3946a"))
    base = mix(earth, green, smooth(0.34, 0.62, 0.7 * drift + 0.3 * fine))
    base = mix(base, dead, 0.75 * smooth(0.66, 0.8, fibre) * smooth(0.3, 0.7, spectral(size, 0.2, 1.2, seed + 4)))
    height = 0.5 * fibre + 0.3 * fine + 0.2 * drift
    return material(base * (0.6 + 0.5 * height)[..., None], 0.94, height, 1.6, 0.03)


def tin(size: int, seed: int) -> Material:
    """Galvanised sheet with spangle, dulled paint and rust coming through. The corrugation is in the mesh. 1.5 m."""
    _, _, spangle = cells(size, 60, seed)
    drift = spectral(size, 0.5, 1.7, seed + 1)
    streak = spectral(size, 0.25, 1.1, seed + 2, 8.0)
    fine = spectral(size, 0.04, 0.7, seed + 3)
    base = ramp(0.5 * spangle + 0.5 * drift, (0.1, "#828a89"), (0.5, "#979e9b"), (0.9, "#aab0aa"))
    paint = smooth(0.30, 0.40, 0.55 * drift + 0.45 * fine)
    base = mix(
        base, mix(colour("#6d4a40")[None, None], colour("#84645a"), streak) * np.ones((size, size, 1)), 0.85 * paint
    )
    rust = smooth(0.60, 0.76, 0.45 * streak + 0.35 * fine + 0.25 * drift)
    base = mix(base, ramp(fine, (0.2, "#46291c"), (0.5, "#6f4530"), (0.85, "#936344")), rust)
    base *= (0.92 + 0.16 * fine)[..., None]
    height = 0.5 + 0.12 * paint + 0.3 * rust * (fine - 0.4)
    return material(base, 0.42 + 0.18 * paint + 0.36 * rust, np.clip(height, 0, 1), 1.5, 0.004, metalness=0.25)


def iron(size: int, seed: int) -> Material:
    """Plate iron under old dark paint: chalked, blistered, broken open by rust in spots of all sizes. 0.8 m."""
    drift = spectral(size, 0.5, 1.6, seed)
    grain = spectral(size, 0.012, 0.2, seed + 2)
    broken = _spots(size, seed + 3)
    rust = smooth(0.5, 0.6, broken)
    blister = smooth(0.32, 0.5, broken) * (1 - rust)
    bleed = smooth(0.12, 0.5, broken)
    crust, core = _scale_of_rust(size, seed + 40)
    chalk = spectral(size, 0.10, 1.1, seed + 5)
    paint = ramp(0.6 * drift + 0.4 * chalk, (0.2, "#303b39"), (0.5, "#3f4b47"), (0.8, "#56615c"))
    paint = paint * (0.95 + 0.10 * grain)[..., None]
    paint = mix(paint, colour("#6b4529"), 0.42 * bleed * smooth(0.3, 0.7, chalk))
    rim = smooth(0.5, 0.57, broken) * smooth(0.78, 0.6, broken)
    base = mix(paint, mix(crust, colour("#a8612c"), 0.55 * rim), rust)
    height = 0.55 + 0.22 * blister + rust * (0.34 * (core - 0.62)) + 0.03 * (grain - 0.5)
    rough = 0.46 + 0.16 * chalk + 0.40 * rust
    return material(base, np.clip(rough, 0, 1), np.clip(height, 0, 1), 0.8, 0.006, metalness=0.05)


def rusted_steel(size: int, seed: int) -> Material:
    """Bare steel rusted all over: fine brown crust, flakes of scale lost and darker pits, long faint runs. 0.8 m."""
    drift = spectral(size, 0.5, 1.5, seed)
    run = spectral(size, 0.2, 1.2, seed + 1, 6.0)
    base, core = _scale_of_rust(size, seed + 40)
    near, second, who = cells(size, 16, seed + 2)
    wander = spectral(size, 0.08, 1.0, seed + 3), spectral(size, 0.08, 1.0, seed + 4)
    lost = smooth(0.10, 0.16, warped(second - near, *wander, 0.05)) * (warped(who, *wander, 0.05) > 0.7)
    base = mix(base, colour("#3c2a22"), 0.55 * lost)
    base = mix(base, colour("#8a4f28"), 0.35 * smooth(0.5, 0.8, run) * (1 - lost))
    base = base * (0.82 + 0.34 * drift)[..., None]
    height = 0.55 + 0.30 * (core - 0.5) - 0.20 * lost
    return material(base, 0.86 + 0.1 * (core - 0.5), np.clip(height, 0, 1), 0.8, 0.004, metalness=0.05)


def _spots(size: int, seed: int) -> np.ndarray:
    """A field whose high places are ragged spots of all sizes that gather in places: 0..1."""
    wander = spectral(size, 0.06, 1.0, seed + 1), spectral(size, 0.06, 1.0, seed + 2)
    gather = spectral(size, 0.45, 1.6, seed + 3)
    ragged = spectral(size, 0.03, 0.7, seed + 4)
    out = np.zeros((size, size), np.float32)
    for across, share, reach in ((5, 0.42, 0.55), (13, 0.34, 0.55), (34, 0.28, 0.6), (80, 0.2, 0.7)):
        near, _, who = cells(size, across, seed + 10 * across)
        near, who = (warped(field, *wander, 0.035) for field in (near, who))
        grown = np.clip((who - (1 - share)) / share, 0, 1)
        out = np.maximum(out, grown**0.5 * np.clip(1.25 - near / reach, 0, 1))
    return np.clip(out * (0.55 + 0.7 * gather) + 0.22 * (ragged - 0.5), 0, 1).astype(np.float32)


def _scale_of_rust(size: int, seed: int) -> tuple[np.ndarray, np.ndarray]:
    """Colour and relief (0..1) of a crust of rust: grains, and clods of grains."""
    fine, grain = spectral(size, 0.05, 0.9, seed), spectral(size, 0.010, 0.15, seed + 1)
    near, second, who = cells(size, 120, seed + 2)
    clod = smooth(0.05, 0.4, second - near)
    relief = 0.35 * fine + 0.35 * clod * (0.5 + 0.5 * who) + 0.30 * grain
    tone = 0.45 * relief + 0.30 * who + 0.25 * fine
    stops = (0.15, "#33201a"), (0.35, "#4f2f20"), (0.5, "#6b4027"), (0.65, "#7f4e2e"), (0.85, "#9a6a43")
    return ramp(tone, *stops), relief.astype(np.float32)


def _boards(size: int, seed: int, count: int) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Upright boards: grain, gap between boards, tone of each board, coordinate across one board."""
    cols = np.mgrid[0:size, 0:size][1] / size * count
    number = np.floor(cols).astype(int) % count
    across = cols - np.floor(cols)
    rng = np.random.Generator(np.random.Philox(seed))
    tone = rng.random(count)[number]
    offset = (rng.integers(0, size, count)[number]).astype(int)
    rings = spectral(size, 0.16, 1.4, seed + 1, 22.0)
    rows, columns = np.mgrid[0:size, 0:size]
    grain = rings[(rows + offset) % size, columns]
    gap = smooth(0.035, 0.012, np.minimum(across, 1 - across))
    return grain, gap, tone, across


def painted_wood(size: int, seed: int) -> Material:
    """Tongued boards in green paint that flakes to grey wood. 1 m, boards upright."""
    grain, gap, tone, _ = _boards(size, seed, 9)
    flake = spectral(size, 0.12, 1.2, seed + 2, 2.0)
    drift = spectral(size, 0.4, 1.6, seed + 3)
    bare = smooth(0.60, 0.66, 0.5 * flake + 0.3 * grain + 0.25 * drift)
    paint = ramp(0.6 * drift + 0.4 * tone, (0.2, "#415447"), (0.5, "#4f6353"), (0.8, "#677a68"))
    wood = ramp(grain, (0.2, "#6f6658"), (0.5, "#8d8474"), (0.8, "#a69c8a"))
    base = mix(paint * (0.92 + 0.16 * grain)[..., None], wood, bare)
    base = mix(base, colour("#23241f"), 0.85 * gap)
    height = 0.62 + 0.12 * (1 - bare) + 0.12 * (grain - 0.5) + 0.05 * (tone - 0.5) - 0.6 * gap
    return material(base, 0.62 + 0.28 * bare, np.clip(height, 0, 1), 1.0, 0.010)


def timber(size: int, seed: int) -> Material:
    """Bare sawn timber gone silver, cracked along the grain. 1 m."""
    grain, gap, tone, _ = _boards(size, seed, 5)
    crack = smooth(0.70, 0.82, spectral(size, 0.10, 1.0, seed + 4, 20.0))
    drift = spectral(size, 0.4, 1.5, seed + 5)
    base = ramp(
        0.55 * grain + 0.25 * tone + 0.2 * drift,
        (0.2, "#4f463a"),
        (0.45, "#6d6355"),
        (0.7, "#897f70"),
        (0.9, "#9f9685"),
    )
    base = mix(base, colour("#2c261f"), 0.75 * np.maximum(crack, gap))
    height = 0.6 + 0.25 * (grain - 0.5) - 0.3 * crack - 0.5 * gap
    return material(base, 0.85 + 0.1 * crack, np.clip(height, 0, 1), 1.0, 0.012)


def moss(size: int, seed: int) -> Material:
    """Cushion moss: domes of small leafy shoots, each a star of leaflets, bright at the tips and dark between. 0.8 m."""
    near, second, who = cells(size, 8, seed)
    near2, _, who2 = cells(size, 19, seed + 1)
    drift = spectral(size, 0.3, 1.3, seed + 5)
    dome = np.sqrt(np.clip(1 - (near / 0.85) ** 2, 0, 1)) * (0.6 + 0.4 * who)
    lump = np.sqrt(np.clip(1 - (near2 / 0.9) ** 2, 0, 1)) * (0.5 + 0.5 * who2)
    star, tip, age = _shoots(size, 120, seed + 2)
    small, small_tip, small_age = _shoots(size, 190, seed + 3)
    over = star > 0.25 + 0.2 * small
    leaf, tip, age = np.where(over, star, 0.75 * small), np.where(over, tip, small_tip), np.where(over, age, small_age)
    height = 0.42 * dome + 0.22 * lump + 0.30 * leaf + 0.06 * drift
    tone = 0.42 * leaf + 0.28 * tip + 0.15 * age + 0.15 * drift
    base = ramp(
        tone,
        (0.05, "#12170a"),
        (0.25, "#27300f"),
        (0.45, "#414d18"),
        (0.62, "#5d6a22"),
        (0.8, "#818a36"),
        (0.95, "#a3a352"),
    )
    dry = smooth(0.62, 0.85, 0.6 * drift + 0.4 * age)
    base = mix(base, base * colour("#f2c58a"), 0.6 * dry)
    base = base * (0.55 + 0.45 * smooth(0.05, 0.6, 0.6 * dome + 0.4 * lump))[..., None]
    return material(np.clip(base, 0, 1), 0.9 - 0.2 * tip * leaf, np.clip(height, 0, 1), 0.8, 0.024)


def _shoots(size: int, across: int, seed: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Leafy shoots seen from above: how far their leaflets stand out, how near the tip it is, and a number of each."""
    near, _, who = cells(size, across, seed)
    down, right = (np.roll(near, -1, axis) - np.roll(near, 1, axis) for axis in (0, 1))
    angle = np.arctan2(down, right)
    leaflets = 6 + np.floor(who * 3)
    # Each ring of leaflets is turned against the one below it.
    ring = np.floor(near * 6) * 0.9
    blade = 0.5 + 0.5 * np.cos(leaflets * (angle + 6.28 * who + ring))
    body = np.clip(1 - near / 0.72, 0, 1)
    star = body**0.7 * (0.45 + 0.55 * blade) + 0.25 * np.clip(1 - near / 0.2, 0, 1)
    return np.clip(star, 0, 1).astype(np.float32), (body**2).astype(np.float32), who


def grime(size: int, seed: int) -> Material:
    """Settled dirt: a thin brown-black film with drier crusts. 1.2 m."""
    drift = spectral(size, 0.35, 1.4, seed)
    fine = spectral(size, 0.04, 0.7, seed + 1)
    base = ramp(0.55 * drift + 0.45 * fine, (0.2, "#28241d"), (0.5, "#3c352a"), (0.85, "#5a4f3e"))
    return material(base, 0.9 + 0.08 * (fine - 0.5), np.clip(0.3 + 0.5 * fine + 0.2 * drift, 0, 1), 1.2, 0.003)


def glass(size: int, seed: int) -> Material:
    """An old window pane, dusty at the rim. 1 m."""
    drift = spectral(size, 0.3, 1.5, seed)
    base = ramp(drift, (0.2, "#2b3534"), (0.8, "#43504d"))
    made = material(base, 0.10 + 0.25 * smooth(0.5, 0.9, drift), np.full((size, size), 0.5, np.float32), 1.0, 0.001)
    # The pane is flat. What it has for a height is the order in which frost grows on it, tops first.
    return replace(made, height=np.clip(feathers(size, seed) * 255, 0, 255).astype(np.uint8))


def clear_glass(size: int, seed: int) -> Material:
    """A clean pane: what it mirrors is all that is seen of it. 0.2 m."""
    del seed
    flat = np.full((size, size), 0.5, np.float32)
    return material(np.ones((size, size, 3), np.float32), 0.03, flat, 0.2, 0.0, metalness=1.0)


def zinc(size: int, seed: int) -> Material:
    """Galvanised sheet: grains of zinc, each with a shade of its own, dulled in places. 0.5 m."""
    near, second, who = cells(size, 26, seed)
    shade = (np.sin(who * 12.9898) * 43758.5453) % 1.0
    dull = smooth(0.45, 0.7, spectral(size, 0.3, 1.3, seed + 1))
    grey = 0.34 + 0.2 * shade + 0.04 * spectral(size, 0.02, 0.8, seed + 2)
    base = np.stack([grey, grey * 1.02, grey * 1.04], axis=-1)
    base = mix(base, colour("#8f9390"), 0.55 * dull)
    rough = 0.3 + 0.12 * shade + 0.3 * dull
    edge = smooth(0.0, 0.012, second - near)
    return material(base, rough, 0.5 + 0.1 * edge * shade, 0.5, 0.0004, metalness=0.85)


def rock(size: int, seed: int) -> Material:
    """Weathered field stone with lichen, for boulders and loose stones. 0.8 m."""
    drift = spectral(size, 0.4, 1.4, seed)
    fine = spectral(size, 0.05, 0.8, seed + 1)
    grain = spectral(size, 0.012, 0.1, seed + 2)
    base = ramp(0.5 * drift + 0.5 * fine, (0.2, "#5c5a54"), (0.5, "#7f7b72"), (0.8, "#9c968a"))
    base *= (0.82 + 0.36 * grain)[..., None]
    pale = smooth(0.62, 0.68, spectral(size, 0.12, 1.0, seed + 3))
    base = mix(base, colour("#b4b49c"), 0.6 * pale)
    ochre = smooth(0.74, 0.79, spectral(size, 0.07, 0.9, seed + 4))
    base = mix(base, colour("#a5843f"), 0.6 * ochre)
    height = 0.5 * drift + 0.35 * fine + 0.15 * grain
    return material(base, 0.9, blur(height, 0.0008), 0.8, 0.02)


def stand_in(size: int, seed: int) -> Material:
    """An even grey in place of a material that is gone: the same for every seed. 1 m."""
    del seed
    flat = np.full((size, size), 0.5, np.float32)
    return material(np.repeat(flat[..., None], 3, axis=2), 0.9, flat, 1.0, 0.0)
