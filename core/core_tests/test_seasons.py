"""Season, wind, litter from crowns, far cards: what the time of the year and the weather do."""

import unittest

import numpy as np

from cenote_core.drifts.instancing import build_instances
from cenote_core.drifts.litter import fallen_share
from cenote_core.drifts.wind import Wind, leaned, push, sway_offsets, wind_of
from cenote_core.errors import CenoteError
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.kit.catalogue import CATALOGUE, with_coarser
from cenote_core.kit.flora import PLANTS
from cenote_core.materials.leaves import spike
from cenote_core.materials.seasons import YEARS, grass_tint, half_month, parted, seasonal_name
from cenote_core.plan import Litter, PiecePlan, PlacedPlan, PlacedThing, Variety, WeatherPlan

from .helpers import CACHE, drift, scene_of, small_site


class Years(unittest.TestCase):
    def test_half_months_and_names(self):
        self.assertEqual([half_month(s) for s in (0, 0.49, 0.5, 8.6, 11.99, 12.0)], [0, 0, 1, 17, 23, 0])
        self.assertEqual(parted(seasonal_name("birch_spray", 17)), ("birch_spray", 17))
        self.assertEqual(parted("far.birch_tall.h3"), ("far.birch_tall", 3))

    def test_leaf_is_out_in_summer_gone_in_winter_and_pines_keep_theirs(self):
        for name in ("birch", "alder", "rowan", "hazel"):
            self.assertGreater(YEARS[name].at(12)[0], 0.99, name)
            self.assertLess(YEARS[name].at(0.5)[0], 0.01, name)
        self.assertEqual(YEARS["pine"].at(0.5)[0], 1.0)
        # The year closes: December and January lie beside each other.
        np.testing.assert_allclose(YEARS["pine"].at(23.99)[1], YEARS["pine"].at(0)[1], atol=0.01)

    def test_birch_turns_from_green_to_yellow(self):
        _, june = YEARS["birch"].at(11)
        _, october = YEARS["birch"].at(19.5)
        self.assertGreater((june[:, 1] - june[:, 0]).min(), 0.02)
        self.assertGreater((october[:, 0] - october[:, 1]).min(), 0.02)

    def test_grass_is_greener_in_spring_than_in_winter(self):
        spring, winter = grass_tint(4.2), grass_tint(1.0)
        self.assertGreater(spring[1] / spring[0], 1.15 * winter[1] / winter[0])
        site = small_site()
        for month, name in ((4.2, "spring"), (1.0, "winter")):
            site.weather = WeatherPlan(season=month)
            found = build_instances(scene_of(site), "d", drift())
            setattr(self, name, found.tint.mean(axis=0))
        self.assertGreater(self.spring[1] / self.spring[0], 1.1 * self.winter[1] / self.winter[0])

    def test_pictures_thin_out_and_change_colour(self):
        kit = BuiltinKit(CACHE)
        summer, late, winter = (kit.material(seasonal_name("birch_spray", h)) for h in (12, 20, 0))
        full = [(m.alpha > 128).mean() for m in (summer, late, winter)]
        self.assertGreater(full[0], full[1] * 1.2)
        self.assertLess(full[2], 0.08)
        seen = lambda m: m.colour[m.alpha > 128].astype(float).mean(axis=0)  # noqa: E731
        self.assertGreater(seen(late)[0] / seen(late)[1], 1.15 * seen(summer)[0] / seen(summer)[1])
        # What stays is in its place: the picture thins and does not reshuffle.
        self.assertLess(((late.alpha > 128) & (summer.alpha < 20)).mean(), 0.01)

    def test_a_spike_in_seed_has_air_between_its_heads_and_down_where_it_is_downy(self):
        for downy in (False, True):
            blooming, over = (spike(128, 3, half, bloom_at=13, downy=downy) for half in (13, 19))
            self.assertLess((over.alpha > 128).mean(), 0.6 * (blooming.alpha > 128).mean())
            seen = over.colour[over.alpha > 200].astype(int)
            pale = (seen.min(axis=1) > 150).mean()
            self.assertTrue(pale > 0.04 if downy else pale < 0.005, pale)
            purple = blooming.colour[blooming.alpha > 200].astype(int)
            self.assertGreater((purple[:, 2] > purple[:, 1] + 10).mean(), 0.5)

    def test_unknown_seasons_and_materials_are_refused(self):
        kit = BuiltinKit(CACHE)
        for name in ("gravel.h3", "nothing.h3", "far.gravel", "far.platform.h2"):
            with self.assertRaises(CenoteError):
                kit.material(name)
        self.assertEqual(kit.of_season("gravel", 5), "gravel")
        self.assertEqual(kit.of_season("fern_frond", 5), "fern_frond.h5")


