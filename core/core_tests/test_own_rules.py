"""Rules that a patina has on one of its surfaces alone."""

import unittest

import numpy as np

from cenote_core.measures.height import HeightRule
from cenote_core.measures.near import NearRule
from cenote_core.measures.noise import NoiseRule
from cenote_core.patinas.cover import cover, owner_covers, shares
from cenote_core.plan import GroundLayer, PatinaPlan, PatinaUse, PiecePlan

from .helpers import gate, scene_of, small_site


class RulesOfOneSurface(unittest.TestCase):
    """A surface may have rules of its own beside those of the patina."""

    def covers(self, *rules, other=()):
        site = small_site()
        site.put("step", PiecePlan(name="step", asset="wall", position=(0, 0, 3), foot_width=0.0))
        own = scene_of(site)
        refs = {owner: next(s.ref for s in own.surfaces() if s.owner == owner) for owner in ("wall", "step")}
        uses = [
            PatinaUse(surface=refs["wall"], amount=0.5, rules=list(rules)),
            PatinaUse(surface=refs["step"], rules=list(other)),
        ]
        plan = PatinaPlan(name="p", uses=uses)
        site.put("p", plan)
        scene = scene_of(site)
        return {
            owner: (cover(scene, "p", plan, owner, 64), scene.table(owner, 64).points.positions[:, 1])
            for owner in ("wall", "step")
        }

    def test_it_counts_there_alone(self):
        low = HeightRule(gate=gate(-9, -9, 0.4, 0.6))
        lies, high = self.covers(low)["wall"]
        np.testing.assert_allclose(lies[high > 0.61], 0, atol=1e-6)
        np.testing.assert_allclose(lies[(high < 0.39) & (lies > 0)], 0.5, atol=1e-6)
        self.assertTrue((lies[high < 0.39] > 0).any())
        lies, high = self.covers(low)["step"]
        self.assertTrue((lies[high > 0.61] > 0.99).any())

    def test_one_that_is_switched_off_or_without_strength_changes_nothing(self):
        plain = self.covers()["wall"][0]
        for more in ({"active": False}, {"strength": 0.0}):
            rule = HeightRule(gate=gate(5, 5, 9, 9), **more)
            np.testing.assert_array_equal(self.covers(rule)["wall"][0], plain)

    def test_a_surface_of_the_ground_has_them_too(self):
        site = small_site(layers=[GroundLayer(key="gravel", rules=[NearRule(gate=gate(-1, -1, 1.5, 2.5))])])
        east = NoiseRule(gate=gate(0.5, 0.5, 1, 1), size=2.0)
        plan = PatinaPlan(
            name="p",
            uses=[PatinaUse(surface="ground/ground"), PatinaUse(surface="ground/gravel", rules=[east])],
        )
        site.put("p", plan)
        scene = scene_of(site)
        bare = shares(scene)["ground"]
        lies = owner_covers(scene, "ground", 256)[-1]
        turned = bare[:: len(bare) // len(lies), :: len(bare) // len(lies)]
        np.testing.assert_allclose(lies[turned > 0.995], 1.0, atol=0.02)
        on_gravel = lies[turned < 0.005]
        self.assertTrue((on_gravel < 0.02).any() and (on_gravel > 0.98).any())


if __name__ == "__main__":
    unittest.main()
