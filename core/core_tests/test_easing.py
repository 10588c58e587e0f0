"""Points eased apart on their triangles, holes among them filled, and the order they are put in."""

import unittest

import numpy as np
from scipy.spatial import cKDTree

from cenote_core.sampling.darts import SurfaceSampler
from cenote_core.sampling.gap_filling import RING, fill_gaps
from cenote_core.sampling.hash_grid import HashGrid
from cenote_core.sampling.neighbours import neighbours
from cenote_core.sampling.points import spaced_points
from cenote_core.sampling.progressive import asked, insertion_radii
from cenote_core.sampling.relaxation import SEEN, relaxed
from cenote_core.sampling.surface_walk import SurfacePoints, WalkSurface, walk

from .helpers import least_distance, sheet


def floor_of(mesh, areas=None):
    areas = mesh.face_areas() if areas is None else areas
    keys = np.arange(len(mesh.faces), dtype=np.uint64)
    return WalkSurface(SurfaceSampler(mesh.positions, mesh.faces, keys, areas, 1).frames, mesh.faces, areas)


def strewn(mesh, count, seed=3):
    """Points anywhere on a mesh."""
    rng = np.random.default_rng(seed)
    areas = mesh.face_areas()
    face = np.sort(rng.choice(len(mesh.faces), count, p=areas / areas.sum())).astype(np.int32)
    bary = rng.random((count, 2)).astype(np.float32)
    bary = np.where(bary.sum(axis=1, keepdims=True) > 1, 1 - bary, bary).astype(np.float32)
    return SurfacePoints(where(mesh, face, bary), face, bary, rng.integers(0, 2**63, count, dtype=np.uint64))


def where(mesh, face, bary):
    corner = mesh.positions[mesh.faces[face]].astype(np.float64)
    weights = np.column_stack([1 - bary.sum(axis=1), bary])
    return np.einsum("nk,nkc->nc", weights, corner).astype(np.float32)


def box_of(points):
    return np.array([points.min(axis=0), points.max(axis=0)], np.float64)


def gridded(at, reach):
    """Points in the order of a grid for lists of that reach, and the lists."""
    grid = HashGrid(at.position, reach / 2, box_of(at.position))
    return at.taken(grid.order), neighbours(grid, reach)


class Lists(unittest.TestCase):
    def check(self, points, reach):
        grid = HashGrid(points.astype(np.float32), reach / 2, box_of(points))
        lists = neighbours(grid, reach)
        tree = cKDTree(grid.position.astype(np.float64))
        for n in range(len(points)):
            found = lists.others[lists.starts[n] : lists.starts[n] + lists.counts[n]]
            self.assertEqual(len(set(found.tolist())), len(found))
            sure = set(tree.query_ball_point(grid.position[n], reach * (1 - 1e-5)))
            may = set(tree.query_ball_point(grid.position[n], reach * (1 + 1e-5)))
            self.assertTrue(sure <= set(found.tolist()) <= may)

    def test_against_brute_force(self):
        rng = np.random.default_rng(1)
        self.check(rng.random((900, 3)) * [9, 0.2, 7], 0.5)
        self.check(rng.random((900, 3)) * 3 - 40, 0.6)
        self.check(rng.random((300, 3)) * [90, 0, 0.1], 0.9)

    def test_crowds_get_room(self):
        """Far more neighbours than points a spacing apart could have."""
        self.check(np.random.default_rng(2).random((700, 3)), 0.7)

    def test_one_and_none(self):
        self.check(np.zeros((1, 3)), 1.0)
        self.assertEqual(len(neighbours(HashGrid(np.zeros((0, 3), np.float32), 1.0, np.zeros((2, 3))), 2.0).counts), 0)


