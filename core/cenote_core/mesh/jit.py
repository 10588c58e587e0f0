"""Dr.Jit and Mitsuba, imported after they were told where LLVM lies; they read it once, when they are imported."""

from __future__ import annotations

import glob
import os


def _find_llvm() -> None:
    if "DRJIT_LIBLLVM_PATH" in os.environ:
        return
    found = sorted(glob.glob("/usr/lib/*/libLLVM-19.so*") + glob.glob("/usr/lib/llvm-19/lib/libLLVM*.so*"))
    if found:
        os.environ["DRJIT_LIBLLVM_PATH"] = found[0]


_find_llvm()

import drjit as dr  # noqa: E402
import mitsuba as mi  # noqa: E402

__all__ = ["dr", "mi"]
