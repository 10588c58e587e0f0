"""Derived values: keys follow from needs, what is not declared is refused, files hold no code, little is made again."""

import gc
import pickle
import tempfile
import unittest
import weakref
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, fields
from pathlib import Path
from unittest import mock

import numpy as np

from cenote_core.drifts.instances import Instances
from cenote_core.drifts.instancing import build_instances
from cenote_core.graph import derived as graph
from cenote_core.graph import version
from cenote_core.graph.derived import UndeclaredNeed, by_value, derived
from cenote_core.graph.store import Cache
from cenote_core.graph.stored import from_bytes, to_bytes
from cenote_core.graph.version import code_version
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.mesh.mesh import Mesh
from cenote_core.patinas.cover import owner_covers
from cenote_core.plan import Arrangement, PatinaPlan, PatinaUse, PiecePlan
from cenote_core.scene.scene import Scene

from .helpers import CACHE, drift, sheet, small_site


class Host:
    def __init__(self, **settings):
        self.cache, self.memo, self.settings, self.made = Cache(), {}, settings, Counter()


@derived(lambda host: host.settings["a"])
def leaf(host):
    host.made["leaf"] += 1
    return 2 * host.settings["a"]


@derived(lambda host, n: [leaf.ref(host), n])
def twig(host, n):
    host.made["twig"] += 1
    return leaf(host) + n


@derived(lambda host: [twig.ref(host, 1), host.settings.get("b", 0)])
def bough(host):
    return twig(host, 1) + leaf(host)


@derived(lambda host: host.settings.get("b", 0))
def careless(host):
    return leaf(host)


@derived(lambda host: leaf(host))
def by_its_value(host):
    with by_value():
        return leaf(host)


class Keys(unittest.TestCase):
    def test_a_key_follows_from_settings_arguments_needs_and_code(self):
        key = lambda **settings: bough.ref(Host(**settings)).key  # noqa: E731
        self.assertEqual(key(a=1), key(a=1, c=9))
        self.assertEqual(len({key(a=1), key(a=2), key(a=1, b=1)}), 3)
        self.assertNotEqual(twig.ref(Host(a=1), 1).key, twig.ref(Host(a=1), 2).key)
        before = key(a=1)
        with mock.patch.object(graph, "code_version", lambda module: "another"):
            self.assertNotEqual(key(a=1), before)

    def test_a_key_is_known_without_making_anything(self):
        host = Host(a=1)
        bough.ref(host)
        self.assertEqual(host.made, {})
        self.assertEqual((bough(host), bough(host)), (5, 5))
        self.assertEqual(host.made, {"leaf": 1, "twig": 1})

    def test_what_counts_by_its_value_stays_while_that_does(self):
        keys = {by_its_value.ref(Host(a=value)).key for value in (1, 1.0)}
        self.assertEqual(len(keys), 2, "2 and 2.0 are told apart")
        self.assertEqual(by_its_value.ref(Host(a=0)).key, by_its_value.ref(Host(a=False)).key)

    def test_sources_are_read_by_many_threads_at_once(self):
        names = [f"cenote_core.{path.stem}" for path in version.ROOT.glob("*.py")] + ["cenote_core.scene.scene"] * 8
        with ThreadPoolExecutor(12) as pool:
            found = list(pool.map(version._read.__wrapped__, names * 12))
        self.assertEqual(len(set(found)), len(set(names)))

    def test_code_counts_with_all_it_imports_and_with_nothing_else(self):
        version._read.cache_clear(), code_version.cache_clear()
        read, asked = version._read, []
        try:
            with mock.patch.object(version, "_read", lambda m: asked.append(m) or read(m)):
                code_version("cenote_core.measures.slope")
        finally:
            code_version.cache_clear()
        self.assertIn("cenote_core.measures.rule", asked)
        self.assertNotIn("cenote_core.drifts.instancing", asked)


class Needs(unittest.TestCase):
    def test_what_is_not_declared_is_refused_even_when_it_is_known_already(self):
        host = Host(a=1)
        leaf(host)
        with self.assertRaisesRegex(UndeclaredNeed, "careless asked for .*leaf"):
            careless(host)

    def test_what_is_made_of_declared_values_alone_may_be_asked_for(self):
        self.assertEqual(bough(Host(a=1)), 5)


class Letting(unittest.TestCase):
    def test_a_scene_goes_with_whoever_holds_it_and_waits_for_no_collector(self):
        site = small_site()
        site.put("g", drift(density=3, spacing=0.3, headroom=0.4))
        site.put("m", PatinaPlan(name="moss", uses=[PatinaUse(surface="wall/stone")]))
        gc.collect()
        gc.disable()
        try:
            scene = Scene(site, BuiltinKit(CACHE), Cache())
            build_instances(scene, "g", site.drifts["g"])
            owner_covers(scene, "wall", 64)
            held = weakref.ref(scene)
            del scene
            self.assertIsNone(held())
        finally:
            gc.enable()


@dataclass(frozen=True)
class Foreign:
    a: int = 1


