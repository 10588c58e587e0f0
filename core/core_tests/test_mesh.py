"""Meshes, unwraps, texels, shapes, hashing and the cache: closed forms and properties."""

import os
import tempfile
import threading
import time
import unittest
from pathlib import Path
from unittest import mock

import numpy as np

from cenote_core.drifts.instancing import saved
from cenote_core.graph.store import Cache
from cenote_core.hashing import content_hash, text_seed, uniform
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.kit.shapes import bar, block, card_strip, post, sheet, sphere, tube
from cenote_core.measures.slope import SlopeRule
from cenote_core.mesh.mesh import cleaned, euler_matrix, make_mesh, merge, points_on, transformed, with_box_uv
from cenote_core.mesh.texels import sample_map, texel_table
from cenote_core.mesh.unwrap import PACKED_ONLY_FROM, unwrap
from cenote_core.scene.scene import Scene

from .helpers import CACHE, drift, gate, small_site


def volume(mesh):
    """Signed volume by the divergence theorem; positive when faces look outward."""
    a, b, c = (mesh.positions[mesh.faces[:, k]].astype(float) for k in range(3))
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)


class Shapes(unittest.TestCase):
    def test_block_is_closed_outward_and_of_its_size(self):
        mesh = block((2.0, 1.0, 0.5), (3, 4, 5), bevel=0.01)
        low, high = mesh.bounds()
        np.testing.assert_allclose([low, high], [[2, 4, 4.75], [4, 5, 5.25]], atol=1e-6)
        centred = transformed(mesh, np.array([[1, 0, 0, -3], [0, 1, 0, -4.5], [0, 0, 1, -5], [0, 0, 0, 1.0]]))
        self.assertAlmostEqual(volume(centred), 1.0, delta=0.001)
        self.assertLess(volume(centred), 1.0)
        edges = np.sort(np.concatenate([mesh.faces[:, [0, 1]], mesh.faces[:, [1, 2]], mesh.faces[:, [2, 0]]]), axis=1)
        self.assertTrue((np.unique(edges, axis=0, return_counts=True)[1] == 2).all())

    def test_bevel_larger_than_the_block_is_held_back(self):
        mesh = block((0.1, 0.1, 0.1), bevel=5.0)
        self.assertTrue(np.isfinite(mesh.positions).all())
        self.assertGreater(mesh.face_areas().sum(), 0)

    def test_post_and_tube(self):
        mesh = post(0.5, 2.0, (0, 0, 0), sides=64)
        self.assertAlmostEqual(volume(mesh), np.pi * 0.25 * 2, delta=0.01)
        cone = tube(np.array([[0, 0, 0], [0, 3.0, 0]]), np.array([1.0, 1e-6]), 64)
        side = np.pi * np.sqrt(1 + 9)
        self.assertAlmostEqual(cone.face_areas().sum(), side, delta=0.05)

    def test_bar_reaches_from_end_to_end(self):
        start, end = np.array([1.0, 2, 3]), np.array([4.0, 6, 3])
        low, high = bar(start, end, 0.02, 0.02).bounds()
        np.testing.assert_allclose(low, np.minimum(start, end), atol=0.02)
        np.testing.assert_allclose(high, np.maximum(start, end), atol=0.02)

    def test_sphere_converges_to_its_area(self):
        points, faces = sphere(4)
        self.assertAlmostEqual(make_mesh(points, faces).face_areas().sum(), 4 * np.pi, delta=0.05)
        self.assertEqual(len(faces), 20 * 4**4)

    def test_sheet_with_thickness_has_two_sides(self):
        profile = np.array([[0.0, 0.0], [1.0, 0.0]])
        normals = sheet(profile, (0, 2), thick=0.01).face_normals()
        self.assertTrue((normals[:, 1] > 0.99).any() and (normals[:, 1] < -0.99).any())

    def test_card_follows_its_spine(self):
        spine = np.column_stack([np.zeros(5), np.linspace(0, 1, 5), np.zeros(5)])
        card = card_strip(spine, np.array([1.0, 0, 0]), np.full(5, 0.4), 0.0, "leaf")
        self.assertAlmostEqual(card.face_areas().sum(), 0.4, delta=1e-5)
        self.assertEqual((card.uv.min(), card.uv.max()), (0.0, 1.0))


