"""What is told of each of several things, gaps filled in, rows of labels, and yes and no said in the question's words."""

from __future__ import annotations

import pytest

from dryquarry.marking.model import Mark, Marking
from dryquarry.marking.reading.each_told import count_that_has
from dryquarry.marking.reading.end_of_order import end_of_order
from dryquarry.marking.reading.filled_in import filled_in
from dryquarry.marking.reading.labels_in_row import labels_in_row
from dryquarry.marking.reading.order_by_sides import ordered_by_sides
from dryquarry.marking.reading.yes_no import yes_or_no
from dryquarry.marking.registry import prepare

LINE = "Answer:"
PRIME = "Is 91 a prime number?"
FERRY = "Is the ferry to Orm open to cars?"
LARGER = "Is 0.3 larger than 0.29?"
BIRDS = "Do all birds fly?"
EVEN = "Is the sum of two odd numbers always even?"
TOWER = "May visitors climb the tower on a Sunday, if it is open from Tuesday to Saturday only?"
GULLS = "Are there more gulls than terns on the island, if there are 40 of each?"
LOTTE = "Was Lotte taller than Hanno when both were ten, if she measured 1.38 m and he 1.41 m?"
FALSE = "True or false: the moon is larger than the earth."
SQUARES = "Is every rectangle a square?"


def marked(scheme: str, key: object, asked: str, reply: str, choices: tuple[str, ...] = (), **options: object) -> Mark:
    line = LINE if LINE in reply else None
    return prepare(Marking(scheme, key, options, tuple(zip("ABCD", choices, strict=False)), line, asked=asked))(reply)


@pytest.mark.parametrize(
    ("asked", "reply", "said"),
    [
        (PRIME, "No: it is divisible by 7 and 13.", "no"),
        (PRIME, "91 is a composite number.", "no"),
        (PRIME, "Answer: Not prime", "no"),
        (PRIME, "Answer: 91 is not prime (7 × 13)", "no"),
        (PRIME, "It is prime.", "yes"),
        (FERRY, "The ferry to Orm is closed to cars.", "no"),
        (FERRY, "Answer: no cars", "no"),
        (FERRY, "I'm afraid it isn't.", "no"),
        (FERRY, "The ferry to Orm is open to cars.", "yes"),
        (LARGER, "Since 0.30 > 0.29, yes.", "yes"),
        (LARGER, "Answer: larger", "yes"),
        (LARGER, "Answer: smaller", "no"),
        (LARGER, "0.29 is larger.", "no"),
        (BIRDS, "Not all of them: penguins swim instead.", "no"),
        (BIRDS, "Ostriches and penguins don't.", "no"),
        (BIRDS, "Some birds don't fly.", "no"),
        (BIRDS, "All birds fly.", "yes"),
        (EVEN, "Answer: odd", "no"),
        (EVEN, "Odd plus odd is even.", "yes"),
        (EVEN, "(2a + 1) + (2b + 1) = 2(a + b + 1), so the claim holds.", "yes"),
        (TOWER, "On Sundays the tower is shut.", "no"),
        (TOWER, "Sunday isn't among those days.", "no"),
        (TOWER, "No visitor may climb the tower then.", "no"),
        (GULLS, "There are equally many.", "no"),
        (GULLS, "There are as many of the one as of the other.", "no"),
        (GULLS, "There are more gulls than terns.", "yes"),
        (LOTTE, "Hanno was taller.", "no"),
        (LOTTE, "Lotte was taller by 3 cm.", "yes"),
        (FALSE, "That's false.", "false"),
        (FALSE, "It is not true.", "false"),
        (FALSE, "False: the earth is larger.", "false"),
        (FALSE, "The statement is true.", "true"),
        (SQUARES, "Every square is a rectangle.", None),
        (PRIME, "It is divisible by 7 and 13.", None),
        (FERRY, "Buses don't.", None),
    ],
)
def test_yes_and_no_said_in_the_words_of_the_question(asked: str, reply: str, said: str | None) -> None:
    words = ("true", "false") if asked is FALSE else ("yes", "no")
    assert [key for key in words if marked("exact", key, asked, reply).score == 1.0] == ([said] if said else [])


