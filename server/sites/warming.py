"""Derived values made ahead: what is there before it is asked for, nobody waits for.

What the first look at a site needs is made before the address is told; the rest is made afterwards, in the background.
"""

import os
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from functools import partial

from django.conf import settings

from cenote_core.beads.site_droplets import bead_mesh, carriers, shown
from cenote_core.drifts.instancing import build_instances
from cenote_core.kinds import PARTS
from cenote_core.kit.catalogue import CATALOGUE as ASSETS
from cenote_core.kit.prewarm import make_kit
from cenote_core.materials.seasons import half_month
from cenote_core.patinas.cover import saved_covers
from cenote_core.scene.scene import Scene

from .computing import scene_of
from .kit_api import material_webp
from .models import Site

PLATE_SIDES = (512, 1024)
"""Texels along a picture's side as the plate asks for them without and with a graphics card; see MaterialStore."""
Step = tuple[str, Callable[[], object]]
"""What is made, in a word, and the making of it."""


def first_look(site: Site) -> Iterator[Step]:
    """What the plate needs when a site is opened, as it is drawn without a graphics card."""
    scene = scene_of(site)
    assets, materials = _used(scene)
    half = half_month(scene.site.weather.season)
    yield "assets and pictures", lambda: list(make_kit(settings.CACHE_FOLDER, half, assets, materials))
    for owner in scene.owners():
        yield f"surfaces of {owner}", partial(_surfaces, scene, owner)
    for key, plan in scene.site.drifts.items():
        yield plan.name, partial(build_instances, scene, key, plan)
    yield "pictures as they are sent", lambda: _encode(scene, PLATE_SIDES[:1])


def other_looks(site: Site) -> Iterator[Step]:
    """What other machines, proofs from the stations and other spells of a site need."""
    scene = scene_of(site)
    for key, plan in shown(scene):
        for owner in carriers(scene, plan):
            yield f"{plan.name} on {owner}", partial(bead_mesh, scene, key, plan, owner)
    yield "pictures as they are sent", lambda: _encode(scene, PLATE_SIDES)
    for spell, weather in scene.site.spells.items():
        of_spell = scene_of(site, spell)
        for owner in of_spell.owners():
            yield f"surfaces of {owner}, {weather.name}", partial(_surfaces, of_spell, owner)


def whole_kit(site: Site) -> Iterator[Step]:
    """All of the kit, also what the site has no use for yet."""
    half = half_month(scene_of(site).site.weather.season)
    yield "the rest of the kit", lambda: list(make_kit(settings.CACHE_FOLDER, half))


def _used(scene: Scene) -> tuple[set[str], set[str]]:
    """Assets and materials of the kit that a site has a use for."""
    site = scene.site
    assets = {share.asset for plan in site.drifts.values() for share in plan.assets}
    assets |= {plan.asset for plan in site.pieces.values()}
    recipes = [ASSETS[key] for key in assets if key in ASSETS]
    materials = {material for recipe in recipes for material in recipe.materials.values()}
    materials |= {surface.material for surface in scene.surfaces()}
    materials |= {plan.finish.material for plan in site.patinas.values()}
    materials |= {plan.picture for plan in site.decals.values()}
    return assets, materials


def _surfaces(scene: Scene, owner: str) -> None:
    # As proofs take them, and as they are sent.
    saved_covers(scene, owner)
    PARTS["covers"].make(scene, owner)


def _encode(scene: Scene, sides: tuple[int, ...]) -> None:
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        list(pool.map(lambda picture: _encoded(scene, picture[0], picture[1], sides), pictures_of(scene)))


def pictures_of(scene: Scene) -> list[tuple[str, str]]:
    """Material and kind of every picture the plate shows: of surfaces colour and relief, of leaves the colour alone."""
    surfaces = {surface.material for surface in scene.surfaces()}
    mixes = {share.asset for plan in scene.site.drifts.values() for share in plan.assets}
    scattered = {material for asset in mixes for material in scene.kit.asset(asset).materials.values()}
    return sorted({(m, "colour") for m in surfaces | scattered} | {(m, "relief") for m in surfaces})


def _encoded(scene: Scene, material: str, which: str, sides: tuple[int, ...]) -> None:
    """The picture with as many texels as the plate asks for."""
    name = scene.seasonal(material)
    size = scene.kit.material(name).size
    for side in sorted({side if side < size else 0 for side in sides}):
        material_webp(scene.kit, name, which, side)
