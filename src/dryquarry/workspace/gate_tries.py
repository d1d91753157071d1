"""How often gates were tried on the same data: whoever tries long enough finds one that holds by chance."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from pathlib import Path

from dryquarry.ledger.rows import now_utc

FILE = "gates.jsonl"


def data_digest(parts: Sequence[object]) -> str:
    """Return a digest of what a gate is decided by."""
    return hashlib.sha256(json.dumps(parts, sort_keys=True, default=str).encode("utf-8")).hexdigest()


def note_try(folder: Path, gate: str, digest: str) -> int:
    """Note that a gate was tried, and return the how manieth on these data it is; 1 where nothing can be noted."""
    path = folder / FILE
    try:
        lines = path.read_text(encoding="utf-8").splitlines() if path.exists() else []
        with path.open("a", encoding="utf-8") as file:
            file.write(json.dumps({"gate": gate, "data": digest, "at": now_utc()}) + "\n")
    except (OSError, UnicodeDecodeError):
        return 1
    return 1 + sum(f'"data": "{digest}"' in line for line in lines)