class Walking(unittest.TestCase):
    def go(self, mesh, floor, face, bary, way):
        frame = floor.frames_at(np.array([face], np.int32))
        there, f, u, v = walk(
            0, face, float(bary[0]), float(bary[1]), *np.asarray(way, np.float32), frame,
            floor.frames, floor.faces, floor.fans, floor.fan,
        )  # fmt: skip
        np.testing.assert_array_equal(frame[0], floor.frames[f])
        return there, f, where(mesh, np.array([f]), np.array([[u, v]]))[0]

    def test_on_flat_ground_ways_are_straight_over_any_edges(self):
        mesh = sheet(12, 6.0)
        floor, at = floor_of(mesh), strewn(mesh, 200)
        rng = np.random.default_rng(5)
        gone = 0
        for n in range(len(at)):
            way = np.append(rng.normal(size=2), 0)[[0, 2, 1]] * 0.6
            there, f, came = self.go(mesh, floor, int(at.face[n]), at.bary[n], way)
            inside = (at.position[n] + way)[[0, 2]]
            over = bool((inside < 0).any() or (inside > 6).any())
            self.assertEqual(there, not over)
            np.testing.assert_allclose(came, at.position[n] + (way if there else 0), atol=1e-5)
            gone += there
        self.assertGreater(gone, 120)

    def test_over_a_hill_points_stay_on_the_surface(self):
        mesh = sheet(40, 20.0, 1.0)
        floor, at = floor_of(mesh), strewn(mesh, 100)
        for n in range(len(at)):
            there, f, came = self.go(mesh, floor, int(at.face[n]), at.bary[n], (0.9, 0.0, 0.5))
            if there:
                self.assertLess(abs(np.linalg.norm(came - at.position[n]) - np.hypot(0.9, 0.5)), 0.2)

    def test_not_over_a_sharp_crease_nor_onto_what_was_not_chosen(self):
        step = np.array([[0, 0, 0], [1, 0, 0], [0, 0, 1], [1, 0, 1], [1, 1, 0], [1, 1, 1]], np.float32)
        faces = np.array([[0, 2, 1], [1, 2, 3], [1, 3, 4], [4, 3, 5]], np.int32)
        keys = np.arange(4, dtype=np.uint64)
        areas = np.full(4, 0.5)
        for chosen in (areas, areas * [1, 1, 0, 0], areas * [1, 0, 0, 0]):
            floor = WalkSurface(SurfaceSampler(step, faces, keys, areas, 1).frames, faces, chosen)
            frame = floor.frames_at(np.array([0], np.int32))
            out = walk(
                0, 0, 0.3, 0.3, np.float32(1.5), np.float32(0), np.float32(0), frame,
                floor.frames, faces, floor.fans, floor.fan,
            )  # fmt: skip
            self.assertEqual(out, (False, 0, 0.3, 0.3))

    def test_rims_are_told_from_the_inside(self):
        mesh = sheet(10, 5.0)
        corner = mesh.positions[mesh.faces]
        outer = ((corner[:, :, [0, 2]] < 1e-6) | (corner[:, :, [0, 2]] > 5 - 1e-6)).any(axis=(1, 2))
        np.testing.assert_array_equal(floor_of(mesh).rim, outer)


class Easing(unittest.TestCase):
    def test_they_come_wider_apart_and_stay_on_their_faces(self):
        mesh, radius = sheet(60, 30.0, 1.0), 0.3
        at, near = gridded(strewn(mesh, 60_000), radius)
        at = at.taken(np.flatnonzero(asked(at.position, np.zeros(len(at), np.float32), at.identity, near, radius)))
        at, near = gridded(at, SEEN * radius)
        out = relaxed(at, near, floor_of(mesh), radius)
        np.testing.assert_array_equal(out.identity, at.identity)
        before, after = (np.quantile(cKDTree(p.position).query(p.position, k=2)[0][:, 1], 0.05) for p in (at, out))
        self.assertGreater(after, 1.12 * before)
        weights = np.column_stack([1 - out.bary.sum(axis=1), out.bary])
        self.assertTrue((weights >= -1e-6).all())
        np.testing.assert_allclose(where(mesh, out.face, out.bary), out.position, atol=2e-5)
        self.assertLess(np.linalg.norm(out.position - at.position, axis=1).max(), 0.35 * radius)

    def test_two_alone_push_each_other_evenly(self):
        mesh = sheet(4, 4.0)
        at = strewn(mesh, 2)
        face = np.array([13, 13], np.int32)
        bary = np.array([[0.3, 0.3], [0.36, 0.3]], np.float32)
        at = SurfacePoints(where(mesh, face, bary), face, bary, at.identity)
        before = at.position.copy()
        at, near = gridded(at, SEEN * 0.1)
        out = relaxed(at, near, floor_of(mesh), 0.1)
        np.testing.assert_allclose(out.position.mean(axis=0), before.mean(axis=0), atol=1e-5)
        self.assertGreater(least_distance(out.position), 0.1)
        np.testing.assert_array_equal(np.sort(at.position, axis=0), np.sort(before, axis=0))

    def test_none_stand_in_rows_along_a_border(self):
        """The outermost tenth of a spacing holds no more than points thrown at random one after the other would leave."""
        mesh = sheet(60, 30.0)
        keys = np.arange(len(mesh.faces), dtype=np.uint64)
        found = spaced_points(mesh.positions, mesh.faces, keys, mesh.face_areas(), 0.1, 1, True)
        flat = found.positions[:, [0, 2]]
        off = np.minimum(flat, 30 - flat).min(axis=1)
        outermost, usual = (off < 0.01).sum(), len(found) * 4 * 30 * 0.01 / 900
        self.assertLess(outermost, 2.6 * usual)
        self.assertLess((off < 1e-4).sum(), 0.1 * outermost)


