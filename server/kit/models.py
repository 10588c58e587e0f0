"""Assets that were brought in from files."""

import uuid

from django.conf import settings
from django.db import models


class ImportedAsset(models.Model):
    """A model from a file, read, put right in size and axis, and kept as meshes and pictures of ours."""

    id = models.CharField(primary_key=True, max_length=40)
    site = models.ForeignKey("sites.Site", on_delete=models.CASCADE, related_name="imported")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    title = models.CharField(max_length=80)
    original = models.FileField(upload_to="imports/")
    filename = models.CharField(max_length=200)
    info = models.JSONField(default=dict)
    settled = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now_add=True)
    deleted = models.DateTimeField(null=True, blank=True)

    @staticmethod
    def new_id() -> str:
        return f"import-{uuid.uuid4().hex[:12]}"


class ImportedPicture(models.Model):
    """A height or mask image that was brought in for a site."""

    id = models.CharField(primary_key=True, max_length=40)
    site = models.ForeignKey("sites.Site", on_delete=models.CASCADE, related_name="pictures")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    title = models.CharField(max_length=80)
    original = models.FileField(upload_to="pictures/")
    filename = models.CharField(max_length=200)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    created = models.DateTimeField(auto_now_add=True)
    deleted = models.DateTimeField(null=True, blank=True)

    @staticmethod
    def new_id() -> str:
        return f"picture-{uuid.uuid4().hex[:12]}"
