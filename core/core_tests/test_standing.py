"""Shoots and flakes that stand up from patinas near the eye."""

import unittest
from dataclasses import replace

import numpy as np

from cenote_core.measures.height import HeightRule
from cenote_core.measures.noise import NoiseRule
from cenote_core.mesh.nearest import triangle_tree
from cenote_core.patinas.cover import stack
from cenote_core.plan import Finish, PatinaPlan, PatinaUse, StationPlan
from cenote_core.proof_scene.detail import GOOD
from cenote_core.proof_scene.nearfield import look_of, shaped_mesh
from cenote_core.proof_scene.surface_bodies import add_standing, bodies_on, flake, shoot, stands_of
from cenote_core.proof_scene.tables import Shot, Tables

from .helpers import gate, scene_of, small_site

STATION = StationPlan(name="s", position=(0.0, 0.6, 0.0), target=(0.0, 0.4, -2.0), lens=35)
SIZE = (640, 400)
CLOSE = StationPlan(name="s", position=(0.0, 0.5, -1.0), target=(0.0, 0.4, -2.0), lens=35)
DETAIL = replace(GOOD, relief_most=150_000, standing_most=400_000)


def patina(material="moss", rules=None, **finish):
    rules = [HeightRule(gate=gate(-9, -9, 0.6, 0.6))] if rules is None else rules
    return PatinaPlan(name="p", finish=Finish(material=material, **finish), rules=rules, order=1.0)


def shot_of(plan, more=None, station=STATION, detail=DETAIL):
    site = small_site()
    bare = scene_of(site)
    refs = [s.ref for s in bare.surfaces() if s.owner == "wall"]
    site.put("p", plan.model_copy(update={"uses": [PatinaUse(surface=ref) for ref in refs]}))
    if more:
        site.put("q", more.model_copy(update={"uses": [PatinaUse(surface=ref) for ref in refs]}))
    scene = scene_of(site)
    meshes = {o: shaped_mesh(scene, o, look_of(station, SIZE, detail)) for o in scene.owners()}
    return Shot(scene, meshes, station, SIZE, detail)


def bodies(shot, key="p"):
    plan = shot.scene.site.patinas[key]
    number = [k for k, _ in stack(shot.scene, "wall")]
    return bodies_on(shot, "wall", number.index(key), plan, stands_of(plan))


class ShootsOfMoss(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.shot = shot_of(patina(thickness=8.0, break_up=0.2))
        cls.found = bodies(cls.shot)

    def test_they_stand_on_the_drawn_surface_where_the_patina_is(self):
        self.assertGreater(len(self.found), 500)
        self.assertLess(self.found.at[:, 1].max(), 0.65)
        mesh = self.shot.meshes["wall"]
        away, _ = triangle_tree(mesh.positions, mesh.faces).nearest(self.found.at[::97], 1.0)
        self.assertLess(float(np.max(away)), 2e-4)

    def test_as_many_a_square_metre_as_it_says_and_fewer_for_less_body(self):
        less = bodies(shot_of(patina(thickness=8.0, break_up=0.2, body=0.25)))
        self.assertAlmostEqual(len(less) / len(self.found), 0.25, delta=0.05)
        self.assertEqual(len(add(shot_of(patina(body=0.0)))), 0)

    def test_they_shrink_with_distance_and_end(self):
        away = np.linalg.norm(self.found.at - STATION.position, axis=1)
        near, far = away < np.quantile(away, 0.2), away > np.quantile(away, 0.8)
        self.assertGreater(self.found.size[near].mean(), self.found.size[far].mean())
        off = StationPlan(name="s", position=(0.0, 0.6, 6.0), target=(0.0, 0.4, -2.0), lens=35)
        self.assertEqual(len(bodies(shot_of(patina(), station=off))), 0)

    def test_what_lies_over_it_hides_them(self):
        over = patina("salts", break_up=0.0).model_copy(update={"order": 2.0})
        self.assertEqual(len(bodies(shot_of(patina(break_up=0.2), over))), 0)

    def test_the_nearest_are_kept_where_there_are_too_many(self):
        few = bodies(shot_of(patina(thickness=8.0, break_up=0.2), detail=replace(DETAIL, standing_most=200)))
        self.assertEqual(len(few), 200)
        reach = np.linalg.norm(few.at - STATION.position, axis=1).max()
        nearer = np.linalg.norm(self.found.at - STATION.position, axis=1) < reach - 1e-6
        self.assertLessEqual(int(nearer.sum()), 200)

    def test_twice_the_same(self):
        again = bodies(shot_of(patina(thickness=8.0, break_up=0.2)))
        np.testing.assert_array_equal(again.at, self.found.at)
        np.testing.assert_array_equal(again.size, self.found.size)


class FlakesOfPaint(unittest.TestCase):
    def test_they_stand_along_the_rims_of_what_is_bare(self):
        rules = [NoiseRule(gate=gate(0.4, 0.6, 1, 1), size=0.3)]
        shot = shot_of(patina("bared", rules, break_up=0.3), station=CLOSE)
        self.assertGreater(len(bodies(shot)), 30)
        whole = shot_of(patina("bared", [HeightRule(gate=gate(-9, -9, 99, 99))], break_up=0.0), station=CLOSE)
        self.assertEqual(len(bodies(whole)), 0, "there is no rim where all is bare")

    def test_no_two_are_of_one_outline_and_none_hangs_loose(self):
        rules = [NoiseRule(gate=gate(0.4, 0.6, 1, 1), size=0.3)]
        found = bodies(shot_of(patina("bared", rules, break_up=0.3), station=CLOSE))
        places, _ = flake(found)
        self.assertGreater(np.abs(places[0] - places[1]).max(), 0.05)
        self.assertLess(places[:, :3, 1].max(), 0.35, "one side lies on the wall")
        self.assertGreater(places[:, 6:, 1].mean(), places[:, :3, 1].mean() + 0.2, "the other curls up")


class InTables(unittest.TestCase):
    def test_faces_are_whole_and_places_finite(self):
        parts = add(shot_of(patina(thickness=8.0)))
        self.assertEqual(len(parts), 1)
        part = parts[0]
        self.assertTrue(np.isfinite(part.positions).all())
        self.assertLess(int(part.faces[:, :3].max()), len(part.positions))
        leaflets = len(shoot()[0]) // 3
        self.assertEqual(len(part.faces) % leaflets, 0)
        self.assertLess(np.linalg.norm(part.positions - part.positions[0], axis=1).max(), 12)


def add(shot):
    out = Tables()
    add_standing(out, shot, ["wall"])
    return out.parts


if __name__ == "__main__":
    unittest.main()
