"""Plain ways to answer: names joined by "and", bounds behind a number, lines below the answer line, who came after whom."""

from __future__ import annotations

import pytest

from dryquarry.marking.model import Mark, Marking
from dryquarry.marking.reading.of_else import is_told_of_else
from dryquarry.marking.registry import prepare

LINE = "Answer:"
BUILT = "Who built the lamp?"
AFTER = "Which keeper came after Jory Penn?"
MOORED = "Which of the boats Alk, Bosun, Curlew and Dory are moored?"
LONG = "How long is the pier, in metres?"
NEXT = "What is the next number in the series 3, 6, 12, 24?"
TRUE = "Is it true that no boat left the harbour?"
CROSSES = "Does the path cross the railway?"
STATEMENT = (("A", "true"), ("B", "false"), ("C", "cannot be told"))


def marked(scheme: str, key: object, asked: str, reply: str, **options: object) -> Mark:
    line = LINE if LINE in reply else None
    return prepare(Marking(scheme, key, options, (), line, asked=asked))(reply)


@pytest.mark.parametrize(
    ("reply", "passes"),
    [
        ("The lamp was built by Ida Brook.", True),
        ("The lamp was built by Dr. Ida Brook.", True),
        ("Answer: Mrs Ida Brook, the smith", True),
        ("Answer: Brook, Ida", True),
        ("It was Ida Brook, and not Per Holm.", True),
        ("It was built by the smiths, like Ida Brook and Per Holm; she built it.", False),
        ("The lamp was built by Ida Brook and Per Holm.", False),
        ("Answer: Ida Brook & Per Holm", False),
        ("Answer: Ida Brook or her father", False),
        ("Ida Brook and Per Holm built it together.", False),
        ("Answer: Mr Per Brook", False),
        ("Answer: Holm, Ida", False),
    ],
)
def test_names_joined_are_none_of_them_and_a_title_is_no_part_of_one(reply: str, passes: bool) -> None:
    assert (marked("exact", "Ida Brook", BUILT, reply).score == 1.0) is passes


@pytest.mark.parametrize(
    ("asked", "reply", "passes"),
    [
        (LONG, "Answer: 36 or more", False),
        (LONG, "It is 36 or more metres long.", False),
        (LONG, "Answer: 36+", False),
        (LONG, "Answer: 36 m at least", False),
        (LONG, "Answer: at least 36", False),
        (LONG, "Answer: 36, or more precisely 36.0", True),
        ("How long is it at the least?", "Answer: 36 at least", True),
        ("How long can it be?", "Answer: 36 at most", True),
        ("How long can it be?", "Answer: 36 at least", False),
    ],
)
def test_a_bound_behind_a_number_is_no_number_unless_it_is_asked_for(asked: str, reply: str, passes: bool) -> None:
    assert (marked("number", 36, asked, reply).score == 1.0) is passes


@pytest.mark.parametrize(
    ("reply", "passes"),
    [
        ("After Jory Penn came Ada Fell.", True),
        ("Jory Penn was followed by Ada Fell.", True),
        ("Ada Fell succeeded him.", True),
        ("Before Ada Fell it was Jory Penn.", True),
        ("Per Holm came before Jory Penn, Ada Fell after him.", True),
        ("Jory Penn came after Ada Fell.", False),
        ("Jory Penn followed Ada Fell.", False),
        ("Ada Fell came before Penn.", False),
    ],
)
def test_who_came_after_whom(reply: str, passes: bool) -> None:
    assert (marked("exact", "Ada Fell", AFTER, reply).score == 1.0) is passes


@pytest.mark.parametrize(
    ("reply", "passes"),
    [
        ("Answer:\nBosun\nDory", True),
        ("Answer: Bosun\nDory\n\nThe others are out.", True),
        ("Answer:\nAlk: no\nBosun: yes\nCurlew: no\nDory: yes", True),
        ("Answer: neither Alk nor Curlew", True),
        ("Answer: not Alk and not Curlew, so Bosun and Dory", True),
        ("All but Alk and Curlew are moored.", True),
        ("Alk and Curlew aren't.", True),
        ("Answer:\nBosun\nDory\nAlk", False),
        ("Answer:\nAlk: yes\nBosun: yes\nCurlew: no\nDory: no", False),
        ("Answer: neither Alk nor Dory", False),
        ("Alk and Dory aren't.", False),
        ("Alk and Curlew aren't. Bosun and Dory and the tug are.", False),
    ],
)
def test_lists_line_by_line_and_by_what_is_not_in_them(reply: str, passes: bool) -> None:
    assert (marked("set", ["Bosun", "Dory"], MOORED, reply).score == 1.0) is passes


@pytest.mark.parametrize(
    ("reply", "passes"),
    [
        ("The next one is 48, then 96.", True),
        ("3, 6, 12, 24, 48, 96, …", True),
        ("24 is followed by 48.", True),
        ("The next one is 96, then 48.", False),
        ("3, 6, 12, 24, 36, 48", False),
    ],
)
def test_of_a_series_that_goes_on_the_next_one_is_meant(reply: str, passes: bool) -> None:
    assert (marked("number", 48, NEXT, reply).score == 1.0) is passes


@pytest.mark.parametrize(
    ("asked", "reply", "said"),
    [
        (TRUE, "Correct, no boat left.", "yes"),
        (TRUE, "No, one did.", "no"),
        (CROSSES, "The road doesn't, but the path does.", "yes"),
        (CROSSES, "The road does, the path doesn't.", "no"),
        (CROSSES, "The path does cross it.", "yes"),
        (CROSSES, "Without doubt.", "yes"),
        (CROSSES, "Certainly not.", "no"),
        (CROSSES, "I don't think so.", "no"),
    ],
)
def test_yes_and_no_in_other_words(asked: str, reply: str, said: str) -> None:
    assert marked("exact", said, asked, reply).score == 1.0
    assert marked("exact", {"yes": "no", "no": "yes"}[said], asked, reply).score == 0.0