def test_a_question_of_yes_or_no_is_read_where_it_has_a_decimal_point_and_not_where_it_asks_which() -> None:
    assert yes_or_no("Yes.", 0, 3, LARGER) == ("yes", 0, 3)
    assert yes_or_no("Yes.", 0, 3, "Which is larger, 0.3 or 0.29?") is None


def test_what_says_neither_is_no_answer() -> None:
    assert marked("exact", "no", PRIME, "It is divisible by 7 and 13.").reason.startswith("no answer")


CUBE = "How many of the small cubes have exactly two painted faces?"


@pytest.mark.parametrize(
    ("text", "count"),
    [
        ("8 have three painted faces, 12 have two", "12"),
        ("12 have two painted faces and 8 have three", "12"),
        ("twelve have 2, eight have 3", "twelve"),
        ("12 have two", None),
        ("12 have two, 8 have two as well", None),
        ("8 have red faces, 12 have blue ones", None),
    ],
)
def test_the_count_of_which_what_is_asked_is_told(text: str, count: str | None) -> None:
    there = count_that_has(text, 0, len(text), CUBE)
    assert (text[slice(*there)] if there else None) == count


@pytest.mark.parametrize(
    ("asked", "key", "reply", "passes"),
    [
        ("What is 60 % of 120?", 72, "10 % are 12, so 60 % are 72 and 40 % are 48.", True),
        ("What is 40 % of 120?", 72, "10 % are 12, so 60 % are 72 and 40 % are 48.", False),
        ("In how many weeks does she lay 54?", 9, "After 8 weeks there are 48 eggs, after 9 weeks 54.", True),
        ("In how many weeks does she lay 48?", 9, "After 8 weeks there are 48 eggs, after 9 weeks 54.", False),
        ("How many parts of syrup are in it?", 3, "3 parts of syrup and 12 of water.", True),
        ("How many parts of water are in it?", 3, "3 parts of syrup and 12 of water.", False),
    ],
)
def test_of_several_pairs_that_of_the_question_counts(asked: str, key: int, reply: str, passes: bool) -> None:
    assert (marked("number", key, asked, reply).score == 1.0) is passes


WORDS = ("harbour", "haven", "hatch", "hawser")
LAST = "Which of these words comes last in the dictionary?"
MIDDLE = "Who is in the middle?"
EVENS = "Which of these are even? Choose all that apply."
NUMBERS = ("14", "21", "30", "45")
TIMES = ("11:20", "11:30", "11:40", "12:10")


@pytest.mark.parametrize(
    ("asked", "choices", "reply", "chosen"),
    [
        (LAST, WORDS, "Answer: D comes last, A first", "D"),
        (LAST, WORDS, "A comes first and D last.", "D"),
        (LAST, WORDS, "The order is harbour, hatch, haven, hawser.", "D"),
        (LAST, WORDS, "Answer: C, D is out", "C"),
        (LAST, WORDS, "Answer: (C) hatch – haven would be (B)", "C"),
        (MIDDLE, ("Ada", "Bo", "Cy"), "Answer: Bo, between Ada and Cy", "B"),
        (MIDDLE, ("Ada", "Bo", "Cy"), "The order is Ada, Bo, Cy.", "B"),
        (EVENS, NUMBERS, "A: even. B: odd. C: even. D: odd.", "AC"),
        (EVENS, NUMBERS, "A is even, B is odd, C is not even and D is odd.", "A"),
        (EVENS, NUMBERS, "21 and 45 are odd. The other two are even.", "AC"),
        (EVENS, NUMBERS, "Answer: the first and the third", "AC"),
        (EVENS, NUMBERS, "Answer: A: 14; C: 30", "AC"),
        (EVENS, NUMBERS, "A and D are wrong, the other two are right.", "BC"),
        ("When is high tide?", TIMES, "At half past eleven.", "B"),
        ("When is high tide?", TIMES, "Answer: 11.30", "B"),
        (
            "What does it do when pushed?",
            ("slips", "holds"),
            "Answer: it slips when pulled, but holds when pushed",
            "B",
        ),
        ("What follows?", ("Kra is a heron", "Kra is not a heron"), "Kra can't be a heron.", "B"),
    ],
)
def test_options_of_each_of_which_something_is_told(
    asked: str, choices: tuple[str, ...], reply: str, chosen: str
) -> None:
    key = list(chosen) if len(chosen) > 1 else chosen
    assert marked("choice", key, asked, reply, choices).score == 1.0


