"""What every measure has to hold to, whichever it is; and the measure *contact*."""

import json
import unittest

import numpy as np
from pydantic import TypeAdapter

from cenote_core.graph.derived import flattened
from cenote_core.hashing import content_hash
from cenote_core.measures import MEASURES
from cenote_core.measures.contact import ContactRule
from cenote_core.mesh.mesh import Points
from cenote_core.plan import GroundLayer, Mound, PiecePlan, Rule, StationPlan, TouchPlan, Water, rule_of
from cenote_core.scene.measuring import RuleContext, measure, rule_needs

from .helpers import drift, gate, scene_of, small_site


def rich_site():
    """A little of everything a measure may ask about."""
    site = small_site(forms=[Mound(centre=(3, 3), radius=2, height=0.6), Water(centre=(-4, 4), level=-0.1)])
    site.put("crate", PiecePlan(name="crate", asset="crate", position=(2, 0, 0)))
    site.put("t", drift(name="t", tier="canopy", assets=["birch_young"], density=0.2, spacing=1, headroom=0))
    site.put("s", StationPlan(name="s", position=(0, 1.2, 6), target=(0, 0.5, 0)))
    site.put("dab", TouchPlan(target="m", owner="ground", points=[(1, 0, 1)], radius=1.0))
    return site


def context(site):
    return RuleContext("m", site.touches_of("m"), ("ground/ground", "wall/stone", "crate/wood"), "litter")


def points_of(scene, owner, count=400):
    points = scene.table(owner, 64).points
    some = np.linspace(0, len(points) - 1, count).astype(int)
    return Points(*(getattr(points, name)[some] for name in ("positions", "normals", "uv2", "slots", "areas")))


OTHER = {
    "reach": 0.7, "size": 3.3, "detail": 5, "seed": 77, "toward": 200.0, "above": "foot", "pieces": ["crate"], "patinas": ["none"], "drifts": ["none"],
    "elevation": -20.0, "wind": 9.0, "gusts": 0.9, "latitude": 12.0, "month": 0.5, "stations": ["none"], "image": "other", "line": [(0.0, 0.0), (1.0, 4.0)],
    "pattern": "cells", "dry": 7.0, "rise": 0.9, "wave": 0.1, "side": "catch", "each": "piece", "height": 0.9,
    "way": "south", "width": 2.5, "east": 1.5, "up": 1.5, "south": 1.5,
}  # fmt: skip


def key_of(scene, owner, rule, context):
    """What a rule's values hang on, as one hash."""
    return content_hash(flattened(rule_needs(scene, owner, rule, context), []))


