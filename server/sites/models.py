"""Sites, who belongs to them, what was authored on them, and every change that was made."""

import uuid

from django.conf import settings
from django.db import models


class Site(models.Model):
    """One scene being dressed.

    `revision` counts changes to its items, `kit` those to what was brought in for it.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=80)
    note = models.TextField(blank=True, default="")
    revision = models.PositiveIntegerField(default=0)
    kit = models.PositiveIntegerField(default=0)
    created = models.DateTimeField(auto_now_add=True)
    updated = models.DateTimeField(auto_now=True)
    deleted = models.DateTimeField(null=True, blank=True)


class Member(models.Model):
    """A person's part in a site."""

    OWNER, EDITOR, VIEWER = "owner", "editor", "viewer"
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="members")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    role = models.CharField(max_length=8, choices=[(r, r) for r in (OWNER, EDITOR, VIEWER)])

    class Meta:
        constraints = [models.UniqueConstraint(fields=["site", "user"], name="one_part_a_person")]


class SitePicture(models.Model):
    """A small picture of a site as the plate showed it last."""

    site = models.OneToOneField(Site, on_delete=models.CASCADE, related_name="picture")
    content = models.BinaryField()
    at = models.DateTimeField(auto_now=True)


class Item(models.Model):
    """One authored thing: ground, light, piece, drift, patina, decal, station or touch.

    The plan is validated by the core's models before it gets here. A deleted item keeps its row, so that undo
    finds it and its revision goes on counting.
    """

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="items")
    key = models.CharField(max_length=64)
    kind = models.CharField(max_length=16)
    plan = models.JSONField()
    revision = models.PositiveIntegerField(default=1)
    deleted = models.BooleanField(default=False)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["site", "key"], name="one_item_a_key")]
        indexes = [models.Index(fields=["site", "kind"])]


class Change(models.Model):
    """One step of a site's history: what each item was before and after.

    `refused` keeps what somebody wanted to write on top of an outdated revision, so that it is not lost. `stepped` is the
    revision at which it was undone or done again last.
    """

    DONE, UNDONE, DROPPED, REFUSED = "done", "undone", "dropped", "refused"
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="changes")
    number = models.PositiveIntegerField()
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    label = models.CharField(max_length=120)
    entries = models.JSONField()
    state = models.CharField(max_length=8, default=DONE)
    stepped = models.PositiveIntegerField(default=0)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        indexes = [models.Index(fields=["site", "state", "number"])]
        ordering = ["number"]