class Cards(unittest.TestCase):
    def test_a_far_card_is_as_large_as_its_plant_and_shows_it(self):
        kit = BuiltinKit(CACHE)
        for key in ("birch_mid", "bracken"):
            asset = kit.asset(key)
            low, high = asset.lods[0].bounds()
            card_low, card_high = asset.lods[-1].bounds()
            self.assertLessEqual(asset.lods[-1].triangle_count, 12)
            self.assertAlmostEqual(card_high[1] / high[1], 1.0, delta=0.04)
            self.assertTrue((card_low[[0, 2]] <= low[[0, 2]] + 1e-5).all())
            picture = kit.material(f"far.{key}.h13")
            self.assertTrue(0.08 < (picture.alpha > 0).mean() < 0.9, key)
            self.assertGreater(picture.colour[picture.alpha > 0][:, 1].mean(), 40)

    def test_every_plant_has_levels_weights_for_the_wind_and_a_likely_size(self):
        kinds = {p.species for p in PLANTS.values() if p.kind == "plant"}
        trees = {p.species for p in PLANTS.values() if {"bough"} <= set(p.materials)} - {"hazel"}
        self.assertGreaterEqual(len(trees), 4)
        self.assertGreaterEqual(len(kinds - trees), 12)
        kit = BuiltinKit(CACHE)
        for key, plant in PLANTS.items():
            asset = kit.asset(key)
            self.assertEqual(len(asset.lods), 4 if plant.far else 3, key)
            if plant.kind != "plant":
                continue
            self.assertTrue(plant.usual[0] <= asset.tall <= plant.usual[1], (key, asset.tall))
            for lod in asset.lods:
                self.assertIsNotNone(lod.sway, key)
                self.assertTrue(((lod.sway >= 0) & (lod.sway <= 2)).all(), key)

    def test_structures_get_coarser_slot_by_slot_and_keep_their_outline(self):
        kit = BuiltinKit(CACHE)
        for key, recipe in CATALOGUE.items():
            if recipe.kind not in ("structure", "prop"):
                continue
            finest, *coarser = with_coarser(kit.asset(key).lods[:1])
            for lod in coarser:
                self.assertLess(lod.triangle_count, finest.triangle_count, key)
                np.testing.assert_allclose(lod.bounds(), finest.bounds(), atol=0.12, err_msg=key)


class Winds(unittest.TestCase):
    def wind(self, **more):
        return Wind(**{"toward": np.array([1.0, 0.0]), "speed": 6.0, "gusts": 0.0, "size": 10.0, "time": 0.0, **more})

    def test_it_blows_away_from_where_it_comes(self):
        found = wind_of(WeatherPlan(wind_from=270))
        np.testing.assert_allclose(found.toward, [1, 0], atol=1e-12)

    def test_calm_moves_only_what_flutters_and_roots_never(self):
        feet, tall = np.zeros((3, 3)), np.array([1.0, 4.0, 9.0])
        sway = np.array([(0, 0, 0, 0), (1, 0, 0, 0)], float)
        np.testing.assert_allclose(sway_offsets(self.wind(speed=0.0), feet, tall, sway), 0, atol=1e-9)
        blown = sway_offsets(self.wind(), feet, tall, sway)
        np.testing.assert_array_equal(blown[:, 0], 0)
        self.assertTrue((np.diff(blown[:, 1, 0]) > 0).all())
        self.assertTrue((blown[:, 1, 1] < 0).all())

    def test_gusts_travel_downwind_with_the_wind(self):
        wind = self.wind(gusts=1.0, speed=5.0)
        feet = np.column_stack([np.linspace(0, 40, 200), np.zeros(200), np.zeros(200)])
        now = push(wind, feet)
        later = push(Wind(wind.toward, wind.speed, wind.gusts, wind.size, 1.0), feet + [5.0, 0, 0])
        np.testing.assert_allclose(now, later, atol=1e-9)
        self.assertGreater(np.ptp(now), 0.3)

    def test_leaning_instances_stay_unit_and_tip_downwind(self):
        rest = np.tile([0.0, 0, 0, 1.0], (2, 1))
        turned = leaned(self.wind(), np.zeros((2, 3)), rest)
        np.testing.assert_allclose(np.linalg.norm(turned, axis=1), 1, atol=1e-6)
        x, y, z, w = turned[0]
        up = np.array([2 * (x * y - z * w), 1 - 2 * (x * x + z * z), 2 * (y * z + x * w)])
        self.assertGreater(up[0], 0.02)
        self.assertAlmostEqual(up[2], 0, places=6)


