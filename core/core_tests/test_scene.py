"""Drifts, patinas, decals and ground on a small site."""

import unittest

import numpy as np

from cenote_core.base.packet import pack, unpack
from cenote_core.decals.project import decal_frame, decal_mesh, project
from cenote_core.drifts.instancing import build_instances
from cenote_core.measures.height import HeightRule
from cenote_core.measures.noise import NoiseRule
from cenote_core.measures.slope import SlopeRule
from cenote_core.patinas.bake import bake_maps, blend_values, pictures
from cenote_core.patinas.cover import cover, owner_covers, stack
from cenote_core.patinas.reading import bilinear
from cenote_core.plan import (
    AssetShare,
    DecalPlan,
    DriftPlan,
    Finish,
    PatinaPlan,
    PatinaUse,
    PiecePlan,
    TouchPlan,
    Variety,
)
from cenote_core.snags.effect import drift_effect, patina_effect

from .helpers import drift, gate, least_distance, scene_of, sheet, small_site


class Drifts(unittest.TestCase):
    def test_nothing_stands_inside_or_under_a_piece(self):
        site = small_site()
        scene = scene_of(site)
        found = build_instances(scene, "d", drift(headroom=0.3))
        # The wall's body spans 10 m in x, from z = −2.45 to −1.75 at its foot.
        inside = (np.abs(found.position[:, 0]) < 4.9) & (np.abs(found.position[:, 2] + 2.05) < 0.15)
        self.assertEqual(inside.sum(), 0)
        self.assertGreater(len(found), 500)

    def test_rules_keep_it_off_and_strength_fades(self):
        site = small_site(amount=3.0, feature=5.0)
        scene = scene_of(site)
        strict = drift(rules=[HeightRule(gate=gate(0.2, 0.2, 90, 90))])
        found = build_instances(scene, "d", strict)
        self.assertGreater(len(found), 20)
        self.assertGreaterEqual(found.position[:, 1].min(), 0.2 - 0.03)
        faded = build_instances(scene, "d", drift(rules=[HeightRule(gate=gate(0.2, 0.2, 90, 90), strength=0.0)]))
        self.assertEqual(len(faded), len(build_instances(scene, "d", drift())))

    def test_variety_stays_in_its_ranges(self):
        plan = drift(variety=Variety(size_min=0.5, size_max=0.9, lean=10, follow=0, tint=0.2, turn=90))
        found = build_instances(scene_of(small_site()), "d", plan)
        self.assertTrue(((found.scale >= 0.5) & (found.scale <= 0.9)).all())
        x, y, z, w = found.rotation.T
        up = 1 - 2 * (x * x + z * z)
        self.assertGreaterEqual(up.min(), np.cos(np.radians(10.01)))
        np.testing.assert_allclose(np.linalg.norm(found.rotation, axis=1), 1, atol=1e-5)
        self.assertLess(len(np.unique(found.scale.round(3))), len(found) + 1)
        self.assertGreater(found.scale.std(), 0.08)
        del y, w

    def test_weights_are_followed(self):
        plan = drift(
            assets=[
                AssetShare(asset="grass_low", weight=3),
                AssetShare(asset="grass_mid", weight=1),
                AssetShare(asset="fern_full", weight=0),
            ]
        )
        counts = np.bincount(build_instances(scene_of(small_site()), "d", plan).asset, minlength=3)
        self.assertAlmostEqual(counts[0] / counts.sum(), 0.75, delta=0.06)
        self.assertEqual(counts[2], 0)

    def test_strokes_survive_every_change_of_rules(self):
        site = small_site()
        site.put(
            "t", TouchPlan(name="s", target="d", action="less", points=[(3, 0, 3)], radius=2, strength=1, falloff=0)
        )
        for plan in (
            drift(),
            drift(density=3),
            drift(spacing=0.3),
            drift(rules=[SlopeRule(gate=gate(0, 0, 30, 30))], seed=4),
        ):
            found = build_instances(scene_of(site), "d", plan)
            near = np.hypot(found.position[:, 0] - 3, found.position[:, 2] - 3) < 1.9
            self.assertEqual(near.sum(), 0)
        site.ground = site.ground.model_copy(update={"amount": 2.0})
        found = build_instances(scene_of(site), "d", drift())
        self.assertEqual((np.hypot(found.position[:, 0] - 3, found.position[:, 2] - 3) < 1.9).sum(), 0)

    def test_painting_more_fills_where_rules_forbid(self):
        site = small_site()
        forbidding = drift(rules=[SlopeRule(gate=gate(60, 60, 90, 90))])
        self.assertEqual(len(build_instances(scene_of(site), "d", forbidding)), 0)
        site.put(
            "t", TouchPlan(name="s", target="d", action="more", points=[(3, 0, 3)], radius=1.5, strength=1, falloff=0)
        )
        found = build_instances(scene_of(site), "d", forbidding)
        self.assertGreater(len(found), 20)
        self.assertLess(np.hypot(found.position[:, 0] - 3, found.position[:, 2] - 3).max(), 1.6)

    def test_moving_a_far_piece_moves_nothing_else(self):
        site = small_site()
        site.put("crate", PiecePlan(name="crate", asset="crate", position=(4, 0, 4)))
        before = build_instances(scene_of(site), "d", drift())
        site.put("crate", PiecePlan(name="crate", asset="crate", position=(4.5, 0, 4.5)))
        after = build_instances(scene_of(site), "d", drift())
        kept = set(before.identity.tolist()) & set(after.identity.tolist())
        self.assertGreater(len(kept) / len(before), 0.97)
        self.assertGreaterEqual(least_distance(after.position + 0), 0.15)


