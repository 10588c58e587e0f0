"""The app that puts all others together."""

from django.apps import AppConfig


class ServedConfig(AppConfig):
    name = "served"
