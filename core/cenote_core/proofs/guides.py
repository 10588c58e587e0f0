"""Guides of a proof: surface colour, normal and depth of what a pixel shows, holes of leaves seen through.

A pass of its own, since asking for these while light is traced made every sample two and a half times as slow
(measured on the demo), and since a leaf card's holes have to be passed before its colour means anything.
"""

from __future__ import annotations

from typing import Any

import numpy as np

_HOLES = 24
"""Transparent layers that are passed before the next one counts as solid."""


def guides(mi: Any, built: Any, width: int, height: int, samples: int = 4) -> dict[str, np.ndarray]:
    """(H, W, …) float32 means over a few rays a pixel: colour (3), normal (3), depth (metres, 0 for sky), cover
    (share of rays that met something) and sky (3, light of the rays that met nothing)."""
    import drjit as dr

    total = None
    sensor = built.sensors()[0]
    for k in range(samples):
        index = dr.arange(mi.UInt32, width * height)
        x, y = mi.Float(index % width), mi.Float(index // width)
        # A turned grid (the second and third primes' radical inverse) instead of random places: no noise in the guides.
        jitter = _halton(k + 1, 2), _halton(k + 1, 3)
        at = mi.Point2f((x + jitter[0]) / width, (y + jitter[1]) / height)
        ray, _ = sensor.sample_ray(0.0, 0.5, at, mi.Point2f(0.5))
        found = _first_solid(mi, dr, built, mi.Ray3f(ray))
        total = found if total is None else [a + b for a, b in zip(total, found, strict=True)]
    assert total is not None
    planes = [np.array(p, np.float32).reshape(height, width) / samples for p in total]
    return {
        "colour": np.dstack(planes[0:3]),
        "normal": np.dstack(planes[3:6]),
        "depth": planes[6],
        "cover": planes[7],
        "sky": np.dstack(planes[8:11]),
    }


def _halton(number: int, base: int) -> float:
    out, share = 0.0, 1.0
    while number:
        share /= base
        out += share * (number % base)
        number //= base
    return out


def _first_solid(mi: Any, dr: Any, built: Any, ray: Any) -> list[Any]:
    """Colour, normal and depth at the first place along each ray that is not a hole; whether there is one, or sky."""

    def going(step: Any, active: Any, *rest: Any) -> Any:
        return active

    def pass_on(
        step: Any, active: Any, ray: Any, travelled: Any, colour: Any, normal: Any, depth: Any
    ) -> tuple[Any, ...]:
        si = built.ray_intersect(ray, active)
        hit = active & si.is_valid()
        bsdf = si.bsdf()
        hole = mi.luminance(bsdf.eval_null_transmission(si, hit), si.wavelengths)
        solid = hit & ((hole < 0.5) | (step >= _HOLES))
        colour[solid] = mi.Color3f(bsdf.eval_diffuse_reflectance(si, solid))
        normal[solid] = mi.Vector3f(si.sh_frame.n)
        depth[solid] = travelled + si.t
        travelled = travelled + dr.select(hit, si.t, 0.0)
        onward = si.spawn_ray(ray.d)
        return step + 1, hit & ~solid, onward, travelled, colour, normal, depth

    start = (
        mi.UInt32(0),
        mi.Bool(True),
        ray,
        mi.Float(0.0),
        mi.Color3f(0.0),
        mi.Vector3f(0.0),
        mi.Float(0.0),
    )
    _, _, _, _, colour, normal, depth = dr.while_loop(start, going, pass_on)
    met = dr.select(depth > 0, mi.Float(1), mi.Float(0))
    beyond = dr.zeros(mi.SurfaceInteraction3f)
    beyond.wi = -ray.d
    around = built.environment()
    sky = mi.Color3f(around.eval(beyond)) * (1 - met) if around is not None else mi.Color3f(0.0 * met)
    out = [*(colour[k] for k in range(3)), *(normal[k] for k in range(3)), depth, met, *(sky[k] for k in range(3))]
    dr.eval(out)
    return [np.array(v) for v in out]