class Meshes(unittest.TestCase):
    def test_transform_keeps_outward_faces_under_mirroring(self):
        box = block((1, 1, 1))
        mirrored = transformed(box, np.diag([-2.0, 1, 1, 1]))
        self.assertAlmostEqual(volume(mirrored), 2 * volume(box), delta=1e-4)
        np.testing.assert_allclose(np.linalg.norm(mirrored.normals, axis=1), 1, atol=1e-5)

    def test_euler_turns_counter_clockwise_from_above(self):
        np.testing.assert_allclose(euler_matrix(90) @ [0, 0, 1], [1, 0, 0], atol=1e-12)
        turned = euler_matrix(33, 21, -12)
        np.testing.assert_allclose(turned @ turned.T, np.eye(3), atol=1e-12)
        self.assertAlmostEqual(np.linalg.det(turned), 1.0)

    def test_merge_joins_slots_of_one_name(self):
        both = merge([block((1, 1, 1), slot="a"), block((1, 1, 1), slot="b"), block((1, 1, 1), slot="a")])
        self.assertEqual(both.slot_names, ("a", "b"))
        one = block((1, 1, 1)).triangle_count
        self.assertEqual(np.bincount(both.slots).tolist(), [2 * one, one])
        self.assertLess(both.faces.max(), len(both.positions))

    def test_box_coordinates_are_metres(self):
        mesh = with_box_uv(block((3, 2, 1), bevel=0.001))
        p, t = mesh.positions[mesh.faces].astype(float), mesh.uv[mesh.faces].astype(float)
        e1, e2 = t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]
        flat = np.abs(e1[:, 0] * e2[:, 1] - e1[:, 1] * e2[:, 0]) / 2
        large = mesh.face_areas() > 0.1
        np.testing.assert_allclose(flat[large], mesh.face_areas()[large], rtol=1e-3)
        self.assertEqual(p.shape, (mesh.triangle_count, 3, 3))

    def test_cleaning_leaves_sound_meshes_alone(self):
        mesh = block((1, 1, 1))
        self.assertEqual(cleaned(mesh).triangle_count, mesh.triangle_count)
        spoiled = make_mesh(
            np.vstack([mesh.positions, [[np.nan] * 3]]),
            np.vstack([mesh.faces, [[0, 0, 1], [0, 1, 24]], mesh.faces[:2]]),
        )
        self.assertEqual(cleaned(spoiled).triangle_count, mesh.triangle_count)

    def test_unwrap_keeps_the_surface_both_ways(self):
        points, faces = sphere(4)
        lumpy = make_mesh(points, faces)
        self.assertGreater(lumpy.triangle_count, PACKED_ONLY_FROM)
        for mesh in (block((2, 1, 0.5)), lumpy):
            unwrapped = unwrap(mesh)
            self.assertEqual(unwrapped.triangle_count, mesh.triangle_count)
            np.testing.assert_allclose(
                np.sort(unwrapped.face_areas()), np.sort(mesh.face_areas()), rtol=1e-4, atol=1e-9
            )
            self.assertTrue(((unwrapped.uv2 >= 0) & (unwrapped.uv2 <= 1)).all())

    def test_texels_lie_on_the_surface_and_share_its_area(self):
        points, faces = sphere(3)
        mesh = unwrap(make_mesh(points, faces))
        table = texel_table(mesh, 256)
        self.assertAlmostEqual(float(table.points.areas.sum()), mesh.face_areas().sum(), delta=0.02)
        radius = np.linalg.norm(table.points.positions, axis=1)
        self.assertTrue(((radius > 0.97) & (radius <= 1.0001)).all())
        heights = table.spread(table.points.positions[:, 1])
        back = sample_map(heights, table.points.uv2)
        self.assertLess(np.abs(back - table.points.positions[:, 1]).mean(), 0.01)

    def test_points_on_corners_and_middles(self):
        mesh = make_mesh(np.array([[0, 0, 0], [3, 0, 0], [0, 0, 3.0]]), np.array([[0, 1, 2]]))
        found = points_on(mesh, np.zeros(3, int), np.array([[0, 0], [1, 0], [1 / 3, 1 / 3]], np.float32))
        np.testing.assert_allclose(found.positions, [[0, 0, 0], [3, 0, 0], [1, 0, 1]], atol=1e-6)


