"""Light through a plant's own leaves, against the closed form of a layer of leaves turned every way."""

from __future__ import annotations

import unittest
from dataclasses import fields

import numpy as np
from scipy.special import expn

from cenote_core.kit.baked_openness import as_drawn, drawn_shade, openness
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.kit.impostor import SLOT
from cenote_core.kit.kit import drawn_lods
from cenote_core.mesh.mesh import Mesh, make_mesh

from .helpers import CACHE


def leaf_layer(area_index: float, wide: float = 30.0, thick: float = 3.0, count: int = 60_000) -> Mesh:
    """Small triangles turned every way, evenly strewn, with so many square metres over a square metre of ground."""
    rng = np.random.default_rng(5)
    centres = rng.uniform((0, 0, 0), (wide, thick, wide), (count, 3))
    u = rng.normal(size=(count, 3))
    v = np.cross(u, rng.normal(size=(count, 3)))
    u /= np.linalg.norm(u, axis=1, keepdims=True)
    v /= np.linalg.norm(v, axis=1, keepdims=True)
    leg = np.sqrt(2 * area_index * wide * wide / count)
    corners = np.stack([centres, centres + leg * u, centres + leg * v], axis=1).reshape(-1, 3)
    return make_mesh(corners, np.arange(3 * count).reshape(-1, 3))


class LayerOfLeaves(unittest.TestCase):
    """Below a wide layer of leaf area index L the sky's light is 2 E₃(L/2) of that above (Monsi and Saeki 1953)."""

    middle = np.array([[15.0, 0.0, 15.0], [14.0, 0.0, 16.0]])

    def test_as_the_closed_form(self):
        for area_index in (0.5, 1.0, 2.0, 4.0):
            with self.subTest(area_index=area_index):
                found = openness(leaf_layer(area_index), self.middle, filled=1.0, cells=120)
                np.testing.assert_allclose(found, 2 * expn(3, 0.5 * area_index), atol=0.035)

    def test_cut_outs_let_through_what_they_leave_open(self):
        half = openness(leaf_layer(2.0), self.middle, filled=0.5, cells=60)
        whole = openness(leaf_layer(1.0), self.middle, filled=1.0, cells=60)
        np.testing.assert_allclose(half, whole, atol=0.02)

    def test_lighter_the_higher(self):
        heights = np.linspace(0.0, 2.9, 8)
        at = np.column_stack([np.full(8, 15.0), heights, np.full(8, 15.0)])
        found = openness(leaf_layer(2.0), at, cells=60)
        self.assertTrue((np.diff(found) > 0).all(), found)
        self.assertGreater(found[-1], 0.9)


class Bounds(unittest.TestCase):
    def test_nothing_above_is_open(self):
        triangle = make_mesh(np.array([[0, 0, 0], [1, 0, 0], [0, 0, 1.0]]), np.array([[0, 1, 2]]))
        np.testing.assert_array_equal(openness(triangle, np.array([[0.2, 0.9, 0.2], [3.0, 5.0, 3.0]])), 1)

    def test_a_mesh_without_area(self):
        point = make_mesh(np.zeros((3, 3)), np.array([[0, 1, 2]]))
        np.testing.assert_array_equal(openness(point), np.ones(3))

    def test_same_again(self):
        layer = leaf_layer(1.5, count=4_000)
        np.testing.assert_array_equal(openness(layer), openness(layer))


class KitPlants(unittest.TestCase):
    kit = BuiltinKit(CACHE)

    def test_dark_at_the_foot_and_heart(self):
        for name in ("fern_full", "heather", "grass_tall", "bracken"):
            with self.subTest(plant=name):
                mesh = self.kit.asset(name).lods[0]
                share = mesh.positions[:, 1] / mesh.positions[:, 1].max()
                shade = drawn_shade(mesh)
                self.assertLess(shade[share < 0.2].mean(), shade[share > 0.8].mean() - 0.05)
                self.assertTrue(((shade > 0) & (shade <= 1)).all())

    def test_every_level_is_equally_bright(self):
        asset = self.kit.asset("hazel_young")
        levels = [lod for lod in asset.lods if lod.slot_names != (SLOT,)]
        self.assertGreater(len(levels), 1)
        finest = drawn_shade(asset.lods[0]).mean()
        for lod, drawn in zip(levels, as_drawn(levels), strict=True):
            before = np.ones(3) if lod.colour is None else lod.colour[:, :3].mean(axis=0)
            self.assertAlmostEqual(float((drawn.colour[:, :3].mean(axis=0) / before).mean()), float(finest), delta=0.12)

    def test_drawn_levels_keep_their_shape_and_far_cards_their_colours(self):
        asset, drawn = self.kit.asset("hazel_young"), drawn_lods(self.kit, "hazel_young")
        self.assertEqual([lod.triangle_count for lod in drawn], [lod.triangle_count for lod in asset.lods])
        np.testing.assert_array_equal(drawn[-1].colour, asset.lods[-1].colour)
        np.testing.assert_array_equal(drawn[0].positions, asset.lods[0].positions)

    def test_stones_and_structures_are_drawn_as_they_are(self):
        for name in ("crate", "wall"):
            for drawn, own in zip(drawn_lods(self.kit, name), self.kit.asset(name).lods, strict=True):
                for part in fields(own):
                    np.testing.assert_array_equal(getattr(drawn, part.name), getattr(own, part.name), part.name)
