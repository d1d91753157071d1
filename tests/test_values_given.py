"""What a sentence adds to its result, things that are given a value, steps one by one, and other plain ways to answer."""

from __future__ import annotations

import pytest

from dryquarry.marking.reading.asked_lists import by_places, things_asked
from dryquarry.marking.reading.things_with_values import with_value_asked
from test_told_of_each import marked

CAR = "A car uses 5.4 litres for 100 km. How many litres does it use for 750 km?"
PIE = "Mara ate a third of a pie and Jon a quarter of it. Which fraction was eaten?"
EGGS = "Of 60 eggs 10 are bad. How many are good?"
HATS = "Ada and Cleo have blue hats, Bo and Dag red ones, and Ada and Bo are tall. Who has a blue hat?"
DOORS = "One of two doors leads out, and it is not the right one. Which door leads out?"
TAGUS = "Which city lies at the mouth of the Tagus?"
GAS = "Which gas do plants give off in daylight?"
BRASS = "Brass is an alloy of which two metals?"
STEPS = "Bring these steps into order: fry the potatoes, peel them, wash them, cut them."
MAGNET = "Which of these does a magnet attract: iron, wood, nickel, glass?"
OLE = "Ole has 5 coins more than Pia. Together they have 41. How many does Ole have?"
BALLS = "A bag holds 6 red, 9 green and 15 blue balls. What is the probability of drawing a green one?"
HOUSE = "A house was built 60 years before the bridge of 1999. When was the house built?"
CIRCLE = "What is the circumference of a circle of radius r?"
EDDA = "Edda walks to the mill and back again. How long does she take?"


@pytest.mark.parametrize(
    ("key", "asked", "reply"),
    [
        ("40.5", CAR, "15 × 2.7 = 40.5\n\nThat's nearly a full tank of a small car, which is 45 litres."),
        ("40.5", CAR, "Answer: 40.5. That's about a twentieth of 810 litres."),
        ("40.5", CAR, "It uses 40.5 litres, by the way about as much as a tank of 42 litres holds."),
        ("7/12", PIE, "Together they had 7/12 of the pie, so that 5/12 are left."),
        ("7/12", PIE, "Seven twelfths, as 4/12 + 3/12 shows. The rest, five twelfths, went to the dog."),
        ("50", EGGS, "6 × 10 = 60 eggs, of which 10 are bad, so that 50 are left."),
        ("50", EGGS, "There are 60 eggs, of which 10 are bad. The rest, 50, are good."),
        ("50", "How many eggs are in five boxes of ten?", "There are 10 in one; that's a total of 50 eggs."),
        ("23", OLE, "Give Ole his five back: he has 23 and she has 18."),
        ("23", OLE, "Pia has fewer: she has 18 and he has 23."),
        ("0.3", BALLS, "Red: 20 %, green: 30 %, blue: 50 %."),
        ("0.3", BALLS, "The chances are: red 20 %, green 30 %, blue 50 %."),
        ("1939", HOUSE, "1999 minus 60 makes 1939. Today the house is 87 years old."),
        ("1939", HOUSE, "It was built 87 years ago, in 1939."),
        ("0.6", "What is 0.6 as a fraction in lowest terms?", "0.6 = 6/10, and cancelling by 2 gives 3/5."),
        ("72", "Three scores add up to 204, two are 60 and 72. What is the third?",
         "Subtracting the two known ones, 60 + 72 = 132, leaves 72 for the third."),
    ],
)  # fmt: skip
def test_what_is_only_added_to_a_number_is_no_answer(key: str, asked: str, reply: str) -> None:
    assert marked("number", key, asked, reply).score == 1.0, marked("number", key, asked, reply).reason


def test_an_amount_told_exactly_and_about() -> None:
    assert marked("number", "40.5", CAR, "Answer: 40.5 L ≈ 41 L", unit="l").score == 1.0
    # how many whole ones it takes is no rounding
    assert marked("number", "6", "How many buses does it take?", "Answer: 5.8 ≈ 6").score == 1.0


@pytest.mark.parametrize(
    ("key", "asked", "reply"),
    [
        ("Lisbon", TAGUS, "At its mouth, where it widens into the Mar da Palha, lies Lisbon, the capital."),
        ("Lisbon", TAGUS, "At its mouth stands Lisbon, once a Moorish town."),
        ("oxygen", GAS, "In daylight plants take in carbon dioxide and give off oxygen; at night they do not."),
        ("left", DOORS, "As the right door isn't the one, you have to take the left door."),
        ("left", DOORS, "It's the left door."),
        ("left", DOORS, "Right door: no.\nLeft door: yes."),
        (
            "Hypatia",
            "Who wrote the oldest book?",
            "The oldest book is Stars, published in 1902, and its author is Hypatia.",
        ),
        ("Heron Bay", "Which bay lies north of the island?", "Heron Bay lies north of it."),
    ],
)
def test_plain_sentences_that_name_the_answer(key: str, asked: str, reply: str) -> None:
    assert marked("exact", key, asked, reply).score == 1.0, marked("exact", key, asked, reply).reason


def test_the_kind_asked_for_adds_nothing_to_an_answer() -> None:
    assert marked("exact", "left", DOORS, "the left window").score == 0.0
    assert marked("exact", "right", DOORS, "It's the left door.").score == 0.0


