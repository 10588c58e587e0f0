"""How things answer to the weather: wet feet of walls, decals that soak, leaves on pools, and who is kept free of what."""

import unittest

import numpy as np

from cenote_core.columns.grid import columns_of
from cenote_core.decals.project import projected
from cenote_core.decals.weathered import open_and_damp
from cenote_core.drifts.floating import _floating, floating
from cenote_core.drifts.headroom import under_roofs
from cenote_core.explain.responses import responses
from cenote_core.explain.weather import weather_verdicts
from cenote_core.kit.shapes import tube
from cenote_core.mesh.mesh import Points
from cenote_core.plan import DecalPlan, PatinaPlan, PatinaUse, PiecePlan, WeatherPlan
from cenote_core.pools.standing import standing_water
from cenote_core.pools.surface import LEAST, large
from cenote_core.pools.wetness import damp_map
from cenote_core.proof_scene.rime import LONGEST, feathers

from .helpers import drift, scattered, scene_of, small_site


def rained_on(**weather):
    site = small_site()
    site.weather = WeatherPlan(**{"wetness": 1.0, **weather})
    return site


def at_texels(scene, owner):
    """Points of an owner's texels and how wet they are besides what falls on them."""
    values = damp_map(scene, owner)[..., 0]
    table = scene.table(owner, values.shape[0])
    return table.points, values.reshape(-1)[table.index]


class Feet(unittest.TestCase):
    def test_a_wall_is_wet_at_its_foot_and_not_above_the_front(self):
        points, wet = at_texels(scene_of(rained_on()), "wall")
        steep, height = np.abs(points.normals[:, 1]) < 0.3, points.positions[:, 1]
        low, high = steep & (height > 0) & (height < 0.03), steep & (height > 0.45)
        self.assertGreater(wet[low].mean(), 0.75)
        self.assertLess(wet[high].mean(), 0.5 * wet[low].mean(), "higher up there are only streaks")

    def test_why_here_names_the_water_that_wets_a_foot(self):
        scene = scene_of(rained_on())
        points, wet = at_texels(scene, "wall")
        said = {}
        for name, n in (("foot", int(wet.argmax())), ("above", int(np.argmax(points.positions[:, 1] * (wet == 0))))):
            one = Points(*(getattr(points, f)[n : n + 1] for f in ("positions", "normals", "uv2", "slots", "areas")))
            (verdict,) = [v for v in weather_verdicts(scene, "wall", one) if v.name == "wetness"]
            said[name] = {line.what: line.value for line in verdict.lines}["water near by"]
        self.assertGreater(said["foot"], 0.8)
        self.assertLess(said["above"], 0.1)

    def test_under_a_roof_feet_stay_dry(self):
        site = rained_on()
        site.pieces.clear()
        site.put("roof", PiecePlan(name="roof", asset="shelter", position=(0, 0, 0)))
        points, wet = at_texels(scene_of(site), "roof")
        at, steep = points.positions, np.abs(points.normals[:, 1]) < 0.3
        low, high = at.min(axis=0), at.max(axis=0)
        inner = (at[:, [0, 2]] > low[[0, 2]] + 0.4).all(axis=1) & (at[:, [0, 2]] < high[[0, 2]] - 0.4).all(axis=1)
        foot = steep & (at[:, 1] < 0.05)
        self.assertLess(wet[foot & inner].mean(), 0.3)
        self.assertGreater(wet[foot & ~inner].mean(), 2 * wet[foot & inner].mean())


class Decals(unittest.TestCase):
    def test_a_decal_is_as_open_as_what_it_lies_on(self):
        site = rained_on()
        site.put("roof", PiecePlan(name="roof", asset="shelter", position=(0, 0, 3)))
        scene = scene_of(site)
        found = {}
        for name, at in (("in the open", (-4.0, 0, 0)), ("under the roof", (0, 0, 3))):
            plan = DecalPlan(name="d", position=at, facing=(0, 1, 0), width=0.6, height=0.6, receivers=["ground"])
            mesh = projected({"ground": scene.mesh("ground")}, plan)
            self.assertEqual(mesh.slot_names, ("ground",))
            found[name] = open_and_damp(scene, mesh)[:, 0]
        self.assertGreater(found["in the open"].min(), 0.8)
        self.assertLess(found["under the roof"].max(), 0.4)