class Effects(unittest.TestCase):
    def test_every_reason_offers_a_cure_that_works(self):
        site = small_site()
        broken = [
            drift(density=0.0),
            drift(surfaces=[]),
            drift(rules=[SlopeRule(gate=gate(70, 70, 90, 90))]),
            drift(headroom=0, density=1e-4),
            drift(assets=[AssetShare(asset="grass_low"), AssetShare(asset="no-such")]),
        ]
        for plan in broken:
            scene = scene_of(site)
            effect = drift_effect(scene, "d", plan)
            self.assertEqual(effect.amount, 0)
            self.assertTrue(effect.reason and effect.cure, effect)
            for _ in range(30):  # "double the density" may be needed several times
                again = drift_effect(scene, "d", DriftPlan.model_validate(effect.plan))
                if again.amount:
                    break
                effect = again
            self.assertGreater(again.amount, 0, effect.reason)

    def test_patina_reasons(self):
        scene = scene_of(small_site())
        use = [PatinaUse(surface="wall/stone")]
        self.assertIn("no surface", patina_effect(scene, "p", PatinaPlan(name="m")).reason)
        self.assertIn("amount is 0", patina_effect(scene, "p", PatinaPlan(name="m", uses=use, amount=0)).reason)
        steep = PatinaPlan(name="m", uses=use, rules=[SlopeRule(gate=gate(170, 170, 175, 175))])
        effect = patina_effect(scene, "p", steep)
        self.assertIn("slope rule", effect.reason)
        self.assertGreater(patina_effect(scene, "p", PatinaPlan.model_validate(effect.plan)).amount, 0.5)


class Patinas(unittest.TestCase):
    def setUp(self):
        self.site = small_site()
        self.plan = PatinaPlan(
            name="moss",
            uses=[PatinaUse(surface="wall/stone"), PatinaUse(surface="wall/coping", amount=0.5)],
            rules=[SlopeRule(gate=gate(0, 0, 60, 80))],
        )
        self.site.put("m", self.plan)

    def test_cover_follows_rule_use_and_amount(self):
        scene = scene_of(self.site)
        table = scene.table("wall", 256)
        got = cover(scene, "m", self.plan, "wall", table.resolution)
        steep = np.degrees(np.arccos(np.clip(table.points.normals[:, 1], -1, 1)))
        share = np.where(table.points.slots == 0, 1.0, 0.5)
        expected = np.clip((80 - steep) / 20, 0, 1) * share
        np.testing.assert_allclose(got, expected, atol=2e-3)

    def test_order_of_the_stack(self):
        self.site.put("g", PatinaPlan(name="grime", uses=[PatinaUse(surface="wall/stone")], order=-1))
        self.assertEqual([key for key, _ in stack(scene_of(self.site), "wall")], ["g", "m"])
        self.assertEqual(owner_covers(scene_of(self.site), "wall", 128).shape, (2, 128, 128))

    def test_full_cover_without_break_up_is_the_finish_itself(self):
        scene = scene_of(self.site)
        plan = self.plan.model_copy(update={"finish": Finish(material="grime", variation=0, break_up=0, stain=0)})
        uv = np.random.default_rng(1).random((50, 2)).astype(np.float32) * 3
        slots = np.zeros(50, np.int32)
        bare = blend_values(scene, "wall", uv, uv, slots, [])
        laid = blend_values(scene, "wall", uv, uv, slots, [(plan, np.ones(50, np.float32))])
        none = blend_values(scene, "wall", uv, uv, slots, [(plan, np.zeros(50, np.float32))])
        np.testing.assert_array_equal(bare, none)
        image = pictures(scene.kit.material("grime"))
        tile = scene.kit.material("grime").tile
        expected = [[bilinear(image, c, u / tile, v / tile) for c in range(3)] for u, v in uv]
        np.testing.assert_allclose(laid[:, :3], expected, atol=1e-5)

    def test_hidden_patina_changes_nothing(self):
        seen = bake_maps(scene_of(self.site), "wall", 128)
        self.site.put("m", self.plan.model_copy(update={"visible": False}))
        hidden = bake_maps(scene_of(self.site), "wall", 128)
        self.assertGreater(np.abs(seen.colour.astype(int) - hidden.colour).max(), 30)

    def test_flattened_normals_are_unit_and_outward(self):
        maps = bake_maps(scene_of(self.site), "wall", 256)
        normal = maps.normal.astype(float) / 127.5 - 1
        np.testing.assert_allclose(np.linalg.norm(normal, axis=-1), 1, atol=0.02)
        self.assertGreater(normal[..., 2].min(), 0)


