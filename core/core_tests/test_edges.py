"""Worn edges: found by the angle of their faces, worn where they are and nowhere else, and carried along by the piece."""

import unittest

import numpy as np
import trimesh

from cenote_core.kit.shapes import block
from cenote_core.mesh.mesh import make_mesh, points_on
from cenote_core.plan import PiecePlan
from cenote_core.proof_scene.edges import chips_of, sharp_edges, worn

from .helpers import scene_of, small_site


def box(size):
    made = trimesh.creation.box(size)
    return make_mesh(made.vertices, made.faces)


class Sharp(unittest.TestCase):
    def test_of_a_box_its_twelve_edges(self):
        ends = sharp_edges(box((2.0, 1.0, 0.5)))
        self.assertEqual(len(ends), 12)
        self.assertAlmostEqual(float(np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1).sum()), 4 * 3.5, places=5)

    def test_of_a_ball_and_of_a_sheet_none(self):
        ball = trimesh.creation.icosphere(3)
        self.assertEqual(len(sharp_edges(make_mesh(ball.vertices, ball.faces))), 0)
        flat = make_mesh(np.float32([[0, 0, 0], [1, 0, 0], [1, 0, 1], [0, 0, 1]]), np.array([[0, 2, 1], [0, 3, 2]]))
        self.assertEqual(len(sharp_edges(flat)), 0)

    def test_a_broken_edge_counts_on_both_its_sides(self):
        # A bevel turns twice by 45°.
        self.assertEqual(len(sharp_edges(block((1.0, 1.0, 1.0), bevel=0.02))), 2 * 12 + 3 * 8)


class Worn(unittest.TestCase):
    def scene(self, position=(0, 0, 0), asset="wall"):
        site = small_site()
        site.pieces.clear()
        site.put("p", PiecePlan(name="p", asset=asset, position=position, foot_width=0.0))
        return scene_of(site)

    def points(self, scene, count=20_000):
        mesh, draw = scene.mesh("p"), np.random.default_rng(3)
        areas = mesh.face_areas()
        face = draw.choice(len(areas), count, p=areas / areas.sum())
        bary = draw.random((count, 2)).astype(np.float32)
        return points_on(mesh, face, np.where(bary.sum(axis=1, keepdims=True) > 1, 1 - bary, bary))

    def test_only_edges_lose_and_no_more_than_the_material_gives(self):
        scene = self.scene()
        at = self.points(scene)
        lost = worn(scene, "p", at.positions, at.slots)
        depth = chips_of(scene, "p")
        self.assertGreater(lost.max(), 0.3 * depth.max())
        self.assertTrue((lost >= 0).all() and (lost <= depth[at.slots]).all())
        ends = sharp_edges(scene.mesh("p")).astype(float)
        some = np.flatnonzero(lost > 0)[:300]
        start, along = ends[:, 0], ends[:, 1] - ends[:, 0]
        delta = at.positions[some, None].astype(float) - start
        t = np.clip((delta * along).sum(-1) / np.maximum((along**2).sum(-1), 1e-12), 0, 1)
        away = np.linalg.norm(delta - t[..., None] * along, axis=-1).min(axis=1)
        self.assertLess(away.max(), 2.5 * depth.max() + 1e-4)

    def test_wear_is_no_even_strip(self):
        scene = self.scene()
        at = self.points(scene, 60_000)
        lost = worn(scene, "p", at.positions, at.slots)
        near = lost[lost > 0]
        self.assertGreater(near.std(), 0.5 * near.mean())

    def test_it_goes_with_the_piece(self):
        one, two = self.scene(), self.scene((1.25, 0.0, -0.75))
        a, b = self.points(one), self.points(two)
        np.testing.assert_allclose(
            worn(one, "p", a.positions, a.slots), worn(two, "p", b.positions, b.slots), atol=2e-4
        )

    def test_metal_keeps_its_edges(self):
        scene = self.scene(asset="lamp")
        at = self.points(scene, 2000)
        self.assertEqual(worn(scene, "p", at.positions, at.slots).max(), 0.0)


if __name__ == "__main__":
    unittest.main()
