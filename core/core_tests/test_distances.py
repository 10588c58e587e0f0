"""Measures of place: distances against brute force, aspect, sky, hollow, crowns, water, image, camera."""

import unittest

import numpy as np
import trimesh

from cenote_core.measures.aspect import aspect, compass
from cenote_core.measures.camera import camera
from cenote_core.measures.crown import CrownRule, crown
from cenote_core.measures.distance import FAR, boundary_edges, near, sheet_edge, stems
from cenote_core.measures.edge import EdgeRule
from cenote_core.measures.hollow import HollowRule, hollow_map
from cenote_core.measures.image import image_over, image_thrown
from cenote_core.measures.line import LineRule
from cenote_core.measures.near import NearRule
from cenote_core.measures.path import PathRule
from cenote_core.measures.sky import SkyRule, sky
from cenote_core.measures.stems import StemsRule
from cenote_core.measures.water import WaterRule, water_distance
from cenote_core.mesh.nearest import line_tree, segment_tree, triangle_tree
from cenote_core.mesh.rays import RayScene
from cenote_core.plan import Cut, Mound, PiecePlan, StationPlan, Water
from cenote_core.scene.measuring import RuleContext, measure

from .helpers import drift, gate, scene_of, sheet, small_site

RNG = np.random.Generator(np.random.Philox(5))
OPEN = gate(-9000, -9000, 9000, 9000)


def segment_distances(points, start, end):
    """(N, S) by the definition, brute force."""
    d = end - start
    t = np.clip(np.einsum("nsk,sk->ns", points[:, None] - start, d) / np.maximum((d * d).sum(1), 1e-12), 0, 1)
    return np.linalg.norm(points[:, None] - start - t[..., None] * d, axis=2)


class NearestTrees(unittest.TestCase):
    def test_triangles_against_brute_force(self):
        for seed, spread in ((1, 1.0), (2, 20.0)):
            rng = np.random.Generator(np.random.Philox(seed))
            positions = rng.random((300, 3)) * spread
            faces = rng.integers(0, 300, (260, 3))
            faces = faces[(faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 0] != faces[:, 2])]
            points = rng.random((700, 3)) * spread * 1.6 - 0.3 * spread
            surface = trimesh.Trimesh(positions, faces, process=False)
            _, expected, _ = trimesh.proximity.closest_point_naive(surface, points)
            found, which = triangle_tree(positions, faces).nearest(points)
            np.testing.assert_allclose(found, expected, atol=1e-9 * spread)
            self.assertTrue((which >= 0).all())

    def test_number_of_the_nearest_is_the_one_that_was_given(self):
        positions = np.array([(0, 0, 0), (1, 0, 0), (0, 0, 1), (10, 0, 0), (11, 0, 0), (10, 0, 1)], float)
        tree = triangle_tree(positions, np.array([(3, 4, 5), (0, 1, 2)]))
        _, which = tree.nearest(np.array([(0.2, 1, 0.2), (10.2, 1, 0.2)]))
        self.assertEqual(which.tolist(), [1, 0])

    def test_segments_lines_and_flat_triangles(self):
        start, end = RNG.random((40, 3)) * 8, RNG.random((40, 3)) * 8
        points = RNG.random((300, 3)) * 12 - 2
        np.testing.assert_allclose(
            segment_tree(start, end).distance(points), segment_distances(points, start, end).min(axis=1), atol=1e-9
        )
        line = np.array([(0, 0, 0), (4, 0, 0), (4, 0, 3)], float)
        open_, closed = line_tree(line).distance(points[:1]), line_tree(line, closed=True).distance(points[:1])
        self.assertLessEqual(closed[0], open_[0] + 1e-12)
        dot = triangle_tree(np.zeros((1, 3)), np.zeros((1, 3), int)).distance(np.array([[3.0, 4.0, 0.0]]))
        self.assertAlmostEqual(dot[0], 5.0)

    def test_limit_and_emptiness(self):
        tree = segment_tree(np.zeros((1, 3)), np.ones((1, 3)))
        distance, which = tree.nearest(np.array([[50.0, 0, 0]]), 2.0)
        self.assertEqual((distance[0], which[0]), (2.0, -1))
        nothing = triangle_tree(np.zeros((0, 3)), np.zeros((0, 3), int))
        self.assertEqual(near(nothing, np.zeros((4, 3), np.float32)).tolist(), [FAR] * 4)


