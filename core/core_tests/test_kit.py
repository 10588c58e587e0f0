"""The kit: structures of the size they say, closed where they are solid, made ahead on all cores."""

import tempfile
import unittest
from pathlib import Path

import numpy as np

from cenote_core.errors import CenoteError
from cenote_core.graph.store import Cache
from cenote_core.kit import prewarm, structures
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.kit.catalogue import CATALOGUE
from cenote_core.kit.stones import stone
from cenote_core.mesh.nearest import triangle_tree
from cenote_core.mesh.rays import RayScene

from .helpers import CACHE

SIZES = {
    # What a person with a tape measure would find: east to west, height, north to south, metres.
    "platform": (16.0, 0.85, 3.6),
    "steps": (1.5, 0.85, 1.6),
    "shelter": (4.2, 2.5, 2.1),
    "track": (24.0, 0.45, 3.5),
    "wall": (10.0, 1.6, 0.7),
    "tank": (2.4, 5.0, 2.4),
    "lamp": (0.5, 3.4, 0.5),
    "seat": (1.7, 0.9, 0.6),
    "crate": (0.62, 0.42, 0.46),
    "churn": (0.4, 0.72, 0.4),
    "pole": (1.6, 7.0, 0.4),
}


def volume(mesh):
    """Signed volume by the divergence theorem; right for what is closed and faces outward."""
    a, b, c = (mesh.positions[mesh.faces[:, k]].astype(float) for k in range(3))
    return np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6


class Structures(unittest.TestCase):
    def setUp(self):
        self.kit = BuiltinKit(CACHE)

    def test_they_are_as_large_as_they_say_and_stand_on_their_foot(self):
        for key, size in SIZES.items():
            low, high = self.kit.asset(key).lods[0].bounds()
            np.testing.assert_allclose(high - low, size, rtol=0.45, atol=0.15, err_msg=key)
            self.assertTrue(-0.6 < low[1] < 0.05, f"{key} reaches {low[1]:.2f} m below its foot")
            # The middle of its foot is its origin, so that it turns about itself.
            self.assertLess(np.abs((low + high)[[0, 2]]).max() / 2, 0.35 * max(size[0], size[2]), key)

    def test_solid_ones_face_outward(self):
        for key in ("platform", "wall", "steps", "crate", "seat", "churn"):
            self.assertGreater(volume(self.kit.asset(key).lods[0]), 0, key)
        # A churn holds what a churn holds: between 20 and 60 litres with its wall.
        self.assertTrue(0.02 < volume(structures.churn(1)) < 0.12)

    def test_one_seed_is_one_structure(self):
        one, again, other = structures.crate(4), structures.crate(4), structures.crate(5)
        self.assertEqual(one.positions.tobytes(), again.positions.tobytes())
        self.assertNotEqual(one.positions.tobytes(), other.positions.tobytes())

    def test_the_shelter_keeps_the_rain_off_and_is_open_in_front(self):
        mesh = structures.shelter(5)
        rays = RayScene(mesh.positions, mesh.faces)
        floor = np.array([[x, 0.1, z] for x in (-1, 0.6, 1) for z in (-0.4, 0.2)], np.float32)
        # Beside the post in the middle of its front.
        up, front, back = (np.array(d, float) for d in ((0, 1, 0), (0, 0.15, 1), (0, 0.15, -1)))
        self.assertEqual(rays.open_toward(floor, up, 30).max(), 0)
        self.assertEqual(rays.open_toward(floor, front / np.linalg.norm(front), 30).min(), 1)
        self.assertEqual(rays.open_toward(floor, back / np.linalg.norm(back), 30).max(), 0)

    def test_steps_rise_evenly_toward_the_back(self):
        mesh = structures.steps(4, width=1.5, count=5, rise=0.17, going=0.32)
        rays = RayScene(mesh.positions, mesh.faces)
        low, high = mesh.bounds()
        z = np.linspace(low[2] + 0.1, high[2] - 0.05, 60)
        at = np.column_stack([np.zeros(60), np.full(60, 5.0), z]).astype(np.float32)
        tread = rays.surface_below(at, 0.0)
        self.assertTrue((np.diff(tread) > -0.04).all())
        self.assertAlmostEqual(tread.max() - tread.min(), 4 * 0.17, delta=0.06)

    def test_a_person_is_a_metre_seventy_five(self):
        low, high = structures.figure(1).bounds()
        self.assertAlmostEqual(high[1] - low[1], 1.75, delta=0.02)


