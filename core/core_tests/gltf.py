"""Files that were handed over, judged by the Khronos validator."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path
from typing import Any

_ROOT = Path(__file__).resolve().parent.parent.parent
_ERROR, _WARNING = 0, 1
_SCRIPT = (
    "const v=require('gltf-validator'),fs=require('fs');"
    "v.validateBytes(new Uint8Array(fs.readFileSync(process.argv[1])),{maxIssues:2000})"
    ".then(r=>console.log(JSON.stringify(r)))"
)


def validated(path: Path) -> dict[str, Any]:
    """The validator's report of a GLB."""
    command = ["node", "-e", _SCRIPT, str(path)]
    done = subprocess.run(command, cwd=_ROOT / "web", capture_output=True, text=True, check=True)
    report: dict[str, Any] = json.loads(done.stdout)
    return report


def complaints(report: dict[str, Any]) -> list[str]:
    """Its errors and warnings, in words."""
    found = [m for m in report["issues"]["messages"] if m["severity"] in (_ERROR, _WARNING)]
    return [f"{m['code']} at {m.get('pointer', '')}: {m['message']}" for m in found]