class Afloat(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        site = small_site(material="concrete")
        site.pieces.clear()
        site.put("platform", PiecePlan(name="platform", asset="platform", position=(0, 0, 0), foot_width=0.0))
        mix = {"assets": [{"asset": "leaves", "weight": 1}, {"asset": "stone_small", "weight": 1}]}
        leaves = drift(tier="litter", surfaces=["platform/concrete"], density=14, spacing=0.1, headroom=0, **mix)
        site.put("litter", leaves)
        site.weather = WeatherPlan(standing=14.0, wind=8.0, wind_from=270.0)
        cls.scene = scene_of(site)

    def lies(self, wind):
        mesh = _floating(self.scene, "platform", 0.014, wind, 270.0)
        return mesh.positions

    def test_they_lie_on_water_and_stones_do_not(self):
        mesh = floating(self.scene, "platform")
        self.assertEqual(mesh.slot_names, ("fallen_leaves",))
        columns = columns_of(self.scene, "platform")
        depth = large(standing_water(self.scene, "platform", 0.014))
        row, column = (np.round(v).astype(int) for v in columns.node_of(mesh.positions[:, [0, 2]].astype(float)))
        inside = (row >= 0) & (column >= 0) & (row < depth.shape[0]) & (column < depth.shape[1])
        self.assertGreater((depth[row[inside], column[inside]] > LEAST).mean(), 0.5, "leaves reach over the rim")
        top = columns.height[depth > LEAST]
        self.assertTrue(
            (mesh.positions[:, 1] > top.min() - 0.02).all() and (mesh.positions[:, 1] < top.max() + 0.06).all()
        )

    def test_the_wind_drives_them_to_the_lee_shore(self):
        calm, windy = self.lies(0.0), self.lies(8.0)
        self.assertEqual(len(calm), len(windy))
        self.assertGreater(windy[:, 0].mean(), calm[:, 0].mean() + 0.05, "wind from the west drives them east")

    def test_they_are_the_same_again_and_gone_with_the_water(self):
        np.testing.assert_array_equal(self.lies(8.0), self.lies(8.0))
        site = small_site(material="concrete")
        site.put("litter", drift(tier="litter", assets=["leaves"]))
        self.assertIsNone(floating(scene_of(site), "ground"))


class Rime(unittest.TestCase):
    def grown(self, rime, toward=(1.0, 0, 0), radius=0.005):
        path = np.column_stack([np.zeros(6), np.linspace(0, 1, 6), np.zeros(6)])
        mesh = tube(path, np.full(6, radius), 8, "twig", 0.4)
        at = mesh.positions[None].astype(np.float64)
        sized = np.full(at.shape[:2], radius)
        return feathers(mesh, mesh.faces, at, sized, np.array(toward), rime, np.array([1.0, 0.5, 0]))

    def test_it_grows_into_the_wind_and_nowhere_else(self):
        positions, normals, corners = self.grown(1.0)
        self.assertGreater(len(corners), 300)
        self.assertGreater(positions[:, 0].mean(), 0.005)
        self.assertGreater((positions[:, 0] > 0).mean(), 0.95)
        self.assertLess(positions[:, 0].max(), 0.005 + 1.3 * LONGEST)
        other, _, _ = self.grown(1.0, (-1.0, 0, 0))
        self.assertGreater((other[:, 0] < 0).mean(), 0.95)

    def test_wide_stems_bear_shorter_ones(self):
        out = lambda radius: float(np.quantile(self.grown(1.0, radius=radius)[0][:, 0], 0.98)) - radius  # noqa: E731
        self.assertGreater(out(0.004), 2 * out(0.05))

    def test_only_in_the_wind_and_with_frost(self):
        self.assertEqual(WeatherPlan(frost=0.8, wind=0.0).rime, 0.0)
        self.assertEqual(WeatherPlan(frost=0.0, wind=9.0).rime, 0.0)
        still, windy = (WeatherPlan(frost=0.6, wind=w, wind_from=90.0).fallen.rime for w in (3.0, 20.0))
        np.testing.assert_allclose(windy, [0.6, 0, 0], atol=1e-9)
        np.testing.assert_allclose(still, [0.3, 0, 0], atol=1e-9)


class Roofed(unittest.TestCase):
    def test_what_stands_under_a_roof_is_told_and_nothing_while_nothing_falls(self):
        site = small_site()
        site.pieces.clear()
        site.put("roof", PiecePlan(name="roof", asset="shelter", position=(0, 0, 0)))
        found = scattered(2, 10)
        found.position[:] = [[0, 0, 0], [5, 0, 5]]
        mesh = scene_of(site).kit.asset("stone_small").lods[0]
        self.assertIsNone(under_roofs(scene_of(site), mesh, found))
        site.weather.snow = 5.0
        np.testing.assert_array_equal(under_roofs(scene_of(site), mesh, found), [True, False])


class Told(unittest.TestCase):
    def test_who_was_kept_free_is_listed_and_cured_in_one_step(self):
        site = rained_on(frost=0.5, snow=4.0)
        site.pieces["wall"].takes_frost = False
        site.put("crack", DecalPlan(name="crack", soaks=0.0, takes_snow=False))
        patina = PatinaPlan(name="moss", uses=[PatinaUse(surface="wall/stone")])
        patina.finish.takes_snow = False
        site.put("moss", patina)
        site.put("grass", drift(takes_frost=False))
        found = {(one.item, one.what): one for one in responses(scene_of(site)) if one.plan}
        self.assertEqual(
            set(found),
            {("wall", "frost"), ("crack", "wetness"), ("crack", "snow"), ("moss", "snow"), ("grass", "frost")},
        )
        self.assertTrue(all(one.reason and one.cure for one in found.values()))
        site.put("moss", PatinaPlan.model_validate(found[("moss", "snow")].plan))
        again = responses(scene_of(site))
        self.assertFalse([one for one in again if one.item == "moss" and one.plan])
