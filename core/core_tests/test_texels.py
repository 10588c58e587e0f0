"""Pictures fine enough for one metre: texels a pixel, from the kit's figures and from a proof's own depths."""

import tempfile
import unittest
from pathlib import Path

import numpy as np
import OpenEXR

from cenote_core.kit.builtin import BuiltinKit
from cenote_core.materials.catalogue import CATALOGUE
from cenote_core.plan import StationPlan
from cenote_core.proofs.render import ProofSettings, Watch, render_proof
from cenote_core.stations.camera import field_of_view

from .helpers import CACHE, scene_of, small_site

ACROSS, LENS = 1280, 35.0
"""Pixels across a good proof, and the lens of a usual station, millimetres."""
OF_PLANTS = {"twig_bark"}
"""Bark of twigs a few millimetres thick."""


def pixel_at(metres):
    """Width of a pixel of a good proof at a distance, metres."""
    return 2 * np.tan(np.radians(field_of_view(LENS)) / 2) / ACROSS * metres


class Texels(unittest.TestCase):
    def test_every_surface_of_the_kit_has_a_texel_a_pixel_at_one_metre(self):
        kit = BuiltinKit(CACHE)
        for name, recipe in CATALOGUE.items():
            if recipe.kind == "surface" and name not in OF_PLANTS | {"glass"}:
                material = kit.material(name)
                self.assertLessEqual(material.tile / material.size, 1.02 * pixel_at(1.0), name)

    def test_a_proof_of_a_wall_from_one_metre_shows_a_texel_a_pixel(self):
        site = small_site()
        site.put("near", StationPlan(name="near", position=(0.4, 0.8, -0.6), target=(0.2, 0.5, -2.0), lens=LENS))
        scene = scene_of(site)
        with tempfile.TemporaryDirectory() as folder:
            settings = ProofSettings(station="near", quality="rough", width=160, height=100)
            render_proof(scene, settings, Path(folder), Watch(lambda *_: None))
            depth = OpenEXR.File(str(Path(folder) / "passes.exr"), separate_channels=True).channels()["depth.Z"].pixels
        stone = scene.material("stone")
        there = depth[(depth > 0) & (depth < 1.6)]
        self.assertGreater(there.size, 0.3 * depth.size, "most of it is the wall")
        texels = pixel_at(np.maximum(there, 1.0)) / (stone.tile / stone.size)
        self.assertGreater((texels >= 0.98).mean(), 0.95)


if __name__ == "__main__":
    unittest.main()
