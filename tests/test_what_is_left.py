"""Ranks told in a sentence, options left where others are ruled out, and lists that cannot be the one asked for."""

from __future__ import annotations

import pytest

from dryquarry.marking.model import Mark, Marking
from dryquarry.marking.reading.ranks_told import of_those_named
from dryquarry.marking.registry import prepare

LARGEST = "Which island of the bay is the largest?"
SECOND = "Which is the second-highest hill of the island?"
CONIFER = "Which of these is a conifer?"
PRIMES = "Which of these numbers are prime?"
TREES = (("A", "oak"), ("B", "beech"), ("C", "spruce"), ("D", "birch"))
NUMBERS = (("A", "17"), ("B", "21"), ("C", "27"), ("D", "23"))
WADERS = "Which of the birds curlew, gannet, oystercatcher, swift and avocet are waders?"


def marked(scheme: str, key: object, asked: str, reply: str, choices: tuple[tuple[str, str], ...] = ()) -> Mark:
    return prepare(Marking(scheme, key, {}, choices, None, asked=asked))(reply)


@pytest.mark.parametrize(
    ("asked", "reply", "named"),
    [
        (LARGEST, "Rona comes first (16 km²), then Tarn (9 km²).", "Rona"),
        (LARGEST, "Of Tarn, Rona and Velm, the second is the largest.", "Rona"),
        (LARGEST, "Tarn has 9 km², Rona 16.", "Rona"),
        (SECOND, "Tarn Hill is the highest, Rona Hill comes next.", "Rona Hill"),
        (SECOND, "The highest is Tarn Hill, the runner-up Rona Hill.", "Rona Hill"),
        (SECOND, "Second to Tarn Hill: Rona Hill", "Rona Hill"),
    ],
)
def test_which_of_several_has_the_rank_asked_for(asked: str, reply: str, named: str) -> None:
    assert marked("exact", named, asked, reply).score == 1.0
    assert marked("exact", "Tarn" if asked == LARGEST else "Tarn Hill", asked, reply).score == 0.0


def test_one_is_picked_by_its_place_where_it_is_said_to_be_as_asked() -> None:
    smaller, largest = "Of Tarn and Rona, the first is smaller.", "Of Tarn and Rona, the last is the largest."
    assert of_those_named(smaller, 0, len(smaller), LARGEST) is None
    assert of_those_named(largest, 0, len(largest), LARGEST) == (12, 16)


def test_a_part_is_not_how_many_there_are() -> None:
    asked = "There are 45 marbles. How many are clay?"
    assert marked("number", 3, asked, "15 of the 45 are clay, which is a third.").score == 0.0
    assert marked("number", 15, asked, "15 of the 45 are clay, which is a third.").score == 1.0


@pytest.mark.parametrize(
    ("asked", "choices", "key", "reply"),
    [
        (CONIFER, TREES, "C", "It's neither the oak nor the beech nor the birch."),
        (CONIFER, TREES, "C", "Oak, beech and birch shed their leaves; spruce has needles."),
        (PRIMES, NUMBERS, ["A", "D"], "Not 21, not 27, but the other two."),
        (PRIMES, NUMBERS, ["A", "D"], "21 and 27 can be divided by 3, so they are out."),
        (PRIMES, NUMBERS, ["A", "D"], "17 and 23 are; 21 = 3 · 7 and 27 = 3³ aren't."),
    ],
)
def test_options_are_left_where_others_are_ruled_out(
    asked: str, choices: tuple[tuple[str, str], ...], key: object, reply: str
) -> None:
    assert marked("choice", key, asked, reply, choices).score == 1.0
    others = [letter for letter, _ in choices if letter not in key]  # type: ignore[operator]
    assert marked("choice", others, asked, reply, choices).score == 0.0


def test_a_choice_that_is_left_open_by_what_is_ruled_out_is_unsure() -> None:
    half = marked("choice", "C", CONIFER, "The oak is wrong. The beech is wrong, too.", TREES)
    assert (half.score, half.sure) == (0.0, False)
    one = marked("choice", "C", CONIFER, "The oak isn't.", TREES)
    assert (one.score, one.sure) == (0.0, True)


def test_a_sentence_of_other_things_is_not_the_list_asked_for() -> None:
    told = (
        "Curlew and oystercatcher wade, and so does the avocet. The gannet is a seabird, and the swift flies all day."
    )
    mark = marked("set", ["curlew", "oystercatcher", "avocet"], WADERS, told)
    assert mark.score == 1.0, mark.reason
    numbers = "We look for two numbers whose product is −40 and whose sum is 3. These are 8 and −5."
    assert marked("set", ["8", "-5"], "Solve x² − 3x − 40 = 0.", numbers).score == 1.0