class Hashes(unittest.TestCase):
    def test_uniform_is_uniform_and_channels_are_independent(self):
        identities = np.arange(100_000, dtype=np.uint64)
        a, b = uniform(identities, 1), uniform(identities, 2)
        self.assertTrue(((a >= 0) & (a < 1)).all())
        counts = np.histogram(a, 20, (0, 1))[0]
        self.assertLess(((counts - 5000) ** 2 / 5000).sum(), 45)  # chi squared, 19 degrees of freedom
        self.assertLess(abs(np.corrcoef(a, b)[0, 1]), 0.01)

    def test_content_hash_sees_values_shapes_and_types(self):
        a = np.arange(6, dtype=np.float32)
        different = {
            content_hash(a),
            content_hash(a.reshape(2, 3)),
            content_hash(a.astype(np.float64)),
            content_hash(a + 1),
        }
        self.assertEqual(len(different), 4)
        self.assertEqual(content_hash({"b": 1, "a": 2}), content_hash({"a": 2, "b": 1}))
        self.assertNotEqual(text_seed("drift-1"), text_seed("drift-2"))


class Caching(unittest.TestCase):
    def test_made_once_even_when_many_ask_at_once(self):
        cache, made = Cache(), []

        def slow():
            made.append(1)
            time.sleep(0.05)
            return 7

        found = []
        threads = [threading.Thread(target=lambda: found.append(cache.get("k", slow))) for _ in range(8)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual((found, len(made)), ([7] * 8, 1))

    def test_failure_is_not_kept(self):
        cache = Cache()
        with self.assertRaises(ZeroDivisionError):
            cache.get("k", lambda: 1 // 0)
        self.assertEqual(cache.get("k", lambda: 3), 3)

    def test_on_disk_survives_and_a_damaged_file_is_made_anew(self):
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            value = np.arange(10)
            Cache(folder).get("abcd", lambda: value, on_disk=True)
            again = Cache(folder).get("abcd", lambda: None, on_disk=True)
            np.testing.assert_array_equal(again, value)
            file = next(folder.rglob("*.safetensors"))
            file.write_bytes(b"half a file")
            self.assertEqual(Cache(folder).get("abcd", lambda: 5, on_disk=True), 5)

    def test_a_folder_that_grew_too_large_loses_what_was_not_used_for_longest(self):
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            before = Cache(folder)
            for k in range(10):
                before.get(f"{k:04d}", lambda k=k: np.full(1000, k), on_disk=True)
                os.utime(folder / "00" / f"{k:04d}.safetensors", (1000 + k, 1000 + k))
            Cache(folder).get("0002", lambda: None, on_disk=True)  # used today
            Cache(folder, disk_bytes=50_000).get("0100", lambda: np.zeros(1000), on_disk=True)
            left = {path.stem for path in folder.glob("*/*.safetensors")}
            self.assertEqual(left, {"0002", "0100", "0007", "0008", "0009"})
            self.assertEqual(int(Cache(folder).get("0009", lambda: np.zeros(1), on_disk=True)[0]), 9)

    def test_a_drift_kept_on_disk_is_not_made_again(self):
        with tempfile.TemporaryDirectory() as name:
            site = small_site()
            site.put("g", drift(density=4, rules=[SlopeRule(gate=gate(0, 0, 30, 40))]))
            plan, folder = site.drifts["g"], Path(name)
            first = saved(Scene(site, BuiltinKit(CACHE), Cache(folder)), "g", plan)
            with mock.patch("cenote_core.drifts.instancing.standing", side_effect=AssertionError("made again")):
                again = saved(Scene(site, BuiltinKit(CACHE), Cache(folder)), "g", plan)
                changed = plan.model_copy(update={"density": 3})
                with self.assertRaisesRegex(AssertionError, "made again"):
                    saved(Scene(site, BuiltinKit(CACHE), Cache(folder)), "g", changed)
            np.testing.assert_array_equal(first.identity, again.identity)
            np.testing.assert_array_equal(first.position, again.position)

    def test_memory_is_bounded_and_the_oldest_goes_first(self):
        cache = Cache(memory_bytes=3000)
        for key in "abcd":
            cache.get(key, lambda: np.zeros(1000, np.uint8))
        made = []
        cache.get("d", lambda: made.append("d"))
        cache.get("a", lambda: made.append("a"))
        self.assertEqual(made, ["a"])
