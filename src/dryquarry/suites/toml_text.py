"""Reading TOML, with the line of what is wrong."""

from __future__ import annotations

import re
import tomllib
from typing import Any

from dryquarry.errors import Fault
from dryquarry.suites.yaml_text import UnreadableText, decoded


def read_toml(content: bytes, file: str) -> dict[str, Any]:
    """Return the data in the bytes of a TOML file; raises UnreadableText with file and line."""
    try:
        return tomllib.loads(decoded(content, file))
    except tomllib.TOMLDecodeError as error:
        place = re.search(r"at line (\d+)", str(error))
        line = int(place.group(1)) if place else None
        raise UnreadableText(Fault("unreadable", f"not readable as TOML: {error}", file, line)) from None
    except RecursionError:
        raise UnreadableText(Fault("unreadable", "brackets are nested too deeply", file)) from None
