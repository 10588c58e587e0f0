"""A worker of one queue, made ready before it takes its first job."""

import logging
import threading
import time
from typing import Any

from django.core.management.base import BaseCommand
from django.db import InterfaceError, OperationalError, close_old_connections
from procrastinate.contrib.django import app

from accounts.once import forget_old
from sites.imports.keeping import sweep as sweep_kit
from work.job_runner import recover_lost
from work.keeping import sweep as sweep_jobs
from work.tasks import ROUGH, WORK, ask, child

log = logging.getLogger("cenote.work")
_LOOKS_EVERY = 15.0
"""Seconds between two looks for jobs whose worker has died."""
_SWEEPS_EVERY = 3600.0
"""Seconds between two looks for files that nobody can reach any more."""
_GRACEFUL = 1.0
"""Seconds that the job under way has when the worker is told to stop: it is put back for the next worker."""


class Command(BaseCommand):
    help = "Does the jobs of one queue, one after the other."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("queue", choices=(ROUGH, WORK))

    def handle(self, *args: Any, **options: Any) -> None:
        child.start()
        threading.Thread(target=_look_for_lost, daemon=True).start()
        self.stdout.write(f"worker of queue {options['queue']}")
        worker = app.with_connector(app.connector.get_worker_connector())
        try:
            worker.run_worker(
                queues=[options["queue"]], concurrency=1, shutdown_graceful_timeout=_GRACEFUL, delete_jobs="always"
            )
        finally:
            child.end()


def _look_for_lost() -> None:
    """Jobs nobody works on any more are found by the clock, whether or not somebody looks at them."""
    waiting = threading.Event()
    swept = -_SWEEPS_EVERY
    while not waiting.wait(_LOOKS_EVERY):
        close_old_connections()
        try:
            recover_lost(ask)
            forget_old()
            if time.monotonic() - swept > _SWEEPS_EVERY:
                swept = time.monotonic()
                sweep_jobs()
                sweep_kit()
        except (OperationalError, InterfaceError):
            log.warning("The database cannot be reached; lost jobs are looked for later")
