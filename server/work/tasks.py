"""The tasks the worker knows."""

from procrastinate.contrib.django import app

from . import running

ROUGH, WORK = "rough", "work"
"""Queues: rough proofs, which are a matter of seconds, do not wait behind what takes minutes."""


@app.task(name="run_job", queue=WORK)
def run_job(job_id: str) -> None:
    """Do one job."""
    from .kinds import KINDS

    running.run(job_id, KINDS)


def ask(job) -> None:
    """Put a job into its queue."""
    run_job.configure(queue=ROUGH if job.rough else WORK).defer(job_id=str(job.pk))
