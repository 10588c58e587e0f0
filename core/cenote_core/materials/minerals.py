"""Mineral and made surfaces: stone, concrete, gravel, soil, tin, iron, wood. Each takes a size and a seed."""

from __future__ import annotations

import numpy as np

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
    """Old cast concrete: faint board marks, blow holes, pale wear and darker drift. 2 m."""
    drift = spectral(size, 0.5, 1.8, seed)
    fine = spectral(size, 0.03, 0.5, seed + 1)
    wear = spectral(size, 0.15, 1.3, seed + 2)
    near, _, who = cells(size, 46, seed + 3)
    holes = smooth(0.23, 0.10, near) * (who > 0.72)
    rows = np.mgrid[0:size, 0:size][0] / size
    board = np.abs(((rows * 8 + (drift - 0.5) * 0.04) % 1.0) - 0.5) * 2
    seam = smooth(0.955, 0.995, board)
    height = 0.6 + 0.18 * (drift - 0.5) + 0.16 * (fine - 0.5) + 0.16 * (wear - 0.5) - 0.4 * holes - 0.12 * seam
    base = ramp(0.55 * drift + 0.45 * wear, (0.2, "#7c7a72"), (0.5, "#98958b"), (0.8, "#aeaa9e"))
    base *= (0.88 + 0.24 * fine)[..., None]
    base = mix(base, colour("#5b5850"), 0.7 * holes + 0.3 * seam)
    return material(base, 0.86 + 0.1 * (fine - 0.5), np.clip(height, 0, 1), 2.0, 0.012)


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
    pebble = smooth(0.33, 0.24, near) * (pick > 0.86)
    height = 0.35 * smooth(0, 0.5, second - clod) * who + 0.35 * fine + 0.2 * drift
    height = np.maximum(height, pebble * (0.5 + 0.3 * (1 - near)))
    base = ramp(0.5 * fine + 0.3 * drift + 0.2 * who, (0.2, "#3a2f25"), (0.5, "#544434"), (0.8, "#6e5b47"))
    base = mix(base, colour("#8b8579"), 0.8 * pebble)
    return material(base, 0.95, np.clip(height, 0, 1), 1.5, 0.03)


def turf(size: int, seed: int) -> Material:
    """Ground under grass: earth with moss, dead blades and short new growth. 2 m."""
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
    return material(base * (0.6 + 0.5 * height)[..., None], 0.94, height, 2.0, 0.03)


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
    """Cast and plate iron under failing dark paint, rusting. 1 m."""
    drift = spectral(size, 0.4, 1.5, seed)
    fine = spectral(size, 0.05, 0.8, seed + 1)
    grain = spectral(size, 0.015, 0.2, seed + 2)
    streak = spectral(size, 0.3, 1.2, seed + 3, 7.0)
    rust = smooth(0.40, 0.56, 0.45 * drift + 0.35 * fine + 0.25 * streak)
    paint = ramp(drift, (0.2, "#2e3a38"), (0.8, "#46524d"))
    scale = ramp(0.6 * fine + 0.4 * grain, (0.15, "#352019"), (0.45, "#5a3826"), (0.7, "#7a5036"), (0.95, "#9c7350"))
    base = mix(paint, scale, rust) * (0.85 + 0.3 * grain)[..., None]
    edge = smooth(0.0, 0.25, rust) * smooth(1.0, 0.6, rust)
    height = 0.5 + 0.2 * (1 - rust) + 0.25 * rust * (fine - 0.5) + 0.1 * edge + 0.06 * grain
    return material(base, 0.5 + 0.42 * rust, np.clip(height, 0, 1), 1.0, 0.006, metalness=0.15)


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
    """Cushion moss: rounded tufts of fine shoots, yellow-green on top, dark between. 0.8 m."""
    near, second, who = cells(size, 9, seed)
    near2, second2, who2 = cells(size, 30, seed + 1)
    shoot = spectral(size, 0.012, 0.15, seed + 2)
    fine = spectral(size, 0.05, 0.9, seed + 3)
    cushion = np.clip(1 - near * 1.05, 0, 1) ** 0.6
    tuft = np.clip(1 - near2 * 1.1, 0, 1) ** 0.7
    height = 0.45 * cushion + 0.28 * tuft + 0.20 * shoot + 0.1 * fine
    base = ramp(
        0.35 * height + 0.25 * who + 0.2 * who2 + 0.3 * shoot,
        (0.15, "#1c240f"),
        (0.4, "#353f18"),
        (0.6, "#4e5a22"),
        (0.8, "#6c7632"),
        (0.95, "#8f914c"),
    )
    base = mix(base, colour("#6b5a2c"), 0.35 * smooth(0.7, 0.9, spectral(size, 0.2, 1.3, seed + 5)))
    base *= (0.45 + 0.75 * smooth(0.1, 0.8, height))[..., None]
    return material(np.clip(base, 0, 1), 0.95, np.clip(height, 0, 1), 0.8, 0.022)


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
    return material(base, 0.10 + 0.25 * smooth(0.5, 0.9, drift), np.full((size, size), 0.5, np.float32), 1.0, 0.001)


def rock(size: int, seed: int) -> Material:
    """Weathered field stone with lichen, for boulders and loose stones. 1 m."""
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
    return material(base, 0.9, blur(height, 0.0008), 1.0, 0.02)


def stand_in(size: int, seed: int) -> Material:
    """An even grey in place of a material that is gone: the same for every seed. 1 m."""
    del seed
    flat = np.full((size, size), 0.5, np.float32)
    return material(np.repeat(flat[..., None], 3, axis=2), 0.9, flat, 1.0, 0.0)
