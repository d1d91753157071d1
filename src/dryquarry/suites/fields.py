"""Taking typed fields out of plain data, collecting every fault on the way."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from dryquarry.errors import Fault, closest

# The line of what stands at a path below the mapping, or of the mapping itself.
LineOf = Callable[..., int | None]


class Fields:
    """One mapping of a file, read field by field; faults go to the list it is given."""

    def __init__(
        self,
        data: Mapping[str, Any],
        file: str,
        line: LineOf,
        faults: list[Fault],
        *,
        question: str | None = None,
        what: str = "",
    ):
        self.data = data
        self.file = file
        self.line = line
        self.faults = faults
        self.question = question
        self.what = what

    def fault(self, kind: str, message: str, field: str | None = None) -> None:
        """Note a fault at the field's line."""
        line = self.line() if field is None else self.line(field)
        self.faults.append(Fault(kind, message, self.file, line, self.question, field))

    def only(self, known: frozenset[str], meanings: Mapping[str, str] | None = None) -> None:
        """Note a fault for every field that is not known; `meanings` says what people mean by some names."""
        if self.data.keys() <= known:
            return
        where = f" in {self.what}" if self.what else ""
        for name in self.data:
            if name in known:
                continue
            meant = (meanings or {}).get(name.casefold())
            if meant is None and self.data[name] is None and " " in name:
                meant = "a comma ends a text inside { }; put the text in quotes"
            self.fault(
                "unknown-field", f"unknown field '{name}'{where}{f'; {meant}' if meant else closest(name, known)}", name
            )

    def text(self, name: str, *, required: bool = False) -> str | None:
        """Return the text of a field with its outer blank lines removed; numbers count as text."""
        value = self.data.get(name)
        if value is None and not required:
            return None
        if isinstance(value, int | float) and not isinstance(value, bool):
            value = str(value)
        if value is None or (isinstance(value, str) and not value.strip()):
            if required:
                self.fault("missing-field", f"the field '{name}' is missing or empty", name)
            return None
        if not isinstance(value, str):
            self.fault("wrong-shape", f"the field '{name}' wants a text, not {described(value)}", name)
            return None
        return value.strip()

    def number(self, name: str, default: float) -> float:
        """Return a number above 0."""
        value = self.data.get(name)
        if value is None and name not in self.data:
            return default
        if isinstance(value, bool) or not isinstance(value, int | float) or not 0 < value < float("inf"):
            self.fault("wrong-shape", f"the field '{name}' wants a number above 0, not {described(value)}", name)
            return default
        return float(value)

    def texts(self, name: str) -> tuple[str, ...]:
        """Return a list of texts; one text alone counts as a list of one."""
        value = self.data.get(name)
        if value is None:
            return ()
        members = value if isinstance(value, list) else [value]
        if not all(isinstance(member, str | int | float) and not isinstance(member, bool) for member in members):
            self.fault("wrong-shape", f"the field '{name}' wants a list of texts", name)
            return ()
        return tuple(str(member) for member in members)

    def mapping(self, name: str) -> Mapping[str, Any]:
        """Return a mapping, empty where the field is absent."""
        value = self.data.get(name)
        if value is None:
            return {}
        if not isinstance(value, dict):
            self.fault("wrong-shape", f"the field '{name}' wants a mapping, not {described(value)}", name)
            return {}
        return value


def described(value: Any) -> str:
    """Return what a value is, for a message: "a list", "the text 'x'", "3"."""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, list):
        return "a list"
    if isinstance(value, dict):
        return "a mapping"
    if value is None:
        return "nothing"
    return f"the text '{value}'" if isinstance(value, str) else str(value)
