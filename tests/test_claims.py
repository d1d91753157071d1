"""What a reply claims: where its sentences end, what each is there for, what is named in it, in four languages."""

from __future__ import annotations

import pytest

from dryquarry.marking.model import Marking, Verdict
from dryquarry.marking.reading.places import telling_places
from dryquarry.marking.reading.roles import Role, roles_of
from dryquarry.marking.registry import prepare
from dryquarry.marking.reply.structure import take_apart

LINE = "Answer:"
OPTIONS = (("A", "the dory"), ("B", "the yawl"), ("C", "the skiff"), ("D", "the launch"))


@pytest.mark.parametrize(
    ("text", "sentences"),
    [
        (
            "It opens at 6 a.m. on weekdays. It shuts at 5 p.m.",
            ["It opens at 6 a.m. on weekdays.", "It shuts at 5 p.m."],
        ),
        ("Boat No. 5 left. Boat No. 6 stayed.", ["Boat No. 5 left.", "Boat No. 6 stayed."]),
        ("They pay 12.50 each.", ["They pay 12.50 each."]),
        ("Dr. Aas and Mt. Vik, e.g. in spring.", ["Dr. Aas and Mt. Vik, e.g. in spring."]),
        ("So it is 50! Is it? Yes.", ["So it is 50!", "Is it?", "Yes."]),
        ("- red\n- white", ["red", "white"]),
    ],
)
def test_a_sentence_ends_where_a_reader_would_end_it(text: str, sentences: list[str]) -> None:
    assert [one.text for one in take_apart(text).sentences] == sentences


@pytest.mark.parametrize(
    ("text", "role"),
    [
        ("So they pay 50 euros.", Role.CONCLUDES),
        ("Therefore, the answer is 50.", Role.CONCLUDES),
        ("Let me verify: 25 + 25 = 50.", Role.CHECKS),
        ("Let me know if you need more.", Role.REMARKS),
        ("Note: prices may change.", Role.REMARKS),
        ("What do they pay?", Role.ASKS),
        ("Some would say 62.", Role.REPORTS),
        ("Three adults pay 37.50.", Role.STATES),
        ("Also zahlen sie 50 Euro.", Role.CONCLUDES),
        ("Donc ils paient 50 euros.", Role.CONCLUDES),
        ("Por lo tanto, pagan 50 euros.", Role.CONCLUDES),
    ],
)
def test_the_opening_of_a_sentence_tells_what_it_is_there_for(text: str, role: Role) -> None:
    assert roles_of(take_apart(text))[0].role is role


@pytest.mark.parametrize(
    ("text", "kinds"),
    [
        ("Answer: 50", ["answer line"]),
        ("**Answer:** 50", ["answer line"]),
        ("My answer to this: 50", []),
        ("I can give you the answer: later.", []),
        (r"So \boxed{50}", ["boxed"]),
        ('{"answer": 50}', ["JSON field"]),
        ("Final answer: 50", ["answer line"]),
        ("TL;DR: 50", ["label"]),
        (r"Answer: 50, that is \boxed{50}", ["answer line", "boxed"]),
        ("Answer: 40\n\nAnswer: 50", ["answer line", "answer line"]),
    ],
)
def test_a_place_that_says_that_the_answer_stands_there_is_found_strongest_first(text: str, kinds: list[str]) -> None:
    assert [str(place.kind) for place in telling_places(take_apart(text), LINE)] == kinds


def verdict(scheme: str, key: object, said: str, asked: str = "", line: str | None = None) -> Verdict:
    choices = OPTIONS if scheme == "choice" else ()
    return prepare(Marking(scheme, key, {}, choices, line, asked=asked))(said).verdict


WHO = "Who repaired the fog bell in the winter of 1911?"


@pytest.mark.parametrize(
    ("right", "wrong"),
    [
        ("Runa Holm repaired it.", "Piet Aas repaired it."),
        ("It wasn't Piet Aas. It was Runa Holm.", "It wasn't Runa Holm. It was Piet Aas."),
        ("Not Piet Aas, but Runa Holm.", "Not Runa Holm, but Piet Aas."),
        ("Some name Piet Aas, but it was Runa Holm.", "Some name Runa Holm, but it was Piet Aas."),
        ("In the winter of 1911 Runa Holm repaired the bell.", "In the winter of 1911 Piet Aas repaired the bell."),
        ("The bell was repaired by Runa Holm.", "The bell was repaired by Piet Aas for Runa Holm."),
        ("Piet Aas. Wait, no: Runa Holm.", "Runa Holm. Wait, no: Piet Aas."),
        ("Es war Runa Holm, nicht Piet Aas.", "Es war nicht Runa Holm, sondern Piet Aas."),
        ("C'était Runa Holm.", "C'était Piet Aas."),
        ("Fue Runa Holm.", "Fue Piet Aas."),
        ("I'd say Runa Holm, but I'm not entirely sure.", "Either Runa Holm or Piet Aas."),
    ],
)
def test_a_name_is_read_as_it_is_meant(right: str, wrong: str) -> None:
    assert (verdict("exact", "Runa Holm", right, WHO), verdict("exact", "Runa Holm", wrong, WHO)) == ("pass", "fail")


