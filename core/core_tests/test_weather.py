"""The weather's stage: what water does to a surface, where it reaches, and that other weather computes nothing anew."""

import unittest
from dataclasses import fields
from unittest import mock

import numpy as np
from scipy.ndimage import binary_dilation

from cenote_core.patinas.bake import bake_maps, blend_values
from cenote_core.patinas.cover import owner_covers
from cenote_core.plan import PatinaPlan, PatinaUse, PiecePlan, WeatherPlan
from cenote_core.surfaces import channels, formulas
from cenote_core.view import preview
from cenote_core.weather.exposure import exposure_at, exposure_map, sky_exposure

from .helpers import scene_of, small_site


class Water(unittest.TestCase):
    def test_colours_under_water_by_light_thrown_to_and_fro(self):
        for albedo in (0.0, 0.05, 0.3, 0.7, 1.0):
            left, out = formulas.LET_IN, 0.0
            for _ in range(400):
                # Scattered by the ground; what the film lets out is seen, the rest comes back down.
                left *= albedo
                out += left * (1 - formulas.HELD_IN)
                left *= formulas.HELD_IN
            self.assertAlmostEqual(formulas.wet_colour(albedo, 1.0, 0.0, 1.0), out, places=9)
        # Wet soil of a fifth is measured at about half to two thirds of its dry brightness.
        self.assertTrue(0.5 < formulas.wet_colour(0.2, 1.0, 0.0, 1.0) / 0.2 < 0.67)

    def test_metals_only_get_glossier(self):
        self.assertEqual(formulas.wet_colour(0.6, 1.0, 1.0, 1.0), 0.6)
        self.assertEqual(formulas.wet_colour(0.6, 1.0, 0.0, 0.0), 0.6)
        self.assertLess(formulas.wet_roughness(0.5, 1.0), 0.11)

    def test_hollows_are_wet_first_and_more_rain_never_dries_a_spot(self):
        steps = np.linspace(0, 1, 21)
        for exposure in (0.1, 0.5, 1.0):
            for under in (0.0, 0.4, 1.0):
                wet = [formulas.wet_share(w, 0.0, exposure, under) for w in steps]
                self.assertTrue((np.diff(wet) >= 0).all() and wet[0] == 0)
            self.assertGreaterEqual(
                formulas.wet_share(0.5, 0.0, exposure, 0.0), formulas.wet_share(0.5, 0.0, exposure, 1.0)
            )
        self.assertEqual(formulas.wet_share(1.0, 0.0, 1.0, 1.0), 1.0)

    def test_the_open_dries_before_the_sheltered_and_hollows_last(self):
        wet = lambda dried, exposure, under: formulas.wet_share(0.9, dried, exposure, under)  # noqa: E731
        hours = np.linspace(0, 1, 60)
        gone = lambda exposure, under: next((h for h in hours if wet(h, exposure, under) <= 0), 2.0)  # noqa: E731
        self.assertLess(gone(1.0, 0.5), gone(0.6, 0.5))
        self.assertLess(gone(1.0, 0.9), gone(1.0, 0.1))
        for exposure in (0.4, 0.7, 1.0):
            self.assertTrue((np.diff([wet(h, exposure, 0.3) for h in hours]) <= 0).all())
        self.assertEqual(wet(1.0, 1.0, 0.0), 0.0)

    def test_a_smooth_surface_is_not_made_rough(self):
        self.assertEqual(formulas.wet_roughness(0.04, 1.0), 0.04)


class FrostAndDust(unittest.TestCase):
    def test_frost_forms_under_the_open_sky_on_tops_first_and_never_under_a_roof(self):
        self.assertEqual(formulas.frost_share(1.0, 0.05, 1.0, 1.0), 0.0)
        self.assertEqual(formulas.frost_share(1.0, 1.0, 1.0, 1.0), 1.0)
        top, hollow = (formulas.frost_share(0.4, 1.0, 1.0, under) for under in (1.0, 0.2))
        self.assertGreater(top, hollow)
        more = [formulas.frost_share(f, 0.8, 0.3, 0.5) for f in np.linspace(0, 1, 50)]
        self.assertTrue((np.diff(more) >= 0).all() and more[0] == 0)

    def test_dust_lies_on_the_level_in_hollows_first_and_slips_off_walls(self):
        self.assertEqual(formulas.dust_share(1.0, 0.0, 0.5), 0.0)
        self.assertGreater(formulas.dust_share(0.3, 1.0, 0.1), formulas.dust_share(0.3, 1.0, 0.55))
        self.assertLessEqual(formulas.dust_share(1.0, 1.0, 0.0), formulas.DUST_HIDES)

    def test_fog_swallows_things_at_sixty_metres_and_a_clear_day_nothing(self):
        self.assertLess(np.exp(-60 * formulas.fog_density(1.0)), 0.06)
        self.assertEqual(formulas.fog_density(0.0), 0.0)

    def test_the_light_follows_the_weather(self):
        site = small_site()
        site.weather = WeatherPlan(overcast=0.9, exposure=-0.5)
        self.assertEqual(site.daylight.cloud, 0.9)
        self.assertAlmostEqual(site.daylight.exposure, site.light.exposure - 0.5)
        cloudy, clear = scene_of(site), scene_of(small_site())
        self.assertLess(cloudy.sky().sun_colour.mean(), 0.5 * clear.sky().sun_colour.mean())


