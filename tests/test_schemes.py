"""Schemes `exact`, `choice` and `rubric`, reading answers, and the registry."""

from __future__ import annotations

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from dryquarry.marking.model import Marking, MarkingFault, Verdict
from dryquarry.marking.outcomes import Outcome, mark_reply, outcome_of
from dryquarry.marking.registry import SCHEMES, prepare
from dryquarry.marking.reply.structure import take_apart
from dryquarry.marking.values.texts import fold

LINE = "Answer:"


def exact(key: object, reply: str, **options: object):
    return prepare(Marking("exact", key, options, answer_line=LINE))(reply)


# (key, reply, passes)
EXACT = [
    ("Moon", "Answer: the Moon.", True),
    ("Moon", "So the answer is the **Moon**.", True),
    ("Moon", "The tides are mostly raised by the Moon. 🌕\n\nIt is the Moon.", True),
    ("Moon", "The Moon? No: Answer: the Sun", False),
    ("green", "Starboard = right. The light is green!", True),
    ("red", "Port wine is red, so is the port light! The light is red.", True),
    ("crustaceans", "They are crustaceans, like crabs and lobsters. 🦀", True),
    ("crustaceans", "Answer: They are not crustaceans", False),
    ("Arctic tern", "Answer: the Arctic Tern (Sterna paradisaea)", True),
    ("Arctic tern", "Answer: the Antarctic tern", False),
    ("Arctic tern", "Answer: Tern", False),
    ("Tern", "Answer: Arctic tern", False),
    (["neap", "neap tide"], "It is called a neap tide.", True),
    ("Alexandria", "Answer: Alexandria, Egypt", True),
    ("NaCl", "Answer: $\\text{NaCl}$", True),
    ("GPH", "The answer is: GPH", True),
    ("Tuesday", "The first closed day of the month falls on a Tuesday.", True),
    ("GPH", "So FOG is written as GPH.", True),
    ("evening watch", "Answer: Ada keeps the evening watch", True),
    ("sea-pink", "Answer: sea pink", True),
    ("Café", "Answer: CAFE\u0301", True),
    ("cafe", "Answer: Café", True),
    ("don't", "Answer: don’t", True),
    ("3.5", "Answer: 35", False),
    ("-5", "Answer: 5", False),
    (1902, "Answer: 1902", True),
    ("A", "Answer: a", True),
    ("Tuesday", "Monday is out.\n\nAnswer: Tuesday - since the 1st is one", True),
    ("14:35", "Answer: 2.35 in the afternoon", True),
    ("14:35", "Answer: at 14.35", True),
    ("14:35", "Answer: 2:35 am", False),
    ("14:35", "Answer: 2:35", False),
    (["autumn", "fall"], "Answer: autumn/fall", True),
    (["autumn", "fall"], "Answer: autumn/winter", False),
    ("Tuesday", "", False),
    ("Tuesday", "It could be many a day of the week, and nobody knows which one of these comes", False),
]


@pytest.mark.parametrize(("key", "reply", "passes"), EXACT)
def test_exact_answers(key: object, reply: str, passes: bool) -> None:
    got = exact(key, reply)
    assert (got.verdict is Verdict.PASS) is passes, got


@pytest.mark.parametrize(
    ("option", "key", "answer"),
    [("case", "NaCl", "NACL"), ("accents", "Café", "Cafe"), ("punctuation", "sea-pink", "sea pink"), ("punctuation", "14:35", "14.35"),
     ("articles", "the Hague", "Hague")],
)  # fmt: skip
def test_a_difference_counts_only_when_the_option_says_so(option: str, key: str, answer: str) -> None:
    assert exact(key, f"Answer: {answer}").verdict is Verdict.PASS
    assert exact(key, f"Answer: {answer}", **{option: True}).verdict is Verdict.FAIL
    assert exact(key, f"Answer: {key}", **{option: True}).verdict is Verdict.PASS


@pytest.mark.parametrize("key", [None, [], True, 2.5, "", ["a", None], {"a": 1}])
def test_an_exact_key_that_is_no_text_is_a_fault(key: object) -> None:
    with pytest.raises(MarkingFault, match="key"):
        exact(key, "")


plain_word = st.text(st.characters(categories=("Ll", "Lu", "Nd")), min_size=1, max_size=20)


@given(plain_word)
@example("NI")
def test_every_key_passes_as_its_own_answer(key: str) -> None:
    assert exact(key, f"Some working.\n\n**Answer:** {key}.").verdict is Verdict.PASS


@given(st.text(max_size=200))
@example(text="A?-0")
def test_folding_twice_changes_nothing_more(text: str) -> None:
    # Dropping an article can uncover another; texts of such words alone are no answers.
    once = fold(text, articles=True)
    assert fold(once, articles=True) == once


@given(st.text(max_size=200))
def test_any_reply_has_places_inside_it(text: str) -> None:
    reply = take_apart(text)
    for sentence in reply.sentences:
        assert 0 <= reply.origin(sentence.start) <= reply.origin(sentence.end - 1) < len(text)


