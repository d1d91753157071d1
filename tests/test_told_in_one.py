"""Replies that tell of several things in one breath: what belongs to the one asked about, and what to the others."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dryquarry.marking.model import Mark, Marking
from dryquarry.marking.reading.echo import without_supposed
from dryquarry.marking.reading.rankings import pair_as_asked
from dryquarry.marking.reading.told_in_one import gapped, of_kinds, of_two
from dryquarry.marking.registry import prepare

NAMES = ("Runa", "Ketil", "Solveig", "Bram", "Oda")
TOWNS = ("Harrow", "Ostby", "Lind", "Tarn", "Velm")
OFFERED = (("A", "only Runa"), ("B", "only Ketil"), ("C", "both"), ("D", "neither"))
YES_NO = (("A", "Yes, it is"), ("B", "No, it isn't"), ("C", "Only in winter"))


def marked(
    scheme: str, key: object, asked: str, reply: str, choices: tuple[tuple[str, str], ...] = (), line: str | None = None
) -> Mark:
    return prepare(Marking(scheme, key, {}, choices, line, asked=asked))(reply)


@given(people=st.permutations(NAMES), towns=st.permutations(TOWNS), number=st.integers(0, 4))
def test_of_several_places_the_one_of_whom_is_asked_is_read(people: list[str], towns: list[str], number: int) -> None:
    pairs = list(zip(people, towns, strict=True))
    told = f"{people[0]} lives in {towns[0]}, " + ", ".join(f"{who} in {where}" for who, where in pairs[1:]) + "."
    asked = f"In which town does {people[number]} live?"
    found = gapped(told, 0, len(told), asked)
    assert found is not None
    assert told[slice(*found)] == towns[number]
    assert marked("exact", towns[number], asked, told).score == 1.0
    assert marked("exact", towns[number - 1], asked, told).score == 0.0


def test_who_is_asked_for_is_whose_place_the_question_names() -> None:
    told = "Runa lives in Lind, Ketil in Tarn, Oda in Velm."
    found = gapped(told, 0, len(told), "Who lives in Tarn?")
    assert found is not None
    assert told[slice(*found)] == "Ketil"
    assert gapped("Runa lives in Lind.", 0, 19, "Who lives in Lind?") is None
    assert gapped(told, 0, len(told), "Who of Runa and Ketil is older?") is None


@pytest.mark.parametrize(
    ("told", "asked", "wanted"),
    [
        ("Bram mends the nets and the old smith the lamp.", "What does Bram mend?", "the nets"),
        ("Bram mends the nets and the old smith the lamp.", "What does the smith mend?", "the lamp"),
        ("Smell tells you the tea, hearing the tune.", "Which sense tells the tune?", "hearing"),
        ("Bram mends the nets.", "What does Bram mend?", None),
    ],
)
def test_of_two_each_has_its_own(told: str, asked: str, wanted: str | None) -> None:
    found = of_two(told, 0, len(told), asked)
    assert (told[slice(*found)] if found else None) == wanted


def test_of_kinds_the_one_that_the_question_names_is_read() -> None:
    told = "A young goat is called a kid, a young hare a leveret, and a young swan a cygnet."
    for kind, name in (("goat", "kid"), ("hare", "leveret"), ("swan", "cygnet")):
        found = of_kinds(told, 0, len(told), f"What is a young {kind} called?")
        assert found is not None
        assert told[slice(*found)] == f"a {name}"
    assert of_kinds(told, 0, len(told), "What is a young horse called?") is None


@given(people=st.permutations(NAMES), number=st.integers(0, 4), sign=st.sampled_from(("→", ":", "–")))
def test_of_a_reply_of_pairs_what_stands_beside_the_one_asked_about_is_read(
    people: list[str], number: int, sign: str
) -> None:
    things = ("red", "white", "green", "black", "yellow")
    reply = "\n".join(f"{who} {sign} {thing}" for who, thing in zip(people, things, strict=True))
    found = pair_as_asked(reply, f"Whose boat is {things[number]}?")
    assert found is not None
    assert reply[slice(*found)] == people[number]
    found = pair_as_asked(reply, f"What colour is the boat of {people[number]}?")
    assert found is not None
    assert reply[slice(*found)] == things[number]


def test_pairs_that_deny_or_say_more_name_nobody() -> None:
    assert pair_as_asked("Runa: not red\nBram: white", "Whose boat is red?") is None
    assert pair_as_asked("Runa: red", "Whose boat is red?") is None
    assert pair_as_asked("Runa: red\nI think that is so.", "Whose boat is red?") is None


def test_what_a_question_supposes_is_not_what_it_asks() -> None:
    assert without_supposed("How old is Runa if Bram is 12?") == "How old is Runa"
    assert without_supposed("If Bram is 12, how old is Runa?") == "how old is Runa?"
    assert without_supposed("How old is Runa?") == "How old is Runa?"


@pytest.mark.parametrize(
    ("reply", "passes"),
    [
        ("Bram is 9 and Runa 15, which makes 24.", True),
        ("Runa is 9 and Bram 15, which makes 24.", False),
        ("Let Bram be x; then Runa is x + 6. 2x + 6 = 24, so x = 9. Runa is 15.", True),
        ("Let Bram be x; then Runa is x + 6. 2x + 6 = 24, so x = 15. Runa is 9.", False),
    ],
)
def test_the_number_of_the_one_asked_about_is_read(reply: str, passes: bool) -> None:
    asked = "How old is Runa if she is 6 years older than Bram, and both are 24 together?"
    assert marked("number", 15, asked, reply).score == float(passes)


@pytest.mark.parametrize(
    ("reply", "chosen"),
    [
        ("Ketil is too late, so he loses. Runa finishes in time and Ketil doesn't.", "A"),
        ("Ketil finishes in time, but Runa does not.", "B"),
        ("Both of them do.", "C"),
        ("Runa finishes and Ketil finishes.", None),
    ],
)
def test_only_one_of_two_is_chosen_where_one_does_and_the_other_does_not(reply: str, chosen: str | None) -> None:
    for letter, _ in OFFERED:
        mark = marked("choice", letter, "Who finishes the race in time?", reply, OFFERED)
        assert mark.score == float(letter == chosen)


@pytest.mark.parametrize(
    ("reply", "chosen"),
    [
        ("No.", "B"),
        ("The answer is no.", "B"),
        ("The gate is shut then, so it isn't.", "B"),
        ("Yes, because nobody shuts it.", "A"),
        ("No, not necessarily.", None),
    ],
)
def test_yes_and_no_are_options_that_say_more(reply: str, chosen: str | None) -> None:
    for letter, _ in YES_NO:
        assert marked("choice", letter, "Is the gate open?", reply, YES_NO).score == float(letter == chosen)


@pytest.mark.parametrize(
    ("line", "passes"),
    [
        ("anchor, or perhaps buoy", False),
        ("anchor, or mooring iron", True),
        ("anchor, more exactly a light one", True),
        ("buoy, or anchor", False),
    ],
)
def test_two_names_on_an_answer_line_are_two_answers(line: str, passes: bool) -> None:
    asked = "What holds a boat in its place?"
    mark = marked("exact", ["anchor", "mooring iron"], asked, f"Answer: {line}", line="Answer:")
    assert mark.score == float(passes)


@pytest.mark.parametrize(
    ("reply", "passes"),
    [
        ("4 and 10 are even, and so is 16.", True),
        ("4, 10 and 16 are even, and so is 7.", False),
        ("The 7 and the 9 can't be halved. The rest are even.", True),
        (
            "| n | even? |\n|---|---|\n| 4 | yes |\n| 7 | no, odd |\n| 9 | no, odd |\n| 10 | yes, 2 · 5 |\n| 16 | yes |",
            True,
        ),
    ],
)
def test_what_is_added_belongs_to_the_list(reply: str, passes: bool) -> None:
    asked = "Which of the numbers 4, 7, 9, 10 and 16 are even?"
    assert marked("set", [4, 10, 16], asked, reply).score == float(passes)


def test_a_reply_of_pairs_is_read_as_such_and_not_sentence_by_sentence() -> None:
    asked = "Which boat has Oda if she has not the red one, and of three friends one has a red, one a white, one a green boat?"
    reply = "White → Runa; red → not Oda, so the third friend; green → Oda."
    assert marked("exact", "green", asked, reply).score == 1.0
    assert marked("exact", "red", asked, reply).score == 0.0


@pytest.mark.parametrize(("letter", "score"), [("B", 0.0), ("C", 1.0)])
def test_what_is_not_necessarily_so_is_not_denied(letter: str, score: float) -> None:
    options = (("A", "Yes"), ("B", "No"), ("C", "Nobody can tell"))
    reply = "No, not necessarily. Others may have such bills as well, so nobody can tell."
    assert marked("choice", letter, "Is the bird a gull?", reply, options).score == score


def test_an_answer_that_is_drawn_and_then_doubted_is_one() -> None:
    asked = "A crate of nails weighs 3 kg. What does Oda pay for it if she buys it today?"
    assert (
        marked("abstain", None, asked, "A kilogram costs 4 euros, so she pays 12 euros. It isn't stated, though.").score
        == 0.0
    )
    assert (
        marked("abstain", None, asked, "If a kilogram cost 4 euros, she'd pay 12 euros. It isn't stated, though.").score
        == 1.0
    )
    supposed = "Suppose a kilogram costs 4 euros, so she pays 12 euros. The price isn't stated, though."
    assert marked("abstain", None, asked, supposed).score == 1.0
