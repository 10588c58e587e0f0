"""The cache and its keys: what is held counts in full, what fails leaves nothing behind, what cannot be hashed says so."""

import threading
import unittest

import numpy as np

from cenote_core.drifts.instancing import build_instances
from cenote_core.graph.store import Cache
from cenote_core.hashing import content_hash
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.mesh.rays import BYTES_A_TRIANGLE, RayScene
from cenote_core.scene.scene import Scene

from .helpers import CACHE, drift, sheet, small_site


class Sizes(unittest.TestCase):
    def test_rays_count_with_their_triangles_and_tree(self):
        mesh = sheet(50, 10.0)
        self.assertGreaterEqual(RayScene(mesh.positions, mesh.faces).nbytes, BYTES_A_TRIANGLE * len(mesh.faces))

    def test_a_piece_moved_fifty_times_leaves_no_fifty_scenes(self):
        site = small_site()
        one = len(Scene(site, BuiltinKit(CACHE), Cache()).mesh("wall").faces) * BYTES_A_TRIANGLE
        cache = Cache(memory_bytes=40 * one)
        for step in range(50):
            wall = site.pieces["wall"].model_copy(update={"position": (0.01 * step, 0, -2)})
            scene = Scene(site.with_item("wall", wall), BuiltinKit(CACHE), cache)
            scene.standing()
        held = [value for value, _ in cache._values.values() if isinstance(value, RayScene)]
        self.assertLessEqual(sum(scene.nbytes for scene in held), cache.memory_bytes)
        self.assertLess(len(held), 50)


class Making(unittest.TestCase):
    def test_what_fails_can_be_asked_for_again_and_leaves_no_lock(self):
        cache = Cache()

        def fail():
            raise ValueError("not today")

        with self.assertRaises(ValueError):
            cache.get("k", fail)
        self.assertEqual(cache._making, {})
        self.assertEqual(cache.get("k", lambda: 3), 3)

    def test_two_askers_make_it_once(self):
        cache, made, gate = Cache(), [], threading.Event()

        def make():
            gate.wait(5)
            made.append(1)
            return 7

        found = []
        askers = [threading.Thread(target=lambda: found.append(cache.get("k", make))) for _ in range(4)]
        for context in askers:
            context.start()
        gate.set()
        for context in askers:
            context.join(5)
        self.assertEqual((found, made), ([7] * 4, [1]))


class Hashes(unittest.TestCase):
    def test_what_would_hash_as_shortened_text_or_an_address_is_refused(self):
        for part in ([np.zeros(3000)], object(), {"a": Cache()}):
            with self.assertRaisesRegex(TypeError, "content hash"):
                content_hash(part)

    def test_arrays_count_by_bytes_shape_and_type(self):
        long = np.zeros(3000)
        other = long.copy()
        other[1500] = 1e-9
        self.assertNotEqual(content_hash(long), content_hash(other))
        self.assertNotEqual(content_hash(long), content_hash(long.reshape(2, -1)))
        self.assertNotEqual(content_hash(long), content_hash(long.astype(np.float32)))

    def test_a_drift_of_a_site_has_one_key_however_often_it_is_asked(self):
        site = small_site()
        site.put("d", drift())
        keys = {build_instances.ref(Scene(site, BuiltinKit(CACHE), CACHE), "d", site.drifts["d"]).key for _ in range(3)}
        self.assertEqual(len(keys), 1)
