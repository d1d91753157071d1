"""Rule 8: which claim of plain prose is likelier by fitted weights, and that nothing stronger gives way to it."""

from __future__ import annotations

import json
import math
import re
from importlib.resources import files
from pathlib import Path

import numpy as np
import pytest
from fit_weights import Judged, fit
from scipy.special import softmax

from dryquarry.marking.model import Marking
from dryquarry.marking.reading import settling
from dryquarry.marking.reading.amounts import Amounts
from dryquarry.marking.reading.claims import Claim, Place, PlaceKind, Question, Stance
from dryquarry.marking.reading.courtesies import heard
from dryquarry.marking.reading.kinds import Settled
from dryquarry.marking.reading.likely import compared, shares_of, weights_of
from dryquarry.marking.reading.likely_features import Features, Said, Scene, scene_of
from dryquarry.marking.reading.likely_numbers import NUMBERS
from dryquarry.marking.reading.likely_texts import NAMED, named_piece
from dryquarry.marking.reading.named import Named
from dryquarry.marking.reading.roles import roles_of
from dryquarry.marking.registry import SCHEMES, prepare
from dryquarry.marking.reply.structure import take_apart

CASES = [json.loads(line) for line in (Path(__file__).parent / "data" / "blind.jsonl").read_text("utf-8").splitlines()]
READ_IN_PROSE = [case for case in CASES if case["scheme"] in ("number", "exact", "choice")]


def settled(case: dict, *, by_weights: bool = True) -> Settled:
    choices = tuple((case.get("choices") or {}).items())
    marking = Marking(case["scheme"], case["key"], case["options"], choices, case["answer_line"], asked=case["ask"])
    kind = SCHEMES[marking.scheme].kind(marking)
    question = Question(marking.asked, marking.answer_line)
    return settling.settle(heard(case["reply"], marking.asked), question, kind, by_weights=by_weights)


def features_in(asked: str, text: str) -> dict[str, Features]:
    """Return the features of the numbers of a reply, by how they are written."""
    reply, question, kind = take_apart(text), Question(asked), Amounts(settling_finder())
    claims = settling.prose_claims(reply, question, kind, settling.settle(reply, question, kind, by_weights=False))
    scene, features = compared(reply, question, roles_of(reply), NUMBERS, claims, None)
    return {text[said.claim.start : said.claim.end]: one for said, one in zip(scene.said, features, strict=True)}


def settling_finder():
    marking = Marking("number", 1, {})
    return SCHEMES["number"].kind(marking).finder


def test_shares_are_those_of_a_conditional_logit() -> None:
    reply = take_apart("First 3, then 5, at last 3.")
    place = Place(PlaceKind.SENTENCE, 0, len(reply.text), 0)
    claims = [Claim(value, at, at + 1, place) for value, at in ((3, 6), (5, 14), (3, 25))]
    scene = scene_of(reply, Question(), roles_of(reply), [(claim, claim.value) for claim in claims])
    weights = {"a": 0.7, "b": -1.2}
    features: list[Features] = [{"a": 1.0}, {"a": 2.0, "b": 1.0, "unknown": 9.0}, {"b": 0.5}]

    shares = {claim.value: share for claim, share in shares_of(scene, features, weights)}

    first, second, third = softmax([0.7, 1.4 - 1.2, -0.6])
    assert shares == pytest.approx({3: first + third, 5: second})


def test_the_fit_finds_the_weights_that_answers_were_drawn_with() -> None:
    drawn = np.random.default_rng(20_261_202)
    truth = {"last": 1.5, "bold": 0.8, "given": -1.1, "nothing": 0.0}
    reply = take_apart("One sentence.")
    place = Place(PlaceKind.SENTENCE, 0, len(reply.text), 0)
    said = tuple(
        Said(Claim(number, number, number + 1, place), number, 0, (0, 13), (0, 13), (), ()) for number in range(4)
    )
    scene = Scene(reply, Question(), roles_of(reply), said)
    replies = []
    for _ in range(4000):
        features = [{name: 1.0 for name in truth if drawn.random() < 0.4} for _ in said]
        chances = softmax([sum(truth[name] for name in one) for one in features])
        answer = drawn.choice(len(said), p=chances)
        replies.append(Judged("one", scene, features, tuple(number == answer for number in range(len(said))), True))

    found = fit(replies)

    # four times the error of a weight, about 0.045 here
    assert {name: found.get(name, 0.0) for name in truth} == pytest.approx(truth, abs=0.18)


