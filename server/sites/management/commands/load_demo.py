"""Load the demo: its person and its sites, if they are not there yet."""

import time
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.db import transaction

import cenote_core
from cenote_core.hashing import content_hash
from cenote_core.plan.site import item_adapter
from cenote_core.plan.stored import written
from demo import lantern, tarn_halt
from sites.models import Item, Member, Site
from sites.warming import first_look

FIRST, REST = "warmed", "warmed-rest"
"""Names of the notes that say what has been made ahead."""
PERSON, PASSWORD = "mira", "limestone"


class Command(BaseCommand):
    help = "Loads the demo site and its person."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument(
            "--no-warm", action="store_true", help="leave the derived data to be computed when first seen"
        )
        parser.add_argument(
            "--migrate", action="store_true", help="bring the database up to date first: sooner than a command more"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        if options["migrate"]:
            call_command("migrate", verbosity=0)
        fresh = not Site.objects.filter(name=tarn_halt.NAME).exists()
        site = load()
        # What was computed once lies in the cache on disk; only the first start with this code has to wait for it.
        if not options["no_warm"] and (fresh or not is_warm(FIRST)):
            for what, make in first_look(site):
                started = time.monotonic()
                make()
                self.stdout.write(f"  {what}: {time.monotonic() - started:.1f} s")
            keep_warm(FIRST)


def is_warm(name: str) -> bool:
    """Was it made ahead by the code as it is?"""
    stamp = settings.CACHE_FOLDER / name
    return stamp.exists() and stamp.read_text() == sources_digest()


def keep_warm(name: str) -> None:
    """It has been made ahead."""
    (settings.CACHE_FOLDER / name).write_text(sources_digest())


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


def _made(scenario: Any, user: Any) -> Site:
    with transaction.atomic():
        site = Site.objects.create(name=scenario.NAME, note=scenario.NOTE)
        Member.objects.create(site=site, user=user, role=Member.OWNER)
        for key, plan in scenario.items():
            data = written(item_adapter.validate_python(plan.model_dump()))
            Item.objects.create(site=site, key=key, kind=data["kind"], plan=data)
    return site
