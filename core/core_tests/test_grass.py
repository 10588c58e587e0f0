"""Grass: what every setting does to the blades, held to closed forms; grasses of one's own in a site's kit."""

import json
import struct
import tempfile
import unittest
from pathlib import Path

import numpy as np
from scipy.integrate import quad

from cenote_core.drifts.instancing import build_instances
from cenote_core.errors import CenoteError
from cenote_core.handover import hand_over
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.kit.flora import GRASSES
from cenote_core.kit.grass import Grass, blade_curve, grass_tuft
from cenote_core.kit.site_grasses import BLADE_SHOWS, SiteGrassKit, grass_of, plan_of, tuft_ids
from cenote_core.materials.material import linear_to_srgb, srgb_to_linear
from cenote_core.materials.tile import colour
from cenote_core.plan import GrassPlan
from cenote_core.scene.scene import Scene
from cenote_core.snags.effect import drift_effect

from .helpers import CACHE, drift, scene_of, small_site


def tuft(**settings):
    """The finest level; leaves alone and none of them dry unless asked for."""
    return grass_tuft(7, Grass(**{"blades": 240, "dry": 0.0, "flower": 0.0, **settings}))[0]


def blades(mesh, count=240):
    """(B, 2, T, 3) the two edges of each blade from foot to tip."""
    return mesh.positions.reshape(count, 2, -1, 3).astype(float)


def middles(mesh, count=240):
    return blades(mesh, count).mean(axis=1)


