"""Rules on words: which stand in the text and how often, how it begins and ends, what is accepted."""

from __future__ import annotations

import itertools
import json
import re
from collections.abc import Callable, Mapping
from typing import Any

from dryquarry.marking.regexes import regex
from dryquarry.marking.rules.counts import said_bounds
from dryquarry.marking.rules.rule import PARTS, Rule, bounds_of, texts_of, wants_true
from dryquarry.marking.values.counting import base_letter, letters, plain, words
from dryquarry.marking.values.texts import fold, shortened, uniform

_EDGE_SIGNS = regex(r"^[^\w]+|[^\w]+$")
_MARKDOWN = regex(
    r"^[ \t]*(?:#{1,6}[ \t]|[-*+][ \t]+\S|\d{1,3}[.)][ \t]|>[ \t]?|```|\|.*\|)|\*\*\S|__\S|"
    r"(?<![\w*])\*\w[^*\n]*\*(?!\w)|(?<!\w)_\w[^_\n]*_(?!\w)|`[^`\n]+`|\[[^\]\n]+\]\([^)\n]+\)|~~\S",
    re.MULTILINE,
)


def presence(name: str, given: Mapping[str, Any]) -> Rule:
    """Read `has: sea`, `has: [sea, rain], times: {at_least: 2}`, `has_not: sea, inside: true`, `each_once: [a, b]`."""
    wanted = texts_of(given[name])
    low, high = (
        bounds_of(given["times"])
        if "times" in given
        else {"has": (1, None), "has_not": (0, 0), "each_once": (1, 1)}[name]
    )
    inside = given.get("inside", False)
    if inside not in (True, False):
        raise ValueError(f"wants `inside: true`, not {inside!r}")

    def amiss(text: str) -> str | None:
        folded = fold(plain(text), articles=True)
        for one in wanted:
            said = re.escape(fold(one, articles=True))
            # What is nothing but signs is counted as it stands.
            bounds = ("", "") if inside else (r"(?<!\w)", r"(?!\w)")
            count = len(re.findall(f"{bounds[0]}{said}{bounds[1]}", folded)) if said else uniform(text).count(one)
            if count < low:
                return (
                    f"'{one}' is missing"
                    if count == 0
                    else f"'{one}' stands there {_times(count)}, not {said_bounds(low, high)}"
                )
            if high is not None and count > high:
                return f"'{one}' stands there" + (f" {_times(count)}" if high else "")
        return None

    named = ", ".join(f"'{one}'" for one in wanted)
    says = {"has": f"has {named}", "has_not": f"has not {named}", "each_once": f"each once: {named}"}[name]
    return Rule(says + (f" {said_bounds(low, high)} times" if "times" in given else ""), amiss)


def _times(count: int) -> str:
    return "once" if count == 1 else f"{count} times"


def edge(name: str, given: Mapping[str, Any]) -> Rule:
    """Read `begins: Dear`, `ends: river, each: sentence`: by whole words, or with `part: true` by characters."""
    wanted = texts_of(given[name])
    each, part = given.get("each", "text"), given.get("part", False)
    if each != "text" and each not in PARTS:
        raise ValueError(f"wants `each: sentence`, line or word, not '{each}'")
    if part not in (True, False):
        raise ValueError(f"wants `part: true`, not {part!r}")
    single = all(len(one) == 1 for one in wanted)  # "S" is a letter, and not a word of its own
    by_characters = part or single or each in ("word", "words")
    holds = _by_characters(name, wanted) if by_characters else _by_words(name, wanted)

    def amiss(text: str) -> str | None:
        parts = PARTS[each](text) if each != "text" else [plain(text)]
        wrong = next((one for one in dict.fromkeys(parts) if not holds(one)), None if parts else "")
        if wrong is None:
            return None
        shown = wrong[:30] if name == "begins" else wrong[-30:]
        return f"{'the ' if each == 'text' else 'a '}{each} {name} with '{shortened(shown)}', not '{wanted[0]}'"

    return Rule(f"{'each ' if each != 'text' else ''}{each} {name} with '{wanted[0]}'", amiss)


