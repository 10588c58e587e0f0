"""Droplets: the shape of one by the theory of capillarity, how many grow and merge, where they form, what they look like."""

import unittest
from dataclasses import replace

import numpy as np

from cenote_core.beads.foot import foot_pool, rim_height, standing_pool
from cenote_core.beads.growth import Droplets, covered, grown, steps_until
from cenote_core.beads.landing import landed
from cenote_core.beads.lying import MOST_SEEN, bead_mesh, droplets, inside, shown
from cenote_core.beads.profile import CAPILLARY, SAMPLES, curve_of, foot_of, profiles, volume_of
from cenote_core.beads.running import RECEDES, Running, holds, ran, too_heavy
from cenote_core.beads.shape import bodies, outline_at, outlines, with_memory
from cenote_core.emit.beads import add_beads, too_far
from cenote_core.emit.detail import ROUGH
from cenote_core.emit.owners import add_owners
from cenote_core.emit.tables import Shot, Tables
from cenote_core.kinds import KINDS
from cenote_core.materials.waters import drops as drops_picture
from cenote_core.measures.slope import SlopeRule
from cenote_core.mesh.nearest import triangle_tree
from cenote_core.mesh.rays import RayScene
from cenote_core.patinas.bake import blend_values
from cenote_core.patinas.cover import stack, unlisted
from cenote_core.plan import BeadsPlan, PatinaUse, PiecePlan, Region, StationPlan, TouchPlan, WeatherPlan
from cenote_core.surfaces import channels

from .helpers import gate, scene_of, small_site


def cap(foot, degrees):
    """Volume of a cap of a ball with a foot and a contact angle."""
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    return np.pi * foot**3 / 3 * (2 - 3 * c + c**3) / s**3


def flat(count, side, seed=1):
    draw = np.random.default_rng(seed)
    at = np.column_stack([draw.random(count) * side, np.zeros(count), draw.random(count) * side])
    return at, np.tile([0, 1.0, 0], (count, 1))


class Shapes(unittest.TestCase):
    def test_small_ones_are_caps_of_balls_and_large_ones_as_high_as_weight_lets_them(self):
        for degrees in (20.0, 60.0, 90.0, 120.0):
            made = profiles(degrees)
            self.assertAlmostEqual(made.volume[0] / cap(made.radius[0], degrees), 1.0, places=3)
            highest = 2 * CAPILLARY * np.sin(np.radians(degrees) / 2)
            # A puddle of finite width is a little higher than one without end.
            self.assertTrue(1.0 <= made.height[-1] / highest < 1.06, (degrees, made.height[-1] / highest))

    def test_the_rim_meets_the_surface_at_the_contact_angle(self):
        for degrees in (30.0, 90.0, 140.0):
            made = profiles(degrees)
            step_out, step_down = made.out[10, -1] - made.out[10, -2], made.down[10, -1] - made.down[10, -2]
            self.assertAlmostEqual(np.degrees(np.arctan2(step_down, step_out)), degrees, delta=3.0)

    def test_foot_and_volume_are_each_others_inverse_and_curves_hold_the_volume(self):
        made = profiles(76.0)
        foot = np.array([2e-5, 3e-4, 1.1e-3, 4e-3, 9e-3])
        volume = volume_of(made, foot)
        np.testing.assert_allclose(foot_of(made, volume), foot, rtol=1e-6)
        out, down = curve_of(made, volume)
        self.assertEqual(out.shape, (5, SAMPLES))
        held = np.pi * np.trapezoid(out**2, down, axis=1)
        np.testing.assert_allclose(held, volume, rtol=0.02)

    def test_no_two_outlines_are_within_two_per_cent(self):
        count = 400
        names = np.random.default_rng(4).integers(0, 2**63, count).astype(np.uint64)
        turn = np.linspace(0, 2 * np.pi, 48, endpoint=False)
        round_ = outline_at(outlines(names, 0.5), turn)
        apart = np.sqrt(np.square(round_[:, None] - round_[None]).mean(axis=2)) + np.eye(count)
        self.assertGreater(apart.min(), 0.004)
        nearest = np.abs(round_[:, None] - round_[None]).max(axis=2) + np.eye(count)
        self.assertGreater(nearest.min(), 0.01)
        self.assertGreater(np.median(nearest.min(axis=1)), 0.02)

    def test_one_that_has_merged_is_longer_the_way_its_parents_lay(self):
        one = Droplets(
            np.zeros((1, 3)), np.array([[0, 1.0, 0]]), np.array([1e-9]), np.array([[0.2, 0, 0]]), np.zeros(1, np.int64)
        )
        made = profiles(80.0)
        mesh = bodies(one, made, 0.0, np.array([3]))
        size = np.ptp(mesh.positions, axis=0)
        self.assertAlmostEqual(size[0] / size[2], 1.2 / 0.8, delta=0.06)
        self.assertTrue((with_memory(np.zeros((1, 2, 5)), one)[0, :, 1:] == 0).all())

    def test_a_body_has_its_volume_and_looks_outward(self):
        volume = np.array([2e-10, 4e-9, 6e-8])
        count = len(volume)
        drops = Droplets(
            np.column_stack([np.arange(count) * 0.05, np.zeros(count), np.zeros(count)]),
            np.tile([0, 1.0, 0], (count, 1)), volume, np.zeros((count, 3)), np.arange(count),
        )  # fmt: skip
        mesh = bodies(drops, profiles(70.0), 0.0, np.full(count, 3))
        a, b, c = mesh.positions[mesh.faces].astype(float).transpose(1, 0, 2)
        self.assertGreater((np.cross(b - a, c - a)[:, 1] > 0).mean(), 0.95)
        # The space over the level of the surface between it and the skin.
        held = (np.cross(b - a, c - a)[:, 1] / 2 * (a + b + c)[:, 1] / 3).sum()
        self.assertAlmostEqual(held / volume.sum(), 1.0, delta=0.06)