@pytest.mark.parametrize(
    ("right", "wrong"),
    [
        ("It's C.", "It's D."),
        ("A and B are out. D left at one, so it's C.", "C is tempting, but wrong. It's D."),
        ("A ❌\nB ❌\nC ✅\nD ❌", "A ❌\nB ❌\nC ❌\nD ✅"),
        ("A: no\nB: no\nC: yes\nD: no", "A: no\nB: no\nC: yes\nD: yes"),
        ("The third one.", "The second one."),
        ("All except A, B and D.", "All except A and B."),
        ("The skiff left last.", "The launch left last, not the skiff."),
        ("C, not D", "C or D"),
    ],
)
def test_an_option_is_chosen_by_letter_text_place_or_sign(right: str, wrong: str) -> None:
    asked = "Which boat left last?"
    assert (verdict("choice", "C", right, asked), verdict("choice", "C", wrong, asked)) == ("pass", "fail")


@pytest.mark.parametrize(
    ("right", "wrong"),
    [
        ("Red, white and blue were lit. Green was broken.", "Red, white, blue and green were lit."),
        ("Lit: red, white, blue. Not lit: green.", "Lit: red, white. Not lit: blue."),
        ("There are red, white and blue.", "There are red and white."),
        ("1. red\n2. white\n3. blue", "1. red\n2. white\n3. blue\n4. green"),
        ("red (old), white (new) and blue", "red, white"),
    ],
)
def test_the_members_of_a_set_are_found_in_sentences_and_lines(right: str, wrong: str) -> None:
    asked, key = "Which lamps were lit?", ["red", "white", "blue"]
    assert (verdict("set", key, right, asked), verdict("set", key, wrong, asked)) == ("pass", "fail")


@pytest.mark.parametrize(
    ("right", "wrong"),
    [
        ("Red first, white second, blue third.", "White first, red second, blue third."),
        ("The red came first, then the white, and finally the blue.", "First the white, then the red, then the blue."),
        ("red > white > blue", "blue > white > red"),
        ("1. red\n2. white\n3. blue", "1. red\n2. blue\n3. white"),
    ],
)
def test_the_order_of_a_sequence_is_that_of_the_reply(right: str, wrong: str) -> None:
    asked, key = "In what order were they lit?", ["red", "white", "blue"]
    assert (verdict("sequence", key, right, asked), verdict("sequence", key, wrong, asked)) == ("pass", "fail")


@pytest.mark.parametrize(
    ("right", "wrong"),
    [
        ("126 crates arrive. 12 go back. That leaves 114.", "126 crates arrive. 12 go back."),
        ("The island keeps 114 of the 126 crates.", "The island keeps 12 of the 114 crates."),
        ("126 crates - 12 crates = 114 crates", "114 crates - 12 crates = 102 crates"),
        ("There are 114 crates.", "There are more than 114 crates."),
        ("I first got 138, which is wrong. It is 114.", "I first got 114, which is wrong. It is 138."),
        ("If all stayed it would be 126. So it is 114.", "If all stayed it would be 114. So it is 126."),
        ("114 Kisten bleiben.", "Mehr als 114 Kisten bleiben."),
        ("Il reste 114 caisses.", "Il reste plus de 114 caisses."),
    ],
)
def test_a_number_is_read_as_it_is_meant(right: str, wrong: str) -> None:
    asked = "How many crates stay on the island?"
    assert (verdict("number", 114, right, asked), verdict("number", 114, wrong, asked)) == ("pass", "fail")


@pytest.mark.parametrize(
    ("right", "wrong"),
    [
        ("The text does not say who lit it.", "The text does not say when, but Ebba lit it."),
        ("There's no way to know.", "Ebba lit it; the text does not say when."),
        ("Das geht aus dem Text nicht hervor.", "Das war Ebba."),
        ("Le texte ne le dit pas.", "C'est Ebba."),
        ("No se puede saber.", "Fue Ebba."),
        ("The passage names the lamp but not who lit it.", "It isn't stated, but my guess is Ebba."),
    ],
)
def test_abstaining_is_told_from_answering_in_four_languages(right: str, wrong: str) -> None:
    assert (
        verdict("abstain", None, right, "Who lit the lamp?"),
        verdict("abstain", None, wrong, "Who lit the lamp?"),
    ) == (
        "pass",
        "fail",
    )


@pytest.mark.parametrize(
    ("right", "wrong"),
    [
        ("Answer: Some would say 62, but 50", "Answer: Some would say 50, but 62"),
        (
            "Answer: if all paid in full it would be 62, but it is 50",
            "Answer: if all paid in full it would be 50, but it is 62",
        ),
        ("Answer: 62? No, 50.", "Answer: 50? No, 62."),
    ],
)
def test_an_answer_line_may_say_what_others_say_and_what_would_be(right: str, wrong: str) -> None:
    assert (verdict("number", 50, right, line=LINE), verdict("number", 50, wrong, line=LINE)) == ("pass", "fail")
