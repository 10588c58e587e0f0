"""The stage of the last rough proof serves the same view of the same site, and no other."""

import unittest

from cenote_core.graph.store import Cache
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.plan import AssetShare, DriftPlan, GroundPlan, PiecePlan, StationPlan
from cenote_core.plan.site import SitePlan
from cenote_core.proof_scene.detail import ROUGH
from cenote_core.proofs.kept import KeptStage
from cenote_core.scene.scene import Scene


class Kept(unittest.TestCase):
    def setUp(self):
        self.made = []
        self.kept = KeptStage(lambda *asked: self.made.append(asked) or len(self.made))
        self.cache = Cache()

    def site(self, **more):
        grass = DriftPlan(name="g", assets=[AssetShare(asset="grass_low")], surfaces=["ground/ground"])
        items = {"ground": GroundPlan(width=4, depth=4), "g": grass, "w": PiecePlan(name="w", asset="wall"), **more}
        return SitePlan.from_items(items.items())

    def get(self, site=None, station=None, size=(64, 40), detail=ROUGH):
        scene = Scene(site or self.site(), BuiltinKit(self.cache), self.cache)
        return self.kept.get(scene, station or StationPlan(name="s"), size, detail)

    def test_the_same_is_made_once(self):
        self.assertEqual([self.get(), self.get()], [1, 1])

    def test_whatever_changes_it_is_made_anew(self):
        from dataclasses import replace

        expected = 1
        self.get()
        for other in (
            {"site": self.site(ground=GroundPlan(width=5, depth=4))},
            {"site": self.site(w=PiecePlan(name="w", asset="wall", position=(1, 0, 0)))},
            {"site": self.site(second=PiecePlan(name="x", asset="wall"))},
            {"station": StationPlan(name="s", lens=50)},
            {"size": (64, 48)},
            {"detail": replace(ROUGH, page_side=64)},
        ):
            expected += 1
            self.assertEqual(self.get(**other), expected, other)
        self.get()
        self.assertEqual(len(self.made), expected + 1, "one alone is kept")

    def test_it_can_be_let_go(self):
        self.get()
        self.kept.forget()
        self.assertEqual(self.get(), 2)