class Blades(unittest.TestCase):
    def test_a_curve_is_as_long_as_it_says_and_ends_at_its_angle(self):
        bend = np.array([0.0, 0.4, 1.5, 3.0])
        t = np.linspace(0, 1, 400)
        outward, upward, angle = blade_curve(bend, t)
        length = np.hypot(np.diff(outward), np.diff(upward)).sum(axis=1)
        np.testing.assert_allclose(length, 1.0, atol=2e-3)
        np.testing.assert_allclose(angle[:, -1], bend)
        for k, a in enumerate(bend):
            self.assertAlmostEqual(outward[k, -1], quad(lambda s, a=a: np.sin(a * s**1.5), 0, 1)[0], delta=2e-4)
            self.assertAlmostEqual(upward[k, -1], quad(lambda s, a=a: np.cos(a * s**1.5), 0, 1)[0], delta=2e-4)

    def test_length_is_that_of_the_longest_leaf_along_the_blade(self):
        for length, bend in ((0.2, 0.0), (0.6, 1.2), (1.4, 2.4)):
            along = np.linalg.norm(np.diff(middles(tuft(length=length, bend=bend)), axis=1), axis=-1).sum(axis=1)
            self.assertLess(along.max(), 1.0001 * length)
            self.assertGreater(along.max(), 0.96 * length)
            self.assertGreater(along.min(), 0.38 * length)

    def test_widths_at_foot_and_tip(self):
        edges = blades(tuft(root_width=0.012, tip_width=0.003, curl=2.0))
        wide = np.linalg.norm(edges[:, 1] - edges[:, 0], axis=-1)
        self.assertAlmostEqual(wide[:, 0].mean(), 0.012, delta=0.0004)
        np.testing.assert_allclose(wide[:, -1], 0.003, rtol=1e-3)
        self.assertTrue((np.diff(wide, axis=1) < 1e-6).all())

    def test_tips_lean_as_far_as_they_are_told_on_average(self):
        for bend in (0.3, 1.0, 1.7):
            points = middles(tuft(bend=bend, blades=240))
            # Long segments near the tip: their direction is that of the blade half a segment before it.
            chord = points[:, -1] - points[:, -2]
            at = 1 - 0.5 / (points.shape[1] - 1)
            leaning = np.arccos(chord[:, 1] / np.linalg.norm(chord, axis=1)) / at**1.5
            self.assertAlmostEqual(leaning.mean(), bend, delta=0.06 * bend)
        straight = middles(tuft(bend=0.0))
        np.testing.assert_allclose(straight[:, -1, [0, 2]], straight[:, 0, [0, 2]], atol=1e-6)

    def test_curl_turns_a_blade_about_itself(self):
        for curl in (0.0, 1.2):
            edges = blades(tuft(curl=curl, bend=0.0))
            side = edges[:, 1] - edges[:, 0]
            side /= np.linalg.norm(side, axis=-1, keepdims=True)
            turned = np.arccos(np.clip((side[:, 0] * side[:, -1]).sum(axis=-1), -1, 1))
            self.assertLess(turned.max(), curl + 1e-3)
            self.assertGreater(turned.max(), 0.95 * curl - 1e-9)
            self.assertAlmostEqual(turned.mean(), curl / 2, delta=0.1 * curl + 1e-3)

    def test_blades_rise_from_their_patch(self):
        feet = middles(tuft(foot=0.2))[:, 0]
        out = np.hypot(feet[:, 0], feet[:, 2])
        self.assertLess(out.max(), 0.2001)
        # Even over the disc: half of them within its radius by √½.
        self.assertAlmostEqual(np.median(out), 0.2 * np.sqrt(0.5), delta=0.012)

    def test_together_they_lean_one_way(self):
        def agreement(clump):
            reach = middles(tuft(clump=clump, bend=1.2))
            way = (reach[:, -1] - reach[:, 0])[:, [0, 2]]
            way /= np.linalg.norm(way, axis=1, keepdims=True)
            return np.linalg.norm(way.mean(axis=0))

        self.assertLess(agreement(0.0), 0.2)
        self.assertGreater(agreement(1.0), 0.999)
        self.assertTrue(agreement(0.0) < agreement(0.5) < agreement(1.0))

    def test_shares_of_dry_and_flowering_blades(self):
        straw, head = (0.9, 0.05, 0.05), (0.05, 0.05, 0.9)
        mesh = tuft(dry=0.3, flower=0.2, dry_colour=straw, head_colour=head)
        bands = len(tuft().positions)
        tips = mesh.colour[:bands].reshape(240, 2, -1, 4)[:, 0, -1, :3]
        flowering = tips[:, 2] > 0.8
        self.assertAlmostEqual(flowering.mean(), 0.2, delta=0.07)
        dead = (tips[:, 0] > 0.7) & ~flowering
        self.assertAlmostEqual(dead.sum() / (~flowering).sum(), 0.3, delta=0.08)
        along = np.linalg.norm(
            np.diff(mesh.positions[:bands].reshape(240, 2, -1, 3).mean(axis=1), axis=1), axis=-1
        ).sum(axis=1)
        self.assertGreater(along[flowering].min(), along[~flowering].max())

    def test_heads_sit_at_the_top_of_their_stems_and_are_as_wide_as_told(self):
        plain, flowering = tuft(foot=0.0, bend=0.0), tuft(flower=1.0, foot=0.0, bend=0.0, head_width=0.02)
        husks = flowering.positions[len(plain.positions) :]
        self.assertGreater(len(husks), 240 * 3 * 20)
        self.assertGreater(husks[:, 1].min(), 0.6 * 1.05 * 0.42)
        wide = 2 * np.hypot(husks[:, 0], husks[:, 2])
        self.assertAlmostEqual(wide.max(), 0.02, delta=0.001)
        # From afar they are there too, as part of their stems.
        band = grass_tuft(7, Grass(flower=1.0, foot=0.0, bend=0.0, head_width=0.02))[1].positions
        self.assertGreater(2 * np.hypot(band[:, 0], band[:, 2]).max(), 0.02)

    def test_colours_run_from_foot_to_tip(self):
        root, tip = (0.02, 0.03, 0.3), (0.1, 0.5, 0.02)
        shades = tuft(root_colour=root, tip_colour=tip).colour.reshape(240, 2, -1, 4)[..., :3]
        np.testing.assert_allclose(shades[:, :, 0], np.broadcast_to(root, (240, 2, 3)), atol=1e-6)
        np.testing.assert_allclose(shades[:, 0, -1].mean(axis=0), tip, rtol=0.06)

    def test_a_setting_changes_only_what_it_is_about(self):
        few, many = grass_tuft(7, Grass(blades=40))[0], grass_tuft(7, Grass(blades=90))[0]
        np.testing.assert_array_equal(many.positions[: len(few.positions)], few.positions)
        green, drier = tuft(dry=0.0), tuft(dry=0.4)
        same = np.isclose(middles(green), middles(drier)).all(axis=(1, 2))
        self.assertAlmostEqual(same.mean(), 0.6, delta=0.08)

    def test_stiff_blades_move_less(self):
        soft, stiff = tuft(stiffness=0.0).sway, tuft(stiffness=1.0).sway
        self.assertLess(stiff[:, 0].max(), 0.15 * soft[:, 0].max())
        self.assertEqual(stiff[:, 2].max(), 0.0)
        foot = tuft(stiffness=0.0).positions[:, 1] < 1e-6
        self.assertEqual(soft[foot, 0].max(), 0.0)
        # Weights travel as bytes, 127 to the one.
        self.assertLess(soft.max(), 2.0)

    def test_levels_are_coarser_and_cover_as_much(self):
        for name, grass in GRASSES.items():
            levels = grass_tuft(3, grass)
            counts = [level.triangle_count for level in levels]
            self.assertTrue(counts[1] < 0.4 * counts[0] and counts[2] < 0.4 * counts[1], name)
            areas = [level.face_areas().sum() for level in levels]
            for area in areas[1:]:
                self.assertAlmostEqual(area / areas[0], 0.85, delta=0.35, msg=name)

    def test_absurd_settings_still_make_a_sound_mesh(self):
        for settings in (
            {"blades": 3, "root_width": 0.0, "tip_width": 0.0, "foot": 0.0},
            {"bend": np.pi, "curl": 6.3, "clump": 1.0, "dry": 1.0, "flower": 1.0, "blades": 3},
            {"length": 0.02, "bend": 0.0, "flower": 1.0, "blades": 4},
        ):
            for level in grass_tuft(1, Grass(**settings)):
                self.assertTrue(np.isfinite(level.positions).all())
                np.testing.assert_allclose(np.linalg.norm(level.normals, axis=1), 1, atol=1e-3)


