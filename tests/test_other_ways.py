"""Answers put otherwise than plainly: an option by its own word, yes and no without either word, a rank in a list."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dryquarry.marking.model import Marking
from dryquarry.marking.reading.extremes import (
    is_in_between,
    only_compares,
    tells_extreme,
    tells_other_extreme,
    way_of,
)
from dryquarry.marking.reading.list_forms import added_after, dropped_after, factors, spaced, worked_out
from dryquarry.marking.reading.new_words import only_new_word
from dryquarry.marking.reading.option_names import (
    THE_OTHERS,
    by_place,
    by_place_alone,
    named_alone,
    named_in_clauses,
    own_words,
    ranges,
    that_one,
    the_one_left,
)
from dryquarry.marking.reading.rankings import line_of_rank, only_one_right
from dryquarry.marking.reading.yes_no import yes_or_no
from dryquarry.marking.registry import prepare
from dryquarry.marking.values.days import day_of, weekday_of
from dryquarry.marking.values.formulas import context, substituted, value_at
from dryquarry.marking.values.numerals import in_digits
from dryquarry.marking.values.quantities import unit_for
from dryquarry.marking.values.written import formula_in

LANTERNS = (("A", "The lantern in the hall"), ("B", "The lantern on the stairs"), ("C", "The lantern at the gate"))
LETTERS = "ABCD"


def test_each_option_has_a_word_of_its_own_or_none_has() -> None:
    assert set(own_words(LANTERNS).values()) == {"A", "B", "C"}
    assert own_words((("A", "green"), ("B", "dark green"))) == {}
    assert own_words((("A", "the red lamp"), ("B", "the red lamp at night"))) == {}
    assert own_words((("A", "the old red lamp"), ("B", "the green lamp"))) == {}


@pytest.mark.parametrize(
    ("said", "letter"), [("hall", "A"), ("the gate.", "C"), ("on the stairs", "B"), ("the hall or the gate", None)]
)
def test_a_word_alone_names_its_option(said: str, letter: str | None) -> None:
    named = named_alone(LANTERNS, said)
    assert (named[0] if named else None) == letter
    assert named is None or said[named[1] : named[2]].isalpha()


@pytest.mark.parametrize(
    ("said", "letters"),
    [
        ("Red is left for the gate.", ["C"]),
        ("Hall: blue. Gate: red.", ["C"]),
        ("The hall is not red.", []),
        ("Red may be at the gate.", []),
        ("The hall has blue.", []),
        ("Red is for the hall or the gate.", []),
    ],
)
def test_a_word_counts_in_a_clause_that_says_what_is_asked(said: str, letters: list[str]) -> None:
    assert [one[0] for one in named_in_clauses(LANTERNS, said, "Which lantern is red?")] == letters
    assert list(named_in_clauses(LANTERNS, said, "Which lantern is red and broken?")) == []


@pytest.mark.parametrize(
    ("said", "letter"),
    [("not A, not B and not D", "C"), ("neither A, C nor D", "B"), ("not A", None), ("A and B", None)],
)
def test_what_is_left_where_all_others_are_denied(said: str, letter: str | None) -> None:
    assert the_one_left(LETTERS, said) == letter


def test_the_one_just_asked_about() -> None:
    text = "The mill gate? Shut. The north gate? Nothing is against it, so that's the one."
    said = that_one(text, text.index("Nothing"), len(text))
    assert said is not None
    assert said[0].strip() == "The north gate?"
    assert that_one("It is open. So that's the one.", 12, 30) is None


def test_options_by_their_place() -> None:
    assert [one[0] for one in by_place("option two, the third option and no. 4", 0, 38, 4)] == [1, 2, 3]
    assert list(by_place("option six", 0, 10, 4)) == []
    assert by_place_alone("the first", 0, 9, 3) == (0, 4, 9)
    assert by_place_alone("the fifth", 0, 9, 3) is None
    assert [letters for letters, _, _ in ranges(LETTERS, "B through D, D to A", 0, 19)] == [frozenset("BCD")]


@pytest.mark.parametrize(
    ("said", "counts"), [("The other two can.", True), ("The others can't.", False), ("Another two can.", False)]
)
def test_all_others(said: str, counts: bool) -> None:
    assert (THE_OTHERS.match(said) is not None) is counts


@pytest.mark.parametrize(
    ("asked", "said", "answer"),
    [
        ("Is every square a rectangle?", "Every square is a rectangle.", "yes"),
        ("Is every square a rectangle?", "not every rectangle is a square", None),
        ("Is every square a rectangle?", "Indeed.", "yes"),
        ("Is every square a rectangle?", "Its sides are equal, so yes.", "yes"),
        ("Is 51 a prime number?", "so it is not prime", "no"),
        ("Can a triangle have two right angles?", "No triangle can have two right angles.", "no"),
        ("Can a triangle have two right angles?", "A triangle has at most one right angle.", "no"),
        ("Can a triangle have two right angles?", "Never.", "no"),
        ("Does the equator run through Ecuador?", "The equator runs through Ecuador.", "yes"),
        ("Does the equator run through Ecuador?", "The equator runs through Ecuador's neighbour.", None),
        ("Does the equator run through Ecuador?", "The equator runs south of Ecuador.", None),
        ("Does the equator run through Ecuador?", "The equator runs through Kenya.", None),
        ("Is a whale not a fish?", "A whale is a fish.", None),
        ("Which whale is a fish?", "Indeed.", None),
    ],
)
def test_yes_and_no_in_other_words(asked: str, said: str, answer: str | None) -> None:
    found = yes_or_no(said, 0, len(said), asked)
    assert (found[0] if found else None) == answer
    assert found is None or 0 <= found[1] < found[2] <= len(said)


ISLANDS = "1. Skye\n2. Mull\n3. Islay"


@pytest.mark.parametrize(
    ("text", "asked", "name"),
    [
        (ISLANDS, "Which island is the second-largest?", "Mull"),
        (ISLANDS, "Which island is the third largest?", "Islay"),
        (ISLANDS, "Which island is the fourth largest?", None),
        (ISLANDS, "Which island is the largest?", "Skye"),
        (f"{ISLANDS}\n\nThese are the islands.", "Which island is the largest?", None),
        (ISLANDS, "Which island has a bridge?", None),
        ("1. Skye is the largest.\n2. Mull comes next.", "Which island is the second-largest?", None),
        ("2. Skye\n3. Mull", "Which island is the second-largest?", None),
    ],
)
def test_the_line_that_has_the_rank_asked_for(text: str, asked: str, name: str | None) -> None:
    span = line_of_rank(text, asked)
    assert (text[slice(*span)] if span else None) == name


@pytest.mark.parametrize(
    ("text", "name"),
    [
        ("Basalt: no, fine grains. Gneiss: no. Granite: yes. Marble: no.", "Granite"),
        ("Basalt: no. Granite: yes. Marble: yes.", None),
        ("Granite: yes.", None),
    ],
)
def test_the_only_thing_that_is_said_yes_to(text: str, name: str | None) -> None:
    span = only_one_right(text)
    assert (text[slice(*span)] if span else None) == name


def test_what_is_at_the_other_end() -> None:
    shortest = "Which planet has the shortest day?"
    assert tells_other_extreme("Venus has the longest day.", shortest)
    assert not tells_other_extreme("Jupiter has the shortest day, Venus the longest.", shortest)
    assert not tells_other_extreme("Jupiter turns in ten hours.", shortest)
    assert tells_other_extreme("Piet is the tallest.", "Who is the second tallest?")
    assert is_in_between("Mira is in between.", "Who is the second tallest?")
    assert not is_in_between("Mira is in between.", "Who is the tallest?")
    assert tells_extreme("and the youngest is Lou", "Who is the youngest?")
    assert not tells_extreme("Max is the oldest", "Who is the youngest?")
    assert [way_of(more, "Who is the youngest?") for more in ("younger", "older", "taller")] == [1, -1, 0]


@pytest.mark.parametrize(
    ("said", "compares"),
    [
        ("Madrid lies much farther inland.", True),
        ("Tallinn lies 80 km to the south of it.", True),
        ("The opposite process is respiration.", True),
        ("Lisbon lies there.", False),
    ],
)
def test_a_sentence_that_only_compares(said: str, compares: bool) -> None:
    assert only_compares(said, "Which capital lies at the mouth of the Tagus?") is compares


@pytest.mark.parametrize(
    ("said", "asked", "word"),
    [
        ("Yellow and blue make green.", "Mixing yellow with which colour gives green?", "blue"),
        ("A pestle goes with a mortar.", "A baker has an oven, a chemist a pestle and a … Which word fits?", "mortar"),
        ("Yellow and not blue make green.", "Mixing yellow with which colour gives green?", None),
        ("Yellow without blue makes no green.", "Mixing yellow with which colour gives green?", None),
        ("Yellow and some blue make bright green.", "Mixing yellow with which colour gives green?", None),
        ("It turns from blue to red.", "Which colour does it take in bases?", None),
    ],
)
def test_the_one_new_word_of_a_clause(said: str, asked: str, word: str | None) -> None:
    assert [said[slice(*span)] for span in only_new_word(said, 0, len(said), asked)] == ([word] if word else [])


def names(members: tuple[tuple[str, int, int], ...]) -> list[str]:
    return [name for name, _, _ in members]


def test_lists_in_forms_of_their_own() -> None:
    assert names(factors("42 = 2 × 21 = 2 × 3 × 7", 0, 23)) == ["2", "3", "7"]
    assert names(spaced("10 8 6", 0, 6)) == ["10", "8", "6"]
    assert spaced("10 8 lamps", 0, 10) == ()
    either = "either x − 8 = 0, which gives x = 8, or x + 5 = 0, which gives x = −5."
    assert names(worked_out(either, 0, len(either))) == ["8", "−5"]


def test_the_next_sentence_adds_to_a_list_and_takes_from_it() -> None:
    waders = "The curlew and the avocet are waders. So is the oystercatcher."
    assert names(added_after(waders, waders.index(" are"), len(waders))) == ["oystercatcher"]
    even = "12, 18, 30 and 50. Of these, 50 is not divisible by 3."
    assert dropped_after(even, even.index(". Of"), len(even)) == frozenset({"50"})
    assert dropped_after("12 and 18. They are even.", 9, 25) == frozenset()


@pytest.mark.parametrize(
    ("text", "day"),
    [
        ("1 May", (5, 1)),
        ("May 1st", (5, 1)),
        ("on the first of May", (5, 1)),
        ("the twenty-third of June", (6, 23)),
        ("May", None),
        ("the end of May", None),
    ],
)
def test_days_of_the_year(text: str, day: tuple[int, int] | None) -> None:
    assert day_of(text) == day


@pytest.mark.parametrize(("text", "day"), [("Wed.", 2), ("on Wednesday", 2), ("Sundays", 6), ("Monk", None)])
def test_days_of_the_week(text: str, day: int | None) -> None:
    assert weekday_of(text) == day


@pytest.mark.parametrize(
    ("text", "digits"), [("six", "6"), ("twenty-one", "21"), ("six lamps", "six lamps"), ("6", "6")]
)
def test_numbers_in_words_as_digits(text: str, digits: str) -> None:
    assert in_digits(text) == digits


def test_bare_minutes_belong_to_the_hours_before_them() -> None:
    minutes = unit_for("min").find
    read = [
        [one.value for one in minutes(text, 0, len(text))]
        for text in ("two hours twenty-five", "two hours twenty-five lamps")
    ]
    assert read[0] == [Fraction(145)]
    assert read[1][0] == 120


def test_the_hour_of_a_bus_is_no_length_of_time() -> None:
    text = "2 h 15 min, in time for the 21:50 bus"
    assert [one.value for one in unit_for("min").find(text, 0, len(text))][:1] == [Fraction(135)]
    assert all(one.value != 1310 for one in unit_for("min").find(text, 0, len(text)))


@given(st.integers(-50, 50), st.integers(-5, 5))
def test_a_constant_is_put_into_a_formula(constant: int, at: int) -> None:
    mp = context()
    formula = substituted(formula_in("2x^3 - 4x + C", ("x", "C")), "C", Fraction(constant))
    assert formula.names() == {"x"}
    assert value_at(formula, {"x": mp.mpf(at)}, mp) == 2 * at**3 - 4 * at + constant


@given(st.text(alphabet="AB:.,;yes no\n*-–→", max_size=300))
def test_nothing_is_found_outside_of_a_text(text: str) -> None:
    for span in (line_of_rank(text, "Which is the largest?"), only_one_right(text)):
        assert span is None or 0 <= span[0] <= span[1] <= len(text)
    found = yes_or_no(text, 0, len(text), "Is it a lamp?")
    assert found is None or 0 <= found[1] <= found[2] <= len(text)


@pytest.mark.parametrize(
    ("reply", "verdict"),
    [("D comes last.", "fail"), ("The last step shows that it is D.", "pass"), ("D comes first.", "pass")],
)
def test_an_option_at_the_other_end_is_not_chosen(reply: str, verdict: str) -> None:
    choices = (("B", "the mill"), ("D", "the church"))
    marking = Marking("choice", "D", {}, choices, None, asked="Which building was built first?")
    assert prepare(marking)(reply).verdict == verdict
