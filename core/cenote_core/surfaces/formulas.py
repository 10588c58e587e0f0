"""The formulas by which a surface's layers are blended: one source for baked maps, the path tracer and the plate.

Plain scalar functions of floats that use `min`, `max` and `sin` and nothing else. Numba compiles them as they stand,
`drjit_formulas.py` binds the same code to Dr.Jit's arrays, and `glsl.py` translates it for the plate. What is a
`Colour` is one channel of three here and all three at once there.
"""

from math import sin

Colour = float
"""One channel of a linear colour."""

MACRO = 7.3
"""The base material is drifted in brightness by its own relief, enlarged this many times, to hide repeats."""
GENTLE = 0.25
"""A side of the ground counts where the square of the normal's part toward it is larger: from thirty degrees on."""
SHALLOW = 0.0001
"""Metres of relief below which a surface has no hollows that could be filled first."""
SLIDES = 0.34
"""Upward part of a normal from which snow holds at all: seventy degrees."""
HOLDS = 0.77
"""Upward part of a normal from which all of it holds: forty degrees."""
SHELTERED = 0.4
"""Exposure under which no snow falls: under a roof."""
OPEN_SKY = 0.7
"""Exposure from which all of it falls: level ground beside a wall has more."""
POWDER = 0.008
"""Metres of snow that hide what has less relief."""
CLUMPS = 0.05
"""Metres of snow from which leaves bear all they can."""
SNOW_WHITE = 0.8
"""Share of the light that fresh snow throws back."""
SNOW_ROUGHNESS = 0.8
"""Roughness of fresh snow."""
FELT = 0.004
"""Metres of relief from which its hollows and tops count in full."""
DUSTING_MELTS = 4.0
"""A dusting of snow has gone when so many times as much as has melted on open ground would have."""
WATER_HEAD_ON = 0.02
"""Share of light that water throws back straight on."""
DRIES = 1.2
"""How much of its wetness an open place has lost when it counts as dried."""
FROST_FROM = 0.05
"""Exposure from which frost forms."""
FROST_FULL = 0.95
"""Exposure from which it is full."""
FROST_UPRIGHT = 0.6
"""Share of frost on what stands upright, of that on what is level."""
FROST_WHITE = 0.78
"""Share of the light that hoar frost throws back."""
FROST_HIDES = 0.55
"""Share of what is under it that thick frost hides."""
FROST_ROUGHNESS = 0.7
"""Roughness of frost."""
RIME_WIND = 6.0
"""Metres a second from which rime grows as far as there is frost."""
RIME_TURNED = 0.25
"""Part of a normal toward the wind up to which no rime grows."""
DUST_SLIDES = 0.35
"""Upward part of a normal up to which no dust stays."""
DUST_HIDES = 0.8
"""Share of what is under it that thick dust hides."""
DUST_RED = 0.36
DUST_GREEN = 0.29
DUST_BLUE = 0.21
"""Linear colour of dust off dry ground."""
MUD_HIDES = 0.85
"""Share of what is under it that the mud of a pool hides."""
MUD_RED = 0.125
MUD_GREEN = 0.094
MUD_BLUE = 0.064
"""Linear colour of dry mud."""
FOG = 0.05
"""Extinction per metre of the thickest fog: things are lost at sixty metres."""
HAZE = 0.012
"""Extinction per metre at the most haze."""
THIN_UNDER = 0.1
"""Cover at which a layer begins to have a body."""
THICK_FROM = 0.8
"""Cover from which it is as thick as it gets."""
LET_IN = 0.98
"""Share of the light that water lets in from the air, straight on."""
HELD_IN = 0.472
"""Share of scattered light that a film of water throws back from inside (Lekner and Dorf 1988, for n = 1.33)."""
FILM_ROUGHNESS = 0.1
"""Roughness of a closed film of water."""
FILM_LEVELS = 0.7
"""Share of the fine relief that a closed film evens out."""


def macro_brightness(height: float) -> float:
    """Factor on the base colour by the enlarged relief (0..1)."""
    return 0.86 + 0.28 * height


def metres(height: float, depth: float) -> float:
    """A relief of 0..1 as metres above its middle; `depth` from its lowest to its highest."""
    return (height - 0.5) * depth


def under_relief(height: float, depth: float) -> float:
    """Where a height in metres lies between the hollows (0) and the tops (1) of a relief of a `depth`."""
    return min(1.0, max(0.0, 0.5 + height / max(depth, SHALLOW)))


def felt_fill(fill: float, depth: float) -> float:
    """How far a layer picks hollows or tops of a relief of a `depth`: where there is next to none it picks nothing."""
    return fill * min(1.0, depth / FELT)


