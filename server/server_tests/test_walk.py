"""A stretch of a new user's way at the bench: what is set down is seen beforehand, a path is laid, planted and moved."""

from __future__ import annotations

import re

import numpy as np
from playwright.sync_api import expect

from cenote_core.drifts.instancing import build_instances
from cenote_core.measures.path import path_distance
from cenote_core.plan import GroundPlan, StationPlan
from cenote_core.stations.camera import axes, field_of_view
from sites.computing import scene_of
from sites.models import Item

from .browser import BrowserTest
from .helpers import first_hits, site_of

FROM_ABOVE = StationPlan(name="from above", position=(0, 6.5, 8.5), target=(0, 0, 0), lens=28, order=1)


class OnTheGround(BrowserTest):
    def hover(self, x: float, y: float) -> np.ndarray:
        """What the slip under the plate says of the place under the pointer: east, up, south."""
        at = self.on_plate(x, y)
        self.page.mouse.move(at[0] - 3, at[1])
        self.page.mouse.move(*at)
        text = self.page.get_by_text(re.compile("east, .* up")).inner_text()
        return np.array([float(n) for n in re.findall(r"(-?[\d.]+) (?:east|up|south)", text)])

    def level(self):
        """A level site without anything on it."""
        ground = GroundPlan(width=24, depth=24, cell=0.4, amount=0)
        return site_of(self.user, ground=ground, **{"station-1": FROM_ABOVE})

    def take_from_the_kit(self, site, title: str) -> None:
        self.open(site)
        self.step("Pieces")
        self.page.get_by_role("button", name="+ piece").click()
        self.page.get_by_role("button", name=re.compile(f"^{title}")).click()

    def test_the_pointer_meets_the_ground_where_the_line_of_sight_first_does(self):
        low = StationPlan(name="low", position=(0, 2.6, 9), target=(0, 0.6, 0), lens=30, order=1)
        hills = GroundPlan(width=24, depth=24, cell=0.4, amount=3.5, feature=5, seed=4)
        site = site_of(self.user, ground=hills, **{"station-1": low})
        self.take_from_the_kit(site, "Crate")
        places = [(x, y) for x in (0.15, 0.4, 0.65, 0.9) for y in (0.55, 0.7, 0.9)]
        found = np.array([self.hover(x, y) for x, y in places])

        box = self.page.locator("canvas[aria-label='Picture of the site']").bounding_box()
        eye, right, up, forward = axes(low)
        half = np.tan(np.radians(field_of_view(low.lens)) / 2)
        across, down = np.array(places).T
        aspect = box["width"] / box["height"]
        rays = forward + np.outer((2 * across - 1) * half, right) + np.outer((1 - 2 * down) * half / aspect, up)
        rays /= np.linalg.norm(rays, axis=1, keepdims=True)
        mesh = scene_of(site).mesh("ground")
        face, weights = first_hits(mesh, eye, rays)
        corners = mesh.positions[mesh.faces[face]].astype(float)
        v, w = weights.T[..., None]
        expected = corners[:, 0] * (1 - v - w) + corners[:, 1] * v + corners[:, 2] * w
        # The read-out has centimetres; the pointer stands on whole pixels.
        np.testing.assert_allclose(found, expected, atol=0.06)

    def test_what_is_set_down_is_seen_at_its_size_beforehand(self):
        site = self.level()
        self.take_from_the_kit(site, "Tin-roofed shelter")
        x, y = self.on_plate(0.5, 0.55)
        self.page.mouse.move(*self.on_plate(0.1, 0.95))
        self.settled()
        empty = self.plate()
        self.page.mouse.move(x - 2, y)
        self.page.mouse.move(x, y)
        self.page.wait_for_timeout(1500)
        ghost = np.abs(self.plate() - empty).max(axis=2) > 12
        self.page.mouse.click(x, y)
        self.saved()
        self.page.wait_for_timeout(1500)
        self.page.keyboard.press("Escape")
        self.settled()
        stands = np.abs(self.plate() - empty).max(axis=2) > 12
        self.assertGreater(ghost.mean(), 0.03)
        # It stood where the piece stands now; the piece has a shadow besides.
        self.assertGreater((ghost & stands).sum() / ghost.sum(), 0.9)
        plan = Item.objects.get(site=site, kind="piece").plan
        self.assertEqual(plan["asset"], "shelter")

    def test_turn_and_size_before_it_is_set_down(self):
        site = self.level()
        self.take_from_the_kit(site, "Crate")
        x, y = self.on_plate(0.5, 0.55)
        self.page.mouse.move(x, y)
        for key in (".", ".", "="):
            self.page.keyboard.press(key)
        expect(self.page.get_by_text("turned 30°, size 1.10 ×")).to_be_visible()
        self.page.mouse.click(x, y)
        self.saved()
        plan = Item.objects.get(site=site, kind="piece").plan
        self.assertEqual((plan["turn"], plan["size"]), (30, 1.1))


class Paths(BrowserTest):
    def test_a_path_is_laid_with_gravel_planted_along_and_moved_with_all_of_it(self):
        site = site_of(
            self.user, ground=GroundPlan(width=24, depth=24, cell=0.3, amount=0), **{"station-1": FROM_ABOVE}
        )
        self.open(site)
        self.step("Ground")
        self.page.get_by_role("button", name="+ path or ditch").click()
        expect(self.page.get_by_text("Click in the plate along the middle of the path")).to_be_visible()
        for share in (0.1, 0.5, 0.9):
            self.page.mouse.move(*self.on_plate(share, 0.6))
            self.page.mouse.click(*self.on_plate(share, 0.6))
            self.page.wait_for_timeout(450)
        self.page.keyboard.press("Enter")
        self.saved()
        self.settled()
        turf = self.plate()
        self.page.get_by_role("button", name="Lay gravel on it").click()
        self.saved()
        expect(self.page.get_by_role("button", name="Lay gravel on it")).to_have_count(0)
        self.settled()
        changed = np.abs(self.plate() - turf).mean(axis=2)
        rows = changed[:, changed.shape[1] // 4 : -changed.shape[1] // 4].mean(axis=1)
        height = len(rows)
        # Gravel lies in a band at the line that was clicked, and nowhere else.
        self.assertGreater(rows[int(0.58 * height) : int(0.62 * height)].mean(), 15)
        self.assertLess(rows[int(0.85 * height) : int(0.95 * height)].mean(), 4)

        self.step("Drifts")
        self.page.get_by_role("button", name="Add Path edge").click()
        self.page.get_by_text("was added").wait_for()
        self.saved()
        self.assertTrue(self.beside(site))
        self.settled()
        self.step("Ground")
        mark = "[data-mark='cut 1 ·2']"
        self.page.locator(mark).wait_for()
        before = Item.objects.get(site=site, key="ground").plan["forms"][0]["line"][1]
        self.drag(mark, 0, -90)
        self.saved()
        after = Item.objects.get(site=site, key="ground").plan["forms"][0]["line"][1]
        self.assertLess(after[1], before[1] - 0.5)
        self.assertTrue(self.beside(site))

    def beside(self, site) -> bool:
        """Do all drifts stand beside the path as it runs now, and near it?"""
        scene = scene_of(site)
        for key, plan in scene.site.drifts.items():
            found = build_instances(scene, key, plan)
            off = path_distance(found.position, scene.site.ground.paths())
            self.assertGreater(len(found), 5, plan.name)
            if off.min() < 0 or off.max() > 7.1:
                return False
        return True
