"""kill −9 of web, worker and database under a burst of edits: nothing acknowledged is lost, and all comes up again."""

import json
import threading
import time
from uuid import uuid4

from django.test import SimpleTestCase, tag

from accounts import once

from .helpers import grass
from .installation import Installation

PORT = 18480
_TIMES = 3


class Burst(threading.Thread):
    """Somebody who edits without pause, and sends again what was not acknowledged under the same id, as the bench does."""

    def __init__(self, whole: Installation, site: str, name: str) -> None:
        super().__init__(daemon=True)
        self.whole, self.site, self.name_ = whole, site, name
        self.acknowledged: dict[str, float] = {}
        self.odd: list[tuple[int, bytes]] = []
        self.over = threading.Event()

    def run(self) -> None:
        number = 0
        while not self.over.is_set():
            key, density = f"{self.name_}-{number}", 1 + number / 1000
            plan = grass(density=density, visible=False).model_dump(mode="json")
            edit = {"label": key, "edits": [{"key": key, "revision": 0, "plan": plan}]}
            named = {once.HEADER: str(uuid4())}
            while not self.over.is_set():
                status, content = self.whole.ask("POST", f"/api/sites/{self.site}/changes", edit, named)
                if status == 200:
                    self.acknowledged[key] = density
                    break
                if status not in (0, 503):
                    self.odd.append((status, content[:200]))
                    break
                time.sleep(0.1)
            number += 1


@tag("whole")
class Kills(SimpleTestCase):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.whole = Installation(PORT)
        cls.addClassCleanup(cls.whole.end)
        cls.whole.wait_until_up()
        cls.site = cls.whole.populate()

    def there(self):
        status, content = self.whole.ask("GET", f"/api/sites/{self.site}")
        self.assertEqual(status, 200, content[:200])
        return {i["key"]: i["plan"].get("density") for i in json.loads(content)["items"]}

    def up_again(self, most=60.0):
        until = time.monotonic() + most
        while self.whole.ask("GET", f"/api/sites/{self.site}")[0] != 200:
            self.assertLess(time.monotonic(), until, self.whole.log.read_text()[-2000:])
            time.sleep(0.2)

    def burst_while_killing(self, name, *pattern):
        burst = Burst(self.whole, self.site, name)
        burst.start()
        for _ in range(_TIMES):
            before = len(burst.acknowledged)
            until = time.monotonic() + 60
            while len(burst.acknowledged) < before + 10 and time.monotonic() < until:
                time.sleep(0.05)
            self.assertTrue(self.whole.kill(*pattern), f"nothing to kill: {pattern}")
            time.sleep(0.5)
            self.up_again()
        before, until = len(burst.acknowledged), time.monotonic() + 30
        while len(burst.acknowledged) < before + 5 and time.monotonic() < until:
            time.sleep(0.05)
        burst.over.set()
        burst.join(40)
        self.assertEqual(burst.odd, [])
        self.assertGreater(len(burst.acknowledged), before + 4)
        found = self.there()
        self.assertEqual({k: found.get(k) for k in burst.acknowledged}, burst.acknowledged)

    def proof(self, most=150.0):
        """A small proof from asking to its end."""
        wanted = {"station": "station-1", "quality": "rough", "width": 96, "height": 64}
        status, content = self.whole.ask("POST", f"/api/work/sites/{self.site}/proofs", wanted)
        self.assertEqual(status, 200, content)
        return self.ended(json.loads(content)["id"], most)

    def ended(self, job, most=150.0):
        until = time.monotonic() + most
        while time.monotonic() < until:
            status, content = self.whole.ask("GET", f"/api/work/sites/{self.site}/jobs")
            found = next((j for j in json.loads(content) if j["id"] == job), None) if status == 200 else None
            if found and found["state"] in ("done", "failed", "cancelled"):
                return found
            time.sleep(0.3)
        self.fail(f"the job never ended: {found}")

    def test_the_web_process(self):
        self.burst_while_killing("web", "uvicorn")
        self.assertIn("the web process ended", self.whole.log.read_text())

    def test_the_database_and_a_proof_after_it(self):
        self.assertEqual(self.proof()["state"], "done")
        self.burst_while_killing("database", "postgres", "-D")
        self.assertIn("the database ended", self.whole.log.read_text())
        self.assertEqual(self.proof()["state"], "done", "without anybody starting the worker again")

    def test_the_worker_and_the_process_of_its_jobs(self):
        wanted = {"station": "station-1", "quality": "good", "width": 640, "height": 400}
        for kills in (("do_jobs",), ("manage.py", "work", "work"), ("do_jobs",)):
            status, content = self.whole.ask("POST", f"/api/work/sites/{self.site}/proofs", wanted)
            self.assertEqual(status, 200, content)
            job = json.loads(content)["id"]
            until = time.monotonic() + 60
            while time.monotonic() < until:
                state = next(
                    j
                    for j in json.loads(self.whole.ask("GET", f"/api/work/sites/{self.site}/jobs")[1])
                    if j["id"] == job
                )
                if state["state"] == "running":
                    break
                time.sleep(0.2)
            self.assertTrue(self.whole.kill(*kills), kills)
            time.sleep(1)
            self.assertEqual(self.whole.ask("POST", f"/api/work/{job}/enough", {})[0], 200)
            self.assertEqual(self.ended(job)["state"], "done", self.whole.log.read_text()[-1000:])
