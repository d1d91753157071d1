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

import json
import re
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from dryquarry.errors import closest
from dryquarry.marking.counting import COUNTED, base_letter, letters, lines, plain, sentences, vowels, words
from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, passed, scored
from dryquarry.marking.reading import Found, read_answer
from dryquarry.marking.text import fold, shortened, uniform

PARTS: Mapping[str, Callable[[str], list[str]]] = {
    "word": words,
    "words": words,
    "line": lines,
    "lines": lines,
    "sentence": sentences,
    "sentences": sentences,
}
COUNTS = ("words", "sentences", "lines", "list_items", "characters", "letters")
MOST_TOLD = 4

_EDGE_SIGNS = re.compile(r"^[^\w]+|[^\w]+$")


@dataclass(frozen=True, slots=True)
class Rule:
    """A rule in words, and what is amiss with a text under it (None: it holds)."""

    says: str
    amiss: Callable[[str], str | None]


def prepare(marking: Marking) -> Marker:
    """Return the marker for rules; raises MarkingFault when a rule is not known or wants something else."""
    given = marking.options.get("rules")
    if not given:
        raise MarkingFault("scheme 'rules' wants `rules`, a list of rules such as {words: 5}")
    rules = [read_rule(one, number) for number, one in enumerate(given, start=1)]
    on = marking.options.get("on")
    if on not in (None, "answer"):
        raise MarkingFault(f"option 'on' of scheme 'rules' can only be answer, not '{on}'")
    partial = bool(marking.options.get("partial", False))

    def mark(text: str) -> Mark:
        place: tuple[str | None, str | None, int | None] = (None, None, None)
        if on == "answer":
            found, _ = read_answer(text, marking.answer_line, lambda one: one.text or None)
            found = found or Found("", "answer", 0)
            text, place = found.text, (shortened(found.text, 200), found.read_by, found.start)
        told: list[str] = []
        for rule in rules:
            if len(told) == MOST_TOLD and not partial:
                break  # more is not told, and of a very long reply would take long to find
            said = rule.amiss(text)
            told += [] if said is None else [said]
        if not told:
            return passed("; ".join(rule.says for rule in rules[:MOST_TOLD]), *place)
        reason = "; ".join(told[:MOST_TOLD])
        return scored((len(rules) - len(told)) / len(rules) if partial else 0.0, reason, *place)

    return mark


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


def _count(name: str, given: Mapping[str, Any]) -> Rule:
    low, high = _bounds(given[name])
    nouns = name.replace("_", " ")
    wanted = (
        f"{low}"
        if low == high
        else f"at least {low}"
        if high is None
        else f"{low} to {high}"
        if low
        else f"at most {high}"
    )
    count = COUNTED[name]

    def counted(number: str) -> str:
        return f"{number} {nouns[:-1] if number == '1' else nouns}"

    def amiss(text: str) -> str | None:
        has = len(count(text))
        return None if low <= has and (high is None or has <= high) else f"{counted(str(has))}, not {wanted}"

    return Rule(counted(wanted), amiss)


def _bounds(given: Any) -> tuple[int, int | None]:
    if type(given) is int and given >= 0:
        return given, given
    if not isinstance(given, Mapping) or not given or set(given) - {"exactly", "at_least", "at_most", "between"}:
        raise ValueError("wants a count, or {exactly, at_least, at_most, between: [2, 4]}")
    between = given.get("between", [])
    ends = [given[name] for name in ("exactly", "at_least", "at_most") if name in given] + list(between)
    if not all(type(end) is int and end >= 0 for end in ends) or len(between) not in (0, 2):
        raise ValueError("wants whole numbers of 0 or more")
    if "exactly" in given:
        return given["exactly"], given["exactly"]
    if between:
        return min(between), max(between)
    return given.get("at_least", 0), given.get("at_most")


def _presence(name: str, given: Mapping[str, Any]) -> Rule:
    wanted = _texts(given[name])
    fewest, most = {"has": (1, None), "has_not": (0, 0), "each_once": (1, 1)}[name]

    def amiss(text: str) -> str | None:
        folded = fold(text, articles=True)
        for one in wanted:
            said = re.escape(fold(one, articles=True))
            # What is nothing but signs is counted as it stands.
            count = len(re.findall(rf"(?<!\w){said}(?!\w)", folded)) if said else uniform(text).count(one)
            if count < fewest:
                return f"'{one}' is missing"
            if most is not None and count > most:
                return f"'{one}' stands there" + (f" {count} times" if most else "")
        return None

    named = ", ".join(f"'{one}'" for one in wanted)
    return Rule({"has": f"has {named}", "has_not": f"has not {named}", "each_once": f"each once: {named}"}[name], amiss)


def _edge(name: str, given: Mapping[str, Any]) -> Rule:
    wanted = _texts(given[name])
    each = given.get("each", "text")
    if each != "text" and each not in PARTS:
        raise ValueError(f"wants `each: sentence`, line or word, not '{each}'")
    folded = [fold(one, articles=True, punctuation=True) for one in wanted]

    def holds(part: str) -> bool:
        # "sea" is how "The sea." ends, and so is "."
        said = fold(part, articles=True, punctuation=True)
        forms = (said, _EDGE_SIGNS.sub("", said))
        return any(form.startswith(one) if name == "begins" else form.endswith(one) for one in folded for form in forms)

    def amiss(text: str) -> str | None:
        parts = PARTS[each](text) if each != "text" else [plain(text)]
        wrong = next((part for part in dict.fromkeys(parts) if not holds(part)), None if parts else "")
        if wrong is None:
            return None
        edge = wrong[:30] if name == "begins" else wrong[-30:]
        return f"{'the ' if each == 'text' else 'a '}{each} {name} with '{shortened(edge)}', not '{wanted[0]}'"

    return Rule(f"{'each ' if each != 'text' else ''}{each} {name} with '{wanted[0]}'", amiss)