class Growth(unittest.TestCase):
    def test_the_share_covered_levels_off_near_0_55(self):
        # Beysens and Knobler 1986: 0.55 while droplets merge, whatever their size.
        at, normal = flat(60_000, 0.1)
        shares = []
        for until in (0.0003, 0.00036, 0.00043):
            found = grown(at, normal, np.zeros(len(at), np.int64), 5e-5, until, 1.0)
            shares.append(covered(np.cbrt(found.volume), 0.01))
        np.testing.assert_allclose(shares, 0.555, atol=0.035)

    def test_merging_keeps_volume_and_the_middle_of_the_water(self):
        at, normal = flat(3000, 0.03)
        begun = grown(at, normal, np.zeros(3000, np.int64), 5e-5, 5e-5, 1.0)
        found = grown(at, normal, np.zeros(3000, np.int64), 5e-5, 3e-4, 1.0)
        self.assertLess(len(found), 0.8 * len(begun))
        # Each site's water has grown alike, so the whole is that of all sites.
        alone = np.cbrt(found.volume).min()
        self.assertAlmostEqual(found.volume.sum() / (3000 * alone**3), 1.0, delta=1e-6)
        middle = (found.at * found.volume[:, None]).sum(axis=0) / found.volume.sum()
        np.testing.assert_allclose(middle, at.mean(axis=0), atol=1e-9)

    def test_none_touch_in_the_end_and_it_comes_out_the_same_again(self):
        at, normal = flat(4000, 0.04)
        start = np.random.default_rng(2).integers(0, steps_until(5e-5, 6e-4), 4000)
        found = grown(at, normal, start, 5e-5, 6e-4, 1.0)
        radius = np.cbrt(found.volume)
        apart = np.linalg.norm(found.at[:, None] - found.at[None], axis=2)
        touch = (apart < radius[:, None] + radius[None]) & ~np.eye(len(radius), dtype=bool)
        self.assertLess(touch.sum() / 2, 0.01 * len(radius))
        again = grown(at, normal, start, 5e-5, 6e-4, 1.0)
        np.testing.assert_array_equal(found.at, again.at)
        self.assertGreater(radius.max() / radius.min(), 8, "sizes of all kinds")

    def test_the_two_sides_of_a_pane_do_not_merge(self):
        at, normal = flat(500, 0.02)
        both = np.concatenate([at, at - [0, 0.0002, 0]]), np.concatenate([normal, -normal])
        one = grown(at, normal, np.zeros(500, np.int64), 5e-5, 4e-4, 1.0)
        two = grown(*both, np.zeros(1000, np.int64), 5e-5, 4e-4, 1.0)
        self.assertAlmostEqual(len(two) / (2 * len(one)), 1.0, delta=0.02)

    def test_nothing_grows_where_there_are_no_sites(self):
        self.assertEqual(len(grown(np.zeros((0, 3)), np.zeros((0, 3)), np.zeros(0, np.int64), 5e-5, 1e-3, 1.0)), 0)