class Stones(unittest.TestCase):
    def test_they_have_the_size_asked_for_and_no_two_are_alike(self):
        meshes = [stone(seed, (0.4, 0.2, 0.3))[0] for seed in (1, 2, 3)]
        for mesh in meshes:
            low, high = mesh.bounds()
            np.testing.assert_allclose(high - low, (0.4, 0.2, 0.3), rtol=0.35)
            self.assertGreater(volume(mesh), 0.25 * 0.4 * 0.2 * 0.3)
        self.assertNotEqual(meshes[0].positions.tobytes(), meshes[1].positions.tobytes())

    def test_coarser_levels_keep_the_body(self):
        fine, middle, coarse = stone(7, (0.5, 0.3, 0.4))
        self.assertAlmostEqual(volume(middle) / volume(fine), 1.0, delta=0.06)
        # Eighty flat faces with their corners on a round body hold less than it, but not much.
        self.assertTrue(0.8 < volume(coarse) / volume(fine) < 1.0)


class CoarserLevels(unittest.TestCase):
    def test_nothing_that_is_built_loses_a_part(self):
        """A lamp without its post is seen from farther away than anything that coarser levels save."""
        kit, looked_at = BuiltinKit(CACHE), 0
        for key, recipe in CATALOGUE.items():
            if recipe.kind not in ("structure", "prop"):
                continue
            fine, *coarser = kit.asset(key).lods
            one = fine.positions[fine.faces].astype(float)
            along = [one + (np.roll(one, -1, axis=1) - one) * t for t in (0, 0.2, 0.5, 0.8)]
            places = np.concatenate(along).reshape(-1, 3)
            for mesh in coarser:
                looked_at += 1
                off = triangle_tree(mesh.positions, mesh.faces).distance(places).max()
                self.assertLess(off, 0.021 * np.linalg.norm(np.ptp(fine.positions, axis=0)), key)
        self.assertGreater(looked_at, 6)


class Names(unittest.TestCase):
    def test_what_is_not_in_the_kit_is_said(self):
        kit = BuiltinKit(CACHE)
        for ask in (kit.asset, kit.asset_ref, kit.material, kit.picture, kit.picture_ref):
            with self.assertRaisesRegex(CenoteError, "There is no"):
                ask("no-such-thing")
        with self.assertRaisesRegex(CenoteError, "There is no material"):
            kit.material("far.crate")

    def test_seasons_change_leaves_and_far_cards_only(self):
        kit = BuiltinKit(CACHE)
        self.assertEqual(kit.of_season("concrete", 20), "concrete")
        self.assertEqual(kit.of_season("birch_spray", 20), "birch_spray.h20")
        self.assertEqual(kit.of_season("far.birch_tall", 3), "far.birch_tall.h3")


class Ahead(unittest.TestCase):
    def test_everything_lies_in_the_cache_afterwards(self):
        every_asset, every_material = prewarm.ASSETS, prewarm.MATERIALS
        few = {key: every_asset[key] for key in ("dock", "crate")}
        try:
            prewarm.ASSETS, prewarm.MATERIALS = few, {"concrete": every_material["concrete"]}
            with tempfile.TemporaryDirectory() as folder:
                told = list(prewarm.make_kit(Path(folder), 17))
                self.assertEqual(told, [(k, 4) for k in range(1, 5)])
                made = sum(1 for _ in Path(folder).rglob("*") if _.is_file())
                self.assertGreaterEqual(made, 4)
                cache = Cache(Path(folder))
                kit = BuiltinKit(cache)
                kit.asset("crate")
                kit.material(kit.of_season("far.dock", 17))
                self.assertEqual(made, sum(1 for _ in Path(folder).rglob("*") if _.is_file()))
        finally:
            prewarm.ASSETS, prewarm.MATERIALS = every_asset, every_material


if __name__ == "__main__":
    unittest.main()
