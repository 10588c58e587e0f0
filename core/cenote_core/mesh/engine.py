"""The ray engine and path tracer, used from one thread of its own.

Mitsuba's variant and its kernels belong to a thread, and web requests arrive on many; so every use goes
through `run`, which hands the work to the engine's thread and waits.
"""

from __future__ import annotations

import glob
import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from threading import current_thread
from typing import Any, TypeVar

from ..errors import CenoteError

T = TypeVar("T")
_NAME = "cenote-rays"


def _start() -> None:
    if "DRJIT_LIBLLVM_PATH" not in os.environ:
        found = sorted(glob.glob("/usr/lib/*/libLLVM-19.so*") + glob.glob("/usr/lib/llvm-19/lib/libLLVM*.so*"))
        if not found:
            raise CenoteError("The ray engine needs the Debian package libllvm19. Install it and start again.")
        os.environ["DRJIT_LIBLLVM_PATH"] = found[0]
    import mitsuba

    mitsuba.set_variant("llvm_ad_rgb")
    mitsuba.set_log_level(mitsuba.LogLevel.Error)


_thread = ThreadPoolExecutor(max_workers=1, thread_name_prefix=_NAME, initializer=_start)


def run(work: Callable[[Any], T]) -> T:
    """Do `work(mitsuba)` on the engine's thread and return its result."""

    def call() -> T:
        import mitsuba

        return work(mitsuba)

    if current_thread().name.startswith(_NAME):
        return call()
    return _thread.submit(call).result()
