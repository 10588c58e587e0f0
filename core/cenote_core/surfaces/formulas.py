"""The formulas by which a surface's layers are blended: one source for flattened maps and for the path tracer.

Plain scalar functions of floats that use `min` and `max` and nothing else. Numba compiles them as they stand;
`drjit_formulas.py` binds the same code to Dr.Jit's arrays.
"""

MACRO = 7.3
"""The base material is drifted in brightness by its own relief, enlarged this many times, to hide repeats."""
GENTLE = 0.25
"""A side of the ground counts where the square of the normal's part toward it is larger: from thirty degrees on."""


def macro_brightness(height: float) -> float:
    """Factor on the base colour by the enlarged relief (0..1)."""
    return 0.86 + 0.28 * height


def layer_amount(cover: float, height: float, break_up: float) -> float:
    """How much of a layer lies where its rules ask for `cover` and its own relief is `height`, all 0..1."""
    t = cover * (1.0 + break_up) - break_up * (1.0 - height)
    t = min(1.0, max(0.0, t * (1.0 + 2.0 * break_up)))
    return t * t * (3.0 - 2.0 * t)


def variation_factor(variation: float, height: float) -> float:
    """Factor on a layer's brightness from its relief read at the size of its patches."""
    return 1.0 + variation * 2.0 * (height - 0.5)


def laid_colour(picture: float, tint: float, factor: float) -> float:
    """One channel of a layer's own colour, linear."""
    return min(1.0, picture * tint * factor)


def blend_colour(under: float, laid: float, stain: float, amount: float) -> float:
    """One channel of the colour after a layer: it hides what lies under it, or darkens it like a stain."""
    stained = under * (0.35 + laid)
    return under + (laid + (stained - laid) * stain - under) * amount


def kept_share(amount: float, stain: float) -> float:
    """Share by which a layer's roughness and relief replace those under it; a stain leaves half of them."""
    return amount * (1.0 - 0.5 * stain)


def mix(under: float, over: float, share: float) -> float:
    """From `under` to `over`."""
    return under + (over - under) * share


def side_weight(part: float, squared_length: float) -> float:
    """Weight of a side of the ground toward which a normal has the part `part`."""
    return max(part * part - GENTLE * max(squared_length, 1e-24), 0.0)