class FromAbove(unittest.TestCase):
    """One birch in the middle of a level field."""

    def setUp(self):
        self.site = small_site(width=30, depth=30)
        self.site.pieces.clear()
        self.site.weather = WeatherPlan(season=10.6, wind=0)
        self.site.put("b", drift(name="birch", tier="canopy", assets=["birch_tall", "alder_tall"], density=0))
        self.plant("birch_tall", (0, 0, 0))
        self.plan = drift(
            name="litter",
            tier="litter",
            assets=["leaves"],
            density=30,
            spacing=0.15,
            headroom=0,
            litter=Litter(on=True),
            variety=Variety(sink_max=0),
        )

    def plant(self, asset, at, key="p"):
        self.site.put(key, PlacedPlan(target="b", things=[PlacedThing(asset=asset, point=at)]))

    def found(self, **more):
        return build_instances(scene_of(self.site), "l", self.plan.model_copy(update=more))

    def test_it_lies_under_its_tree_and_thins_outward(self):
        flat = np.hypot(*self.found().position[:, [0, 2]].T)
        inner, outer = (flat < 1.5).sum() / 1.5**2, ((flat > 4) & (flat < 6)).sum() / (36 - 16)
        self.assertGreater(inner, 4 * outer)
        self.assertGreater(len(flat), 60)

    def test_the_wind_carries_it_and_carry_more(self):
        self.site.weather = WeatherPlan(season=10.6, wind=4, wind_from=270)
        near = self.found().position[:, 0].mean()
        far = self.found(litter=Litter(on=True, carry=2.0)).position[:, 0].mean()
        self.assertGreater(near, 2.0)
        self.assertGreater(far, near + 1.5)

    def test_there_is_more_in_late_autumn_than_in_june(self):
        autumn = len(self.found())
        self.site.weather = WeatherPlan(season=5.5, wind=0)
        self.assertLess(len(self.found()), 0.7 * autumn)
        self.assertLess(fallen_share("birch", 5.5), fallen_share("birch", 10.6))

    def test_kinds_fall_from_their_own_trees(self):
        self.plant("alder_tall", (8, 0, 0), "p2")
        found = self.found(assets=drift(assets=["leaves", "leaves_alder"]).assets)
        under_birch, under_alder = (np.hypot(found.position[:, 0] - x, found.position[:, 2]) < 1.5 for x in (0, 8))
        self.assertGreater((found.asset[under_birch] == 0).mean(), 0.8)
        self.assertGreater((found.asset[under_alder] == 1).mean(), 0.8)

    def test_nothing_under_a_roof_and_more_at_the_foot_of_a_wall(self):
        self.site.put("roof", PiecePlan(name="s", asset="shelter", position=(0, 0, 1.5)))
        found = self.found()
        mesh = scene_of(self.site).mesh("roof")
        low, high = mesh.bounds()
        inside = np.all(
            (found.position[:, [0, 2]] > low[[0, 2]] + 0.6) & (found.position[:, [0, 2]] < high[[0, 2]] - 0.6), axis=1
        )
        self.assertEqual(inside.sum(), 0)
        self.site.put("roof", PiecePlan(name="w", asset="wall", position=(0, 0, 1.0)))
        by_wall = self.found(litter=Litter(on=True, gather=1.0)), self.found(litter=Litter(on=True, gather=0.0))
        beside = [(np.abs(f.position[:, 2] - 1.45) < 0.35).sum() / max(len(f), 1) for f in by_wall]
        self.assertGreater(beside[0], 1.1 * beside[1])

    def test_without_trees_there_is_none(self):
        self.site.placed.clear()
        self.assertEqual(len(self.found()), 0)


if __name__ == "__main__":
    unittest.main()