class Previews(unittest.TestCase):
    def test_a_change_of_clouds_and_years_at_once_brings_the_sky_and_the_covers(self):
        site = small_site()
        use = [PatinaUse(surface="wall/stone")]
        site.put("old", PatinaPlan(name="old", uses=use, pace=1.0))
        scene = scene_of(site)
        both = site.weather.model_copy(update={"overcast": 0.9, "years": 90.0})
        packet = preview(scene, "weather", both)
        for word in (b"sky image", b"patinas", b"materials"):
            self.assertIn(word, packet)
        only_years = preview(scene, "weather", site.weather.model_copy(update={"years": 90.0}))
        self.assertNotIn(b"sky image", only_years)


class Reach(unittest.TestCase):
    def site(self):
        site = small_site()
        site.pieces.clear()
        # A slab on nothing, as a roof of 4 × 4 m and more, half a metre over the ground.
        site.put("roof", PiecePlan(name="roof", asset="wall", position=(0, 0.6, 0), size=2.0, foot_width=0.0))
        return site

    def test_open_ground_all_a_wall_half_and_under_a_roof_little(self):
        scene = scene_of(self.site())
        table = scene.table("ground", 128)
        x, _, z = table.points.positions.T
        low, high = scene.mesh("roof").bounds()
        open_to = exposure_at(self.wet(), "ground", table.points.uv2)
        far = np.abs(z) > 4.5
        self.assertGreater(open_to[far].mean(), 0.85)
        middle = (np.abs(x) < 0.3 * (high[0] - low[0])) & (np.abs(z - (low[2] + high[2]) / 2) < 0.15)
        self.assertLess(open_to[middle].mean(), 0.5 * open_to[far].mean())
        points = scene.table("roof", 128).points
        upright = np.abs(points.normals[:, 1]) < 0.02
        found = exposure_at(self.wet(), "roof", points.uv2)
        # A wall hides half of the sky from itself; its coping takes some more.
        self.assertAlmostEqual(float(np.quantile(found[upright], 0.9)), 0.5, delta=0.04)
        self.assertLess(found[points.normals[:, 1] < -0.9].mean(), 0.1)

    def wet(self, wetness=0.7):
        site = self.site()
        site.weather.wetness = wetness
        return scene_of(site)

    def test_other_weather_computes_no_exposure_and_no_cover_anew(self):
        dry, wet = scene_of(self.site()), self.wet()
        self.assertEqual(sky_exposure.ref(dry, "roof").key, sky_exposure.ref(wet, "roof").key)
        self.assertEqual(owner_covers.ref(dry, "roof", 128).key, owner_covers.ref(wet, "roof", 128).key)
        self.assertIsNone(exposure_at(dry, "roof", np.zeros((1, 2), np.float32)))
        self.assertNotEqual(bake_maps.ref(dry, "roof", 128).key, bake_maps.ref(wet, "roof", 128).key)

    def test_the_same_map_finer(self):
        scene = scene_of(self.site())
        coarse = exposure_map(scene, "ground", 128)
        fine = exposure_map(scene, "ground", 256)
        np.testing.assert_allclose(fine.reshape(128, 2, 128, 2).mean(axis=(1, 3)), coarse, atol=0.03)

    def test_wet_maps_are_darker_and_smoother_where_it_rains_and_as_before_where_not(self):
        dry, wet = bake_maps(scene_of(self.site()), "roof", 128), bake_maps(self.wet(1.0), "roof", 128)
        soaked, spared = wet.wetness > 250, wet.wetness == 0
        self.assertTrue(soaked.mean() > 0.05 and spared.mean() > 0.05)
        self.assertLess(wet.colour[soaked].mean(), 0.85 * dry.colour[soaked].mean())
        self.assertLess(wet.roughness[soaked].mean(), 0.5 * dry.roughness[soaked].mean())
        np.testing.assert_array_equal(wet.colour[spared], dry.colour[spared])
        np.testing.assert_array_equal(dry.wetness, 0)

    def test_maps_made_some_rows_at_a_time_are_those_made_at_once(self):
        for owner in ("roof", "ground"):
            whole = bake_maps(self.wet(), owner, 256)
            scene = self.wet()
            covered = np.zeros(256 * 256, bool)
            covered[scene.table(owner, 256).index] = True
            covered = covered.reshape(256, 256)
            with mock.patch("cenote_core.patinas.bake._AT_ONCE", 256 * 24):
                parts = bake_maps.make(scene, owner, 256)
            for field in fields(whole):
                one, two = getattr(whole, field.name), getattr(parts, field.name)
                np.testing.assert_array_equal(one[covered], two[covered], field.name)
                # Gaps next to what is covered are filled from it.
                near = binary_dilation(covered, iterations=4)
                np.testing.assert_array_equal(one[near], two[near], field.name)

    def test_without_a_map_no_weather_reaches_points(self):
        uv = np.random.default_rng(1).random((20, 2)).astype(np.float32)
        slots = np.zeros(20, np.int32)
        values = blend_values(self.wet(), "roof", uv, uv, slots, [])
        self.assertEqual(values.shape[1], channels.WIDTH)
        np.testing.assert_array_equal(values[:, channels.WETNESS], 0)


if __name__ == "__main__":
    unittest.main()
