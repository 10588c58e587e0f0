"""Lower edges, and what hangs and falls from them: where water leaves things, icicles, drops, crowns."""

import unittest

import numpy as np

from cenote_core.eaves.drips import LARGEST, Drips, all_drips, drips, hanging
from cenote_core.eaves.icicles import hang, icicles, shape
from cenote_core.eaves.lips import AIR, Lips, fed, lips, lower_edges
from cenote_core.falling.drops import falls_at, slope_of
from cenote_core.falling.splashes import LIFE, crowns, hits_a_second, rain_hits, rained_on
from cenote_core.mesh.mesh import make_mesh
from cenote_core.plan import PiecePlan, WeatherPlan

from .helpers import scene_of, small_site


def box(low, high):
    """A box with vertices of its own for every side, outsides outward."""
    corners = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], float)
    corners = np.asarray(low) + corners * (np.asarray(high) - np.asarray(low))
    sides = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
    positions = np.concatenate([corners[list(side)] for side in sides]).astype(np.float32)
    faces = np.concatenate([np.array([[0, 1, 2], [0, 2, 3]]) + 4 * k for k in range(6)]).astype(np.int32)
    return make_mesh(positions, faces)


def volume(mesh):
    a, b, c = mesh.positions[mesh.faces].astype(float).transpose(1, 0, 2)
    return float((np.cross(a, b) * c).sum() / 6)


def closed(mesh):
    _, same = np.unique(np.round(mesh.positions * 1e6).astype(np.int64), axis=0, return_inverse=True)
    faces = same.reshape(-1)[mesh.faces]
    faces = faces[(faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 2] != faces[:, 0])]
    edges = np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])
    there = {tuple(e) for e in edges.tolist()}
    return all((b, a) in there for a, b in there)


def straight(length=2.0, air=1.0):
    one = np.array([[0.0, 2.0, 0.0]])
    return Lips(one, one + [[length, 0, 0]], np.array([[0, 0, 1.0]]), np.array([air]))


def halt(**weather):
    site = small_site()
    site.pieces.clear()
    site.put("shelter", PiecePlan(name="shelter", asset="shelter", position=(0, 0, 0), foot_width=0.0))
    site.weather = WeatherPlan(wind=0.0, gusts=0.0, **weather)
    return scene_of(site)


class Edges(unittest.TestCase):
    def test_a_box_is_left_along_the_four_edges_of_its_underside(self):
        found = lower_edges(box([0, 1, 0], [2, 1.3, 1]))
        self.assertAlmostEqual(float(found.length.sum()), 6.0, places=5)
        np.testing.assert_allclose(found.start[:, 1], 1.0, atol=1e-6)
        middle = (found.start + found.end) / 2 - [1, 1, 0.5]
        self.assertTrue(((found.outward * middle).sum(axis=1) > 0.4).all(), "outward of the box")
        np.testing.assert_allclose(np.linalg.norm(found.outward, axis=1), 1.0, atol=1e-6)

    def test_a_thin_sheet_is_left_along_its_lower_end_alone(self):
        corners = np.float32([[0, 2, 0], [0, 1.5, 2], [3, 1.5, 2], [3, 2, 0]])
        found = lower_edges(make_mesh(corners, np.int32([[0, 1, 2], [0, 2, 3]])))
        self.assertAlmostEqual(float(found.length.sum()), 3.0, places=5)
        np.testing.assert_allclose(found.start[:, 1], 1.5)
        self.assertTrue((found.outward[:, 2] > 0.99).all())

    def test_a_hollow_between_two_faces_is_no_lip(self):
        """A soffit that meets a wall going on below it: water stays on the wall."""
        corners = np.float32([[0, 1, 0], [2, 1, 0], [2, 1, -1], [0, 1, -1], [0, 0, 0], [2, 0, 0]])
        # An underside at height 1, and a wall below its front edge.
        mesh = make_mesh(corners, np.int32([[0, 2, 1], [0, 3, 2], [0, 5, 4], [0, 1, 5]]))
        found = lower_edges(mesh)
        self.assertFalse(np.any(np.abs(found.start[:, 1] - 1) < 1e-6))

    def test_lips_have_air_below_and_those_of_a_roof_get_what_falls_on_it(self):
        scene = halt()
        found, water = lips(scene, "shelter"), fed(scene, "shelter")
        self.assertGreater(len(found), 20)
        self.assertTrue((found.air > AIR).all())
        high = found.start[:, 1] > 1.7
        came = (water * found.length)[high]
        north = found.start[high, 2] < -1.3
        self.assertGreater(came[north].sum() / came.sum(), 0.6, "the roof slopes to the north")


