"""A newcomer's way, by the clock: from an empty site and a height image to a dressed bank and its proof.

    .venv/bin/python bin/bench_walk.py http://127.0.0.1:8080 [seconds of thought before each act] [folder for pictures]

Everything is done at the bench in headless Chromium, by mouse and keyboard. At the end the site is held against what
was asked for: nothing through the building, nothing on the path, hand work where it was left after every rule changed.
"""

from __future__ import annotations

import re
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from bench_plate import ARGUMENTS, sign_in
from playwright.sync_api import Page, sync_playwright
from walk_inputs import save_bank, save_barn

from cenote_core.base.packet import unpack
from cenote_core.drifts.plots import unpacked
from cenote_core.measures.path import path_distance
from cenote_core.mesh.mesh import euler_matrix
from cenote_core.mesh.nearest import triangle_tree
from cenote_core.plan import GroundPlan, StationPlan
from cenote_core.stations.camera import axes, field_of_view

SAVED = "document.querySelector('[aria-label=Saving]').textContent.includes('saved')"
FIRST_LOOK = StationPlan(name="first look", position=(7.0, 2.2, 11.0), target=(0.0, 0.8, 0.0))


class Walk:
    """The person: takes thought, acts, and looks that it has arrived."""

    def __init__(self, page: Page, thought: float, folder: Path) -> None:
        self.page, self.thought, self.folder = page, thought, folder
        self.acts, self.started = 0, time.perf_counter()

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


def shape_ground(walk: Walk, inputs: Path) -> None:
    page = walk.page
    for label in ("west to east", "north to south"):
        walk.number(label, 48)
    walk.number("distance of points", 0.25)
    walk.act("open the height image")
    page.get_by_text("Height image", exact=True).click()
    walk.act("bring in bank.png")
    page.locator("input[aria-label='Height image file']").set_input_files(inputs / "bank.png")
    page.get_by_role("textbox", name=re.compile("^black to white")).wait_for()
    walk.saved()
    walk.number("black to white", 9)
    walk.number("amount", 0.05)
    walk.look("1-ground")


def set_barn(walk: Walk, inputs: Path) -> None:
    page = walk.page
    walk.act("bring in barn.glb")
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Bring in a model").click()
    chooser.value.set_files(inputs / "barn.glb")
    size = page.locator("[data-size]")
    size.wait_for(timeout=60_000)
    walk.act(f"read its size: {size.inner_text()}")
    page.get_by_label("Upright axis of the file").locator("xpath=..").click()
    page.get_by_role("option", name="z is up in the file").click()
    walk.act(f"and with z up: {size.inner_text()}")
    page.get_by_role("button", name="Put it into the kit and place it").click()
    page.locator("canvas[aria-label='Picture of the site']").hover()
    walk.act("set it down")
    ((x, y),) = walk.on_plate((-2.2, 0.6, -0.6))
    page.mouse.move(x - 3, y)
    page.mouse.move(x, y)
    page.wait_for_timeout(800)
    page.mouse.click(x, y)
    walk.saved()
    page.keyboard.press("Escape")
    walk.item("barn")
    walk.number("turn", -62)
    walk.step("Ground")
    walk.click("+ level pad")
    walk.saved()
    walk.look("2-barn")


def lay_path(walk: Walk) -> None:
    walk.click("+ path or ditch")
    walk.line((4.9, 0.3, 7.0), (4.2, 0.3, 5.5), (1.4, 0.4, 4.0), (-0.6, 0.45, 2.4), (-1.5, 0.5, 1.3))
    walk.click("Lay gravel on it")
    walk.saved()
    walk.look("3-path")


def plant(walk: Walk) -> None:
    page = walk.page
    walk.step("Drifts")
    for recipe in ("Wood margin", "Path edge", "Gravel yard", "Damp north bank"):
        walk.act(f"recipe {recipe}")
        page.get_by_role("button", name=f"Add {recipe}").click()
        page.get_by_text(f"{recipe} was added").wait_for(timeout=60_000)
        walk.saved()
        walk.settled()
    # Trees and shrubs belong on the bank, not into the yard.
    for name, height in (("trees", 1.6), ("hazel and bramble", 1.1), ("bracken", 0.9)):
        walk.item(name)
        walk.rule("height")
        walk.typed("height starts", height)
        walk.typed("height full from", height + 0.8)
    walk.look("4-planted")


def by_hand(walk: Walk) -> None:
    page = walk.page
    walk.item("bracken")
    walk.act("paint")
    page.keyboard.press("p")
    walk.stroke("paint bracken at the barn's corner", (1.8, 0.5, -1.6), (2.8, 0.5, -0.8))
    page.keyboard.press("Escape")
    walk.item("flowers by the path")
    walk.act("one by one")
    page.keyboard.press("o")
    for x, z in ((1.4, 6.8), (2.8, 7.4), (-0.6, 5.8)):
        (at,) = walk.on_plate((x, 0.4, z))
        page.mouse.move(*at)
        page.mouse.click(*at)
        walk.saved()
    page.keyboard.press("Escape")
    walk.item("tall grass behind")
    walk.act("erase before the barn")
    page.get_by_role("button", name="Erase", exact=True).first.click()
    walk.stroke("a clear view of the door", (2.0, 0.4, 3.2), (0.6, 0.4, 2.4))
    page.keyboard.press("Escape")
    walk.look("5-by-hand")


