"""Where a ray meets something that is no hole, and what the surface is like there."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..mesh.jit import dr, mi
from ..surfaces import drjit_formulas as formulas
from ..surfaces.formulas import MACRO
from ..surfaces.weather_inputs import DUST_COLOUR, MUD_COLOUR
from .numbers import hashed, unit
from .reading import as_float, cover, layer_row, opacity, surface_row, texel, unpacked_colour, unpacked_normal
from .tables import (
    CLEAR,
    CUT_OUT,
    FADES,
    FALLEN,
    MACRO_DRIFT,
    MOST_LAYERS,
    OPEN,
    OWN_BASE,
    PANE,
    POOLED,
    POROUS_AT,
    ROOFED_AT,
    SCATTERS,
    SHEDS_AT,
    SIDES,
    THIN,
    WARM,
    WATER,
)
from .world import World

_HOLES = 64
"""Holes a ray may pass before the next thing counts as solid."""
_LEAST_TILE = 1e-4
_EDGE_ON = 0.02
"""Cosine between eye and normal under which a surface counts as seen edge on."""
_PANE = 3.6
"""What the two faces of a pane mirror, against one face of water."""
_CLEAR_SEEN = 0.8
"""Colour that a clear body is told to the denoiser by."""


@dataclass
class Hit:
    """The first solid place along a ray; `distance` is infinite where there is none."""

    distance: Any
    face: Any
    v: Any
    w: Any


def _lift(position: Any) -> Any:
    """Metres by which a ray leaves a surface: a little more than float precision this far from the origin."""
    return 2e-5 + 2e-6 * dr.max(dr.abs(position))


def first_solid(
    world: World, origin: Any, direction: Any, seed: Any, active: Any, through_water: bool = False, to_sun: bool = False
) -> Hit:
    """Cast rays on through the holes of cut-out pictures: each hole costs a cast and nothing else.

    Where a picture is half transparent, it is solid as often as it is opaque. `seed` (words) decides that. `through_water`
    its sheet is not met at all. On the way `to_sun` clear bodies keep light back as often as they send it elsewhere:
    hardly where it meets them squarely, always at their rim; level water as often as it mirrors.
    """

    def going(step: Any, on: Any, *rest: Any) -> Any:
        return on

    def cast(step: Any, on: Any, travelled: Any, distance: Any, face: Any, v: Any, w: Any) -> tuple[Any, ...]:
        start = dr.fma(direction, travelled, origin)
        found = world.scene.ray_intersect_preliminary(mi.Ray3f(start, direction), False, on)
        met = on & found.is_valid()
        reached = travelled + found.t
        hole = (
            met & (step < _HOLES) & ~_is_solid(world, found, direction, hashed(seed + step), met, through_water, to_sun)
        )
        solid = met & ~hole
        distance = dr.select(solid, reached, distance)
        face = dr.select(solid, found.prim_index, face)
        v, w = dr.select(solid, found.prim_uv.x, v), dr.select(solid, found.prim_uv.y, w)
        travelled = dr.select(hole, reached + _lift(start), travelled)
        return step + 1, hole, travelled, distance, face, v, w

    start = (
        mi.UInt32(0), mi.Bool(active), mi.Float(0.0), mi.Float(dr.inf), mi.UInt32(0), mi.Float(0.0), mi.Float(0.0),
    )  # fmt: skip
    _, _, _, distance, face, v, w = dr.while_loop(start, going, cast, label="holes")
    return Hit(distance, face, v, w)


def _is_solid(
    world: World, found: Any, direction: Any, word: Any, active: Any, through_water: bool, to_sun: bool
) -> Any:
    corner = dr.gather(mi.Vector4u, world.faces, found.prim_index, active)
    look = surface_row(world, corner.w, ("flags", "offset", "side", "tile"), active)
    cut = active & ((look["flags"] & CUT_OUT) != 0)
    uv = [_coordinates(dr.gather(mi.Vector2u, world.vertices, c * 2, cut)) for c in (corner.x, corner.y, corner.z)]
    v, w = found.prim_uv.x, found.prim_uv.y
    own = cut & ((look["flags"] & OWN_BASE) != 0)
    # Pictures with coordinates of their own are read by the second pair of the seams.
    apart = [dr.gather(mi.Vector4f, world.seams, c, own) for c in (corner.x, corner.y, corner.z)]
    uv = [dr.select(own, mi.Point2f(s.z, s.w), any_uv) for s, any_uv in zip(apart, uv, strict=True)]
    at = (uv[0] * (1 - v - w) + uv[1] * v + uv[2] * w) / dr.select(own, 1.0, dr.maximum(look["tile"], _LEAST_TILE))
    second = hashed(word)
    jitter = unit(second), unit(hashed(second))
    share = opacity(world, look["offset"], look["side"], at.x, at.y, jitter, cut)
    fades = cut & ((look["flags"] & FADES) != 0)
    fade = [dr.gather(mi.Float, world.seams, c * 4 + 2, fades) for c in (corner.x, corner.y, corner.z)]
    share = dr.select(fades, share * (fade[0] * (1 - v - w) + fade[1] * v + fade[2] * w), share)
    water, clear = (active & ((look["flags"] & flag) != 0) for flag in (WATER, CLEAR))
    holed = cut
    if through_water:
        share, holed = dr.select(water, 0.0, share), holed | water
    pane = active & ((look["flags"] & PANE) != 0)
    p = [dr.gather(mi.Point3f, world.positions, c, clear | pane) for c in (corner.x, corner.y, corner.z)]
    met_at = dr.abs(dr.dot(dr.normalize(dr.cross(p[1] - p[0], p[2] - p[0])), direction))
    mirrored = dr.minimum(1.0, _PANE * formulas.water_mirrors(met_at))
    share, holed = dr.select(pane, 0.0 if through_water else mirrored, share), holed | pane
    if to_sun:
        kept_back = dr.select(water, formulas.water_mirrors(met_at), 1 - met_at)
        share, holed = dr.select(clear, kept_back, share), holed | clear
    return ~holed | (unit(word) < share)


def _coordinates(row: Any) -> Any:
    return mi.Point2f(as_float(row.x), as_float(row.y))


@dataclass
class Spot:
    """A surface where a ray meets it. Normals look toward where the ray came from.

    Of a `clear` body `translucency` is the index of refraction, `absorbs` what is lost on a metre, and `within` says that
    the ray came from inside it. Of what `scatters` light comes out beside where it went in.
    """

    position: Any
    geometric: Any
    normal: Any
    colour: Any
    roughness: Any
    metalness: Any
    translucency: Any
    thin: Any
    clear: Any
    within: Any
    absorbs: Any
    scatters: Any
    murk: Any
    light: Any
    pattern: Any

    def leave(self, direction: Any) -> Any:
        """Where a ray in a direction starts so that it does not meet its own surface."""
        side = dr.sign(dr.dot(direction, self.geometric))
        return self.position + self.geometric * (side * _lift(self.position))


def spot_at(world: World, hit: Hit, direction: Any, jitter: tuple[Any, Any] | None, pick: Any, active: Any) -> Spot:
    """Work a surface out where it was hit: base picture, then its layers from the lowest up.

    Parameters
    ----------
    jitter : as `reading.texel` has it
    pick : a number 0..1 that chooses the side steep ground is looked at from
    """
    corner = dr.gather(mi.Vector4u, world.faces, hit.face, active)
    corners = corner.x, corner.y, corner.z
    weights = 1 - hit.v - hit.w, hit.v, hit.w
    p = [dr.gather(mi.Point3f, world.positions, c, active) for c in corners]
    rows = [dr.gather(mi.Vector4u, world.vertices, c, active) for c in corners]
    uv = [_coordinates(r) for r in rows]
    blend = lambda values: values[0] * weights[0] + values[1] * weights[1] + values[2] * weights[2]  # noqa: E731
    position = mi.Point3f(blend(p))
    e1, e2 = p[1] - p[0], p[2] - p[0]
    geometric = dr.normalize(dr.cross(e1, e2))
    smooth = dr.normalize(blend([unpacked_normal(r.z) for r in rows]))
    tint = blend([unpacked_colour(r.w) for r in rows])
    roofed = ((rows[0].w >> ROOFED_AT) & 1) != 0
    place = blend(uv)
    look = surface_row(
        world, corner.w,
        ("flags", "offset", "side", "tile", "metalness", "roughness", "least_roughness", "translucency",
         "layers", "covers", "cover_side", "depth", "red", "green", "blue", "relief", "murk", "light", "pattern"),
        active,
    )  # fmt: skip
    flags = look["flags"]
    seamed = active & (((look["layers"] & MOST_LAYERS) > 0) | ((flags & (OWN_BASE | OPEN)) != 0))
    seams = [dr.gather(mi.Vector4f, world.seams, c, seamed) for c in corners]
    seam, own_uvs = blend(seams), [mi.Point2f(s.z, s.w) for s in seams]
    place = _seen_from(position, smooth, place, pick, (flags & SIDES) != 0)
    own = (flags & OWN_BASE) != 0
    base_at = dr.select(own, mi.Point2f(seam.z, seam.w), place / dr.maximum(look["tile"], _LEAST_TILE))
    base = texel(world, look["offset"], look["side"], base_at.x, base_at.y, jitter, active)
    drifts = active & ((flags & MACRO_DRIFT) != 0)
    wide = texel(world, look["offset"], look["side"], base_at.x / MACRO, base_at.y / MACRO, jitter, drifts)
    drift = dr.select(drifts, formulas.macro_brightness(wide.height), 1.0)
    frame = _frame(e1, e2, uv)
    # A base with coordinates of its own leans in their frame; what lies on it leans in that of `uv`.
    own_frame = _frame(e1, e2, [dr.select(own, own_uv, any_uv) for own_uv, any_uv in zip(own_uvs, uv, strict=True)])
    state = (
        base.colour * mi.Color3f(look["red"], look["green"], look["blue"]) * tint * drift,
        base.roughness * look["roughness"],
        _slope(own_frame, base.normal_x * look["relief"], base.normal_y * look["relief"]),
        dr.select(look["metalness"] < 0, base.opacity, look["metalness"]),
        formulas.metres(base.height, look["depth"]),
        _answer(flags),
    )
    laid = _layered(world, look, state, place, seam, frame, jitter, active)
    colour, rough, slope, metal = _weathered(world, look, laid, seam, smooth, position, roofed, active)
    normal = dr.normalize(smooth + slope)
    clear, within = (flags & CLEAR) != 0, dr.dot(geometric, direction) > 0
    geometric = dr.mulsign(geometric, -dr.dot(geometric, direction))
    # A surface has two sides; which one is seen, its shape says and not its fine relief.
    normal = _toward_eye(dr.mulsign(normal, -dr.dot(smooth, direction)), -direction)
    return Spot(
        position, geometric, normal, dr.select(clear, mi.Color3f(_CLEAR_SEEN), dr.clip(colour, 0, 1)), dr.maximum(rough, look["least_roughness"]), metal,
        look["translucency"], (flags & THIN) != 0, clear, within, mi.Color3f(look["red"], look["green"], look["blue"]), (flags & SCATTERS) != 0,
        look["murk"], look["light"], look["pattern"],
    )  # fmt: skip


def _toward_eye(normal: Any, eye: Any) -> Any:
    """A normal that leans away from the eye, bent back until it is seen edge on: what is seen cannot face away."""
    seen = dr.dot(normal, eye)
    return dr.select(seen < _EDGE_ON, dr.normalize(normal + eye * (_EDGE_ON - seen)), normal)


def _seen_from(position: Any, normal: Any, place: Any, pick: Any, sides: Any) -> Any:
    """Coordinates of the ground's pictures, on steep ground from one of its sides, each as often as it counts."""
    squared = dr.squared_norm(normal)
    above, along_x, along_z = (formulas.side_weight(part, squared) for part in (normal.y, normal.x, normal.z))
    chosen = pick * (above + along_x + along_z)
    from_x = mi.Point2f(dr.select(normal.x < 0, position.y, -position.y), -position.z)
    from_z = mi.Point2f(position.x, dr.select(normal.z < 0, -position.y, position.y))
    steep = sides & (chosen >= above)
    return dr.select(steep, dr.select(chosen < above + along_x, from_x, from_z), place)


