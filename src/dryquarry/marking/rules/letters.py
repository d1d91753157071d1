"""Rules on letters: which stand in the text, in which order, how often, and in which case."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping
from typing import Any

from dryquarry.marking.rules.rule import Read, Rule, texts_of, wants_true
from dryquarry.marking.values.counting import base_letter, letters, plain, vowels, words
from dryquarry.marking.values.texts import fold, shortened


def each_word(says: str, holds: Callable[[str], bool]) -> Read:
    """Return how a rule is read that holds of each word."""

    def read(name: str, given: Mapping[str, Any]) -> Rule:
        wants_true(given[name])

        def amiss(text: str) -> str | None:
            own = [word for word in dict.fromkeys(words(text)) if letters(word)]  # what comes again is checked once
            wrong = next((word for word in own if not holds(word)), None if own else "")
            return None if wrong is None else f"not so in '{wrong}': {says}" if wrong else "there is no word"

        return Rule(says, amiss)

    return read


def _same_ends(word: str) -> bool:
    own = letters(word)
    return base_letter(own[0]) == base_letter(own[-1])


def _vowels_in_order(word: str) -> bool:
    own = vowels(word)
    return own == sorted(own)


def palindrome(name: str, given: Mapping[str, Any]) -> Rule:
    """Read `palindrome: true`."""
    wants_true(given[name])

    def amiss(text: str) -> str | None:
        own = [base_letter(char) for char in plain(text) if char.isalnum()]
        return None if own and own == own[::-1] else f"'{shortened(text, 40)}' does not read the same backwards"

    return Rule("reads the same backwards", amiss)


def anagram(name: str, given: Mapping[str, Any]) -> Rule:
    """Read `anagram_of: a text`."""
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


def without_letters(name: str, given: Mapping[str, Any]) -> Rule:
    """Read `no_letters: e`."""
    forbidden = {base_letter(char) for char in letters("".join(texts_of(given[name])))}
    if not forbidden:
        raise ValueError("wants letters")

    def amiss(text: str) -> str | None:
        for word in words(text):
            found = next((char for char in letters(word) if base_letter(char) in forbidden), None)
            if found:
                return f"'{word}' has the letter {found}"
        return None

    return Rule(f"without the letters {', '.join(sorted(forbidden))}", amiss)


def capitals(name: str, given: Mapping[str, Any]) -> Rule:
    """Read `capitals: all` or none."""
    wanted = given[name]
    if wanted not in ("all", "none"):
        raise ValueError("wants all or none")

    def amiss(text: str) -> str | None:
        wrong = next((char for char in letters(text) if (char.islower() if wanted == "all" else char.isupper())), None)
        return None if wrong is None else f"'{wrong}' is {'no' if wanted == 'all' else 'a'} capital letter"

    return Rule("all in capitals" if wanted == "all" else "without capitals", amiss)


def letters_once(name: str, given: Mapping[str, Any]) -> Rule:
    """Read `letters_once: all` (no letter comes twice) or `vowels` (each of a, e, i, o, u comes just once)."""
    wanted = given[name]
    if wanted not in ("all", "vowels"):
        raise ValueError("wants all or vowels")

    def amiss(text: str) -> str | None:
        own = Counter(
            vowels(plain(text)) if wanted == "vowels" else [base_letter(char) for char in letters(plain(text))]
        )
        twice = next((char for char, count in own.items() if count > 1), None)
        if twice:
            return f"the letter {twice} comes {own[twice]} times"
        missing = [char for char in "aeiou" if char not in own] if wanted == "vowels" else []
        return f"the letter {missing[0]} is missing" if missing else None

    return Rule("each vowel just once" if wanted == "vowels" else "no letter twice", amiss)


same_ends = each_word("each word begins and ends with the same letter", _same_ends)
vowels_in_order = each_word("the vowels of each word stand in order", _vowels_in_order)
