"""Failed sign-ins, counted so that guessing is slow; requests that were answered, so that none is done twice."""

from django.conf import settings
from django.db import models


class FailedSignIn(models.Model):
    """One wrong password for one name from one address."""

    name = models.CharField(max_length=150)
    address = models.CharField(max_length=64)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        indexes = [
            models.Index(fields=["name", "address", "at"]),
            models.Index(fields=["address", "at"]),
            models.Index(fields=["at"]),
        ]


class AnsweredOnce(models.Model):
    """What a request that carried an id of its own was answered, so that the same request sent again gets the same.

    The row is written in the transaction of what the request did: either both are there or neither.
    """

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    request = models.UUIDField()
    path = models.CharField(max_length=200)
    status = models.PositiveSmallIntegerField(default=0)
    content = models.TextField(default="")
    at = models.DateTimeField(auto_now_add=True, db_index=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["user", "request"], name="answered_once")]
