"""The door through which what a service sends comes in: texts made whole, JSON read, secrets taken out.

Nothing behind it meets a text that cannot be stored or sent on.
"""

from __future__ import annotations

import base64
import json
from collections.abc import Iterable
from typing import Any
from urllib.parse import quote

import orjson

from dryquarry.marking.values.texts import storable_text

HIDDEN = "[key]"
SHORTEST_SECRET = 6


def read_json(body: bytes) -> Any:
    """Return the data of a JSON text; raises ValueError. Halves of characters are let through, for `whole_text`."""
    try:
        return orjson.loads(body)
    except orjson.JSONDecodeError:
        if b"\\u" not in body:
            raise
    try:
        return json.loads(body.decode("utf-8", "replace"))
    except RecursionError:
        raise ValueError("nested too deeply") from None


def whole_text(text: str) -> str:
    """Return a text with halves of one character joined, and those that stand alone as visible escapes."""
    if text.isascii() or not any("\ud800" <= char <= "\udfff" for char in text):
        return text
    joined = text.encode("utf-16-le", "surrogatepass").decode("utf-16-le", "surrogatepass")
    return storable_text(joined)


def without_secrets(text: str, secrets: Iterable[str]) -> str:
    """Return a text in which no secret stands, neither plainly nor in the forms in which services echo one."""
    for secret in secrets:
        if len(secret) < SHORTEST_SECRET:
            continue
        for form in _forms(secret):
            if form in text:
                text = text.replace(form, HIDDEN)
    return text


def _forms(secret: str) -> list[str]:
    """Return a secret plainly, in percent and JSON escapes, and in base64 at each of its three beginnings."""
    forms = {secret, quote(secret, safe=""), json.dumps(secret)[1:-1], json.dumps(secret, ensure_ascii=False)[1:-1]}
    forms.add("".join(f"\\u{ord(char):04x}" for char in secret))
    content = secret.encode("utf-8")
    for start in range(3):
        # What stands before the secret changes the first signs, what follows it the last ones.
        encoded = base64.b64encode(b"\0" * start + content).decode("ascii")
        kept = encoded[(0, 2, 3)[start] : len(encoded) - (4 if (start + len(content)) % 3 else 0)]
        forms |= {kept, kept.replace("+", "-").replace("/", "_")} if len(kept) >= SHORTEST_SECRET else set()
    return sorted(forms, key=len, reverse=True)