class RunDown(unittest.TestCase):
    """Droplets on a wall half a metre high that faces south."""

    angle = 70.0

    @classmethod
    def setUpClass(cls):
        corners = np.float32([[0, 0, 0], [0.4, 0, 0], [0.4, 0.5, 0], [0, 0.5, 0]])
        cls.wall = RayScene(corners, np.int32([[0, 1, 2], [0, 2, 3]]))

    def drops(self, foot, y, count=60):
        draw = np.random.default_rng(5)
        at = np.column_stack([np.linspace(0.02, 0.38, count), y + 0.02 * draw.random(count), np.zeros(count)])
        volume = volume_of(profiles(self.angle), np.full(count, foot))
        return Droplets(at, np.tile([0, 0, 1.0], (count, 1)), volume, np.zeros((count, 3)), np.arange(count) * 7919)

    def run_for(self, drops, seconds, **how):
        return ran(drops, profiles(self.angle), self.angle, self.wall, Running(seconds, **how))

    def test_furmidge_says_which_hold(self):
        made = profiles(self.angle)
        pull = np.cos(np.radians(self.angle * RECEDES)) - np.cos(np.radians(self.angle))
        np.testing.assert_allclose(holds(np.array([2e-3]), self.angle), 0.0728 * 4e-3 * pull)
        self.assertFalse(too_heavy(self.drops(1.2e-3, 0.4), made, self.angle).any())
        self.assertTrue(too_heavy(self.drops(5e-3, 0.4), made, self.angle).all())
        flat = self.drops(5e-3, 0.4)
        level = Droplets(flat.at, np.tile([0, 1.0, 0], (60, 1)), flat.volume, flat.memory, flat.name)
        self.assertFalse(too_heavy(level, made, self.angle).any(), "on what is level all hold")

    def test_light_ones_stay_where_they_are(self):
        drops = self.drops(1.2e-3, 0.4)
        found = self.run_for(drops, 5.0)
        self.assertIs(found.drops, drops)
        self.assertEqual(len(found.off), 0)

    def test_volume_is_kept_in_drops_trails_and_what_ran_off(self):
        heavy, light = self.drops(4e-3, 0.42, 12), self.drops(1e-3, 0.2, 90)
        names = Droplets.__dataclass_fields__
        both = Droplets(*(np.concatenate([getattr(d, n) for d in (heavy, light)]) for n in names))
        for seconds in (1.0, 4.0, 30.0):
            found = self.run_for(both, seconds)
            there, fell = found.drops.volume.sum(), found.off.volume.sum()
            self.assertAlmostEqual((there + fell) / both.volume.sum(), 1.0, places=9)
        self.assertGreater(fell, 0, "after half a minute some have come to the lower edge")
        self.assertTrue((found.drops.at[:, 1] > -0.001).all())
        np.testing.assert_array_equal(found.drops.at, self.run_for(both, 30.0).drops.at)
        dried = self.run_for(both, 30.0, dries=6.0)
        whole = dried.drops.volume.sum() + dried.off.volume.sum() + dried.dried
        self.assertAlmostEqual(whole / both.volume.sum(), 1.0, places=9)
        self.assertGreater(dried.dried, 0)
        self.assertLess(len(dried.drops), len(found.drops))

    def test_wind_pushes_them_aside_and_no_pull_leaves_them(self):
        heavy = self.drops(4e-3, 0.42, 12)
        middle = lambda **how: float(self.run_for(heavy, 2.0, **how).drops.at[:, 0].mean())  # noqa: E731
        self.assertGreater(middle(wind=(25.0, 0.0, 0.0)), middle() + 0.003)
        self.assertLess(middle(wind=(-25.0, 0.0, 0.0)), middle() - 0.003)
        still = self.run_for(heavy, 5.0, pull=0.0)
        self.assertIs(still.drops, heavy)
        slow, fast = (self.run_for(heavy, 1.0, speed=v).drops.at[:, 1].min() for v in (0.02, 0.08))
        self.assertLess(fast, slow - 0.02)

    def test_what_falls_off_lies_below_and_what_meets_there_is_one(self):
        floor = np.float32([[-1, -0.4, -1], [1, -0.4, -1], [1, -0.4, 1], [-1, -0.4, 1]])
        below = RayScene(floor, np.int32([[0, 2, 1], [0, 3, 2]]))
        off = self.drops(4e-3, 0.0, 12)
        found = landed(off, profiles(self.angle), below)
        np.testing.assert_allclose(found.at[:, 1], -0.4, atol=1e-6)
        np.testing.assert_allclose(found.normal, [[0, 1, 0]] * len(found), atol=1e-6)
        self.assertAlmostEqual(found.volume.sum() / off.volume.sum(), 1.0, places=9)
        close = self.drops(4e-3, 0.0, 120)
        one = landed(close, profiles(self.angle), below)
        self.assertLess(len(one), 60)
        self.assertAlmostEqual(one.volume.sum() / close.volume.sum(), 1.0, places=9)
        nothing = RayScene(floor + np.float32([9, 0, 0]), np.int32([[0, 2, 1], [0, 3, 2]]))
        self.assertEqual(len(landed(off, profiles(self.angle), nothing)), 0)

    def test_they_go_down_leave_small_beads_and_take_up_what_is_in_their_way(self):
        heavy = self.drops(4e-3, 0.42, 12)
        early, late = (self.run_for(heavy, seconds).drops for seconds in (1.0, 3.0))
        top = lambda found: found.at[np.argsort(-found.volume)[:6], 1].mean()  # noqa: E731
        self.assertLess(top(early), 0.42)
        self.assertLess(top(late), top(early) - 0.01)
        self.assertGreater(len(late), len(early))
        self.assertLess(np.median(late.volume), 0.2 * heavy.volume[0], "a trail of smaller ones")
        below = self.drops(1e-3, 0.3, 200)
        names = Droplets.__dataclass_fields__
        both = Droplets(*(np.concatenate([getattr(d, n) for d in (heavy, below)]) for n in names))
        found = self.run_for(both, 8.0).drops
        kept = np.isin(found.name, below.name).sum()
        self.assertLess(kept, 190)
        self.assertGreater(kept, 40)


