"""Make ahead what the demo needs beyond the first look, while nothing else is being done."""

import time
from collections.abc import Iterator
from datetime import timedelta
from functools import partial
from typing import Any

from django.core.management.base import BaseCommand
from django.db import close_old_connections
from django.db.models import Q
from django.utils import timezone

from cenote_core.proof_scene.detail import ROUGH
from cenote_core.proofs.prepare import give_back, prepare
from cenote_core.proofs.settings import ProofSettings
from demo import lantern, tarn_halt
from sites.asking import idle_for
from sites.computing import scene_of
from sites.management.commands.load_demo import REST, is_warm, keep_warm
from sites.models import Site
from sites.warming import Step, other_looks, whole_kit
from work.job_runner import LOST_AFTER
from work.models import Job

_PAUSE = 1.0
_IDLE = 20.0
"""Seconds without anything computed for anybody before the next step."""
_MOST_PAUSE = timedelta(minutes=10)
"""So long it waits at most, before it goes on beside whoever works."""


class Command(BaseCommand):
    help = "Makes ahead what proofs, other spells and other machines need of the demo; between two steps it waits for jobs."

    def handle(self, *args: Any, **options: Any) -> None:
        if is_warm(REST):
            return
        for what, make in _steps():
            _wait_until_idle()
            started = time.monotonic()
            make()
            self.stdout.write(f"{what}: {time.monotonic() - started:.1f} s")
        keep_warm(REST)


def _steps() -> Iterator[Step]:
    sites = {name: Site.objects.filter(name=name).first() for name in (tarn_halt.NAME, lantern.NAME)}
    for site in filter(None, sites.values()):
        for station in scene_of(site).site.stations:
            yield f"proof of {site.name} from {station}", partial(_gather, site, station)
    for site in filter(None, sites.values()):
        yield from other_looks(site)
        yield from whole_kit(site)


def _gather(site: Site, station: str) -> None:
    """What a rough proof from a station takes of a site; nothing is traced."""
    scene = scene_of(site)
    usual = ProofSettings(station=station)
    prepare(scene, scene.site.stations[station], (usual.width, usual.height), ROUGH)
    give_back()


def _wait_until_idle() -> None:
    """Wait as long as somebody works, but not for ever."""
    until = timezone.now() + _MOST_PAUSE
    close_old_connections()
    while timezone.now() < until and (idle_for() < _IDLE or _jobs()):
        time.sleep(_PAUSE)


def _jobs() -> bool:
    alive = Q(state=Job.WAITING) | Q(state=Job.RUNNING, beat__gt=timezone.now() - LOST_AFTER)
    return Job.objects.filter(alive).exists()
