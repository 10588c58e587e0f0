"""How many compute at once: so many altogether, and no more than half of them for one person."""

import threading
from collections import Counter
from collections.abc import Hashable


class Slots:
    """Places for computing. Whatever one person asks for, there is room for somebody else."""

    def __init__(self, total: int) -> None:
        self.total = total
        self.each = max(1, total // 2)
        self._held: Counter[Hashable] = Counter()
        self._changed = threading.Condition()

    def acquire(self, person: Hashable, timeout: float) -> bool:
        """Take a place for a person; False if there was none for so many seconds."""
        with self._changed:
            if not self._changed.wait_for(lambda: self._room(person), timeout):
                return False
            self._held[person] += 1
            return True

    def release(self, person: Hashable) -> None:
        """Give a place back."""
        with self._changed:
            self._held[person] -= 1
            if not self._held[person]:
                del self._held[person]
            self._changed.notify_all()

    def _room(self, person: Hashable) -> bool:
        return self._held.total() < self.total and self._held[person] < self.each
