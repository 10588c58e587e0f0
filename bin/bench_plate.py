"""What a person at the bench waits for, measured in headless Chromium with software rendering: opening the demo, and
a gate handle dragged until the picture has changed. Called by bin/bench with the address of a running server."""

from __future__ import annotations

import statistics
import sys
import time

from playwright.sync_api import Page, sync_playwright

THROUGH_SWIFTSHADER = "--use-angle=swiftshader"
"""Lets the browser lay its page together on the software card too; by itself it does that without."""
ARGUMENTS = [
    "--no-sandbox",
    THROUGH_SWIFTSHADER,
    "--enable-unsafe-swiftshader",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
STEPS = 24


def sign_in(page: Page, base: str) -> None:
    page.goto(base)
    page.get_by_label("Name").fill("mira")
    page.get_by_label("Password").fill("limestone")
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("heading", name="Sites").wait_for()


def opening(page: Page) -> float:
    """Seconds from the click on the card to the first picture of the whole site."""
    started = time.perf_counter()
    page.get_by_role("link", name="Open Tarn Halt").click()
    page.wait_for_selector("canvas[data-ready=true]", timeout=180_000)
    return time.perf_counter() - started


def dragging(page: Page) -> list[float]:
    """Milliseconds from each move of the handle to its preview shown."""
    page.wait_for_selector("canvas[data-settled=true]", timeout=180_000)
    page.locator("nav button[aria-current]", has_text="lady fern").first.click()
    handle = page.locator("[data-rule=slope] [data-handle=fall_start]")
    handle.wait_for()
    page.wait_for_timeout(4000)
    box = handle.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    times = []
    for k in range(STEPS + 3):
        page.evaluate("delete document.body.dataset.preview")
        started = time.perf_counter()
        page.mouse.move(x - 2 - 3 * k, y)
        page.wait_for_function("document.body.dataset.preview !== undefined", polling=5)
        page.evaluate("new Promise(requestAnimationFrame)")
        times.append((time.perf_counter() - started) * 1000)
    page.mouse.move(x, y)
    page.mouse.up()
    page.wait_for_timeout(1500)
    page.keyboard.press("Control+z")
    page.wait_for_timeout(500)
    return times[3:]


def measured(base: str, arguments: list[str]) -> tuple[list[float], list[float]]:
    """Seconds of three openings, each with an empty cache, and milliseconds of the steps of a drag, ascending."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=arguments)
        opened = []
        for run in range(3):
            page = browser.new_context(viewport={"width": 1280, "height": 800}, bypass_csp=True).new_page()
            sign_in(page, base)
            opened.append(opening(page))
            if run == 2:
                times = sorted(dragging(page))
            page.close()
        browser.close()
    return opened, times


def main(base: str) -> None:
    by_itself = [argument for argument in ARGUMENTS if argument != THROUGH_SWIFTSHADER]
    for how, arguments in (("as browsers do without a card", by_itself), ("page through SwiftShader too", ARGUMENTS)):
        opened, times = measured(base, arguments)
        p95 = times[int(0.95 * (len(times) - 1))]
        print(f"{how}:")
        print(
            f"  open the demo until its picture stands, empty browser cache  {statistics.median(opened[1:]):6.2f} s"
            f"   budget 4 s   first in this browser {opened[0]:.1f} s"
        )
        print(
            f"  gate of lady fern dragged, to changed picture: median {statistics.median(times):.0f} ms,"
            f" p95 {p95:.0f} ms   budget 200 ms p95"
        )


if __name__ == "__main__":
    main(sys.argv[1])