class OneOwn(unittest.TestCase):
    plan = GrassPlan(name="quaking grass", length=0.5, dry=0.1)

    def scene(self, plan=None, **more) -> Scene:
        site = small_site()
        site.put("q", plan or self.plan)
        site.put("d", drift(assets=tuft_ids("q"), **more))
        return scene_of(site)

    def test_a_grass_of_the_kit_is_a_beginning(self):
        for key, grass in GRASSES.items():
            again = grass_of(plan_of("mine", grass))
            for name, value in grass.__dict__.items():
                np.testing.assert_allclose(getattr(again, name), value, rtol=0.03, atol=0.004, err_msg=f"{key} {name}")

    def test_the_colour_chosen_is_the_colour_seen(self):
        """Of a blade without light: vertex colours times the picture of a blade."""
        picture = srgb_to_linear(BuiltinKit(CACHE).material("blade").colour.astype(np.float32) / 255)
        self.assertAlmostEqual(float(picture.mean()), BLADE_SHOWS, delta=0.005)
        grass = grass_of(GrassPlan(name="g", tip_colour="#7f9440"))
        seen = linear_to_srgb(np.array(grass.tip_colour) * picture.mean())
        np.testing.assert_allclose(seen, colour("#7f9440"), atol=1.5 / 255)

    def test_its_tufts_stand_in_the_kit_and_differ(self):
        kit = self.scene().kit
        self.assertEqual(kit.own_ids(), ["own-q.1", "own-q.2", "own-q.3"])
        shapes = [kit.asset(key).lods[0].positions for key in kit.own_ids()]
        for k in range(3):
            self.assertEqual(kit.asset(kit.own_ids()[k]).title, f"quaking grass, tuft {k + 1}")
            self.assertGreater(np.abs(shapes[k] - shapes[k - 1]).max(), 0.05)

    def test_what_grows_of_it_follows_its_settings_and_not_its_name(self):
        keys = [build_instances.ref(s, "d", s.site.drifts["d"]).key for s in (
            self.scene(),
            self.scene(self.plan.model_copy(update={"name": "other", "note": "n"})),
            self.scene(self.plan.model_copy(update={"length": 0.7})),
            self.scene(self.plan.model_copy(update={"seed": 2})),
        )]  # fmt: skip
        self.assertEqual(keys[0], keys[1])
        self.assertEqual(len(set(keys)), 3)

    def test_a_drift_of_it_alone_has_no_twins_beside_each_other(self):
        scene = self.scene(density=20)
        found = build_instances(scene, "d", scene.site.drifts["d"])
        self.assertGreater(len(found), 200)
        shares = np.bincount(found.asset, minlength=3) / len(found)
        np.testing.assert_allclose(shares, 1 / 3, atol=0.08)

    def test_the_season_tints_it_as_it_does_the_grasses_of_the_kit(self):
        green, straw = self.scene(), self.scene()
        for scene, season in ((green, 5.0), (straw, 1.0)):
            scene.site.weather = scene.site.weather.model_copy(update={"season": season})
        a, b = (build_instances(s, "d", s.site.drifts["d"]).tint.mean(axis=0) for s in (green, straw))
        self.assertGreater(b[0] / b[1], a[0] / a[1])

    def test_without_it_its_drift_says_so_and_offers_the_cure(self):
        site = small_site()
        site.put("d", drift(assets=["own-q.1", "grass_low"]))
        effect = drift_effect(scene_of(site), "d", site.drifts["d"])
        self.assertEqual(effect.amount, 0)
        self.assertIn("no longer in the kit", effect.reason)
        self.assertEqual([a["asset"] for a in effect.plan["assets"]], ["grass_low"])

    def test_ids_that_are_not_there(self):
        kit = self.scene().kit
        for wrong in ("own-q.0", "own-q.4", "own-q", "own-x.1", "own-", "own-q.²"):
            with self.assertRaises(CenoteError):
                kit.asset(wrong)
        self.assertIsNone(kit.plant("own-x.1"))

    def test_a_kit_over_a_kit_does_not_pile_up(self):
        kit = self.scene().kit
        self.assertIs(SiteGrassKit(kit, {}, CACHE).base, kit.base)

    def test_it_is_handed_over_under_its_name(self):
        scene = self.scene(density=2)
        with tempfile.TemporaryDirectory() as folder:
            hand_over(scene, "site", Path(folder), lambda *_: None)
            glb, table = (Path(folder) / "site.glb").read_bytes(), (Path(folder) / "instances.csv").read_text()
        length = struct.unpack("<I", glb[12:16])[0]
        document = json.loads(glb[20 : 20 + length])
        self.assertIn("quaking grass, tuft 1", [m["name"] for m in document["meshes"]])
        self.assertIn("own-q.1", table)


if __name__ == "__main__":
    unittest.main()
