"""Reading the YAML files that tests and benchmarks share."""

from __future__ import annotations

from pathlib import Path
from typing import Any


def read(path: Path) -> Any:
    """Return what a YAML file holds."""
    from ruamel.yaml import YAML

    return YAML(typ="safe", pure=True).load(path)
