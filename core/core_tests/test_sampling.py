"""Spaced points: spacing, evenness of every beginning, stability, independence of threads."""

import unittest

import numba
import numpy as np
from scipy.spatial import cKDTree

from cenote_core.errors import TooHeavyError
from cenote_core.sampling.points import full_density, ladder, spaced_points

from .helpers import least_distance, sheet


def throw(spacing, seed=1, mesh=None, faces=None, even=False):
    mesh = mesh or sheet(60, 30.0, 1.0)
    areas = mesh.face_areas()
    if faces is not None:
        areas = np.where(faces, areas, 0.0)
    return mesh, spaced_points(
        mesh.positions, mesh.faces, np.arange(len(mesh.faces), dtype=np.uint64), areas, spacing, seed, even
    )


class Spacing(unittest.TestCase):
    def test_no_two_closer_than_the_spacing(self):
        for spacing in (0.13, 0.3, 1.1):
            _, found = throw(spacing)
            tree = cKDTree(found.positions.astype(np.float64))
            self.assertEqual(len(tree.query_pairs(spacing * (1 - 1e-9))), 0, spacing)

    def test_spacing_holds_across_upright_and_touching_surfaces(self):
        floor = sheet(10, 10.0)
        upright = floor.positions[:, [0, 2, 1]]
        positions = np.concatenate([floor.positions, upright])
        faces = np.concatenate([floor.faces, floor.faces + len(floor.positions)])
        areas = np.tile(floor.face_areas(), 2)
        found = spaced_points(positions, faces, np.arange(len(faces), dtype=np.uint64), areas, 0.25, 3)
        self.assertGreaterEqual(least_distance(found.positions), 0.25 * (1 - 1e-6))
        self.assertGreater((found.face >= len(floor.faces)).sum(), 300)

    def test_relative_radius_of_the_full_set_and_its_beginnings(self):
        mesh, found = throw(0.2)
        area = mesh.face_areas().sum()
        for share, least in ((1.0, 0.65), (0.5, 0.60), (0.4, 0.60), (0.3, 0.60), (0.25, 0.60), (0.125, 0.60)):
            part = found.positions[: int(len(found) * share)]
            relative = least_distance(part) / np.sqrt(2 * area / (np.sqrt(3) * len(part)))
            self.assertGreaterEqual(relative, least, share)

    def test_every_beginning_keeps_as_far_apart_as_its_number_allows(self):
        """At every tenth, for spacings on a level of the ladder, just below one, and between two."""
        for spacing in (0.25, 0.24, 0.21, 0.18):
            mesh, found = throw(spacing)
            area = mesh.face_areas().sum()
            for share in np.arange(0.1, 1.01, 0.1):
                part = found.positions[: int(len(found) * share)]
                relative = least_distance(part) / np.sqrt(2 * area / (np.sqrt(3) * len(part)))
                self.assertGreaterEqual(relative, 0.60, f"{spacing} {share:.1f}")

    def test_gaps_are_rare_and_small(self):
        mesh, found = throw(0.2)
        rng = np.random.default_rng(5)
        face = rng.choice(len(mesh.faces), 40000, p=mesh.face_areas() / mesh.face_areas().sum())
        u, v = np.sqrt(rng.random(40000)), rng.random(40000)
        corner = mesh.positions[mesh.faces[face]]
        places = (
            corner[:, 0] * (1 - u)[:, None] + corner[:, 1] * (u * (1 - v))[:, None] + corner[:, 2] * (u * v)[:, None]
        )
        distance = cKDTree(found.positions).query(places)[0] / 0.2
        self.assertLess((distance > 1).mean(), 0.015)
        self.assertLess(distance.max(), 1.5)

    def test_points_lie_on_their_faces(self):
        mesh, found = throw(0.4)
        corner = mesh.positions[mesh.faces[found.face]].astype(np.float64)
        w = np.column_stack([1 - found.bary.sum(axis=1), found.bary])
        self.assertTrue((w >= -1e-6).all())
        np.testing.assert_allclose(np.einsum("nk,nkc->nc", w, corner), found.positions, atol=2e-5)


