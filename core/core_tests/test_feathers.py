"""Frost on a pane: ferns that grow from seeds."""

import unittest

import numpy as np
from scipy.ndimage import label

from cenote_core.materials.feathers import feathers


class Feathers(unittest.TestCase):
    def test_they_grow_from_few_seeds_over_the_pane_and_repeat_at_its_rim(self):
        order = feathers(512, 3)
        np.testing.assert_array_equal(order, feathers(512, 3))
        shares = [(order > at).mean() for at in (0.98, 0.9, 0.8, 0.5)]
        self.assertTrue(np.all(np.diff(shares) > 0), shares)
        self.assertLess(shares[0], 0.03)
        self.assertGreater(shares[2], 0.08)
        # What is frozen early hangs together along ribs, where as many scattered dots would not.
        early = order > 0.95
        dots = np.random.default_rng(0).permutation(early.ravel()).reshape(early.shape)
        pieces, scattered = (label(places, np.ones((3, 3)))[1] for places in (early, dots))
        self.assertLess(pieces, 0.1 * scattered)
        # A fern that leaves the picture on one side comes in on the other.
        rim = early[0] | early[-1]
        self.assertGreater((early[0] & (early[-1] | np.roll(early[-1], 1) | np.roll(early[-1], -1)))[rim].mean(), 0.3)
