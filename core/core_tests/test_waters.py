"""Still and running water: where it is, how it runs, its waves, and the light they throw."""

import unittest

import numpy as np
from scipy.ndimage import map_coordinates
from scipy.spatial import cKDTree

from cenote_core.columns.grid import columns_of
from cenote_core.drifts.instancing import build_instances
from cenote_core.eaves.drips import all_drips
from cenote_core.explained import why_here
from cenote_core.ground.terrain import height_at
from cenote_core.measures.water import WaterRule
from cenote_core.mesh.mesh import Points
from cenote_core.plan import Basin, Cut, PiecePlan, Terrace, Water, WeatherPlan
from cenote_core.pools.standing import standing_water
from cenote_core.pools.wetness import damp_map
from cenote_core.scene import land
from cenote_core.scene.measuring import RuleContext, measure
from cenote_core.snow.cover import snow_cover
from cenote_core.surfaces.water import BENT, BENT_LEVERS, MIRRORED_LEVERS, TILE
from cenote_core.waters.bodies import sections, waters
from cenote_core.waters.light import pattern, patterns
from cenote_core.waters.look import BRIGHTEST, loses, meets_mud, mirrored, ripples
from cenote_core.waters.sheet import sheet, waves_of
from cenote_core.waters.waves import COUNT, flow_waves, on_tile, surface, wind_waves

from .helpers import bare_ground, drift, gate, scene_of

POND = Water(centre=(0, 0), level=-0.3)


def pond(**more):
    site = bare_ground(cell=0.25)
    hollow = Basin(centre=(0, 0), radius=5, floor=-1.0, rim=0.0, inside=3.0)
    site.ground = site.ground.model_copy(update={"forms": [hollow, POND.model_copy(update=more)]})
    return site


def brook(flow=40.0, narrow=False):
    """A ditch down a slope from west to east; `narrow` in its second half."""
    site = bare_ground(cell=0.1)
    slope = Terrace(start=(10, 20), end=(10, -20), height=0.8, run=20)
    lines = [Cut(line=[(-9, 0), (9, 0)], width=1.6, depth=0.4, bank=0.3, water=0.2, flow=flow)]
    if narrow:
        lines = [Cut(line=[(-9, 0), (9, 0)], width=0.5, depth=0.4, bank=0.3, water=0.2, flow=flow)]
    site.ground = site.ground.model_copy(update={"forms": [slope, *lines]})
    return site


