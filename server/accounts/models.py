"""Failed sign-ins, counted so that guessing is slow."""

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