def _spelling(name: str, given: Mapping[str, Any]) -> Rule:
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


def _each_word(says: str, holds: Callable[[str], bool]) -> Callable[[str, Mapping[str, Any]], Rule]:
    def read(name: str, given: Mapping[str, Any]) -> Rule:
        _wants_true(given[name])

        def amiss(text: str) -> str | None:
            own = [word for word in dict.fromkeys(words(text)) if letters(word)]  # what comes again is checked once
            wrong = next((word for word in own if not holds(word)), None if own else "")
            return None if wrong is None else f"not so in '{wrong}': {says}" if wrong else "there is no word"

        return Rule(says, amiss)

    return read


def _same_ends(word: str) -> bool:
    own = letters(word)
    return base_letter(own[0]) == base_letter(own[-1])


def _in_order(word: str) -> bool:
    own = vowels(word)
    return own == sorted(own)


def _palindrome(name: str, given: Mapping[str, Any]) -> Rule:
    _wants_true(given[name])

    def amiss(text: str) -> str | None:
        own = [base_letter(char) for char in plain(text) if char.isalnum()]
        return None if own and own == own[::-1] else f"'{shortened(text, 40)}' does not read the same backwards"

    return Rule("reads the same backwards", amiss)


def _anagram(name: str, given: Mapping[str, Any]) -> Rule:
    of = given[name]
    if not isinstance(of, str) or not letters(of):
        raise ValueError("wants a text")
    wanted = Counter(base_letter(char) for char in letters(of))

    def amiss(text: str) -> str | None:
        own = Counter(base_letter(char) for char in letters(plain(text)))
        if own == wanted:
            return f"'{shortened(text, 40)}' is '{of}' itself" if fold(text) == fold(of) else None
        more, fewer = "".join((own - wanted).elements()), "".join((wanted - own).elements())
        told = [f"too many: {more[:20]}"] * bool(more) + [f"missing: {fewer[:20]}"] * bool(fewer)
        return f"no anagram of '{of}' ({'; '.join(told)})"

    return Rule(f"an anagram of '{of}'", amiss)


def _without_letters(name: str, given: Mapping[str, Any]) -> Rule:
    forbidden = {base_letter(char) for char in letters("".join(_texts(given[name])))}
    if not forbidden:
        raise ValueError("wants letters")

    def amiss(text: str) -> str | None:
        for word in words(text):
            found = next((char for char in letters(word) if base_letter(char) in forbidden), None)
            if found:
                return f"'{word}' has the letter {found}"
        return None

    return Rule(f"without the letters {', '.join(sorted(forbidden))}", amiss)


def _capitals(name: str, given: Mapping[str, Any]) -> Rule:
    wanted = given[name]
    if wanted not in ("all", "none"):
        raise ValueError("wants all or none")

    def amiss(text: str) -> str | None:
        wrong = next((char for char in letters(text) if (char.islower() if wanted == "all" else char.isupper())), None)
        return None if wrong is None else f"'{wrong}' is {'no' if wanted == 'all' else 'a'} capital letter"

    return Rule("all in capitals" if wanted == "all" else "without capitals", amiss)


def _json(name: str, given: Mapping[str, Any]) -> Rule:
    _wants_true(given[name])

    def amiss(text: str) -> str | None:
        inside = re.sub(r"^```[\w-]*\s*\n|\n```\s*$", "", text.strip())
        try:
            json.loads(inside)
        except (ValueError, RecursionError) as error:
            return f"not readable as JSON: {shortened(str(error))}"
        return None

    return Rule("readable as JSON", amiss)


def _one_of(name: str, given: Mapping[str, Any]) -> Rule:
    accepted = {fold(one) for one in _texts(given[name])}

    def amiss(text: str) -> str | None:
        return None if fold(text) in accepted else f"'{shortened(text, 40)}' is not one of the {len(accepted)} accepted"

    return Rule("one of those accepted", amiss)


def _texts(given: Any) -> list[str]:
    texts: Sequence[Any] = given if isinstance(given, list | tuple) else [given]
    if not texts or not all(
        isinstance(one, str | int) and not isinstance(one, bool) and str(one).strip() for one in texts
    ):
        raise ValueError("wants a text, or a list of texts")
    return [uniform(str(one)) for one in texts]


def _wants_true(given: Any) -> None:
    if given is not True:
        raise ValueError(f"can only be true, not {given!r}")


_RULES: Mapping[str, tuple[Callable[[str, Mapping[str, Any]], Rule], tuple[str, ...]]] = {
    **dict.fromkeys(COUNTS, (_count, ())),
    **dict.fromkeys(("has", "has_not", "each_once"), (_presence, ())),
    **dict.fromkeys(("begins", "ends"), (_edge, ("each",))),
    "spells": (_spelling, ("of", "letter")),
    "same_ends": (_each_word("each word begins and ends with the same letter", _same_ends), ()),
    "vowels_in_order": (_each_word("the vowels of each word stand in order", _in_order), ()),
    "palindrome": (_palindrome, ()),
    "anagram_of": (_anagram, ()),
    "no_letters": (_without_letters, ()),
    "capitals": (_capitals, ()),
    "json": (_json, ()),
    "one_of": (_one_of, ()),
}

SCHEME = Scheme(
    name="rules",
    options={"rules": (list,), "partial": (bool,), "on": (str,)},
    prepare=prepare,
    reads_whole=True,
)