class Files(unittest.TestCase):
    def assert_same(self, one, other):
        self.assertIs(type(one), type(other))
        if isinstance(one, np.ndarray):
            np.testing.assert_array_equal(one, other)
            self.assertEqual(one.dtype, other.dtype)
        elif isinstance(one, list | tuple):
            self.assertEqual(len(one), len(other))
            for a, b in zip(one, other, strict=True):
                self.assert_same(a, b)
        elif isinstance(one, dict):
            self.assertEqual(list(one), list(other))
            self.assert_same(list(one.values()), list(other.values()))
        elif hasattr(one, "__dataclass_fields__"):
            for f in fields(one):
                self.assert_same(getattr(one, f.name), getattr(other, f.name))
        else:
            self.assertEqual(one, other)

    def test_values_come_back_as_they_were(self):
        turned = np.arange(12, dtype=np.float32).reshape(3, 4).T
        value = {
            "mesh": sheet(3, 2.0), "mixed": (1, 2.5, True, None, "ä", b"\0x", [np.uint64(2**63), turned]),
            "empty": np.zeros((0, 3), np.float32), 4: np.array([True, False]), "none": [], "asset": BuiltinKit(CACHE).asset("crate"),
        }  # fmt: skip
        self.assert_same(from_bytes(to_bytes(value)), value)

    def test_nothing_but_values_of_the_core_is_written_or_made(self):
        for strange in (object(), Foreign(), {"a": print}):
            with self.assertRaisesRegex(TypeError, "kept on disk"):
                to_bytes(strange)
        other = to_bytes(sheet(1, 1.0)).replace(b"cenote_core.mesh.mesh:Mesh", b"os_path____.mesh.mesh:Mesh")
        with self.assertRaisesRegex(ValueError, "no value of the core"):
            from_bytes(other)

    def test_a_file_of_another_kind_is_made_anew(self):
        with tempfile.TemporaryDirectory() as name:
            Cache(Path(name)).get("abcd", lambda: sheet(1, 1.0), on_disk=True)
            file = next(Path(name).rglob("*.safetensors"))
            for data in (b"", b"\xff" * 40, pickle.dumps([1]), to_bytes([1])[:-1] + b"\0\0"):
                file.write_bytes(data)
                again = Cache(Path(name)).get("abcd", lambda: sheet(2, 1.0), on_disk=True)
                self.assertTrue(isinstance(again, Mesh | list), data[:8])

    def test_what_does_not_say_its_size_is_not_held(self):
        with self.assertRaisesRegex(TypeError, "size"):
            Cache().get("k", object)


class Work(unittest.TestCase):
    """What is made again after a change, counted by the names of what is made."""

    def made(self, site, cache):
        found = Counter()
        made = graph.Ref._made

        def counted(ref):
            found[ref.name.rpartition(".")[2]] += 1
            return made(ref)

        scene = Scene(site, BuiltinKit(CACHE), cache)
        with mock.patch.object(graph.Ref, "_made", counted):
            found_all = [build_instances(scene, key, plan) for key, plan in sorted(site.drifts.items())]
            for owner in ("ground", "wall"):
                owner_covers(scene, owner, 64)
        self.assertTrue(all(isinstance(f, Instances) for f in found_all))
        return found

    def site(self):
        site = small_site()
        site.put("far", PiecePlan(name="far crate", asset="crate", position=(150, 0, 150), foot_width=0.0))
        site.put("g", drift(density=3, spacing=0.3, headroom=0.4, arrangement=Arrangement()))
        uses = [PatinaUse(surface="wall/stone"), PatinaUse(surface="ground/ground")]
        site.put("m", PatinaPlan(name="moss", uses=uses))
        site.put("n", PatinaPlan(name="grime", uses=uses, amount=0.5))
        return site

    def test_a_crate_moved_far_from_every_drift_makes_nothing_of_any_drift_again(self):
        site, cache = self.site(), Cache()
        self.assertEqual(self.made(site, cache)["build_instances"], 1)
        self.assertEqual(self.made(site, cache)["build_instances"], 0)
        far = site.pieces["far"].model_copy(update={"position": (160, 0, 150)})
        self.assertEqual(self.made(site.with_item("far", far), cache), {"mesh": 1}, "nothing but its own mesh")
        near = site.pieces["far"].model_copy(update={"position": (2, 0, 2)})
        again = self.made(site.with_item("far", near), cache)
        self.assertEqual((again["build_instances"], again["places_of"]), (1, 0))

    def test_one_slider_of_one_patina_makes_the_cover_of_no_other_again(self):
        site, cache = self.site(), Cache()
        self.assertEqual(self.made(site, cache)["cover"], 4)
        less = site.patinas["m"].model_copy(update={"amount": 0.7})
        self.assertEqual(self.made(site.with_item("m", less), cache)["cover"], 2)

    def test_another_name_or_finish_makes_nothing_again(self):
        site, cache = self.site(), Cache()
        self.made(site, cache)
        moss = site.patinas["m"]
        finish = moss.finish.model_copy(update={"tint": "#112233"})
        for plan in (moss.model_copy(update={"name": "other"}), moss.model_copy(update={"finish": finish})):
            self.assertEqual(self.made(site.with_item("m", plan), cache), {})