class Even(unittest.TestCase):
    """Eased apart: better at every density, and as reliable."""

    def test_as_many_lie_a_tenth_wider_apart_and_so_do_their_beginnings(self):
        for spacing in (0.25, 0.24, 0.21, 0.18):
            mesh, found = throw(spacing, even=True)
            area = mesh.face_areas().sum()
            self.assertGreaterEqual(least_distance(found.positions), spacing * (1 - 1e-6))
            for share, least in ((1.0, 0.765), (0.9, 0.74), (0.5, 0.62), (0.25, 0.60), (0.125, 0.60)):
                part = found.positions[: int(len(found) * share)]
                relative = least_distance(part) / np.sqrt(2 * area / (np.sqrt(3) * len(part)))
                self.assertGreaterEqual(relative, least, f"{spacing} {share}")
            for share in np.arange(0.1, 1.01, 0.1):
                part = found.positions[: int(len(found) * share)]
                relative = least_distance(part) / np.sqrt(2 * area / (np.sqrt(3) * len(part)))
                self.assertGreaterEqual(relative, 0.60, f"{spacing} {share:.1f}")

    def test_same_bytes_with_one_and_two_threads(self):
        before = numba.get_num_threads()
        try:
            numba.set_num_threads(1)
            _, one = throw(0.15, even=True)
            numba.set_num_threads(min(2, numba.config.NUMBA_NUM_THREADS))
            _, two = throw(0.15, even=True)
        finally:
            numba.set_num_threads(before)
        for name in ("positions", "face", "bary", "identity", "rank"):
            self.assertEqual(getattr(one, name).tobytes(), getattr(two, name).tobytes(), name)

    def test_at_another_spacing_they_lie_near_their_places(self):
        """They are the same points, eased apart by another measure: hand work finds them by name and by place."""
        _, fine = throw(0.25, even=True)
        _, coarse = throw(0.35, even=True)
        where = dict(zip(fine.identity.tolist(), fine.positions, strict=True))
        moved = [
            np.linalg.norm(where[identity] - place)
            for identity, place in zip(coarse.identity.tolist(), coarse.positions, strict=True)
            if identity in where
        ]
        self.assertGreater(len(moved) / len(coarse), 0.5)
        self.assertLess(np.mean(moved), 0.15 * 0.35)
        self.assertLess(np.max(moved), 0.5 * 0.35)

    def test_density_asked_for_is_met_and_only_removes(self):
        mesh, found = throw(0.2, even=True)
        area = mesh.face_areas().sum()
        for density in (1.0, 5.0, 12.0):
            self.assertAlmostEqual((found.rank < density).sum(), density * area, delta=0.51)
        self.assertTrue((np.diff(found.rank) > 0).all())
        self.assertAlmostEqual(len(found) / area / full_density(0.2, True), 1.0, delta=0.03)
        self.assertEqual(len(set(found.identity.tolist())), len(found))

    def test_tiny_surfaces_and_single_points(self):
        for size, spacing in ((3.0, 50.0), (0.01, 1.0), (1.0, 0.9)):
            _, found = throw(spacing, mesh=sheet(2, size), even=True)
            self.assertLessEqual(len(found), 4)