def _answer(word: Any) -> Any:
    """How something answers to the weather: porosity, share of snow that slips off, and 1 where no frost forms."""
    warm = dr.select((word & WARM) != 0, mi.Float(1.0), 0.0)
    return mi.Color3f(mi.Float((word >> POROUS_AT) & 255) / 255, mi.Float(word >> SHEDS_AT) / 255, warm)


def _layered(
    world: World, look: dict[str, Any], state: tuple[Any, ...], place: Any, seam: Any,
    frame: tuple[Any, Any], jitter: tuple[Any, Any] | None, active: Any,
) -> tuple[Any, ...]:  # fmt: skip
    """Colour, roughness, slope, metalness, height and answer to the weather after all layers."""
    first, count = look["layers"] >> 8, look["layers"] & MOST_LAYERS
    last = dr.select(active, first + count, 0)

    def more(number: Any, *rest: Any) -> Any:
        return number < last

    def lay(number: Any, colour: Any, rough: Any, slope: Any, metal: Any, height: Any, answer: Any) -> tuple[Any, ...]:
        layer = layer_row(world, number, mi.Bool(True))
        amount = cover(
            world,
            look["covers"],
            look["cover_side"],
            (layer["number"] & MOST_LAYERS) >> 2,
            (layer["number"] & 3) * 8,
            seam.x,
            seam.y,
            mi.Bool(True),
        )
        lies = amount > 0
        at, wide_at = place / layer["tile"], place / layer["variation_tile"]
        own = texel(world, layer["offset"], layer["side"], at.x, at.y, jitter, lies)
        wide = texel(world, layer["offset"], layer["side"], wide_at.x, wide_at.y, jitter, lies)
        under = formulas.under_relief(height, look["depth"])
        body = formulas.body_share(amount)
        amount = formulas.layer_amount(
            amount, own.height, layer["break_up"], under, formulas.felt_fill(layer["fill"], look["depth"])
        )
        amount = dr.select(lies, amount, 0.0)
        factor = formulas.variation_factor(layer["variation"], wide.height)
        tint = mi.Color3f(layer["red"], layer["green"], layer["blue"])
        laid = formulas.laid_colour(own.colour, tint, factor)
        colour = formulas.blend_colour(colour, laid, layer["stain"], amount)
        keep = formulas.kept_share(amount, layer["stain"], layer["film"])
        rough = formulas.mix(rough, dr.minimum(1.0, own.roughness * layer["roughness"]), keep)
        over = _slope(frame, own.normal_x * layer["relief"], own.normal_y * layer["relief"])
        top = formulas.metres(own.height, layer["depth"])
        top = formulas.laid_height(height, top, layer["thickness"], layer["fill"], body)
        height = formulas.mix(height, top, amount)
        answer = formulas.mix(answer, _answer(layer["number"]), keep)
        return (
            number + 1,
            colour,
            rough,
            formulas.mix(slope, over, keep),
            formulas.mix(metal, layer["metalness"], keep),
            height,
            answer,
        )

    first = dr.select(active, first, 0)
    return tuple(dr.while_loop((first, *state), more, lay, label="layers")[1:])


