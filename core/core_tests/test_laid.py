"""One patina held back by another, or needing it."""

import unittest

import numpy as np

from cenote_core.errors import CenoteError
from cenote_core.measures.laid import union
from cenote_core.patinas.cover import owner_covers
from cenote_core.plan import PatinaPlan, PatinaUse, rule_of

from .helpers import gate, scene_of, small_site

STONE = [PatinaUse(surface="wall/stone")]


def laid(amount=1.0, strength=1.0, visible=True):
    """Snow in the lower half of a wall, and moss everywhere that snow holds back."""
    site = small_site()
    low = rule_of("height", above="foot", gate=gate(0, 0, 0.4, 0.5))
    site.put("snow", PatinaPlan(name="snow", amount=amount, visible=visible, rules=[low], uses=STONE))
    back = rule_of("laid", patinas=["snow"], gate=gate(0, 0, 0.2, 0.8), strength=strength)
    site.put("moss", PatinaPlan(name="moss", amount=1.0, rules=[back], uses=STONE, order=1))
    scene = scene_of(site)
    covers = owner_covers(scene, "wall", 1024)
    return covers if visible else [None, covers[0]]


class HoldingBack(unittest.TestCase):
    def test_it_keeps_away_where_the_other_lies(self):
        snow, moss = laid()
        self.assertLess(float(moss[snow > 0.85].max()), 0.1)
        self.assertGreater(float(moss[snow < 0.05].max()), 0.9)

    def test_by_an_amount(self):
        snow, moss = laid(strength=0.5)
        np.testing.assert_allclose(moss[snow > 0.95].mean(), 0.5, atol=0.05)

    def test_what_is_hidden_holds_nothing_back(self):
        _, moss = laid(visible=False)
        self.assertGreater(float(moss.max()), 0.99)
        self.assertGreater((moss > 0.99).sum(), 0.99 * (moss > 0).sum())

    def test_several_together_leave_what_each_leaves_of_the_rest(self):
        found = union([np.float32([0, 0.5, 1]), np.float32([0.2, 0.5, 0.3])])
        np.testing.assert_allclose(found, [0.2, 0.75, 1.0], atol=1e-6)

    def test_two_that_hold_each_other_back_are_a_ring_told_in_words(self):
        site = small_site()
        for one, other in (("snow", "moss"), ("moss", "snow")):
            rule = rule_of("laid", patinas=[other], gate=gate(0, 0, 0.2, 0.8))
            site.put(one, PatinaPlan(name=one, rules=[rule], uses=STONE))
        with self.assertRaisesRegex(CenoteError, "moss|snow"):
            owner_covers(scene_of(site), "wall", 128)


if __name__ == "__main__":
    unittest.main()
