"""Files that are brought in are read in a child process: what is hostile in them harms nobody else."""

import json
import os
import subprocess
import sys
import tempfile
import threading
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path
from typing import Any, BinaryIO, Literal

from django.conf import settings

import cenote_core
from cenote_core.errors import FormatError, TooHeavyError
from cenote_core.formats.apart import TOO_MUCH
from cenote_core.graph.stored import from_bytes

_CORE = Path(cenote_core.__file__).parent.parent
_BLOCK = 1 << 20


class Stages:
    """What is being done with files on their way in, by a token of whoever sends them; the newest few are known."""

    _MOST = 200

    def __init__(self) -> None:
        self._found: OrderedDict[str, str] = OrderedDict()
        self._lock = threading.Lock()

    def tell(self, token: str) -> Callable[[str], None]:
        """What to tell of a file with a token; of one without it nothing is kept."""

        def keep(stage: str) -> None:
            if not token:
                return
            with self._lock:
                self._found[token] = stage
                self._found.move_to_end(token)
                while len(self._found) > self._MOST:
                    self._found.popitem(last=False)

        return keep

    def now(self, token: str) -> str:
        """What is being done with it, or nothing where nobody knows."""
        with self._lock:
            return self._found.get(token, "")


stages = Stages()


def read_apart(
    kind: Literal["model", "picture"], file: BinaryIO, name: str, tell: Callable[[str], None] = lambda stage: None
) -> Any:
    """What a file holds. Raises FormatError and TooHeavyError with a sentence, as reading it here would."""
    tell("looking at it")
    with tempfile.TemporaryDirectory(prefix="cenote-import-") as folder:
        source, out = Path(folder) / "in", Path(folder) / "out"
        with source.open("wb") as copy:
            while block := file.read(_BLOCK):
                copy.write(block)
        closing = _child([kind, str(source), name, str(out), str(settings.IMPORT_BYTES)], tell)
        if "refused" in closing:
            refused = closing["refused"]
            raise TooHeavyError(refused) if refused == TOO_MUCH else FormatError(refused)
        return from_bytes(out.read_bytes())


def _child(arguments: list[str], tell: Callable[[str], None]) -> dict[str, str]:
    """Run the reader; its closing line."""
    environment = {**os.environ, "PYTHONPATH": str(_CORE), "OPENBLAS_NUM_THREADS": "1"}
    child = subprocess.Popen(
        [sys.executable, "-m", "cenote_core.formats.apart", *arguments],
        stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, stdin=subprocess.DEVNULL, text=True, env=environment,
    )  # fmt: skip
    late = threading.Event()

    def end() -> None:
        late.set()
        child.kill()

    timer = threading.Timer(settings.IMPORT_SECONDS, end)
    timer.start()
    closing: dict[str, str] = {}
    try:
        assert child.stdout is not None
        for line in child.stdout:
            said = json.loads(line)
            if "stage" in said:
                tell(said["stage"])
            else:
                closing = said
        child.wait()
    finally:
        timer.cancel()
        child.kill()
        child.wait()
    if late.is_set():
        raise TooHeavyError(f"Reading the file took longer than {settings.IMPORT_SECONDS} seconds. Reduce it first.")
    # It ended without a word: for want of memory, or by what a damaged file did to a reader.
    return closing or {
        "refused": "The file could not be read: it is damaged, or asks for too much memory. Export it again."
    }
