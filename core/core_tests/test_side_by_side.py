"""Kernels of several sites at the same time: nothing is shared between them, so each gives what it gives alone."""

import threading
import time
import unittest

import numpy as np

from cenote_core.beads.site_droplets import bead_mesh, carriers
from cenote_core.drifts.instancing import build_instances
from cenote_core.graph.store import Cache
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.plan import BeadsPlan, PatinaPlan, PatinaUse, PiecePlan, WeatherPlan
from cenote_core.pools.surface import water_surface
from cenote_core.scene.scene import Scene
from cenote_core.snow.cover import snow_cover

from .helpers import CACHE, drift, small_site

SECONDS = 20.0


def wet_pane():
    site = small_site()
    site.put("l", PiecePlan(name="l", asset="lantern", position=(0, 0, 1)))
    site.put("b", BeadsPlan(name="b", size=6, crowded=0.1, between=0, runs=2.0, uses=[PatinaUse(surface="l/pane")]))
    scene = Scene(site, BuiltinKit(CACHE), Cache())
    plan = site.of(BeadsPlan)["b"]
    return [bead_mesh(scene, "b", plan, owner).positions for owner in carriers(scene, plan)]


def pools():
    site = small_site(amount=0.3, feature=3.0)
    site.weather = WeatherPlan(standing=40.0, wetness=0.7, rain=4.0)
    scene = Scene(site, BuiltinKit(CACHE), Cache())
    return [found.positions for owner in scene.owners() if (found := water_surface(scene, owner)) is not None]


def snowed():
    site = small_site()
    site.weather = WeatherPlan(snow=6.0, wind=4.0)
    scene = Scene(site, BuiltinKit(CACHE), Cache())
    return [found.mesh.positions for owner in scene.owners() if (found := snow_cover(scene, owner)) is not None]


def planted():
    site = small_site()
    site.put("d", drift(density=6, spacing=0.15))
    site.put("m", PatinaPlan(name="m", uses=[PatinaUse(surface="wall/stone")]))
    scene = Scene(site, BuiltinKit(CACHE), Cache())
    return [build_instances(scene, "d", site.drifts["d"]).position]


class SideBySide(unittest.TestCase):
    def test_each_gives_what_it_gives_alone(self):
        work = [wet_pane, pools, snowed, planted]
        alone = [one() for one in work]
        self.assertTrue(all(len(found) for found in alone))
        until, odd, rounds = time.monotonic() + SECONDS, [], [0] * len(work)

        def again(number):
            while time.monotonic() < until and not odd:
                try:
                    for expected, found in zip(alone[number], work[number](), strict=True):
                        np.testing.assert_array_equal(expected, found)
                    rounds[number] += 1
                except Exception as error:
                    odd.append((work[number].__name__, error))

        # Two of each, as two people at two sites.
        threads = [threading.Thread(target=again, args=(k % len(work),)) for k in range(2 * len(work))]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(odd, [])
        self.assertTrue(all(rounds), rounds)
