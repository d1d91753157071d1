"""Chains of sums told in words, and what is turned about, of others, or told of another time: no answers, though near."""

from __future__ import annotations

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from dryquarry.marking.model import Mark, Marking
from dryquarry.marking.reading.orders import told_with_numbers
from dryquarry.marking.registry import prepare

LETTERS = "A sack holds 40 bundles of 12 letters, and 30 letters are torn. How many whole letters are there?"
BALANCE = "A choir has debts of 90.00 and is given 50.50. What is its balance?"
LIARS = "Of Una and Wim, one always tells the truth and the other always lies. Who tells the truth?"
PERSONS = (("A", "Una"), ("B", "Wim"), ("C", "Both"))
RIVER = "Which sea does the Velm flow into?"


def marked(
    scheme: str,
    key: object,
    asked: str,
    reply: str,
    options: dict[str, object] | None = None,
    choices: tuple[tuple[str, str], ...] = (),
) -> Mark:
    return prepare(Marking(scheme, key, options or {}, choices, None, asked=asked))(reply)


@given(bundles=st.integers(20, 90), size=st.integers(11, 40), torn=st.integers(5, 19))
def test_what_ends_a_chain_of_sums_is_the_answer(bundles: int, size: int, torn: int) -> None:
    asked = (
        f"A sack holds {bundles} bundles of {size} letters, and {torn} of them are torn. How many whole ones are there?"
    )
    every, whole = bundles * size, bundles * size - torn
    for reply in (
        f"There are {every} letters altogether. Since {torn} of these are torn, {whole} can still be read.",
        f"Multiplying, one gets {every} letters. However, {torn} of them are torn. Taking them away, one arrives at {whole}.",
    ):
        assert marked("number", whole, asked, reply).score == 1.0
        assert marked("number", every, asked, reply).score == 0.0


@example(rows=16, seats=28, boxes=7, chairs=64)
@given(rows=st.integers(11, 40), seats=st.integers(13, 40), boxes=st.integers(3, 9), chairs=st.integers(41, 90))
def test_the_sum_of_two_lines_is_the_answer_and_neither_of_them(rows: int, seats: int, boxes: int, chairs: int) -> None:
    asked = f"A hall has {rows} rows at {seats} each and {boxes} boxes at {chairs} each. What does it hold?"
    first, second = rows * seats, boxes * chairs
    reply = f"{rows} × {seats} = {first}\n{boxes} × {chairs} = {second}\n\n**Room:** {first + second}"
    assert marked("number", first + second, asked, reply).score == 1.0


@pytest.mark.parametrize(
    ("reply", "passes"),
    [
        ("480, of which 450 are whole", True),
        ("450 torn ones", False),
        ("There are 450 whole letters. With 2 more there would be 452.", True),
        ("450 ± 1", False),
    ],
)
def test_a_number_counts_what_is_said_behind_it(reply: str, passes: bool) -> None:
    assert marked("number", 450, LETTERS, reply).score == float(passes)


@pytest.mark.parametrize(
    "said", ["minus thirty-nine pounds fifty", "-£39.50", "£39.50 (debts left)", "39.50 (negative)"]
)
def test_what_is_owed_is_less_than_nothing(said: str) -> None:
    assert marked("number", -39.5, BALANCE, f"It is {said}.", {"unit": "GBP", "abs": 0.005}).score == 1.0


@pytest.mark.parametrize(
    ("asked", "key", "wrong"),
    [
        (RIVER, "Sea of Arle", "The Sea of Arle flows into the Velm."),
        (RIVER, "Sea of Arle", "It flows into the Red Sea, a neighbour of the Sea of Arle."),
        ("Who taught Lena?", "Rike", "Lena taught Rike."),
        ("What is the capital of Velm?", "Tarn", "The capital of Velm is near Tarn."),
        ("Which river flows through Birk?", "Corr", "A tributary of the Corr."),
        ("The plate says: 'Built 1871, burnt 1899'. When was it built?", "1899", "1899 is the year in which it burnt."),
        ("Which is the largest lake of the land?", "Lake Arle", "Lake Arle is smaller than Lake Birk."),
        ("Which is older, the mill or the church?", "church", "The church is not as old as the mill."),
    ],
)
def test_what_is_turned_about_or_only_near_is_no_answer(asked: str, key: str, wrong: str) -> None:
    assert marked("exact", key, asked, wrong).score == 0.0


def test_the_same_words_the_right_way_round_are_one() -> None:
    assert marked("exact", "Sea of Arle", RIVER, "The Velm flows into the Sea of Arle.").score == 1.0
    assert marked("exact", "Lena", "Who taught Rike?", "Lena taught Rike.").score == 1.0
    asked = "Which is older, the mill or the church?"
    assert marked("exact", "church", asked, "The mill is not as old as the church.").score == 1.0


@pytest.mark.parametrize(
    ("reply", "letter"),
    [
        ("Wim must be the liar, and the other tells the truth.", "A"),
        ("It's not Una. Wim lies as well.", None),
        ("Wim lies. So it is Una.", "A"),
    ],
)
def test_who_is_said_to_lie_does_not_tell_the_truth(reply: str, letter: str | None) -> None:
    scores = {one: marked("choice", one, LIARS, reply, choices=PERSONS).score for one, _ in PERSONS}
    assert [one for one, score in scores.items() if score] == ([letter] if letter else [])


def test_an_order_is_told_with_numbers_only_where_they_rise_or_fall() -> None:
    asked = "Sort the boats by their length, shortest first."
    rising, mixed = "Merle has 6 m, Dipper 9 and Ouzel 12.", "Merle has 6 m, Dipper 12 and Ouzel 9."
    told = [rising[start:end] for start, end in told_with_numbers(rising, 0, len(rising), asked)]
    assert told == ["Merle", "Dipper", "Ouzel"]
    assert told_with_numbers(mixed, 0, len(mixed), asked) == ()
    assert told_with_numbers(rising, 0, len(rising), "How long are the boats?") == ()
