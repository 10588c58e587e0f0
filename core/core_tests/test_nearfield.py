"""Relief as geometry near the eye: no cracks, true to the height channel, nothing moved where nobody looks."""

import unittest
from dataclasses import replace

import numpy as np

from cenote_core.kit.shapes import block
from cenote_core.mesh.mesh import face_normals
from cenote_core.mesh.nearest import triangle_tree
from cenote_core.mesh.refine import refine, welded
from cenote_core.mesh.texels import sample_map
from cenote_core.patinas.bake import blend_values
from cenote_core.patinas.cover import owner_covers, stack
from cenote_core.plan import Finish, PatinaPlan, PatinaUse, StationPlan
from cenote_core.proof_scene.detail import GOOD, ROUGH
from cenote_core.proof_scene.nearfield import look_of, relief_of, shaped_mesh, shaped_meshes
from cenote_core.scene.scene import VIEW_LIMIT

from .helpers import scene_of, small_site


def open_edges(places, faces):
    """Edges that no second triangle goes along the other way."""
    corner = places[faces]
    ends = np.concatenate([corner[:, [0, 1]], corner[:, [1, 2]], corner[:, [2, 0]]])
    low, high = np.minimum(*ends.T), np.maximum(*ends.T)
    keys, count = np.unique(low << 32 | high, return_counts=True)
    return int((count != 2).sum())


def toward(point, reach=3.0, fine=0.02):
    """Edges ten times finer near a point than `reach` away from it, and free beyond."""

    def longest(corners):
        away = np.linalg.norm(corners - np.array(point), axis=2).min(axis=1)
        return np.where(away < reach, fine + fine * away, np.inf)

    return longest


class Refining(unittest.TestCase):
    def setUp(self):
        self.box = block((2.0, 1.0, 0.5))
        # Seams everywhere: no two faces share a vertex.
        self.values = np.concatenate([self.box.positions, self.box.normals], axis=1)[self.box.faces].reshape(-1, 6)
        self.faces = np.arange(len(self.values)).reshape(-1, 3)

    def test_it_stays_closed_across_seams_and_keeps_its_area(self):
        finer = refine(self.values, self.faces, toward((0.4, 0.8, 0.4)), 100_000)
        self.assertTrue(finer.whole)
        self.assertGreater(len(finer.faces), 2000)
        self.assertEqual(open_edges(finer.welded, finer.faces), 0)
        np.testing.assert_array_equal(
            finer.welded == finer.welded[0], welded(finer.values[:, :3]) == welded(finer.values[:, :3])[0]
        )
        corners = finer.values[finer.faces, :3]
        area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum() / 2
        self.assertAlmostEqual(area, float(self.box.face_areas().sum()), places=6)

    def test_no_edge_is_longer_than_asked_for_and_far_ones_are_left_alone(self):
        longest = toward((1.0, 1.0, 0.2), reach=0.4)
        finer = refine(self.values, self.faces, longest, 100_000)
        corners = finer.values[finer.faces, :3]
        length = np.linalg.norm(corners - corners[:, [1, 2, 0]], axis=2).max(axis=1)
        self.assertTrue((length <= longest(corners)).all())
        self.assertGreater(length.max(), 0.4)

    def test_parts_know_what_they_are_parts_of_and_lie_in_it(self):
        finer = refine(self.values, self.faces, toward((0, 1, 0)), 100_000)
        whole = face_normals(self.values[:, :3], self.faces)[finer.source]
        np.testing.assert_allclose(face_normals(finer.values[:, :3], finer.faces), whole, atol=1e-5)

    def test_there_is_a_limit_and_the_same_mesh_every_time(self):
        few = refine(self.values, self.faces, toward((0, 1, 0), fine=0.001), 5_000)
        self.assertFalse(few.whole)
        self.assertLessEqual(len(few.faces), 5_000)
        self.assertEqual(open_edges(few.welded, few.faces), 0)
        again = refine(self.values, self.faces, toward((0, 1, 0), fine=0.001), 5_000)
        self.assertEqual(few.values.tobytes(), again.values.tobytes())