def test_a_reply_that_should_fail_speaks_against_the_claims_that_pass() -> None:
    reply = take_apart("One sentence.")
    place = Place(PlaceKind.SENTENCE, 0, len(reply.text), 0)
    said = tuple(Said(Claim(one, one, one + 1, place), one, 0, (0, 13), (0, 13), (), ()) for one in range(2))
    scene = Scene(reply, Question(), roles_of(reply), said)
    failing = [Judged("one", scene, [{"tempting": 1.0}, {"sober": 1.0}], (True, False), False)] * 30

    found = fit(failing)

    assert found["tempting"] < -0.5
    assert found["sober"] > 0.5


@pytest.mark.parametrize("name", ["numbers", "phrases", "options"])
def test_weights_are_finite_and_of_known_features(name: str) -> None:
    weights = weights_of(name)
    words = {feature.split(":")[0] for feature in weights}

    assert len(weights) > 200
    assert all(math.isfinite(weight) and abs(weight) < 10 for weight in weights.values())
    assert {"stance", "role", "before", "behind", "sentence has", "clause takes up", "last of sentence"} <= words
    assert json.loads(files("dryquarry.marking").joinpath("fitted", f"{name}.json").read_text("utf-8")) == weights


def test_of_a_kind_without_weights_nothing_is_likelier() -> None:
    assert weights_of("nothing of the kind") == {}


def test_a_number_that_later_ones_are_made_of_is_worked_on() -> None:
    found = features_in(
        "A crate holds 6 layers of 14 plums, and 9 are bad. How many are good?", "It holds 84. 75 are good."
    )

    assert found["84"]["worked out"] == 1.0
    assert found["84"]["worked on"] == 1.0
    assert found["75"]["worked out, and not worked on"] == 1.0
    assert found["75"]["nothing new behind"] == 1.0
    assert "given" not in found["75"]
    assert "nothing new behind" not in found["84"]


def test_what_is_asked_about_is_told_by_its_side() -> None:
    found = features_in("How many boats sank?", "Of 40 boats 12 sank.")

    assert found["40"]["next word is asked about"] == 1.0
    assert found["12"]["nearest word behind is asked about"] == 1.0
    assert found["12"]["asked about: both"] == 1.0
    assert found["40"]["asked about: behind"] == 1.0


def changed_by_weights(cases: list[dict]) -> list[tuple[dict, Settled, Settled]]:
    pairs = [(case, settled(case), settled(case, by_weights=False)) for case in cases]
    return [pair for pair in pairs if pair[1].rule.startswith("8:")]


SAMPLE = READ_IN_PROSE[::9]
CHANGED = changed_by_weights(SAMPLE)


def test_rule_8_speaks_now_and_then() -> None:
    assert 5 <= len(CHANGED) <= 0.08 * len(SAMPLE)


def test_what_the_rules_chose_stays_a_rival_so_that_the_mark_is_unsure() -> None:
    for case, after, before in CHANGED:
        assert before.final is not None
        assert before.final.value in [rival.value for rival in after.rivals], case["id"]


def test_only_prose_gives_way_and_only_to_what_may_stand() -> None:
    for case, after, before in CHANGED:
        assert before.place is not None
        assert before.place.kind in settling.PROSE, case["id"]
        assert after.final is not None
        assert after.final.stands or after.final.stance is Stance.ASIDE, case["id"]


@pytest.mark.parametrize(
    ("reply", "rule"),
    [
        ("Answer: 9\n\nOf 540 mushrooms 513 are sold.", "3: the answer line"),
        ("\\boxed{9} since 513 of 540 are sold.", "3: a box"),
        ("The answer is 9. Of 540 mushrooms 513 are sold.", "4: the reply says"),
    ],
)
def test_a_place_that_says_itself_that_it_is_the_answer_never_gives_way(reply: str, rule: str) -> None:
    mark = prepare(Marking("number", 9, {}, asked="How many mushrooms are sold?", answer_line="Answer:"))(reply)

    assert mark.verdict == "pass"
    assert mark.rule is not None
    assert mark.rule.startswith(rule)


def test_a_mark_by_rule_8_says_how_likely_both_are_and_what_else_stands() -> None:
    asked = "A boathouse rents out 14 kayaks at 18 each and 5 canoes at 26 each. What does it take in?"
    reply = "It takes in a little under 400: 252 for kayaks and 130 for canoes, 382 exactly."
    mark = prepare(Marking("number", 382, {}, asked=asked))(reply)

    assert (mark.verdict, mark.answer, mark.sure) == ("pass", "382", False)
    assert mark.rule is not None
    likelier, less = re.findall(r"0\.\d\d", mark.rule)
    assert float(likelier) > float(less) + 0.5
    assert mark.unsure_because == "'130' also stands as an answer"


def test_whether_something_is_so_is_told_by_the_rules_alone() -> None:
    case = {"scheme": "exact", "key": "no", "options": {}, "answer_line": None, "ask": "Is 51 a prime number?"}

    assert settled(case | {"reply": "Yes, since it has no divisors but 1 and 51."}).rule.startswith("4:")


