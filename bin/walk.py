"""A newcomer at the bench, by mouse and keyboard: what the scripts that go a way by the clock share."""

from __future__ import annotations

import re
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
from bench_plate import ARGUMENTS, sign_in
from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "core")]

from cenote_core.plan import StationPlan  # noqa: E402
from cenote_core.stations.camera import axes, field_of_view  # noqa: E402

SAVED = "document.querySelector('[aria-label=Saving]').textContent.includes('saved')"
FIRST_LOOK = StationPlan(name="first look", position=(7.0, 2.2, 11.0), target=(0.0, 0.8, 0.0))


class Walk:
    """The person: takes thought, acts, and looks that it has arrived."""

    def __init__(self, page: Page, thought: float, folder: Path) -> None:
        self.page, self.thought, self.folder = page, thought, folder
        self.acts, self.started = 0, time.perf_counter()

    def told(self) -> None:
        """Say how it went."""
        print(
            f"{self.acts} acts, {self.clock:.0f} s with {self.thought:g} s of thought before each; pictures in {self.folder}"
        )

    @property
    def clock(self) -> float:
        return time.perf_counter() - self.started

    def act(self, what: str) -> None:
        self.acts += 1
        self.page.wait_for_timeout(self.thought * 1000)
        print(f"{self.clock:6.0f} s  {what}", flush=True)

    def saved(self) -> None:
        self.page.evaluate("new Promise(done => requestAnimationFrame(() => setTimeout(done, 60)))")
        self.page.wait_for_function(SAVED, timeout=120_000)

    def settled(self) -> None:
        """What was changed has arrived in the picture, and the picture is whole."""
        self.page.wait_for_timeout(400)
        self.page.get_by_text("setting out…").wait_for(state="detached", timeout=120_000)
        self.page.wait_for_selector("canvas[data-settled=true]", timeout=120_000)

    def look(self, name: str) -> None:
        self.settled()
        self.page.screenshot(path=self.folder / f"{name}.png")

    def click(self, name: str, what: str = "", role: str = "button", nth: int = 0) -> None:
        self.act(what or name)
        self.page.get_by_role(role, name=name, exact=True).nth(nth).click()  # type: ignore[arg-type]

    def step(self, name: str) -> None:
        self.act(f"step {name}")
        self.page.get_by_role("navigation", name="Course").get_by_role("button", name=name).click()

    def item(self, name: str) -> None:
        self.act(f"choose {name}")
        row = self.page.locator("nav button[aria-current]", has_text=name).first
        # A second click would let go of it.
        if row.get_attribute("aria-current") != "true":
            row.click()

    def number(self, label: str, value: float, nth: int = 0) -> None:
        self.act(f"{label}: {value}")
        field = self.page.get_by_role("textbox", name=re.compile(f"^{re.escape(label)}(,|$)")).nth(nth)
        field.click()
        field.fill(str(value))
        field.press("Enter")
        self.saved()

    def slide(self, label: str, share: float) -> None:
        """Drag a setting's line to a share of its length."""
        self.act(f"drag {label}")
        track = self.page.locator(f"[data-track='{label}']").first
        track.scroll_into_view_if_needed()
        box = track.bounding_box()
        assert box is not None
        y = box["y"] + box["height"] / 2
        self.page.mouse.move(box["x"] + box["width"] * 0.5, y)
        self.page.mouse.down()
        for k in range(1, 5):
            self.page.mouse.move(box["x"] + box["width"] * (0.5 + (share - 0.5) * k / 4), y)
            self.page.wait_for_timeout(80)
        self.page.mouse.up()
        self.saved()

    def choose(self, label: str, option: str, nth: int = 0) -> None:
        self.act(f"{label}: {option}")
        self.page.get_by_label(label, exact=True).nth(nth).locator("xpath=..").click()
        self.page.get_by_role("option", name=option, exact=True).click()
        self.saved()

    def on_plate(self, *places: tuple[float, float, float]) -> list[tuple[float, float]]:
        """Where places of the site are on the page, seen from the first station."""
        box = self.page.locator("canvas[aria-label='Picture of the site']").bounding_box()
        assert box is not None
        eye, right, up, forward = axes(FIRST_LOOK)
        half = np.tan(np.radians(field_of_view(FIRST_LOOK.lens)) / 2)
        found = []
        for place in places:
            off = np.asarray(place) - eye
            depth = off @ forward
            x = 0.5 + 0.5 * (off @ right) / depth / half
            y = 0.5 - 0.5 * (off @ up) / depth / half * box["width"] / box["height"]
            found.append((box["x"] + box["width"] * x, box["y"] + box["height"] * y))
        return found

    def line(self, *places: tuple[float, float, float]) -> None:
        self.act("click along it")
        for x, y in self.on_plate(*places):
            self.page.mouse.move(x - 2, y)
            self.page.mouse.move(x, y)
            self.page.mouse.click(x, y)
            self.page.wait_for_timeout(600)
        self.page.keyboard.press("Enter")
        self.saved()

    def stroke(self, what: str, *places: tuple[float, float, float]) -> None:
        self.act(what)
        spots = self.on_plate(*places)
        self.page.mouse.move(*spots[0])
        self.page.mouse.down()
        for (ax, ay), (bx, by) in zip(spots, spots[1:], strict=False):
            for k in range(1, 6):
                self.page.mouse.move(ax + (bx - ax) * k / 5, ay + (by - ay) * k / 5)
                self.page.wait_for_timeout(40)
        self.page.mouse.up()
        self.saved()

    def rule(self, measure: str) -> None:
        self.act(f"+ rule {measure}")
        self.page.get_by_role("button", name="+ rule").first.click()
        self.page.get_by_role("menuitem", name=re.compile(f"^{measure}")).first.click()
        self.saved()

    def rules(self) -> list[str]:
        """Measures of the rules in the sheet."""
        found = self.page.locator("[data-rule]")
        found.first.wait_for()
        return [str(found.nth(k).get_attribute("data-rule")) for k in range(found.count())]

    def nudge(self, measure: str) -> None:
        """Shift where a rule is full from, or full to where it begins with all."""
        for word in ("full from", "full to"):
            field = self.page.get_by_label(f"{measure} {word}, typed", exact=True).first
            value = float(field.input_value())
            if value > 0:
                self.typed(f"{measure} {word}", round(value * 1.08 if word == "full from" else value * 0.93, 3))
                return

    def typed(self, name: str, value: float) -> None:
        self.act(f"{name}: {value}")
        field = self.page.get_by_label(f"{name}, typed", exact=True).first
        field.fill(str(value))
        field.press("Enter")
        self.saved()


