"""Snags of patinas: each is found where it is, not where it is not, and gone after its cure."""

import unittest

from cenote_core.plan import Finish, PatinaPlan, PatinaUse, StationPlan, rule_of
from cenote_core.plan.site import item_adapter
from cenote_core.snags.effect import patina_effect
from cenote_core.snags.patinas import patina_snags

from .helpers import drift, gate, scene_of, small_site

ALL = [PatinaUse(surface="wall/stone"), PatinaUse(surface="wall/coping")]
FRONT = StationPlan(name="front", position=(0, 1.2, 6), target=(0, 0.5, -2))
SPARSE = rule_of("noise", gate=gate(0.6, 0.75, 1, 1), size=0.4)


def site_with(**patinas):
    site = small_site()
    site.put("front", FRONT)
    for key, plan in patinas.items():
        site.put(key, plan)
    return site


def moss(**more):
    return PatinaPlan(**{"name": "moss", "amount": 1.0, "rules": [SPARSE], "uses": ALL, **more})


class PatinaSnags(unittest.TestCase):
    def found(self, site):
        return {snag.kind: snag for snag in patina_snags(scene_of(site))}

    def cured(self, site, kind):
        """Found, and gone after the one step."""
        snag = self.found(site)[kind]
        self.assertTrue(snag.cure and snag.text.endswith("."))
        site.put(snag.item, item_adapter.validate_python(snag.plan))
        self.assertNotIn(kind, self.found(site))

    def test_a_sparse_ragged_one_on_all_that_is_seen_has_none(self):
        self.assertEqual(self.found(site_with(m=moss())), {})

    def test_far_too_much(self):
        site = site_with(m=moss(rules=[]))
        self.cured(site, "far too much")
        # A stain hides nothing, however much there is of it.
        self.assertNotIn("far too much", self.found(site_with(m=moss(rules=[], finish=Finish(stain=1.0)))))

    def test_hard_edge(self):
        line = rule_of("height", gate=gate(0, 0, 0.5, 0.5))
        self.cured(site_with(m=moss(rules=[line], finish=Finish(break_up=0.0))), "hard edge")
        broken = moss(rules=[line, SPARSE], finish=Finish(break_up=0.0))
        self.assertNotIn("hard edge", self.found(site_with(m=broken)))

    def test_the_same_relief_twice(self):
        self.cured(site_with(m=moss(), n=moss(name="more moss", order=1)), "the same relief twice")

    def test_cancelled_by_what_lies_over_it(self):
        stain = moss(name="stain", finish=Finish(material="grime", stain=1.0))
        over = moss(name="cover", order=1, rules=[], finish=Finish(material="soil"))
        self.cured(site_with(m=stain, n=over), "cancelled")
        self.assertNotIn("cancelled", self.found(site_with(m=stain, n=moss(order=1, finish=Finish(material="soil")))))

    def test_never_seen(self):
        back = moss(rules=[rule_of("facing", toward=0.0, elevation=0.0, gate=gate(0, 0, 20, 40)), SPARSE])
        self.cured(site_with(m=back), "never seen")
        site = site_with(m=back)
        site.put("back", StationPlan(name="back", position=(0, 1.2, -8), target=(0, 0.5, -2)))
        self.assertNotIn("never seen", self.found(site))

    def test_spotless_in_view(self):
        site = site_with(m=moss(uses=[PatinaUse(surface="wall/coping")]))
        snag = self.found(site)["spotless"]
        self.assertGreater(len(snag.places), 5)
        self.assertTrue((snag.places[:, 2] > -2.3).all(), "on the side that is seen")
        self.cured(site, "spotless")


class Effects(unittest.TestCase):
    def test_one_that_has_had_no_years_says_so_and_is_whole_after_the_cure(self):
        site = site_with(m=moss(pace=10.0, ahead=-40.0))
        found = patina_effect(scene_of(site), "m", site.patinas["m"])
        self.assertRegex(found.reason, "had none")
        site.put("m", item_adapter.validate_python(found.plan))
        self.assertGreater(patina_effect(scene_of(site), "m", site.patinas["m"]).amount, 0.01)

    def test_one_that_lies_on_what_is_scattered_alone_is_not_said_to_be_gone(self):
        site = site_with(m=moss(uses=[PatinaUse(surface="d/trunk")]))
        self.assertRegex(patina_effect(scene_of(site), "m", site.patinas["m"]).reason, "no longer")
        site.put("d", drift(assets=["birch_young"]))
        self.assertEqual(patina_effect(scene_of(site), "m", site.patinas["m"]).reason, "")


if __name__ == "__main__":
    unittest.main()
