"""How plants differ: no twins beside each other, weights kept, axes and turns as closed forms say; headroom by rays."""

import unittest

import numba
import numpy as np
from scipy.spatial import cKDTree

from cenote_core.drifts.variety import leaning, rotation, unlike_neighbours
from cenote_core.hashing import uniform
from cenote_core.mesh.mesh import face_areas, points_on
from cenote_core.mesh.rays import RayScene

from .helpers import sheet


def field(count=4000, size=30.0, seed=1):
    rng = np.random.default_rng(seed)
    flat = rng.uniform(0, size, (count, 2))
    identity = rng.integers(0, 2**63, count, dtype=np.uint64)
    return np.column_stack([flat[:, 0], np.zeros(count), flat[:, 1]]).astype(np.float32), identity


def twins_of(positions, looks, reach):
    """Pairs within reach that are of one asset in nearly the same turn and size, by brute force."""
    asset, turn, size = looks
    pairs = cKDTree(positions).query_pairs(reach, output_type="ndarray")
    a, b = pairs.T
    apart = np.abs(turn[a] - turn[b])
    alike = (asset[a] == asset[b]) & (np.minimum(apart, 1 - apart) * 360 < 20) & (np.abs(size[a] - size[b]) < 0.1)
    return alike.sum() / len(positions)


class Unlike(unittest.TestCase):
    def test_twins_are_rare_where_chance_would_make_many(self):
        positions, identity = field()
        looks = unlike_neighbours(positions, identity, np.ones(4), 1.5)
        chance = (identity % np.uint64(4)).astype(int), uniform(identity, 3), uniform(identity, 4)
        by_chance = twins_of(positions, chance, 1.5)
        self.assertGreater(by_chance, 0.05)
        self.assertLess(twins_of(positions, looks, 1.5), 0.05 * by_chance)

    def test_one_asset_alone_still_differs_by_turn_and_size(self):
        positions, identity = field(1500)
        looks = unlike_neighbours(positions, identity, np.ones(1), 1.5)
        self.assertLess(twins_of(positions, looks, 1.5), 0.02)

    def test_weights_are_kept(self):
        positions, identity = field(8000, 60.0)
        for weights in ([6.0, 2.0, 1.0], [1.0, 1.0], [5.0, 0.0, 5.0]):
            asset, _, _ = unlike_neighbours(positions, identity, np.array(weights), 1.0)
            shares = np.bincount(asset, minlength=len(weights)) / len(asset)
            np.testing.assert_allclose(shares, np.array(weights) / sum(weights), atol=0.025)

    def test_same_bytes_with_one_and_two_threads(self):
        positions, identity = field()
        before = numba.get_num_threads()
        try:
            found = []
            for threads in (1, min(2, numba.config.NUMBA_NUM_THREADS)):
                numba.set_num_threads(threads)
                found.append(unlike_neighbours(positions, identity, np.array([1.0, 2.0]), 1.2))
        finally:
            numba.set_num_threads(before)
        for one, two in zip(*found, strict=True):
            self.assertEqual(one.tobytes(), two.tobytes())

    def test_what_lies_far_away_changes_nothing(self):
        positions, identity = field(1000)
        far = positions[:200] + np.array([500, 0, -300], np.float32)
        alone = unlike_neighbours(positions, identity, np.ones(3), 1.0)
        company = unlike_neighbours(
            np.concatenate([positions, far]), np.concatenate([identity, ~identity[:200]]), np.ones(3), 1.0
        )
        for one, many in zip(alone, company, strict=True):
            np.testing.assert_array_equal(many[:1000], one)

    def test_nothing_and_a_single_place(self):
        for count in (0, 1):
            positions, identity = field(count)
            asset, turn, size = unlike_neighbours(positions, identity, np.ones(2), 1.0)
            self.assertEqual((len(asset), len(turn), len(size)), (count, count, count))