class Shaped(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        site = small_site()
        finish = Finish(material="moss", fill=0.8, thickness=12.0, break_up=0.2)
        site.put("m", PatinaPlan(name="moss", uses=[PatinaUse(surface="wall/stone")], finish=finish, amount=0.5))
        cls.site, cls.scene = site, scene_of(site)
        cls.station = StationPlan(name="close", position=(0.2, 0.9, 0.2), target=(0.2, 0.7, -1.75), lens=35)
        cls.look = look_of(cls.station, (320, 200), GOOD)
        cls.mesh = shaped_mesh(cls.scene, "wall", cls.look)

    def test_it_follows_the_height_channel_to_a_tenth_of_its_relief(self):
        mesh, scene = self.mesh, self.scene
        plain = scene.mesh("wall")
        front = mesh.normals[:, 2] > 0.99
        middle = (np.abs(mesh.positions[:, 0] - 0.2) < 0.4) & (np.abs(mesh.positions[:, 1] - 0.7) < 0.2)
        some = np.flatnonzero(front & middle)[::7]
        self.assertGreater(len(some), 300)
        slots = np.zeros(len(some), np.int32)
        maps = owner_covers(scene, "wall", VIEW_LIMIT)
        covers = [(p, np.float32(sample_map(maps[k], mesh.uv2[some]))) for k, (_, p) in enumerate(stack(scene, "wall"))]
        stone = plain.slot_names.index("stone")
        height = blend_values(scene, "wall", mesh.uv[some], mesh.uv[some], slots + stone, covers)[:, 7]
        moved = triangle_tree(plain.positions, plain.faces).distance(mesh.positions[some])
        self.assertGreater(np.ptp(height), 0.01)
        close = np.abs(moved - np.abs(height)) < 0.1 * relief_of(scene, "wall")
        self.assertGreater(close.mean(), 0.97)

    def test_no_crack_opens_and_no_triangle_turns_over(self):
        plain = self.scene.mesh("wall")
        before = open_edges(welded(plain.positions), plain.faces)
        rounded = np.round(self.mesh.positions.astype(np.float64), 5)
        self.assertLessEqual(open_edges(welded(rounded), self.mesh.faces), before + 0.0005 * len(self.mesh.faces))
        shape = self.mesh.normals[self.mesh.faces].mean(axis=1)
        over = np.einsum("nk,nk->n", face_normals(self.mesh.positions, self.mesh.faces), shape) < -0.2
        self.assertLess(over.mean(), 0.005)

    def test_nothing_moves_beyond_the_reach_or_without_relief(self):
        far = replace(self.look, reach=0.5)
        self.assertIs(shaped_mesh(self.scene, "wall", far), self.scene.mesh("wall"))
        meshes = shaped_meshes(self.scene, self.look)
        self.assertEqual(list(meshes), self.scene.owners())
        low, high = self.scene.mesh("wall").bounds()
        most = relief_of(self.scene, "wall") + 1e-6
        self.assertTrue(
            (self.mesh.bounds()[0] >= low - 1.7 * most).all() and (self.mesh.bounds()[1] <= high + 1.7 * most).all()
        )

    def test_with_room_for_few_triangles_it_is_cut_evenly_coarser(self):
        few = shaped_mesh(self.scene, "wall", replace(self.look, most=20_000))
        self.assertLessEqual(len(few.faces), 20_000)
        plain = self.scene.mesh("wall")
        moved = triangle_tree(plain.positions, plain.faces).distance(few.positions) > 0.003
        self.assertGreater(moved.sum(), 1000)

    def test_the_same_plan_gives_the_same_bytes_and_a_rough_look_fewer_triangles(self):
        again = shaped_mesh(scene_of(self.site), "wall", look_of(self.station, (320, 200), GOOD))
        self.assertEqual(again.positions.tobytes(), self.mesh.positions.tobytes())
        rough = shaped_mesh(self.scene, "wall", look_of(self.station, (320, 200), ROUGH))
        self.assertLess(len(rough.faces), 0.7 * len(self.mesh.faces))
        self.assertGreater(len(rough.faces), 4 * len(self.scene.mesh("wall").faces))
