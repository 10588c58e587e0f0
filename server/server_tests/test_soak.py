"""A page that is used for hours: what the web process holds does not grow with what was asked of it."""

import gc
import tracemalloc
from unittest import mock

from django.conf import settings
from django.test import TestCase

from cenote_core.graph.store import Cache
from sites import computing
from sites import revision_cache as answers

from .helpers import change, client_of, grass, person, site_of, wall

_ASKED, _BEFORE = 30, 12
_MOST_CACHE = 60_000_000
_MOST_GROWTH = 2_000_000
"""Bytes: a tenth of what so many answers would be if each were kept."""


class Soak(TestCase):
    def test_memory_settles(self):
        site, client = site_of(person(), g=grass(density=8), wall=wall()), client_of(person())
        small = Cache(settings.CACHE_FOLDER, memory_bytes=_MOST_CACHE)
        held = []
        with mock.patch.object(computing, "cache", lambda: small), mock.patch.object(answers, "cache", lambda: small):
            # The kit is made first: being watched all the way would take minutes.
            self.use(client, site, 0)
            tracemalloc.start()
            try:
                for k in range(1, _ASKED):
                    self.use(client, site, k)
                    gc.collect()
                    held.append(tracemalloc.get_traced_memory()[0] - small.used)
            finally:
                tracemalloc.stop()
        self.assertLessEqual(small.used, _MOST_CACHE)
        self.assertLess(max(held[_BEFORE:]) - held[_BEFORE], _MOST_GROWTH, [round(h / 1e6, 1) for h in held])

    def use(self, client, site, k):
        """A slider is dragged, let go, and what follows is fetched."""
        plan = grass(density=8 + k / 100).model_dump(mode="json")
        here = f"/api/sites/{site.pk}"
        tried = {"key": "g", "plan": plan, "eye": [0, 2, 5], "most": 4000}
        sent = client.post(
            f"{here}/preview", tried, content_type="application/json", headers={"X-Cenote-Tab": f"tab {k}"}
        )
        self.assertEqual(sent.status_code, 200)
        self.assertEqual(change(client, site, ("g", k + 1, plan))[0], 200)
        scene = client.get(f"{here}/scene").json()
        for drift in scene["drifts"]:
            self.assertEqual(client.get(drift["url"]).status_code, 200)
        self.assertEqual(client.get(f"{here}/effects").status_code, 200)
