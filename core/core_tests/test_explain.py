"""Why here, the section, snags of drifts, recipes."""

import unittest

import numpy as np

from cenote_core.beads.site_droplets import droplets, may_form
from cenote_core.drifts.instancing import build_instances
from cenote_core.drifts.recipes import RECIPES
from cenote_core.errors import CenoteError
from cenote_core.explain.histograms import Sight, rule_histograms
from cenote_core.explain.section import cut_mesh, section
from cenote_core.explain.verdict import points_at
from cenote_core.explained import why_here
from cenote_core.kinds.owners import covers_parts
from cenote_core.measures.facing import FacingRule
from cenote_core.measures.noise import NoiseRule
from cenote_core.measures.slope import SlopeRule
from cenote_core.patinas.cover import cover, cover_at, plate_stack, stack, unlisted
from cenote_core.patinas.drawn import as_film
from cenote_core.plan import (
    BeadsPlan,
    Cut,
    DecalPlan,
    DriftPlan,
    GroundPlan,
    KeepOut,
    Mound,
    PatinaPlan,
    PatinaUse,
    PiecePlan,
    PlacedPlan,
    PlacedThing,
    Region,
    StationPlan,
    TouchPlan,
    Variety,
    rule_of,
)
from cenote_core.plan.site import SitePlan
from cenote_core.scene.measuring import RuleContext
from cenote_core.snags.drifts import drift_snags

from .helpers import drift, gate, scene_of, sheet, small_site


class InView(unittest.TestCase):
    """Histograms of what is seen from a place alone."""

    def counted(self, position, site=None, ref="wall"):
        scene = scene_of(site or small_site())
        refs = tuple(s.ref for s in scene.surfaces() if s.owner == ref)
        sight = Sight(position, (0.0, 0.3, -2.0), 35.0, 1.6) if position else None
        rule = FacingRule(gate=gate(0, 0, 30, 30), elevation=0.0, toward=180.0)
        return rule_histograms(scene, RuleContext("p", surfaces=refs), [rule], sight)[0]

    def test_the_far_side_is_not_counted(self):
        whole, south, north = (sum(self.counted(at)["areas"]) for at in (None, (0, 1.0, 6.0), (0, 1.0, -10.0)))
        self.assertLess(south + north, 1.2 * whole)
        self.assertGreater(min(south, north), 0.1 * whole)
        # Of a body with walls to the south and north, one side shows only its own.
        self.assertGreater(self.counted((0, 1.0, 6.0))["share"], 3 * self.counted((0, 1.0, -10.0))["share"])

    def test_what_stands_before_it_hides_it(self):
        site = small_site()
        open_ = sum(self.counted((0, 0.5, 9.0), site)["areas"])
        site.put("screen", PiecePlan(name="screen", asset="wall", position=(0, 0, 4), size=3.0, foot_width=0.0))
        self.assertLess(sum(self.counted((0, 0.5, 9.0), site)["areas"]), 0.2 * open_)

    def test_nothing_in_view_is_no_error(self):
        away = self.counted((0, 1.0, -60.0))
        self.assertEqual(len(away["areas"]), 48)
        behind = rule_histograms(
            scene_of(small_site()),
            RuleContext("p", surfaces=("wall/stone",)),
            [SlopeRule(gate=gate(0, 0, 90, 90))],
            Sight((0.0, 1.0, 6.0), (0.0, 1.0, 20.0), 35.0, 1.6),
        )[0]
        self.assertEqual((sum(behind["areas"]), behind["share"]), (0.0, 0.0))


