"""Reading a file in a process of its own, which may use so much memory and time and no more.

Run as `python -m cenote_core.formats.apart model|picture FILE NAME OUT BYTES`. It writes what it read to OUT, as the cache
keeps values, and says one line of JSON for each stage and, last, how it ended.
"""

from __future__ import annotations

import json
import resource
import sys
from pathlib import Path

from ..errors import CenoteError
from ..graph.stored import to_bytes
from .model import read_model
from .picture import read_picture

TOO_MUCH = "The file asks for more memory than may be given to it. Reduce it first."


def _tell(stage: str) -> None:
    print(json.dumps({"stage": stage}), flush=True)


def main(kind: str, file: str, name: str, out: str, most: str) -> dict[str, str]:
    """Read a file; the line to close with: `done`, or `refused` with a sentence."""
    resource.setrlimit(resource.RLIMIT_AS, (int(most), int(most)))
    try:
        data = Path(file).read_bytes()
        value = read_model(data, name, _tell) if kind == "model" else read_picture(data, name)
        Path(out).write_bytes(to_bytes(value))
    except CenoteError as error:
        return {"refused": str(error)}
    except MemoryError:
        return {"refused": TOO_MUCH}
    return {"done": out}


if __name__ == "__main__":
    print(json.dumps(main(*sys.argv[1:])), flush=True)
