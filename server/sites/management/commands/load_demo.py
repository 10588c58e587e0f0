"""Load the demo: its person and its sites, if they are not there yet."""

import os
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.db import transaction

import cenote_core
from cenote_core.beads.lying import bead_mesh, carriers, shown
from cenote_core.drifts.instancing import build_instances
from cenote_core.hashing import content_hash
from cenote_core.kinds import PARTS
from cenote_core.kit.prewarm import make_kit
from cenote_core.materials.seasons import half_month
from cenote_core.patinas.cover import saved_covers
from cenote_core.plan.site import item_adapter
from cenote_core.plan.stored import written
from cenote_core.scene.scene import Scene
from demo import lantern, tarn_halt
from kit.api import material_webp
from sites.computing import scene_of
from sites.models import Item, Member, Site

PLATE_SIDES = (512, 1024)
"""Texels along a picture's side as the plate asks for them without and with a graphics card; see MaterialStore."""
PERSON, PASSWORD = "mira", "limestone"


class Command(BaseCommand):
    help = "Loads the demo site and its person."

    def add_arguments(self, parser):
        parser.add_argument(
            "--no-warm", action="store_true", help="leave the derived data to be computed when first seen"
        )
        parser.add_argument(
            "--migrate", action="store_true", help="bring the database up to date first: sooner than a command more"
        )

    def handle(self, *args, **options):
        if options["migrate"]:
            call_command("migrate", verbosity=0)
        fresh = not Site.objects.filter(name=tarn_halt.NAME).exists()
        site = load()
        # What was computed once lies in the cache on disk; only the first start with this code has to wait for it.
        stamp, code = settings.CACHE_FOLDER / "warmed", sources_digest()
        if not options["no_warm"] and (fresh or not stamp.exists() or stamp.read_text() != code):
            warm(site, self.stdout.write)
            for other in Site.objects.filter(name=lantern.NAME):
                warm_beads(other, self.stdout.write)
            stamp.write_text(code)


def sources_digest() -> str:
    """One hash of the core's sources."""
    files = sorted(Path(cenote_core.__file__).parent.rglob("*.py"))
    return content_hash(*(path.read_bytes() for path in files))


def load() -> Site:
    """The demo sites, made if need be; the one that is opened first."""
    user, made = get_user_model().objects.get_or_create(
        username=PERSON, defaults={"first_name": "Mira", "last_name": "Kessler"}
    )
    if made:
        user.set_password(PASSWORD)
        user.save()
    # The last one that was changed comes first in the list of sites.
    for scenario in (lantern, tarn_halt):
        found = Site.objects.filter(name=scenario.NAME, members__user=user).first() or _made(scenario, user)
    return found


def _made(scenario, user) -> Site:
    with transaction.atomic():
        site = Site.objects.create(name=scenario.NAME, note=scenario.NOTE)
        Member.objects.create(site=site, user=user, role=Member.OWNER)
        for key, plan in scenario.items():
            data = written(item_adapter.validate_python(plan.model_dump()))
            Item.objects.create(site=site, key=key, kind=data["kind"], plan=data)
    return site


def warm(site: Site, say) -> None:
    """Compute what the plate needs first, so that the first look is quick."""
    scene = scene_of(site)
    started = time.monotonic()
    for done, whole in make_kit(settings.CACHE_FOLDER, half_month(scene.site.weather.season)):
        if done % 40 == 0:
            say(f"  kit: {done} of {whole} assets and pictures")
    say(f"  kit: {time.monotonic() - started:.1f} s")
    started = time.monotonic()
    for owner in scene.owners():
        # As proofs take them, and as they are sent.
        saved_covers(scene, owner)
        PARTS["covers"].make(scene, owner)
    say(f"  surfaces of {site.name}: {time.monotonic() - started:.1f} s")
    for key, plan in scene.site.drifts.items():
        say(f"  {plan.name}: {len(build_instances(scene, key, plan)):,} placed")
    started = time.monotonic()
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        count = sum(pool.map(lambda picture: len(encoded(scene, *picture)) > 0, pictures_of(scene)))
    say(f"  {count} pictures as they are sent: {time.monotonic() - started:.1f} s")


def warm_beads(site: Site, say) -> None:
    """Let the droplets of a site grow."""
    scene, started = scene_of(site), time.monotonic()
    for key, plan in shown(scene):
        for owner in carriers(scene, plan):
            bead_mesh(scene, key, plan, owner)
    say(f"  droplets of {site.name}: {time.monotonic() - started:.1f} s")


def pictures_of(scene: Scene) -> list[tuple[str, str]]:
    """Material and kind of every picture the plate shows: of surfaces colour and relief, of leaves the colour alone."""
    surfaces = {surface.material for surface in scene.surfaces()}
    mixes = {share.asset for plan in scene.site.drifts.values() for share in plan.assets}
    scattered = {material for asset in mixes for material in scene.kit.asset(asset).materials.values()}
    return sorted({(m, "colour") for m in surfaces | scattered} | {(m, "relief") for m in surfaces})


def encoded(scene: Scene, material: str, which: str) -> bytes:
    """The picture with as many texels as the plate asks for, with a graphics card and without."""
    name = scene.seasonal(material)
    size = scene.kit.material(name).size
    sides = {side if side < size else 0 for side in PLATE_SIDES}
    return b"".join(material_webp(scene.kit, name, which, side) for side in sorted(sides))
