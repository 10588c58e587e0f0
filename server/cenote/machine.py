"""What the machine, or the container in it, lends us."""

import os
from pathlib import Path

_LIMITS = (Path("/sys/fs/cgroup/memory.max"), Path("/sys/fs/cgroup/memory/memory.limit_in_bytes"))
"""Where control groups tell a container's limit, of version 2 and 1."""


def memory(limits: tuple[Path, ...] = _LIMITS) -> int:
    """Bytes of memory that there are for us: the machine's, or the container's if it is given less."""
    found = [os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")]
    for path in limits:
        try:
            found.append(int(path.read_text()))
        except (OSError, ValueError):
            # There is no such limit, or it is "max".
            continue
    return min(found)
