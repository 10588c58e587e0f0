"""Proofs at the bench: a part drawn in the plate, looked at while it grows, ended, gone on with."""

import io
import re
from unittest import mock

import numpy as np
from PIL import Image
from playwright.sync_api import expect

from work.models import Job

from .browser import BrowserTest, run_in_thread
from .helpers import grass, site_of, wall


class AtTheBench(BrowserTest):
    def setUp(self):
        super().setUp()
        queue = mock.patch("work.api.ask", run_in_thread)
        queue.start()
        self.addCleanup(queue.stop)

    def picture(self):
        """The proof that is shown in the plate's place, (H, W, 3)."""
        address = self.page.get_by_role("img", name="Proof", exact=True).get_attribute("src")
        answer = self.page.request.get(self.live_server_url + address)
        return np.asarray(Image.open(io.BytesIO(answer.body())).convert("RGB"), float)

    def draw_frame(self, left, top, right, bottom):
        self.page.get_by_role("button", name=re.compile("Draw a frame|Anew")).click()
        box = self.page.locator("[data-framing=true]").bounding_box()
        at = lambda x, y: (box["x"] + box["width"] * x, box["y"] + box["height"] * y)  # noqa: E731
        self.page.mouse.move(*at(left, top))
        self.page.mouse.down()
        self.page.mouse.move(*at(right, bottom), steps=4)
        self.page.mouse.up()

    def test_a_part_is_drawn_moved_by_keys_and_made(self):
        site = site_of(self.user, g=grass(), wall=wall())
        self.open(site)
        self.step("Proofs")
        self.page.get_by_label("Size").locator("..").click()
        self.page.get_by_role("option", name="640 × 400 px").click()
        self.draw_frame(0.3, 0.4, 0.5, 0.5)
        frame = self.page.get_by_label(re.compile("Frame of the next proof"))
        expect(frame).to_be_visible()
        frame.focus()
        before = frame.bounding_box()
        for _ in range(5):
            self.page.keyboard.press("ArrowRight")
        self.page.keyboard.press("Shift+ArrowDown")
        after = frame.bounding_box()
        self.assertGreater(after["x"], before["x"] + 10)
        self.assertGreater(after["height"], before["height"] + 2)
        self.page.get_by_role("button", name="Rough, in seconds").click()
        self.page.get_by_role("button", name=re.compile("Show rough proof, .*a part")).click(timeout=120_000)
        job = Job.objects.get()
        left, top, right, bottom = job.params["frame"]
        self.assertAlmostEqual(left, 0.35, delta=0.01)
        self.assertAlmostEqual(right - left, 0.2, delta=0.01)
        picture = self.picture()
        self.assertAlmostEqual(picture.shape[1], 640 * (right - left), delta=2.5)
        self.assertAlmostEqual(picture.shape[0], 400 * (bottom - top), delta=2.5)
        self.assertGreater(picture.std(), 5)
        # A frame too small to be meant is none.
        self.page.get_by_role("button", name="Back to the plate").click()
        self.page.get_by_role("button", name="All of it").click()
        expect(frame).to_have_count(0)
        self.draw_frame(0.5, 0.5, 0.505, 0.505)
        expect(frame).to_have_count(0)

    def test_a_good_one_grows_is_ended_and_gone_on_with(self):
        site = site_of(self.user, g=grass(), wall=wall())
        self.open(site)
        self.step("Proofs")
        self.page.get_by_label("Size").locator("..").click()
        self.page.get_by_role("option", name="1280 × 800 px").click()
        self.page.get_by_role("button", name="Good, in minutes").click()
        self.page.get_by_role("button", name="Show good proof").click(timeout=120_000)
        growing = self.picture()
        self.assertGreater(growing.std(), 15)
        expect(self.page.get_by_role("status").filter(has_text="samples a pixel")).to_be_visible()
        self.page.get_by_role("button", name="Good enough").click()
        self.page.locator("[data-job=done]").wait_for(timeout=120_000)
        done = self.picture()
        self.assertEqual(done.shape, (800, 1280, 3))
        job = Job.objects.get()
        first = job.result["samples"]
        self.page.get_by_role("button", name="Go on").click()
        self.page.locator("[data-job=running]").wait_for()
        self.page.get_by_role("button", name="Good enough").click(timeout=120_000)
        self.page.locator("[data-job=done]").wait_for(timeout=120_000)
        job.refresh_from_db()
        self.assertGreater(job.result["samples"], first)
        again = self.picture()
        self.assertLess(np.abs(again - done).mean(), 12)
