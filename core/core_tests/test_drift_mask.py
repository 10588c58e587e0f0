"""The mask of a drift against what its rules, keep-outs and strokes say."""

import unittest

import numpy as np

from cenote_core.base.packet import unpack
from cenote_core.drifts.instancing import build_instances
from cenote_core.drifts.mask import drift_mask
from cenote_core.kinds import PARTS
from cenote_core.measures.height import HeightRule
from cenote_core.mesh.texels import sample_map
from cenote_core.plan import GroundLayer, KeepOut, Mound, TouchPlan

from .helpers import drift, gate, scene_of, small_site


def mask_of(site, key="d"):
    """The mask on the ground, and the places of its texels."""
    scene = scene_of(site)
    made = drift_mask(scene, key, site.drifts[key], "ground")
    side = len(made)
    at = (np.arange(side) + 0.5) / side * 12 - 6
    return made, at


class Masks(unittest.TestCase):
    def test_it_is_what_the_rules_let_through(self):
        site = small_site(forms=[Mound(centre=(2, 2), radius=3, height=2)], cell=0.25)
        site.put("d", drift(rules=[HeightRule(gate=gate(-9, -9, 0.5, 1.5), strength=0.8)], headroom=0))
        made, at = mask_of(site)
        self.assertAlmostEqual(float(made[np.ix_(np.abs(at + 5) < 0.3, np.abs(at + 5) < 0.3)].mean()), 1.0, places=4)
        self.assertAlmostEqual(float(made[np.ix_(np.abs(at - 2) < 0.1, np.abs(at - 2) < 0.1)].mean()), 0.2, delta=0.02)

    def test_keep_outs_and_headroom_close_it_off(self):
        site = small_site()
        site.put("d", drift(headroom=0.5, keep_outs=[KeepOut(of="pieces", clearance=0.5)]))
        made, at = mask_of(site)
        before = np.ix_(np.abs(at + 0.0) < 0.2, np.abs(at) < 1)
        self.assertEqual(float(made[np.ix_(np.abs(at + 2) < 0.2, np.abs(at) < 1)].max()), 0.0, "inside the wall")
        self.assertEqual(float(made[before].min()), 1.0, "two metres before it")

    def test_only_on_its_own_surfaces(self):
        site = small_site(layers=[GroundLayer(key="high", rules=[HeightRule(gate=gate(9, 9, 99, 99))])])
        site.put("d", drift(surfaces=["ground/high"], headroom=0))
        self.assertEqual(mask_of(site)[0].max(), 0.0)

    def test_strokes_show_in_it(self):
        site = small_site()
        site.put("d", drift(headroom=0))
        stroke = TouchPlan(target="d", action="erase", points=[(4, 0, 4)], radius=1, strength=1, falloff=0)
        site.put("t", stroke)
        made, at = mask_of(site)
        self.assertLess(float(made[np.ix_(np.abs(at - 4) < 0.1, np.abs(at - 4) < 0.1)].max()), 0.02)
        self.assertEqual(float(made[np.ix_(np.abs(at + 4) < 0.5, np.abs(at + 4) < 0.5)].min()), 1.0)

    def test_nothing_stands_where_it_is_nought(self):
        site = small_site(forms=[Mound(centre=(2, 2), radius=3, height=2)], cell=0.25)
        rules = [HeightRule(gate=gate(-9, -9, 0.3, 1.0))]
        site.put("d", drift(rules=rules, headroom=0.3, keep_outs=[KeepOut(of="pieces", clearance=0.3)]))
        made, _ = mask_of(site)
        found = build_instances(scene_of(site), "d", site.drifts["d"])
        uv = (found.position[:, [0, 2]] / 12 + 0.5).astype(np.float32)
        self.assertGreater(len(found), 200)
        self.assertGreater((np.asarray(sample_map(made, uv)) > 0.01).mean(), 0.99)


class Sent(unittest.TestCase):
    def test_the_packet_names_what_it_lies_on_and_its_version_follows(self):
        site = small_site()
        site.put("d", drift(headroom=0, surfaces=["ground/ground", "gone/stone"]))
        scene = scene_of(site)
        arrays, info = unpack(PARTS["masks"].make(scene, "d"))
        self.assertEqual(info["patinas"], {"ground": ["d"]})
        self.assertEqual(arrays["ground"].shape[0], 1)
        before = PARTS["masks"].version(scene, "d")
        site.put("d", drift(headroom=0, density=2.0, surfaces=["ground/ground", "gone/stone"]))
        self.assertEqual(PARTS["masks"].version(scene_of(site), "d"), before, "density is no matter of the mask")
        site.put("d", drift(headroom=0, rules=[HeightRule(gate=gate(5, 5, 9, 9))]))
        self.assertNotEqual(PARTS["masks"].version(scene_of(site), "d"), before)
        self.assertFalse(PARTS["masks"].there(scene, "nobody"))


if __name__ == "__main__":
    unittest.main()
