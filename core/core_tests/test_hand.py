"""What the hand sets down, one by one and along lines."""

import unittest

import numpy as np

from cenote_core.drifts.instancing import build_instances
from cenote_core.plan import LinePlan, PiecePlan, PlacedPlan, PlacedThing

from .helpers import bare_ground, drift, rotated, scene_of


class OnPieces(unittest.TestCase):
    """What the hand sets on pieces stands on them, follows their surface and is let into it."""

    def setUp(self):
        self.site = bare_ground()
        self.site.put("p", PiecePlan(name="p", asset="platform", position=(0, 0, 0)))
        self.site.put("tilted", PiecePlan(name="tilted", asset="crate", position=(6, 0, 6), tilt=20, size=3))
        variety = {"sink_min": 0.03, "sink_max": 0.03, "lean": 0, "follow": 1.0}
        self.plan = drift(density=0.001, headroom=0, variety=variety)
        self.site.put("d", self.plan)

    def found(self):
        return build_instances(scene_of(self.site), "d", self.plan)

    def test_a_line_over_a_platform_and_off_it(self):
        top = float(scene_of(self.site).mesh("p").bounds()[1][1])
        self.site.put("l", LinePlan(target="d", points=[(-4, top, 0), (4, top, 0)], spacing=1.0, jitter=0))
        np.testing.assert_allclose(self.found().position[:, 1], 0.82 - 0.03, atol=0.005)
        self.site.put("l", LinePlan(target="d", points=[(-4, 0, 5), (4, 0, 5)], spacing=1.0, jitter=0))
        np.testing.assert_allclose(self.found().position[:, 1], -0.03, atol=0.002)

    def test_a_line_beside_follows_the_ground_when_the_piece_is_moved_away(self):
        top = float(scene_of(self.site).mesh("p").bounds()[1][1])
        self.site.put("l", LinePlan(target="d", points=[(-4, top, 0), (4, top, 0)], spacing=1.0, jitter=0))
        before = self.found()
        self.site.put("p", PiecePlan(name="p", asset="platform", position=(0, 0, -8)))
        after = self.found()
        np.testing.assert_allclose(after.position[:, 1], -0.03, atol=0.002)
        np.testing.assert_array_equal(before.identity, after.identity)

    def test_one_set_on_a_tilted_face_leans_with_it(self):
        scene = scene_of(self.site)
        mesh = scene.mesh("tilted")
        up = mesh.face_normals()[:, 1]
        face = int(np.argmax(np.where(up < 0.97, up * mesh.face_areas(), 0)))
        middle = mesh.positions[mesh.faces[face]].mean(axis=0)
        local = scene.to_local("tilted", middle[None])[0]
        thing = PlacedThing(asset="grass_low", point=tuple(float(v) for v in local))
        self.site.put("one", PlacedPlan(target="d", owner="tilted", things=[thing]))
        found = self.found()
        near = np.linalg.norm(found.position - middle, axis=1).argmin()
        self.assertLess(np.linalg.norm(found.position[near] - middle), 0.04)
        own = rotated(found.rotation[[near]], np.array([[0.0, 1.0, 0.0]]))[0, 0]
        self.assertGreater(float(own @ mesh.face_normals()[face]), 0.99)
