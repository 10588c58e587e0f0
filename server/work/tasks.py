"""The tasks the worker knows."""

from procrastinate.contrib.django import app

from . import running


@app.task(name="run_job", queue="work")
def run_job(job_id: str) -> None:
    """Do one job."""
    from .kinds import KINDS

    running.run(job_id, KINDS)


def ask(job) -> None:
    """Put a job into the queue."""
    run_job.defer(job_id=str(job.pk))
