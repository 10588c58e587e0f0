"""Darts and the grid that finds points too near: against brute force, and independent of order and company."""

import unittest

import numpy as np

from cenote_core.drifts.darts import CHUNKS, SCATTER, Hand, Lying, Target, places_of, turns
from cenote_core.drifts.sampling import spaced_points
from cenote_core.drifts.torus import Torus, too_near

from .helpers import sheet


def asked(grid: Torus, place, radius: float) -> int:
    return too_near(*place, grid.position, grid.inverse, grid.bits, grid.heads, grid.following, radius * radius)


class Near(unittest.TestCase):
    def clouds(self):
        rng = np.random.default_rng(4)
        for low, high, radius in ((-3, 3, 0.2), (-60, -40, 0.9), (0, 1, 0.02), (-200, 200, 7.0)):
            yield rng.uniform(low, high, (900, 3)).astype(np.float32), rng.uniform(low, high, (700, 3)), radius

    def test_finds_a_point_too_near_exactly_when_there_is_one(self):
        for points, places, radius in self.clouds():
            bounds = np.stack([points.min(axis=0), points.max(axis=0)]).astype(float)
            grid = Torus(points, 10, radius, bounds)
            for place in places:
                apart = np.linalg.norm(grid.position[: len(points)].astype(float) - place, axis=1)
                found = asked(grid, place, radius)
                self.assertEqual(found >= 0, bool((apart < radius).any()))
                if found >= 0:
                    self.assertLess(apart[found], radius)

    def test_still_does_where_the_torus_is_far_too_small(self):
        # Told of a tiny box, the grid has few cells, and points of many of its turns share each of them.
        points, places, radius = next(iter(self.clouds()))
        grid = Torus(points, 10, radius, np.zeros((2, 3)))
        self.assertLessEqual(len(grid.heads), 64)
        for place in places[:200]:
            apart = np.linalg.norm(points.astype(float) - place, axis=1)
            self.assertEqual(asked(grid, place, radius) >= 0, bool((apart < radius).any()))

    def test_serves_smaller_radii_too(self):
        points, places, radius = next(iter(self.clouds()))
        grid = Torus(points, 10, radius, np.stack([points.min(axis=0), points.max(axis=0)]).astype(float))
        for place in places[:200]:
            apart = np.linalg.norm(points.astype(float) - place, axis=1)
            self.assertEqual(asked(grid, place, radius / 2) >= 0, bool((apart < radius / 2).any()))

    def test_keeps_every_point_once(self):
        points, _, radius = next(iter(self.clouds()))
        grid = Torus(points, 10, radius, np.stack([points.min(axis=0), points.max(axis=0)]).astype(float))
        np.testing.assert_array_equal(np.unique(grid.position[: len(points)], axis=0), np.unique(points, axis=0))

    def test_grows_when_more_come_than_were_foreseen(self):
        lying = Lying(4, np.array([[-1.0, -1, -1], [1, 1, 1]]))
        lying.prepare(0.1, 2)
        lying.make_room(500)
        self.assertGreaterEqual(len(lying.rank), 500)
        self.assertGreaterEqual(len(lying.grid.following), 500)
        self.assertEqual(len(lying.parts()[0]), 0)


class Targets(unittest.TestCase):
    def setUp(self):
        self.mesh = sheet(40, 20.0, 1.0)
        self.keys = np.arange(len(self.mesh.faces), dtype=np.uint64)
        self.areas = self.mesh.face_areas()
        self.target = Target(self.mesh.positions, self.mesh.faces, self.keys, self.areas, 9)

    def test_no_face_that_has_a_dart_is_left_out(self):
        for per_area in (1e-6, 1e-3, 0.05, 0.3, 0.8, 3.0, 50.0):
            has = np.flatnonzero(np.floor(self.areas * per_area + self.target.chance) > 0)
            reached = self.target.reached(per_area)
            self.assertTrue(set(has.tolist()) <= set(reached.tolist()), per_area)
            self.assertTrue((np.diff(reached) > 0).all())

    def test_coarse_levels_look_at_few_faces(self):
        self.assertLess(len(self.target.reached(0.001)), 0.05 * len(self.areas))
        self.assertEqual(len(self.target.reached(100.0)), len(self.areas))

    def test_faces_get_their_share_in_the_mean(self):
        for per_area in (0.2, 1.0, 7.3):
            darts = np.floor(self.areas * per_area + self.target.chance)
            self.assertAlmostEqual(darts.sum() / (self.areas.sum() * per_area), 1.0, delta=0.06)

    def test_chunks_have_room_for_their_darts_and_do_not_overlap(self):
        hand = Hand(self.areas, 40.0)
        for before, after in ((0.0, 0.01), (3.0, 9.0), (20.0, 60.0)):
            faces = self.target.reached(after)
            firsts = np.arange(9, dtype=np.int64) * len(faces) // 8
            starts = hand.starts(faces, firsts, after - before)
            darts = np.floor(self.areas * after + self.target.chance) - np.floor(
                self.areas * before + self.target.chance
            )
            for chunk in range(8):
                run = faces[firsts[chunk] : firsts[chunk + 1]]
                self.assertLessEqual(darts[run].sum(), starts[chunk + 1] - starts[chunk])
            self.assertLessEqual(starts[-1], len(hand.face))

    def test_the_scattered_order_reaches_every_chunk(self):
        chunks = CHUNKS
        while chunks:
            self.assertEqual(len({turn * SCATTER % chunks for turn in range(chunks)}), chunks)
            chunks //= 2


