"""Darts and the grid that finds points too near: against brute force, and independent of order and company."""

import unittest

import numpy as np

from cenote_core.sampling.conflicts import Accepted, resolve_conflicts, tasks_of, turns
from cenote_core.sampling.darts import CHUNKS, SCATTER, DartBatch, SurfaceSampler, throw_darts
from cenote_core.sampling.hash_grid import LANES, HashGrid, gather, nearest, nearest_of
from cenote_core.sampling.points import spaced_points

from .helpers import least_distance, sheet


def box_of(points) -> np.ndarray:
    return np.stack([points.min(axis=0), points.max(axis=0)]).astype(float)


def distances(points, place) -> np.ndarray:
    return np.linalg.norm(points.astype(float) - place.astype(float), axis=1)


def asked(grid: HashGrid, place, radius: float, reach: float) -> float:
    """Distance of the nearest, at most the reach; −1 if one is nearer than the radius."""
    squares = np.float32(radius**2), np.float32(reach**2)
    found = nearest(*place, grid.position, grid.starts, grid.inverse, grid.bits, *squares)
    return float(found) if found < 0 else float(np.sqrt(found))


class Near(unittest.TestCase):
    def clouds(self):
        rng = np.random.default_rng(4)
        for low, high, reach in ((-3, 3, 0.2), (-60, -40, 0.9), (0, 1, 0.02), (-200, 200, 7.0)):
            points, places = rng.uniform(low, high, (900, 3)), rng.uniform(low, high, (500, 3))
            yield points.astype(np.float32), places.astype(np.float32), reach

    def check(self, grid, points, places, radius, reach):
        for place in places:
            true = distances(points, place).min()
            found = asked(grid, place, radius, reach)
            if true < radius:
                self.assertEqual(found, -1.0)
            else:
                self.assertAlmostEqual(found, min(true, reach), delta=1e-5 * max(1.0, reach))

    def test_finds_the_nearest_within_reach(self):
        for points, places, reach in self.clouds():
            self.check(HashGrid(points, reach, box_of(points)), points, places, reach / 2, reach)

    def test_still_does_where_the_torus_is_far_too_small(self):
        # Told of a tiny box, the grid has few cells, and points of many of its turns share each of them.
        points, places, reach = next(iter(self.clouds()))
        grid = HashGrid(points, reach, np.zeros((2, 3)))
        self.assertLessEqual(len(grid.heads), 64)
        self.check(grid, points, places[:200], reach / 2, reach)

    def test_keeps_every_point_once_in_the_order_of_the_cells(self):
        for points, _, reach in self.clouds():
            grid = HashGrid(points, reach, box_of(points))
            np.testing.assert_array_equal(np.unique(grid.position, axis=0), np.unique(points, axis=0))
            self.assertEqual((grid.starts[0], grid.starts[-1]), (0, len(points)))
            self.assertTrue((np.diff(grid.starts) >= 0).all())

    def test_what_is_gathered_about_a_box_answers_as_the_grid_does(self):
        rng = np.random.default_rng(6)
        for points, places, reach in self.clouds():
            grid = HashGrid(points, reach, box_of(points))
            room = np.empty((3, 20 * LANES), np.float32)
            for place in places[:60]:
                low, high = place - np.float32(reach), place + np.float32(2 * reach)
                count = gather(low, high, reach, grid.position, grid.starts, grid.inverse, grid.bits, room)
                self.assertEqual(count % LANES, 0)
                for inside in rng.uniform(low, high, (5, 3)).astype(np.float32):
                    own = nearest_of(*inside, room, count, np.float32(reach**2))
                    self.assertEqual(float(np.sqrt(own)), asked(grid, inside, 0.0, reach))

    def test_too_many_to_gather_and_boxes_too_wide_are_declined(self):
        points = np.random.default_rng(1).uniform(0, 1, (500, 3)).astype(np.float32)
        grid = HashGrid(points, 0.3, box_of(points))
        low, high = np.zeros(3, np.float32), np.ones(3, np.float32)

        def gathered(low, high, room):
            return gather(low, high, 0.3, grid.position, grid.starts, grid.inverse, grid.bits, room)

        self.assertEqual(gathered(low, high, np.empty((3, LANES), np.float32)), -1)
        self.assertEqual(gathered(low, high * 90, np.empty((3, 600 * LANES), np.float32)), -1)