class OnASite(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.site = small_site()
        cls.site.put("bucket", PiecePlan(name="bucket", asset="bucket", position=(2, 0, 2), foot_width=0.0))

    def plan(self, **more):
        return BeadsPlan(name="dew", size=2.0, between=0.0, uses=[PatinaUse(surface="bucket/zinc")], **more)

    def found(self, plan, site=None):
        return droplets(scene_of(site or self.site), "b", plan, "bucket")[plan.angle or 70.0]

    def test_they_lie_on_the_surface_in_the_sizes_that_are_asked_for(self):
        scene = scene_of(self.site)
        found = self.found(self.plan())
        self.assertGreater(len(found), 500)
        away = scene.pieces_tree(["bucket"]).distance(found.at.astype(np.float32))
        self.assertLess(np.quantile(away, 0.99), 0.0015)
        foot = foot_of(profiles(70.0), found.volume) * 1000
        self.assertTrue(1.2 < np.quantile(foot, 0.9) < 3.5, np.quantile(foot, 0.9))
        mesh = bead_mesh(scene, "b", self.plan(), "bucket")
        low, high = scene.mesh("bucket").bounds()
        self.assertTrue((mesh.positions > low - 0.01).all() and (mesh.positions < high + 0.01).all())

    def test_rules_regions_and_paint_say_where(self):
        whole = len(self.found(self.plan()))
        level = self.found(self.plan(rules=[SlopeRule(gate=gate(0, 0, 20, 25))]))
        self.assertLess(len(level), 0.5 * whole)
        self.assertGreater(np.abs(level.normal[:, 1]).mean(), 0.8)
        region = Region(shape="box", centre=(2, 0.06, 2), width=1, height=0.12, depth=1, soft=0.0)
        low = self.found(self.plan(regions=[region]))
        self.assertTrue(0 < len(low) < whole)
        self.assertLess(low.at[:, 1].max(), 0.125)
        site = small_site()
        site.put("bucket", self.site.pieces["bucket"])
        wipe = TouchPlan(
            name="wiped",
            target="b",
            action="erase",
            owner="bucket",
            points=[(0, 0.1, 0.12)],
            radius=0.08,
            falloff=0,
        )
        site.put("t", wipe)
        wiped = self.found(self.plan(), site)
        near, before = (
            (np.linalg.norm(drops.at - [2, 0.1, 2.12], axis=1) < 0.05).sum()
            for drops in (wiped, self.found(self.plan()))
        )
        # Where two parts of the unwrap meet, a texel of the one may stand for the other.
        self.assertLess(near, 0.08 * before)
        self.assertGreater(len(wiped), 0.6 * whole)

    def test_as_many_are_sent_as_can_be_drawn_even_if_all_are_alike(self):
        scene = scene_of(self.site)
        ground = BeadsPlan(name="mist", size=0.05, between=0, uses=[PatinaUse(surface="ground/ground")])
        mesh = bead_mesh(scene, "b", ground, "ground")
        self.assertTrue(0.9 * MOST_SEEN < len(mesh.faces) <= MOST_SEEN)

    def test_the_share_of_a_region_is_soft(self):
        ball = Region(shape="ball", centre=(0, 0, 0), width=2.0, soft=0.5)
        at = np.array([[0, 0, 0], [0.4, 0, 0], [0.75, 0, 0], [1.01, 0, 0]])
        np.testing.assert_allclose(inside([ball], at), [1, 1, 0.5, 0], atol=1e-9)
        np.testing.assert_array_equal(inside([], at), 1)

    def test_it_says_why_there_are_none_and_how_to_get_some(self):
        effect, scene = KINDS["beads"].effect, scene_of(self.site)
        self.assertGreater(effect(scene, "b", self.plan()).amount, 500)
        self.assertIn("No surface", effect(scene, "b", BeadsPlan(name="dew")).reason)
        gone = BeadsPlan(name="dew", uses=[PatinaUse(surface="nowhere/zinc")])
        self.assertIn("no longer", effect(scene, "b", gone).reason)
        slot = BeadsPlan(name="dew", uses=[PatinaUse(surface="bucket/glass")])
        self.assertIn("no longer", effect(scene, "b", slot).reason)
        away = self.plan(regions=[Region(centre=(50, 50, 50))])
        cured = effect(scene, "b", away)
        self.assertIn("region", cured.reason)
        self.assertGreater(effect(scene, "b", BeadsPlan(**cured.plan)).amount, 0)
        none = self.plan(rules=[SlopeRule(gate=gate(170, 171, 172, 173))])
        self.assertEqual(effect(scene, "b", none).cure, "take the rules off")


class OnPanes(unittest.TestCase):
    """Rain stands and runs on glass by itself."""

    def beads(self, **weather):
        site = small_site()
        site.put("lamp", PiecePlan(name="lamp", asset="lamp", position=(3, 0, 2), foot_width=0.0))
        site.weather = WeatherPlan(**weather)
        return shown(scene_of(site))

    def test_it_comes_with_rain_and_on_glass_only(self):
        self.assertEqual(self.beads(), [])
        (key, plan), *more = self.beads(rain=8.0, wind_from=90.0)
        self.assertEqual((key, more), ("rain-on-panes", []))
        self.assertEqual([use.surface for use in plan.uses], ["lamp/pane"])
        self.assertEqual(plan.rules[0].toward, 90.0)
        self.assertGreater(self.beads(rain=16.0)[0][1].runs, plan.runs)


class AtTheFoot(unittest.TestCase):
    """A pool round the foot of a thing: its volume, its edge, and where it ends."""

    @classmethod
    def setUpClass(cls):
        site = small_site(material="concrete")
        site.pieces.clear()
        site.put("bucket", PiecePlan(name="bucket", asset="bucket", position=(0, 0, 0), foot_width=0.0))
        cls.scene = scene_of(site)

    def pool(self, **more):
        plan = BeadsPlan(name="sweat", uses=[PatinaUse(surface="bucket/zinc")], **{"pool": 40.0, "angle": 60.0, **more})
        return standing_pool(self.scene, plan, "bucket", 3)

    def test_as_much_stands_there_as_was_asked_for(self):
        for asked in (15.0, 40.0, 120.0):
            height, (x, _), _ = self.pool(pool=asked)
            cell = float(x[0, 1] - x[0, 0])
            self.assertAlmostEqual(height.sum() * cell**2 * 1e6 / asked, 1.0, delta=0.03)
        self.assertIsNone(self.pool(pool=0.0))

    def test_it_is_as_high_as_weight_lets_it_and_round_at_its_edge(self):
        for angle in (40.0, 60.0, 90.0):
            height, _, _ = self.pool(pool=200.0, angle=angle)
            level = 2 * CAPILLARY * np.sin(np.radians(angle) / 2)
            self.assertAlmostEqual(float(height.max()) / level, 1.0, delta=0.06)
        inward = np.linspace(0, 0.006, 400)
        rim = rim_height(60.0, inward)
        self.assertTrue((np.diff(rim) >= 0).all() and rim[0] == 0)
        # It begins as steep as its contact angle and bends over.
        steep = np.degrees(np.arctan2(rim[4], inward[4]))
        self.assertAlmostEqual(float(steep), 60.0, delta=8.0)
        self.assertLess(np.diff(rim)[380], 0.1 * np.diff(rim)[2])

    def test_it_ends_where_what_it_stands_on_ends(self):
        site = small_site()
        site.pieces.clear()
        site.put("ledge", PiecePlan(name="ledge", asset="ledge", position=(0, 0, 0), foot_width=0.0))
        top = float(scene_of(site).mesh("ledge").bounds()[1][1])
        at = (float(scene_of(site).mesh("ledge").bounds()[1][0]) - 0.16, top, 0.0)
        site.put("bucket", PiecePlan(name="bucket", asset="bucket", position=at, foot_width=0.0))
        scene = scene_of(site)
        plan = BeadsPlan(name="sweat", uses=[PatinaUse(surface="bucket/zinc")], pool=300.0, angle=60.0)
        height, (x, _), _ = standing_pool(scene, plan, "bucket", 3)
        self.assertLess(x[height > 0].max(), float(scene.mesh("ledge").bounds()[1][0]) + 0.005)

    def test_its_sheet_is_part_of_what_is_drawn(self):
        plan = BeadsPlan(name="sweat", uses=[PatinaUse(surface="bucket/zinc")], pool=40.0, amount=0.05)
        with_pool = bead_mesh(self.scene, "b", plan, "bucket")
        without = bead_mesh(self.scene, "b", plan.model_copy(update={"pool": 0.0}), "bucket")
        sheet = foot_pool(self.scene, "b", plan, "bucket")
        self.assertEqual(len(with_pool.faces), len(without.faces) + len(sheet.faces))
        self.assertGreater(sheet.normals[:, 1].mean(), 0.8)


class Drawn(unittest.TestCase):
    """Droplets laid over a surface as relief and gloss."""

    def site(self, **more):
        site = small_site()
        site.put("b", BeadsPlan(name="drops", drawn=True, uses=[PatinaUse(surface="wall/stone")], **more))
        return site

    def test_they_are_a_film_on_top_of_all_and_no_bodies(self):
        site = self.site(size=4.0)
        scene = scene_of(site)
        key, film = stack(scene, "wall")[-1]
        self.assertEqual((key, film.finish.material, film.finish.scale), ("b", "drops", 2.0))
        self.assertEqual(shown(scene), [])
        self.assertIn("b", unlisted(scene))
        site.put("b", site.of(BeadsPlan)["b"].model_copy(update={"drawn": False}))
        self.assertEqual([key for key, _ in shown(scene_of(site))], ["b"])
        self.assertNotIn("b", unlisted(scene_of(site)))

    def test_the_surface_keeps_its_colour_and_shines_where_they_lie(self):
        scene = scene_of(self.site())
        (key, film) = stack(scene, "wall")[-1]
        uv = np.random.default_rng(4).random((4000, 2)).astype(np.float32) * 0.06
        slots = np.zeros(4000, np.int32)
        bare = blend_values(scene, "wall", uv, uv, slots, [])
        drops = blend_values(scene, "wall", uv, uv, slots, [(film, np.full(4000, film.amount, np.float32))])
        rough = channels.ROUGHNESS
        on = drops[:, rough] < 0.2
        self.assertTrue(0.25 < on.mean() < 0.8, on.mean())
        self.assertGreater(bare[:, rough].min(), 0.4)
        ratio = drops[:, channels.COLOUR].sum(axis=1) / bare[:, channels.COLOUR].sum(axis=1)
        self.assertTrue((ratio > 0.7).all() and (ratio < 1.3).all())
        np.testing.assert_allclose(drops[drops[:, rough] > 0.4][:, rough].mean(), bare[:, rough].mean(), rtol=0.15)

    def test_drops_of_the_picture_lie_side_by_side_and_go_on_over_its_rim(self):
        made = drops_picture(256, 1)
        height = made.height.astype(float)
        self.assertTrue(0.3 < (height > 4).mean() < 0.75)
        seam = np.abs(height[0] - height[-1]).mean()
        self.assertLess(seam, 2.0 * np.abs(np.diff(height, axis=0)).mean())


class ByHand(unittest.TestCase):
    """Strokes that lay droplets one after another."""

    @classmethod
    def setUpClass(cls):
        cls.site = small_site()
        cls.site.pieces.clear()
        cls.site.put("bucket", PiecePlan(name="bucket", asset="bucket", position=(0, 0, 0), foot_width=0.0))
        turn = np.linspace(-0.6, 0.6, 13)
        out = np.column_stack([np.sin(turn), 0 * turn, np.cos(turn)])
        start = (out * 0.5 + [0, 0.12, 0]).astype(np.float32)
        cls.path = scene_of(cls.site).rays(("bucket",)).meet(start, (-out).astype(np.float32), 1.0).positions

    def laid(self, *more, **stroke):
        site = small_site()
        site.pieces.clear()
        site.put("bucket", self.site.pieces["bucket"])
        path = [tuple(float(v) for v in p) for p in self.path]
        asked = {"radius": 0.02, "falloff": 0.0, "strength": 1.0, "action": "lay", **stroke}
        site.put("t-1", TouchPlan(target="b", owner="bucket", points=path, order=1, **asked))
        for number, touch in enumerate(more, start=2):
            site.put(f"t-{number}", TouchPlan(target="b", owner="bucket", points=path, order=number, **touch))
        plan = BeadsPlan(name="b", size=1.5, amount=0.0, uses=[PatinaUse(surface="bucket/zinc")])
        site.put("b", plan)
        (found,) = droplets(scene_of(site), "b", plan, "bucket").values()
        return found

    def test_they_lie_on_the_surface_at_even_distances_in_it(self):
        found = self.laid()
        order = np.argsort(found.at[:, 0])
        apart = np.linalg.norm(np.diff(found.at[order], axis=0), axis=1)
        self.assertGreater(len(found), 20)
        self.assertLess(apart.std() / apart.mean(), 0.15)
        mesh = scene_of(self.site).mesh("bucket")
        away = triangle_tree(mesh.positions, mesh.faces).distance(found.at.astype(np.float32), 0.05)
        self.assertLess(away.max(), 2e-4)
        self.assertGreater((found.normal * (found.at * [1, 0, 1])).sum(axis=1).min(), 0, "they look outward")
        np.testing.assert_array_equal(found.at, self.laid().at)

    def test_a_soft_brush_scatters_them_and_a_weak_one_leaves_gaps(self):
        spread = lambda found: float(found.at[:, 1].std())  # noqa: E731
        self.assertGreater(spread(self.laid(falloff=1.0)), 3 * spread(self.laid()) + 1e-3)
        self.assertLess(len(self.laid(strength=0.4)), 0.7 * len(self.laid()))

    def test_what_is_erased_after_is_gone(self):
        self.assertEqual(len(self.laid({"action": "erase", "radius": 0.05})), 0)
        self.assertLess(len(self.laid({"action": "less", "radius": 0.05, "strength": 0.5})), 0.9 * len(self.laid()))


class FromAfar(unittest.TestCase):
    """What is far is drawn by itself, even where droplets are shaped."""

    def test_droplets_of_less_than_a_pixel_are_films_and_nearer_ones_bodies(self):
        site = small_site()
        site.put("bucket", PiecePlan(name="bucket", asset="bucket", position=(2, 0, 2), foot_width=0.0))
        site.put("b", BeadsPlan(name="dew", size=2.0, amount=0.1, uses=[PatinaUse(surface="bucket/zinc")]))
        scene = scene_of(site)
        meshes = {owner: scene.mesh(owner) for owner in scene.owners()}
        made = {}
        for away in (0.6, 40.0):
            station = StationPlan(name="s", position=(2, 0.2, 2 + away), target=(2, 0.2, 2))
            shot = Shot(scene, meshes, station, (640, 400), replace(ROUGH, page_side=0))
            owners, drops = Tables(), Tables()
            add_owners(owners, shot, ["bucket"])
            add_beads(drops, shot)
            made[away] = len(too_far(shot, "bucket")), len(owners.layers), len(drops.parts)
        (near, near_layers, near_parts), (far, far_layers, far_parts) = made[0.6], made[40.0]
        self.assertEqual((near, far), (0, 1))
        self.assertEqual(far_layers, near_layers + 1)
        self.assertEqual((near_parts > 0, far_parts), (True, 0))