def layer_amount(cover: float, height: float, break_up: float, under: float, fill: float) -> float:
    """How much of a layer lies where its rules ask for `cover`, all 0..1.

    Its own relief `height` breaks its edge up; with `fill` it comes first to the hollows of what is `under` it and
    last to the tops, below 0 the other way round. Where the cover is 0 there is none of it, where it is 1 it lies
    everywhere.
    """
    hollows = max(fill, 0.0)
    tops = max(0.0 - fill, 0.0)
    t = cover * (1.0 + break_up + hollows + tops) - break_up * (1.0 - height)
    t = t - hollows * under - tops * (1.0 - under)
    t = min(1.0, max(0.0, t * (1.0 + 2.0 * break_up + 2.0 * (hollows + tops))))
    return t * t * (3.0 - 2.0 * t)


def body_share(cover: float) -> float:
    """Share of a layer's full height where its rules ask for `cover`: low at its borders, so that they are round."""
    t = min(1.0, max(0.0, (cover - THIN_UNDER) / (THICK_FROM - THIN_UNDER)))
    return t * t * (3.0 - 2.0 * t)


def laid_height(under: float, own: float, thickness: float, fill: float, body: float) -> float:
    """Height of a layer's top, metres: what it lies on, evened out as far as it fills, and its own body and relief."""
    return under * (1.0 - max(fill, 0.0)) + (thickness + own) * body


def variation_factor(variation: float, height: float) -> float:
    """Factor on a layer's brightness from its relief read at the size of its patches."""
    return 1.0 + variation * 2.0 * (height - 0.5)


def laid_colour(picture: Colour, tint: Colour, factor: float) -> Colour:
    """A layer's own colour."""
    return min(1.0, picture * tint * factor)


def blend_colour(under: Colour, laid: Colour, stain: float, amount: float) -> Colour:
    """The colour after a layer: it hides what lies under it, or darkens it like a stain."""
    stained = under * (0.35 + laid)
    return under + (laid + (stained - laid) * stain - under) * amount


def kept_share(amount: float, stain: float, film: float) -> float:
    """Share by which a layer's roughness and relief replace those under it; a stain leaves half of them, a film none."""
    return amount * (1.0 - 0.5 * stain * (1.0 - film))


def mix(under: float, over: float, share: float) -> float:
    """From `under` to `over`."""
    return under + (over - under) * share


def side_weight(part: float, squared_length: float) -> float:
    """Weight of a side of the ground toward which a normal has the part `part`."""
    return max(part * part - GENTLE * max(squared_length, 1e-24), 0.0)


def wet_share(wetness: float, dried: float, exposure: float, under: float) -> float:
    """How wet a place is, 0..1: of what lies half open or is half wet the hollows are, and the tops (`under` 1) not.

    What has `dried` since goes by the square of how open a place is, for sun and wind take it there: the open is dry
    first, the sheltered later, and hollows last of all.
    """
    return min(1.0, max(0.0, 2.0 * exposure * (wetness - DRIES * dried * exposure) - under))


def wet_colour(dry: Colour, wet: float, metal: float, porosity: float) -> Colour:
    """The colour of a rough surface under water.

    Light that is scattered back is partly thrown back once more from inside the film, and each time some of it stays
    (Lekner and Dorf, *Why some things are darker when wet*, 1988). What takes no water up only gets a film: metals do
    not darken, nor does what has no pores (`porosity` 0).
    """
    soaked = LET_IN * dry * (1.0 - HELD_IN) / (1.0 - HELD_IN * dry)
    return dry + (soaked - dry) * (wet * (1.0 - metal) * porosity)


def wet_roughness(dry: float, wet: float) -> float:
    """Roughness under a film that closes as the surface is soaked."""
    return dry + (min(dry, FILM_ROUGHNESS) - dry) * wet * wet


def kept_slope(wet: float) -> float:
    """Share of the fine relief that is left under a film."""
    return 1.0 - FILM_LEVELS * wet * wet


def water_mirrors(seen: float) -> float:
    """Share of light that level water throws back like a mirror; `seen` is the cosine to upright (Schlick 1994)."""
    grazing = 1.0 - min(1.0, max(0.0, seen))
    fifth = grazing * grazing * grazing * grazing * grazing
    return WATER_HEAD_ON + (1.0 - WATER_HEAD_ON) * fifth


