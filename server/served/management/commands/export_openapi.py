"""Write the API's schema, from which the front end's types are generated."""

import json
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand

from ...api import api


class Command(BaseCommand):
    help = "Writes web/openapi.json (or the path given)."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("path", nargs="?", default=str(settings.ROOT / "web" / "openapi.json"))

    def handle(self, *args: Any, **options: Any) -> None:
        text = json.dumps(api.get_openapi_schema(), indent=1, sort_keys=True, default=str) + "\n"
        Path(options["path"]).write_text(text)
