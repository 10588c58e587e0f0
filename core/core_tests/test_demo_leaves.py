"""The demo handed over: its own plan, thinned; a file without errors and without warnings.

In the two spells that have least in common; `bin/bench_handover.py` hands it over whole in all of them.
"""

import tempfile
import unittest
from pathlib import Path
from unittest import mock

import pygltflib as gl

from cenote_core.handover import hand_over
from cenote_core.plan.site import SitePlan
from cenote_core.scene.scene import TEXEL, VIEW_LIMIT, Scene
from demo import lantern, tarn_halt

from .gltf import complaints, validated
from .helpers import scene_of

_THINNED, _CELL, _MOST, _COARSE = 0.04, 0.5, 64, 256
"""Share of the drifts' density, the ground's step in metres, sides of the file's pictures and of what they are made from."""

_SPELLS = ("after rain", "first snow")
_resolution = Scene.resolution


def _coarse(scene, owner, limit=VIEW_LIMIT, texel=TEXEL):
    return _resolution(scene, owner, min(limit, _COARSE), texel)


def thinned(items):
    """A demo's plan with few things in its drifts and a coarse ground."""
    site = SitePlan.from_items(items)
    for key, plan in site.drifts.items():
        site.put(key, plan.model_copy(update={"density": plan.density * _THINNED}))
    site.ground = site.ground.model_copy(update={"cell": max(_CELL, site.ground.cell)})
    return site


@mock.patch.object(Scene, "resolution", _coarse)
class DemoLeaves(unittest.TestCase):
    def handed_over(self, site):
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            result = hand_over(scene_of(site), "demo", folder, lambda stage, share: None, _MOST)
            self.assertEqual(complaints(validated(folder / "site.glb")), [])
            rows = (folder / "instances.csv").read_text().splitlines()
            self.assertEqual(len(rows) - 1, result["instances"])
            return gl.GLTF2().load(str(folder / "site.glb"))

    def test_tarn_halt(self):
        site = thinned(tarn_halt.items())
        spells = {plan.name: key for key, plan in site.spells.items()}
        self.assertEqual(len(spells), 6)
        for name in _SPELLS:
            key = spells[name]
            with self.subTest(spell=name):
                document = self.handed_over(site.in_spell(key))
                named = {node.name for node in document.nodes}
                self.assertEqual({p.name for p in site.pieces.values()} - named, set())
                self.assertEqual({p.name for p in site.stations.values()} - named, set())
                self.assertEqual(len(document.cameras), len(site.stations))
                self.assertEqual(
                    [light["type"] for light in document.extensions["KHR_lights_punctual"]["lights"]], ["directional"]
                )
                snowed = any(n and n.startswith("snow on") for n in named)
                self.assertEqual(snowed, name == "first snow")
                looks = [m.name for m in document.materials if m.name.endswith(", looking up")]
                if name == "first snow":
                    self.assertGreater(len(looks), 10)

    def test_lantern(self):
        document = self.handed_over(thinned(lantern.items()))
        clear = [m.name for m in document.materials if "KHR_materials_transmission" in (m.extensions or {})]
        self.assertTrue(any("lantern" in name or "pane" in name for name in clear), clear)
