"""Drifts that stand on, or keep off, what others grow: rings, keys, shares."""

import threading
import unittest

from cenote_core.drifts.instancing import build_instances
from cenote_core.errors import CenoteError
from cenote_core.measures.crown import CrownRule
from cenote_core.measures.height import HeightRule
from cenote_core.measures.stems import StemsRule
from cenote_core.patinas.cover import owner_covers
from cenote_core.plan import GroundLayer, Mound
from cenote_core.snags.effect import drift_effect

from .helpers import bare_ground, drift, gate, scene_of


class OnEachOther(unittest.TestCase):
    def test_a_ring_of_drifts_is_said_in_words(self):
        site = bare_ground()
        for one, other in (("a", "b"), ("b", "a")):
            rule = StemsRule(gate=gate(0.3, 0.6, 999, 999), drifts=[other])
            site.put(one, drift(name=one, rules=[rule], headroom=0))
        with self.assertRaisesRegex(CenoteError, "ring: a → b → a"):
            build_instances(scene_of(site), "a", site.drifts["a"])

    def test_a_ring_through_a_surface_of_the_ground_ends_in_words(self):
        """Trees stand on the base of the ground, mould lies under their crowns, and the mould takes room from the base."""
        mould = GroundLayer(key="mould", rules=[CrownRule(gate=gate(0.1, 0.3, 1, 1))])
        site = bare_ground(layers=[mould])
        site.put("t", drift(name="birches", tier="canopy", assets=["birch_young"], surfaces=["ground/ground"]))
        asked = (
            lambda scene: build_instances(scene, "t", site.drifts["t"]),
            lambda scene: owner_covers(scene, "ground", 64),
            lambda scene: owner_covers.ref(scene, "ground", 64),
            lambda scene: drift_effect(scene, "t", site.drifts["t"]).reason,
        )
        for number, ask in enumerate(asked):
            told: list[str] = []

            def work(ask=ask, told=told):
                try:
                    told.append(str(ask(scene_of(site))))
                except CenoteError as error:
                    told.append(str(error))

            thread = threading.Thread(target=work, daemon=True)
            thread.start()
            thread.join(20)
            self.assertFalse(thread.is_alive(), f"question {number} is never answered")
            self.assertRegex(told[0], "ring: .*(birches → mould|mould → birches)")

    def test_standing_on_all_surfaces_is_no_ring(self):
        mould = GroundLayer(key="mould", rules=[CrownRule(gate=gate(0.1, 0.3, 1, 1))])
        site = bare_ground(layers=[mould])
        everywhere = ["ground/ground", "ground/mould"]
        site.put(
            "t",
            drift(
                name="t", tier="canopy", assets=["birch_young"], surfaces=everywhere, density=0.1, spacing=1, headroom=0
            ),
        )
        self.assertGreater(len(build_instances(scene_of(site), "t", site.drifts["t"])), 3)
        self.assertGreater(float(owner_covers(scene_of(site), "ground", 64).max()), 0.1)

    def test_what_stands_on_a_surface_changes_with_all_that_surface_asks_for(self):
        """Grass on mould that lies under crowns: more trees, more mould, other grass."""
        mould = GroundLayer(key="mould", rules=[CrownRule(gate=gate(0.05, 0.2, 1, 1), drifts=["t"])])
        site = bare_ground(layers=[mould])
        trees = drift(
            name="t", tier="canopy", assets=["birch_young"], surfaces=["ground/ground", "ground/mould"],
            density=0.05, spacing=1, headroom=0,
        )  # fmt: skip
        site.put("t", trees)
        site.put("d", drift(surfaces=["ground/mould"], headroom=0))
        few, key = (
            build_instances(scene_of(site), "d", site.drifts["d"]),
            build_instances.ref(scene_of(site), "d", site.drifts["d"]).key,
        )
        site.put("t", trees.model_copy(update={"density": 0.4}))
        many = build_instances(scene_of(site), "d", site.drifts["d"])
        self.assertNotEqual(build_instances.ref(scene_of(site), "d", site.drifts["d"]).key, key)
        self.assertGreater(len(many), 1.2 * len(few))

    def test_a_changed_tree_drift_changes_what_asks_for_its_stems(self):
        site = bare_ground()
        rule = StemsRule(gate=gate(0.0, 0.0, 0.6, 0.6))
        site.put("t", drift(name="t", tier="canopy", assets=["birch_young"], density=0.1, spacing=1, headroom=0))
        site.put("d", drift(rules=[rule], headroom=0, density=20))
        before = build_instances(scene_of(site), "d", site.drifts["d"])
        site.put("t", site.drifts["t"].model_copy(update={"density": 0.3}))
        after = build_instances(scene_of(site), "d", site.drifts["d"])
        self.assertGreater(len(after), 1.5 * len(before))

    def test_a_surface_of_the_ground_carries_only_its_share(self):
        site = bare_ground(layers=[GroundLayer(key="gravel", rules=[HeightRule(gate=gate(0.5, 0.5, 99, 99))])])
        site.ground = site.ground.model_copy(update={"forms": [Mound(centre=(4, 4), radius=4, height=3)]})
        found = build_instances(scene_of(site), "d", drift(surfaces=["ground/gravel"], headroom=0))
        self.assertGreater(found.position[:, 1].min(), 0.4)
        rest = build_instances(scene_of(site), "d", drift(headroom=0))
        self.assertLess(rest.position[:, 1].max(), 0.62)
