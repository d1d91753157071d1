"""Dry Quarry: versioned question suites, asked of language models and marked traceably."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from dryquarry.workspace import Workspace as Workspace

__version__ = "0.1.0"
__all__ = ["Workspace", "__version__"]


def __getattr__(name: str) -> Any:
    # `import dryquarry` must stay cheap for `--help`, so Workspace is loaded when first asked for.
    if name == "Workspace":
        from dryquarry.workspace import Workspace

        return Workspace
    raise AttributeError(f"module 'dryquarry' has no attribute {name!r}")
