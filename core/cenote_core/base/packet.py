"""Arrays for the browser: a short JSON header, then each array's bytes, aligned to four.

Layout: uint32 length of the header, header (UTF-8 JSON padded with spaces), then the arrays. The header holds
`arrays`: name → {type, shape, offset}, offsets counted from the end of the header; and `info`: anything else.
"""

from __future__ import annotations

import json
import struct
from typing import Any

import numpy as np

_TYPES = {"<f4": "float32", "<i4": "int32", "<u4": "uint32", "|u1": "uint8", "<u2": "uint16"}


def pack(arrays: dict[str, np.ndarray], info: dict[str, Any] | None = None) -> bytes:
    """Arrays of float32, int32, uint32, uint16 or uint8 under their names."""
    offset, entries, chunks = 0, {}, []
    for name, array in arrays.items():
        data = np.ascontiguousarray(array)
        kind = _TYPES[data.dtype.str]
        raw = data.tobytes()
        raw += b"\0" * (-len(raw) % 4)
        entries[name] = {"type": kind, "shape": list(data.shape), "offset": offset}
        chunks.append(raw)
        offset += len(raw)
    header = json.dumps({"arrays": entries, "info": info or {}}).encode()
    header += b" " * (-len(header) % 4)
    return struct.pack("<I", len(header)) + header + b"".join(chunks)


def unpack(data: bytes) -> tuple[dict[str, np.ndarray], dict[str, Any]]:
    """The reverse of `pack`."""
    (length,) = struct.unpack_from("<I", data)
    header = json.loads(data[4 : 4 + length])
    arrays = {}
    for name, entry in header["arrays"].items():
        count = int(np.prod(entry["shape"]))
        arrays[name] = np.frombuffer(data, entry["type"], count, 4 + length + entry["offset"]).reshape(entry["shape"])
    return arrays, header["info"]
