"""The bank of replies that the stand-in answers from, read from TOML files.

[[model]]
name = "dunlin-2026-03"        # what entrants call it
voice = "dunlin"               # whose replies it gives
first_token_s = 0.02
tokens_per_s = 900
habits = {leniency = 0.3}      # as a judge: generous; also `length`, `first`, `gullible`

[[question]]
when = "Three adults at 12.50" # words by which the question is recognised
[question.replies]
dunlin = '''…'''               # or {text = '''…''', finish = "length"}

[[question]]
pattern = '(?P<boats>[0-9]+) boats' # or a pattern, whose groups are numbers that the replies work with
[question.replies]
dunlin = 'Answer: {boats * 2}'

[[cue]]
criterion = "the causeway closes"   # words by which a judge's criterion is recognised
question = "May I walk across"      # and, if given, words of the question that it is about
found = ['18[:.]40']                # patterns; one of them in the reply earns the points
missing = ['I think']               # patterns that lose them
"""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from fractions import Fraction
from functools import cache
from importlib import resources
from typing import Any

from dryquarry.errors import Fault, FaultyFiles
from dryquarry.suites.located import UnreadableText
from dryquarry.suites.templates import fill
from dryquarry.suites.toml_text import read_toml

ANY_MODEL = "standin-"


@dataclass(frozen=True, slots=True)
class Habits:
    """What a simulated judge does beside judging: planted, so that checking judges has something to find.

    `leniency` moves points towards all (above 0) or none (below 0), `length` adds so much for every twenty words over
    forty, `first` is what a reply gains by being shown first; a `gullible` one gives what a reply asks for itself.
    """

    leniency: float = 0.0
    length: float = 0.0
    first: float = 0.0
    gullible: bool = False


@dataclass(frozen=True, slots=True)
class ModelVoice:
    """How a simulated model sounds (its voice in the bank), how fast it is, and its habits as a judge."""

    name: str
    voice: str
    first_token_s: float = 0.0
    tokens_per_s: float = 0.0
    habits: Habits = Habits()


@dataclass(frozen=True, slots=True)
class BankReply:
    """A reply as the service gives it; `finish` is the protocol's finish reason."""

    text: str
    finish: str = "stop"


@dataclass(frozen=True, slots=True)
class Cue:
    """How the simulated judge tells whether a reply meets a criterion."""

    criterion: str
    question: str
    found: tuple[re.Pattern[str], ...]
    missing: tuple[re.Pattern[str], ...]


@dataclass(frozen=True)
class Bank:
    """All that the stand-in knows: its models, its replies by question and voice, its judge's cues."""

    models: Mapping[str, ModelVoice]
    replies: Mapping[str, Mapping[str, BankReply]]
    patterns: tuple[tuple[re.Pattern[str], Mapping[str, BankReply]], ...]
    cues: tuple[Cue, ...]

    def model(self, name: str) -> ModelVoice | None:
        """Return the model of that name; any name that begins with `standin-` will do."""
        if name.startswith(ANY_MODEL):
            return ModelVoice(name, name)
        return self.models.get(name)

    def reply(self, voice: str, asked: str) -> BankReply:
        """Return the voice's reply to a question text; one made up on the spot where the bank has none."""
        words = one_line(asked)
        for when, replies in self.replies.items():
            if when in words and voice in replies:
                return replies[voice]
        for pattern, replies in self.patterns:
            found = pattern.search(words)
            if found and voice in replies:
                values = {name: Fraction(number) for name, number in found.groupdict().items()}
                return BankReply(fill(replies[voice].text, values), replies[voice].finish)
        return made_up_reply(voice, asked)


def one_line(text: str) -> str:
    """Return the text with every stretch of white space as one space."""
    return " ".join(text.split())


def made_up_reply(voice: str, asked: str) -> BankReply:
    """Return a reply to a question that the bank does not know: plausible in form, right only by luck."""
    seed = int.from_bytes(hashlib.sha256(f"{voice}\n{asked}".encode()).digest()[:8], "big")
    letters = re.findall(r"^([A-Z])\) ", asked, re.MULTILINE)
    numbers = re.findall(r"\d+(?:\.\d+)?", asked)
    if letters:
        guess = letters[seed % len(letters)]
    elif len(numbers) > 1:
        guess = f"{float(numbers[0]) + float(numbers[1]) * (1 + seed % 3):g}"
    else:
        guess = ("yes", "no", "it depends")[seed % 3]
    openings = (
        "Let me work through this.\n\nThe question gives what is needed, so I take it step by step.",
        "Going by what is stated, and nothing else:",
        "This looks simple at first, but each part matters.",
    )
    return BankReply(f"{openings[seed // 3 % 3]}\n\nThat brings me to the end.\n\nAnswer: {guess}")


def read_bank(files: Iterable[tuple[str, bytes]]) -> Bank:
    """Return the bank in the contents of TOML files; raises FaultyFiles naming file and entry."""
    models: dict[str, ModelVoice] = {}
    replies: dict[str, Mapping[str, BankReply]] = {}
    patterns: list[tuple[re.Pattern[str], Mapping[str, BankReply]]] = []
    cues: list[Cue] = []
    for file, content in files:
        try:
            data = read_toml(content, file)
            for entry in data.get("model", []):
                models[entry["name"]] = ModelVoice(**{**entry, "habits": Habits(**entry.get("habits", {}))})
            for entry in data.get("question", []):
                said = {voice: _reply(reply) for voice, reply in entry["replies"].items()}
                if "pattern" in entry:
                    patterns.append((re.compile(entry["pattern"]), said))
                else:
                    replies[one_line(entry["when"])] = said
            cues.extend(_cue(entry) for entry in data.get("cue", []))
        except UnreadableText as error:
            raise FaultyFiles("the stand-in's bank", [error.fault]) from None
        except (ValueError, KeyError, TypeError, AttributeError, re.error) as error:
            raise FaultyFiles("the stand-in's bank", [Fault("bad-bank", repr(error), file)]) from None
    return Bank(models, replies, tuple(patterns), tuple(cues))


@cache
def demo_bank() -> Bank:
    """Return the bank that ships with the tool."""
    folder = resources.files("dryquarry.standin") / "data" / "bank"
    files = sorted(folder.iterdir(), key=lambda file: file.name)
    return read_bank((file.name, file.read_bytes()) for file in files if file.name.endswith(".toml"))


def _reply(said: str | Mapping[str, Any]) -> BankReply:
    if isinstance(said, str):
        return BankReply(said.strip())
    return BankReply(str(said["text"]).strip(), str(said.get("finish", "stop")))


def _cue(entry: Mapping[str, Any]) -> Cue:
    patterns = {
        side: tuple(re.compile(pattern, re.IGNORECASE) for pattern in entry.get(side, []))
        for side in ("found", "missing")
    }
    return Cue(entry["criterion"], one_line(entry.get("question", "")), patterns["found"], patterns["missing"])
