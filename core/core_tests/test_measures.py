"""Measures against closed forms, published properties and brute force; gates and histograms."""

import unittest

import numpy as np
from pydantic import ValidationError

from cenote_core.base.noise import noise
from cenote_core.measures.height import height
from cenote_core.measures.painted import apply_touches, painted
from cenote_core.measures.shelter import shelter
from cenote_core.measures.slope import slope
from cenote_core.mesh.rays import RayScene
from cenote_core.plan import Gate, TouchPlan
from cenote_core.rules import apply_rule, gate_response, histogram

from .helpers import gate


class Shelter(unittest.TestCase):
    def test_floor_beside_a_long_wall(self):
        wall = np.array([[0, 0, -900], [0, 0, 900], [0, 2, 900], [0, 2, -900]], np.float32)
        rays = RayScene(wall, np.array([[0, 1, 2], [0, 2, 3]], np.int32))
        d = np.linspace(0.1, 6, 60).astype(np.float32)
        points = np.column_stack([d, np.zeros(60), np.zeros(60)]).astype(np.float32)
        normals = np.tile(np.array([0, 1, 0], np.float32), (60, 1))
        # Each point sees its own turned lattice; the mean over a few nearby places is the full-quality figure.
        shifted = [shelter(rays, points + np.float32([0, 0, k * 0.5]), normals, 1e4, 4 * 256) for k in range(4)]
        exact = 0.5 * (1 - d / np.sqrt(d**2 + 4))
        self.assertLess(np.abs(np.mean(shifted, axis=0) - exact).max(), 0.01)

    def test_reach_limits_and_openness(self):
        roof = np.array([[-50, 3, -50], [50, 3, -50], [50, 3, 50], [-50, 3, 50]], np.float32)
        rays = RayScene(roof, np.array([[0, 1, 2], [0, 2, 3]], np.int32))
        point, up = np.zeros((1, 3), np.float32), np.array([[0, 1, 0]], np.float32)
        self.assertEqual(shelter(rays, point, up, 2.0, 256)[0], 0.0)
        # A ceiling at height h seen within reach r closes off sin² of the half angle: 1 − (h/r)².
        self.assertAlmostEqual(float(shelter(rays, point, up, 6.0, 4096)[0]), 1 - (3 / 6) ** 2, delta=0.01)

    def test_nothing_standing(self):
        rays = RayScene(np.zeros((0, 3), np.float32), np.zeros((0, 3), np.int32))
        self.assertEqual(
            shelter(rays, np.zeros((3, 3), np.float32), np.zeros((3, 3), np.float32), 1.0, 16).tolist(), [0, 0, 0]
        )

    def test_same_result_twice(self):
        wall = np.array([[0, 0, -9], [0, 0, 9], [0, 2, 9], [0, 2, -9]], np.float32)
        rays = RayScene(wall, np.array([[0, 1, 2], [0, 2, 3]], np.int32))
        points = np.random.default_rng(1).random((500, 3)).astype(np.float32)
        normals = np.tile(np.array([0, 1, 0], np.float32), (500, 1))
        self.assertEqual(
            shelter(rays, points, normals, 2, 64).tobytes(), shelter(rays, points, normals, 2, 64).tobytes()
        )


class Simple(unittest.TestCase):
    def test_slope_of_known_normals(self):
        s = np.sqrt(0.5)
        normals = np.array([[0, 1, 0], [s, s, 0], [1, 0, 0], [0, -1, 0]], np.float32)
        np.testing.assert_allclose(slope(normals), [0, 45, 90, 180], atol=1e-3)

    def test_height_above_foot(self):
        np.testing.assert_allclose(height(np.array([[0, 5, 0], [1, 2, 3]], np.float32), 2.0), [3, 0])

    def test_noise_is_seeded_centred_and_smooth(self):
        rng = np.random.default_rng(2)
        points = (rng.random((20000, 3)) * 50).astype(np.float32)
        a = noise(points, 2.0, 3, 7)
        self.assertEqual(a.tobytes(), noise(points, 2.0, 3, 7).tobytes())
        self.assertGreater(np.abs(a - noise(points, 2.0, 3, 8)).mean(), 0.05)
        self.assertAlmostEqual(float(a.mean()), 0.5, delta=0.01)
        self.assertTrue(((a >= 0) & (a <= 1)).all())
        self.assertLess(np.abs(a - noise(points + np.float32(0.002), 2.0, 3, 7)).max(), 0.05)

    def test_noise_vanishes_on_the_lattice(self):
        lattice = np.array([[0, 0, 0], [2, 4, 6], [-2, 0, 8]], np.float32)
        np.testing.assert_allclose(noise(lattice, 2.0, 1, 3), 0.5, atol=1e-6)


