"""The code version of a module: a hash of its source and of all of the core that it imports."""

from __future__ import annotations

import ast
import hashlib
import sys
import threading
from functools import cache
from importlib.util import resolve_name
from pathlib import Path

ROOT = Path(__file__).parent.parent
PACKAGE = ROOT.name
_parsing = threading.Lock()
"""Python 3.11 may fail with a SystemError where two threads build syntax trees at once (CPython issue 106905)."""


def _path(module: str) -> Path | None:
    """The file of a module: of the core, or of one that has been imported."""
    if module.split(".")[0] != PACKAGE:
        file = getattr(sys.modules.get(module), "__file__", None)
        return Path(file) if file else None
    inside = ROOT.joinpath(*module.split(".")[1:])
    for path in (inside.with_suffix(".py"), inside / "__init__.py"):
        if path.is_file():
            return path
    return None


@cache
def _read(module: str) -> tuple[bytes, tuple[str, ...]]:
    """A module's source, and the modules of the core it imports."""
    path = _path(module)
    if path is None:
        return b"", ()
    source = path.read_bytes()
    package = module if path.name == "__init__.py" else module.rpartition(".")[0]
    found: set[str] = set()
    with _parsing:
        tree = ast.parse(source)
    for node in ast.walk(tree):
        if isinstance(node, ast.ImportFrom):
            base = resolve_name("." * node.level + (node.module or ""), package) if node.level else node.module or ""
            # What is imported from a package may be a module of it.
            found |= {base, *(f"{base}.{name.name}" for name in node.names)}
        elif isinstance(node, ast.Import):
            found |= {name.name for name in node.names}
    return source, tuple(sorted(m for m in found if m.startswith(f"{PACKAGE}.") and _counts(m)))


def _counts(module: str) -> bool:
    """How values are kept does not change them."""
    return not module.startswith(f"{PACKAGE}.graph.") and _path(module) is not None


@cache
def code_version(module: str) -> str:
    """16 hex digits that change when the source of a module or of what it imports of the core does."""
    seen: set[str] = set()
    waiting = [module]
    while waiting:
        name = waiting.pop()
        if name not in seen:
            seen.add(name)
            waiting.extend(_read(name)[1])
    digest = hashlib.blake2b(digest_size=8)
    for name in sorted(seen):
        digest.update(name.encode() + b"\0" + _read(name)[0] + b"\0")
    return digest.hexdigest()
