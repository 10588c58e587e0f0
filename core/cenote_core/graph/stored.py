"""Values as files: arrays in the open safetensors format, everything round them as JSON in its header.

No pickle: whoever can write into the folder of a shared cache could otherwise run code in whoever reads it.
"""

from __future__ import annotations

import importlib
import json
from dataclasses import fields, is_dataclass
from typing import Any, cast

import numpy as np
from safetensors.numpy import load, save

from .version import PACKAGE


def to_bytes(value: Any) -> bytes:
    """Anything made of dataclasses of the core, lists, dictionaries, arrays, bytes, numbers and text."""
    arrays: dict[str, np.ndarray] = {}
    tree = _described(value, arrays)
    return save(arrays, {"tree": json.dumps(tree)})


def from_bytes(data: bytes) -> Any:
    """The reverse of `to_bytes`; ValueError where the file is none of ours."""
    arrays = load(data)
    size = int.from_bytes(data[:8], "little")
    header = json.loads(data[8 : 8 + size])
    return _made(json.loads(header["__metadata__"]["tree"]), arrays)


def _described(value: Any, arrays: dict[str, np.ndarray]) -> Any:
    if value is None or isinstance(value, bool | str):
        return value
    if isinstance(value, int | float) and not isinstance(value, np.generic):
        return value
    if isinstance(value, np.generic):
        return {"scalar": _kept(np.array([value]), arrays)}
    if isinstance(value, np.ndarray):
        return {"array": _kept(value, arrays)}
    if isinstance(value, bytes):
        return {"bytes": _kept(np.frombuffer(value, np.uint8), arrays)}
    if isinstance(value, list):
        return [_described(item, arrays) for item in value]
    if isinstance(value, tuple):
        return {"tuple": [_described(item, arrays) for item in value]}
    if isinstance(value, dict):
        return {"dict": [[_described(k, arrays), _described(v, arrays)] for k, v in value.items()]}
    if is_dataclass(value) and type(value).__module__.split(".")[0] == PACKAGE:
        parts = {f.name: _described(getattr(value, f.name), arrays) for f in fields(value)}
        return {"is": f"{type(value).__module__}:{type(value).__qualname__}", "of": parts}
    raise TypeError(f"{type(value).__name__} cannot be kept on disk")


def _kept(array: np.ndarray, arrays: dict[str, np.ndarray]) -> str:
    name = str(len(arrays))
    arrays[name] = np.ascontiguousarray(array)
    return name


def _made(tree: Any, arrays: dict[str, np.ndarray]) -> Any:
    if isinstance(tree, list):
        return [_made(item, arrays) for item in tree]
    if not isinstance(tree, dict):
        return tree
    if "of" in tree:
        module, _, name = tree["is"].partition(":")
        kind: Any = getattr(importlib.import_module(module), name) if module.split(".")[0] == PACKAGE else None
        if kind is None or not is_dataclass(kind):
            raise ValueError(f"{tree['is']} is no value of the core")
        return cast(Any, kind)(**{part: _made(item, arrays) for part, item in tree["of"].items()})
    (what, held), *_ = tree.items()
    if what == "scalar":
        return arrays[held][0]
    if what == "array":
        return arrays[held]
    if what == "bytes":
        return arrays[held].tobytes()
    if what == "tuple":
        return tuple(_made(item, arrays) for item in held)
    return {_made(k, arrays): _made(v, arrays) for k, v in held}