def snow_depth(fallen: float, exposure: float, up: float) -> float:
    """Metres of snow that lie at a place when `fallen` lie on open flat ground.

    It falls where the sky is open above it and holds by how level the place is: `up` is the upward part of its
    normal. Loose snow comes to rest at about forty degrees (angle of repose, as in Fearing 2000).
    """
    falls = min(1.0, max(0.0, (exposure - SHELTERED) / (OPEN_SKY - SHELTERED)))
    holds = min(1.0, max(0.0, (up - SLIDES) / (HOLDS - SLIDES)))
    return fallen * falls * falls * (3.0 - 2.0 * falls) * holds * holds * (3.0 - 2.0 * holds)


def snow_share(lies: float, depth: float, under: float) -> float:
    """How far snow hides a surface: a little of it lies in the hollows of a relief of a `depth` before the tops."""
    return min(1.0, max(0.0, 2.0 * lies / max(depth, POWDER) - under))


def snow_on_leaf(lies: float, x: float, y: float, z: float) -> float:
    """How far snow hides a leaf or blade at a place, metres: it lies on it in clumps, and slips off between them."""
    across = sin(113.0 * x + 2.0 * sin(67.0 * z))
    along = sin(127.0 * z + 2.0 * sin(71.0 * y))
    upward = sin(97.0 * y + 2.0 * sin(83.0 * x))
    held = min(1.0, lies / CLUMPS)
    return min(1.0, max(0.0, 1.5 * held - 0.6 + 0.3 * held * (across + along + upward)))


def snow_colour(bare: Colour, share: float) -> Colour:
    """The colour with snow on it."""
    return bare + (SNOW_WHITE - bare) * share


def snow_roughness(bare: float, share: float) -> float:
    """The roughness with snow on it."""
    return bare + (SNOW_ROUGHNESS - bare) * share


def frost_share(frost: float, exposure: float, up: float, under: float) -> float:
    """How far hoar frost hides a place: what sees the night's sky cools by it, tops and edges (`under` 1) first."""
    open_sky = min(1.0, max(0.0, (exposure - FROST_FROM) / (FROST_FULL - FROST_FROM)))
    level = min(1.0, max(0.0, FROST_UPRIGHT + (1.0 - FROST_UPRIGHT) * up))
    return min(1.0, max(0.0, 2.0 * frost * open_sky * level - (1.0 - under)))


def frost_colour(bare: Colour, share: float) -> Colour:
    """The colour with frost on it: crystals, between which it shows through."""
    return bare + (FROST_WHITE - bare) * (share * FROST_HIDES)


def frost_roughness(bare: float, share: float) -> float:
    """The roughness with frost on it."""
    return bare + (FROST_ROUGHNESS - bare) * share


def crystals(x: float, y: float, z: float) -> float:
    """How densely crystals stand at a place on what is thin, metres: they sprout in tufts, and it shows between them."""
    one = sin(1210.0 * x + 430.0 * y - 690.0 * z + 4.0 * sin(210.0 * y + 90.0 * z) + 3.0 * sin(330.0 * x))
    two = sin(1130.0 * y - 520.0 * x + 610.0 * z + 4.0 * sin(260.0 * z - 70.0 * x) + 3.0 * sin(410.0 * y))
    three = sin(300.0 * x - 760.0 * y + 1290.0 * z + 4.0 * sin(190.0 * x + 230.0 * y) + 3.0 * sin(370.0 * z))
    return min(1.0, max(0.0, 0.62 + 0.22 * (one + two + three)))


def rime_share(rime: float, into: float) -> float:
    """How far rime hides what stands thinly in the wind: the windward side of twigs, stems and leaves.

    Droplets of freezing fog hit what is narrow and pass by what is wide (Langmuir and Blodgett 1946): nothing grows on
    walls. `into` is the part of the normal toward the wind.
    """
    return rime * min(1.0, max(0.0, (into - RIME_TURNED) / (1.0 - RIME_TURNED)) * 2.5)


def dust_share(dust: float, up: float, under: float) -> float:
    """How far dust lies on a place: on what is level, and in its hollows (`under` 0) first."""
    level = min(1.0, max(0.0, (up - DUST_SLIDES) / (1.0 - DUST_SLIDES)))
    return DUST_HIDES * min(1.0, max(0.0, 2.0 * dust * level - under))


def mud_share(mud: float, under: float) -> float:
    """How far mud hides a place where a pool has left it: hollows (`under` 0) first, over tops it is washed off."""
    return MUD_HIDES * min(1.0, max(0.0, 2.0 * mud - under))


def fog_density(fog: float) -> float:
    """Extinction per metre of fog of 0..1."""
    return FOG * fog * fog


def haze_density(haze: float) -> float:
    """Extinction per metre for the haze setting 0..1."""
    return HAZE * haze * haze
