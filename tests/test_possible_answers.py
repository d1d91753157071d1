"""What a question itself says may answer it, and how replies are read by that: never by the key."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dryquarry.marking.model import Marking
from dryquarry.marking.reading.asked_lists import mentioned_in, others_than_said, short_mentions
from dryquarry.marking.reading.offers import offered_by, without_offers
from dryquarry.marking.reading.possible_answers import is_possible, possible_in
from dryquarry.marking.registry import prepare

BIRD = "The log says: 'A tall grey bird stood at the sluice.' Which was it, a heron or an egret?"
SEA = "Which sea does the Volga flow into?"
WHO = "'Orla handed the match to Piet, who lit the lamp while Marit held the ladder.' Who lit the lamp?"
LEGS = "Sort by the number of legs, fewest first: crab (ten), gull, ant, spider."
WADERS = "Which of the birds curlew, gannet, oystercatcher, swift and avocet are waders?"

OFFERS = {
    BIRD: ("heron", "egret"),
    "Which word does not belong: oak, ash, rose, elm?": ("oak", "ash", "rose", "elm"),
    "Which metal from 'iron, copper, tin' turns green?": ("iron", "copper", "tin"),
    "Which of the flowers rose, marigold and violet has the most letters?": ("rose", "marigold", "violet"),
    "Which river is longer, the Elm (340 km) or the Ash (290 km)?": ("Elm", "Ash"),
    "Which bird on the card, the knot, the ruff or the smew, breeds farthest north?": ("knot", "ruff", "smew"),
    "Which rock is it? Choose from basalt, gneiss, granite and marble.": ("basalt", "gneiss", "granite", "marble"),
    SEA: (),
    "Which port of Brittany, on the Rance, has ramparts and is called the corsairs' town?": (),
    "In which city did the Pharos, one of the seven wonders, stand?": (),
    "Which direction lies halfway between north and west?": (),
    "What did Ada bring? 'Ada brought the bread, Bo the cheese and Cem the wine.'": (),
    "In which month is the first spring tide: 'Jan neap, Feb neap, Mar spring'?": (),
    "What is the capital of the country that shows a heron: Tarn, Velm or Quist?": (),
}


@pytest.mark.parametrize(("asked", "offered"), OFFERS.items())
def test_a_question_offers_what_one_may_choose_from(asked: str, offered: tuple[str, ...]) -> None:
    assert offered_by(asked) == offered


def test_what_is_offered_is_no_part_of_what_is_asked() -> None:
    assert "heron" not in without_offers(BIRD)
    assert without_offers(SEA) == SEA


NAMED = {
    ("It ends in the Caspian Sea, past Kazan.", SEA): ["caspian sea", "kazan"],
    ("Jupiter turns fastest.", "Which planet turns fastest?"): ["jupiter"],
    ("The Volga is long.", SEA): [],
    ("Decision: Harrow", "What is the capital of Velm?"): ["harrow"],
    ("Although it is small, it is so.", SEA): [],
    ("Ljubljana of Slovenia", "What is the capital of Slovenia?"): ["ljubljana"],
    ("not the Black Sea", SEA): [],
    ("It stood still like a heron", BIRD): [],
    ("Egrets are white.", BIRD): ["egret"],
    ("rebuilt three years after the fire of 1899, in 1902", "Built 1871, rebuilt 1902: when was it rebuilt?"): ["1902"],
    ("Sheet bends hold.", "Which holds in rope: reef, bowline, sheet bend or clove hitch?"): ["sheet bend"],
    ("Emily wrote it.", "Who wrote it?"): ["emily"],
    ("Clearly, it is so.", "Who wrote it?"): [],
    ("It may be May.", "In which month does it end?"): ["may"],
}


@pytest.mark.parametrize(("said", "names"), NAMED.items())
def test_what_may_answer_is_found(said: tuple[str, str], names: list[str]) -> None:
    text, asked = said
    assert [name for name, _, _ in possible_in(text, 0, len(text), asked) or ()] == names


def test_a_label_is_no_name() -> None:
    assert possible_in("Decision: Harrow", 0, len("Decision"), "What is the capital of Velm?") == []


def test_the_former_and_the_latter_are_what_was_named_before() -> None:
    text = "Heron: grey. Egret: white. The log matches the first."
    start = text.index("The log")
    assert [name for name, _, _ in possible_in(text, start, len(text), BIRD) or ()] == ["heron"]
    # where nothing is named before it, of the two that the question names
    assert [name for name, _, _ in possible_in("The latter.", 0, 11, BIRD) or ()] == ["egret"]
    assert [name for name, _, _ in possible_in("The former.", 0, 11, BIRD) or ()] == ["heron"]


def test_a_question_that_tells_of_nothing_limits_nothing() -> None:
    assert possible_in("a sextant", 0, 9, "What is the height of the sun measured with?") is None


@pytest.mark.parametrize(
    ("text", "alone"), [("A heron, then.", True), ("So egret it is", True), ("A heron is grey.", False)]
)
def test_a_sentence_may_be_one_possible_answer_alone(text: str, alone: bool) -> None:
    assert is_possible(text, BIRD) is alone


# A reply, and what it answers; the other of the two is never what it says.
READ = [
    (BIRD, "An egret would be white. The {} is grey, so that's what it was.", "heron"),
    (BIRD, "It can hardly have been an {other}. A {}, then.", "heron"),
    (BIRD, "Herons and egrets look alike. The log points to the {}.", "egret"),
    (SEA, "Not the {other}, not the Baltic: the {}.", "Caspian"),
    (SEA, "The Don goes to the {other}. As for the Volga, it ends in the {}.", "Caspian"),
    (WHO, "{} did, with the match that {other} had given him.", "Piet"),
    (WHO, "The pronoun 'who' refers to {}. He's the one who lit it.", "Piet"),
    (WHO, "Marit held the ladder and {other} gave the match away, which leaves {}.", "Piet"),
]
OTHER = {BIRD: {"heron": "egret", "egret": "heron"}, SEA: {"Caspian": "Black Sea"}, WHO: {"Piet": "Orla"}}


@pytest.mark.parametrize(("asked", "put", "said"), READ)
def test_a_reply_is_read_by_what_may_answer(asked: str, put: str, said: str) -> None:
    other = OTHER[asked][said]
    reply = put.format(said, other=other)
    assert prepare(Marking("exact", said, asked=asked))(reply).verdict == "pass"
    assert prepare(Marking("exact", other, asked=asked))(reply).verdict == "fail"


@pytest.mark.parametrize(
    "reply",
    [
        "So it is Ostrowick. In fact, a heron is quite different.",
        "The correct answer is Ostrowick (a heron is a common mistake).",
        "It's Ostrowick, even though a heron looks right.",
        "A heron is tempting, but Ostrowick is right.",
        "Answer: a heron\n\nOops, I meant Ostrowick.",
        "Neither a heron nor an egret.",
        "Answer: nothing, a heron being too small",
    ],
)
def test_an_answer_that_is_not_offered_is_no_other(reply: str) -> None:
    assert prepare(Marking("exact", "heron", asked=BIRD))(reply).verdict == "fail"


@pytest.mark.parametrize(
    ("asked", "line"),
    [
        ("On which day is it?", "Monday (the 7th)"),
        ("Which trench is deepest?", "the Mariana Trench"),
        (BIRD, "a heron"),
    ],
)
def test_an_answer_line_is_shown_as_it_stands(asked: str, line: str) -> None:
    mark = prepare(Marking("exact", "something else", asked=asked, answer_line="Answer:"))(f"Answer: {line}")
    assert mark.answer == line


def test_a_name_in_an_answer_line_is_not_taken_for_denied_by_what_stands_beside_it() -> None:
    for reply, verdict in (("Answer: none, not even a heron", "fail"), ("Answer: not an egret, but a heron", "pass")):
        assert prepare(Marking("exact", "heron", asked=BIRD, answer_line="Answer:"))(reply).verdict == verdict


def test_what_is_of_another_rank_is_not_what_is_asked_for() -> None:
    mark = prepare(Marking("exact", "Osten", asked="Which village has the oldest church, Osten, Wulm or Perk?"))
    assert mark("Osten has the second-oldest church.").verdict == "fail"
    assert mark("Osten has the oldest church.").verdict == "pass"


def test_things_are_read_as_they_are_mentioned() -> None:
    told = "A gull has two legs, an ant six, a spider eight and a crab ten."
    assert [name for name, _, _ in mentioned_in(told, 0, len(told), LEGS)] == ["gull", "ant", "spider", "crab"]
    for turned in ("The crab comes last, after the gull.", "The gull, the ant and not the crab", "gull, gull, ant"):
        assert mentioned_in(turned, 0, len(turned), LEGS) == []
    assert short_mentions(["Two legs: gull.", "Six: ant.", "Eight: spider.", "Ten: crab."], LEGS) == [[0, 1, 2, 3]]
    assert short_mentions(["Two legs: gull.", "Six: ant."], LEGS) == []


def test_the_others_are_those_that_were_not_said() -> None:
    said = "The gannet dives and the swift flies. The other three are waders."
    rest = others_than_said(said, 0, len(said), WADERS)
    assert rest is not None
    assert [name for name, _, _ in rest] == ["curlew", "oystercatcher", "avocet"]
    for no_rest in (said.replace("three", "two"), "The other three are waders.", "The others aren't."):
        assert others_than_said(no_rest, 0, len(no_rest), WADERS) is None


NUMBERS = [
    ("How many singers are not altos, if 18 of 120 are?", "Answer: 120 singers less 18 altos leaves 102.", 102),
    ("What do 25 days make at 48,500 a day?", "Answer: 48,500 a day makes 1,212,500 in 25 days", 1212500),
    ("What is 18 % of 2,350?", "One percent of 2,350 is 23.5, and eighteen times that is 423.", 423),
    ("How many crates of 24 take 1,000 bottles?", "41 take 984; for the other 16 you'd need one more, so 42.", 42),
    ("How many crates of 24 can be filled?", "24 goes into 1,000 41 times, and 16 bottles are left over.", 41),
    ("By how many metres did it change?", "It sank from 12.4 m to -3.7 m, a drop of 16.1 m.", 16.1),
    ("How many good plums are there?", "There are 84 plums. 9 are bad, so 84 - 9 = 75 are good.", 75),
    ("How many posts?", "Answer: 24 posts × 4 = 96 posts, minus the 4 counted twice = 92 posts", 92),
]


@pytest.mark.parametrize(("asked", "reply", "meant"), NUMBERS)
def test_a_number_is_drawn_from_the_others(asked: str, reply: str, meant: float) -> None:
    marks = {key: prepare(Marking("number", key, asked=asked, answer_line="Answer:"))(reply) for key in (meant, 84, 16)}
    assert marks[meant].verdict == "pass"
    assert all(mark.verdict == "fail" for key, mark in marks.items() if key != meant)


WORDS = st.lists(
    st.sampled_from(
        [
            "heron",
            "egret",
            "the",
            "a",
            "grey",
            "was",
            "not",
            "it",
            "is",
            "or",
            "and",
            "The",
            "Heron",
            ".",
            ",",
            ":",
            "latter",
            "one",
        ]
    ),
    max_size=14,
)


@given(WORDS)
def test_what_may_answer_lies_where_it_is_said_to(words: list[str]) -> None:
    text = " ".join(words)
    for name, start, end in possible_in(text, 0, len(text), BIRD) or ():
        assert name in ("heron", "egret")
        assert 0 <= start < end <= len(text)
