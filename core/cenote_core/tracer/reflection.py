"""How a surface turns light round: the diffuse and specular lobes of Burley's model, and light through thin leaves.

After Burley, *Physically Based Shading at Disney* (2012) and *Extending the Disney BRDF* (2015), as Mitsuba's
`principled` and `principledthin` have them, so that pictures can be held against its own integrators; sampled in our
own way. All directions are local: the normal is z, and the eye is above (z > 0).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..mesh.jit import dr, mi
from .hits import Spot

ETA = 2 / (1 - (0.08 * 0.4) ** 0.5) - 1
"""Index of refraction of what is no metal: a specular level of 0.4."""
_LEAST_ALPHA = 1e-3


@dataclass
class Lobes:
    """A surface's numbers as its lobes need them."""

    colour: Any
    roughness: Any
    alpha: Any
    metalness: Any
    through: Any
    thin: Any


def lobes_of(spot: Spot) -> Lobes:
    """Lobes of a surface; half of a leaf's translucency is its share of light that comes through."""
    alpha = dr.maximum(_LEAST_ALPHA, dr.square(spot.roughness))
    # Of a clear body only what its outside mirrors of the sun is asked for here.
    colour = dr.select(spot.clear, mi.Color3f(0.0), spot.colour)
    return Lobes(colour, spot.roughness, alpha, spot.metalness, 0.5 * spot.translucency, spot.thin)


def _fifth(cosine: Any) -> Any:
    m = dr.clip(1 - cosine, 0, 1)
    return dr.square(dr.square(m)) * m


def _fresnel(cosine: Any) -> Any:
    """Unpolarised reflectance of a dielectric from outside."""
    inner = dr.safe_sqrt(1 - (1 - dr.square(cosine)) / ETA**2)
    s = (cosine - ETA * inner) / (cosine + ETA * inner)
    p = (inner - ETA * cosine) / (inner + ETA * cosine)
    return 0.5 * (dr.square(s) + dr.square(p))


def _smith(cosine: Any, alpha: Any) -> Any:
    """Masking of GGX in one direction."""
    tangent_squared = (1 - dr.square(cosine)) / dr.maximum(dr.square(cosine), 1e-8)
    return 2 / (1 + dr.sqrt(1 + dr.square(alpha) * tangent_squared))


def _ggx(cosine: Any, alpha: Any) -> Any:
    a = dr.square(alpha)
    return a / (dr.pi * dr.square(1 + (a - 1) * dr.square(cosine)))


def value(lobes: Lobes, eye: Any, out: Any) -> Any:
    """Reflectance (or what comes through) toward `out` times the cosine there."""
    cos_o, above = dr.abs(out.z), out.z > 0
    mirrored = mi.Vector3f(out.x, out.y, cos_o)
    half = dr.normalize(mirrored + eye)
    cos_d = dr.dot(mirrored, half)
    fo, fi = _fifth(cos_o), _fifth(eye.z)
    plain = (1 - 0.5 * fi) * (1 - 0.5 * fo)
    rr = 2 * lobes.roughness * dr.square(cos_d)
    retro = rr * (fo + fi + fo * fi * (rr - 1))
    scatter = lobes.colour * (cos_o / dr.pi)
    fresnel = (1 - lobes.metalness) * _fresnel(cos_d) + lobes.metalness * (
        lobes.colour + (1 - lobes.colour) * _fifth(cos_d)
    )
    gloss = fresnel * (
        _ggx(half.z, lobes.alpha) * _smith(eye.z, lobes.alpha) * _smith(cos_o, lobes.alpha) / (4 * eye.z)
    )
    solid = dr.select(above, scatter * (1 - lobes.metalness) * (plain + retro) + gloss, 0.0)
    leaf = dr.select(above, scatter * (1 - lobes.through) * (plain + retro), scatter * lobes.through)
    return dr.select(lobes.thin, leaf, solid)


def _gloss_share(lobes: Lobes, eye: Any) -> Any:
    """How often the specular lobe is chosen: by what it and the diffuse one send back, about."""
    bright = mi.luminance(lobes.colour)
    gloss = dr.lerp(0.04 + 0.96 * _fifth(eye.z) * (1 - lobes.roughness), dr.maximum(bright, 0.3), lobes.metalness)
    share = gloss / (gloss + (1 - lobes.metalness) * bright + 1e-4)
    return dr.select(lobes.thin, 0.0, dr.clip(share, 0.05, 1.0))


def density(lobes: Lobes, eye: Any, out: Any) -> Any:
    """Density with which `sample` chooses `out`, for a solid angle."""
    share = _gloss_share(lobes, eye)
    half = dr.normalize(out + eye)
    glossy = _smith(eye.z, lobes.alpha) * _ggx(half.z, lobes.alpha) / (4 * eye.z)
    diffuse = dr.abs(out.z) * dr.inv_pi
    solid = dr.select(out.z > 0, share * glossy + (1 - share) * diffuse, 0.0)
    leaf = diffuse * dr.select(out.z > 0, 1 - lobes.through, lobes.through)
    return dr.select(lobes.thin, leaf, solid)


def sample(lobes: Lobes, eye: Any, choice: Any, at: tuple[Any, Any]) -> Any:
    """A direction, from three numbers 0..1.

    Visible normals by spherical caps (Dupuy and Benyoub, *Sampling Visible GGX Normals with Spherical Caps*, 2023).
    """
    flat = mi.warp.square_to_cosine_hemisphere(mi.Point2f(*at))
    through = lobes.thin & (choice < lobes.through)
    diffuse = mi.Vector3f(flat.x, flat.y, dr.select(through, -flat.z, flat.z))
    stretched = dr.normalize(mi.Vector3f(eye.x * lobes.alpha, eye.y * lobes.alpha, eye.z))
    z = dr.fma(1 - at[1], 1 + stretched.z, -stretched.z)
    s, c = dr.sincos(2 * dr.pi * at[0])
    ring = dr.safe_sqrt(1 - dr.square(z))
    cap = mi.Vector3f(ring * c, ring * s, z) + stretched
    half = dr.normalize(mi.Vector3f(cap.x * lobes.alpha, cap.y * lobes.alpha, dr.maximum(cap.z, 1e-6)))
    glossy = half * (2 * dr.dot(eye, half)) - eye
    return dr.select(~lobes.thin & (choice < _gloss_share(lobes, eye)), glossy, diffuse)
