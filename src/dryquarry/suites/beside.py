"""Files beside a suite by which replies are marked: their content takes the place of their path.

So the mark digest covers them, and a sealed edition holds all that its marks stand on.
"""

from __future__ import annotations

import base64
from collections.abc import Callable, Mapping
from typing import Any

from dryquarry.marking.registry import SCHEMES
from dryquarry.suites.fields import Fields

BINARY_SUFFIXES = (".sqlite", ".sqlite3", ".db")
LARGEST_BESIDE = 1_000_000


class AttachmentFault(ValueError):
    """A file that a question names cannot be used; the message says why."""


def nothing_beside(path: str) -> bytes:
    """Refuse every file that marking needs: what a suite read from one file alone can give."""
    raise AttachmentFault(f"the file '{path}' is not at hand")


def put_files_in(scheme: Any, mark: dict[str, Any], fields: Fields, beside: Callable[[str], bytes]) -> None:
    """Put the content of each file that a way of marking names in place of its path, in its parts too."""
    known = SCHEMES.get(scheme) if isinstance(scheme, str) else None
    for name in known.files if known is not None else ():
        if name in mark:
            mark[name] = _with_content(mark[name], fields, beside)
    parts = mark.get("parts")
    if scheme in ("all", "any") and isinstance(parts, list):
        mark["parts"] = [_part(one, fields, beside) for one in parts]


def _part(part: Any, fields: Fields, beside: Callable[[str], bytes]) -> Any:
    if not isinstance(part, Mapping):
        return part
    copy = dict(part)
    put_files_in(copy.get("scheme"), copy, fields, beside)
    return copy


def _with_content(value: Any, fields: Fields, beside: Callable[[str], bytes]) -> Any:
    if isinstance(value, list):
        return [_with_content(one, fields, beside) for one in value]
    if not isinstance(value, str):
        return value
    try:
        content = beside(value)
        if len(content) > LARGEST_BESIDE:
            raise AttachmentFault(f"the file '{value}' is larger than {LARGEST_BESIDE // 1000} kB")
        if value.casefold().endswith(BINARY_SUFFIXES):
            return {"path": value, "base64": base64.b64encode(content).decode("ascii")}
        return {"path": value, "text": content.decode("utf-8").replace("\r\n", "\n")}
    except UnicodeDecodeError as error:
        fields.fault("file", f"the file '{value}' is not a text in UTF-8 (byte {error.start})", "mark")
    except AttachmentFault as fault:
        fields.fault("file", str(fault), "mark")
    return {"path": value, "text": ""}
