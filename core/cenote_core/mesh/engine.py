"""The ray engine and path tracer, used from one thread of its own.

Mitsuba's variant and its kernels belong to a thread, and web requests arrive on many; so every use goes
through `run`, which hands the work to the engine's thread and waits.
"""

from __future__ import annotations

import contextlib
import ctypes
import gc
import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from threading import current_thread
from typing import Any, TypeVar

from ..errors import CenoteError
from .jit import dr, mi

T = TypeVar("T")
_NAME = "cenote-rays"


def _start() -> None:
    if not os.environ.get("DRJIT_LIBLLVM_PATH"):
        raise CenoteError("The ray engine needs the Debian package libllvm19. Install it and start again.")
    mi.set_variant("llvm_ad_rgb")
    mi.set_log_level(mi.LogLevel.Error)


_thread = ThreadPoolExecutor(max_workers=1, thread_name_prefix=_NAME, initializer=_start)


def run(work: Callable[[Any], T]) -> T:
    """Do `work(mitsuba)` on the engine's thread and return its result."""
    if current_thread().name.startswith(_NAME):
        return work(mi)
    return _thread.submit(work, mi).result()


def release_memory() -> None:
    """Hand freed memory back to the system: the engine and the C library keep it for themselves otherwise."""
    gc.collect()
    run(lambda mi: dr.flush_malloc_cache())
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL("libc.so.6").malloc_trim(0)
