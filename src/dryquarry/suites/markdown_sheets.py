"""Sheets in Markdown: each question in a fence, each reply between two lines that carry the sheet's own token.

The token is random and stands in no text of the sheet, so that no reply can end its own place, and a line of
another sheet inside a reply is a part of that reply. Whatever stands outside of the places is known word for word:
a reply that was pasted anywhere else is told of with its line, and never dropped.
"""

from __future__ import annotations

import json
import re
import secrets
from collections.abc import Sequence
from dataclasses import dataclass, field

from dryquarry.errors import Fault
from dryquarry.suites.digests import parse_json, text_digest
from dryquarry.suites.sheet_entry import SheetEntry

_HEAD = re.compile(r"<!-- sheet: (?P<facts>\{.*\}) -->")
_HEADING = re.compile(r"## \d+ of \d+ · \S+(?: · trial \d+)?")
_FENCE = re.compile(r"(?P<marks>`{3,})text-(?P<digest>[0-9a-f]{8})")
_FACTS = ("suite", "edition", "entrant", "token")
_INTRODUCTION = (
    "Put each question in a conversation of its own. Paste the reply, as it came, between the two lines",
    "`reply` and `end` below the question; leave the place empty where there is none, and change nothing else.",
    "Then: `dryquarry collect` with the name of this file.",
)
_SYSTEM = "System text, where there is a place for one:"
_OUTSIDE = "this stands outside of every place for a reply; move it between the lines `reply` and `end`, or delete it"


def write_markdown(entries: Sequence[SheetEntry], system: str | None) -> str:
    """Return the sheet of entries that are all of one suite's edition and one entrant."""
    first = entries[0]
    token = _unused([text for one in entries for text in (one.text, one.reply)] + [system or ""])
    facts = {"suite": first.suite, "edition": first.edition, "entrant": first.entrant, "token": token}
    parts = [
        f"<!-- sheet: {json.dumps(facts, ensure_ascii=False)} -->",
        _title(facts),
        "\n".join(_INTRODUCTION),
    ]
    if system:
        parts += [_SYSTEM, _fenced(system)]
    for number, entry in enumerate(entries, start=1):
        trial = f" · trial {entry.trial}" if entry.trial > 1 else ""
        parts += [
            f"## {number} of {len(entries)} · {entry.question}{trial}",
            _fenced(entry.text),
            f"<!-- reply {token}: {entry.question}, trial {entry.trial}, {entry.ask_digest} -->\n"
            f"{entry.reply}\n{_end(token, entry.question, entry.trial)}",
        ]
    return "\n\n".join(parts) + "\n"


def read_markdown(text: str, file: str, faults: list[Fault]) -> list[SheetEntry]:
    """Return the entries of a sheet with the replies filled in; what is not understood is noted in `faults`."""
    if "\r\n" in text and "\n" not in text.replace("\r\n", ""):
        text = text.replace("\r\n", "\n")  # saved by an editor that ends all lines so
    lines = text.removeprefix("\ufeff").split("\n")
    facts = _facts(lines, file, faults)
    if facts is None:
        return []
    reading = _Reading(facts, file, faults)
    for number, line in enumerate(lines, start=1):
        reading.take(number, line)
    reading.end()
    return reading.entries


def _unused(texts: Sequence[str]) -> str:
    while any((token := secrets.token_hex(4)) in text for text in texts):
        pass
    return token


def _title(facts: dict[str, str]) -> str:
    return f"# {facts['suite']}@{facts['edition']}, asked of {facts['entrant']} by hand"


def _end(token: str, question: str, trial: int) -> str:
    return f"<!-- end {token}: {question}, trial {trial} -->"


def _fenced(text: str) -> str:
    marks = "```"
    while marks in text:
        marks += "`"
    return f"{marks}text-{_digest(text.split(chr(10)))}\n{text}\n{marks}"


def _digest(lines: Sequence[str]) -> str:
    """Return a short digest of a text, whatever an editor does to spaces at the ends of lines."""
    return text_digest("\n".join(line.rstrip() for line in lines))[:8]


