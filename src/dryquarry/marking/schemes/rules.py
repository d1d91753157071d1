"""Scheme `rules`: every rule on the text of the reply holds.

Each rule is a mapping with one of the names below, and what it wants:

    words, sentences, lines, list_items, characters, letters: 5, or {exactly, at_least, at_most, between: [2, 4]}
    has, has_not, each_once: a text or a list of texts, as whole words
    begins, ends: a text; with `each: sentence` (or line, word) each of those, else the whole text
    spells: a word; with `letter: 2` by the second letter, `of: lines` (or words, sentences) of each of those
    same_ends: true, each word begins and ends with the same letter
    vowels_in_order: true, the vowels of each word stand in the order of the alphabet
    palindrome: true; anagram_of: a text; no_letters: "e"; capitals: all or none; json: true; one_of: a list
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from dryquarry.errors import closest
from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, failed, passed, scored
from dryquarry.marking.options import option_types, options_of
from dryquarry.marking.reading.claims import Question
from dryquarry.marking.reading.phrases import Phrases
from dryquarry.marking.reply.structure import take_apart
from dryquarry.marking.rules import counts, letters, wording
from dryquarry.marking.rules.rule import Read, Rule
from dryquarry.marking.schemes.reading_marker import settled_answer
from dryquarry.marking.values.texts import shortened

MOST_TOLD = 4


@dataclass(frozen=True, slots=True)
class RulesOptions:
    """`rules` that the text must keep, `on: answer` where only the answer must; `partial` gives a share for some."""

    rules: list[Any] | None = None
    partial: bool = False
    on: str | None = None


def prepare(marking: Marking) -> Marker:
    """Return the marker for rules; raises MarkingFault when a rule is not known or wants something else."""
    options = options_of(RulesOptions, marking)
    if not options.rules:
        raise MarkingFault("scheme 'rules' wants `rules`, a list of rules such as {words: 5}")
    rules = [read_rule(one, number) for number, one in enumerate(options.rules, start=1)]
    on, partial = options.on, options.partial
    if on not in (None, "answer"):
        raise MarkingFault(f"option 'on' of scheme 'rules' can only be answer, not '{on}'")

    def mark(text: str) -> Mark:
        read: dict[str, Any] = {}
        if on == "answer":
            text, read = _answer_in(text, marking)
        if not text.strip():
            return replace(failed("the reply is empty"), **read)
        told: list[str] = []
        for rule in rules:
            if len(told) == MOST_TOLD and not partial:
                break  # more is not told, and of a very long reply would take long to find
            said = rule.amiss(text)
            told += [] if said is None else [said]
        if not told:
            return replace(passed("; ".join(rule.says for rule in rules[:MOST_TOLD])), **read)
        reason = "; ".join(told[:MOST_TOLD])
        return replace(scored((len(rules) - len(told)) / len(rules) if partial else 0.0, reason), **read)

    return mark


def _answer_in(text: str, marking: Marking) -> tuple[str, dict[str, Any]]:
    """Return the answer of a reply and where it stands; the whole reply where none is read."""
    settled = settled_answer(text, marking, Phrases(Question(marking.asked, marking.answer_line)))
    if settled.final is None or settled.place is None:
        return "", {}
    reply = take_apart(text)
    said = (
        reply.text[settled.place.start : settled.place.end].strip()
        if settled.place.telling
        else settled.final.value.texts[0]
    )
    place = {
        "start": reply.origin(settled.final.start),
        "end": reply.origin(max(settled.final.start, settled.final.end - 1)) + 1,
    }
    return said, {"answer": shortened(said, 200), "read_by": str(settled.place.kind), **place}


def read_rule(given: Any, number: int) -> Rule:
    """Return the rule in a mapping; raises MarkingFault that names the rule by its number."""
    if not isinstance(given, Mapping) or not given:
        raise MarkingFault(f"rule {number} wants a mapping such as {{words: 5}}, not {given!r}")
    names = [str(name) for name in given]
    main = next((name for name in names if name in _RULES), None)
    if main is None:
        raise MarkingFault(f"rule {number}: there is no rule '{names[0]}'{closest(names[0], _RULES)}")
    read, more = _RULES[main]
    unknown = [name for name in names if name != main and name not in more]
    if unknown:
        raise MarkingFault(f"rule {number}: `{main}` has no '{unknown[0]}'{closest(unknown[0], more) if more else ''}")
    try:
        return read(main, given)
    except ValueError as fault:
        raise MarkingFault(f"rule {number}: `{main}` {fault}") from None


_RULES: Mapping[str, tuple[Read, tuple[str, ...]]] = {
    **dict.fromkeys(counts.COUNTS, (counts.count, ("each",))),
    "has": (wording.presence, ("times", "inside")),
    "has_not": (wording.presence, ("inside",)),
    "each_once": (wording.presence, ()),
    **dict.fromkeys(("begins", "ends"), (wording.edge, ("each", "part"))),
    "spells": (wording.spelling, ("of", "letter")),
    "alphabetical": (wording.in_order, ("of",)),
    "one_of": (wording.one_of, ()),
    "markdown": (wording.no_markdown, ()),
    "json": (wording.is_json, ()),
    "same_ends": (letters.same_ends, ()),
    "vowels_in_order": (letters.vowels_in_order, ()),
    "letters_once": (letters.letters_once, ()),
    "palindrome": (letters.palindrome, ()),
    "anagram_of": (letters.anagram, ()),
    "no_letters": (letters.without_letters, ()),
    "capitals": (letters.capitals, ()),
}

SCHEME = Scheme(
    name="rules",
    options=option_types(RulesOptions),
    prepare=prepare,
    reads_whole=True,
    has_answer=lambda marking: marking.options.get("on") == "answer",
)
