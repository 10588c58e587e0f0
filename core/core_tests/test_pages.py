"""Covers finer near the eye: the same rules at more places, and nothing else."""

import unittest
from dataclasses import replace

import numpy as np

from cenote_core.base.packet import unpack
from cenote_core.kinds.pages import PAGE
from cenote_core.measures.near import NearRule
from cenote_core.measures.noise import NoiseRule
from cenote_core.mesh.texels import sample_map
from cenote_core.patinas.cover import owner_covers
from cenote_core.patinas.pages import Page, page_covers, page_table
from cenote_core.plan import Finish, PatinaPlan, PatinaUse, StationPlan
from cenote_core.proof_scene.detail import GOOD, ROUGH
from cenote_core.proof_scene.owners import add_owners
from cenote_core.proof_scene.pages import near_page
from cenote_core.proof_scene.tables import Shot, Tables

from .helpers import gate, scene_of, small_site

WHOLE = (0.0, 0.0), (1.0, 1.0)


def station(x=0.0, y=1.6, z=2.0, target=(0.0, 0.0, -1.0)):
    return StationPlan(name="s", position=(x, y, z), target=target)


class Pages(unittest.TestCase):
    def setUp(self):
        site = small_site()
        rules = [NoiseRule(gate=gate(0.4, 0.6, 1, 1), size=0.5)]
        refs = ["ground/ground", "wall/stone", "wall/coping"]
        site.put("p", PatinaPlan(name="p", rules=rules, uses=[PatinaUse(surface=ref) for ref in refs]))
        self.site = site
        self.scene = scene_of(site)

    def test_a_page_of_all_with_as_many_texels_is_the_cover_itself(self):
        for owner in ("ground", "wall"):
            side = self.scene.resolution(owner)
            np.testing.assert_array_equal(
                page_covers(self.scene, owner, Page(*WHOLE, side)), owner_covers(self.scene, owner, side)
            )

    def test_its_points_lie_in_its_window_and_are_the_middles_of_its_texels(self):
        page = Page((0.25, 0.5), (0.5, 0.75), 128)
        table = page_table(self.scene, "ground", page)
        self.assertEqual(len(table.index), 128 * 128)
        width = self.site.ground.width
        low, high = (np.array(page.low) - 0.5) * width, (np.array(page.high) - 0.5) * width
        at = table.points.positions[:, [0, 2]]
        step = (high - low) / 128
        np.testing.assert_allclose(at.min(axis=0), low + step / 2, atol=1e-4)
        np.testing.assert_allclose(at.max(axis=0), high - step / 2, atol=1e-4)
        np.testing.assert_allclose(table.points.uv2, at / width + 0.5, atol=1e-5)

    def test_what_is_narrower_than_a_texel_of_the_whole_is_there(self):
        near = NearRule(gate=gate(0, 0, 0.01, 0.025))
        self.site.put("p", PatinaPlan(name="p", rules=[near], uses=[PatinaUse(surface="ground/ground")]))
        self.site.ground = self.site.ground.model_copy(update={"width": 60, "depth": 60})
        scene = scene_of(self.site)
        page = near_page(scene, "ground", station(), 4.0, 1024)
        fine = page_covers(scene, "ground", page)[0]
        texel = (page.high[0] - page.low[0]) * 60 / 1024
        self.assertLess(texel, 0.01)
        # Before the wall it fades within a centimetre and a half, which texels of six could not show.
        for column in fine[:, 400:600:20].T:
            full = np.flatnonzero(column > 0.9)[-1]
            none = full + np.flatnonzero(column[full:] < 0.1)[0]
            self.assertLess((none - full) * texel, 0.04)

    def test_it_agrees_with_the_coarse_cover_in_the_mean(self):
        page = near_page(self.scene, "ground", station(), 4.0, 1024)
        fine = page_covers(self.scene, "ground", page)[0]
        centres = (np.arange(64) + 0.5) / 64
        u, v = np.meshgrid(centres, centres)
        local = np.column_stack([u.ravel(), v.ravel()])
        whole = np.array(page.low) + local * (np.array(page.high) - np.array(page.low))
        coarse = sample_map(owner_covers(self.scene, "ground", 1024)[0], whole.astype(np.float32))
        found = fine.reshape(64, 16, 64, 16).mean(axis=(1, 3)).ravel()
        self.assertGreater(np.corrcoef(found, coarse)[0, 1], 0.98)

    def test_far_off_there_is_none_and_a_small_step_finds_the_same(self):
        self.assertIsNone(near_page(self.scene, "wall", station(z=40.0), 4.0, 1024))
        self.assertIsNone(near_page(self.scene, "ground", station(), 4.0, 0))
        one, two = (near_page(self.scene, "ground", station(x=x), 4.0, 1024) for x in (0.1, 0.2))
        self.assertEqual(one, two)
        self.assertNotEqual(one, near_page(self.scene, "ground", station(x=3.0, target=(3, 0, -1)), 4.0, 1024))


