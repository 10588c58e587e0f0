"""A whole Cenote of its own beside the tests: started, hurt and looked at from outside."""

from __future__ import annotations

import http.client
import json
import os
import shutil
import signal
import subprocess
import tempfile
import time
from pathlib import Path
from typing import Any

from django.conf import settings

_SHARED = ("*.stamp", "secret")
"""What makes setting up again needless: nothing of it belongs to one installation."""


class Installation:
    """`bin/start` with a folder, a port and a database of its own, and one person on one site."""

    def __init__(self, port: int, var: Path | None = None) -> None:
        self.port = port
        self.var = var or Path(tempfile.mkdtemp(prefix="cenote-whole-"))
        self.var.chmod(0o755)
        for pattern in _SHARED:
            for file in settings.VAR.glob(pattern):
                shutil.copy(file, self.var / file.name)
        own = {"CENOTE_VAR": str(self.var), "CENOTE_PORT": str(port), "CENOTE_DEMO": "0", "CENOTE_DB_POOL": "1"}
        kernels = os.environ.get("DRJIT_CACHE_DIR", str(settings.VAR / "kernels"))
        # Nothing of the tests' own database.
        passed = {k: v for k, v in os.environ.items() if not k.startswith("CENOTE_")}
        self.environment = {**passed, **own, "DRJIT_CACHE_DIR": kernels}
        self.log = self.var / "start.log"
        with self.log.open("w") as log:
            self.process = subprocess.Popen(
                [str(settings.ROOT / "bin" / "start")],
                env=self.environment,
                stdout=log,
                stderr=log,
                start_new_session=True,
            )
        self.cookie = self.token = ""

    def end(self) -> None:
        """Stop it as Ctrl C does, and take its folder away."""
        self.process.terminate()
        try:
            self.process.wait(30)
        finally:
            subprocess.run(["pkill", "-9", "-s", str(self.process.pid)], check=False)
            shutil.rmtree(self.var, ignore_errors=True)

    def wait_until_up(self, most: float = 240.0) -> None:
        until = time.monotonic() + most
        while not (self.var / "web.up").exists():
            if self.process.poll() is not None or time.monotonic() > until:
                raise AssertionError(f"it did not start:\n{self.log.read_text()}")
            time.sleep(0.3)

    def populate(self) -> str:
        """A person and a flat site; its id. Signs the person in."""
        code = "from server_tests.helpers import person, site_of, wall; print('SITE', site_of(person('ada'), wall=wall()).pk)"
        made = self._django("shell", "-c", code)
        self.sign_in()
        return made.split("SITE ")[1].split()[0]

    def _django(self, *arguments: str) -> str:
        folder = Path(self.folder)
        database = {
            "CENOTE_DB_PORT": (folder / "port").read_text().strip(),
            "CENOTE_DB_PASSWORD": (folder / "password").read_text().strip(),
            "CENOTE_SECRET_KEY": (self.var / "secret").read_text().strip(),
        }
        done = subprocess.run(
            [str(settings.ROOT / ".venv/bin/python"), "manage.py", *arguments],
            cwd=settings.ROOT / "server", env={**self.environment, **database}, capture_output=True, text=True, check=True,
        )  # fmt: skip
        return done.stdout

    @property
    def folder(self) -> str:
        """Where the database lies."""
        return str(self.var / "pg")

    def sign_in(self) -> None:
        line = self.line()
        line.request("GET", "/api/accounts/me")
        answer = line.getresponse()
        token = json.loads(answer.read())["csrf"]
        cookie = answer.headers["Set-Cookie"].split(";")[0]
        body = json.dumps({"name": "ada", "password": "a long password"})
        line.request("POST", "/api/accounts/sign-in", body, {"Cookie": cookie, "X-CSRFToken": token})
        answer = line.getresponse()
        assert answer.status == 200, answer.read()
        self.token = json.loads(answer.read())["csrf"]
        self.cookie = "; ".join(c.split(";")[0] for c in answer.headers.get_all("Set-Cookie"))

    def line(self) -> http.client.HTTPConnection:
        return http.client.HTTPConnection("127.0.0.1", self.port, timeout=30)

    def ask(self, method: str, path: str, body: Any = None, headers: dict[str, str] | None = None) -> tuple[int, bytes]:
        """Status and content; 0 where nobody answers."""
        line = self.line()
        sent = {"Cookie": self.cookie, "X-CSRFToken": self.token, **(headers or {})}
        data = json.dumps(body) if isinstance(body, dict) else body
        try:
            line.request(method, path, data, sent)
            answer = line.getresponse()
            return answer.status, answer.read()
        except (OSError, http.client.HTTPException):
            return 0, b""
        finally:
            line.close()

    def kill(self, *pattern: str) -> bool:
        """kill -9 of what of this installation has a command line with all these words; was there any?"""
        found = False
        for folder in Path("/proc").glob("[0-9]*"):
            try:
                line = (folder / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
                there = (folder / "environ").read_bytes() if pattern[0] != "postgres" else b""
            except OSError:
                continue
            ours = f"CENOTE_VAR={self.var}".encode() in there or self.folder in line
            if ours and all(word in line for word in pattern):
                os.kill(int(folder.name), signal.SIGKILL)
                found = True
        return found
