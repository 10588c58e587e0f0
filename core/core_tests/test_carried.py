"""Patinas on what is scattered: by its own body where it stands, and by the ground beneath it."""

import unittest

import numpy as np

from cenote_core.base.packet import unpack
from cenote_core.drifts.instance_patinas import carried, covers_on, ramps
from cenote_core.drifts.instancing import build_instances
from cenote_core.drifts.worn_colours import worn_colours
from cenote_core.kinds import PARTS
from cenote_core.plan import Finish, PatinaPlan, PatinaUse, StationPlan, TouchPlan, rule_of
from cenote_core.proof_scene.detail import ROUGH
from cenote_core.proof_scene.drifts import add_drifts
from cenote_core.proof_scene.tables import Shot, Tables
from cenote_core.tracer.tables import MOST_LAYERS, packed_covers

from .helpers import bare_ground, drift, gate, scene_of

STATION = StationPlan(name="s", position=(0, 1.6, 12), target=(0, 1, 0))
REF = "t/trunk"


def wood(*rules, **more):
    """A few birches, with a patina on their trunks."""
    site = bare_ground()
    site.put("t", drift(name="t", tier="canopy", assets=["birch_young"], density=0.15, spacing=2.0, headroom=0))
    site.put(
        "m", PatinaPlan(**{"name": "m", "amount": 1.0, "rules": list(rules), "uses": [PatinaUse(surface=REF)], **more})
    )
    site.put("s", STATION)
    return site


class AsColours(unittest.TestCase):
    """What the plate and hand-overs get: the mean over things of a kind."""

    def colours(self, site, lod=0):
        scene = scene_of(site)
        return worn_colours(scene, "t", site.drifts["t"], "birch_young", lod), scene.kit.asset("birch_young").lods[lod]

    def test_a_foot_is_coloured_and_what_is_above_is_not(self):
        low = rule_of("height", above="foot", gate=gate(0, 0, 0.2, 0.3))
        made, mesh = self.colours(wood(low, finish=Finish(material="moss")))
        own = np.ones(4) if mesh.colour is None else mesh.colour
        trunk = np.unique(mesh.faces[mesh.slots == mesh.slot_names.index("trunk")])
        factor = (made / own)[trunk, :3]
        up = mesh.positions[trunk, 1]
        foot = (up > 0.01) & (up < 0.08)
        self.assertGreater(foot.sum(), 5)
        self.assertTrue((factor[foot, 1] > 1.2 * factor[foot, 2]).all(), "green at the foot")
        np.testing.assert_allclose(factor[up > 1.0], 1.0, atol=1e-5)
        leaves = np.setdiff1d(np.arange(len(made)), trunk)
        np.testing.assert_array_equal((made / own)[leaves, :3], 1.0)
        np.testing.assert_array_equal((made / own)[:, 3], 1.0)

    def test_an_amount_is_a_share_of_the_way(self):
        whole, _ = self.colours(wood(finish=Finish(material="grime", stain=0.0)))
        half, _ = self.colours(wood(finish=Finish(material="grime", stain=0.0), amount=0.5))
        plain, _ = self.colours(wood(amount=0.0))
        np.testing.assert_allclose(half, (whole + plain) / 2, atol=1e-5)

    def test_levels_come_by_their_names_and_others_are_not_there(self):
        scene = scene_of(wood())
        part = PARTS["worn"]
        self.assertTrue(part.there(scene, "t/birch_young/0"))
        for name in ("", "t", "t/birch_young", "t/birch_young/99", "t/birch_young/-1", "t/stone/0", "x/birch_young/0"):
            self.assertFalse(part.there(scene, name), name)
        arrays, _ = unpack(part.make(scene, "t/birch_young/1"))
        self.assertEqual(len(arrays["color"]), len(scene.kit.asset("birch_young").lods[1].positions))
        low = rule_of("height", above="foot", gate=gate(0, 0, 0.2, 0.3))
        self.assertNotEqual(
            part.version(scene, "t/birch_young/0"), part.version(scene_of(wood(low)), "t/birch_young/0")
        )


