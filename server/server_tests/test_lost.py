"""The page when answers do not arrive: each kind of request fails once, the sign-in ends, the server is away for a while."""

import re

from django.conf import settings
from django.contrib.sessions.models import Session
from playwright.sync_api import expect

from sites.models import Change, Item

from .browser import PASSWORD, BrowserTest
from .helpers import client_of, person
from .test_bench import small


def kind_of(request) -> str:
    """Method and address of a request without what tells one of its kind from another."""
    path = request.url.split("/api/")[1].partition("?")[0]
    named = re.sub(r"(derived/[a-z]+|assets|materials)/.*", r"\1", re.sub(r"[0-9a-f-]{36}", "…", path))
    return f"{request.method} {named}"


class Losing:
    """Takes some requests of a page away."""

    def __init__(self, page, lose):
        self.kinds: list[str] = []
        self.lost = 0
        page.route("**/api/**", lambda route: self._meet(route, lose))

    def _meet(self, route, lose):
        kind = kind_of(route.request)
        first = kind not in self.kinds
        self.kinds.append(kind)
        if not lose(kind, first):
            return route.continue_()
        self.lost += 1
        # Half of them are refused for now, the others get no answer at all.
        if self.lost % 2:
            return route.abort("connectionreset")
        return route.fulfill(status=503, content_type="application/json", body='{"detail": "Busy."}')


class Lost(BrowserTest):
    def set_density(self, value):
        field = self.page.get_by_label("density, per m²")
        if not field.is_visible():
            self.choose("grass")
        field.fill(value)
        field.press("Enter")

    def test_every_kind_of_request_fails_once(self):
        site = small(self.user)
        losing = Losing(self.page, lambda kind, first: first)
        self.open(site)
        expect(self.page.locator("[data-counts]")).to_contain_text("things")
        expect(self.page.get_by_role("button", name=re.compile(r"^grass \d{3}")).first).to_be_visible()
        self.set_density("8")
        self.saved()
        self.page.get_by_role("button", name="Undo").click()
        expect(self.page.get_by_text("Undone: ")).to_be_visible()
        self.assertEqual(Item.objects.get(site=site, key="g").plan["density"], 6.0)
        self.drag("[data-handle]", 12, 0)
        self.saved()
        self.settled()
        self.page.get_by_role("button", name="Section").click()
        self.page.wait_for_timeout(1500)
        wanted = {
            "GET accounts/me", "GET sites/…", "GET sites/…/scene", "GET kit/assets", "GET parts", "GET sites/…/effects",
            "GET work/sites/…/jobs", "POST sites/…/changes", "POST sites/…/undo", "POST sites/…/histograms",
            "POST sites/…/preview", "POST sites/…/section",
        }  # fmt: skip
        self.assertEqual(wanted - set(losing.kinds), set())
        self.assertGreater(losing.lost, len(wanted) - 1)
        self.assertEqual(Change.objects.filter(site=site, state=Change.REFUSED).count(), 0)
        expect(self.page.get_by_text("Not all of the picture is here")).to_have_count(0)

    def test_a_part_that_never_comes_is_said_and_asked_for_by_hand(self):
        site = small(self.user)
        away = [True]
        Losing(self.page, lambda kind, first: away[0] and kind.startswith("GET parts"))
        session = client_of(self.user).cookies[settings.SESSION_COOKIE_NAME].value
        self.context.add_cookies(
            [{"name": settings.SESSION_COOKIE_NAME, "value": session, "url": self.live_server_url}]
        )
        self.page.goto(f"{self.live_server_url}/sites/{site.pk}")
        alert = self.page.get_by_role("alert").filter(has_text="Not all of the picture is here")
        expect(alert).to_be_visible(timeout=40_000)
        away[0] = False
        alert.get_by_role("button", name="Try again").click()
        self.page.wait_for_selector("canvas[data-ready=true]", timeout=90_000)
        expect(alert).to_have_count(0)

    def test_signed_out_elsewhere_edits_stay_and_go_out_after_signing_in_on_the_spot(self):
        site = small(self.user)
        self.open(site)
        Session.objects.all().delete()
        self.set_density("8")
        expect(self.page.get_by_label("Saving")).to_contain_text("not saved: signed out")
        dialog = self.page.get_by_role("dialog")
        expect(dialog).to_contain_text("Your sign-in has ended")
        dialog.get_by_role("button", name="Later").click()
        self.set_density("9")
        self.assertEqual(Item.objects.get(site=site, key="g").plan["density"], 6.0)
        self.page.get_by_role("button", name="Signed out: sign in").click()
        expect(dialog.get_by_label("Name")).to_have_value("ada")
        dialog.get_by_label("Password").fill(PASSWORD)
        dialog.get_by_role("button", name="Sign in").click()
        expect(dialog).to_have_count(0)
        self.saved()
        self.assertEqual(Item.objects.get(site=site, key="g").plan["density"], 9.0)
        expect(self.page.get_by_label("density, per m²")).to_have_value("9")

    def test_signed_in_again_in_another_tab_the_old_page_goes_on(self):
        site = small(self.user)
        self.open(site)
        other = self.context.new_page()
        other.goto(self.live_server_url)
        other.get_by_role("heading", name="Sites").wait_for()
        other.get_by_role("button", name="Sign out").click()
        other.get_by_label("Password").wait_for()
        self.sign_in(other)
        self.page.bring_to_front()
        # It may have asked for something just while nobody was signed in.
        expect(self.page.get_by_role("dialog")).to_have_count(0)
        self.set_density("8")
        self.saved()
        self.assertEqual(Item.objects.get(site=site, key="g").plan["density"], 8.0)

    def test_signed_in_again_in_another_tab_the_page_that_asks_for_it_asks_no_more(self):
        site = small(self.user)
        self.open(site)
        Session.objects.all().delete()
        self.set_density("8")
        expect(self.page.get_by_role("dialog")).to_contain_text("Your sign-in has ended")
        self.sign_in(self.context.new_page())
        expect(self.page.get_by_role("dialog")).to_have_count(0)
        self.saved()
        self.assertEqual(Item.objects.get(site=site, key="g").plan["density"], 8.0)

    def test_edits_belong_to_who_made_them(self):
        """Somebody else signs in here: what was not sent waits for its maker."""
        site = small(self.user)
        person("bo")
        self.open(site)
        Session.objects.all().delete()
        self.set_density("8")
        dialog = self.page.get_by_role("dialog")
        dialog.get_by_label("Name").fill("bo")
        dialog.get_by_label("Password").fill(PASSWORD)
        dialog.get_by_role("button", name="Sign in").click()
        expect(self.page.get_by_role("heading", name="This site is not here")).to_be_visible()
        self.assertEqual(Item.objects.get(site=site, key="g").plan["density"], 6.0)
        self.open(site)
        expect(self.page.get_by_label("Saving")).to_contain_text("saved")
        self.page.wait_for_timeout(500)
        self.assertEqual(Item.objects.get(site=site, key="g").plan["density"], 8.0)