class Pond(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.scene = scene_of(pond())
        cls.found = waters(cls.scene)
        cls.columns = columns_of(cls.scene, "ground")

    def test_it_lies_level_over_what_is_below_it_and_nowhere_else(self):
        wet = self.found.depth > 0
        np.testing.assert_array_equal(self.found.level[wet], -0.3)
        np.testing.assert_allclose(self.found.depth[wet], -0.3 - self.columns.height[wet])
        self.assertTrue((self.columns.height[~wet & self.columns.there] > -0.3 - 0.01).all())
        np.testing.assert_array_equal(self.found.speed, 0)

    def test_a_place_on_dry_land_has_none(self):
        self.assertFalse((waters(scene_of(pond(level=-2.0))).depth > 0).any())
        self.assertFalse((waters(scene_of(pond(centre=(90.0, 0.0)))).depth > 0).any())

    def test_its_sheet_ends_where_its_bed_rises_through_it(self):
        found = sheet(self.scene, 0)
        mesh = found.mesh
        np.testing.assert_allclose(mesh.positions[:, 1], -0.3, atol=1e-6)
        self.assertTrue((mesh.normals[:, 1] > 0.999).all())
        # On the shore it is as deep as nothing; its area is that of the ground below its level.
        area = (
            np.linalg.norm(np.cross(*np.moveaxis(np.diff(mesh.positions[mesh.faces], axis=1), 1, 0)), axis=1).sum() / 2
        )
        self.assertAlmostEqual(area / ((self.found.depth > 0).sum() * self.columns.cell**2), 1.0, delta=0.05)
        rim = np.hypot(mesh.positions[:, 0], mesh.positions[:, 2])
        self.assertLess(found.depth[rim > rim.max() - 0.05].max(), 0.08)

    def test_its_shore_is_wet_in_dry_weather_and_what_lies_higher_is_not(self):
        values = damp_map(self.scene, "ground")[..., 0]
        table = self.scene.table("ground", values.shape[0])
        height, wet = table.points.positions[:, 1], values.reshape(-1)[table.index]
        self.assertGreater(wet[height < -0.35].min(), 0.9)
        self.assertGreater(wet[(height > -0.29) & (height < -0.25)].mean(), 0.25)
        np.testing.assert_array_equal(wet[height > -0.05], 0)

    def test_snow_and_rain_that_fall_into_it_are_gone(self):
        site = pond()
        site.weather = WeatherPlan(snow=12.0, standing=20.0)
        scene = scene_of(site)
        mesh = snow_cover(scene, "ground").mesh
        self.assertGreater(np.hypot(mesh.positions[:, 0], mesh.positions[:, 2]).min(), 2.5)
        rained = standing_water(scene, "ground", 0.02)
        np.testing.assert_array_equal(rained.depth[self.found.depth > 0], 0)


class Brook(unittest.TestCase):
    def test_it_falls_all_along_and_its_water_is_as_deep_as_asked(self):
        scene = scene_of(brook())
        found = waters(scene)
        run = sections(scene, scene.site.ground.waters()[0])
        self.assertTrue((np.diff(run.level) <= 1e-9).all())
        self.assertLess(run.level[-1], run.level[0] - 0.3)
        deep = found.depth.max(axis=0)
        self.assertAlmostEqual(float(np.median(deep[deep > 0])), 0.2, delta=0.03)

    def test_it_cuts_through_what_rises_in_its_way(self):
        site = brook()
        ridge = Terrace(start=(2, -20), end=(2, 20), height=0.7, run=1.0)
        forms = [ridge, *site.ground.forms[1:]]
        site.ground = site.ground.model_copy(update={"forms": forms})
        scene = scene_of(site)
        x = np.linspace(-8, 8, 60)
        floor = height_at(site.ground, land.heights(scene), np.column_stack([x, 0 * x]))
        self.assertTrue((np.diff(floor) < 0.02).all(), np.diff(floor).max())
        dry = [form.model_copy(update={"water": 0.0}) if isinstance(form, Cut) else form for form in forms]
        site.ground = site.ground.model_copy(update={"forms": dry})
        floor = height_at(site.ground, land.heights(scene_of(site)), np.column_stack([x, 0 * x]))
        self.assertGreater(np.diff(floor).max(), 0.02, "a dry ditch follows the ground")

    def test_as_much_runs_through_every_section_and_faster_where_it_is_narrow(self):
        for site in (brook(), brook(narrow=True)):
            scene = scene_of(site)
            found, columns = waters(scene), columns_of(scene, "ground")
            through = (found.speed[..., 0] * found.depth).sum(axis=0) * columns.cell * 1000
            middle = through[len(through) // 4 : -len(through) // 4]
            np.testing.assert_allclose(middle.mean(), 40.0, rtol=0.12)
        fast = [np.abs(waters(scene_of(site)).speed).max() for site in (brook(), brook(narrow=True))]
        self.assertGreater(fast[1], 1.4 * fast[0])

    def test_it_is_white_where_it_breaks_and_clear_where_it_is_slow(self):
        slow, fast = (sheet(scene_of(brook(flow)), 0).foam for flow in (8.0, 600.0))
        self.assertLess(slow.mean(), 0.02)
        self.assertGreater(fast.mean(), 0.2)

    def test_its_edge_is_a_shore_that_measures_know(self):
        site = brook()
        scene = scene_of(site)
        found, columns = waters(scene), columns_of(scene, "ground")
        rng = np.random.default_rng(6)
        at = np.column_stack([rng.uniform(-7, 7, 300), np.zeros(300), rng.uniform(-2, 2, 300)])
        at[:, 1] = height_at(site.ground, land.heights(scene), at[:, [0, 2]])
        points = Points(at.astype(np.float32), np.tile(np.float32([0, 1, 0]), (300, 1)), np.zeros((300, 2), np.float32),
                        np.zeros(300, np.int32), np.ones(300, np.float32))  # fmt: skip
        rule = WaterRule(gate=gate(0, 0, 1, 2))
        values = measure(scene, "ground", points, rule, RuleContext("p"))
        # By force: the nearest node of the other kind, which is the edge to within a cell.
        wet = found.depth > 0
        places = columns.places()[..., [0, 2]]
        to_wet, to_dry = (cKDTree(places[which]).query(at[:, [0, 2]])[0] for which in (wet, ~wet))
        np.testing.assert_allclose(np.abs(values), np.maximum(to_wet, to_dry), atol=1.5 * columns.cell)
        deep = map_depth(columns, found, at)
        # A quarter of a cell from the edge at least: nearer, depth between nodes says nothing of the side.
        self.assertTrue((values[(deep > 0.03) & (np.abs(values) > columns.cell / 4)] < 0).all())
        self.assertTrue((values[to_wet > 2 * columns.cell] > 0).all())

    def test_reeds_keep_their_feet_in_it(self):
        site = brook()
        reeds = drift(density=30, spacing=0.05, rules=[WaterRule(gate=gate(-5, -5, -0.02, 0.0))], keep_outs=[])
        site.put("reeds", reeds)
        scene = scene_of(site)
        stand = build_instances(scene, "reeds", reeds).position
        self.assertGreater(len(stand), 20)
        columns = columns_of(scene, "ground")
        self.assertGreater((map_depth(columns, waters(scene), stand) > 0).mean(), 0.97)
        self.assertLess(np.abs(stand[:, 2]).max(), 1.1 + columns.cell)


def map_depth(columns, found, at):
    """(N,) metres of water at places (N, 3)."""
    return map_coordinates(found.depth, np.stack(columns.node_of(at[:, [0, 2]])), order=1)


class Foam(unittest.TestCase):
    def still(self, foam=1.0, **weather):
        site = pond(foam=foam)
        site.weather = WeatherPlan(wind=2.0, **weather)
        return site, sheet(scene_of(site), 0)

    def test_calm_water_has_none_and_more_of_it_gathers_along_the_edges(self):
        self.assertEqual(self.still()[1].foam.max(), 0)
        _, found = self.still(2.0)
        away = np.hypot(found.mesh.positions[:, 0], found.mesh.positions[:, 2])
        edge = away > np.quantile(away, 0.9)
        self.assertGreater(found.foam[edge].mean(), 0.2)
        self.assertEqual(found.foam[away < np.quantile(away, 0.4)].max(), 0)

    def test_drips_beat_it_white_where_they_strike(self):
        site = pond()
        site.weather = WeatherPlan(wind=0.0, rain=8.0, wetness=1.0)
        site.put("shelter", PiecePlan(name="shelter", asset="shelter", position=(0, 0.4, 0), foot_width=0.0))
        scene = scene_of(site)
        falls = all_drips(scene)
        found = sheet(scene, 0)
        white = found.mesh.positions[found.foam > 0.2]
        self.assertGreater(len(white), 5)
        away = cKDTree(falls.at[:, [0, 2]]).query(white[:, [0, 2]])[0]
        self.assertLess(away.max(), 0.25)
        none = site.ground.forms[-1].model_copy(update={"foam": 0.0})
        site.ground = site.ground.model_copy(update={"forms": [*site.ground.forms[:-1], none]})
        self.assertEqual(sheet(scene_of(site), 0).foam.max(), 0)


class Mirrored(unittest.TestCase):
    def test_as_the_plate_reads_them_patterns_throw_as_much_light_as_level_water(self):
        scene = scene_of(pond())
        planes = (mirrored(scene, 0).astype(float) / 255) ** 2 * BRIGHTEST
        self.assertEqual(planes.shape[0], len(MIRRORED_LEVERS))
        np.testing.assert_allclose(planes.mean(axis=(1, 2)), 1.0, atol=0.03)
        exact = patterns(waves_of(scene, POND), scene.site.weather.moment)[len(BENT_LEVERS) :]
        np.testing.assert_allclose(planes, np.clip(exact, 0, BRIGHTEST), atol=0.05)


class Told(unittest.TestCase):
    def test_why_here_tells_depth_and_speed_of_the_water_over_a_spot(self):
        scene = scene_of(pond())
        found = [v for v in why_here(scene, "ground", np.array([0.0, -1.0, 0.0])) if v.kind == "water"]
        self.assertEqual(found[0].summary, "70 cm deep.")
        self.assertIn("stands still", found[0].lines[1].text)
        self.assertFalse([v for v in why_here(scene, "ground", np.array([8.0, 0.0, 8.0])) if v.kind == "water"])


class Waves(unittest.TestCase):
    def test_they_repeat_without_a_seam(self):
        at = np.random.default_rng(2).random((50, 2)) * 5
        for waves in (wind_waves(6.0, 200.0), flow_waves(np.array([0.4, 0.1]))):
            for k in range(2):
                one, other = surface(waves, at, 3.0), surface(waves, at + np.eye(2)[k] * TILE, 3.0)
                np.testing.assert_allclose(one[0], other[0], atol=1e-9)
                np.testing.assert_allclose(one[1], other[1], atol=1e-9)

    def test_slopes_are_those_of_the_heights_and_of_the_tile(self):
        waves, at, tiny = wind_waves(5.0, 90.0), np.random.default_rng(3).random((40, 2)), 1e-5
        _, slope = surface(waves, at, 1.0)
        for k in range(2):
            step = np.eye(2)[k] * tiny
            found = (surface(waves, at + step, 1.0)[0] - surface(waves, at - step, 1.0)[0]) / (2 * tiny)
            np.testing.assert_allclose(slope[:, k], found, atol=1e-5)
        tile = on_tile(waves, 32, 1.0)
        x, z = np.meshgrid((np.arange(32) + 0.5) * TILE / 32, (np.arange(32) + 0.5) * TILE / 32)
        np.testing.assert_allclose(tile.reshape(-1, 2), surface(waves, np.column_stack([x.ravel(), z.ravel()]), 1.0)[1])

    def test_more_wind_makes_them_steeper_and_they_run_with_it(self):
        steep = [(on_tile(wind_waves(wind, 250.0), 64, 0.0) ** 2).sum(axis=-1).mean() for wind in (0.0, 4.0, 12.0)]
        self.assertTrue(steep[0] < steep[1] < steep[2])
        waves = wind_waves(6.0, 270.0)
        self.assertGreater((waves.vectors[:, 0] > 0).mean(), 0.9, "wind from the west drives them east")
        self.assertEqual(len(waves.height), COUNT)

    def test_long_ones_of_deep_water_run_faster_than_short_ones(self):
        waves = wind_waves(6.0, 270.0)
        k = np.linalg.norm(waves.vectors, axis=1)
        long_, short = k < np.quantile(k, 0.2), np.abs(k - 2 * np.pi / 0.15) < 8
        speed = waves.rate / k
        self.assertGreater(speed[long_].mean(), 1.5 * speed[short].mean())
        # A gravity wave of 1.8 m runs at √(g λ / 2π) = 1.68 m/s.
        self.assertAlmostEqual(float(speed.max()), 1.68, delta=0.15)

    def test_the_picture_of_them_holds_their_slopes(self):
        scene = scene_of(pond())
        material, relief = ripples(scene, 0)
        lean = (material.normal[..., :2].astype(float) / 127.5 - 1) * relief * [-1, 1]
        now = scene.site.weather
        expected = on_tile(wind_waves(now.wind, now.wind_from), material.size, now.moment)
        self.assertLess(np.abs(lean - expected).mean(), 0.02 * np.abs(expected).mean() + relief / 127)


class Light(unittest.TestCase):
    def test_as_much_arrives_as_was_sent_and_none_is_bundled_by_level_water(self):
        waves = wind_waves(5.0, 30.0)
        for lever in (0.01, 0.27, -2.43):
            self.assertAlmostEqual(float(pattern(waves, 0.0, lever, 64).mean()), 1.0, places=5)
        level = type(waves)(waves.number, waves.height * 0, waves.rate)
        np.testing.assert_allclose(pattern(level, 0.0, 0.27, 64), 1.0, atol=1e-5)
        self.assertEqual(patterns(waves, 0.0).shape[0], len(BENT_LEVERS) + len(MIRRORED_LEVERS))

    def test_a_crest_bundles_what_goes_through_it_as_a_lens_does(self):
        """One wave of height a: far from its focus light is 1 / (1 + lever · h″), h″ = −a k² on a crest."""
        base = wind_waves(0.0, 0.0)
        number = np.zeros_like(base.number)
        number[:, 0] = 2
        height = np.zeros_like(base.height)
        height[0] = 0.02
        one = type(base)(number, height, base.rate * 0)
        k = 2 * 2 * np.pi / TILE
        lever = 0.3 / (0.02 * k * k)
        found = pattern(one, 0.0, lever, 128)[64]
        self.assertAlmostEqual(float(found.max()), 1 / (1 - 0.3), delta=0.05)
        self.assertAlmostEqual(float(found.min()), 1 / (1 + 0.3), delta=0.03)
        crest = np.argmax(np.sin(k * (np.arange(128) + 0.5) * TILE / 128 + one.phase[0]))
        self.assertLess(
            min(abs(int(found.argmax()) - int(crest)) % 64, 64 - abs(int(found.argmax()) - int(crest)) % 64), 6
        )

    def test_muddy_water_takes_blue_first_and_hides_its_bed(self):
        self.assertTrue(loses(0.0)[0] > loses(0.0)[2], "clear water takes red")
        self.assertTrue(loses(1.0)[2] > loses(1.0)[0])
        self.assertEqual(meets_mud(0.0), 0.0)
        self.assertLess(np.exp(-meets_mud(1.0) * 0.15), 0.15, "a hand deep it is hidden")


class Numbers(unittest.TestCase):
    def test_what_is_in_the_water_does_not_change_the_ground(self):
        key = lambda **more: land.heights.ref(scene_of(pond(**more))).key  # noqa: E731
        self.assertEqual(key(), key(murk=0.9, patterns=0.0, level=-0.5))
        self.assertAlmostEqual(BENT, 1 - 1 / 1.333, delta=0.001)


class Large(unittest.TestCase):
    def test_the_columns_of_a_ground_of_two_kilometres_are_bounded_and_water_stands_on_it(self):
        site = bare_ground(width=2000.0, depth=2000.0, cell=10.0)
        hollow = Basin(centre=(0, 0), radius=400, floor=-5.0, rim=0.0, inside=100.0)
        water = Water(centre=(0, 0), level=-2.0)
        site.ground = site.ground.model_copy(update={"forms": [hollow, water]})
        scene = scene_of(site)
        columns = columns_of(scene, "ground")
        self.assertLess(columns.height.size, 1_600_000)
        area = (waters(scene).depth > 0).sum() * columns.cell**2
        self.assertTrue(np.pi * 300**2 < area < np.pi * 400**2, area)


class Odd(unittest.TestCase):
    def test_a_bed_without_length_or_beside_the_ground_holds_none_and_breaks_nothing(self):
        for line in ([(0, 0), (0, 0)], [(500, 500), (600, 500)]):
            site = bare_ground(cell=0.5)
            bed = Cut(line=line, width=1.0, depth=0.4, bank=0.3, water=0.2)
            site.ground = site.ground.model_copy(update={"forms": [bed]})
            found = waters(scene_of(site))
            self.assertTrue(np.isfinite(found.depth).all() and np.isfinite(found.speed).all())
            self.assertLess((found.depth > 0).sum() * 0.125**2, 4.0)