class Stability(unittest.TestCase):
    def test_same_bytes_with_one_and_two_threads(self):
        before = numba.get_num_threads()
        try:
            numba.set_num_threads(1)
            _, one = throw(0.2)
            numba.set_num_threads(min(2, numba.config.NUMBA_NUM_THREADS))
            _, two = throw(0.2)
        finally:
            numba.set_num_threads(before)
        for name in ("positions", "face", "bary", "identity", "rank"):
            self.assertEqual(getattr(one, name).tobytes(), getattr(two, name).tobytes(), name)

    def test_lower_density_only_removes(self):
        _, found = throw(0.25)
        many = set(found.identity[found.rank < 6.0].tolist())
        few = set(found.identity[found.rank < 2.5].tolist())
        self.assertTrue(few < many)
        self.assertEqual(len(set(found.identity.tolist())), len(found))

    def test_wider_spacing_keeps_the_places_of_coarser_levels(self):
        _, fine = throw(0.25)
        _, coarse = throw(0.35)
        shared = set(fine.identity.tolist()) & set(coarse.identity.tolist())
        self.assertGreater(len(shared) / len(coarse), 0.5)
        where = {int(i): p for i, p in zip(fine.identity, fine.positions, strict=True)}
        for identity, place in zip(coarse.identity, coarse.positions, strict=True):
            if int(identity) in shared:
                np.testing.assert_array_equal(where[int(identity)], place)

    def test_density_asked_for_is_met_to_a_point(self):
        for spacing in (2.0, 0.2, 0.145):
            mesh, found = throw(spacing)
            area = mesh.face_areas().sum()
            for share in (0.1, 0.25, 0.4, 0.6, 0.8, 0.95):
                density = share * len(found) / area
                self.assertAlmostEqual(
                    (found.rank < density).sum(), density * area, delta=0.51, msg=f"{spacing} {share}"
                )
            self.assertAlmostEqual(len(found) / area / full_density(spacing), 1.0, delta=0.2 if spacing > 1 else 0.02)

    def test_a_surface_more_moves_no_point_far_from_it(self):
        near, far = sheet(20, 10.0), sheet(20, 10.0)
        positions = np.concatenate([near.positions, far.positions + np.array([40.0, 0.0, 0.0], np.float32)])
        faces = np.concatenate([near.faces, far.faces + len(near.positions)])
        areas = np.concatenate([near.face_areas(), far.face_areas()])
        keys = np.arange(len(faces), dtype=np.uint64)
        both = spaced_points(positions, faces, keys, areas, 0.3, 1)
        alone = spaced_points(near.positions, near.faces, keys[: len(near.faces)], near.face_areas(), 0.3, 1)
        shared = set(both.identity.tolist()) & set(alone.identity.tolist())
        self.assertGreater(len(shared) / len(alone), 0.8)

    def test_density_is_even_over_large_and_small_triangles(self):
        # Half of the field is one pair of triangles, the other half eight hundred.
        fine, coarse = sheet(20, 12.0), sheet(1, 12.0)
        positions = np.concatenate([fine.positions, coarse.positions + np.array([12.0, 0.0, 0.0], np.float32)])
        faces = np.concatenate([fine.faces, coarse.faces + len(fine.positions)])
        areas = np.concatenate([fine.face_areas(), coarse.face_areas()])
        found = spaced_points(positions, faces, np.arange(len(faces), dtype=np.uint64), areas, 0.2, 7)
        for density in (1.0, 4.0, full_density(0.2)):
            standing = found.face[found.rank < density]
            self.assertAlmostEqual((standing < len(fine.faces)).mean(), 0.5, delta=0.02)

    def test_other_seed_other_places(self):
        _, a = throw(0.5, seed=1)
        _, b = throw(0.5, seed=2)
        self.assertFalse(set(a.identity.tolist()) & set(b.identity.tolist()))


class Limits(unittest.TestCase):
    def test_absurd_spacing_is_refused_with_a_sentence(self):
        with self.assertRaisesRegex(TooHeavyError, "Choose a wider spacing"):
            throw(0.005, mesh=sheet(4, 300.0))

    def test_no_area_gives_no_points(self):
        mesh = sheet(3, 3.0)
        _, found = throw(0.5, mesh=mesh, faces=np.zeros(len(mesh.faces), bool))
        self.assertEqual(len(found), 0)
        none = spaced_points(mesh.positions, mesh.faces[:0], np.zeros(0, np.uint64), np.zeros(0), 0.5, 1)
        self.assertEqual((len(none), none.positions.shape), (0, (0, 3)))

    def test_spacing_larger_than_the_surface(self):
        _, found = throw(50.0, mesh=sheet(3, 3.0))
        self.assertLessEqual(len(found), 1)

    def test_ladder_ends_at_the_spacing(self):
        steps = ladder(0.3)
        self.assertEqual(steps[-1], 0.3)
        self.assertTrue(all(a > b for a, b in zip(steps, steps[1:], strict=False)))