def _weathered(
    world: World, look: dict[str, Any], laid: tuple[Any, ...], seam: Any, smooth: Any, position: Any,
    roofed: Any, active: Any,
) -> tuple[Any, ...]:  # fmt: skip
    """Colour, roughness, slope and metalness as the weather leaves them; `smooth` is the normal of the shape."""
    up = smooth.y
    rime: Any = world.fallen.rime
    colour, rough, slope, metal, height, answer = laid
    open_to = active & ((look["flags"] & OPEN) != 0)
    none = mi.UInt32(0)
    # What its vertices fade carries how open and how damp it is there itself.
    told = (look["flags"] & FADES) != 0
    exposure = cover(world, look["covers"], look["cover_side"], none, none, seam.x, seam.y, open_to & ~told)
    # What is scattered has no map of its own: it stands in the open or under a roof.
    exposure = dr.select(open_to, dr.select(told, seam.x, exposure), dr.select(roofed, 0.0, mi.Float(1.0)))
    falls_on = active & ((look["flags"] & FALLEN) == 0)
    wet = formulas.wet_share(
        world.fallen.wetness, world.fallen.dried, exposure, formulas.under_relief(height, look["depth"])
    )
    pooled = open_to & ((look["flags"] & POOLED) != 0)
    pool = cover(world, look["covers"], look["cover_side"], none, mi.UInt32(8), seam.x, seam.y, pooled & ~told)
    wet = dr.maximum(dr.select(falls_on, wet, 0.0), dr.select(pooled, dr.select(told, seam.y, pool), 0.0))
    under = formulas.under_relief(height, look["depth"])
    dusty = dr.select(open_to, formulas.dust_share(world.fallen.dust, up, under), 0.0)
    colour = formulas.mix(colour, mi.Color3f(*DUST_COLOUR), dusty)
    mud = cover(world, look["covers"], look["cover_side"], none, mi.UInt32(16), seam.x, seam.y, pooled & ~told)
    muddy = dr.select(pooled & ~told, formulas.mud_share(mud, under), 0.0)
    colour = formulas.mix(colour, mi.Color3f(*MUD_COLOUR), muddy)
    dusty = dr.maximum(dusty, muddy)
    rough, metal = formulas.mix(rough, 1.0, dusty), metal * (1 - dusty)
    colour, rough = formulas.wet_colour(colour, wet, metal, answer.x), formulas.wet_roughness(rough, wet)
    frosted = dr.select(falls_on, formulas.frost_share(world.fallen.frost, exposure, up, under), 0.0)
    thinly = falls_on & ~open_to & ~roofed
    rimed = dr.select(
        thinly,
        formulas.rime_share(dr.norm(rime), dr.dot(smooth, dr.normalize(rime + 1e-9))),
        0.0,
    )
    tufts = dr.select(open_to, 1.0, formulas.crystals(position.x, position.y, position.z))
    frosted = dr.maximum(frosted, rimed) * (1 - answer.z) * tufts
    colour, rough = formulas.frost_colour(colour, frosted), formulas.frost_roughness(rough, frosted)
    metal = metal * (1 - frosted)
    lies = formulas.snow_depth(world.fallen.snow, exposure, up)
    share = formulas.snow_share(lies, look["depth"], under)
    on_leaf = formulas.snow_on_leaf(lies, position.x, position.y, position.z)
    share = dr.select((look["flags"] & THIN) != 0, on_leaf, share)
    share = dr.select(falls_on, share * (1 - answer.y), 0.0)
    return (
        formulas.snow_colour(colour, share),
        formulas.snow_roughness(rough, share),
        slope * formulas.kept_slope(wet) * (1 - share),
        metal * (1 - share),
    )


def _slope(frame: tuple[Any, Any], x: Any, y: Any) -> Any:
    return frame[0] * x + frame[1] * y


def _frame(e1: Any, e2: Any, uv: list[Any]) -> tuple[Any, Any]:
    """Unit directions in which u and v grow along a face; zero where they do not."""
    d1, d2 = uv[1] - uv[0], uv[2] - uv[0]
    det = d1.x * d2.y - d1.y * d2.x
    sign = dr.select(det < 0, -1.0, 1.0)
    tangent, other = (e1 * d2.y - e2 * d1.y) * sign, (e2 * d1.x - e1 * d2.x) * sign
    unit_length = lambda t: t * dr.rcp(dr.maximum(dr.norm(t), 1e-12))  # noqa: E731
    return unit_length(tangent), unit_length(other)