def _by_characters(name: str, wanted: list[str]) -> Callable[[str], bool]:
    folded = [fold(one, articles=True, punctuation=True) for one in wanted]

    def holds(part: str) -> bool:
        # "sea" is how "The sea." ends, and so is "."
        said = fold(part, articles=True, punctuation=True)
        forms = (said, _EDGE_SIGNS.sub("", said))
        return any(form.startswith(one) if name == "begins" else form.endswith(one) for one in folded for form in forms)

    return holds


def _by_words(name: str, wanted: list[str]) -> Callable[[str], bool]:
    by_characters = {one: _by_characters(name, [one]) for one in wanted}
    by_words = {one: [fold(word, articles=True) for word in words(one)] for one in wanted}

    def holds(part: str) -> bool:
        said = [fold(word, articles=True) for word in words(part)]
        for one, own in by_words.items():
            # what is nothing but signs, or ends in one, goes by its characters too
            signs = not own or not one[0 if name == "begins" else -1].isalnum()
            edge_words = said[: len(own)] if name == "begins" else said[len(said) - len(own) :]
            if (not own or edge_words == own) and (not signs or by_characters[one](part)):
                return True
        return False

    return holds


def spelling(name: str, given: Mapping[str, Any]) -> Rule:
    """Read `spells: BREAD`, with `of: words` and `letter: 2` or -1."""
    word, of, place = given[name], given.get("of", "lines"), given.get("letter", 1)
    if not isinstance(word, str) or not letters(word):
        raise ValueError("wants a word")
    if of not in PARTS or type(place) is not int or place == 0:
        raise ValueError("wants `of: lines`, words or sentences, and `letter` a whole number (-1 is the last)")
    wanted = [base_letter(char) for char in letters(word)]

    def amiss(text: str) -> str | None:
        found = []
        for part in PARTS[of](text):
            own = letters(part)
            index = place - 1 if place > 0 else place
            found.append(base_letter(own[index]) if -len(own) <= index < len(own) else "·")
        return None if found == wanted else f"the letters spell '{''.join(found)}', not '{''.join(wanted)}'"

    return Rule(f"the letters spell '{word}'", amiss)


def in_order(name: str, given: Mapping[str, Any]) -> Rule:
    """Read `alphabetical: true`, with `of: lines`: the words, or the lines by their first words, in order."""
    wants_true(given[name])
    of = given.get("of", "words")
    if of not in PARTS:
        raise ValueError("wants `of: words`, lines or sentences")

    def amiss(text: str) -> str | None:
        said = [fold(part, articles=True) for part in PARTS[of](text) if letters(part)]
        wrong = next((pair for pair in itertools.pairwise(said) if pair[0] > pair[1]), None)
        return (
            f"'{shortened(wrong[1], 20)}' stands after '{shortened(wrong[0], 20)}'"
            if wrong
            else None
            if said
            else "there is no word"
        )

    return Rule(f"the {of} stand in alphabetical order", amiss)


def one_of(name: str, given: Mapping[str, Any]) -> Rule:
    """Read `one_of: [a, b]`: the whole text is one of them."""
    accepted = {fold(one) for one in texts_of(given[name])}

    def amiss(text: str) -> str | None:
        return (
            None
            if fold(plain(text)) in accepted
            else f"'{shortened(text, 40)}' is not one of the {len(accepted)} accepted"
        )

    return Rule("one of those accepted", amiss)


def no_markdown(name: str, given: Mapping[str, Any]) -> Rule:
    """Read `markdown: none`: the text has no signs of Markdown."""
    if given[name] != "none":
        raise ValueError("can only be none")

    def amiss(text: str) -> str | None:
        found = _MARKDOWN.search(text)
        return f"there is Markdown: '{shortened(found.group(), 20)}'" if found else None

    return Rule("without Markdown", amiss)


def is_json(name: str, given: Mapping[str, Any]) -> Rule:
    """Read `json: true`: the whole text is JSON, perhaps in a fence."""
    wants_true(given[name])

    def amiss(text: str) -> str | None:
        inside = re.sub(r"^```[\w-]*\s*\n|\n```\s*$", "", text.strip())
        try:
            json.loads(inside)
        except (ValueError, RecursionError) as error:
            return f"not readable as JSON: {shortened(str(error))}"
        return None

    return Rule("readable as JSON", amiss)
