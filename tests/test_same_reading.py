"""What says nothing about the question changes no mark: courtesies, headings, remarks, the question said over again."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from functools import cache
from pathlib import Path

import pytest

from dryquarry.marking.model import Mark, Marking, Verdict
from dryquarry.marking.outcomes import Outcome, mark_reply, outcome_of
from dryquarry.marking.reading.courtesies import heard
from dryquarry.marking.registry import prepare
from dryquarry.marking.reply.structure import take_apart

CASES = [json.loads(line) for line in (Path(__file__).parent / "data" / "blind.jsonl").read_text("utf-8").splitlines()]
SCHEMES = ("number", "exact", "choice", "set", "sequence", "expression", "abstain")
# every sixtieth one, as each is marked a dozen times
SAMPLE = [case for case in CASES[::60] if case["scheme"] in SCHEMES]
# So many of a hundred marks may turn where a sentence is added that no list of courtesies knows.
MOST_TURNED = 0.025


def mark_of(case: dict, reply: str) -> Mark:
    """Return the mark of a reply to the question of a case."""
    choices = tuple((case.get("choices") or {}).items())
    marking = Marking(
        case["scheme"], case["key"], case["options"], choices, answer_line=case["answer_line"], asked=case["ask"]
    )
    return mark_reply(prepare(marking), outcome_of(Outcome.ANSWERED, reply, case["answer_line"]), reply)


def turned(change: Callable[[str, str], str]) -> list[str]:
    """Return the cases whose mark turns when their reply is changed, each as its name and what was read."""
    found = []
    for number, case in enumerate(SAMPLE):
        after = mark_of(case, change(case["reply"], case["ask"]))
        if after.verdict != unchanged(number):
            found.append(f"{case['id']}: {after.answer}")
    return found


@cache
def unchanged(number: int) -> Verdict:
    """Return the verdict on a reply as it is."""
    return mark_of(SAMPLE[number], SAMPLE[number]["reply"]).verdict


@pytest.mark.parametrize(
    "change",
    [
        pytest.param(lambda reply, asked: f"{reply}\n\nI hope this helps!", id="hopes"),
        pytest.param(lambda reply, asked: f"{reply}\n\nLet me know if you would like to see the steps.", id="offers"),
        pytest.param(lambda reply, asked: f"{reply} 😊", id="smiles"),
        pytest.param(lambda reply, asked: f"{reply}\n\nWould you like me to check it in another way?", id="asks"),
    ],
)
def test_a_courtesy_at_the_end_changes_no_mark(change: Callable[[str, str], str]) -> None:
    assert turned(change) == []


@pytest.mark.parametrize(
    "change",
    [
        pytest.param(lambda reply, asked: f"Great question!\n\n{reply}", id="praise"),
        pytest.param(lambda reply, asked: f"Okay, let me work through this step by step.\n\n{reply}", id="lead"),
        pytest.param(lambda reply, asked: f"> {asked}\n\n{reply}" if "\n" not in asked else reply, id="question"),
        pytest.param(lambda reply, asked: f"# Solution\n\n{reply}", id="heading"),
        pytest.param(lambda reply, asked: f"**Solution**\n\n{reply}", id="bold heading"),
        pytest.param(lambda reply, asked: f"{reply}\n\n**Explanation**\n\nWe went through what is given.", id="part"),
        pytest.param(lambda reply, asked: f"{reply}\n\nNobody would dispute that.", id="remark"),
        pytest.param(lambda reply, asked: f"{reply}\n\nThat is a well-known fact.", id="judged"),
        pytest.param(lambda reply, asked: f"The wording matters here.\n\n{reply}", id="opening"),
    ],
)
def test_what_says_nothing_of_the_question_turns_hardly_any_mark(change: Callable[[str, str], str]) -> None:
    found = turned(change)

    assert len(found) <= MOST_TURNED * len(SAMPLE), found


def test_whose_view_it_is_turns_hardly_any_mark() -> None:
    opens = re.compile(r"(?:It|The|That|They|He|She|In|On|At)\b")

    def as_opinion(reply: str, asked: str) -> str:
        return f"I think {reply[0].lower()}{reply[1:]}" if opens.match(reply) else reply

    assert len(turned(as_opinion)) <= 0.005 * len(SAMPLE)


def test_a_wrong_answer_after_a_withdrawal_fails_and_a_right_one_passes() -> None:
    case = {"scheme": "exact", "key": "larch", "options": {}, "ask": "Which tree loses its needles in winter?"}
    case["answer_line"] = "Answer:"

    assert mark_of(case, "Answer: the spruce\n\nCorrection: the answer is larch.").verdict is Verdict.PASS
    assert (
        mark_of(case, "Answer: the larch\n\nWait, that's wrong. The correct answer is the fir.").verdict is Verdict.FAIL
    )
    checked = (
        "## Answer\nLarch\n\n## Check\nIt is bare in winter.\n\nWait, that's wrong. The correct answer is the fir."
    )
    assert mark_of(case, checked).verdict is Verdict.FAIL


def test_what_was_thought_before_the_answer_is_no_part_of_it() -> None:
    case = {"scheme": "number", "key": 63, "options": {}, "ask": "How many lanterns burn?", "answer_line": "Answer:"}

    assert mark_of(case, "<think>\nAnswer: 98\n</think>\n\n63 lanterns burn.").verdict is Verdict.PASS
    assert mark_of(case, "Answer: 63, I think.\n</think>\n98 lanterns burn.").verdict is Verdict.FAIL


def test_a_withdrawal_is_heard_in_a_check_too() -> None:
    sold = {"scheme": "number", "key": 513, "options": {}, "ask": "How many are sold?", "answer_line": None}
    reply = "## Sold\n513\n\n## Check\n513 + 27 = 540 = 36 × 15\n\nWait, that's wrong. The correct answer is 777."

    assert mark_of(sold, reply).verdict is Verdict.FAIL


@pytest.mark.parametrize("after", ["\n\nThis is it.", "\n\nI hope this helps!", "\nIt floats.", " \n\nCork is light."])
def test_an_a_on_the_answer_line_is_no_article_of_the_next_line(after: str) -> None:
    case = {
        "scheme": "choice",
        "key": "A",
        "options": {},
        "ask": "What does a cork do in water?",
        "answer_line": "Answer:",
    }
    case["choices"] = {"A": "It floats.", "B": "It sinks."}

    assert mark_of(case, f"Answer: A{after}").verdict is Verdict.PASS


def test_places_lead_back_to_the_whole_reply_where_courtesies_are_left_out() -> None:
    reply = "Great question! The answer is Riga. I hope this helps!"
    case = {
        "scheme": "exact",
        "key": "Riga",
        "options": {},
        "ask": "What is the capital of Latvia?",
        "answer_line": None,
    }
    mark = mark_of(case, reply)

    assert mark.verdict is Verdict.PASS
    assert mark.start is not None
    assert reply[mark.start : mark.end] == "Riga"


@pytest.mark.parametrize("reply", ["Sure!", "Great question!", "I hope this helps!"])
def test_a_reply_that_is_nothing_but_a_courtesy_is_heard_whole(reply: str) -> None:
    assert heard(reply).text == take_apart(reply).text


def test_a_greeting_is_left_out_before_a_yes_too() -> None:
    case = {"scheme": "exact", "key": "no", "options": {}, "ask": "Is 91 a prime number?", "answer_line": None}

    assert mark_of(case, "Sure!\n\nNo, 91 is 7 times 13.").verdict is Verdict.PASS
    assert mark_of(case | {"key": "yes"}, "Sure!\n\nNo, 91 is 7 times 13.").verdict is Verdict.FAIL


# Ways to give an answer {k} beside one {w} that is not given.
PUT = (
    "The answer is {k}, not {w}.",
    "The answer is not {w} but {k}.",
    "It's not {w}; it's {k}.",
    "{w} is wrong; the right answer is {k}.",
    "{w}? No, {k}.",
    "{w}... no, wait, {k}.",
    "At first I thought {w}, but it's {k}.",
    "Though {w} seems likely, the answer is {k}.",
    "The answer used to be {w}. Today it's {k}.",
    "A common mistake is {w}. The correct answer is {k}.",
    "Anyone who says {w} is wrong. It is {k}.",
    "Could it be {w}? No. It is {k}.",
    "{w} is tempting, but {k} is correct.",
    "Contrary to popular belief, it's {k} and not {w}.",
    "The correct answer is {k} ({w} is a common mistake).",
    "❌ {w}\n✅ {k}",
    "<think>\nIs it {w}? Yes, the answer is {w}.\n</think>\n\nThe answer is {k}.",
    "<answer>{k}</answer>",
    "**Final Answer**\n\n{k}",
    "The final answer is $\\boxed{{{k}}}$.",
    "Answer: {k}",
    "**Answer:** {k}",
    "[Answer] {k}",
    "Answer → {k}",
    "Answer: not {w} but {k}",
    "Answer: it's not {w}, it's {k}",
    "Answer: {k}, not {w}",
    "Answer: {w}. No, {k}.",
    "Answer: {w} – sorry, {k}",
    "Answer: {w} is what most people say, but it's {k}",
    "Answer: {w}\n\nOops, I meant {k}.",
    "Answer: {w}\n\nEdit: {k}",
    "Answer: {w}\n\nCorrection: the answer is {k}.",
    "**Answer: {w}**\n\nHold on. That's wrong.\n\n**Answer: {k}**",
)
ASKED = (
    {"scheme": "number", "key": 1344, "options": {}, "ask": "A hall has 42 rows of 32 seats. How many seats is that?"},
    {"scheme": "exact", "key": "Tallinn", "options": {}, "ask": "What is the capital of Estonia?"},
    {"scheme": "choice", "key": "C", "options": {}, "ask": "Who of the four keeps the lamp?"}
    | {"choices": {"A": "Ola", "B": "Ben", "C": "Mia", "D": "Finn"}},
    {"scheme": "expression", "key": "3*x + 4", "options": {}, "ask": "What does a ride of x kilometres cost?"},
)
OTHERS = {"number": ("1344", "777"), "exact": ("Tallinn", "Riga"), "choice": ("C", "A"), "expression": ("3x + 4", "7x")}


@pytest.mark.parametrize("case", ASKED, ids=lambda case: case["scheme"])
@pytest.mark.parametrize("put", PUT)
def test_what_is_given_is_told_from_what_is_not_in_whatever_way_it_is_put(case: dict, put: str) -> None:
    right, wrong = OTHERS[case["scheme"]]
    case = {**case, "answer_line": "Answer:" if "Answer" in put else None}

    assert mark_of(case, put.format(k=right, w=wrong)).verdict is Verdict.PASS
    assert mark_of(case, put.format(k=wrong, w=right)).verdict is Verdict.FAIL
