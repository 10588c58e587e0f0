"""A newcomer weathers a spotless building, by the clock; then makes it wintry, and has it rendered.

    .venv/bin/python bin/bench_weathering.py http://127.0.0.1:8080 [seconds of thought before each act] [folder]

The building was not made by Cenote's kit: one mesh of one grey, without coordinates for pictures. Everything is done at
the bench in headless Chromium, by mouse and keyboard.
"""

from __future__ import annotations

import re
import sys
import tempfile
from pathlib import Path

from walk import Walk, newcomer, proof
from walk_inputs import save_pump_house

KINDS = (
    "Dust", "Grime in corners", "Drip streaks", "Algae", "Algae streaks", "Tide mark", "Mud splash", "Lichen", "Moss",
)  # fmt: skip
"""What a house that stands in the damp has gathered, in the order it is laid on."""
DIALS = {"Algae": (("turns from north by", 180), ("climbs to", 1.6)), "Moss": (("amount", 1),)}


def set_house(walk: Walk, inputs: Path) -> None:
    page = walk.page
    for label in ("west to east", "north to south"):
        walk.number(label, 30)
    walk.number("amount", 0.25)
    walk.act("bring in pump-house.glb")
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Bring in a model").click()
    chooser.value.set_files(inputs / "pump-house.glb")
    page.locator("[data-size]").wait_for(timeout=60_000)
    page.get_by_role("button", name="Put it into the kit and place it").click()
    page.locator("canvas[aria-label='Picture of the site']").hover()
    walk.act("set it down")
    ((x, y),) = walk.on_plate((0.0, 0.0, 0.0))
    page.mouse.move(x - 3, y)
    page.mouse.move(x, y)
    page.wait_for_timeout(800)
    page.mouse.click(x, y)
    walk.saved()
    page.keyboard.press("Escape")
    walk.item("pump-house")
    walk.number("turn", -38)
    walk.look("1-spotless")


def weather(walk: Walk) -> None:
    """One kind after the other on the whole building, then more years."""
    page = walk.page
    for kind in KINDS:
        if page.get_by_role("button", name="Begin another kind").count():
            walk.click("Begin another kind")
        else:
            walk.step("Patinas")
        walk.act("+ surface")
        page.get_by_role("button", name="+ surface").first.click()
        page.get_by_role("menuitemcheckbox", name=re.compile("pump-house")).first.click()
        page.keyboard.press("Escape")
        page.wait_for_timeout(300)
        walk.act(f"add {kind}")
        page.get_by_role("button", name=f"Add {kind}", exact=True).click()
        page.locator("nav button[aria-current=true]").first.wait_for(timeout=60_000)
        walk.saved()
        for dial, value in DIALS.get(kind, ()):
            walk.number(dial, value)
    walk.look("2-weathered")


def older(walk: Walk, years: float) -> None:
    walk.step("Air")
    walk.number("years it has stood", years)
    walk.look("3-older")


def sandy(walk: Walk) -> None:
    """What came of the damp gives way to sand, chalk and salts, each in one exchange."""
    page = walk.page
    for name, other in (("tide mark", "blown sand"), ("algae", "chalking"), ("mud splash", "salts")):
        walk.step("Patinas")
        walk.act(f"choose {name}")
        page.get_by_role("navigation", name="Course").get_by_text(name, exact=True).first.click()
        walk.act(f"exchange for {other}")
        page.get_by_role("button", name="Exchange for…").click()
        page.get_by_role("menuitem", name=re.compile(f"new: {other}", re.IGNORECASE)).first.click()
        page.get_by_role("navigation", name="Course").locator("button[aria-current=true]").first.wait_for()
        page.wait_for_timeout(1500)
        walk.saved()
    walk.look("4-sandy")


def main(base: str, thought: float = 2.0, folder: str = "") -> None:
    with newcomer(base, thought, folder or tempfile.mkdtemp(prefix="cenote-weathering-"), "Pump house") as walk:
        pictures = walk.folder
        save_pump_house(pictures / "pump-house.glb")
        set_house(walk, pictures)
        placed = walk.clock
        weather(walk)
        older(walk, 45)
        weathered = walk.clock
        print(f"weathered in {weathered - placed:.0f} s")
        proof(walk, "rough")
        (pictures / "proof-rough.png").rename(pictures / "proof-weathered.png")
        before = walk.clock
        sandy(walk)
        print(f"made sandy in {walk.clock - before:.0f} s")
        proof(walk, "rough")
        walk.told()


if __name__ == "__main__":
    main(sys.argv[1], *[float(v) for v in sys.argv[2:3]], *sys.argv[3:4])