def change_rules(walk: Walk) -> None:
    """Every rule of what was worked on by hand, and how dense it stands."""
    for name, density in (("bracken", 1.8), ("flowers by the path", 2.8), ("tall grass behind", 15)):
        walk.item(name)
        walk.number("density", density)
        for measure in walk.rules():
            walk.nudge(measure)


def air_and_moss(walk: Walk) -> None:
    page = walk.page
    walk.step("Air")
    walk.number("speed", 5)
    walk.number("time of the year", 8.7)
    walk.number("stands in the", 118)
    walk.number("height", 31)
    walk.step("Patinas")
    walk.act("+ patina")
    page.get_by_role("button", name="+ patina").click()
    walk.saved()
    walk.act("+ surface")
    page.get_by_role("button", name="+ surface").click()
    for surface in ("barn, stone", "barn, coping", "barn, tin"):
        page.get_by_role("menuitemcheckbox", name=re.compile(surface)).click()
        walk.saved()
    page.keyboard.press("Escape")
    walk.number("amount", 0.7)
    walk.look("6-moss")


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


def standing(page: Page, root: str, drift: dict[str, str]) -> np.ndarray:
    """(N, 3) where a drift's things stand, as the plate gets them."""
    arrays, info = unpack(page.request.get(root + drift["url"]).body())
    parts = [np.zeros((0, 3))]
    for entry in info["plots"]:
        cell = entry["cell"]
        address = root + re.sub(r"\?.*", f"/plots/{cell}?v={entry['v']}", drift["url"])
        data = arrays[cell].tobytes() if cell in arrays else page.request.get(address).body()
        parts.append(unpacked(data).position)
    return np.concatenate(parts)


def hold(page: Page) -> None:
    """Hold the site against what was asked for, and say it."""
    root, site = page.url.split("/sites/")
    items = page.request.get(f"{root}/api/sites/{site}").json()["items"]
    plans = {item["key"]: item["plan"] for item in items}
    manifest = page.request.get(f"{root}/api/sites/{site}/scene").json()
    found = {drift["key"]: standing(page, root, drift) for drift in manifest["drifts"]}
    grown = np.concatenate([at for key, at in found.items() if plans[key]["tier"] != "litter"])
    paths = GroundPlan.model_validate(plans["ground"]).paths()
    print(
        f"{sum(map(len, found.values()))} things; nearest growth to a path's floor {path_distance(grown, paths).min():.2f} m"
    )
    barn = next(owner for owner in manifest["owners"] if owner["owner"] != "ground")
    plan = plans[barn["owner"]]
    arrays, _ = unpack(page.request.get(root + barn["mesh"]).body())
    foot = np.array(plan["position"]) + [0, barn["lift"], 0]
    walls = triangle_tree(arrays["position"], arrays["index"].reshape(-1, 3))
    print(f"nearest growth to the barn {walls.distance((grown - foot) @ euler_matrix(plan['turn'])).min():.3f} m")
    for plan in plans.values():
        if plan["kind"] == "placed":
            off = np.linalg.norm(found[plan["target"]] - plan["things"][0]["point"], axis=1).min()
            print(f"{plan['name']}: stands {off:.3f} m from where it was set down")
        elif plan["kind"] == "touch" and plan["target"] in found:
            near = [np.linalg.norm(found[plan["target"]] - p, axis=1) < 0.4 * plan["radius"] for p in plan["points"]]
            print(f"{plan['name']}, {plan['action']}: {int(np.any(near, axis=0).sum())} stand in its middle")


def main(base: str, thought: float = 2.0, folder: str = "") -> None:
    pictures = Path(folder or tempfile.mkdtemp(prefix="cenote-walk-"))
    pictures.mkdir(exist_ok=True)
    save_bank(pictures / "bank.png")
    save_barn(pictures / "barn.glb")
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
        page.set_default_timeout(60_000)
        sign_in(page, base)
        walk = Walk(page, thought, pictures)
        walk.act("a new site")
        page.get_by_label("Name of a new site").fill("Upper field")
        page.get_by_role("button", name="New site").click()
        page.wait_for_selector("canvas[data-ready=true]", timeout=120_000)
        shape_ground(walk, pictures)
        set_barn(walk, pictures)
        lay_path(walk)
        plant(walk)
        by_hand(walk)
        change_rules(walk)
        air_and_moss(walk)
        proof(walk, "rough")
        print(f"{walk.acts} acts, {walk.clock:.0f} s with {thought:g} s of thought before each; pictures in {pictures}")
        hold(page)
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1], *[float(v) for v in sys.argv[2:3]], *sys.argv[3:4])
