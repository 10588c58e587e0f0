"""Long work: what was asked for, how far it is, what came of it."""

import uuid

from django.conf import settings
from django.db import models


class Job(models.Model):
    """One proof or hand-over.

    `plan` holds the site's items as they were when it was asked for; `left` are seconds it will take yet; `pictures`
    counts what could be seen so far; `enough` says that what is there is good enough; `paused` that it steps aside for what
    goes before it; `kept` that its files stay when those of others have to go;
    `turn` counts how often a worker has taken it: a worker whose turn is over writes nothing any more.
    """

    WAITING, RUNNING, DONE, FAILED, CANCELLED = "waiting", "running", "done", "failed", "cancelled"
    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    site = models.ForeignKey("sites.Site", on_delete=models.CASCADE, related_name="jobs")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    kind = models.CharField(max_length=16)
    title = models.CharField(max_length=120)
    params = models.JSONField(default=dict)
    state = models.CharField(max_length=10, default=WAITING)
    stage = models.CharField(max_length=120, default="", blank=True)
    share = models.FloatField(default=0.0)
    message = models.TextField(default="", blank=True)
    result = models.JSONField(default=dict)
    cancel = models.BooleanField(default=False)
    enough = models.BooleanField(default=False)
    paused = models.BooleanField(default=False)
    kept = models.BooleanField(default=False)
    left = models.FloatField(null=True)
    pictures = models.PositiveIntegerField(default=0)
    plan = models.JSONField(null=True)
    turn = models.PositiveIntegerField(default=0)
    attempts = models.PositiveSmallIntegerField(default=0)
    created = models.DateTimeField(auto_now_add=True)
    started = models.DateTimeField(null=True)
    beat = models.DateTimeField(null=True)
    finished = models.DateTimeField(null=True)

    class Meta:
        indexes = [models.Index(fields=["site", "state"])]
        ordering = ["-created"]

    @property
    def made(self) -> str:
        """When its files were made, as their addresses say it."""
        return "" if self.finished is None else str(int(self.finished.timestamp() * 1000))

    @property
    def rough(self) -> bool:
        """Is it a matter of seconds, which goes before what takes minutes?"""
        return self.kind == "proof" and self.params.get("quality") == "rough"