class Simple(unittest.TestCase):
    def test_aspect_of_the_four_faces_of_a_tent(self):
        normals = np.array([(0, 1, -1), (1, 1, 0), (0, 1, 1), (-1, 1, 0), (0, 1, 0)], np.float32)
        np.testing.assert_allclose(aspect(normals, 0), [0, 90, 180, 90, 90], atol=1e-3)
        np.testing.assert_allclose(aspect(normals, 270), [90, 180, 90, 0, 90], atol=1e-3)
        np.testing.assert_allclose(compass(90), [1, 0], atol=1e-12)

    def test_sky_over_an_open_floor_and_under_a_roof(self):
        floor, roof = sheet(1, 40), sheet(1, 40)
        positions = np.concatenate([floor.positions, roof.positions + [0, 1, 0]])
        faces = np.concatenate([floor.faces, roof.faces + len(floor.positions)])
        middle = np.array([[20, 0, 20]], np.float32)
        self.assertLess(sky(RayScene(positions, faces), middle, 256)[0], 0.01)
        self.assertEqual(sky(RayScene(floor.positions, floor.faces), middle, 256)[0], 1.0)
        # Half a sky beside a wall that goes up for ever: the view factor is ½.
        wall = np.array([(20.0, -1, -200), (20, 300, -200), (20, 300, 240), (20, -1, 240)], np.float32)
        tall = RayScene(wall, np.array([(0, 1, 2), (0, 2, 3)]))
        self.assertAlmostEqual(float(sky(tall, np.array([[19.99, 0, 20]], np.float32), 1024)[0]), 0.5, delta=0.02)

    def test_hollow_of_a_cone_is_deepest_at_its_tip(self):
        x = np.linspace(-10, 10, 201)
        y = np.hypot(*np.meshgrid(x, x))
        found = hollow_map(y, 0.1, 1.0)
        # The mean of the distance from the middle over a square of half side h is h (√2 + asinh 1) / 3; here ten
        # cells each way and half the middle one.
        self.assertAlmostEqual(found[100, 100], -1.05 * (np.sqrt(2) + np.arcsinh(1)) / 3, delta=0.005)
        # Far from the tip a cone bends by 1/r across: the mean lies h² / (6 r) higher.
        self.assertAlmostEqual(found[100, 180], -(1.05**2) / (6 * 8), delta=0.001)

    def test_edges_of_a_sheet_and_of_a_mesh(self):
        points = np.array([(0, 0, 0), (4, 3, 0), (0, 0, -2.5), (9, 0, 0)], np.float32)
        np.testing.assert_allclose(sheet_edge(points, 10, 6), [3, 1, 0.5, 0])
        mesh = sheet(4, 4.0)
        self.assertEqual(len(boundary_edges(mesh.faces, mesh.positions)), 16)

    def test_stems_against_brute_force(self):
        feet, radii = RNG.random((60, 3)) * 10, RNG.random(60) * 0.2
        points = (RNG.random((400, 3)) * 10).astype(np.float32)
        expected = np.linalg.norm(points[:, None] - feet, axis=2) - radii
        np.testing.assert_allclose(stems(points, feet, radii), np.maximum(expected.min(axis=1), 0), atol=1e-5)
        self.assertEqual(stems(points[:1], feet[:0], radii[:0])[0], FAR)

    def test_crown_against_brute_force(self):
        feet, radii = RNG.random((50, 3)) * [30, 0, 30], 0.5 + RNG.random(50) * 3
        tops = np.full(50, 5.0)
        points = (RNG.random((500, 3)) * [30, 8, 30]).astype(np.float32)
        flat = np.hypot(points[:, None, 0] - feet[:, 0], points[:, None, 2] - feet[:, 2])
        expected = np.maximum(1 - flat / radii, 0).max(axis=1) * (points[:, 1] <= 5)
        np.testing.assert_allclose(crown(points, feet, radii, tops), expected, atol=1e-6)

    def test_water_has_a_sign(self):
        shore = [np.array([(-50, 0, 0), (50, 0, 0)], float)]
        points = np.array([(0, 2, 3), (1, -1, -2)], np.float32)
        np.testing.assert_allclose(water_distance(points, shore, np.array([False, True])), [3, -2])

    def test_image_is_read_where_it_lies(self):
        picture = np.zeros((10, 20), np.float32)
        picture[:, 10:] = 1
        points = np.array([(-5, 0, 0), (5, 0, 0), (0, 9, 0)], np.float32)
        np.testing.assert_allclose(image_over(points, picture, 20, 10), [0, 1, 0.5], atol=1e-6)

    def test_image_is_thrown_as_who_stands_there_sees_it(self):
        # Bright in its upper right quarter alone.
        picture = np.zeros((20, 40), np.float32)
        picture[:10, 20:] = 1
        right = {"south": (1, 0, 0), "north": (-1, 0, 0), "east": (0, 0, -1), "west": (0, 0, 1), "above": (1, 0, 0)}
        middle = np.array([3.0, 1.0, -2.0])
        for way, along in right.items():
            up = np.array([0, 0, -1.0] if way == "above" else [0, 1.0, 0])
            depth = np.cross(along, up)
            points = [middle + a * np.array(along) + b * up + 7 * depth for a, b in ((1, 0.5), (-1, 0.5), (1, -0.5))]
            found = image_thrown(np.array(points, np.float32), picture, way, 4.0, tuple(middle))
            np.testing.assert_allclose(found, [1, 0, 0], atol=1e-6, err_msg=way)
        # As high as its proportions say, and nothing beyond its rims.
        rims = middle + np.array([[1.9, 0.9, 0], [2.1, 0.9, 0], [1.9, 1.1, 0]])
        found = image_thrown(rims.astype(np.float32), picture, "south", 4.0, tuple(middle))
        np.testing.assert_allclose(found, [1, 0, 0], atol=1e-6)

    def test_camera_sees_before_it_and_counts_what_throws_shadow_into_view(self):
        station = StationPlan(name="s", position=(0, 1.7, 0), target=(0, 1.7, -10), lens=35)
        points = np.array([(0, 0, -6), (0, 0, 8), (30, 0, -2)], np.float32)
        seen = camera(points, [station])
        self.assertAlmostEqual(float(seen[0]), np.hypot(6, 1.7), places=4)
        self.assertEqual(seen[1:].tolist(), [FAR, FAR])
        low_sun_behind = np.array([0.0, 0.4, 0.92])
        self.assertLess(camera(points, [station], low_sun_behind)[1], 10)


