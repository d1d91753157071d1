"""What is put together from several words: orders, comparisons of two, things judged one by one, ends of sentences."""

from __future__ import annotations

from fractions import Fraction
from itertools import permutations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dryquarry.marking.model import Marking, Verdict
from dryquarry.marking.reading.comparisons import more_of_two, says_more
from dryquarry.marking.reading.courtesies import heard
from dryquarry.marking.reading.judged_options import boxes
from dryquarry.marking.reading.judged_things import affirmed_in, by_predicate
from dryquarry.marking.reading.of_another import is_whose_kin, lies_the_other_way, part_asked
from dryquarry.marking.reading.order_put_together import put_together
from dryquarry.marking.registry import prepare
from dryquarry.marking.values.numbers import find_terms

AGES = "Oda is older than Sol, Sol is older than Bram. Ives is the youngest. Name them from the oldest to the youngest."
TREES = "Which of the trees oak, spruce, larch, beech and pine are conifers?"
RIVERS = "Which is longer, the Elm or the Ash?"
LAMP = "Is the lamp heavier than the bell?"
NORTH = "Which bay lies north of the island?"


def order(text: str, asked: str = AGES) -> list[str]:
    return [thing for thing, _, _ in put_together(text, 0, len(text), asked)]


# How an order is told by four names that stand in it.
ORDERS = (
    "{}, {}, {}, {}",
    "{} > {} > {} > {}",
    "First {}, then {}, then {}, and finally {}.",
    "{} first, {} second, {} third, {} last.",
    "{} is the oldest, followed by {} and {}, and {} is the youngest.",
    "The oldest is {}. Then comes {}. After her comes {}. {} is the youngest.",
    "{} is older than {}, who is older than {}, who is older than {}.",
    "{} comes before {}, {} before {}.",
)


@given(st.permutations(["Oda", "Sol", "Bram", "Ives"]), st.sampled_from(ORDERS[:7]))
def test_an_order_is_read_as_it_is_told_whichever_it_is(names: list[str], told: str) -> None:
    assert order(told.format(*names)) == [name.lower() for name in names]


@pytest.mark.parametrize(
    "turned",
    [
        "From youngest to oldest: {3}, {2}, {1}, {0}.",
        "Youngest first: {3}, {2}, {1}, {0}",
        "{3} is younger than {2}, who is younger than {1}, who is younger than {0}.",
        "4. {3}\n3. {2}\n2. {1}\n1. {0}",
        "{3} is the youngest, before her comes {2}, before him {1}, and {0} is the oldest.",
    ],
)
def test_an_order_that_is_told_from_its_end_is_turned_round(turned: str) -> None:
    for names in permutations(["Oda", "Sol", "Bram", "Ives"]):
        assert order(turned.format(*names)) == [name.lower() for name in names]


@pytest.mark.parametrize(
    "text",
    [
        "Oda, Sol, Bram",
        "Oda, Sol, Bram, Ives, Tarn",
        "Oda is older than Sol, Bram than Ives.",
        "Oda is not older than Sol, Sol is older than Bram, Bram is older than Ives.",
        "Oda, Sol, Bram or Ives",
        "Oda is the oldest, Sol is the oldest, Bram, Ives",
    ],
)
def test_what_leaves_an_order_open_or_tells_of_others_is_none(text: str) -> None:
    assert order(text) == []


@pytest.mark.parametrize(
    ("text", "more"),
    [
        ("The Elm is longer.", "elm"),
        ("The Ash is shorter than the Elm.", "elm"),
        ("Elm > Ash", "elm"),
        ("Elm < Ash", "ash"),
        ("The Elm has 40 km, the Ash 38 km.", "elm"),
        ("The Ash has 38 km and the Elm 40.", "elm"),
        ("The longer one is the Ash.", "ash"),
        ("The shorter of the two is the Ash.", "elm"),
        ("Compared with the Ash, the Elm is longer.", "elm"),
        ("The Elm isn't longer.", None),
        ("The Elm was longer once.", None),
        ("The Elm has 40 km, the Ash 40.", None),
    ],
)
def test_which_of_two_is_more_so(text: str, more: str | None) -> None:
    found = more_of_two(text, 0, len(text), RIVERS)
    assert (found and found[0].lower()) == more


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("The lamp is heavier.", "yes"),
        ("The bell is lighter than the lamp.", "yes"),
        ("It is heavier.", "yes"),
        ("The bell is heavier.", "no"),
        ("It is lighter.", "no"),
        ("It isn't heavier.", None),
    ],
)
def test_a_comparison_says_yes_or_no(text: str, says: str | None) -> None:
    assert says_more(text, 0, len(text), LAMP) == says


@pytest.mark.parametrize(
    ("text", "so"),
    [
        ("Spruce is a conifer. So is larch. And pine.", "spruce larch pine"),
        ("Oak? No. Spruce? Yes. Larch? Yes. Beech? No. Pine? Yes.", "spruce larch pine"),
        ("Spruce is a conifer. Oak isn't.", "spruce"),
        ("First, spruce. Second, larch.", "spruce larch"),
        ("Spruce is a conifer. Oak is a fine tree.", ""),
        ("Spruce is a conifer. Perhaps larch.", ""),
    ],
)
def test_things_are_judged_one_by_one_in_words_of_the_question(text: str, so: str) -> None:
    assert [thing for thing, _, _ in affirmed_in(text, 0, len(text), TREES)] == so.split()


def test_of_two_predicates_the_question_s_own_counts() -> None:
    text = "Oak and beech are broad-leaved, spruce, larch and pine are conifers."
    assert [thing for thing, _, _ in by_predicate(text, 0, len(text), TREES)] == ["spruce", "larch", "pine"]


