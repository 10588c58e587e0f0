"""The bench in headless Chromium, driven as a person drives it."""

from __future__ import annotations

import io
import os
import threading
import time

import numpy as np
from django.conf import settings
from django.core.management.base import CommandError
from django.db import connection, transaction
from django.test import LiveServerTestCase, tag
from PIL import Image
from playwright.sync_api import Page, sync_playwright

from work import job_runner
from work.kinds import KINDS

from .helpers import client_of, person

ARGUMENTS = [
    "--no-sandbox",
    "--enable-unsafe-swiftshader",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
PASSWORD = "a long password"
SETTLED = """() => {
  const { settled, revision } = document.querySelector("canvas[aria-label='Picture of the site']").dataset;
  return settled === 'true' && Number(revision) >= Number(document.querySelector('[aria-label=Saving]').dataset.revision);
}"""


def run_in_thread(job) -> None:
    """Stands in for the queue: a job starts as soon as it is written down, in a thread of its own."""
    thread = threading.Thread(target=job_runner.run, args=(str(job.pk), KINDS), daemon=True)
    transaction.on_commit(thread.start)


@tag("browser")
class BrowserTest(LiveServerTestCase):
    """One browser for all tests of a class, a fresh session for each."""

    @classmethod
    def setUpClass(cls):
        # Playwright's own event loop makes Django believe it is called from asynchronous code.
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"
        super().setUpClass()
        cls.playwright = sync_playwright().start()
        cls.chromium = cls.playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)

    @classmethod
    def tearDownClass(cls):
        cls.chromium.close()
        cls.playwright.stop()
        super().tearDownClass()

    def setUp(self):
        self.user = person()
        # Playwright waits by code it writes into the page, which the page's own policy forbids; `test_policy` keeps it.
        self.context = self.chromium.new_context(viewport={"width": 1280, "height": 800}, bypass_csp=True)
        self.page = self.context.new_page()
        self.page.set_default_timeout(45_000)
        self.errors: list[str] = []
        self.page.on("pageerror", lambda error: self.errors.append(str(error)))

    def tearDown(self):
        self.context.close()
        self.assertEqual(self.errors, [])

    def _fixture_teardown(self):
        """Requests that were under way when the page was closed must not meet the emptying of the tables."""
        for left in (2, 1, 0):
            self._wait_for_requests()
            try:
                return super()._fixture_teardown()
            except CommandError:
                if not left:
                    raise

    def _wait_for_requests(self, most: float = 20.0) -> None:
        busy = (
            "select count(*) from pg_stat_activity where datname = current_database()"
            " and pid <> pg_backend_pid() and state <> 'idle'"
        )
        end = time.monotonic() + most
        with connection.cursor() as cursor:
            while time.monotonic() < end:
                cursor.execute(busy)
                if cursor.fetchone()[0] == 0:
                    break
                time.sleep(0.1)

    def sign_in(self, page: Page | None = None) -> None:
        page = page or self.page
        page.goto(self.live_server_url)
        page.get_by_label("Name").fill("ada")
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        page.get_by_role("heading", name="Sites").wait_for()

    def open(self, site, page: Page | None = None) -> None:
        """Open a site as somebody who has signed in before; returns when its picture stands."""
        page = page or self.page
        session = client_of(self.user).cookies[settings.SESSION_COOKIE_NAME].value
        page.context.add_cookies(
            [{"name": settings.SESSION_COOKIE_NAME, "value": session, "url": self.live_server_url}]
        )
        page.goto(f"{self.live_server_url}/sites/{site.pk}")
        page.wait_for_selector("canvas[data-ready=true]", timeout=90_000)
        self.settled(page)
        # Finest pictures of what is near come once the eye has rested: a picture before them is not one after them.
        page.wait_for_selector("canvas[data-near]", timeout=60_000)
        self.settled(page)

    def settled(self, page: Page | None = None) -> None:
        """Returns when the full picture of the newest saved state is drawn."""
        page = page or self.page
        # What has just been asked for is begun with the next picture of the page.
        page.evaluate("new Promise(done => requestAnimationFrame(() => setTimeout(done, 60)))")
        page.wait_for_function(SETTLED, timeout=90_000)

    def saved(self, page: Page | None = None) -> None:
        # The sign turns to "saving" with the next picture of the page, not within the click.
        (page or self.page).evaluate("new Promise(done => requestAnimationFrame(() => setTimeout(done, 60)))")
        (page or self.page).wait_for_function(
            "document.querySelector('[aria-label=Saving]').textContent.includes('saved')"
        )

    def step(self, name: str) -> None:
        self.page.get_by_role("navigation", name="Course").get_by_role("button", name=name).click()

    def choose(self, name: str) -> None:
        """Click an item's row in the course."""
        self.page.locator("nav button[aria-current]", has_text=name).first.click()

    def plate(self) -> np.ndarray:
        """The picture in the plate, (H, W, 3) float."""
        data = self.page.locator("canvas[aria-label='Picture of the site']").screenshot()
        return np.asarray(Image.open(io.BytesIO(data)).convert("RGB"), float)

    def drag(self, selector: str, dx: float, dy: float, steps: int = 6) -> None:
        """Take hold of something in its middle and drag it."""
        box = self.page.locator(selector).first.bounding_box()
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        for k in range(1, steps + 1):
            self.page.mouse.move(x + dx * k / steps, y + dy * k / steps)
            self.page.wait_for_timeout(60)
        self.page.mouse.up()

    def on_plate(self, x: float, y: float) -> tuple[float, float]:
        """Page coordinates of a place in the plate, given as shares of its width and height."""
        box = self.page.locator("canvas[aria-label='Picture of the site']").bounding_box()
        return box["x"] + box["width"] * x, box["y"] + box["height"] * y