class Turns(unittest.TestCase):
    def test_places_follow_the_sorted_words(self):
        rng = np.random.default_rng(3)
        position = rng.uniform(-5, 5, (60, 3)).astype(np.float32)
        identity = rng.integers(0, 2**63, 60, dtype=np.uint64)
        starts, kept = np.array([0, 20, 45]), np.array([12, 20, 9])
        turn = turns(starts, kept, position, identity, 0.5)
        turn.sort()
        places = places_of(starts, kept, turn)
        expected = np.concatenate([np.arange(s, s + k) for s, k in zip(starts, kept, strict=True)])
        self.assertEqual(sorted(places.tolist()), expected.tolist())

    def test_who_comes_first_does_not_hang_on_the_others(self):
        rng = np.random.default_rng(5)
        position = rng.uniform(-5, 5, (40, 3)).astype(np.float32)
        identity = rng.integers(0, 2**63, 40, dtype=np.uint64)

        def order(count):
            starts, kept = np.array([0]), np.array([count])
            turn = turns(starts, kept, position, identity, 0.5)
            turn.sort()
            return places_of(starts, kept, turn).tolist()

        few, many = order(25), order(40)
        self.assertEqual([n for n in many if n < 25], few)


class Company(unittest.TestCase):
    def test_the_order_of_faces_changes_nothing(self):
        mesh = sheet(30, 12.0, 0.8)
        keys, areas = np.arange(len(mesh.faces), dtype=np.uint64), mesh.face_areas()
        found = spaced_points(mesh.positions, mesh.faces, keys, areas, 0.25, 3)
        shuffled = np.random.default_rng(8).permutation(len(keys))
        other = spaced_points(mesh.positions, mesh.faces[shuffled], keys[shuffled], areas[shuffled], 0.25, 3)
        self.assertEqual(set(found.identity.tolist()), set(other.identity.tolist()))
        by_name = {int(i): p.tobytes() for i, p in zip(other.identity, other.positions, strict=True)}
        for identity, place in zip(found.identity, found.positions, strict=True):
            self.assertEqual(by_name[int(identity)], place.tobytes())

    def test_a_face_cut_out_changes_only_what_lies_near(self):
        mesh = sheet(30, 12.0)
        keys, areas = np.arange(len(mesh.faces), dtype=np.uint64), mesh.face_areas()
        whole = spaced_points(mesh.positions, mesh.faces, keys, areas, 0.25, 3)
        middle = mesh.positions[mesh.faces].mean(axis=1)
        hole = np.linalg.norm(middle - middle[0], axis=1) < 1.5
        holed = spaced_points(mesh.positions, mesh.faces, keys, np.where(hole, 0.0, areas), 0.25, 3)
        self.assertFalse(hole[holed.face].any())
        far = np.linalg.norm(whole.positions - middle[0], axis=1) > 6.0
        kept = np.isin(whole.identity[far], holed.identity)
        self.assertGreater(kept.mean(), 0.95)

    def test_every_dart_has_a_name_of_its_own(self):
        mesh = sheet(20, 10.0)
        found = spaced_points(
            mesh.positions, mesh.faces, np.arange(len(mesh.faces), dtype=np.uint64), mesh.face_areas(), 0.08, 1
        )
        self.assertGreater(len(found), 8000)
        self.assertEqual(len(np.unique(found.identity)), len(found))

    def test_points_are_spread_evenly_over_a_single_large_triangle(self):
        positions = np.array([(0, 0, 0), (20, 0, 0), (0, 0, 20)], np.float32)
        faces = np.array([(0, 1, 2)], np.int32)
        found = spaced_points(positions, faces, np.zeros(1, np.uint64), np.array([200.0]), 0.3, 2)
        w = found.bary
        for corner in (1 - w.sum(axis=1), w[:, 0], w[:, 1]):
            # The part of a triangle within half of its height of a corner holds a quarter of its area.
            self.assertAlmostEqual((corner > 0.5).mean(), 0.25, delta=0.02)
