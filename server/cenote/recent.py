"""A few newest entries, for what is known in this process alone and only for a while."""

import threading
from collections import OrderedDict
from typing import Any, Generic, TypeVar

T = TypeVar("T")


class Recent(Generic[T]):
    """Remembers values by name; beyond `most` the one set longest ago is forgotten."""

    def __init__(self, most: int) -> None:
        self.most = most
        self._found: OrderedDict[Any, T] = OrderedDict()
        self._lock = threading.Lock()

    def set(self, name: Any, value: T) -> None:
        with self._lock:
            self._found[name] = value
            self._found.move_to_end(name)
            while len(self._found) > self.most:
                self._found.popitem(last=False)

    def get(self, name: Any, default: T) -> T:
        with self._lock:
            return self._found.get(name, default)
