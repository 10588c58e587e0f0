"""Snow on what is scattered: caps on wood and stone, clumps on leaves, and boughs that sag under it."""

import unittest

import numpy as np

from cenote_core.drifts.wind import sway_offsets, wind_of
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.kit.shapes import tube
from cenote_core.plan import WeatherPlan
from cenote_core.proof_scene.caps import capped, radii
from cenote_core.surfaces.formulas import snow_on_leaf
from cenote_core.surfaces.wind_formulas import snow_load

from .helpers import CACHE, scattered


def level_twig(radius, length=1.0, sides=8):
    path = np.column_stack([np.linspace(0, length, 6), np.full(6, 2.0), np.zeros(6)])
    return tube(path, np.full(6, radius), sides, "twig", 0.4)


def standing(count=1):
    """Instances that stand unturned."""
    found = scattered(count, 10)
    found.rotation[:] = [0, 0, 0, 1]
    found.mirrored[:] = False
    found.scale[:] = 1
    return found


class Caps(unittest.TestCase):
    def cap(self, radius, snow):
        mesh, found = level_twig(radius), standing()
        at = (mesh.positions[None] + found.position[:, None]).astype(np.float64)
        return capped(mesh, mesh.faces, found, at, snow), at[0], found

    def test_the_tightest_curve_of_a_twig_is_its_radius(self):
        for radius in (0.004, 0.03):
            np.testing.assert_allclose(radii(level_twig(radius)), radius, rtol=0.02)

    def test_a_cap_lies_above_and_is_let_in_at_its_sides(self):
        (positions, normals, corners), at, _ = self.cap(0.02, 0.1)
        middle = at[:, 1].mean()
        self.assertGreater(positions[:, 1].max(), middle + 0.02 + 0.015)
        self.assertTrue((positions[:, 1] > middle - 0.02).all())
        corner = positions[corners]
        out = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
        area = np.linalg.norm(out, axis=1)
        # Nearly all of it looks up or to the sides.
        self.assertGreater(area[out[:, 1] > -0.2 * area].sum() / area.sum(), 0.9)
        np.testing.assert_allclose(np.linalg.norm(normals, axis=1), 1, atol=1e-6)

    def test_a_twig_bears_by_its_width_and_no_more_than_fell(self):
        highest = lambda radius, snow: self.cap(radius, snow)[0][0][:, 1].max() - 2.0 - self.foot(radius) - radius  # noqa: E731
        self.assertGreater(highest(0.02, 0.2), 1.8 * highest(0.008, 0.2))
        self.assertLessEqual(highest(0.2, 0.03), 0.03 * 1.4 + 1e-6)
        self.assertIsNone(self.cap(0.0003, 0.2)[0])

    def foot(self, radius):
        return float(self.cap(radius, 0.2)[2].position[0, 1])

    def test_what_looks_down_has_none(self):
        mesh, found = level_twig(0.02), standing()
        at = (mesh.positions[None] + found.position[:, None]).astype(np.float64)
        under = mesh.faces[(mesh.normals[mesh.faces][..., 1] < 0).all(axis=1)]
        self.assertIsNone(capped(mesh, under, found, at, 0.1))


class Loads(unittest.TestCase):
    def test_more_snow_lies_on_a_leaf_the_more_fell_and_none_without(self):
        places = np.random.default_rng(2).random((400, 3))
        means = [np.mean([snow_on_leaf(d, *p) for p in places]) for d in (0.0, 0.01, 0.02, 0.05, 0.2)]
        self.assertEqual(means[0], 0)
        self.assertTrue(np.all(np.diff(means) >= 0) and means[3] > 0.6)
        some = [snow_on_leaf(0.03, *p) for p in places]
        self.assertGreater(np.std(some), 0.15, "in clumps, not as a film")

    def test_boughs_sag_by_what_lies_on_them_and_shake_it_off_in_wind(self):
        self.assertEqual(snow_load(0.0, 0.0), 0.0)
        self.assertGreater(snow_load(0.2, 0.0), snow_load(0.05, 0.0))
        self.assertEqual(snow_load(0.2, 15.0), 0.0)
        mesh = BuiltinKit(CACHE).asset("birch_young").lods[0]
        feet, tall = np.zeros((1, 3)), np.array([float(mesh.bounds()[1][1])])
        drop = [
            sway_offsets(wind_of(WeatherPlan(wind=0, snow=snow)), feet, tall, mesh.sway)[0] for snow in (0.0, 5.0, 30.0)
        ]
        # Leaves tremble by two millimetres in the calmest air.
        np.testing.assert_allclose(drop[0], 0, atol=3e-3)
        self.assertTrue((drop[2][:, 1] <= drop[1][:, 1] + 1e-6).all() and drop[2][:, 1].min() < -0.1)
        np.testing.assert_allclose(drop[2][:, [0, 2]], 0, atol=3e-3)
        rooted = mesh.positions[:, 1] < 0.05
        np.testing.assert_allclose(drop[2][rooted], 0, atol=2e-3)