def stroke(action="more", owner="ground", points=((0, 0, 0), (4, 0, 0)), **more):
    return TouchPlan(
        name="s",
        target="d",
        action=action,
        owner=owner,
        points=list(points),
        **{"radius": 1.0, "strength": 1.0, "falloff": 0.5, **more},
    )


class Painted(unittest.TestCase):
    def test_full_in_the_core_nothing_past_the_rim(self):
        places = np.array([[2, 0, 0.4], [2, 0, 0.75], [2, 0, 1.01], [-0.9, 0, 0]], np.float32)
        got = painted(places, "ground", [stroke()])
        t = 0.5  # half way between core 0.5 and rim 1
        np.testing.assert_allclose(got, [1.0, t * t * (3 - 2 * t), 0, (0.2) ** 2 * (3 - 0.4)], atol=1e-5)

    def test_strokes_count_in_order_and_only_on_their_owner(self):
        place = np.zeros((1, 3), np.float32)
        self.assertEqual(painted(place, "ground", [stroke(), stroke("less", strength=0.5)])[0], 0.5)
        self.assertEqual(painted(place, "ground", [stroke("less"), stroke()])[0], 1.0)
        self.assertEqual(painted(place, "piece-1", [stroke()])[0], 0.0)

    def test_on_the_ground_height_does_not_matter(self):
        amount = np.ones(1, np.float32)
        apply_touches(amount, np.array([[1, 30, 0]], np.float32), "ground", [stroke("less")])
        self.assertEqual(amount[0], 0.0)
        on_piece = np.ones(1, np.float32)
        apply_touches(on_piece, np.array([[1, 30, 0]], np.float32), "p", [stroke("less", owner="p")])
        self.assertEqual(on_piece[0], 1.0)


class Gates(unittest.TestCase):
    def test_trapezoid(self):
        values = np.array([-1, 0, 5, 10, 15, 20, 25, 30, 31], np.float32)
        np.testing.assert_allclose(gate_response(gate(0, 10, 20, 30), values), [0, 0, 0.5, 1, 1, 1, 0.5, 0, 0])

    def test_upright_edges(self):
        np.testing.assert_allclose(
            gate_response(gate(1, 1, 2, 2), np.array([0.99, 1, 2, 2.01], np.float32)), [0, 1, 1, 0]
        )

    def test_strength_fades_a_rule_out(self):
        for strength, expected in ((0.0, 1.0), (0.5, 0.5), (1.0, 0.0)):
            amount = np.ones(1, np.float32)
            apply_rule(amount, gate(0, 0, 1, 1), strength, np.array([5], np.float32))
            self.assertAlmostEqual(float(amount[0]), expected)

    def test_histogram_share_equals_the_integral(self):
        rng = np.random.default_rng(3)
        values = rng.random(200_000).astype(np.float32)
        areas = np.full(len(values), 0.25, np.float32)
        result = histogram(values, areas, gate(0.2, 0.4, 0.6, 1.0), (0, 1))
        self.assertAlmostEqual(result.share, 0.1 + 0.2 + 0.2, delta=0.004)
        self.assertAlmostEqual(result.areas.sum(), areas.sum(), delta=1)
        self.assertAlmostEqual(result.passed.sum() / result.areas.sum(), result.share, delta=1e-4)

    def test_order_and_finiteness_are_demanded(self):
        for bad in ((3, 2, 4, 5), (0, 1, 2, float("nan")), (0, 1, 2, float("inf")), (0, 1, 2, 99_999)):
            with self.assertRaises(ValidationError):
                Gate(**dict(zip(("rise_start", "rise_end", "fall_start", "fall_end"), bad, strict=True)))
