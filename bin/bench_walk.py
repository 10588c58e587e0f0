"""A newcomer's way, by the clock: from an empty site and a height image to a dressed bank and its proof.

    .venv/bin/python bin/bench_walk.py http://127.0.0.1:8080 [seconds of thought before each act] [folder for pictures]

Everything is done at the bench in headless Chromium, by mouse and keyboard. At the end the site is held against what
was asked for: nothing through the building, nothing on the path, hand work where it was left after every rule changed.
"""

from __future__ import annotations

import re
import sys
import tempfile
from pathlib import Path

import numpy as np
from playwright.sync_api import Page
from walk import Walk, newcomer, proof
from walk_inputs import save_bank, save_barn

from cenote_core.base.packet import unpack
from cenote_core.drifts.plots import unpacked
from cenote_core.measures.path import path_distance
from cenote_core.mesh.mesh import euler_matrix
from cenote_core.mesh.nearest import triangle_tree
from cenote_core.plan import GroundPlan


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
    with newcomer(base, thought, folder or tempfile.mkdtemp(prefix="cenote-walk-"), "Upper field") as walk:
        page, pictures = walk.page, walk.folder
        save_bank(pictures / "bank.png")
        save_barn(pictures / "barn.glb")
        shape_ground(walk, pictures)
        set_barn(walk, pictures)
        lay_path(walk)
        plant(walk)
        by_hand(walk)
        change_rules(walk)
        air_and_moss(walk)
        proof(walk, "rough")
        walk.told()
        hold(page)


if __name__ == "__main__":
    main(sys.argv[1], *[float(v) for v in sys.argv[2:3]], *sys.argv[3:4])
