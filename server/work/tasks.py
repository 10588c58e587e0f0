"""The tasks the worker knows."""

from procrastinate import JobContext
from procrastinate.contrib.django import app

from .child import Child

ROUGH, WORK = "rough", "work"
"""Queues: rough proofs, which are a matter of seconds, do not wait behind what takes minutes."""


child = Child()
"""Does the jobs of this worker, one after the other."""


@app.task(name="run_job", queue=WORK, pass_context=True)
def run_job(context: JobContext, job_id: str) -> None:
    """Do one job."""
    child.do(job_id, ask, context.should_abort)


def ask(job) -> None:
    """Put a job into its queue."""
    run_job.configure(queue=ROUGH if job.rough else WORK).defer(job_id=str(job.pk))
