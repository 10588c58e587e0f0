"""ASGI entry, served by uvicorn."""

import os
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent.parent
sys.path[:0] = [p for p in (str(ROOT / "core"), str(ROOT / "server"), str(ROOT)) if p not in sys.path]
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "cenote.settings")

import django  # noqa: E402

django.setup(set_prefix=False)

from cenote.bodies import BoundedBodies  # noqa: E402
from sites.asking import AskingHandler  # noqa: E402

application = BoundedBodies(AskingHandler())
