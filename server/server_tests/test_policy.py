"""The page under its own content security policy, which the other browser tests switch off for their tools."""

from playwright.sync_api import expect

from .browser import PASSWORD, BrowserTest
from .helpers import grass, site_of, wall


class Policy(BrowserTest):
    def setUp(self):
        super().setUp()
        self.context.close()
        self.context = self.chromium.new_context(viewport={"width": 1280, "height": 800})
        self.page = self.context.new_page()
        self.page.set_default_timeout(45_000)
        self.broken: list[str] = []
        self.page.on("console", lambda said: self.broken.append(said.text) if "Content Security" in said.text else None)
        self.page.on("pageerror", lambda error: self.errors.append(str(error)))

    def test_signing_in_and_opening_a_site_breaks_none_of_it(self):
        site = site_of(self.user, g=grass(), wall=wall())
        self.page.goto(self.live_server_url)
        self.page.get_by_label("Name").fill("ada")
        self.page.get_by_label("Password").fill(PASSWORD)
        self.page.get_by_role("button", name="Sign in").click()
        expect(self.page.get_by_role("heading", name="Sites")).to_be_visible()
        self.page.goto(f"{self.live_server_url}/sites/{site.pk}")
        self.page.wait_for_selector("canvas[data-settled=true]", timeout=90_000)
        self.step("Drifts")
        self.choose("grass")
        expect(self.page.get_by_text("density", exact=False).first).to_be_visible()
        self.assertEqual(self.broken, [])
        self.assertGreater(self.plate().std(), 10)

    def test_another_page_cannot_frame_it(self):
        answer = self.page.goto(self.live_server_url)
        self.assertEqual(answer.headers["x-frame-options"], "DENY")
        self.assertIn("frame-ancestors 'none'", answer.headers["content-security-policy"])