@contextmanager
def newcomer(base: str, thought: float, folder: str, site: str) -> Iterator[Walk]:
    """Somebody who has signed in and begun an empty site of a name; pictures go to a folder."""
    pictures = Path(folder)
    pictures.mkdir(exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        page = browser.new_context(viewport={"width": 1280, "height": 800}, bypass_csp=True).new_page()
        page.set_default_timeout(60_000)
        sign_in(page, base)
        walk = Walk(page, thought, pictures)
        walk.act("a new site")
        page.get_by_label("Name of a new site").fill(site)
        page.get_by_role("button", name="New site").click()
        page.wait_for_selector("canvas[data-ready=true]", timeout=120_000)
        yield walk
        browser.close()


def proof(walk: Walk, quality: str) -> None:
    page = walk.page
    walk.step("Proofs")
    done = page.locator("[data-job=done] img")
    addresses = lambda: {done.nth(k).get_attribute("src") for k in range(done.count())}  # noqa: E731
    page.wait_for_timeout(1000)
    before = addresses()
    walk.click({"rough": "Rough, in seconds", "good": "Good, in minutes"}[quality])
    while not (new := addresses() - before):
        page.wait_for_timeout(500)
    (address,) = new
    (walk.folder / f"proof-{quality}.png").write_bytes(
        page.request.get(page.url.split("/sites/")[0] + str(address)).body()
    )