STEPS = "Which of the steps a (rinse), b (dry) and c (soak) comes first, second and third?"


@pytest.mark.parametrize(
    ("asked", "answer", "members"),
    [
        (STEPS, "c-a-b", "cab"),
        (STEPS, "cab", "cab"),
        (STEPS, "1c, 2a, 3b", "cab"),
        (STEPS, "soak (c), rinse (a), dry (b)", "cab"),
        (STEPS, "c, a", ""),
        (STEPS, "c, a, c", ""),
        (STEPS, "cabin", ""),
        ("Sort the numbers 4, 9, 7 in descending order.", "9-7-4", "974"),
        ("Sort the numbers 4, 9, 7 in descending order.", "9-7", ""),
        ("Which three letters follow L?", "M N O", "MNO"),
        ("Which three words follow 'L'?", "M N O", ""),
    ],
)
def test_labels_in_a_row(asked: str, answer: str, members: str) -> None:
    assert "".join(member for member, _, _ in labels_in_row(answer, 0, len(answer), asked)) == members


TOWNS = "Put the towns Abel, Brin and Cord in order from north to south."


@pytest.mark.parametrize(
    ("text", "order"),
    [
        ("Brin is in the north, Cord in the south and Abel between them.", "bac"),
        ("Abel is between Brin in the north and Cord in the south.", "bac"),
        ("Brin is in the north, Cord in the south and Abel east of both.", ""),
        ("Brin is not in the north, Cord in the south and Abel between.", ""),
        ("Brin is in the north, Cord in the north and Abel between them.", ""),
    ],
)
def test_an_order_by_sides(text: str, order: str) -> None:
    assert "".join(name[0] for name, _, _ in ordered_by_sides(text, 0, len(text), TOWNS)) == order


@pytest.mark.parametrize(
    ("asked", "text", "one"),
    [
        ("Who came in last?", "The order is Tine, Moss, Kari.", "kari"),
        ("Who came in last?", "Tine came first, then Moss, and Kari was last.", "kari"),
        ("Who came in first?", "The order is Tine, Moss, Kari.", "tine"),
        ("Which metal conducts best?", "copper > iron > lead", "copper"),
        ("Which metal conducts worst?", "copper > iron > lead", None),
        ("Which bridge is the shortest?", "Elm > Ash > Oak", "Oak"),
        ("Which bridge is the shortest?", "Elm > Ash < Oak", None),
    ],
)
def test_the_end_of_an_order_that_only_the_reply_names(asked: str, text: str, one: str | None) -> None:
    there = end_of_order(text, 0, len(text), asked)
    assert (there[0] if there else None) == one


GAP = "What word is missing: 'Time and ___ wait for no man'?"


def test_a_gap_is_filled_by_the_sentence_said_over() -> None:
    for text, filling in (
        ("'Time and tide wait for no man'", "tide"),
        ("Time and ___ wait for no man", None),
        ("Time waits for no man", None),
    ):
        there = filled_in(text, 0, len(text), GAP)
        assert (text[slice(*there)] if there else None) == filling


def test_who_is_more_so_than_one() -> None:
    older, younger = (f"Who of Ada, Bo, Cleo and Dov is {more} than Eske?" for more in ("older", "younger"))
    for said in (
        "Eske is older than Bo and Dov, but younger than Ada and Cleo.",
        "Bo and Dov are younger than Eske; Ada and Cleo are older.",
    ):
        assert marked("set", ["Ada", "Cleo"], older, said).score == 1.0
        assert marked("set", ["Bo", "Dov"], younger, said).score == 1.0
        assert marked("set", ["Bo", "Dov"], older, said).score == 0.0