class OnTrunks(unittest.TestCase):
    def covers(self, site, slot="trunk"):
        scene = scene_of(site)
        found = build_instances(scene, "t", site.drifts["t"])
        mesh = scene.kit.asset("birch_young").lods[0]
        number = mesh.slot_names.index(slot)
        lies = covers_on(scene, carried(scene, "t", "trunk")[0], mesh, number, found)
        on = np.unique(mesh.faces[mesh.slots == number])
        return lies, mesh, on, found

    def test_the_lower_part_of_each_by_its_own_foot_and_size(self):
        low = rule_of("height", above="foot", gate=gate(0, 0, 0.3, 0.3))
        lies, mesh, on, found = self.covers(wood(low))
        self.assertGreater(len(found), 5)
        up = mesh.positions[on, 1][None] * found.scale[:, None]
        # Each stands upright: height over the foot is its own height times its size.
        clear = (np.abs(up - 0.3) > 0.02) & (up > 0.01)
        np.testing.assert_array_equal((lies[:, on] > 0.5)[clear], (up < 0.3)[clear])
        rest = np.setdiff1d(np.arange(len(mesh.positions)), on)
        self.assertEqual(float(lies[:, rest].max()), 0.0, "nothing on its leaves")

    def test_by_chance_some_of_them_and_not_others(self):
        rule = rule_of("chance", each="piece", seed=3, gate=gate(0.5, 0.5, 1, 1))
        lies, _, on, _ = self.covers(wood(rule))
        each = lies[:, on]
        self.assertTrue(((each == 0).all(axis=1) | (each == 1).all(axis=1)).all(), "whole things")
        self.assertTrue(0 < each.mean() < 1)

    def test_a_stroke_on_the_ground_reaches_what_stands_there(self):
        lies, _, on, found = self.covers(wood())
        self.assertTrue((lies[:, on] == 1).all())
        x, y, z = found.position[0]
        site = wood()
        site.put("w", TouchPlan(target="m", action="erase", points=[(x, y, z)], radius=1.5, strength=1, falloff=0))
        after, mesh, on, again = self.covers(site)
        np.testing.assert_array_equal(again.position, found.position)
        low = on[mesh.positions[on, 1] < 0.3]
        self.assertLess(after[0, low].max(), 0.01)
        far = np.linalg.norm(found.position - found.position[0], axis=1) > 4
        self.assertTrue((after[far][:, on] == 1).all())

    def test_the_side_to_the_north_however_each_is_turned(self):
        north = rule_of("facing", toward=0.0, elevation=0.0, gate=gate(0, 0, 40, 60))
        lies, mesh, on, found = self.covers(wood(north))
        x, y, z, w = found.rotation.T
        n = mesh.normals[on]
        turned_z = (2 * (x * z - y * w))[:, None] * n[:, 0] * np.where(found.mirrored, -1, 1)[:, None]
        turned_z += (2 * (y * z + x * w))[:, None] * n[:, 1] + (1 - 2 * (x * x + y * y))[:, None] * n[:, 2]
        self.assertTrue((lies[:, on][turned_z > -0.4] == 0).all())
        self.assertTrue((lies[:, on][turned_z < -0.8] == 1).all())

    def test_what_is_measured_on_the_ground_counts_for_the_whole_of_it(self):
        east = rule_of("line", line=[(5.0, -20.0), (5.0, 20.0)], gate=gate(0, 0, 4, 4))
        lies, _, on, found = self.covers(wood(east))
        near = np.abs(found.position[:, 0] - 5) < 4
        np.testing.assert_allclose(lies[:, on].mean(axis=1), near.astype(float), atol=1e-6)

    def test_years_amount_and_the_uses_own_amount(self):
        site = wood(amount=0.8, pace=30.0, uses=[PatinaUse(surface=REF, amount=0.5)])
        site.weather = site.weather.model_copy(update={"years": 30.0})
        lies, _, on, _ = self.covers(site)
        np.testing.assert_allclose(lies[:, on], 0.4 * (1 - np.exp(-1)), atol=1e-5)

    def test_hidden_or_elsewhere_it_is_not_carried(self):
        self.assertEqual(carried(scene_of(wood(visible=False)), "t", "trunk"), [])
        self.assertEqual(carried(scene_of(wood()), "t", "leaf"), [])

    def test_in_a_proof_the_trunks_have_a_layer_and_seams_that_say_how_far(self):
        site = wood(rule_of("height", above="foot", gate=gate(0, 0, 0.3, 0.3)))
        with_it, without = Tables(), Tables()
        add_drifts(with_it, Shot(scene_of(site), {}, STATION, (640, 400), ROUGH))
        site.patinas.clear()
        add_drifts(without, Shot(scene_of(site), {}, STATION, (640, 400), ROUGH))
        layers = [int(row[8]) & MOST_LAYERS for row in with_it.surfaces]
        self.assertEqual(sorted(set(layers)), [0, 1])
        self.assertTrue(all(int(row[8]) & MOST_LAYERS == 0 for row in without.surfaces))
        seams = [part.seams for part in with_it.parts if part.seams is not None]
        self.assertTrue(seams and max(float(s[:, 0].max()) for s in seams) == 1.0)
        self.assertTrue(all(part.seams is None for part in without.parts))

    def test_ramps_read_back_their_coordinates(self):
        planes = packed_covers(ramps()).view(np.uint8).reshape(256, 256, 4)
        values = (np.arange(256) + 0.5) / 256
        np.testing.assert_allclose(planes[7, :, 0] / 255, values, atol=0.004)
        np.testing.assert_allclose(planes[:, 7, 1] / 255, values, atol=0.004)


if __name__ == "__main__":
    unittest.main()