class StrokesOnPieces(unittest.TestCase):
    def wiped(self, size, x=0.0):
        """Area wiped off the face of a wall by one dab of 0.3 m, set in the wall's own coordinates."""
        site = small_site()
        site.put("wall", PiecePlan(name="wall", asset="wall", position=(x, 0, -2), size=size, turn=40, foot_width=0.0))
        plan = PatinaPlan(name="moss", uses=[PatinaUse(surface="wall/stone")])
        site.put("m", plan)
        dab = {"action": "less", "owner": "wall", "radius": 0.3, "strength": 1, "falloff": 0}
        site.put("t", TouchPlan(name="s", target="m", points=[(0, 0.8, 0.19)], **dab))
        scene = scene_of(site)
        table = scene.table("wall", 512)
        gone = (cover(scene, "m", plan, "wall", table.resolution) < 0.5) & (table.points.slots == 0)
        return float(table.points.areas[gone].sum())

    def test_radius_is_in_metres_whatever_the_size_of_the_piece(self):
        for size in (1.0, 2.0):
            self.assertAlmostEqual(self.wiped(size), np.pi * 0.09, delta=0.05)

    def test_strokes_move_with_their_piece(self):
        self.assertAlmostEqual(self.wiped(1.0), self.wiped(1.0, x=3.0), delta=0.01)


class Decals(unittest.TestCase):
    def test_area_on_a_flat_sheet_is_the_picture(self):
        mesh = sheet(40, 10.0)
        mesh.positions[:, 1] = 0
        plan = DecalPlan(name="d", position=(5.03, 0, 4.98), facing=(0, 1, 0), width=1.7, height=0.9, turn=31)
        found = project(mesh, plan)
        self.assertAlmostEqual(found.face_areas().sum(), 1.7 * 0.9, delta=1e-3)
        self.assertGreaterEqual(found.uv.min(), -1e-5)
        self.assertLessEqual(found.uv.max(), 1 + 1e-5)
        np.testing.assert_allclose(found.colour[:, 3], 1, atol=1e-5)

    def test_picture_is_upright_and_not_mirrored(self):
        frame = decal_frame(DecalPlan(name="d", facing=(0, 0, 1)))
        np.testing.assert_allclose(frame.right, [1, 0, 0], atol=1e-9)
        np.testing.assert_allclose(frame.up, [0, 1, 0], atol=1e-9)
        np.testing.assert_allclose(np.cross(frame.right, frame.up), frame.out, atol=1e-9)

    def test_neither_back_faces_nor_sides(self):
        site = small_site()
        scene = scene_of(site)
        plan = DecalPlan(
            name="d", position=(0, 0.8, -1.8), facing=(0, 0, 1), width=1, height=1, depth=3, receivers=["wall"]
        )
        found = decal_mesh(scene, plan)
        self.assertGreater(found.face_normals()[:, 2].min(), np.cos(np.radians(68)))
        self.assertIsNone(decal_mesh(scene, plan.model_copy(update={"receivers": ["ground"]})))

    def test_angle_fades(self):
        mesh = sheet(4, 4.0)
        lean = np.radians(50)
        plan = DecalPlan(
            name="d",
            position=(2, 0, 2),
            facing=(0, float(np.cos(lean)), float(np.sin(lean))),
            depth=4,
            angle=60,
            soft=20,
        )
        t = (60 - 50) / 20
        found = project(mesh, plan)
        self.assertAlmostEqual(float(found.colour[:, 3].max()), t * t * (3 - 2 * t), delta=0.02)
        self.assertIsNone(project(mesh, plan.model_copy(update={"angle": 35})))


class Packets(unittest.TestCase):
    def test_round_trip(self):
        arrays = {
            "a": np.arange(7, dtype=np.float32),
            "b": np.arange(5, dtype=np.uint8),
            "c": np.ones((2, 3), np.int32),
        }
        back, info = unpack(pack(arrays, {"x": [1, 2]}))
        for name, value in arrays.items():
            np.testing.assert_array_equal(back[name], value)
        self.assertEqual(info, {"x": [1, 2]})


class Noise(unittest.TestCase):
    def test_cached_measures_follow_their_settings(self):
        site = small_site()
        one = build_instances(scene_of(site), "d", drift(rules=[NoiseRule(gate=gate(0.5, 0.5, 1, 1), seed=1)]))
        two = build_instances(scene_of(site), "d", drift(rules=[NoiseRule(gate=gate(0.5, 0.5, 1, 1), seed=2)]))
        self.assertNotEqual(set(one.identity.tolist()), set(two.identity.tolist()))
