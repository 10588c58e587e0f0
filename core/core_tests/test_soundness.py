"""Nothing that one item does takes its site down: each kind fails on purpose, and all else goes on."""

import unittest
from dataclasses import replace
from unittest import mock

from cenote_core import view
from cenote_core.errors import AskingEnded, CenoteError
from cenote_core.kinds import KINDS
from cenote_core.plan import AssetShare, BeadsPlan, DecalPlan, GrassPlan, Mound, PatinaPlan, PatinaUse, PiecePlan
from cenote_core.plan.rings import refuse_rings
from cenote_core.soundness import OURS, sound

from .helpers import drift, scene_of, small_site


def full_site():
    """One of each kind that is worked out."""
    site = small_site(forms=[Mound(centre=(3, 3), radius=2, height=0.5), Mound(centre=(-3, 3), radius=1, height=0.2)])
    site.put("crate", PiecePlan(name="crate", asset="crate", position=(3, 0, 1)))
    site.put("g", GrassPlan(name="own"))
    site.put("d", drift(name="grass"))
    site.put("o", drift(name="own grass", assets=["own-g.1"]))
    site.put("m", PatinaPlan(name="moss", uses=[PatinaUse(surface="wall/stone")]))
    site.put("c", DecalPlan(name="crack", position=(0, 0.8, -1.8), facing=(0, 0, 1), receivers=["wall"]))
    site.put("b", BeadsPlan(name="dew", size=8, crowded=0.1, between=0, uses=[PatinaUse(surface="wall/coping")]))
    return site


FAILING = {"piece": "crate", "grass": "g", "drift": "d", "patina": "m", "decal": "c", "beads": "b"}


class Failing(unittest.TestCase):
    def test_a_sound_site_is_left_as_it_is(self):
        site = full_site()
        found, reasons = sound(scene_of(site))
        self.assertEqual(reasons, {})
        self.assertIs(found, site)

    def test_each_kind_is_left_out_by_itself_with_its_reason(self):
        for kind, key in FAILING.items():
            for error, says in ((IndexError("of ours"), OURS), (CenoteError("Choose another."), "Choose another.")):
                with self.subTest(kind=kind, error=error):
                    whole = KINDS[kind]

                    def trial(scene, other, plan, whole=whole, key=key, error=error):
                        if other == key:
                            raise error
                        return whole.trial(scene, other, plan)

                    site = full_site()
                    quiet = isinstance(error, CenoteError)
                    logs = self.assertNoLogs() if quiet else self.assertLogs()
                    with mock.patch.dict(KINDS, {kind: replace(whole, trial=trial)}), logs:
                        found, reasons = sound(scene_of(site))
                    self.assertEqual(reasons.get(key), says)
                    self.assertIsNone(found.plan_of(key))
                    others = {k for k in FAILING.values() if k != key}
                    self.assertEqual({k for k in others if found.plan_of(k) is None}, set())
                    self.assertTrue(view.manifest(scene_of(found), lambda *named: "/".join(named))["owners"])

    def test_of_the_ground_only_the_form_that_fails_goes(self):
        site = full_site()
        whole = KINDS["ground"]

        def trial(scene, key, plan):
            if any(form.radius == 2 for form in plan.forms):
                raise ZeroDivisionError
            return whole.trial(scene, key, plan)

        with mock.patch.dict(KINDS, {"ground": replace(whole, trial=trial)}), self.assertLogs():
            found, reasons = sound(scene_of(site))
        self.assertEqual(set(reasons), {"ground"})
        self.assertEqual([form.radius for form in found.ground.forms], [1])
        self.assertIsNotNone(found.plan_of("d"))

    def test_whoever_ends_the_asking_is_not_taken_for_a_failure(self):
        whole = KINDS["drift"]

        def trial(scene, key, plan):
            raise AskingEnded

        with mock.patch.dict(KINDS, {"drift": replace(whole, trial=trial)}), self.assertRaises(AskingEnded):
            sound(scene_of(full_site()))

    def test_a_deleted_grass_and_what_grew_of_it(self):
        site = full_site().without("g")
        site.put("mix", drift(name="mix", assets=[AssetShare(asset="own-g.2"), AssetShare(asset="grass_low")]))
        found, _ = sound(scene_of(site))
        view.manifest(scene_of(found), lambda *named: "/".join(named))
        for key, plan in found.drifts.items():
            KINDS["drift"].effect(scene_of(found), key, plan)


class Rings(unittest.TestCase):
    def plans(self, **asks):
        out = {}
        for key, others in asks.items():
            rules = [{"measure": "near", "drifts": [other], "active": True} for other in others]
            out[key] = {"kind": "drift", "name": key.upper(), "rules": rules}
        return out

    def test_a_ring_is_named_and_refused_when_it_is_made(self):
        with self.assertRaisesRegex(CenoteError, "A → C → B → A"):
            refuse_rings(self.plans(a=["c"], b=["a"], c=["b"]), {"a"})

    def test_what_asks_for_nothing_twice_is_none(self):
        refuse_rings(self.plans(a=["b", "c"], b=["c"], c=[]), {"a", "b", "c"})

    def test_rules_that_are_off_and_rings_of_others_do_not_count(self):
        plans = self.plans(a=["b"], b=["a"], c=["a"])
        refuse_rings(plans, {"c"})
        plans["b"]["rules"][0]["active"] = False
        refuse_rings(plans, {"a"})