@pytest.mark.parametrize(
    ("scheme", "key", "asked", "reply", "passes"),
    [
        ("set", ["2", "3"], "Solve x² − 5x + 6 = 0.", "x = 2 or x = 3", True),
        ("set", ["2", "3"], "Solve x² − 5x + 6 = 0.", "Answer: x ∈ {2, 3}", True),
        ("set", ["Ebba", "Finn"], "Who have boats?", "Answer: Ebba and Finn; Gro has a bike", True),
        ("set", ["Monday"], "When does it run?", "Answer: every Monday", True),
        ("set", ["Thursday", "Monday"], "On which days does it run?", "Answer: Mon + Thu", True),
        ("expression", "x^2/2", "What is an antiderivative of x?", "Answer: F(x) = x²/2 + C", True),
        ("expression", "x^2/2", "What is half of x²?", "Answer: x²/2 + C", False),
        ("expression", "x^2-3*x-10", "Expand (x + 2)(x − 5).", "It is x² − 3x − 10, whose zeros are −2 and 5.", True),
        ("expression", "2*a+3*b", "What do 2 pens at a and 3 at b euros cost?", "Answer: 2a € + 3b €", True),
        ("exact", ["Kari Lund"], "Kari Lund and Moss Dahl ran. Who won?", "Answer: K. Lund", True),
        ("exact", ["Kari Lund"], "Kari Lund and Moss Dahl ran. Who won?", "Answer: M. Lund", False),
        ("exact", ["Kari Lund"], "Kari Lund and Ola Lund ran. Who won?", "Answer: Lund", False),
        ("exact", ["Ola Lund"], "Kari Lund and Ola Lund ran. Who won?", "Answer: Lund", False),
        ("exact", ["quartz"], "What is sand made of?", "Answer: le quartz", True),
        ("exact", ["quartz"], "What is sand made of?", "Answer: mainly quartz, with some feldspar", True),
        ("exact", ["quartz"], "What is sand made of?", "Answer: quartz and feldspar", False),
        ("exact", ["Palma"], "Which town is it?", "Answer: La Palma", False),
        ("exact", ["cast"], "How was it made?", "Answer: die cast", False),
        ("exact", ["Salz"], "What is it made of?", "Answer: das Salz", True),
        ("exact", ["pêche"], "What is the French word for fishing?", "Answer: La pêche", True),
        ("exact", ["Tarn"], "Could you name the river of Velm?", "The river of Velm is the Tarn.", True),
        ("exact", ["Ida Brook"], "Do you know who built the lamp?", "Ida Brook built it.", True),
        ("exact", ["Tarn"], "Can you please tell me which river it is?", "Answer: the Tarn", True),
        ("exact", ["yes"], "Is the lamp at the pier brighter than the lamp at the mill?", "Yes, it is.", True),
        ("exact", ["Old Mill"], "Where does the path end?", "It starts at the church and ends at the Old Mill.", True),
        ("exact", ["church"], "Where does the path end?", "It starts at the church and ends at the Old Mill.", False),
        ("exact", ["Tarn"], "Which river doesn't reach the sea?", "The Sill reaches the sea, the Tarn doesn't.", True),
        ("exact", ["crane"], "Which bird is it?", "Answer: crane (heron ✗, stork ✗)", True),
        ("exact", ["heron"], "Which bird is it?", "Answer: crane (heron ✗, stork ✗)", False),
    ],
)
def test_what_a_plain_answer_is_read_as(scheme: str, key: object, asked: str, reply: str, passes: bool) -> None:
    assert (marked(scheme, key, asked, reply).score == 1.0) is passes


def test_an_article_of_another_language_counts_where_articles_count() -> None:
    assert marked("exact", "quartz", "What is sand made of?", "Answer: le quartz", articles=True).score == 0.0
