"""Every asset of the kit, as a piece and in a drift, through plate, proof and file."""

import tempfile
import unittest
from pathlib import Path

import numpy as np
import pygltflib as gl

from cenote_core import view
from cenote_core.handover import hand_over
from cenote_core.kinds import PARTS
from cenote_core.kit.catalogue import CATALOGUE
from cenote_core.plan import GroundPlan, PatinaPlan, PatinaUse, PiecePlan, StationPlan
from cenote_core.plan.site import SitePlan
from cenote_core.proof_scene.detail import ROUGH
from cenote_core.proofs.prepare import prepare

from .gltf import complaints, validated
from .helpers import drift, scene_of

_APART = 4.0


def all_of_the_kit():
    """All assets as pieces in rows, each once more in a drift beside them; moss on all of both."""
    site = SitePlan()
    side = int(np.ceil(np.sqrt(len(CATALOGUE))))
    site.ground = GroundPlan(width=side * _APART * 2, depth=side * _APART, cell=2.0, amount=0.0)
    uses = []
    for number, key in enumerate(sorted(CATALOGUE)):
        row, column = divmod(number, side)
        at = ((column - side) * _APART, 0, (row - side / 2) * _APART)
        site.put(f"p{number}", PiecePlan(name=key, asset=key, position=at))
    halves = [sorted(CATALOGUE)[::2], sorted(CATALOGUE)[1::2]]
    for name, some in zip("de", halves, strict=True):
        site.put(name, drift(name=name, assets=some, density=0.6, spacing=0.5, headroom=0))
    kit = scene_of(site).kit
    for number, key in enumerate(sorted(CATALOGUE)):
        slots = kit.asset(key).lods[0].slot_names
        uses += [PatinaUse(surface=f"{owner}/{slot}") for owner in (f"p{number}", "d", "e") for slot in slots]
    site.put("m", PatinaPlan(name="moss", uses=list({use.surface: use for use in uses}.values())[:400]))
    site.put("s", StationPlan(name="s", position=(0, 6, 30), target=(0, 0, 0)))
    return site


class WholeKit(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.site = all_of_the_kit()
        cls.scene = scene_of(cls.site)

    def test_in_the_plate(self):
        asked = []
        view.manifest(self.scene, lambda part, name, version: asked.append((part, name, version)) or "x")
        for part, name, version in asked:
            if part in ("mesh", "covers", "instances", "worn"):
                with self.subTest(part=part, name=name):
                    self.assertTrue(version)
                    self.assertGreater(len(PARTS[part].make(self.scene, name)), 20)
        self.assertEqual(len([1 for part, *_ in asked if part == "mesh"]), len(CATALOGUE) + 1)

    def test_in_a_proof(self):
        stage = prepare(self.scene, self.site.stations["s"], (96, 60), ROUGH)
        self.assertIsNotNone(stage.world)

    def test_in_a_file(self):
        with tempfile.TemporaryDirectory() as name:
            hand_over(self.scene, "kit", Path(name), lambda stage, share: None, most=64)
            self.assertEqual(complaints(validated(Path(name) / "site.glb")), [])
            document = gl.GLTF2().load(str(Path(name) / "site.glb"))
        named = {node.name for node in document.nodes}
        self.assertEqual(set(CATALOGUE) - named, set())
        self.assertGreater(len([n for n in named if n and n[:3] in ("d: ", "e: ")]), 0.9 * len(CATALOGUE))
        # Leaves and panes are not solid.
        cut = {m.name for m in document.materials if m.alphaMode == "MASK"}
        self.assertTrue(any(name.startswith("fern") for name in cut), cut)
        self.assertIn("KHR_materials_transmission", document.extensionsUsed)