class InProofs(unittest.TestCase):
    def test_no_face_is_lost_or_twice_and_texels_are_read_where_they_lie(self):
        site = small_site(width=40, depth=40)
        # Its shoots would be parts of their own.
        still = Finish(body=0.0)
        site.put("p", PatinaPlan(name="p", finish=still, uses=[PatinaUse(surface="ground/ground")]))
        scene = scene_of(site)
        meshes = {owner: scene.mesh(owner) for owner in scene.owners()}
        for detail in (ROUGH, GOOD):
            with_page, without = Tables(), Tables()
            add_owners(with_page, Shot(scene, meshes, station(), (640, 400), detail), ["ground"])
            add_owners(without, Shot(scene, meshes, station(), (640, 400), replace(detail, page_side=0)), ["ground"])
            self.assertEqual((len(with_page.parts), len(without.parts)), (2, 1))
            one, two = with_page.arrays()[0], without.arrays()[0]
            corners = lambda t: t.positions[t.faces[:, :3]].reshape(-1, 9)  # noqa: E731
            order = lambda rows: rows[np.lexsort(rows.T)]  # noqa: E731
            np.testing.assert_array_equal(order(corners(one)), order(corners(two)))
            page = near_page(scene, "ground", station(), detail.relief_reach, detail.page_side)
            part = with_page.parts[0]
            uv2 = (part.positions[:, [0, 2]] / 40 + 0.5).astype(np.float32)
            np.testing.assert_allclose(part.seams[:, :2], page.local(uv2), atol=1e-4)


class PagesForThePlate(unittest.TestCase):
    def setUp(self):
        site = small_site(width=60, depth=60)
        rules = [NoiseRule(gate=gate(0.4, 0.6, 1, 1), size=0.5)]
        site.put("p", PatinaPlan(name="p", rules=rules, uses=[PatinaUse(surface="ground/ground")]))
        self.scene = scene_of(site)

    def test_a_page_of_the_ground_is_what_its_covers_are_there(self):
        arrays, info = unpack(PAGE.make(self.scene, "ground/4/-2"))
        low, high = (np.array(info[name]) for name in ("low", "high"))
        np.testing.assert_allclose((low + high) / 2 * 60 - 30, [4, -2], atol=1e-6)
        page = Page(tuple(low), tuple(high), arrays["covers"].shape[1])
        np.testing.assert_array_equal(
            arrays["covers"], np.uint8(np.clip(page_covers(self.scene, "ground", page) * 255 + 0.5, 0, 255))
        )
        self.assertEqual(info["patinas"], ["p"])

    def test_its_version_changes_with_what_lies_there_and_not_with_the_sky(self):
        before = PAGE.version(self.scene, "ground/4/-2")
        site = self.scene.site.model_copy(deep=True)
        site.light = site.light.model_copy(update={"cloud": 0.9})
        self.assertEqual(PAGE.version(scene_of(site), "ground/4/-2"), before)
        site.patinas["p"] = site.patinas["p"].model_copy(update={"amount": 0.4})
        self.assertNotEqual(PAGE.version(scene_of(site), "ground/4/-2"), before)

    def test_names_that_are_none_and_places_far_off(self):
        for name in (
            "",
            "ground",
            "ground/a/b",
            "ground/1",
            "ground/1/2/3",
            "gone",
            "wall/1/2",
            "ground/1e9/0",
            "ground/9999999/0",
            "ground/" + 400 * "9" + "/0",
        ):
            self.assertFalse(PAGE.there(self.scene, name), name)
        self.assertTrue(PAGE.there(self.scene, "ground/99999/0"))
        self.assertNotIn("covers", unpack(PAGE.make(self.scene, "ground/99999/0"))[0])


if __name__ == "__main__":
    unittest.main()
