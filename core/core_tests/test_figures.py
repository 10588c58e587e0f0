"""What is told of the kit's materials without making them is what they are."""

import unittest

from cenote_core.graph.store import Cache
from cenote_core.hashing import content_hash
from cenote_core.kinds.weather import materials_info
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.materials.catalogue import CATALOGUE
from cenote_core.materials.figures import FIGURES, figures_of
from cenote_core.scene.scene import Scene

from .helpers import small_site

_SMALL = 64


class Figures(unittest.TestCase):
    def test_they_are_the_recipes(self):
        self.assertEqual(set(FIGURES), set(CATALOGUE))
        for key, recipe in CATALOGUE.items():
            with self.subTest(key):
                seed = int(content_hash("seed", key)[:6], 16)
                made = figures_of(recipe.make(_SMALL, seed, *((12,) if recipe.seasonal else ())))
                told = FIGURES[key]
                self.assertEqual(told["size"], recipe.size)
                for name in ("tile", "translucency", "alpha"):
                    self.assertEqual(told[name], made[name], name)
                # Of some the relief is what a picture of so many texels shows of it.
                self.assertAlmostEqual(told["depth"], made["depth"], delta=0.05 * told["depth"])
                self.assertAlmostEqual(told["metalness"], made["metalness"], delta=0.02)

    def test_a_site_is_listed_without_making_any(self):
        cache = Cache()
        scene = Scene(small_site(), BuiltinKit(cache), cache)
        self.assertEqual(materials_info(scene)["moss"]["tile"], FIGURES["moss"]["tile"])
        self.assertLess(cache.used, 1_000_000)