class EveryMeasure(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.site = rich_site()
        cls.scene = scene_of(cls.site)

    def test_it_says_all_of_itself(self):
        places = [rule.about.place for rule in MEASURES.values()]
        self.assertEqual(places, sorted(set(places)))
        for name, rule in MEASURES.items():
            about = rule.about
            self.assertTrue(about.title and about.noun and len(about.says) > 5, name)
            self.assertEqual(list(about.start), sorted(about.start), name)
            self.assertTrue(rule.__doc__, name)
            for field in rule.model_fields.values():
                self.assertTrue(field.description or field.annotation is not None, name)

    def test_it_is_in_plans_and_in_their_schema(self):
        schema = json.dumps(TypeAdapter(Rule).json_schema())
        for name, rule in MEASURES.items():
            made = rule_of(name)
            self.assertIsInstance(made, rule)
            self.assertEqual(TypeAdapter(Rule).validate_python(made.model_dump()), made)
            self.assertIn(f'"title": "{rule.about.title}"', schema)

    def test_its_values_are_finite_one_a_point_and_hang_on_no_neighbour(self):
        for owner in ("ground", "wall"):
            points = points_of(self.scene, owner)
            half = Points(*(getattr(points, n)[::2] for n in ("positions", "normals", "uv2", "slots", "areas")))
            for name in MEASURES:
                rule = rule_of(name)
                values = measure(self.scene, owner, points, rule, context(self.site))
                self.assertEqual((values.shape, values.dtype), ((400,), np.float32), name)
                self.assertTrue(np.isfinite(values).all(), name)
                some = measure(self.scene, owner, half, rule, context(self.site))
                np.testing.assert_array_equal(values[::2], some, name)

    def test_every_setting_of_its_own_is_in_its_key_and_gate_and_strength_are_not(self):
        for name, rule in MEASURES.items():
            plain = rule_of(name)
            key = key_of(self.scene, "wall", plain, context(self.site))
            for field in set(rule.model_fields) - {"measure", "gate", "strength", "active"}:
                self.assertIn(field, OTHER, f"say another value for {field}")
                other = rule.model_validate({**plain.model_dump(), field: OTHER[field]})
                self.assertNotEqual(key_of(self.scene, "wall", other, context(self.site)), key, f"{name}.{field}")
            gated = plain.model_copy(update={"strength": 0.3, "gate": gate(-1, 0, 1, 2)})
            self.assertEqual(key_of(self.scene, "wall", gated, context(self.site)), key, name)

    def test_where_its_values_change_with_the_site_so_does_its_key(self):
        """Whatever is changed on the site: same key, same values."""
        changes = {
            "crate": self.site.pieces["crate"].model_copy(update={"position": (3.0, 0.0, 0.5)}),
            "wall": self.site.pieces["wall"].model_copy(update={"turn": 20.0}),
            "t": self.site.drifts["t"].model_copy(update={"density": 0.6}),
            "s": self.site.stations["s"].model_copy(update={"position": (5.0, 1.2, 5.0)}),
            "ground": self.site.ground.model_copy(update={"layers": [GroundLayer(key="gravel", material="gravel")]}),
            "light": self.site.light.model_copy(update={"elevation": 12.0}),
        }
        points = points_of(self.scene, "ground")
        before = {n: measure(self.scene, "ground", points, rule_of(n), context(self.site)) for n in MEASURES}
        keys = {n: key_of(self.scene, "ground", rule_of(n), context(self.site)) for n in MEASURES}
        for item, plan in changes.items():
            scene = scene_of(self.site.with_item(item, plan))
            for name in MEASURES:
                if key_of(scene, "ground", rule_of(name), context(scene.site)) == keys[name]:
                    after = measure(scene, "ground", points, rule_of(name), context(scene.site))
                    np.testing.assert_array_equal(after, before[name], f"{name} after {item}")


class Contact(unittest.TestCase):
    def values(self, site, owner, positions):
        positions = np.asarray(positions, np.float32)
        count = len(positions)
        points = Points(
            positions,
            np.tile(np.float32([0, 1, 0]), (count, 1)),
            np.zeros((count, 2), np.float32),
            np.zeros(count, np.int32),
        )
        rule = ContactRule(gate=gate(0, 0, 1, 2))
        return measure(scene_of(site), owner, points, rule, RuleContext("m"))

    def test_over_flat_ground_it_is_the_height(self):
        site = small_site()
        site.pieces.clear()
        site.put("crate", PiecePlan(name="c", asset="crate", position=(0, 0.5, 0)))
        heights = np.array([0.0, 0.2, 0.75, 2.5])
        found = self.values(site, "crate", [(0.1, y, 0.2) for y in heights])
        np.testing.assert_allclose(found, heights, atol=1e-5)

    def test_beside_another_piece_it_is_the_distance_to_its_triangles(self):
        site = small_site()
        site.put("crate", PiecePlan(name="c", asset="crate", position=(4.0, 0, 3)))
        places = np.array([(4.0, 1.5, 3.0), (-4.0, 3.0, -2.0), (0.0, 1.2, 0.0)])
        mesh = scene_of(site).mesh("wall")
        corners = mesh.positions[mesh.faces].astype(float)
        # Brute force: many points on every triangle of the wall.
        a, b = (g.ravel() for g in np.meshgrid(np.linspace(0, 1, 40), np.linspace(0, 1, 40)))
        inside = a + b <= 1
        a, b = a[inside, None], b[inside, None]
        cloud = np.concatenate([c[0] + a * (c[1] - c[0]) + b * (c[2] - c[0]) for c in corners])
        expected = np.minimum([np.linalg.norm(cloud - p, axis=1).min() for p in places], places[:, 1])
        np.testing.assert_allclose(self.values(site, "crate", places), expected, atol=0.03)

    def test_on_the_ground_only_pieces_count(self):
        site = small_site()
        site.pieces.clear()
        np.testing.assert_array_equal(self.values(site, "ground", [(0, 0, 0)]), [1000])
        site.put("crate", PiecePlan(name="c", asset="crate", position=(0, 0, 0)))
        found = self.values(site, "ground", [(0, 0, 0), (3, 0, 0)])
        self.assertLess(float(found[0]), 0.4)
        self.assertTrue(2.0 < float(found[1]) < 3.0)
