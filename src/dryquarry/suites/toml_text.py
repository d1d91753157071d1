"""Reading TOML, with the line of what is wrong."""

from __future__ import annotations

import math
import re
import tomllib
from typing import Any

from dryquarry.errors import Fault
from dryquarry.suites.located import UnreadableText, decoded


def read_toml(content: bytes, file: str) -> dict[str, Any]:
    """Return the data in the bytes of a TOML file; raises UnreadableText with file and line.

    Values are texts, finite numbers of up to 64 bits, booleans, lists and tables: what can be stored and sent on.
    """
    try:
        data = tomllib.loads(decoded(content, file))
        _refuse_others(data, "")
        return data
    except _Unusable as error:
        raise UnreadableText(Fault("unreadable", str(error), file)) from None
    except tomllib.TOMLDecodeError as error:
        place = re.search(r"at line (\d+)", str(error))
        line = int(place.group(1)) if place else None
        raise UnreadableText(Fault("unreadable", f"not readable as TOML: {error}", file, line)) from None
    except RecursionError:
        raise UnreadableText(Fault("unreadable", "brackets are nested too deeply", file)) from None


class _Unusable(ValueError):
    """A value that can be neither stored nor sent on."""


def _refuse_others(value: Any, name: str) -> None:
    if isinstance(value, dict):
        for key, inner in value.items():
            _refuse_others(inner, f"{name}.{key}" if name else key)
    elif isinstance(value, list):
        for inner in value:
            _refuse_others(inner, name)
    elif isinstance(value, float) and not math.isfinite(value):
        raise _Unusable(f"'{name}' is no finite number")
    elif isinstance(value, int) and not -(2**63) <= value < 2**63:
        raise _Unusable(f"'{name}' is a number of too many digits")
    elif not isinstance(value, str | int | float):
        raise _Unusable(f"'{name}' is a date or a time; put it in quotes")
