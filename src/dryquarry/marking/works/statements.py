"""The statements of a text in SQL, told apart by their semicolons outside texts and comments."""

from __future__ import annotations

import re

from dryquarry.marking.regexes import regex

_TOKEN = regex(
    r"'(?:[^']|'')*'|\"(?:[^\"]|\"\")*\"|`[^`]*`|\[[^\]]*\]|--[^\n]*|/\*.*?(?:\*/|\Z)|;|[^'\"`\[\-/;]+|.", re.DOTALL
)
_QUERY = regex(r"(?is)\s*\(?\s*(?:select|with|values|insert|update|delete|create|drop|alter|replace|pragma|explain)\b")


def statements_in(text: str) -> list[str]:
    """Return the statements, comments left out, without those that are empty."""
    found, part = [], ""
    for token in _TOKEN.findall(text):
        if token == ";":
            found.append(part)
            part = ""
        elif not token.startswith(("--", "/*")):
            part += token
    return [one.strip() for one in (*found, part) if one.strip()]


def is_query(text: str) -> bool:
    """Tell whether a text begins like a statement of SQL."""
    parts = statements_in(text)
    return bool(parts) and _QUERY.match(parts[0]) is not None
