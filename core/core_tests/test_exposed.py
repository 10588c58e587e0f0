"""Facing, worn edges, rain and sun: each against what geometry says."""

import unittest

import numpy as np

from cenote_core.base.compass import sun_direction
from cenote_core.kit.shapes import block
from cenote_core.measures.facing import facing
from cenote_core.measures.rain import FALL, rain, showers
from cenote_core.measures.sun import declination, sun_hours, sun_path
from cenote_core.measures.worn import worn
from cenote_core.mesh.rays import RayScene
from cenote_core.patinas.cover import owner_covers
from cenote_core.plan import PatinaPlan, PatinaUse, rule_of

from .helpers import scene_of, small_site

EQUINOX = 80 / 365 * 12
UP, NORTH, SOUTH, EAST = (np.float32([v]) for v in ((0, 1, 0), (0, 0, -1), (0, 0, 1), (1, 0, 0)))


def quads(*corners):
    """Rays against some quadrilaterals, four corners each."""
    positions = np.float32(corners).reshape(-1, 3)
    first = 4 * np.arange(len(corners))[:, None]
    return RayScene(positions, np.concatenate([first + [0, 1, 2], first + [0, 2, 3]]).astype(np.int32))


def far():
    """Something to be tested against that is never met."""
    return quads([(900, 0, 900), (901, 0, 900), (901, 0, 901), (900, 0, 901)])


class Facing(unittest.TestCase):
    def test_angles_from_up_down_and_sideways(self):
        for bearing, elevation, normal, expected in (
            (0, 90, UP, 0), (0, -90, UP, 180), (90, 90, EAST, 90), (90, 0, EAST, 0), (0, 0, SOUTH, 180), (90, 45, EAST, 45),
        ):  # fmt: skip
            self.assertAlmostEqual(float(facing(normal, bearing, elevation)[0]), expected, places=3)


class WornEdge(unittest.TestCase):
    def test_across_a_straight_edge_of_a_large_body(self):
        mesh = block((4.0, 4.0, 4.0), bevel=0.0)
        scene = RayScene(mesh.positions, mesh.faces)
        radius = 0.2
        away = np.array([0.0005, 0.03, 0.08, 0.14, 0.199, 0.3, 1.0])
        at = np.column_stack([2.0 - away, np.full(len(away), 4.0), np.zeros(len(away))]).astype(np.float32)
        found = worn(scene, at, np.tile(UP, (len(at), 1)), radius, 4096)
        c = np.minimum(away / radius, 1.0)
        np.testing.assert_allclose(found, (np.arccos(c) - c * np.sqrt(1 - c * c)) / np.pi, atol=0.012)

    def test_a_corner_more_than_an_edge(self):
        mesh = block((4.0, 4.0, 4.0), bevel=0.0)
        scene = RayScene(mesh.positions, mesh.faces)
        at = np.float32([(1.999, 4.0, 0.0), (1.999, 4.0, 1.999)])
        edge, corner = worn(scene, at, np.tile(UP, (2, 1)), 0.2, 2048)
        self.assertAlmostEqual(float(edge), 0.5, delta=0.02)
        self.assertAlmostEqual(float(corner), 0.75, delta=0.02)


class Rain(unittest.TestCase):
    def values(self, scene, at, normals, wind, gusts=0.0, bearing=180.0):
        return rain(scene, np.float32(at), np.float32(normals), bearing, wind, gusts)

    def test_open_level_ground_gets_all_of_it_whatever_the_wind(self):
        for wind in (0.0, 4.0, 12.0):
            for gusts in (0.0, 0.7):
                found = self.values(far(), [(0, 0, 0)], UP, wind, gusts)
                self.assertAlmostEqual(float(found[0]), 1.0, places=5)

    def test_a_wall_gets_wind_over_fall_speed_where_it_faces_and_nothing_behind(self):
        self.assertAlmostEqual(float(self.values(far(), [(0, 1, 0)], SOUTH, 3.0)[0]), 3.0 / FALL, places=5)
        self.assertEqual(float(self.values(far(), [(0, 1, 0)], NORTH, 3.0)[0]), 0.0)
        self.assertEqual(float(self.values(far(), [(0, 1, 0)], SOUTH, 0.0)[0]), 0.0)

    def test_under_eaves_it_stays_dry_down_to_their_depth_over_the_slant(self):
        depth, top, wind = 0.6, 3.0, 3.25
        eaves = quads([(-20, top, 0), (20, top, 0), (20, top, depth), (-20, top, depth)])
        reach = depth / (wind / FALL)
        below = np.array([0.2, 0.7, 0.97, 1.03, 1.6]) * reach
        at = np.column_stack([np.zeros(5), top - below, np.zeros(5)])
        found = self.values(eaves, at, np.tile(SOUTH, (5, 1)), wind)
        np.testing.assert_allclose(found, [0, 0, 0, wind / FALL, wind / FALL], atol=1e-5)

    def test_gusts_soften_that_line(self):
        eaves = quads([(-20, 3, 0), (20, 3, 0), (20, 3, 0.6), (-20, 3, 0.6)])
        at = np.column_stack([np.zeros(40), 3 - np.linspace(0.3, 2.5, 40), np.zeros(40)])
        found = self.values(eaves, at, np.tile(SOUTH, (40, 1)), 3.25, 0.6)
        self.assertTrue((np.diff(found) >= -1e-6).all())
        self.assertGreater(len(np.unique(found.round(4))), 4)

    def test_all_showers_together_are_one_rain(self):
        toward, share = showers(200.0, 5.0, 0.5)
        self.assertAlmostEqual(float(share.sum()), 1.0)
        np.testing.assert_allclose(np.linalg.norm(toward, axis=1), 1.0)
        self.assertTrue((toward[:, 1] > 0).all())


