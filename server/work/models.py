"""Long work: what waits, what runs, how it ended."""

from django.db import models
from people.names import person_field


class Job(models.Model):
    """One piece of long work.

    What it is about is known to the application that started it, which adds its own fields in a
    model of its own (see `bench.models.ItemJob`).
    """

    class State(models.TextChoices):
        """How far it is. All but the first two are final."""

        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        REFUSED = "refused"
        FAILED = "failed"
        CANCELLED = "cancelled"

    kind = models.CharField(max_length=12)
    """Name of a registered `work.registry.WorkKind`."""
    subject = models.CharField(max_length=60)
    """What it is about, such as ``item 17``; one open job each."""
    title = models.CharField(max_length=120)
    parameters = models.JSONField(default=dict)
    queue = models.CharField(max_length=12, blank=True)
    """Where it waits, if elsewhere than all of its kind."""
    state = models.CharField(max_length=12, choices=State.choices, default=State.WAITING)
    step = models.CharField(max_length=120, blank=True)
    fraction = models.FloatField(default=0)
    message = models.TextField(blank=True)
    tries = models.PositiveIntegerField(default=0)
    cancel_asked = models.BooleanField(default=False)
    made_by = person_field()
    created = models.DateTimeField(auto_now_add=True)
    started = models.DateTimeField(null=True)
    finished = models.DateTimeField(null=True)

    OPEN = (State.WAITING, State.RUNNING)

    class Meta:
        ordering = ("-id",)
        constraints = (
            models.UniqueConstraint(
                fields=("subject",),
                condition=models.Q(state__in=("waiting", "running")),
                name="one_open_job_a_subject",
            ),
        )

    def __str__(self) -> str:
        return f"{self.title} ({self.state})"
