"""Snow on surfaces: how much lies where, and that it is the same in baked maps as the formulas say."""

import unittest

import numpy as np

from cenote_core.patinas.bake import bake_maps, blend_values
from cenote_core.plan import PiecePlan, SpellPlan, WeatherPlan
from cenote_core.surfaces import formulas
from cenote_core.weather.exposure import sky_exposure

from .helpers import scene_of, small_site


def snowy(snow=10.0, **more):
    site = small_site()
    site.put("roof", PiecePlan(name="roof", asset="shelter", position=(2.5, 0, 2.5), foot_width=0.0))
    site.weather = WeatherPlan(snow=snow, **more)
    return scene_of(site)


class Depth(unittest.TestCase):
    def test_open_level_ground_has_what_fell(self):
        self.assertAlmostEqual(formulas.snow_depth(0.3, 1.0, 1.0), 0.3)
        # Within two per cent on gentle ground too.
        self.assertAlmostEqual(formulas.snow_depth(0.3, 0.95, np.cos(np.radians(20))), 0.3, delta=0.006)

    def test_none_under_a_roof_on_a_wall_and_on_what_faces_down(self):
        for exposure, up in ((0.3, 1.0), (0.0, 1.0), (0.5, 0.0), (1.0, 0.3), (1.0, -1.0)):
            self.assertEqual(formulas.snow_depth(0.3, exposure, up), 0.0, (exposure, up))

    def test_steeper_never_holds_more_and_more_sky_never_less(self):
        ups = [formulas.snow_depth(1.0, 1.0, up) for up in np.linspace(-1, 1, 200)]
        skies = [formulas.snow_depth(1.0, sky, 1.0) for sky in np.linspace(0, 1, 200)]
        for values in (ups, skies):
            self.assertTrue((np.diff(values) >= 0).all())

    def test_a_little_lies_in_hollows_first_and_much_hides_all(self):
        relief = 0.03
        low, high = (formulas.snow_share(0.006, relief, under) for under in (0.1, 0.9))
        self.assertGreater(low, high)
        self.assertEqual(high, 0.0)
        self.assertEqual(formulas.snow_share(2 * relief, relief, 1.0), 1.0)
        self.assertEqual(formulas.snow_share(0.0, 0.0, 0.0), 0.0)


class OnSurfaces(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.bare, cls.white = snowy(0.0), snowy(10.0)

    def test_a_wall_is_white_on_top_and_bare_on_its_sides(self):
        table = self.white.table("wall", 128)
        up = table.points.normals[:, 1]
        maps = bake_maps(self.white, "wall", 128)
        values = maps.colour.astype(float).mean(axis=2)
        spread = table.spread(up.astype(np.float32))
        top, side = values[spread > 0.95], values[np.abs(spread) < 0.05]
        self.assertGreater(np.median(top), 200)
        before = bake_maps(self.bare, "wall", 128).colour.astype(float).mean(axis=2)
        np.testing.assert_array_equal(side, before[np.abs(spread) < 0.05])

    def test_nothing_lies_under_a_roof(self):
        scene = self.white
        exposure = sky_exposure(scene, "ground")
        lies = np.vectorize(formulas.snow_depth)(0.1, exposure, 1.0)
        side = len(exposure)
        at = (np.arange(side) + 0.5) / side * 12 - 6
        inside = np.ix_(np.abs(at - 2.2) < 0.2, np.abs(at - 2.5) < 0.8)
        self.assertLess(lies[inside].max(), 0.02)
        open_ = np.ix_(np.abs(at + 5) < 0.5, np.abs(at + 5) < 0.5)
        np.testing.assert_allclose(lies[open_], 0.1, rtol=0.02)

    def test_values_are_those_of_the_formulas(self):
        scene, count = self.white, 200
        rng = np.random.default_rng(5)
        uv = rng.random((count, 2)).astype(np.float32)
        slots = np.zeros(count, np.int32)
        exposure, up = rng.random(count).astype(np.float32), (2 * rng.random(count) - 1).astype(np.float32)
        dry = blend_values(scene, "wall", uv, uv, slots, [])
        found = blend_values(scene, "wall", uv, uv, slots, [], None, None, exposure, up)
        depth = scene.material(next(s.material for s in scene.surfaces() if s.owner == "wall")).depth
        for n in range(count):
            lies = formulas.snow_depth(0.1, exposure[n], up[n])
            share = formulas.snow_share(lies, depth, formulas.under_relief(dry[n, 7], depth))
            np.testing.assert_allclose(found[n, :3], dry[n, :3] + (formulas.SNOW_WHITE - dry[n, :3]) * share, atol=2e-4)
            np.testing.assert_allclose(found[n, 4:6], dry[n, 4:6] * (1 - share), atol=2e-4)
            np.testing.assert_allclose(found[n, 7], dry[n, 7] + lies * share, atol=2e-5)
        still = blend_values(snowy(0.0), "wall", uv, uv, slots, [], None, None, exposure, up)
        np.testing.assert_array_equal(still, dry)


class Plans(unittest.TestCase):
    def test_a_spell_says_what_falls(self):
        self.assertFalse(SpellPlan(name="dry").falls)
        self.assertTrue(SpellPlan(name="wet", wetness=0.1).falls)
        self.assertTrue(SpellPlan(name="white", snow=1).falls)
        self.assertAlmostEqual(WeatherPlan(snow=25).snow_depth, 0.25)


if __name__ == "__main__":
    unittest.main()