@pytest.mark.parametrize(
    ("key", "asked", "reply"),
    [
        (["copper", "zinc"], BRASS, "Copper is one of them; the other is zinc. Some kinds contain a little lead as well."),
        (["copper", "zinc"], BRASS, "One is copper and the other is zinc."),
        (["9", "15"], "Which odd multiples of 3 lie between 5 and 16?",
         "Multiples of 3: 6, 9, 12, 15. Every second one is odd: 9 and 15."),
        (["9", "15"], "Which odd multiples of 3 lie between 5 and 16?", "Answer: {9, 15}, two numbers in all"),
        (["Ada", "Cleo"], HATS, "Ada: blue\nBo: red\nCleo: blue\nDag: red"),
        (["Ada", "Cleo"], HATS, "Ada has a blue one, Bo a red one, Cleo a blue one and Dag a red one."),
        (["Ada", "Cleo"], HATS, "Only Ada and Cleo. Bo and Dag have red ones."),
        (["iron", "nickel"], MAGNET, "The first and the third."),
        (["iron", "nickel"], "Which are magnetic: iron, wood, nickel?", "iron: magnetic; wood: not magnetic; nickel: magnetic"),
    ],
)  # fmt: skip
def test_lists_told_in_other_ways(key: list[str], asked: str, reply: str) -> None:
    assert marked("set", key, asked, reply).score == 1.0, marked("set", key, asked, reply).reason


def test_only_values_that_the_question_names_choose() -> None:
    text = "Ada: blue; Bo: red"
    assert [one for one, _, _ in with_value_asked(text, 0, len(text), HATS)] == ["Ada"]
    for other in (
        "Ada: blue; Bo: red; Cleo: blue red",
        "Ada: green; Bo: red",
        "Ada: blue; Bo: blue",
        "Ada: blue",
        "Ada is blue, Bo: red",
        "Ada: blue; Bo",
    ):
        assert with_value_asked(other, 0, len(other), HATS) == ()
    assert with_value_asked(text, 0, len(text), "Who does not have a blue hat?") == ()


def test_places_name_what_the_question_lists() -> None:
    assert things_asked(MAGNET) == ("iron", "wood", "nickel", "glass")
    assert [one for one, _, _ in by_places("the 2nd and the last", 0, 20, MAGNET)] == ["wood", "glass"]
    assert by_places("the first and wood", 0, 18, MAGNET) == []
    assert things_asked("Ada and Bo are tall, Cleo and Dag are short. Who is tall?") == ()


@pytest.mark.parametrize(
    "reply",
    [
        "First you wash the potatoes, then you peel them. After that they're cut, and finally you fry them.",
        "Washing comes before peeling, peeling before cutting, and frying is last.",
    ],
)
def test_steps_are_told_one_by_one(reply: str) -> None:
    assert things_asked(STEPS) == ("fry", "peel", "wash", "cut")
    assert marked("sequence", ["wash", "peel", "cut", "fry"], STEPS, reply).score == 1.0
    assert marked("sequence", ["peel", "wash", "cut", "fry"], STEPS, reply).score < 1.0


def test_formulas_options_counts_and_what_cannot_be_known() -> None:
    assert marked("expression", "2*pi*r", CIRCLE, "As the diameter is 2r, we get 2πr.").score == 1.0
    assert marked("expression", "5*n-2", "Give the n-th term.", "It's 5n − 2: for n = 1, we get 3.").score == 1.0
    options = ("air pressure", "humidity", "wind speed")
    assert marked("choice", "A", "What does it measure?", "It measures the pressure of the air.", options).score == 1.0
    assert (
        marked("self_count", None, "How many words?", "There are eight words here, or maybe nine.", of="words").score
        == 0.0
    )
    for said in ("We would need the distance and her speed, and neither is given.", "I'm afraid I have to pass."):
        assert marked("abstain", None, EDDA, said).score == 1.0
    assert marked("abstain", None, EDDA, "We're told that it is far, but not all day: an hour.").score == 0.0


@pytest.mark.parametrize(
    ("scheme", "key", "asked", "reply"),
    [
        ("number", 8, "How old is Finn?", "Finn is 8. In eight years he will be 16."),
        ("number", 16, "How old will Finn be in eight years?", "In eight years he will be 16."),
        ("number", 8, "How old is Finn?", "Finn is an eighth of her age: 8 years."),
        ("number", 36, "A tap gives 12 litres an hour. How much do 3 hours give?",
         "It gives 12 litres an hour. In three hours it will give 36 litres."),
        ("exact", "Lund", "Who is the captain of the Tern?", "Its port is Orm Bay, and Lund is the captain."),
        ("exact", "Mira", "Who won?", "1st Mira, 2nd Ove, 3rd Nele"),
        ("exact", "salt", "What is in the blue jar?", "There's salt in the blue jar, not sugar."),
        ("sequence", ["Ina", "Pal", "Kim"], "List them from the oldest to the youngest.",
         "The youngest is Kim, the oldest Ina, with Pal in between."),
        ("expression", "3*x+2*y", "What do they cost together?", "Together they cost three times x plus two times y."),
        ("expression", "a^2", "What is the area of a square of side a?", "The area is $a^2$, the perimeter $4a$."),
        ("number", 14, "How many are whole?", "0.7 · 20 = 14. That's enough for two cakes of seven eggs each."),
        ("set", ["11", "13"], "List the primes from 10 to 15.",
         "The odd numbers are 11, 13 and 15. As 15 is divisible by 3, the primes are 11 and 13."),
    ],
)  # fmt: skip
def test_sentences_beside_and_around_an_answer(scheme: str, key: object, asked: str, reply: str) -> None:
    assert marked(scheme, key, asked, reply).score == 1.0, marked(scheme, key, asked, reply).reason
