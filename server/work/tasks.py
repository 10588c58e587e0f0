"""The tasks the worker knows."""

from procrastinate import JobContext
from procrastinate.contrib.django import app

from .child import Child
from .models import Job

ROUGH, WORK = "rough", "work"
"""Queues: rough proofs, which are a matter of seconds, do not wait behind what takes minutes."""


child = Child()
"""Does the jobs of this worker, one after the other."""


@app.task(name="run_job", queue=WORK, pass_context=True)
def run_job(context: JobContext, job_id: str) -> None:
    """Do one job."""
    child.do(job_id, ask, context.should_abort)


def ask(job: Job) -> None:
    """Put a job into its queue. People take turns: somebody's second job comes after everybody's first."""
    others = Job.objects.filter(user=job.user_id, state__in=(Job.WAITING, Job.RUNNING)).exclude(pk=job.pk)
    before = sum(other.rough == job.rough for other in others.defer("plan"))
    queue = ROUGH if job.rough else WORK
    run_job.configure(queue=queue, priority=-before).defer(job_id=str(job.pk))