class WhyHere(unittest.TestCase):
    def verdict(self, site, at, owner="ground", key="d"):
        found = why_here(scene_of(site), owner, np.array(at, float))
        return next(v for v in found if v.item == key)

    def test_it_names_the_rule_that_stops_it_with_its_value(self):
        site = small_site(forms=[Mound(centre=(3, 3), radius=3, height=3)], cell=0.1)
        site.put("d", drift(name="fern", rules=[SlopeRule(gate=gate(0, 0, 20, 30))], headroom=0))
        steep = self.verdict(site, (4.5, 1.5, 3))
        self.assertFalse(steep.stands)
        self.assertIn("Stopped by slope", steep.summary)
        # A smoothstep mound of 3 m over 3 m is steepest half way: 1.5 · 3 / 3 = 56°.
        self.assertAlmostEqual(steep.lines[0].value, np.degrees(np.arctan(1.5)), delta=1.5)
        self.assertIn("too high: ends at 30", steep.lines[0].text)

    def test_it_says_what_stands(self):
        site = small_site()
        site.put("d", drift(headroom=0))
        at = build_instances(scene_of(site), "d", site.drifts["d"]).position[7]
        self.assertTrue(self.verdict(site, at).stands)

    def test_strokes_keep_outs_surfaces_and_headroom_are_reasons(self):
        site = small_site()
        site.put("d", drift(headroom=0.5, keep_outs=[KeepOut(of="wall", clearance=0.5)]))
        site.put("e", drift(name="e", surfaces=["wall/coping"]))
        site.put("t", TouchPlan(target="d", action="less", points=[(4, 0, 4)], radius=1, strength=1, falloff=0))
        thinned = self.verdict(site, (4, 0, 4))
        self.assertIn("thinned by hand", thinned.lines[-1].text)
        self.assertIn("Stopped by by hand", thinned.summary)
        near = self.verdict(site, (0, 0, -1.65))
        self.assertTrue(any("wall" in line.text and "wanted" in line.text for line in near.lines), near)
        self.assertIn("does not stand on ground", self.verdict(site, (4, 0, 4), key="e").summary)
        under = self.verdict(site, (0, 0, -2.0))
        self.assertTrue(any("headroom" in line.text for line in under.lines))

    def test_points_are_found_on_the_surface_of_a_piece(self):
        scene = scene_of(small_site())
        low, high = scene.mesh("wall").bounds()
        point = points_at(scene, "wall", np.array([(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, high[2] + 0.3]))
        self.assertGreater(point.normals[0, 2], 0.5)
        with self.assertRaises(CenoteError):
            why_here(scene, "gone", np.zeros(3))


class Sections(unittest.TestCase):
    def test_a_cut_box_shows_its_outline(self):
        box = np.array([(x, y, z) for x in (1, 3) for y in (0, 2) for z in (-1, 1)], float)
        faces = np.array(
            [
                (0, 1, 3),
                (0, 3, 2),
                (4, 6, 7),
                (4, 7, 5),
                (0, 4, 5),
                (0, 5, 1),
                (2, 3, 7),
                (2, 7, 6),
                (0, 2, 6),
                (0, 6, 4),
                (1, 5, 7),
                (1, 7, 3),
            ]
        )
        cut = cut_mesh(box, faces, np.array([0.0, 0.25]), np.array([1.0, 0.0]), 10)
        lengths = np.hypot(cut[:, 2] - cut[:, 0], cut[:, 3] - cut[:, 1])
        self.assertAlmostEqual(lengths.sum(), 8.0, places=5)
        np.testing.assert_allclose([cut[:, [0, 2]].min(), cut[:, [0, 2]].max()], [1, 3])
        flat = sheet(3, 3.0)
        self.assertEqual(len(cut_mesh(flat.positions, flat.faces, np.array([0.0, 50.0]), np.array([1.0, 0.0]), 9)), 0)

    def test_ground_line_and_silhouettes_near_the_cut(self):
        site = small_site(forms=[Mound(centre=(0, 3), radius=3, height=1)], cell=0.1)
        site.put("d", drift(headroom=0))
        scene = scene_of(site)
        found = section(scene, np.array([-5.0, 3.0]), np.array([5.0, 3.0]), 1.0)
        self.assertAlmostEqual(found.length, 10)
        self.assertAlmostEqual(found.ground[:, 1].max(), 1.0, delta=0.01)
        self.assertEqual(found.pieces, {})
        near = found.drifts[0]
        self.assertTrue(((near.along >= 0) & (near.along <= 10)).all())
        ground = np.interp(near.along, found.ground[:, 0], found.ground[:, 1])
        self.assertLess(np.abs(near.foot - ground).max(), 0.3)
        through = section(scene, np.array([0.0, -5.0]), np.array([0.0, 5.0]), 1.0)
        self.assertIn("wall", through.pieces)


class Snags(unittest.TestCase):
    def kinds(self, site):
        return {s.kind: s for s in drift_snags(scene_of(site))}

    def after(self, site, snag):
        site.put(snag.item, DriftPlan.model_validate(snag.plan))
        return self.kinds(site)

    def test_a_quiet_site_has_none(self):
        site = small_site()
        site.put("d", drift(keep_outs=[KeepOut(of="pieces", clearance=0.02)]))
        self.assertEqual(self.kinds(site), {})

    def test_poking_through_is_found_and_cured(self):
        site = small_site()
        site.put("d", drift(assets=["bramble"], density=2, spacing=0.5, headroom=0.05))
        snag = self.kinds(site)["poking through"]
        self.assertGreater(snag.count, 0)
        self.assertLess(np.abs(snag.places[:, 2] + 2).max(), 2.5)
        self.assertNotIn("poking through", self.after(site, snag))

    def test_floating_and_buried(self):
        site = small_site()
        site.put("d", drift(variety=Variety(sink_min=-0.5, sink_max=-0.4), headroom=0))
        found = self.kinds(site)
        self.assertIn("floating", found)
        self.assertNotIn("floating", self.after(site, found["floating"]))
        site.put("d", drift(variety=Variety(sink_min=0.4, sink_max=0.5), headroom=0))
        self.assertIn("buried", self.kinds(site))

    def test_repeats_in_view(self):
        site = small_site()
        site.put("s", StationPlan(name="s", position=(0, 1.5, 6), target=(0, 0, 0)))
        same = Variety(size_min=1, size_max=1, turn=0, lean=0)
        site.put("d", drift(assets=["fern_full"], density=6, spacing=0.3, variety=same))
        snag = self.kinds(site)["visible repeats"]
        self.assertIn("more would help", snag.text)
        left = self.after(site, snag).get("visible repeats")
        self.assertLess(left.count if left else 0, snag.count / 3)

    def test_implausible_size(self):
        site = small_site()
        site.put("d", drift(assets=["grass_low"], variety=Variety(size_min=10, size_max=12), headroom=0))
        snag = self.kinds(site)["implausible size"]
        self.assertNotIn("implausible size", self.after(site, snag))

    def test_hard_edge_and_its_soft_cure(self):
        site = small_site()
        site.put("d", drift(rules=[NoiseRule(gate=gate(0.5, 0.5, 1, 1))], headroom=0))
        snag = self.kinds(site)["edge looks cut"]
        self.assertIn("rises all at once", snag.text)
        self.assertNotIn("edge looks cut", self.after(site, snag))

    def test_bald_patches(self):
        site = small_site(width=30, depth=30)
        site.put("k", PlacedPlan(target="d", things=[PlacedThing(asset="grass_low", point=(0, 0, 0))]))
        site.put("d", drift(density=8, headroom=0, keep_outs=[KeepOut(of="b", clearance=4)]))
        site.put("b", drift(name="b", tier="canopy", assets=["birch_young"], density=0, headroom=0))
        site.put("kb", PlacedPlan(target="b", things=[PlacedThing(asset="birch_young", point=(5, 0, 5))]))
        self.assertIn("bald patches", self.kinds(site))

    def test_too_heavy_for_one_picture(self):
        site = small_site(width=40, depth=40)
        site.put("s", StationPlan(name="s", position=(0, 6, 19), target=(0, 0, 0), lens=18))
        site.put("d", drift(assets=["pine_tall"], tier="canopy", density=1.2, spacing=0.6, headroom=0))
        snag = self.kinds(site)["too heavy"]
        self.assertIn("finest level", snag.text)
        self.assertNotIn("too heavy", self.after(site, snag))


class Recipes(unittest.TestCase):
    def test_every_recipe_makes_sound_drifts_that_stand(self):
        site = SitePlan()
        site.ground = GroundPlan(
            width=30,
            depth=30,
            amount=3,
            feature=12,
            forms=[Cut(line=[(-14, 2), (14, 4)], width=2, depth=0.1, bank=0.8)],
        )
        for key, recipe in RECIPES.items():
            plans = recipe.make(["ground/ground"], 1, site.ground)
            self.assertGreaterEqual(len(plans), 3, key)
            again = recipe.make(["ground/ground"], 1, site.ground)
            self.assertEqual([p.model_dump() for p in plans], [p.model_dump() for p in again])
            trial = site.model_copy(deep=True)
            for number, plan in enumerate(plans):
                trial.put(f"d{number}", plan)
            scene = scene_of(trial)
            standing = [len(build_instances(scene, f"d{k}", p)) for k, p in enumerate(plans)]
            self.assertGreaterEqual(sum(n > 0 for n in standing), len(plans) - 1, (key, standing))

    def test_the_path_edge_follows_the_path(self):
        ground = GroundPlan(
            width=30, depth=30, amount=0, forms=[Cut(line=[(-14, 2), (14, 2)], width=2, depth=0, bank=0.5)]
        )
        site = SitePlan()
        site.ground = ground
        plan = RECIPES["path_edge"].make(["ground/ground"], 1, ground)[0]
        found = build_instances(scene_of(site), "d", plan)
        off = np.abs(found.position[np.abs(found.position[:, 0]) < 13, 2] - 2)
        self.assertTrue(((off > 1.0) & (off < 2.35)).all())
        site.ground = ground.model_copy(update={"forms": [Cut(line=[(-14, -5), (14, -5)], width=4, depth=0, bank=0.5)]})
        found = build_instances(scene_of(site), "d", plan)
        off = np.abs(found.position[np.abs(found.position[:, 0]) < 13, 2] + 5)
        self.assertTrue(((off > 2.0) & (off < 3.35)).all(), "the path was moved and widened")

    def test_the_north_bank_leaves_level_ground_alone(self):
        site = SitePlan()
        site.ground = GroundPlan(width=40, depth=40, amount=0, forms=[Mound(centre=(0, 0), radius=10, height=5)])
        ferns, _, ivy = RECIPES["north_bank"].make(["ground/ground"], 1, site.ground)
        for plan in (ferns, ivy):
            found = build_instances(scene_of(site), "d", plan)
            self.assertGreater(len(found), 60)
            self.assertLess(np.linalg.norm(found.position[:, [0, 2]], axis=1).max(), 10.0)
            # North is −z; the rule leaves a few on the other sides.
            self.assertGreater((found.position[:, 2] < 0).mean(), 0.75)


class PatinasAndDecals(unittest.TestCase):
    def setUp(self):
        site = small_site()
        rules = [
            rule_of("height", above="foot", gate=gate(0, 0, 0.5, 0.9)),
            rule_of("noise", size=0.4, gate=gate(0.2, 0.6, 1, 1), strength=0.8),
        ]
        uses = [PatinaUse(surface="wall/stone", amount=0.7)]
        site.put("m", PatinaPlan(name="moss", amount=0.9, pace=20.0, rules=rules, uses=uses))
        site.put(
            "c", DecalPlan(name="crack", position=(0, 0.5, -1.75), facing=(0, 0, 1), receivers=["wall"], depth=0.6)
        )
        self.site = site
        self.scene = scene_of(site)

    def of(self, item, at, owner="wall"):
        return next((v for v in why_here(self.scene, owner, np.array(at)) if v.item == item), None)

    def test_the_lines_of_a_patina_come_to_its_cover(self):
        for at in ((0.3, 0.2, -1.7), (-0.5, 0.45, -1.7), (0.9, 0.6, -1.7)):
            found = self.of("m", at)
            points = points_at(self.scene, "wall", np.array(at))
            covers = float(cover_at(self.scene, "m", self.site.patinas["m"], "wall", points)[0])
            told = float(np.prod([line.allows for line in found.lines]))
            self.assertAlmostEqual(told, covers, delta=0.003)
            self.assertEqual(found.stands, covers >= 0.02)
            self.assertTrue({"height", "noise", "years", "amount", "surface"} <= {line.what for line in found.lines})
            units = {line.what: line.unit for line in found.lines}
            self.assertEqual((units["height"], units["years"], units["noise"]), ("m", "years", ""))

    def test_what_keeps_a_patina_away_is_named_with_its_number(self):
        found = self.of("m", (0.0, 2.5, -1.9))
        self.assertFalse(found.stands)
        self.assertRegex(found.summary, "height|surface")
        self.assertIsNone(self.of("m", (3.0, 0.0, 3.0), "ground"), "what does not lie on it is not spoken of")

    def test_a_decal_says_its_box_its_angle_and_its_receivers(self):
        self.assertTrue(self.of("c", (0.0, 0.5, -1.75)).stands)
        self.assertIsNone(self.of("c", (3.0, 0.5, -1.75)), "far from its box")
        beside = self.of("c", (0.6, 0.5, -1.75))
        self.assertRegex(beside.summary, "Stopped by across")
        self.site.decals["c"] = self.site.decals["c"].model_copy(update={"receivers": ["ground"]})
        self.scene = scene_of(self.site)
        self.assertRegex(self.of("c", (0.0, 0.5, -1.75)).summary, "receives")


if __name__ == "__main__":
    unittest.main()


class Droplets(unittest.TestCase):
    """Why droplets lie at a spot or do not, and the mask of where they may form."""

    @classmethod
    def setUpClass(cls):
        cls.site = small_site()
        region = Region(shape="box", centre=(1.0, 0.0, -2.0), width=2.0, height=6.0, depth=6.0, soft=0.0)
        cls.beads = BeadsPlan(
            name="dew", uses=[PatinaUse(surface=s.ref) for s in scene_of(cls.site).surfaces() if s.owner == "wall"],
            size=4.0, crowded=0.5, rules=[SlopeRule(gate=gate(0, 0, 20, 30))], regions=[region],
        )  # fmt: skip
        cls.site.put("dew", cls.beads)
        cls.scene = scene_of(cls.site)

    def told(self, point):
        return next(v for v in why_here(self.scene, "wall", np.array(point)) if v.item == "dew")

    def test_a_spot_with_droplets_tells_how_large_they_are_and_every_rule(self):
        drops = [d for d in droplets(self.scene, "dew", self.beads, "wall").values() if len(d)]
        found = self.told(drops[0].at[0])
        self.assertTrue(found.stands)
        self.assertRegex(found.summary, r"^\d+ lie here, the largest \d+\.\d mm in radius\.$")
        self.assertLessEqual({"slope", "region", "contact angle"}, {line.what for line in found.lines})

    def test_steep_sides_and_what_lies_outside_the_region_say_so(self):
        top = droplets(self.scene, "dew", self.beads, "wall")
        high = max(float(d.at[:, 1].max()) for d in top.values() if len(d))
        low, _ = self.scene.mesh("wall").bounds()
        outside = self.told([-0.5, high, -2.0])
        self.assertFalse(outside.stands)
        self.assertIn("region", outside.summary)
        side = self.told([1.0, high / 2, float(low[2]) + 6])
        self.assertFalse(side.stands)
        self.assertIn("slope", side.summary)

    def test_the_mask_is_one_where_they_may_form_and_none_elsewhere(self):
        mask = may_form(self.scene, "dew", self.beads, "wall")
        table = self.scene.table("wall", mask.shape[0])
        values, points = mask.reshape(-1)[table.index], table.points
        level = points.normals[:, 1] > 0.99
        inside = (points.positions[:, 0] > 0.02) & (points.positions[:, 0] < 1.98)
        self.assertGreater(values[level & inside].min(), 0.99)
        self.assertEqual(values[~(points.positions[:, 0] > 0)].max(), 0)
        self.assertEqual(values[points.normals[:, 1] < 0.5].max(), 0)

    def test_drawn_ones_stay_inside_the_region_as_well(self):
        drawn = self.beads.model_copy(update={"drawn": True})
        site = self.site.model_copy(deep=True)
        site.put("dew", drawn)
        scene = scene_of(site)
        film = dict(stack(scene, "wall"))["dew"]
        table = scene.table("wall", 256)
        values, points = cover(scene, "dew", film, "wall", 256), table.points
        inside = (points.positions[:, 0] > 0.02) & (points.positions[:, 0] < 1.98) & (points.normals[:, 1] > 0.99)
        self.assertGreater(values[inside].min(), 0.4)
        self.assertEqual(values[points.positions[:, 0] < 0].max(), 0)

    def test_the_plate_has_them_as_a_film_for_where_they_are_less_than_a_pixel_and_proofs_do_not(self):
        names = [name for name, _, _ in plate_stack(self.scene, "wall")]
        self.assertEqual(names, ["afar.dew"])
        self.assertEqual(stack(self.scene, "wall"), [])
        arrays, info = covers_parts(self.scene, ["wall"], 256)
        self.assertEqual(info["patinas"]["wall"], names)
        film = as_film(self.beads)
        table = self.scene.table("wall", 256)
        expected = table.spread(cover(self.scene, "dew", film, "wall", 256))
        np.testing.assert_allclose(arrays["wall"][0] / 255, expected, atol=0.003)
        self.assertIn("afar.dew", unlisted(self.scene))
