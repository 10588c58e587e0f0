"""Reading a file in a process of its own, which may use so much memory and time and no more.

Run as `python -m cenote_core.formats.isolated_reader model|picture FILE NAME OUT BYTES`. It writes what it read to OUT, as the cache
keeps values, and says on its standard output one line of JSON for each stage and, last, how it ended. Nothing else gets
there: some libraries write to it what they think of a file.
"""

from __future__ import annotations

import json
import os
import resource
import sys
from collections.abc import Callable
from pathlib import Path
from typing import TextIO

from ..errors import CenoteError
from ..graph.stored import to_bytes
from .model import read_model
from .picture import read_picture

TOO_MUCH = "The file asks for more memory than may be given to it. Reduce it first."


def _own_output() -> TextIO:
    """The standard output for us alone; what anybody else writes there goes where errors go."""
    own = os.fdopen(os.dup(sys.stdout.fileno()), "w")
    os.dup2(sys.stderr.fileno(), sys.stdout.fileno())
    return own


def main(tell: Callable[[str], None], kind: str, file: str, name: str, out: str, most: str) -> dict[str, str]:
    """Read a file, telling each stage; the line to close with: `done`, or `refused` with a sentence."""
    resource.setrlimit(resource.RLIMIT_AS, (int(most), int(most)))
    try:
        data = Path(file).read_bytes()
        value = read_model(data, name, tell) if kind == "model" else read_picture(data, name)
        Path(out).write_bytes(to_bytes(value))
    except CenoteError as error:
        return {"refused": str(error)}
    except MemoryError:
        return {"refused": TOO_MUCH}
    return {"done": out}


if __name__ == "__main__":
    output = _own_output()
    say = lambda line: print(json.dumps(line), file=output, flush=True)  # noqa: E731
    say(main(lambda stage: say({"stage": stage}), *sys.argv[1:]))