def test_boxes_are_read_with_what_stands_beside_them() -> None:
    assert [(said, ticked) for said, ticked, _, _ in boxes("- [ ] A\n- [x] B\n☑ C\n☐ D")] == [
        ("A", False),
        ("B", True),
        ("C", True),
        ("D", False),
    ]


def test_what_lies_the_other_way_is_no_answer() -> None:
    assert lies_the_other_way("Heron Bay lies south of it", NORTH)
    assert not lies_the_other_way("Heron Bay lies north of it, Seal Bay south", NORTH)
    # words of a way that tell of none
    assert not lies_the_other_way("The right answer is salt", "What is left when sea water dries?")
    assert not lies_the_other_way("As shown above, the rock", "What lies below the snow?")
    assert lies_the_other_way("The bell hangs on the right", "What hangs on the left?")
    text = "Seal Bay lies south of it, Heron Bay north"
    assert text[slice(*part_asked(text, 0, len(text), NORTH))] == "Heron Bay north"


@pytest.mark.parametrize(("text", "kin"), [("Ada's daughter", True), ("Ada's", False), ("Ada, a friend", False)])
def test_whose_daughter_she_is_is_not_who_she_is(text: str, kin: bool) -> None:
    assert is_whose_kin(text, 0, 3, "Who painted it?") is kin


@pytest.mark.parametrize(
    ("text", "count"),
    [
        ("It isn't. It can't be.", 2),
        ("The answer is no. It rained.", 2),
        ("Berth No. 5 is free.", 1),
        ("She lives on Mill St. The house is blue.", 2),
        ("St. Ives is small.", 1),
        ("It left in Jan. It came back in Feb. Nobody knew.", 3),
        ("It begins with J. It ends with K.", 2),
        ("J. R. Holm came.", 1),
        ("Mr. Holm Jr. He rows.", 2),
        ("It is Cleo's. Then they left.", 2),
    ],
)
def test_where_sentences_end(text: str, count: int) -> None:
    assert len(heard(text, "").sentences) == count


@given(st.integers(0, 999), st.integers(0, 10**4), st.integers(1, 3))
def test_a_recurring_decimal_is_the_fraction_that_it_stands_for(whole: int, cycle: int, width: int) -> None:
    digits = str(cycle % 10**width).zfill(width)
    value = whole + Fraction(int(digits), 10**width - 1)
    for written in (
        f"{whole}.({digits})",
        f"{whole}.\\overline{{{digits}}}",
        f"{whole}," + "".join(d + "\u0305" for d in digits),
    ):
        assert [term.value for term in find_terms(written)] == [value]


@pytest.mark.parametrize(
    ("asked", "key", "passes", "fails"),
    [
        ("What do they pay?", 47.5, "47 euros and 50 cents", "47 euros and 5 cents"),
        ("How many centimetres long is it?", 140, "1 m 40 cm", "1 m 4 cm"),
        ("How many are left?", 0, "None are left.", "Two are left."),
        ("How many eggs are left?", 395, "About 400, 395 to be exact.", "About 395, 400 to be exact."),
        ("How long is it, to one decimal?", 11.2, "√125 ≈ 11.2", "√125 ≈ 11.3"),
        ("What does it cost now?", 68, "It was 80 and is 68 now.", "It was 68 and is 80 now."),
        ("What does it cost now?", 68, "The price drops by 12 to 68.", "The price drops by 68 to 12."),
        ("Of 60 eggs 9 are broken. How many eggs are whole?", 51, "51 are whole.", "51 are broken."),
        ("What is 135 times 60?", 8100, "135 × 60 = 8.100", "134 × 60 = 8.100"),
    ],
)
def test_numbers_beside_numbers(asked: str, key: float, passes: str, fails: str) -> None:
    mark = prepare(Marking("number", key, {}, (), None, asked=asked))
    assert mark(passes).verdict is Verdict.PASS
    assert mark(fails).verdict is Verdict.FAIL


@pytest.mark.parametrize(
    ("scheme", "key", "asked", "reply", "verdict", "sure"),
    [
        # the key is denied only by a verb of another meaning
        ("number", 513, "How many are sold?", "540 were grown. Rejecting 27 of these gives 513.", None, False),
        # all members are there, and what was read has others
        (
            "set",
            ["oak", "elm"],
            "Which trees stand there?",
            "There are, as far as I see, oak trunks and an elm.",
            None,
            False,
        ),
        ("exact", "yes", "Is it open?", "It opens at nine and closes at five.", "fail", False),
        ("exact", "yes", "Is it open?", "No, it is shut.", "fail", True),
        ("expression", "(L - 3)/2", "How long is the piece?", "Half of L - 3", "fail", False),
        ("expression", "(L - 3)/2", "How long is the piece?", "L/2 - 3", "fail", True),
        ("abstain", None, "How many has she?", "We hear of his shells only.", "fail", False),
        ("abstain", None, "How many has she?", "She has 12.", "fail", True),
        ("abstain", None, "When was it?", "At 8:20, I suppose; the text doesn't say.", None, False),
        ("abstain", None, "When was it?", "The text doesn't say.", "pass", True),
    ],
)
def test_a_mark_knows_when_it_is_unsure(
    scheme: str, key: object, asked: str, reply: str, verdict: str | None, sure: bool | None
) -> None:
    mark = prepare(Marking(scheme, key, {}, (), None, asked=asked))(reply)
    assert verdict in (None, mark.verdict)
    assert sure in (None, mark.sure)
    assert mark.sure or mark.unsure_because
