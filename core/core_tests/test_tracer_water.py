"""Water in the path tracer: mud hides its floor, waves bundle light without loss, and it lights walls near by."""

import unittest

import numpy as np

from cenote_core.mesh import engine
from cenote_core.surfaces.water import BENT_LEVERS, MIRRORED_LEVERS
from cenote_core.tracer.bvh_cache import KeptTrees
from cenote_core.tracer.paths import trace
from cenote_core.tracer.tables import (
    CLEAR,
    FALLEN,
    SURFACE,
    WATER,
    Triangles,
    joined,
    packed_row,
    packed_texels,
    packed_vertices,
)
from cenote_core.tracer.world import sky_of, upload
from cenote_core.waters.light import patterns
from cenote_core.waters.waves import wind_waves

from .helpers import one_colour
from .test_tracer import HEIGHT, SKY, SUN, SUN_LIGHT, WIDTH, camera, quad

DARK, BRIGHT = (20, 20, 20), (220, 220, 220)


def level(high, size=40.0):
    return quad([-size, high, -size], [0, 0, 2 * size], [2 * size, 0, 0])


def tables(floor, water=True, murk=0.0, light=0.0, depth=0.6, loses=0.0, wall=None):
    """A floor at 0 in one colour, water over it, and something that stands out of the water."""
    plain = packed_row(SURFACE, {"side": 32, "tile": 1, "roughness": 1, "red": 1, "green": 1, "blue": 1})
    sheet = packed_row(
        SURFACE,
        {
            "flags": CLEAR | WATER | FALLEN, "side": 32, "tile": 1, "roughness": 0.01, "translucency": 1.333, "red": loses,
            "green": loses, "blue": loses, "murk": murk, "light": light,
        },
    )  # fmt: skip
    quads = [(level(0.0), 0), *([(level(depth), 1)] if water else []), *([(wall, 0)] if wall is not None else [])]
    parts = [
        Triangles(p, packed_vertices(uv, n, np.ones((4, 3))), np.column_stack([f, [s, s]]).astype(np.uint32))
        for (p, f, n, uv), s in quads
    ]
    return joined(parts), packed_texels(one_colour(floor, 1.0)), np.zeros(0, np.uint32), np.stack([plain, sheet])


def seen(made, samples=24, sky=SKY, found=None):
    """(HEIGHT, WIDTH, 3) mean light of each pixel."""

    def work(_):
        arrays = (*made, np.zeros((0, 20), np.uint32))
        world = upload(*arrays, trees=KeptTrees(0), patterns=found)
        light, view = sky_of(sky, SUN, SUN_LIGHT, 0.0), camera()
        pixels = np.arange(WIDTH * HEIGHT, dtype=np.uint32)
        out = 0.0
        for number in range(samples):
            out = out + trace(world, light, view, pixels, np.full(len(pixels), number, np.uint32), 6)["light"]
        return np.asarray(out).reshape(HEIGHT, WIDTH, 3) / samples

    return engine.run(work)


LOWER = np.s_[HEIGHT // 2 + 4 :]


class Mud(unittest.TestCase):
    def test_it_hides_the_floor_the_more_of_it_there_is(self):
        apart = []
        for murk in (0.0, 3.0, 30.0):
            dark, bright = (seen(tables(colour, murk=murk))[LOWER].mean() for colour in (DARK, BRIGHT))
            apart.append(bright - dark)
        self.assertGreater(apart[0], 0.2)
        self.assertTrue(apart[0] > 1.3 * apart[1] > 0, apart)
        self.assertLess(apart[2], 0.06 * apart[0])

    def test_what_it_throws_back_is_brown_and_not_black(self):
        light = seen(tables(DARK, murk=30.0))[LOWER].mean(axis=(0, 1))
        clear = seen(tables(DARK))[LOWER].mean(axis=(0, 1))
        self.assertTrue(light[0] - clear[0] > light[2] - clear[2] > 0, (light, clear))


class Patterns(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.found = patterns(wind_waves(6.0, 200.0), 0.0)[None]
        assert cls.found.shape[1] == len(BENT_LEVERS) + len(MIRRORED_LEVERS)

    def test_they_bundle_the_sun_on_the_floor_and_take_none_away(self):
        dark = np.zeros_like(SKY)
        even, patterned = (seen(tables(BRIGHT, light=light), 32, dark, self.found)[LOWER] for light in (0.0, 1.0))
        np.testing.assert_allclose(patterned.mean(), even.mean(), rtol=0.05)
        # The same paths: what differs is the pattern alone.
        self.assertGreater(np.abs(patterned - even).mean(), 0.02 * even.mean())

    def test_level_water_throws_none(self):
        waves = wind_waves(0.0, 0.0)
        still = type(waves)(waves.number, waves.height * 0, waves.rate)
        dark = np.zeros_like(SKY)
        even, patterned = (
            seen(tables(BRIGHT, light=light), 4, dark, patterns(still, 0.0)[None])[LOWER] for light in (0.0, 1.0)
        )
        np.testing.assert_allclose(patterned, even, rtol=0.02, atol=0.01)

    def test_a_wall_in_its_own_shade_is_lit_by_the_water_before_it(self):
        """It looks toward the eye and away from the sun, which the water mirrors up to it."""
        wall = quad([-3, 0.6, -1.5], [6, 0, 0], [0, 2.0, 0])
        dark = np.zeros_like(SKY)
        lit = {}
        for light in (0.0, 1.0):
            made = tables(BRIGHT, light=light, wall=wall)
            lit[light] = seen(made, 16, dark, self.found)[
                HEIGHT // 2 - 2 : HEIGHT // 2 + 2, WIDTH // 3 : -WIDTH // 3
            ].mean()
        self.assertGreater(lit[1.0], lit[0.0] + 0.002)