class Sun(unittest.TestCase):
    def test_open_level_ground_at_the_equinox_gets_twelve_hours_everywhere(self):
        self.assertAlmostEqual(declination(EQUINOX), 0.0, places=6)
        for latitude in (-35.0, 0.0, 20.0, 54.0, 70.0):
            found = sun_hours(far(), np.zeros((1, 3), np.float32), UP, latitude, EQUINOX)
            self.assertAlmostEqual(float(found[0]), 12.0, places=4)

    def test_a_north_wall_north_of_the_tropics_none_from_autumn_to_spring(self):
        for month in (0.0, EQUINOX, 10.5):
            self.assertEqual(float(sun_hours(far(), np.zeros((1, 3), np.float32), NORTH, 54.0, month)[0]), 0.0)
        self.assertGreater(float(sun_hours(far(), np.zeros((1, 3), np.float32), NORTH, 54.0, 5.6)[0]), 2.0)

    def test_length_of_the_day_and_height_of_noon(self):
        for latitude, month in ((54.0, 5.6), (54.0, 11.6), (-30.0, 0.3), (10.0, 4.0)):
            toward, hours = sun_path(latitude, month)
            dec = declination(month)
            length = 2 / 15 * np.degrees(np.arccos(-np.tan(np.radians(latitude)) * np.tan(np.radians(dec))))
            self.assertAlmostEqual(float(hours.sum()), float(length), places=6)
            noon = np.degrees(np.arcsin(toward[:, 1].max()))
            self.assertAlmostEqual(noon, 90 - abs(latitude - dec), delta=1.0)
            # It rises in the east.
            self.assertGreater(toward[0, 0], 0.2)
            self.assertLess(toward[-1, 0], -0.2)

    def test_beyond_the_polar_circles_all_day_or_none(self):
        self.assertAlmostEqual(float(sun_path(80.0, 5.6)[1].sum()), 24.0, places=6)
        self.assertEqual(len(sun_path(80.0, 11.7)[1]), 0)

    def test_what_stands_before_it_takes_the_hours_it_hides(self):
        # A wall to the south as high as the noon sun of the equinox from one metre.
        height = np.tan(np.radians(90 - 54.0))
        before = quads([(-500, 0, 1), (500, 0, 1), (500, height * 1.02, 1), (-500, height * 1.02, 1)])
        self.assertEqual(float(sun_hours(before, np.zeros((1, 3), np.float32), UP, 54.0, EQUINOX)[0]), 0.0)
        self.assertAlmostEqual(float(sun_direction(180, 36)[2]), np.cos(np.radians(36)), places=6)


class OnASite(unittest.TestCase):
    def test_each_lays_a_patina_where_it_should(self):
        shares = {}
        for name in ("worn", "rain", "sun", "facing"):
            site = small_site()
            uses = [PatinaUse(surface=f"wall/{slot}") for slot in ("stone", "coping")]
            site.put("p", PatinaPlan(name="p", rules=[rule_of(name)], uses=uses))
            cover = owner_covers(scene_of(site), "wall", 128)[0]
            shares[name] = float(cover.mean())
            self.assertTrue(0.01 < shares[name] < 0.99, shares)


if __name__ == "__main__":
    unittest.main()
