"""A disposable cache for derived arrays, keyed by content hashes: least recently used in memory, all on disk.

Everything in it can be computed again from what was authored, so deleting the folder costs time only.
"""

from __future__ import annotations

import contextlib
import os
import sys
import tempfile
import threading
from collections import OrderedDict
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, TypeVar

from .cancellation import computing, held
from .stored import from_bytes, to_bytes

T = TypeVar("T")


def _size(value: Any) -> int:
    """Bytes of a value; TypeError for what does not say its size, so that nothing large is held uncounted."""
    if hasattr(value, "nbytes"):
        return int(value.nbytes)
    if isinstance(value, dict):
        return sum(_size(v) for v in value.values())
    if isinstance(value, list | tuple):
        return sum(_size(v) for v in value)
    if hasattr(value, "__dataclass_fields__"):
        return sum(_size(getattr(value, name)) for name in value.__dataclass_fields__)
    if value is None or isinstance(value, bytes | str | int | float):
        return sys.getsizeof(value)
    raise TypeError(f"{type(value).__name__} does not say its size: give it nbytes")


@dataclass
class _Making:
    """Who reads or makes a value, and how many want to: the lock goes with the last of them."""

    lock: threading.Lock = field(default_factory=threading.Lock)
    askers: int = 0


class Cache:
    """Maps content hashes to derived values.

    Parameters
    ----------
    folder : Path or None
        Where values are kept between runs; None keeps them in memory only.
    memory_bytes, disk_bytes : int
        Least recently used values are dropped past this, from memory and from the folder.
    """

    def __init__(
        self, folder: Path | None = None, memory_bytes: int = 1_500_000_000, disk_bytes: int = 12_000_000_000
    ) -> None:
        self.folder = folder
        self.memory_bytes = memory_bytes
        self.disk_bytes = disk_bytes
        self._unseen = disk_bytes  # so that the first write looks what earlier runs have left
        self._values: OrderedDict[str, tuple[Any, int]] = OrderedDict()
        self._used = 0
        self._lock = threading.Lock()
        self._making: dict[str, _Making] = {}

    def get(self, key: str, make: Callable[[], T], on_disk: bool = False) -> T:
        """The value under `key`, made by `make` if nobody has it. Two askers at once make it once."""
        found, value = self._from_memory(key)
        if not found and on_disk and self.holds(key):
            with self._alone(key):
                found, value = self._read(key, on_disk)
        if found:
            return value
        with computing(), self._alone(key):
            found, value = self._read(key, on_disk)
            if not found:
                value = make()
                if on_disk:
                    self._to_disk(key, value)
                self._remember(key, value)
        return value

    def _read(self, key: str, on_disk: bool) -> tuple[bool, Any]:
        """What is there, without making it."""
        found, value = self._from_memory(key)
        if not found and on_disk:
            found, value = self._from_disk(key)
            if found:
                self._remember(key, value)
        return found, value

    @contextlib.contextmanager
    def _alone(self, key: str) -> Iterator[None]:
        """Nobody else reads or makes the value meanwhile."""
        with self._lock:
            making = self._making.setdefault(key, _Making())
            making.askers += 1
        try:
            with held(making.lock):
                yield
        finally:
            with self._lock:
                making.askers -= 1
                # One who gives up waiting leaves the lock to those who hold it or wait for it still.
                if not making.askers:
                    del self._making[key]

    @property
    def used(self) -> int:
        """Bytes held in memory."""
        return self._used

    def holds(self, key: str) -> bool:
        """Is there a value under a key, in memory or on disk?"""
        path = self._path(key)
        return self._from_memory(key)[0] or bool(path and path.exists())

    def forget(self) -> None:
        """Drop what is in memory, as a new process would find it."""
        with self._lock:
            self._values.clear()
            self._used = 0

    def _from_memory(self, key: str) -> tuple[bool, Any]:
        with self._lock:
            if key not in self._values:
                return False, None
            self._values.move_to_end(key)
            return True, self._values[key][0]

    def _remember(self, key: str, value: Any) -> None:
        size = _size(value)
        with self._lock:
            _, before = self._values.pop(key, (None, 0))
            self._values[key] = (value, size)
            self._used += size - before
            while self._used > self.memory_bytes and len(self._values) > 1:
                _, (_, freed) = self._values.popitem(last=False)
                self._used -= freed

    def _path(self, key: str) -> Path | None:
        if self.folder is None:
            return None
        return self.folder / key[:2] / f"{key}.safetensors"

    def _from_disk(self, key: str) -> tuple[bool, Any]:
        path = self._path(key)
        if path is None or not path.exists():
            return False, None
        try:
            value = from_bytes(path.read_bytes())
        except Exception:
            # A half-written or outdated entry is worth no more than a missing one.
            path.unlink(missing_ok=True)
            return False, None
        # Used lately, so kept longest; where that cannot be noted the value is as good.
        with contextlib.suppress(OSError):
            os.utime(path)
        return True, value

    def _to_disk(self, key: str, value: Any) -> None:
        path = self._path(key)
        if path is None:
            return
        data = to_bytes(value)
        # A full disk must not stop the work: the cache is only a convenience.
        with contextlib.suppress(OSError):
            path.parent.mkdir(parents=True, exist_ok=True)
            handle, name = tempfile.mkstemp(dir=path.parent)
            with os.fdopen(handle, "wb") as file:
                file.write(data)
            os.replace(name, path)
            self._unseen += path.stat().st_size
            if self._unseen > self.disk_bytes / 10:
                self._unseen = 0
                self._tidy_folder()

    def _tidy_folder(self) -> None:
        """Drop what was not used for longest, down to nine tenths of what the folder may hold."""
        assert self.folder is not None
        files = []
        for path in self.folder.glob("*/*"):
            # Another process may have dropped it just now.
            with contextlib.suppress(OSError):
                found = path.stat()
                files.append((found.st_mtime, found.st_size, path))
        held = sum(size for _, size, _ in files)
        if held <= self.disk_bytes:
            return
        for _, size, path in sorted(files, key=lambda file: file[0]):
            with contextlib.suppress(OSError):
                path.unlink()
            held -= size
            if held <= 0.9 * self.disk_bytes:
                break