def with_weights(
    monkeypatch: pytest.MonkeyPatch, weights: dict[str, float], scheme: str, key: object, text: str
) -> Settled:
    """Return what stands in a reply to "Which bird came in May?" by weights of the test's own."""
    monkeypatch.setattr(settling, "weights_of", lambda name: weights)
    case = {"scheme": scheme, "key": key, "options": {}, "answer_line": None, "ask": "Which bird came in May?"}
    return settled(case | {"reply": text})


def test_only_what_a_sentence_alone_tells_gives_way(monkeypatch: pytest.MonkeyPatch) -> None:
    last = {"last": 50.0}
    said = with_weights(monkeypatch, last, "exact", "tern", "In May the tern came. Later came the dunlin.")
    stated = with_weights(monkeypatch, last, "exact", "tern", "The answer is: the tern. Later came the dunlin.")

    assert said.rule.startswith("8:")
    assert said.final is not None
    assert said.final.value.texts[0] == "dunlin"
    assert stated.rule.startswith("4: the reply says")


def test_a_number_that_is_likelier_is_a_rival_where_the_rules_see_none(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(settling, "weights_of", lambda name: {"last": 50.0})
    case = {"scheme": "number", "key": 5, "options": {}, "answer_line": None, "ask": "How many terns came in May?"}
    after = settled(case | {"reply": "In May 5 terns came. The warden is 61."})

    assert after.rule.startswith("4:")
    assert after.final is not None
    assert after.final.value.value == 5
    assert [rival.value.value for rival in after.rivals] == [61]


def test_a_heading_claims_nothing() -> None:
    text = "In May the tern came.\n\n**Explanation**\n\nIt comes from the south."
    question = Question("Which bird came in May?")
    reply, kind = take_apart(text), SCHEMES["exact"].kind(Marking("exact", "tern", {}, asked=question.asked))
    claims = settling.prose_claims(reply, question, kind, settling.settle(reply, question, kind))

    assert "tern came" in {claim.value.texts[0] for claim in claims if claim.value.texts}
    assert "Explanation" not in {claim.value.texts[0] for claim in claims if claim.value.texts}


def test_a_number_of_the_question_is_not_worked_out() -> None:
    found = features_in("A crate holds 6 layers of 14 plums. How many plums are there?", "84, as 84 over 14 is 6.")

    assert found["6"]["given"] == 1.0
    assert "worked out" not in found["6"]
    assert "nothing new behind" not in found["6"]


def test_a_piece_of_a_sentence_is_a_name_or_nothing() -> None:
    reply = take_apart("It ends in the Caspian Sea, which is larger than any other lake that there is on earth.")
    comma = reply.text.index(",")

    named = named_piece(reply, 15, comma)
    assert named is not None
    assert named.value.texts == ("Caspian Sea",)
    assert named_piece(reply, comma + 1, len(reply.text)) is None
    assert named_piece(reply, 0, 2) is None


def test_the_form_of_a_text_and_what_of_it_is_in_the_question() -> None:
    asked, text = "Who found the tern?", "Ada found the tern."
    reply, question = take_apart(text), Question(asked)
    place = Place(PlaceKind.SENTENCE, 0, len(text), 0)
    claims = [Claim(Named(((text[a:b], a, b),)), a, b, place) for a, b in ((0, 3), (14, 18))]
    _, (ada, tern) = compared(reply, question, roles_of(reply), NAMED, claims, claims[0])

    assert ada["capital"] == ada["one word"] == ada["asks who, capital: True, words: 1"] == 1.0
    assert "in the question" not in ada
    assert tern["in the question"] == tern["words in the question"] == 1.0
    assert "capital" not in tern


@pytest.mark.parametrize("scheme", ["number", "exact", "choice"])
def test_of_a_sentence_without_an_end_only_what_is_near_is_looked_at(scheme: str) -> None:
    choices = (("A", "the red lamp"), ("B", "the green lamp"))
    marking = Marking(scheme, {"number": 5, "exact": "tern", "choice": "B"}[scheme], {}, choices, asked="Which is it?")
    reply = take_apart("the tern pays 5 or the gull and option B the green lamp if not more than that " * 500)
    question, kind = Question(marking.asked), SCHEMES[scheme].kind(marking)
    claims = settling.prose_claims(reply, question, kind, settling.settle(reply, question, kind, by_weights=False))
    scene, _ = compared(reply, question, roles_of(reply), kind.likelihood, claims, None)

    assert scene.said
    assert all(said.stretch[1] - said.stretch[0] <= 900 + said.claim.end - said.claim.start for said in scene.said)
