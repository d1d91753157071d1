"""Regular expressions that are compiled when they are first used.

Reading answers takes about a thousand of them, and compiling all of them takes longer than most commands do.
"""

from __future__ import annotations

import re
from typing import Any, cast

_HANDED_ON = ("search", "match", "fullmatch", "finditer", "findall", "split", "sub", "subn", "groupindex")


class _WhenUsed:
    """Stands for a pattern until one of its methods is asked for, and hands on to it from then on."""

    def __init__(self, pattern: str, flags: int) -> None:
        self.pattern, self._flags = pattern, flags

    def __getattr__(self, name: str) -> Any:
        if name.startswith("__"):
            raise AttributeError(name)
        compiled = re.compile(self.pattern, self._flags)
        # As attributes of its own, so that no later use comes through here.
        self.__dict__.update({each: getattr(compiled, each) for each in _HANDED_ON})
        return getattr(compiled, name)


def regex(pattern: str, flags: int = 0) -> re.Pattern[str]:
    """Return what works as `re.compile(pattern, flags)` does; a faulty one raises `re.error` at its first use."""
    return cast("re.Pattern[str]", _WhenUsed(pattern, flags))
