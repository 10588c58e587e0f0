"""Grounds of loose pieces: pictures that repeat without a seam, and the pieces they are told to hold."""

import unittest

import numpy as np

from cenote_core.materials import strewn
from cenote_core.materials.bits import find_bits
from cenote_core.materials.catalogue import CATALOGUE

SIZE = 512
MAKERS = {name: getattr(strewn, name) for name in ("pebbles", "bark_chips", "leaf_soil")}


class Grounds(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.made = {name: make(SIZE, 5) for name, make in MAKERS.items()}

    def test_tiles_meet(self):
        for name, made in self.made.items():
            for plane in (made.height.astype(float), made.colour.astype(float).mean(axis=2)):
                for turned in (plane, plane.T):
                    across = np.abs(turned[0] - turned[-1]).mean()
                    within = np.abs(np.diff(turned, axis=0)).mean()
                    self.assertLess(across, 1.6 * within, name)

    def test_a_seed_is_a_picture_and_another_is_another(self):
        for name, make in MAKERS.items():
            np.testing.assert_array_equal(make(128, 3).height, make(128, 3).height, name)
            self.assertGreater(np.abs(make(128, 3).height.astype(int) - make(128, 4).height).mean(), 5, name)

    def test_their_bits_are_found_again_in_their_size(self):
        for name, made in self.made.items():
            loose = CATALOGUE[name].loose
            bits = find_bits(made, loose)
            self.assertGreater(len(bits.at), 150, name)
            long = 2 * np.median(bits.half[:, 0])
            self.assertTrue(0.4 * loose.size < long < 2.5 * loose.size, (name, long))


class Pieces(unittest.TestCase):
    def test_pebbles_lie_beside_each_other(self):
        lying = strewn.strewn(SIZE, 1, strewn.PEBBLE, 900, (0.02, 0.03), (0.8, 0.95), 0.5)
        rim = lying.on & (lying.along**2 + lying.across**2 > 0.7)
        inner = lying.on & (lying.along**2 + lying.across**2 < 0.3)
        # Whole discs have their rims and their middles in proportion; hidden ones would lose rims.
        self.assertGreater(rim.sum() / inner.sum(), 0.75)
        self.assertGreater(lying.on.mean(), 0.35)

    def test_the_higher_piece_shows(self):
        few = strewn.strewn(SIZE, 2, strewn.CHIP, 40, (0.05, 0.1), (0.3, 0.5), 0.3)
        many = strewn.strewn(SIZE, 2, strewn.CHIP, 400, (0.05, 0.1), (0.3, 0.5), 0.3)
        self.assertGreater(many.height.mean(), few.height.mean())
        self.assertLessEqual(many.height.max(), 1.2)
        self.assertTrue((few.height[~few.on] == 0).all())


if __name__ == "__main__":
    unittest.main()