FOUR = (("A", "the red lamp"), ("B", "the green lamp"), ("C", "the white lamp"), ("D", "none of these"))

# (reply, letters passed as key "B")
CHOICES = [
    ("Answer: B", True),
    ("Answer: (B)", True),
    ("Answer: **B)** the green lamp", True),
    ("Answer: b", True),
    ("Answer: option B", True),
    ("Answer: the green lamp", True),
    ("Answer: B, the green lamp", True),
    ("Answer: It is the green lamp.", True),
    ("So my choice is **(B) the green lamp**.", True),
    ("I'd say option B.", True),
    ("It cannot be A.\n\nI choose B.", True),
    ("$\\boxed{B}$", True),
    ("Answer: A\n\nOn second thoughts no.\n\nAnswer: B", True),
    ("A) the red lamp\nB) the green lamp", False),
    ("A) the red lamp\nB) the green lamp\nC) the white lamp\nD) none of these\n\nAnswer: B", True),
    ("B) the green lamp", True),
    ("Answer: C", False),
    ("Answer: A) the green lamp", False),
    ("Answer: B) the red lamp", False),
    ("It is not B. Answer: C", False),
    ("Answer: not the green lamp", False),
    ("Answer: A or B", False),
    ("Answer: A and B", False),
    ("Answer: A lamp", False),
    ("Answer: Being unsure, none", False),
    ("B is wrong. Answer: D", False),
    ("", False),
]


@pytest.mark.parametrize(("reply", "passes"), CHOICES)
def test_choices(reply: str, passes: bool) -> None:
    got = prepare(Marking("choice", "B", {}, FOUR, LINE))(reply)
    assert (got.verdict is Verdict.PASS) is passes, got


@pytest.mark.parametrize(
    ("key", "reply", "passes"),
    [(["A", "C"], "Answer: A and C", True), (["A", "C"], "Answer: C, A", True),
     (["A", "C"], "Answer: A", False), (["A", "C"], "Answer: A, B, C", False),
     ("the white lamp", "Answer: C", True)],
)  # fmt: skip
def test_a_choice_wants_all_its_letters_and_no_other(key: object, reply: str, passes: bool) -> None:
    got = prepare(Marking("choice", key, {}, FOUR, LINE))(reply)
    assert (got.verdict is Verdict.PASS) is passes, got


@given(
    st.sampled_from("ABCD"),
    st.sampled_from("ABCD"),
    st.sampled_from(["{}", "({})", "**{}**", "Option {}", "{}."]),
)
def test_a_letter_passes_for_itself_only(key: str, said: str, form: str) -> None:
    got = prepare(Marking("choice", key, {}, FOUR, LINE))(f"Answer: {form.format(said)}")
    assert (got.verdict is Verdict.PASS) is (key == said)


def test_a_choice_key_that_is_no_option_is_a_fault() -> None:
    with pytest.raises(MarkingFault, match="'E' is no option"):
        prepare(Marking("choice", "E", {}, FOUR))
    with pytest.raises(MarkingFault, match="two `options`"):
        prepare(Marking("choice", "A"))


@pytest.mark.parametrize(
    ("text", "refuses"),
    [
        ("I'm sorry, but I can't help with that.", True),
        ("I’m sorry, but I cannot provide tide predictions. Ask the harbour.", True),
        ("I cannot answer questions about people.", True),
        ("Unfortunately, I am unable to assist with this request.", True),
        ("I can't say for certain, but the answer is 4.", False),
        ("Dogs cannot go up the tower, I am sorry to say.", False),
        ("I'm sorry to hear that. The answer is 4.", False),
        ("I cannot help laughing. " + "But here is a long letter. " * 30, False),
        ("", False),
    ],
)
def test_refusals_are_told_conservatively(text: str, refuses: bool) -> None:
    assert (outcome_of(Outcome.ANSWERED, text) is Outcome.REFUSED) is refuses


def test_a_refusal_with_an_answer_line_is_an_answer() -> None:
    assert outcome_of(Outcome.ANSWERED, "I can't help you much.\nAnswer: 4", "Answer:") is Outcome.ANSWERED


def test_only_an_answered_reply_is_read_and_a_failed_one_has_no_mark() -> None:
    marker = prepare(Marking("number", 4, answer_line=LINE))
    assert mark_reply(marker, Outcome.FAILED, "Answer: 4") is None
    for outcome in (Outcome.REFUSED, Outcome.BLOCKED, Outcome.CUT_OFF, Outcome.TIMED_OUT):
        got = mark_reply(marker, outcome, "Answer: 4")
        assert got is not None
        assert (got.score, got.verdict) == (0.0, Verdict.FAIL)


def test_every_scheme_is_registered_under_its_own_name() -> None:
    assert {name: scheme.name for name, scheme in SCHEMES.items()} == {name: name for name in SCHEMES}
    with pytest.raises(MarkingFault, match="did you mean 'exact'"):
        prepare(Marking("exat", "x"))
    with pytest.raises(MarkingFault, match="did you mean 'case'"):
        prepare(Marking("exact", "x", {"caze": True}))
