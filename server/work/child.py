"""The process that does a worker's jobs. It is watched from outside, and ended when it does not end by itself.

So whatever a job hangs in, runs away with or dies of, the worker goes on: the next job gets a new process. As long as all
goes well one process does all jobs, and finds its kernels and pictures warm.
"""

import logging
import os
import queue
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from django.conf import settings
from django.db import connection

from . import job_runner
from .db_retry import steady
from .models import Job

log = logging.getLogger("cenote.work")
DONE = "\x1edone"
"""Begins the line by which the process says that it has done a job."""
GRACE = 8.0
"""Seconds that a job has for stopping by itself."""
_LOOKS_EVERY = 0.5
_STARTS_WITHIN = 180.0
"""Seconds within which a process has taken its job, else it is another one's."""
_MANAGE = Path(__file__).resolve().parent.parent / "manage.py"


@dataclass
class _Watch:
    """What is known of the job under way."""

    asked: float
    began: float
    paused: float = 0.0
    told_to_stop: float | None = None
    beaten: float = 0.0


class Child:
    """The process; started when there is something to do. `kinds` is the module with the functions of all kinds of job."""

    def __init__(self, kinds: str = "work.kinds") -> None:
        self.kinds = kinds
        self._process: subprocess.Popen[str] | None = None
        self._said: queue.Queue[str] = queue.Queue()

    @property
    def pid(self) -> int | None:
        """Its number, while it runs."""
        return self._process.pid if self._process and self._process.poll() is None else None

    def start(self) -> None:
        """Start it, so that it is warm when the first job comes."""
        if self.pid is not None:
            return
        # Of the same database as this process, be it one for tests.
        environment = {**os.environ, "CENOTE_DB_NAME": str(connection.settings_dict["NAME"])}
        self._said = queue.Queue()
        self._process = subprocess.Popen(
            [sys.executable, str(_MANAGE), "do_jobs", self.kinds],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, env=environment,
        )  # fmt: skip
        threading.Thread(target=_heard, args=(self._process, self._said), daemon=True).start()

    def end(self) -> None:
        """End it, whatever it is doing."""
        if self._process is not None:
            self._process.kill()
            self._process.wait()
            self._process = None

    def do(self, job_id: str, ask: Callable[[Job], None], stopping: Callable[[], bool] = lambda: False) -> None:
        """Do a job; returns when it has ended one way or the other. `ask` puts one into the queue again."""
        self.start()
        assert self._process is not None and self._process.stdin is not None
        try:
            print(job_id, file=self._process.stdin, flush=True)
        except OSError:
            self.end()
        watch = _Watch(time.monotonic(), time.monotonic())
        while not self._has_done(job_id):
            job = _job(job_id)
            if job is None:
                return self.end()
            verdict = self._verdict(job, watch, ask, stopping)
            if verdict is not None:
                self.end()
                verdict()
                return

    def _has_done(self, job_id: str) -> bool:
        try:
            return self._said.get(timeout=_LOOKS_EVERY) == f"{DONE} {job_id}"
        except queue.Empty:
            return False

    def _verdict(
        self, job: Job, watch: _Watch, ask: Callable[[Job], None], stopping: Callable[[], bool]
    ) -> Callable[[], None] | None:
        """What becomes of a job that has to be ended from outside; None while it may go on."""
        now = time.monotonic()
        if self.pid is None:
            log.warning("The process of job %s ended in the middle of it", job.pk)
            return lambda: job_runner.take_up_again(job, ask)
        if stopping():
            return lambda: job_runner.put_back(job, ask)
        if self._bytes() > settings.JOB_BYTES:
            return lambda: job_runner.finish(job, Job.FAILED, job_runner.NO_MEMORY)
        if job.state == Job.WAITING:
            # The process is starting yet.
            watch.began = now
            return (lambda: ask(job)) if now - watch.asked > _STARTS_WITHIN else None
        if job.paused:
            watch.paused += _LOOKS_EVERY
        if now - watch.began - watch.paused > settings.JOB_SECONDS + GRACE:
            return lambda: job_runner.finish(job, Job.FAILED, job_runner.too_long())
        if job.cancel or job.state != Job.RUNNING:
            watch.told_to_stop = watch.told_to_stop or now
            if now - watch.told_to_stop > GRACE:
                return lambda: job_runner.finish(job, Job.CANCELLED, "")
        if now - watch.beaten > job_runner.BEAT_SECONDS:
            watch.beaten = now
            job_runner.beat(job)
        return None

    def _bytes(self) -> int:
        """Memory it holds."""
        try:
            pages = int(Path(f"/proc/{self.pid}/statm").read_text().split()[1])
        except (OSError, ValueError, IndexError):
            return 0
        return pages * os.sysconf("SC_PAGE_SIZE")


@steady
def _job(job_id: str) -> Job | None:
    return Job.objects.filter(pk=job_id).defer("plan").first()


def _heard(process: subprocess.Popen[str], said: queue.Queue[str]) -> None:
    assert process.stdout is not None
    for line in process.stdout:
        if line.startswith(DONE):
            said.put(line.strip("\n"))