@pytest.mark.parametrize(
    ("asked", "key", "reply"),
    [
        ("What is the lamp's fuel?", "whale oil", "It runs on whale oil."),
        ("What is the lamp's fuel?", "whale oil", "The fuel isn't lard, it's whale oil."),
        ("Into which river does the Sill flow?", "Tarn", "It flows into the Tarn, which flows into the Ebb."),
        ("In which year was the light lit?", "1884", "Planned in 1878, built in 1880, lit in 1884, changed in 1921."),
        ("When was the station founded?", "1867", "It was founded on 3 May 1867."),
        ("Where is the key kept?", "under the mat", "You'll find it under the mat by the door."),
        ("Which word in 'The wall broke twice' is an adverb?", "twice", "The word 'twice' is."),
        ("Which is heavier, the anchor of 40 kg or the chain of 45 kg?", "chain", "The anchor is lighter."),
        ("What colour is the master's boat?", "red", "The pilot's boat is blue, the master's is red."),
        ("At what time does it leave?", "14:20", "Answer: 14:20 h"),
        ("Which town is it?", "Velm", "Answer: Ost\n\nHmm, no. Ost is by the sea. So it's Velm."),
    ],
)
def test_what_a_plain_sentence_tells(asked: str, key: str, reply: str) -> None:
    assert marked("exact", key, asked, reply).score == 1.0


@pytest.mark.parametrize(
    ("asked", "key", "reply"),
    [
        ("Into which river does the Sill flow?", "Tarn", "The Tarn flows into the Sill."),
        ("What does the lamp burn?", "lard", "It used to burn lard, but now burns whale oil."),
        ("How deep is the well?", "12", "Answer: see the plan (it says 21)"),
    ],
)
def test_what_a_plain_sentence_does_not_tell(asked: str, key: str, reply: str) -> None:
    assert marked("exact", key, asked, reply).score == 0.0


def test_a_length_is_no_unknown() -> None:
    asked = "How deep is the well, of which the text says nothing?"
    assert marked("abstain", None, asked, "The text is silent.\n\nAnswer: 12 m").score == 0.0
    assert marked("abstain", None, asked, "The text is silent.\n\nAnswer: 12 + x").score == 1.0


@pytest.mark.parametrize(
    ("reply", "chosen"), [("We can't tell.", "C"), ("It can't be told by this alone, but it is true.", "A"), ("B", "B")]
)
def test_the_option_that_it_cannot_be_told_is_chosen_in_other_words(reply: str, chosen: str) -> None:
    one = Marking("choice", chosen, {}, STATEMENT, None, asked="Ruiz was ill. 'Ruiz was at sea.' Is this true?")
    assert prepare(one)(reply).score == 1.0


STATEMENTS = (("A", "only I"), ("B", "only II"), ("C", "I and II"), ("D", "neither"))


@pytest.mark.parametrize(
    ("reply", "chosen"),
    [
        ("I follows, II does not.", "A"),
        ("Only the first follows.", "A"),
        ("II follows and I doesn't.", "B"),
        ("Not I, but II.", "B"),
        ("I would say only II.", "B"),
        ("Both follow.", "C"),
        ("Neither I nor II follows.", "D"),
        ("I think D.", "D"),
    ],
)
def test_options_of_statements_are_chosen_by_what_follows(reply: str, chosen: str) -> None:
    asked = "Which statements follow? I: Some boats are old. II: No boat is new."
    for letter, _ in STATEMENTS:
        score = prepare(Marking("choice", letter, {}, STATEMENTS, None, asked=asked))(reply).score
        assert (score == 1.0) is (letter == chosen)


def test_options_that_are_amounts_are_no_statements() -> None:
    amounts = (("A", "2"), ("B", "3"), ("C", "1"), ("D", "none"))
    asked = "How many of the three lamps are lit?"
    assert prepare(Marking("choice", "A", {}, amounts, None, asked=asked))("The first.").score == 1.0


def test_the_same_amount_in_another_unit_is_no_other_amount() -> None:
    mark = marked("number", 17, "How far is it there and back?", "You walk 17 km; that's about 10.6 miles.", unit="km")
    assert mark.score == 1.0


def test_a_pattern_does_not_match_what_is_denied() -> None:
    asked = "Which berth is free?"
    assert marked("pattern", "QV-417", asked, "It's QW-417, not QV-417.").score == 0.0
    assert marked("pattern", "QV-417", asked, "It's QV-417, not QW-417.").score == 1.0


PIER = "The pier is 140 metres long, while the mole is 30 metres long."


def test_what_is_told_of_something_else_makes_nothing_unsure() -> None:
    pier, mole = PIER.index("140"), PIER.index("30")
    assert is_told_of_else(PIER, LONG, (pier, pier + 3), (mole, mole + 2))
    assert not is_told_of_else(PIER, LONG, (mole, mole + 2), (pier, pier + 3))
    assert marked("number", 140, LONG, "The pier is 140 metres long, and the mole is 30 metres long.").sure


def test_what_may_be_said_of_the_same_still_makes_unsure() -> None:
    both = "The pier is 140 metres long, so 30 metres longer."
    assert not is_told_of_else(both, LONG, (12, 15), (both.index("30"), both.index("30") + 2))


def test_what_takes_up_all_that_was_asked_as_well_stays_a_rival() -> None:
    piers = "The pier is 140 metres long, and the old pier is 30 metres long."
    assert not is_told_of_else(piers, LONG, (12, 15), (piers.index("30"), piers.index("30") + 2))