def _facts(lines: Sequence[str], file: str, faults: list[Fault]) -> dict[str, str] | None:
    """Return the suite, edition, entrant and token that the sheet's first line names."""
    match = next((match for line in lines[:20] if (match := _HEAD.fullmatch(line.strip()))), None)
    try:
        facts = parse_json(match["facts"]) if match else {}
    except ValueError:
        facts = {}
    if not isinstance(facts, dict) or not all(isinstance(facts.get(name), str) for name in _FACTS):
        said = "its first line, which names the suite, edition, entrant and token, is missing or changed"
        faults.append(Fault("unreadable", f"{said}; write the sheet anew", file, 1))
        return None
    return facts


@dataclass
class _Place:
    """A reply's place, or the fence around a text, that was opened on line `start`."""

    opening: re.Match[str]
    start: int
    lines: list[str] = field(default_factory=list)

    @property
    def reply_end(self) -> tuple[str, int]:
        return self.opening["question"], int(self.opening["trial"])


class _Reading:
    """The entries so far, and the place or the fence that is open."""

    def __init__(self, facts: dict[str, str], file: str, faults: list[Fault]):
        self.facts = facts
        self.file = file
        self.faults = faults
        self.entries: list[SheetEntry] = []
        self.token = facts["token"]
        token = re.escape(self.token)
        self.begin = re.compile(
            rf"<!-- reply {token}: (?P<question>\S+), trial (?P<trial>[1-9]\d{{0,5}}), (?P<digest>[0-9a-f]{{64}}) -->"
        )
        self.own = re.compile(rf"<!-- (?:reply|end) {token}:.*-->")
        self.known = {_title(facts), *_INTRODUCTION, _SYSTEM, ""}
        self.place: _Place | None = None
        self.fence: _Place | None = None
        self.unknown_at = 0

    def take(self, number: int, line: str) -> None:
        """Take one more line."""
        if self.place is not None:
            self._within_place(self.place, number, line)
        elif self.fence is not None:
            self._within_fence(self.fence, number, line)
        else:
            self._outside(number, line.strip())

    def end(self) -> None:
        """Note what is still open at the end of the sheet."""
        if self.place is not None:
            question, trial = self.place.reply_end
            said = f"the line '{_end(self.token, question, trial)}' is missing; put it back below the reply"
            self._fault(said, self.place.start, question)
        elif self.fence is not None:
            self._fault(f"the closing line '{self.fence.opening['marks']}' is missing", self.fence.start)

    def _within_place(self, place: _Place, number: int, line: str) -> None:
        question, trial = place.reply_end
        if line.rstrip() == _end(self.token, question, trial):
            facts = self.facts["suite"], self.facts["edition"], self.facts["entrant"]
            reply = "\n".join(place.lines)
            self.entries.append(SheetEntry(*facts, question, trial, place.opening["digest"], reply=reply))
            self.place = None
            return
        if self.own.search(line):
            said = f"a line of this sheet stands inside the reply, before its end '{_end(self.token, question, trial)}'"
            self._fault(said, number, question)
        place.lines.append(line)

    def _within_fence(self, fence: _Place, number: int, line: str) -> None:
        if line.rstrip() != fence.opening["marks"]:
            fence.lines.append(line)
            return
        if _digest(fence.lines) != fence.opening["digest"]:
            said = "the text of a question was changed; a reply goes between the lines `reply` and `end` below it"
            self._fault(f"{said}, and the text as it was is in a sheet written anew", fence.start)
        self.fence = None

    def _outside(self, number: int, line: str) -> None:
        if begin := self.begin.fullmatch(line):
            self.place = _Place(begin, number)
        elif fence := _FENCE.fullmatch(line):
            self.fence = _Place(fence, number)
        elif line not in self.known and not _HEADING.fullmatch(line) and not _HEAD.fullmatch(line):
            if self.unknown_at != number - 1:  # told once where many lines were pasted
                self._fault(f"{_OUTSIDE}: '{line[:60]}'", number)
            self.unknown_at = number

    def _fault(self, said: str, line: int, question: str | None = None) -> None:
        self.faults.append(Fault("unreadable", said, self.file, line, question))