class Levels(unittest.TestCase):
    """One throw, and who of the darts may stay."""

    def setUp(self):
        mesh = sheet(40, 20.0, 1.0)
        self.areas = mesh.face_areas()
        self.target = SurfaceSampler(
            mesh.positions, mesh.faces, np.arange(len(mesh.faces), dtype=np.uint64), self.areas, 9
        )
        self.lying = Accepted(64)

    def throw(self, radius, reach, thrown):
        hand = DartBatch(self.areas, 40.0)
        faces = self.target.reached(thrown[1])
        firsts = np.arange(9, dtype=np.int64) * len(faces) // 8
        starts = hand.starts(faces, firsts, thrown[1] - thrown[0])
        grid = HashGrid(self.lying.position[: self.lying.count], reach, self.target.bounds)
        t = self.target
        kept = throw_darts(
            t.frames, t.sequences, t.areas, t.chance, faces, *thrown, grid.position, grid.starts, grid.inverse,
            grid.bits, radius, reach, firsts, starts, hand.spot, hand.dart,
        )  # fmt: skip
        return hand, starts, kept, grid

    def test_those_that_stay_keep_apart_and_none_that_could_stay_is_missing(self):
        first = self.throw(1.0, 1.4, (0.0, 3.0))
        resolve_conflicts(self.lying, first[0], self.target, *first[1:], 1.0, 1.4)
        before = self.lying.count
        hand, starts, kept, grid = self.throw(0.6, 1.0, (3.0, 11.0))
        candidates = np.concatenate([hand.spot[s : s + k, :3] for s, k in zip(starts, kept, strict=False)])
        resolve_conflicts(self.lying, hand, self.target, starts, kept, grid, 0.6, 1.0)
        stay = self.lying.position[: self.lying.count]
        self.assertGreater(self.lying.count, before + 100)
        self.assertGreaterEqual(least_distance(stay), 0.6 * (1 - 1e-6))
        for place in candidates:
            self.assertLess(distances(stay, place).min(), 0.6 * (1 + 1e-6))

    def test_a_gap_is_never_wider_than_the_way_to_the_nearest_older_point(self):
        for radius, reach, thrown in ((1.0, 1.4, (0.0, 3.0)), (0.7, 1.0, (3.0, 9.0)), (0.5, 0.7, (9.0, 20.0))):
            level = self.throw(radius, reach, thrown)
            resolve_conflicts(self.lying, level[0], self.target, *level[1:], radius, reach)
        count = self.lying.count
        place, gap = self.lying.position[:count], np.sqrt(self.lying.gap[:count])
        # Any beginning in the order of the gaps keeps as far apart as its narrowest gap.
        order = np.argsort(-gap, kind="stable")
        for share in (0.1, 0.3, 0.5, 0.7, 0.9, 1.0):
            part = order[: int(count * share)]
            self.assertGreaterEqual(least_distance(place[part]), gap[part[-1]] * (1 - 1e-6), share)

    def test_more_come_than_there_was_room_for(self):
        level = self.throw(0.5, 0.7, (0.0, 8.0))
        resolve_conflicts(self.lying, level[0], self.target, *level[1:], 0.5, 0.7)
        self.assertGreater(self.lying.count, 64)
        self.assertEqual(len(np.unique(self.lying.identity[: self.lying.count])), self.lying.count)


class Targets(unittest.TestCase):
    def setUp(self):
        self.mesh = sheet(40, 20.0, 1.0)
        self.keys = np.arange(len(self.mesh.faces), dtype=np.uint64)
        self.areas = self.mesh.face_areas()
        self.target = SurfaceSampler(self.mesh.positions, self.mesh.faces, self.keys, self.areas, 9)

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
        hand = DartBatch(self.areas, 40.0)
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
            self.assertLessEqual(starts[-1], len(hand.dart))

    def test_the_scattered_order_reaches_every_chunk(self):
        chunks = CHUNKS
        while chunks:
            self.assertEqual(len({turn * SCATTER % chunks for turn in range(chunks)}), chunks)
            chunks //= 2


class Turns(unittest.TestCase):
    def darts(self, count):
        rng = np.random.default_rng(3)
        position = rng.uniform(-90, 90, (count, 3)).astype(np.float32)
        spot = np.column_stack([position, np.zeros(count, np.float32)])
        return spot, np.column_stack([np.arange(count) % 7, rng.permutation(count)]).astype(np.int32)

    sequences = np.random.default_rng(2).integers(0, 2**63, 7, dtype=np.uint64)

    def order(self, starts, kept, darts, bits=(3, 3, 3)):
        words, where = turns(starts, kept, *darts, self.sequences, 0.5, bits, 8)
        words.sort()
        return where[words & np.uint64(255)], words

    def test_places_follow_the_sorted_words(self):
        starts, kept = np.array([0, 20, 45]), np.array([12, 20, 9])
        places, _ = self.order(starts, kept, self.darts(60))
        expected = np.concatenate([np.arange(s, s + k) for s, k in zip(starts, kept, strict=True)])
        self.assertEqual(sorted(places.tolist()), expected.tolist())

    def test_who_comes_first_does_not_hang_on_the_others(self):
        darts = self.darts(240)
        few, _ = self.order(np.array([0]), np.array([150]), darts)
        many, _ = self.order(np.array([0]), np.array([240]), darts)
        self.assertEqual([n for n in many.tolist() if n < 150], few.tolist())

    def test_blocks_settled_side_by_side_share_no_cells_and_are_no_neighbours(self):
        # Eight cells a block, sixteen a turn of this torus.
        bits = (4, 4, 4)
        darts = self.darts(240)
        places, words = self.order(np.array([0]), np.array([240]), darts, bits)
        block = np.floor(darts[0][places] * 0.5).astype(int) >> 3
        colour, task = words >> np.uint64(61), words >> np.uint64(46)
        self.assertEqual(len(np.unique(colour)), 8)
        for one in np.unique(colour):
            odd = block[colour == one] & 1
            self.assertTrue((odd == odd[0]).all())
        for one in np.unique(task):
            here = block[task == one] & 1
            self.assertTrue((here == here[0]).all())

    def test_blocks_and_colours_begin_where_the_sorted_words_say(self):
        for count in (0, 1, 240):
            _, words = self.order(np.array([0]), np.array([count]), self.darts(240), (4, 4, 4))
            begins, colours = tasks_of(words)
            task = [w >> 46 for w in words.tolist()]
            self.assertEqual(begins.tolist(), [k for k in range(count) if k == 0 or task[k] != task[k - 1]] + [count])
            for colour in range(8):
                own = [b for b in begins[:-1].tolist() if task[b] >> 15 == colour]
                self.assertEqual(begins[colours[colour] : colours[colour + 1]].tolist(), own)


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
