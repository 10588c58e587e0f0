"""Clear bodies in the path tracer: closed forms of mirrors, windows and what is lost between them."""

import unittest
from types import SimpleNamespace

import numpy as np

from cenote_core.mesh import engine
from cenote_core.mesh.jit import dr, mi
from cenote_core.tracer.dielectrics import onward_through
from cenote_core.tracer.tables import CLEAR, SURFACE, Triangles, joined, packed_row, packed_texels, packed_vertices

from .helpers import one_colour
from .test_tracer import EYE, FORWARD, HEIGHT, SKY, WIDTH, quad, traced

ETA = 1.5


def tables(quads, absorbs=(0.0, 0.0, 0.0), rounded=False):
    """A body of quads, each with its outside; a floor may follow as (quad, True)."""
    clear = packed_row(
        SURFACE,
        {"flags": CLEAR, "side": 32, "tile": 1, "translucency": ETA, "roughness": 1, "least_roughness": 0.05}
        | dict(zip(("red", "green", "blue"), absorbs, strict=True)),
    )
    plain = packed_row(SURFACE, {"side": 32, "tile": 1, "roughness": 1, "red": 1, "green": 1, "blue": 1})
    parts = []
    for (p, f, n, uv), floor in quads:
        word = np.full((len(f), 1), int(floor))
        parts.append(Triangles(p, packed_vertices(uv, n, np.ones((len(p), 3))), np.hstack([f, word]).astype(np.uint32)))
    texels = packed_texels(one_colour((255, 255, 255), 1.0))
    return joined(parts), texels, np.zeros(0, np.uint32), np.stack([clear, plain]), np.zeros((0, 16), np.uint32)


def slab(thick):
    """Two wide sheets square to the view, outsides outward."""
    across = np.array([40.0, 0, 0])
    upward = np.cross([1, 0, 0], FORWARD) * 40
    corner = EYE + FORWARD * 2 - across / 2 - upward / 2
    back = corner + FORWARD * thick
    return [(quad(corner, across, upward), False), (quad(back, upward, across), False)]


def ball(middle, radius, rows=24):
    """A sphere with smooth normals, as one part."""
    theta, phi = np.meshgrid(np.linspace(0, np.pi, rows), np.linspace(0, 2 * np.pi, 2 * rows), indexing="ij")
    n = np.stack([np.sin(theta) * np.cos(phi), np.cos(theta), -np.sin(theta) * np.sin(phi)], -1).reshape(-1, 3)
    k = (np.arange(rows - 1)[:, None] * 2 * rows + np.arange(2 * rows - 1)).ravel()
    f = np.concatenate([np.stack([k, k + 2 * rows, k + 1], 1), np.stack([k + 1, k + 2 * rows, k + 2 * rows + 1], 1)])
    p = np.float32(np.asarray(middle) + radius * n)
    return (p, f, n, np.zeros((len(p), 2), np.float32)), False


WHITE = np.ones_like(SKY)
NO_SUN = np.zeros(3)
MIDDLE = (slice(HEIGHT // 2 - 4, HEIGHT // 2 + 4), slice(WIDTH // 2 - 4, WIDTH // 2 + 4))


class Bodies(unittest.TestCase):
    def test_a_clear_body_in_a_white_sky_is_not_seen(self):
        found, _ = traced(tables([ball(EYE + FORWARD * 3, 1.0)]), 64, sky=WHITE, sun_light=NO_SUN)
        whole = found["light"] + found["sky_seen"]
        self.assertGreater(float(found["cover"].mean()), 0.2)
        # A path may pass so many outsides only, which costs a little deep within mirrors.
        np.testing.assert_allclose(whole, 1.0, atol=0.08)
        self.assertAlmostEqual(float(whole.mean()), 1.0, delta=0.003)

    def test_a_slab_mirrors_lets_through_and_keeps_what_the_closed_form_says(self):
        thick, absorbs = 0.5, np.array([0.2, 1.0, 3.0])
        found, _ = traced(tables(slab(thick), absorbs), 400, sky=WHITE, sun_light=NO_SUN)
        f, a = ((ETA - 1) / (ETA + 1)) ** 2, np.exp(-absorbs * thick)
        through = (1 - f) ** 2 * a / (1 - (f * a) ** 2)
        mirrored = f + (1 - f) ** 2 * f * a**2 / (1 - (f * a) ** 2)
        np.testing.assert_allclose(found["light"][MIDDLE].mean(axis=(0, 1)), through + mirrored, rtol=0.01)

    def test_light_is_bent_as_snell_says_and_wholly_mirrored_beyond_the_critical_angle(self):
        degrees = np.array([0.0, 20, 40, 60, 80])

        def work(_):
            angle = mi.Float(np.radians(degrees))
            s, c = dr.sincos(angle)
            up = mi.Vector3f(0, 1, 0)
            spot = SimpleNamespace(normal=up, geometric=up, translucency=mi.Float(ETA), within=mi.Bool(False))
            bent, crosses = onward_through(spot, mi.Vector3f(s, -c, 0), mi.Float(1.0))
            inside = SimpleNamespace(normal=up, geometric=up, translucency=mi.Float(ETA), within=mi.Bool(True))
            out, leaves = onward_through(inside, mi.Vector3f(s, -c, 0), mi.Float(0.999999))
            return [np.array(v) for v in (bent, crosses, out, leaves)]

        bent, crosses, out, leaves = engine.run(work)
        self.assertTrue(crosses.all())
        np.testing.assert_allclose(bent[0], np.sin(np.radians(degrees)) / ETA, atol=1e-5)
        self.assertTrue((bent[1] < 0).all())
        # asin(1 / 1.5) is 41.8 degrees.
        np.testing.assert_array_equal(leaves, degrees < 41.8)
        np.testing.assert_allclose(out[0][:3], np.sin(np.radians(degrees[:3])) * ETA, atol=1e-5)
        self.assertTrue((out[1][3:] > 0).all())

    def test_a_ball_shows_the_country_behind_it_upside_down(self):
        sky = np.zeros_like(SKY)
        sky[:8] = 1.0
        found, _ = traced(tables([ball([0, 1.5, 0], 1.0)]), 32, sky=sky, sun_light=NO_SUN)
        rows = np.flatnonzero(found["cover"][:, WIDTH // 2] > 0.99)
        light = found["light"][rows, WIDTH // 2, 1]
        third = len(rows) // 3
        self.assertLess(light[1:third].mean(), 0.35)
        self.assertGreater(light[-third:-1].mean(), 0.65)

    def test_its_shadow_is_lightest_in_the_middle(self):
        floor = (quad([-40, 0, -40], [0, 0, 80], [80, 0, 0]), True)
        middle = np.array([0, 1.0, 0.0])
        found, _ = traced(tables([floor, ball(middle, 0.5)]), 64, sky=np.zeros_like(SKY), bounces=1)
        lit = found["light"][..., 1]
        self.assertGreater(float(found["light"].max()), 0.05)
        clear, _ = traced(tables([floor]), 4, sky=np.zeros_like(SKY), bounces=1)
        share = lit / np.maximum(clear["light"][..., 1], 1e-6)
        shaded = share[(clear["cover"] > 0) & (share < 0.9)]
        self.assertLess(float(shaded.min()), 0.35, "the rim of its shadow is dark")
        self.assertGreater(float(np.percentile(shaded, 80)), 0.5, "its middle is not")
