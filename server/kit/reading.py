"""Files that are brought in are read in a child process: what is hostile in them harms nobody else."""

import contextvars
import json
import os
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, BinaryIO, Literal

from django.conf import settings

import cenote_core
from cenote.recent import Recent
from cenote_core.errors import FormatError, TooHeavyError
from cenote_core.formats.isolated_reader import TOO_MUCH
from cenote_core.graph.cancellation import LOOKS_EVERY, check
from cenote_core.graph.stored import from_bytes

_CORE = Path(cenote_core.__file__).parent.parent
_BLOCK = 1 << 20
_PASSED = ("PATH", "HOME", "LANG", "TMPDIR", "LD_LIBRARY_PATH", "NUMBA_CACHE_DIR", "NUMBA_THREADING_LAYER")
"""What the reader's process is told of ours."""


stages: Recent[str] = Recent(200)
"""What is being done with files on their way in, by a token of whoever sends them."""


def telling(token: str) -> Callable[[str], None]:
    """What to tell of a file with a token; of one without it nothing is kept."""
    return lambda stage: stages.set(token, stage) if token else None


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
    """Run the reader; its closing line. It is ended when it takes too long, and when nobody waits for it any more."""
    # What reads a hostile file knows neither the database nor the secret.
    passed = {name: os.environ[name] for name in _PASSED if name in os.environ}
    environment = {**passed, "PYTHONPATH": str(_CORE), "OPENBLAS_NUM_THREADS": "1"}
    child = subprocess.Popen(
        [sys.executable, "-m", "cenote_core.formats.isolated_reader", *arguments],
        stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, stdin=subprocess.DEVNULL, text=True, env=environment,
    )  # fmt: skip
    ended: list[Exception] = []
    watching = threading.Thread(target=contextvars.copy_context().run, args=(_watch, child, ended), daemon=True)
    watching.start()
    closing: dict[str, str] = {}
    try:
        assert child.stdout is not None
        for line in child.stdout:
            said = json.loads(line)
            if "stage" in said:
                tell(said["stage"])
            else:
                closing = said
    finally:
        child.kill()
        child.wait()
        watching.join()
    if ended:
        raise ended[0]
    # It ended without a word: for want of memory, or by what a damaged file did to a reader.
    return closing or {
        "refused": "The file could not be read: it is damaged, or asks for too much memory. Export it again."
    }


def _watch(child: subprocess.Popen[str], ended: list[Exception]) -> None:
    """Ends the reader in time; why stands in `ended`. Runs in the context of the request that waits."""
    until = time.monotonic() + settings.IMPORT_SECONDS
    while child.poll() is None:
        try:
            check()
            if time.monotonic() > until:
                raise TooHeavyError(
                    f"Reading the file took longer than {settings.IMPORT_SECONDS} seconds. Reduce it first."
                )
        except Exception as error:
            ended.append(error)
            child.kill()
            return
        time.sleep(LOOKS_EVERY)
