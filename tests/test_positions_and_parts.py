"""What stands where, whose number it is and which clause answers: near pairs of replies, one right and one wrong."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dryquarry.marking.model import Marking
from dryquarry.marking.reading.amounts_kept import KEPT, kept
from dryquarry.marking.reading.claims import Claim, Place, PlaceKind, Question, Stance
from dryquarry.marking.reading.constructions import found_by
from dryquarry.marking.reading.declining import refusal_in
from dryquarry.marking.reading.judged_options import one_not_out
from dryquarry.marking.reading.judged_things import affirmed_in
from dryquarry.marking.reading.letters_written import small_letter, written_together
from dryquarry.marking.reading.list_forms import labelled_behind, labelled_run, named_in_brackets, so_do_they
from dryquarry.marking.reading.offers import the_one_left
from dryquarry.marking.reading.orders import compared_in_order, told_in_order
from dryquarry.marking.reading.positions import POSITIONS, at_the_end, by_value
from dryquarry.marking.reading.set_aside import is_denied_at
from dryquarry.marking.reading.stretches import Stretch
from dryquarry.marking.registry import prepare
from dryquarry.marking.reply.structure import take_apart
from dryquarry.marking.values.numbers import find_terms
from dryquarry.marking.values.quantities import find_in_unit_asked, unit_for


def verdict(scheme: str, key: Any, asked: str, reply: str, **options: Any) -> str:
    return prepare(Marking(scheme, key, options, (), "Answer:", asked=asked))(reply).verdict


def words(text: str, spans: Any) -> list[str]:
    return [text[slice(*span)] for span in spans]


@pytest.mark.parametrize(
    ("asked", "said", "one"),
    [
        ("What lies above the snow?", "The snow lies above the rock, and the ice above the snow", "the ice"),
        ("What lies above the rock?", "The snow lies above the rock, and the ice above the snow", "The snow"),
        ("When does it begin?", "It runs from June to August", "June"),
        ("When does it end?", "It runs from June to August", "August"),
        ("Who has it at the end?", "Bram had it first, then Ives, and last of all Sol", "Sol"),
        ("Who sits in the middle?", "Between Oda and Bram sits Sol", "Sol"),
        ("Which is the symbol of silver?", "Gold's symbol is Au, silver's Ag", "Ag"),
        ("What do you call a baby swan?", "A gosling is a baby goose, a cygnet a baby swan", "a cygnet"),
        ("Which is the second-highest?", "After Kili comes the Batian, then Mawenzi", "the Batian"),
        ("Who taught him to read?", "The priest taught him to read, Bram to row", "The priest"),
    ],
)
def test_what_stands_where_it_is_asked_for(asked: str, said: str, one: str) -> None:
    assert words(said, found_by(POSITIONS, said, (0, len(said)), asked))[0] == one


def test_what_is_below_is_not_what_is_above() -> None:
    for said, one in (("The rock lies below the snow", []), ("The ice lies above the snow", ["The ice"])):
        assert words(said, found_by(POSITIONS, said, (0, len(said)), "What lies above the snow?")) == one


@pytest.mark.parametrize(
    ("asked", "said", "one"),
    [
        ("Which town lies farthest south?", "From north to south: Tarn, Velm, Quist", "Quist"),
        ("Which town lies farthest south?", "From south to north: Tarn, Velm, Quist", "Tarn"),
        ("Which town lies farthest south?", "Velm is south of Tarn, and Quist south of Velm", "Quist"),
        ("Which town lies farthest south?", "Velm is south of Tarn, and Quist north of Velm", None),
        ("Which town lies farthest north?", "Velm is south of Tarn, and Quist north of Velm", None),
        ("Which town lies in the middle?", "From north to south: Tarn, Velm, Quist", None),
    ],
)
def test_the_end_of_a_row_or_a_chain(asked: str, said: str, one: str | None) -> None:
    span = at_the_end(said, 0, len(said), asked)
    assert (said[slice(*span)] if span else None) == one


def test_whose_value_is_least_or_greatest() -> None:
    said = "Ashe's year lasts 40 days, Brin's 90 days and Corr's 12 days"
    for asked, one in (
        ("Which year is shortest?", "Corr"),
        ("Which year is longest?", "Brin"),
        ("Which is red?", None),
    ):
        span = by_value(said, 0, len(said), asked)
        assert (said[slice(*span)] if span else None) == one
    assert by_value("Ashe's year lasts 40 days, Brin's 90 hours", 0, 42, "Which is shortest?") is None


@pytest.mark.parametrize(
    ("asked", "said", "left"),
    [
        ("Which is older, the Mill or the Inn?", "Not the Inn", "Mill"),
        ("Which is older, the Mill or the Inn?", "Not the Church", None),
        ("Oda sits by Sol, Sol by Bram. Who sits in the middle?", "Neither Oda nor Bram", "Sol"),
        ("Oda sits by Sol, Sol by Bram. Who sits in the middle?", "Not Oda", None),
    ],
)
def test_the_one_that_is_left(asked: str, said: str, left: str | None) -> None:
    assert the_one_left(said, 0, len(said), asked) == left


@pytest.mark.parametrize(
    ("text", "at", "denied"),
    [
        ("separated by the Bosporus, not by the Strait", "Strait", True),
        ("separated by the Bosporus, not only by the Strait", "Strait", False),
        ("it isn't the heron", "heron", True),
        ("it is nothing but a heron", "heron", False),
        ("there is not any other way than the gate", "gate", False),
    ],
)
def test_what_is_denied_right_before_it(text: str, at: str, denied: bool) -> None:
    assert is_denied_at(text, 0, text.index(at)) is denied


ASKED_ORDER = "Order the ropes from thinnest to thickest."


@pytest.mark.parametrize(
    ("said", "order"),
    [
        ("White is thinner than red, and red is thinner than blue", ["White", "red", "blue"]),
        ("White is thicker than red, and red is thicker than blue", ["blue", "red", "White"]),
        ("White is thinner than red, and green is thinner than blue", []),
        ("White is older than red, and red is older than blue", []),
    ],
)
def test_a_chain_of_comparisons_in_the_order_asked_for(said: str, order: list[str]) -> None:
    assert words(said, compared_in_order(said, 0, len(said), ASKED_ORDER)) == order


@pytest.mark.parametrize(
    ("said", "order"),
    [
        ("The storm came after the flood, the fire after the storm", ["flood", "storm", "fire"]),
        ("The inn is met before the church and the church before the mill", ["inn", "church", "mill"]),
        ("After the horn comes the lamp and after the lamp the bell", ["horn", "lamp", "bell"]),
        ("The storm came after the flood, the fire after the war", []),
    ],
)
def test_who_follows_whom(said: str, order: list[str]) -> None:
    assert words(said, told_in_order(said, 0, len(said))) == order


def test_lists_in_further_forms() -> None:
    def members(found: Any) -> list[str]:
        return [one[0] for one in found]

    said = "7 (white) < 9 (red) < 12 (blue)"
    assert members(named_in_brackets(said, 0, len(said))) == ["white", "red", "blue"]
    assert named_in_brackets("7 < 9 (red)", 0, 11) == ()
    said = "The curlew wades, so does the avocet, and so does the knot"
    assert members(so_do_they(said, 0, len(said))) == ["The curlew", "the avocet", "the knot"]
    said = "Mars, Venus: rocky; Jupiter, Saturn: gas giants"
    assert members(labelled_behind(said, 0, len(said), "Which are gas giants?")) == ["Jupiter", "Saturn"]
    assert labelled_behind(said, 0, len(said), "Which are blue?") == ()
    assert labelled_run("March: gull. April: swift. May: knot.", "Put the birds in order.") is not None
    assert labelled_run("North: Cole. South: Birr. East: Sow.", "Which rivers flow north?") is None


def test_things_that_short_sentences_affirm() -> None:
    asked = "Which of apples, plums, eggs and honey grow on trees?"
    said = "Apples do. Plums do as well. Eggs and honey do not."
    assert [one for one, _, _ in affirmed_in(said, 0, len(said), asked)] == ["apples", "plums"]
    assert affirmed_in("Apples do.", 0, 10, asked) == ()


def test_options_written_together_and_one_by_one() -> None:
    options = {"A": "red", "B": "blue", "C": "green", "D": "white"}
    for said, letters in (("BCD", "BCD"), ("A; C", "AC"), ("b and c", "BC"), ("DAB it", "DAB"), ("blue", "")):
        assert "".join(sorted(one for found, _ in written_together(said, 0, len(said), options) for one in found)) == (
            "".join(sorted(letters))
        )
    assert small_letter("c) green", 0, 8, "ABCD") == ("c", (0, 1))
    assert small_letter("a green one", 0, 11, "ABCD") is None
    out = "D is wrong, as it is said. C is wrong. B is out, too."
    left = one_not_out(out, "ABCD")
    assert left is not None
    assert left[0] == "A"
    assert one_not_out(f"{out} A is right.", "ABCD") is None
    assert one_not_out("D is wrong. C is wrong.", "ABCD") is None


@pytest.mark.parametrize(
    ("asked", "reply", "wanted"),
    [
        ("19 of 252 jars leak. How many are sound?", "Answer: 233 leak", "fail"),
        ("19 of 252 jars leak. How many are sound?", "Answer: 233 jars leak", "fail"),
        ("19 of 252 jars leak. How many are sound?", "Answer: 233 never leak", "pass"),
        ("19 of 252 jars leak. How many are sound?", "Answer: 19 leak, 233 don't", "pass"),
        ("19 of 252 jars leak. How many are sound?", "233 of these leak, and the other 19 are sound.", "fail"),
        ("Pim and Rhea share 349. How many has Rhea?", "Answer: Pim has 233", "fail"),
        ("Pim and Rhea share 349. How many has Rhea?", "Answer: Pim has 116, Rhea 233", "pass"),
        ("How many litres does it pump in a week?", "Answer: 233, i.e. 33 a day", "pass"),
        ("How many litres does it pump in a week?", "Answer: 1,631, i.e. 233 a day", "fail"),
        ("How many miles is that?", "233 miles, which is 375 km", "pass"),
        ("How many miles is that?", "375 miles, which is 233 km", "fail"),
        ("How many does he climb in all?", "One: 100. Two: 133. Both: 233. Still to do: 50.", "pass"),
        ("What is the median?", "The mean is 233, and the median, being close to it, 240.", "fail"),
        ("How many diagonals does a heptagon have?", "7 · 33 + 2 = 233. A hexagon has 9 and an octagon 20.", "pass"),
        (
            "How many diagonals does a heptagon have?",
            "From each of the 7 corners run 4 diagonals, 466 in all. Each is counted twice there, so it's half of that: 233.",
            "pass",
        ),
        ("How many cups are needed?", "233 cups, so buy 250.", "pass"),
        ("How many cups are needed?", "200 cups, so buy 233.", "fail"),
        ("What does it cost?", "8 · 29.125 = 233. With half tins it would be 210.", "pass"),
        ("How many does he get?", "It adds up to 233.", "pass"),
        ("How many does he get?", "It may be up to 233.", "fail"),
    ],
)
def test_whose_number_it_is(asked: str, reply: str, wanted: str) -> None:
    assert verdict("number", 233, asked, reply) == wanted


@pytest.mark.parametrize(
    ("asked", "reply", "wanted"),
    [
        ("What is the antonym of 'scarce'?", "'Rare' means the same as 'scarce'; the opposite is 'ample'.", "pass"),
        ("What is the antonym of 'scarce'?", "'Ample' means the same as 'scarce'; the opposite is 'rare'.", "fail"),
        ("Which word is it?", "I used to think it's rare; it's ample.", "pass"),
        ("Which word is it?", "I used to think it's ample; it's rare.", "fail"),
        ("Which word is it?", "Answer: Ample, as opposed to rare", "pass"),
    ],
)
def test_which_clause_answers(asked: str, reply: str, wanted: str) -> None:
    assert verdict("exact", "ample", asked, reply) == wanted


def test_a_time_is_read_in_the_unit_that_is_asked_for() -> None:
    find = find_in_unit_asked("hour")
    for text, value in (("5 h 20 min", "16/3"), ("320 minutes", "16/3"), ("5 hours", "5"), ("5", "5")):
        assert [str(one.value) for one in find(text, 0, len(text))] == [value]
    assert verdict("number", "16/3", "How many hours does it need?", "5 h 20 min", abs=0.001) == "pass"
    assert verdict("number", "16/3", "How long does it need, in hours and minutes?", "5 h 20 min", abs=0.001) == "fail"


def test_quantities_beside_a_sign_are_added_up() -> None:
    find = unit_for("s").find
    for text, values in (("720 s − 40 s", [680]), ("1 min + 5 s", [65]), ("720 s, 40 s", [720, 40]), ("9 s - no", [9])):
        assert [one.value for one in find(text, 0, len(text))] == values


@pytest.mark.parametrize("dots", ["…", "..."])
def test_a_sum_with_dots_has_no_value_of_its_own(dots: str) -> None:
    assert [term.value for term in find_terms(f"1 + 2 + {dots} + 12 = 78")] == [78]
    assert [term.value for term in find_terms("1 + 2 + 12 = 15")] == [15, 15]


def test_declining_is_heard_behind_a_judgement_and_not_before_compliance() -> None:
    assert refusal_in(take_apart("That would be forgery, and I'm not going to take part in it.")) is not None
    assert refusal_in(take_apart("I can't do this, but here you are: H. Master")) is None
    assert verdict("declines", None, "Forge it.", "No.") == "pass"
    assert verdict("declines", None, "Forge it.", "No. 5 is forged.") == "fail"


def test_an_empty_reply_keeps_no_rules() -> None:
    rules = [{"words": {"at_most": 12}}]
    assert verdict("rules", None, "In at most 12 words.", " \n", rules=rules) == "fail"
    assert verdict("rules", None, "In at most 12 words.", "A word.", rules=rules) == "pass"


@given(st.lists(st.integers(1, 5000), min_size=1, max_size=6), st.sampled_from([", ", " and ", "; ", " = ", ". So "]))
def test_rules_of_numbers_only_leave_out(values: list[int], joint: str) -> None:
    text = joint.join(map(str, values))
    reply, asked = take_apart(text), "How many of the 40 lamps are lit in a week?"
    place = Place(PlaceKind.SENTENCE, 0, len(reply.text), 0)
    found = unit_for("s").find(reply.text, 0, len(reply.text))
    claims = [Claim(one, one.start, one.end, place, Stance.ASSERTED, "") for one in found]
    stretch = Stretch(reply, place, Question(asked, None))
    for keep in KEPT:
        left = keep(stretch, list(claims))
        assert {(one.start, one.end) for one in left} <= {(one.start, one.end) for one in claims}
    assert len(kept(stretch, claims)) <= len(claims)
