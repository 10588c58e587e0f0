"""The process in which a worker's jobs are done; see `work.child`."""

import importlib
import os
import queue
import sys
import threading
from typing import Any

from django.core.management.base import BaseCommand
from django.db import close_old_connections

from cenote_core.proofs.prewarm import make_kernels
from cenote_core.proofs.render import forget_last
from work.child import DONE
from work.job_runner import run

_IDLE = 180.0
"""Seconds without a job after which what was kept for another proof of the same view is given back."""


class Command(BaseCommand):
    help = "Does the jobs whose ids come line by line, and says after each that it is done. Started by a worker."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("kinds", help="module with the functions of all kinds of job, as KINDS")

    def handle(self, *args: Any, **options: Any) -> None:
        kinds = importlib.import_module(options["kinds"]).KINDS
        # Whoever asks first finds the ray engine started and its kernels loaded; a job that is there already waits
        # no longer than it would for the same things.
        threading.Thread(target=make_kernels, daemon=True).start()
        waiting: queue.Queue[str] = queue.Queue()
        threading.Thread(target=_listen, args=(waiting,), daemon=True).start()
        while True:
            try:
                job_id = waiting.get(timeout=_IDLE)
            except queue.Empty:
                forget_last()
                continue
            close_old_connections()
            run(job_id, kinds)
            print(f"{DONE} {job_id}", flush=True)


def _listen(waiting: queue.Queue[str]) -> None:
    for line in sys.stdin:
        waiting.put(line.strip())
    # The worker has gone: nobody hears any more what is done here.
    os._exit(0)