class Axes(unittest.TestCase):
    def setUp(self):
        rng = np.random.default_rng(6)
        self.identity = rng.integers(0, 2**63, 6000, dtype=np.uint64)
        normals = rng.normal(size=(6000, 3))
        normals[:, 1] = np.abs(normals[:, 1])
        self.normals = normals / np.linalg.norm(normals, axis=1, keepdims=True)

    def test_upright_and_following(self):
        upright = leaning(self.normals, 0.0, 0.0, self.identity)
        np.testing.assert_allclose(upright, np.broadcast_to([0, 1, 0], upright.shape), atol=1e-12)
        np.testing.assert_allclose(leaning(self.normals, 1.0, 0.0, self.identity), self.normals, atol=1e-12)
        half = self.normals * 0.5 + [0, 0.5, 0]
        half /= np.linalg.norm(half, axis=1, keepdims=True)
        np.testing.assert_allclose(leaning(self.normals, 0.5, 0.0, self.identity), half, atol=1e-12)

    def test_lean_is_spread_evenly_over_a_disc_of_its_angle(self):
        up = leaning(self.normals, 0.0, 24.0, self.identity)
        np.testing.assert_allclose(np.linalg.norm(up, axis=1), 1.0, atol=1e-12)
        angle = np.degrees(np.arccos(np.clip(up[:, 1], -1, 1)))
        self.assertLessEqual(angle.max(), 24.0 + 1e-9)
        # An angle of 24° · √u has a mean of ⅔ of 24° and a median of 24° / √2.
        self.assertAlmostEqual(angle.mean(), 16.0, delta=0.3)
        self.assertAlmostEqual(np.median(angle), 24.0 / np.sqrt(2), delta=0.4)
        self.assertLess(np.abs(up[:, [0, 2]].mean(axis=0)).max(), 0.01)

    def test_lean_is_about_the_surface_where_it_is_followed(self):
        up = leaning(self.normals, 1.0, 10.0, self.identity)
        angle = np.degrees(np.arccos(np.clip((up * self.normals).sum(axis=1), -1, 1)))
        self.assertLessEqual(angle.max(), 10.0 + 1e-6)
        self.assertGreater(angle.mean(), 6.0)

    def test_rotations_bring_the_axis_up_and_turn_about_it(self):
        turn = uniform(self.identity, 3) * 2 * np.pi
        x, y, z, w = rotation(self.normals, turn).T
        np.testing.assert_allclose(x * x + y * y + z * z + w * w, 1.0, atol=1e-12)
        axis = np.column_stack([2 * (x * y - z * w), 1 - 2 * (x * x + z * z), 2 * (y * z + x * w)])
        np.testing.assert_allclose(axis, self.normals, atol=1e-9)
        upright = np.broadcast_to([0.0, 1.0, 0.0], self.normals.shape)
        q = rotation(upright, turn)
        np.testing.assert_allclose(
            q, np.column_stack([0 * turn, np.sin(turn / 2), 0 * turn, np.cos(turn / 2)]), atol=1e-12
        )

    def test_an_axis_straight_down_has_a_rotation_too(self):
        q = rotation(np.array([[0.0, -1.0, 0.0]]), np.array([0.3]))
        self.assertTrue(np.isfinite(q).all())
        x, y, z, w = q[0]
        np.testing.assert_allclose(
            [2 * (x * y - z * w), 1 - 2 * (x * x + z * z), 2 * (y * z + x * w)], [0, -1, 0], atol=1e-9
        )


def box(low, high):
    """Closed box, faces outward: (8, 3), (12, 3)."""
    corners = np.array([[(low, high)[k >> a & 1][a] for a in range(3)] for k in range(8)], np.float32)
    quads = [(0, 2, 3, 1), (4, 5, 7, 6), (0, 1, 5, 4), (2, 6, 7, 3), (0, 4, 6, 2), (1, 3, 7, 5)]
    return corners, np.array([t for a, b, c, d in quads for t in ((a, b, c), (a, c, d))], np.int32)


class Headroom(unittest.TestCase):
    def setUp(self):
        ground, (slab, slab_faces), (block, block_faces) = (
            sheet(20, 40.0), box((-4, 1.5, -4), (4, 1.7, 4)), box((10, -1, -3), (16, 3, 3))
        )  # fmt: skip
        middle = ground.positions.mean(axis=0) * [1, 0, 1]
        positions = np.concatenate([ground.positions - middle.astype(np.float32), slab, block])
        first, second = len(ground.positions), len(ground.positions) + 8
        self.rays = RayScene(positions, np.concatenate([ground.faces, slab_faces + first, block_faces + second]))
        rng = np.random.default_rng(2)
        self.points = np.column_stack([rng.uniform(-18, 18, 3000), np.zeros(3000), rng.uniform(-18, 18, 3000)])
        inside = lambda low, high: ((self.points[:, [0, 2]] > low) & (self.points[:, [0, 2]] < high)).all(axis=1)  # noqa: E731
        self.under, self.within = inside((-4, -4), (4, 4)), inside((10, -3), (16, 3))

    def test_low_roofs_stop_what_is_taller(self):
        for headroom, passes in ((1.0, True), (1.4, True), (1.6, False), (9.0, False)):
            room = self.rays.room_above(self.points.astype(np.float32), headroom)
            self.assertTrue(room[~self.under & ~self.within].all())
            self.assertEqual(room[self.under].mean(), float(passes), headroom)

    def test_nothing_stands_inside_something_solid(self):
        room = self.rays.room_above(self.points.astype(np.float32), 0.1)
        self.assertEqual(room[self.within].sum(), 0)
        self.assertTrue(room[~self.within].all())


class OnFaces(unittest.TestCase):
    def test_points_blend_their_corners(self):
        mesh = sheet(8, 4.0, 0.5)
        rng = np.random.default_rng(9)
        face = rng.integers(0, len(mesh.faces), 500)
        u, v = np.sqrt(rng.random(500)), rng.random(500)
        bary = np.column_stack([u * (1 - v), u * v])
        found = points_on(mesh, face, bary)
        weights = np.column_stack([1 - bary.sum(axis=1), bary])
        expected = np.einsum("nk,nkc->nc", weights, mesh.positions[mesh.faces[face]].astype(float))
        np.testing.assert_allclose(found.positions, expected, atol=1e-5)
        normal = np.einsum("nk,nkc->nc", weights, mesh.normals[mesh.faces[face]].astype(float))
        normal /= np.linalg.norm(normal, axis=1, keepdims=True)
        np.testing.assert_allclose(found.normals, normal, atol=1e-5)

    def test_areas_of_known_triangles(self):
        positions = np.array([(0, 0, 0), (3, 0, 0), (0, 0, 4), (0, 2, 0), (3, 0, 0)], np.float32)
        faces = np.array([(0, 1, 2), (0, 1, 3), (1, 4, 2)], np.int32)
        np.testing.assert_allclose(face_areas(positions, faces), [6.0, 3.0, 0.0])
        self.assertEqual(len(face_areas(positions, np.zeros((0, 3), np.int32))), 0)