class Holes(unittest.TestCase):
    def test_a_hole_cut_into_a_set_is_filled(self):
        mesh = sheet(60, 30.0, 0.5)
        spacing = 0.4
        keys = np.arange(len(mesh.faces), dtype=np.uint64)
        found = spaced_points(mesh.positions, mesh.faces, keys, mesh.face_areas(), spacing, 1, True)
        at = SurfacePoints(found.positions, found.face, found.bary, found.identity)
        at, near = gridded(at, (1 + RING) * spacing)
        flat = at.position[:, [0, 2]]
        rng = np.random.default_rng(6)
        removed = rng.choice(np.flatnonzero((flat > 1).all(axis=1) & (flat < 29).all(axis=1)), 60, replace=False)
        beside = cKDTree(at.position).query(at.position[removed], k=3)[1]
        staying = np.ones(len(at), bool)
        staying[beside] = False
        more = fill_gaps(at, near, staying, floor_of(mesh), spacing)
        together = np.concatenate([at.position[staying], more.position])
        self.assertGreaterEqual(least_distance(together), spacing * (1 - 1e-6))
        before, after = (cKDTree(p).query(at.position[removed])[0] for p in (at.position[staying], together))
        wide = before > 1.15 * spacing
        self.assertGreater(wide.sum(), 10)
        self.assertGreater((after[wide] < spacing).mean(), 0.95)
        np.testing.assert_allclose(where(mesh, more.face, more.bary), more.position, atol=2e-5)
        self.assertFalse(set(more.identity.tolist()) & set(at.identity.tolist()))


class Ranking(unittest.TestCase):
    def test_asked_at_once_is_asked_one_after_the_other(self):
        at = strewn(sheet(20, 10.0), 1500)
        at, near = gridded(at, 0.5)
        age = np.random.default_rng(7).integers(0, 40, len(at)).astype(np.float32)
        stays = asked(at.position, age, at.identity, near, 0.5)
        expected = np.zeros(len(at), bool)
        for n in sorted(range(len(at)), key=lambda k: (-age[k], -int(at.identity[k]))):
            off = ((at.position[expected] - at.position[n]) ** 2).sum(axis=1)
            expected[n] = not (off < np.float32(0.25)).any()
        np.testing.assert_array_equal(stays, expected)

    def test_a_gap_is_the_distance_to_those_before(self):
        at = strewn(sheet(20, 10.0, 0.5), 1200)
        spacing = 0.25
        at, near = gridded(at, 2 * spacing)
        age = np.random.default_rng(8).random(len(at)).astype(np.float32)
        gap = insertion_radii(at, age, near, spacing, box_of(at.position), 1000.0)
        order = np.argsort(-gap, kind="stable")[: (gap >= 0).sum()]
        self.assertGreater(len(order), 500)
        self.assertEqual(gap[order[0]], 1000.0**2)
        places = at.position[order].astype(np.float64)
        for n in range(1, len(order)):
            nearest = np.sqrt(((places[:n] - places[n]) ** 2).sum(axis=1).min())
            self.assertGreaterEqual(nearest, np.sqrt(gap[order[n]]) * (1 - 1e-5))
        left = cKDTree(places).query(at.position[gap < 0])[0]
        self.assertLess(left.max(), spacing)


if __name__ == "__main__":
    unittest.main()
