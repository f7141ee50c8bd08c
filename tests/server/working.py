"""Doing what a worker does, within a test."""

from types import SimpleNamespace

from work import tasks
from work.models import Job


def work(job_id: int | None = None, stop=lambda: False) -> Job:
    """Run the open job, or a given one, in a real child process."""
    job = Job.objects.get(id=job_id) if job_id else Job.objects.filter(state__in=Job.OPEN).get()
    tasks.run_job.func(SimpleNamespace(should_abort=stop), job.id)
    job.refresh_from_db()
    return job
