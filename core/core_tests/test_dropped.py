"""Splash, standing damp, the lee of the wind and patterns of noise: each against what geometry says."""

import unittest

import numpy as np

from cenote_core.base.cells import cells
from cenote_core.measures.damp import damp
from cenote_core.measures.lee import MULTIPLE, catch, lee
from cenote_core.measures.noise import pattern
from cenote_core.measures.splash import splash
from cenote_core.mesh.rays import RayScene

from .test_exposed import NORTH, SOUTH, UP, quads

GROUND = [(-50, 0, -50), (-50, 0, 50), (50, 0, 50), (50, 0, -50)]
WALL = [(-50, 0, -0.001), (50, 0, -0.001), (50, 3, -0.001), (-50, 3, -0.001)]


class Meeting(unittest.TestCase):
    def test_what_rays_meet_and_where(self):
        scene = quads(GROUND, WALL)
        start = np.float32([(0, 2, 2), (0, 2, 2), (0, 2, 2)])
        toward = np.float32([(0, -1, 0), (0, 0, -1), (0, 1, 0)])
        met = scene.meet(start, toward, 10.0)
        np.testing.assert_array_equal(met.hit, [True, True, False])
        np.testing.assert_allclose(met.positions, [(0, 0, 2), (0, 2, -0.001), (0, 12, 2)], atol=1e-5)
        np.testing.assert_allclose(met.normals, [(0, 1, 0), (0, 0, 1), (0, 0, 0)], atol=1e-5)
        np.testing.assert_array_equal(met.face // 2, [0, 1, -1])
        corners = np.float32([GROUND, WALL]).reshape(-1, 3)
        faces = np.array([[0, 1, 2], [0, 2, 3], [4, 5, 6], [4, 6, 7]])[met.face[:2]]
        w = np.column_stack([1 - met.bary[:2].sum(axis=1), met.bary[:2]])
        np.testing.assert_allclose(np.einsum("nk,nkc->nc", w, corners[faces]), met.positions[:2], atol=1e-4)

    def test_nothing_to_meet(self):
        empty = RayScene(np.zeros((0, 3), np.float32), np.zeros((0, 3), np.int32))
        self.assertFalse(empty.meet(np.zeros((2, 3), np.float32), np.float32([(0, 1, 0)] * 2), 5.0).hit.any())


class Splash(unittest.TestCase):
    HEIGHTS = np.array([0.02, 0.1, 0.2, 0.35, 0.49, 0.6, 2.0])

    def up_the_wall(self, scene):
        at = np.column_stack([np.zeros(len(self.HEIGHTS)), self.HEIGHTS, np.zeros(len(self.HEIGHTS))])
        return splash(scene, at.astype(np.float32), np.tile(SOUTH, (len(at), 1)), 0.5)

    def test_up_a_wall_over_open_ground_it_falls_with_the_square_of_what_is_left(self):
        found = self.up_the_wall(quads(GROUND, WALL))
        np.testing.assert_allclose(found, np.clip(1 - self.HEIGHTS / 0.5, 0, 1) ** 2, atol=0.01)

    def test_none_under_a_wide_roof_and_higher_below_an_edge_that_drips(self):
        wide = [(-50, 3, -1), (50, 3, -1), (50, 3, 5), (-50, 3, 5)]
        self.assertEqual(float(self.up_the_wall(quads(GROUND, WALL, wide)).max()), 0.0)
        eaves = [(-50, 3, -1), (50, 3, -1), (50, 3, 0.22), (-50, 3, 0.22)]
        found = self.up_the_wall(quads(GROUND, WALL, eaves))
        np.testing.assert_allclose(found, np.clip(1 - self.HEIGHTS / 0.8, 0, 1) ** 2, atol=0.01)

    def test_level_ground_is_what_it_comes_from(self):
        self.assertEqual(float(splash(quads(GROUND), np.float32([(0, 0, 3)]), UP, 0.5)[0]), 0.0)


class Damp(unittest.TestCase):
    def test_an_even_front(self):
        at = np.float32([(0, h, 0) for h in (0.0, 0.1, 0.2, 0.4, 1.0)])
        np.testing.assert_allclose(damp(at, np.zeros(5), 0.4, 0.0, 1.0, 1), [1, 0.75, 0.5, 0, 0], atol=1e-6)

    def test_a_wavy_front_keeps_its_mean_and_never_rises_with_height(self):
        x = np.linspace(0, 60, 4000)
        rows = []
        for h in np.linspace(0, 0.8, 33):
            at = np.column_stack([x, np.full(len(x), h), np.zeros(len(x))]).astype(np.float32)
            rows.append(damp(at, np.zeros(len(x)), 0.4, 0.6, 0.8, 3))
        rows = np.stack(rows)
        fronts = (rows > 0).sum(axis=0) * 0.8 / 32
        self.assertAlmostEqual(float(fronts.mean()), 0.4, delta=0.05)
        self.assertGreater(float(fronts.std()), 0.05)
        self.assertGreater((np.diff(rows, axis=0) <= 1e-3).mean(), 0.97)


class Lee(unittest.TestCase):
    def test_behind_a_long_wall_it_falls_off_evenly_over_its_multiple(self):
        high, long = 1.5, 3000
        wall = [(-long, 0, 0), (long, 0, 0), (long, high, 0), (-long, high, 0)]
        away = np.array([0.1, 1.0, 3.0, 7.0, 12.0, 14.9, 20.0])
        at = np.column_stack([np.zeros(len(away)), np.zeros(len(away)), away]).astype(np.float32)
        # The wind comes from the north; it is still to the south.
        found = lee(quads(wall), at, np.tile(UP, (len(away), 1)), 0.0)
        np.testing.assert_allclose(found, np.clip(1 - away / (MULTIPLE * high), 0, 1), atol=0.03)
        at[:, 2] *= -1
        self.assertEqual(float(lee(quads(wall), at, np.tile(UP, (len(away), 1)), 0.0).max()), 0.0)

    def test_what_faces_the_wind_catches(self):
        at = np.float32([(0, 1, 0)])
        far = quads([(900, 0, 900), (901, 0, 900), (901, 0, 901), (900, 0, 901)])
        self.assertAlmostEqual(float(catch(far, at, NORTH, 0.0)[0]), 1.0, places=5)
        self.assertAlmostEqual(float(catch(far, at, NORTH, 60.0)[0]), 0.5, places=5)
        self.assertEqual(float(catch(far, at, SOUTH, 0.0)[0]), 0.0)


class Patterns(unittest.TestCase):
    AT = np.random.default_rng(5).uniform(0, 4, (20_000, 3)).astype(np.float32)

    def test_all_keep_within_bounds_and_vary(self):
        for kind in ("patches", "streaks", "cells", "cracks"):
            found = pattern(self.AT, kind, 0.4, 3, 9)
            self.assertTrue((found >= 0).all() and (found <= 1).all(), kind)
            self.assertGreater(float(found.std()), 0.08, kind)
            np.testing.assert_array_equal(found, pattern(self.AT, kind, 0.4, 3, 9))

    def test_streaks_change_slowly_down_and_quickly_across(self):
        steps = [np.float32([0, 0.1, 0]), np.float32([0.1, 0, 0])]
        here = pattern(self.AT, "streaks", 0.4, 2, 9)
        down, across = (np.abs(pattern(self.AT + step, "streaks", 0.4, 2, 9) - here).mean() for step in steps)
        self.assertLess(down, across / 4)

    def test_cracks_are_thin_and_lie_between_cells(self):
        found = pattern(self.AT, "cracks", 0.4, 2, 9)
        self.assertTrue(0.02 < (found > 0.5).mean() < 0.35, (found > 0.5).mean())

    def test_nearest_points_of_cells_by_brute_force(self):
        at = np.random.default_rng(2).uniform(0, 1, (300, 3))
        first, second, which = cells(at, 0.25, 4)
        self.assertTrue((first <= second).all())
        # As many kinds as cells, and within a cell the number is the same a hair further on.
        again = cells(at + 1e-7, 0.25, 4)[2]
        self.assertGreater((which == again).mean(), 0.99)
        # Between two places distances differ by no more than the way between them.
        step = np.float32([0.01, 0, 0])
        other = cells(at + step, 0.25, 4)
        self.assertLessEqual(float(np.abs(other[0] - first).max()), 0.01 / 0.25 + 1e-5)
        self.assertLessEqual(float(np.abs(other[1] - second).max()), 0.01 / 0.25 + 1e-5)


if __name__ == "__main__":
    unittest.main()
