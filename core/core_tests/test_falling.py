"""Drops and flakes in the air: as many, as large and as fast as is measured, and streaks as long as they go."""

import unittest

import numpy as np

from cenote_core.falling.drops import (
    REACH,
    SHUTTER,
    drops_a_cubic_metre,
    ends,
    falls_at,
    rain_in_the_air,
    slope_of,
    snow_in_the_air,
)
from cenote_core.plan import StationPlan, WeatherPlan
from cenote_core.proofs.falling import falling_over
from cenote_core.proofs.picture import laid_over

from .helpers import scene_of, small_site

EYE = np.array([3.0, 1.7, -2.0])


class Drops(unittest.TestCase):
    def test_marshall_and_palmer(self):
        # Λ = 4.1 R^-0.21: 2.53 per mm for 10 mm/h; large drops are ten times as many in heavy rain as in a drizzle.
        self.assertAlmostEqual(slope_of(10.0), 2.53, delta=0.01)
        self.assertEqual(drops_a_cubic_metre(0.0), 0.0)
        self.assertGreater(drops_a_cubic_metre(40.0), 5 * drops_a_cubic_metre(1.0))

    def test_speeds_as_gunn_and_kinzer_measured_them(self):
        # Gunn and Kinzer 1949: 1 mm 4.03, 2 mm 6.49, 4 mm 8.83 m/s.
        np.testing.assert_allclose(falls_at(np.array([1.0, 2.0, 4.0])), [4.03, 6.49, 8.83], atol=0.12)

    def test_sizes_go_by_the_distribution(self):
        found = rain_in_the_air(EYE, 10.0, 0.0, 0.0, 1.0).size * 1000
        self.assertTrue(found.min() >= 0.9 and found.max() <= 5.0)
        slope = slope_of(10.0)
        self.assertAlmostEqual(found.mean(), 0.9 + 1 / slope, delta=0.03)

    def test_wind_carries_all_of_them_its_own_way(self):
        for found in (rain_in_the_air(EYE, 5.0, 270.0, 6.0, 0.0), snow_in_the_air(EYE, 1.0, 270.0, 6.0, 0.0)):
            self.assertGreater(found.velocity[:, 0].mean(), 2.0)
            self.assertLess(found.velocity[:, 1].max(), 0.0)

    def test_the_same_for_the_same_moment_and_others_for_another(self):
        one, again, later = (rain_in_the_air(EYE, 5.0, 0.0, 2.0, moment) for moment in (1.0, 1.0, 1.5))
        np.testing.assert_array_equal(one.at, again.at)
        self.assertFalse(np.array_equal(one.at, later.at))
        self.assertLessEqual(np.abs(one.at - EYE).max(), REACH)


class Streaks(unittest.TestCase):
    def test_as_long_as_a_drop_goes_while_the_shutter_is_open(self):
        found = rain_in_the_air(EYE, 5.0, 0.0, 3.0, 0.0)
        opens, closes = ends(found)
        long = np.linalg.norm(closes - opens, axis=1)
        np.testing.assert_allclose(long, np.linalg.norm(found.velocity, axis=1) * SHUTTER, rtol=1e-6)

    def drawn(self, depth=0.0, box=(0, 0, 160, 100), **weather):
        site = small_site()
        site.weather = WeatherPlan(**weather)
        station = StationPlan(name="s", position=(0, 1.7, 4), target=(0, 1.5, 0), lens=28)
        rows, columns = box[3] - box[1], box[2] - box[0]
        dark = np.zeros((rows, columns, 3), np.float32)
        plane = np.full((rows, columns), depth, np.float32)
        return laid_over(dark, falling_over(plane, scene_of(site), station, (160, 100), box))

    def test_they_lighten_a_dark_picture_and_more_rain_lightens_it_more(self):
        some, more = (self.drawn(rain=rain).mean() for rain in (2.0, 30.0))
        self.assertTrue(0 < some < more)
        self.assertGreater(self.drawn(snowfall=3.0).max(), 0.2)

    def test_none_without_and_none_behind_what_is_near(self):
        self.assertEqual(self.drawn().max(), 0.0)
        self.assertEqual(self.drawn(depth=0.3, snowfall=3.0).max(), 0.0)

    def test_a_part_of_a_picture_is_that_part_of_the_whole(self):
        box = (40, 20, 120, 80)
        whole, part = self.drawn(snowfall=2.0), self.drawn(box=box, snowfall=2.0)
        np.testing.assert_allclose(part, whole[20:80, 40:120], atol=1e-6)


if __name__ == "__main__":
    unittest.main()