class Icicles(unittest.TestCase):
    def test_no_longer_than_the_longest_nor_than_there_is_air(self):
        for longest, air in ((0.3, 5.0), (0.5, 0.2)):
            found = hang(straight(20.0, air), np.array([3.0]), longest)
            self.assertGreater(len(found.length), 100)
            self.assertLessEqual(found.length.max(), min(longest, air))
        self.assertGreater(hang(straight(20.0, 5.0), np.array([3.0]), 0.3).length.max(), 0.27)

    def test_more_water_makes_more_and_longer_ones_and_none_makes_none(self):
        little, much = (hang(straight(20.0, 5.0), np.array([w]), 0.3) for w in (0.1, 1.2))
        self.assertGreater(len(much.length), 1.5 * len(little.length))
        self.assertGreater(much.length.max(), 2 * little.length.max())
        self.assertEqual(len(hang(straight(20.0, 5.0), np.array([0.0]), 0.3).length), 0)

    def test_they_grow_where_they_are(self):
        short, long = (hang(straight(20.0, 5.0), np.array([2.0]), longest) for longest in (0.2, 0.4))
        before = dict(zip(short.name.tolist(), short.length, strict=True))
        after = dict(zip(long.name.tolist(), long.length, strict=True))
        self.assertTrue(set(before) <= set(after))
        self.assertTrue(all(after[name] > before[name] for name in before))

    def test_bodies_are_closed_with_their_outside_outward_and_no_two_alike(self):
        found = hang(straight(0.6, 5.0), np.array([2.0]), 0.3)
        whole = shape(found, np.zeros(2))
        self.assertTrue(closed(whole))
        self.assertGreater(volume(whole), 0)
        volumes = [
            volume(shape(type(found)(*(v[k : k + 1] for v in vars(found).values())), np.zeros(2)))
            for k in range(len(found.length))
        ]
        slender = np.array(volumes) / found.length**3
        self.assertEqual(len(np.unique(np.round(slender, 6))), len(slender))

    def test_under_the_eave_and_not_without_frost_that_made_them(self):
        self.assertIsNone(icicles(halt(), "shelter"))
        scene = halt(icicles=25.0)
        mesh = icicles(scene, "shelter")
        self.assertGreater(len(mesh.faces), 500)
        self.assertLess(mesh.positions[:, 1].max(), scene.mesh("shelter").bounds()[1][1] + 0.01)
        self.assertIsNone(icicles(scene, "ground"))


class Dripping(unittest.TestCase):
    def drips(self, count=50):
        draw = np.random.default_rng(3)
        at = np.column_stack([draw.random(count), np.full(count, 2.0), np.zeros(count)])
        return Drips(at, np.full(count, 1.2), draw.uniform(0.5, 2, count), draw.random(count))

    def test_one_after_another_as_often_as_its_period_says(self):
        found = self.drips()
        since = found.since(7.3)
        self.assertTrue((since >= 0).all() and (since < found.period).all())
        np.testing.assert_allclose(
            found.since(7.3 + 0.01) - since, np.where(since + 0.01 < found.period, 0.01, 0.01 - found.period)
        )

    def test_a_drop_grows_to_its_largest_and_is_closed(self):
        one = Drips(np.array([[0, 2.0, 0]]), np.array([1.0]), np.array([1.0]), np.array([0.0]))
        sizes = [volume(hanging(one, t)) for t in (0.1, 0.5, 0.9, 0.9999)]
        self.assertTrue(np.all(np.diff(sizes) > 0))
        # About a ball of the largest radius, with its neck.
        self.assertAlmostEqual(sizes[-1] / (4 / 3 * np.pi * LARGEST**3), 1.2, delta=0.35)
        self.assertTrue(closed(hanging(one, 0.7)))
        self.assertLess(hanging(one, 0.7).positions[:, 1].max(), 2.0 + 1e-6)

    def test_what_is_dry_or_gets_no_water_does_not_drip(self):
        self.assertIsNone(all_drips(halt()))
        self.assertIsNone(drips(halt(rain=8.0), "ground"))
        steady, drizzle = all_drips(halt(rain=8.0)), all_drips(halt(rain=0.8))
        self.assertGreater((1 / steady.period).sum(), 3 * (1 / drizzle.period).sum())
        thaw = all_drips(halt(snow=10.0, melted=4.0, icicles=20.0))
        self.assertGreater(len(thaw.at), 10)


class Splashes(unittest.TestCase):
    def test_as_many_as_the_distribution_times_the_speed(self):
        for rain in (2.0, 8.0, 40.0):
            d = np.linspace(1.6, 8, 4000)
            brute = np.trapezoid(8000 * np.exp(-slope_of(rain) * d) * falls_at(d), d)
            self.assertAlmostEqual(hits_a_second(rain) / brute, 1, delta=0.03)
        self.assertEqual(hits_a_second(0.0), 0.0)

    def test_a_crown_flies_up_outward_and_comes_down(self):
        at, up = np.array([[1.0, 0.5, 2.0]]), np.array([[0, 1.0, 0]])
        early, late = crowns(at, up, np.array([0.01])), crowns(at, up, np.array([0.09]))
        self.assertGreater(early.velocity[:, 1].min(), 0)
        self.assertLess(late.velocity[:, 1].max(), 0.1)
        for found in (early, late):
            self.assertGreater(found.at[:, 1].min(), 0.5)
        wide = [np.linalg.norm(f.at[:, [0, 2]] - [1, 2], axis=1).mean() for f in (early, late)]
        self.assertGreater(wide[1], 4 * wide[0])
        speed = np.linalg.norm(early.velocity, axis=1)
        self.assertLess(speed.max(), 1.2)
        self.assertEqual(len(crowns(at, up, np.array([1.0])).at), 0, "all have come down by then")

    def test_rain_hits_roofs_and_not_what_is_under_them(self):
        scene = halt(rain=20.0)
        low, high = scene.mesh("ground").bounds()
        roof_low, roof_high = scene.mesh("shelter").bounds()
        found = rained_on(scene.standing(), low, high, 0.0, 0.0)
        inside = np.all(
            (found[:, [0, 2]] > roof_low[[0, 2]] + 0.3) & (found[:, [0, 2]] < roof_high[[0, 2]] - 0.3), axis=1
        )
        self.assertGreater(inside.sum(), 10)
        self.assertGreater(found[inside, 1].min(), 1.5)
        self.assertLess(found[~inside, 1].mean(), 0.5)
        at, normals, age = rain_hits(scene.standing(), np.array([0, 1.6, 4.0]), 20.0, 0.0, 0.0, 2.0)
        self.assertGreater(len(at), 500)
        self.assertTrue((age >= 0).all() and (age <= LIFE).all())
        again = rain_hits(scene.standing(), np.array([0, 1.6, 4.0]), 20.0, 0.0, 0.0, 2.0)
        np.testing.assert_array_equal(at, again[0])
