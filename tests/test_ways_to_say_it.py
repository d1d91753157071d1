"""Each way to say an answer, for each kind of question: the reply passes for what it says, and fails for what it denies."""

from __future__ import annotations

from pathlib import Path

import pytest

from dryquarry.marking.model import Marking
from dryquarry.marking.registry import prepare

LINES = (Path(__file__).parent / "data" / "ways_to_say_it.txt").read_text("utf-8").splitlines()
# A hash begins a heading of Markdown, too.
WAYS = [line.replace("\\n", "\n") for line in LINES if not line.startswith("# ")]
BIRDS = (("A", "the heron"), ("B", "the tern"), ("C", "the swift"), ("D", "the gull"))

# What is asked, a sentence with the answer, the answer and another one.
IN_WORDS = {
    "who": ("Who repaired the clock?", "{} repaired the clock", "Jonas", "Wim"),
    "which": ("Which planet has the shortest year?", "{} has the shortest year", "Mercury", "Venus"),
    "what": ("What is the capital of Velm?", "the capital of Velm is {}", "Harrow", "Ostby"),
    "where": ("Where is the chest?", "the chest is in {}", "the boathouse", "the attic"),
    "when": ("On which day does the market take place?", "the market takes place on {}", "Thursday", "Wednesday"),
    "object": ("What do bees make from nectar?", "bees make {} from nectar", "honey", "wax"),
    "passive": (
        "Who built the lighthouse on Gull Rock?",
        "the lighthouse on Gull Rock was built by {}",
        "Orla",
        "Sten",
    ),
}
# The same, with the keys of both and the options of the scheme.
OTHERS = {
    "number": (
        "What is the sum of the first four primes?",
        "the sum of the first four primes is {}",
        "17",
        "16",
        17,
        16,
    ),
    "unit": ("How long is the rope?", "the rope is {} long", "12 m", "15 m", 12, 15),
    "words": ("How many keepers live on the rock?", "{} keepers live on the rock", "five", "seven", 5, 7),
    "letter": ("Which bird flies farthest?", "{} is the bird that flies farthest", "B", "C", "B", "C"),
    "text": ("Which bird flies farthest?", "{} flies farthest", "the tern", "the swift", "B", "C"),
}
# What is not read yet: the way, and the kinds of question; most of these marks say that they are unsure.
NOT_READ: dict[str, str] = {
    "Many people say {y}; in fact {s}.": "words",
    "My first thought was {y}, my second and final one is {x}.": "who which what where when object passive number unit words letter text",
    "Because {s}, {y} is out.": "who which what where when object passive",
    "{Y} is the popular answer, {x} the right one.": "letter text",
    "Step 1: rule out {y}. Step 2: take {x}.": "where object",
    "Surely {x}?": "who which what where when object passive number unit words letter text",
    "Having excluded {y}, we're left with {x}.": "letter",
    "The answer {y} is wrong, the answer {x} is right.": "number unit words",
    "A: {x}": "text",
    "{X}. Is there anything else you'd like to know?": "letter",
    "No. {S}.": "words",
    "Wrong would be {y}; right is {x}.": "who which what where when object passive",
    "It's easy to mix up {y} and {x}; here it's {x}.": "letter",
    "People confuse {y} with {x}. In this case {s}.": "words",
    "Nothing speaks for {y}, everything for {x}.": "who which what where when object passive letter",
    "You want {x}.": "who which what where when object passive number unit words letter text",
    "He said {y}. She said {x}. She's right.": "who which what where when object passive",
    "If not {y}, then {x}. And it's not {y}.": "who which what where when object passive letter text",
    "More likely {x} than {y}.": "letter text",
    "{X} beats {y}.": "who which what when object passive number unit words",
    "{X} before {y}.": "letter text",
    "I change my answer from {y} to {x}.": "object",
    "Drum roll... {x}!": "who which what where when object passive",
    "A better answer than {y} is {x}.": "where object letter",
    "Others may tell you {y}; don't believe them: {s}.": "who text",
    "Contrary to my first guess, {y}, it's {x}.": "who which what where when object passive letter",
    "Answer: {s}.": "number",
    "It's {x}, and {y} is wrong.": "letter",
    "Conclusion: {s}.": "number",
}


def capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def said(way: str, sentence: str, x: str, y: str) -> str:
    whole = sentence.format(x)
    return way.format(x=x, y=y, s=whole, X=capital(x), Y=capital(y), S=capital(whole))


def judged(way: str, kind: str) -> list[tuple[Marking, str, str]]:
    """Return a way to say an answer twice: with what is said as the key, which passes, and with the other, which fails."""
    if kind in IN_WORDS:
        asked, sentence, x, y = IN_WORDS[kind]
        keys: tuple[object, object] = ([x], [y])
    else:
        asked, sentence, x, y, *both = OTHERS[kind]
        keys = (both[0], both[1])
    scheme = "exact" if kind in IN_WORDS else "choice" if kind in ("letter", "text") else "number"
    options = {"unit": "m"} if kind == "unit" else {}
    choices = BIRDS if scheme == "choice" else ()
    reply = said(way, sentence, x, y)
    markings = (Marking(scheme, key, options, choices, asked=asked) for key in keys)
    return [(marking, reply, verdict) for marking, verdict in zip(markings, ("pass", "fail"), strict=True)]


def wrongly_read(way: str, kind: str) -> list[str]:
    marks = [(marking.key, prepare(marking)(reply), wanted) for marking, reply, wanted in judged(way, kind)]
    return [f"{kind}, key {key}: {mark.reason}" for key, mark, wanted in marks if mark.verdict != wanted]


@pytest.mark.parametrize("way", WAYS)
def test_an_answer_is_read_however_it_is_said(way: str) -> None:
    wrong = {kind: found for kind in (*IN_WORDS, *OTHERS) if (found := wrongly_read(way, kind))}
    assert sorted(wrong) == sorted(NOT_READ.get(way, "").split()), wrong
