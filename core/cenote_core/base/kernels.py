"""How loops over arrays are compiled: one place for what all of them have in common.

Compiled code is kept from run to run, lets other threads go on meanwhile, and divides as NumPy does: a division by zero
gives an infinity or no number, never an exception, which inside a parallel loop would end as an internal error for
whatever data reached it. Kernels still guard divisions whose result is used.
"""

from __future__ import annotations

from functools import partial
from typing import Any

from numba import njit, prange, uint64

__all__ = ["inlined", "kernel", "parallel_kernel", "prange", "uint64"]

_ALL: dict[str, Any] = {"cache": True, "nogil": True, "error_model": "numpy"}

kernel = njit(**_ALL)
"""Decorator of a loop over arrays."""
parallel_kernel = njit(parallel=True, **_ALL)
"""The same, with its `prange` loops on all processors."""
inlined = partial(njit, inline="always", **_ALL)
"""Decorator, with brackets or round a function, of what is worked into the loops that call it."""