class InAScene(unittest.TestCase):
    def values(self, site, rule, points=None, owner="ground", context=None):
        scene = scene_of(site)
        table = scene.table(owner, 64)
        return measure(scene, owner, points or table.points, rule, context or RuleContext("x")), table.points.positions

    def test_near_pieces_is_the_distance_to_their_triangles(self):
        site = small_site()
        found, at = self.values(site, NearRule(gate=OPEN))
        mesh = scene_of(site).mesh("wall")
        surface = trimesh.Trimesh(mesh.positions, mesh.faces, process=False)
        pick = slice(0, len(at), 97)
        _, expected, _ = trimesh.proximity.closest_point_naive(surface, at[pick].astype(float))
        np.testing.assert_allclose(found[pick], expected, atol=1e-4)
        site.put("wall", PiecePlan(name="w", asset="wall", visible=False))
        self.assertEqual(set(self.values(site, NearRule(gate=OPEN))[0].tolist()), {FAR})

    def test_line_edge_and_hollow(self):
        site = small_site()
        found, at = self.values(site, LineRule(gate=OPEN, line=[(-20, 1), (20, 1)]))
        np.testing.assert_allclose(found, np.abs(at[:, 2] - 1), atol=1e-4)
        found, at = self.values(site, EdgeRule(gate=OPEN))
        np.testing.assert_allclose(found, 6 - np.abs(at[:, [0, 2]]).max(axis=1), atol=1e-4)
        site.ground = site.ground.model_copy(update={"forms": [Mound(centre=(2, 2), radius=2, height=-1)]})
        found, at = self.values(site, HollowRule(gate=OPEN, reach=2))
        lowest = at[found.argmin()]
        self.assertLess(np.hypot(lowest[0] - 2, lowest[2] - 2), 0.6)

    def test_sky_is_less_beside_the_wall(self):
        site = small_site()
        found, at = self.values(site, SkyRule(gate=OPEN))
        beside = (np.abs(at[:, 0]) < 2) & (np.abs(at[:, 2] + 1.5) < 0.3)
        far = at[:, 2] > 4.5
        self.assertLess(found[beside].mean(), found[far].mean() - 0.1)
        self.assertGreater(found[far].mean(), 0.9)

    def test_water_of_a_filled_hollow(self):
        site = small_site(width=20, depth=20, cell=0.2)
        forms = [Mound(centre=(0, 0), radius=8, height=-2), Water(centre=(0, 0), level=-1.0)]
        site.ground = site.ground.model_copy(update={"forms": forms})
        site.pieces.clear()
        found, at = self.values(site, WaterRule(gate=OPEN))
        np.testing.assert_allclose(found, np.hypot(at[:, 0], at[:, 2]) - 4.0, atol=0.02)

    def test_paths_to_the_edge_of_the_nearest_floor_against_brute_force(self):
        site = small_site(width=20, depth=20, cell=0.4)
        bent, straight = [(-9, -3), (0, 2), (4, -6)], [(-9, 8), (9, 8)]
        site.ground = site.ground.model_copy(update={"forms": [Cut(line=bent, width=1.4), Cut(line=straight, width=3)]})
        site.pieces.clear()
        found, at = self.values(site, PathRule(gate=OPEN))
        flat = at.astype(float) * [1, 0, 1]

        def to(line, width):
            corners = np.array([(x, 0.0, z) for x, z in line])
            return segment_distances(flat, corners[:-1], corners[1:]).min(axis=1) - width / 2

        np.testing.assert_allclose(found, np.minimum(to(bent, 1.4), to(straight, 3)), atol=1e-4)
        self.assertLess(found.min(), -1.3)
        site.ground = site.ground.model_copy(update={"forms": []})
        self.assertEqual(set(self.values(site, PathRule(gate=OPEN))[0].tolist()), {FAR})

    def test_stems_and_crowns_of_larger_tiers(self):
        site = small_site()
        site.put("trees", drift(tier="canopy", assets=["birch_young"], density=0.1, spacing=2.0, headroom=0))
        found, at = self.values(site, StemsRule(gate=OPEN), context=RuleContext("x", tier="cover"))
        under, _ = self.values(site, CrownRule(gate=OPEN), context=RuleContext("x", tier="cover"))
        self.assertLess(found.min(), 0.3)
        self.assertGreater(np.corrcoef(-np.minimum(found, 2), under)[0, 1], 0.7)
        self.assertEqual(
            set(self.values(site, StemsRule(gate=OPEN), context=RuleContext("x", tier="canopy"))[0].tolist()), {FAR}
        )


if __name__ == "__main__":
    unittest.main()
