"""What `suite check` finds: faults that must be mended, and advice to the author."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from dryquarry.errors import Fault
from dryquarry.marking.model import Mark, Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.registry import needs_run, whole_parts
from dryquarry.marking.schemes.query import KEY_BREAKS, NOT_POSSIBLE
from dryquarry.marking.values.texts import fold, shortened
from dryquarry.suites.question import DRAFT, Question, State, Suite
from dryquarry.suites.reader import SuiteRead

HEAVY_SHARE = 0.2
UNBALANCED_SHARE = 0.5
FEWEST_CHOICES = 4
REUSED_SIMILARITY = 0.25

# A key of words alone is found after the answer line as it stands, so it needs no proof.
_PLAIN_WORDS = re.compile(r"[\w ]+")


@dataclass(frozen=True, slots=True)
class SuiteCheck:
    """The outcome of checking one suite: faults must be mended, advice may be.

    `drawn` are the instances of templates, for the author to look at.
    """

    suite: str
    edition: str
    questions: int
    faults: tuple[Fault, ...]
    advice: tuple[Fault, ...]
    drawn: tuple[Question, ...] = ()


def check_suite(name: str, read: SuiteRead, previous: Suite | None = None) -> SuiteCheck:
    """Check what was read of a suite; `previous` is its newest sealed edition."""
    suite = read.suite
    if suite is None:
        return SuiteCheck(name, DRAFT, 0, read.faults, ())
    faults = [*read.faults]
    advice: list[Fault] = []
    for question in suite.questions:
        faults += unproved(question)
        advice += _own_advice(question)
    advice += [*_near_duplicates(suite), *_lone_families(suite), *_heavy(suite), *_unbalanced(suite)]
    advice += _reused_ids(suite, previous) if previous else []
    drawn = tuple(question for question in suite.questions if question.drawn)
    return SuiteCheck(name, suite.edition, len(suite.asked()), _sorted(faults), _sorted(advice), drawn)


def _sorted(found: list[Fault]) -> tuple[Fault, ...]:
    return tuple(sorted(found, key=lambda fault: (fault.file, fault.line or 0)))


def unproved(question: Question) -> Iterator[Fault]:
    """Yield a fault for a key that its own scheme does not accept, and for each proof that comes out wrong."""
    for said in key_replies(question):
        got = question.marker(said)
        if got.verdict is not Verdict.PASS and not _left_open(question, got):
            message = f"the key does not pass as an answer: '{shortened(said)}' comes out {got.verdict}: {got.reason}"
            yield _fault(question, "key-fails", message)
    proofs = question.proofs
    for wanted, samples in ((Verdict.PASS, proofs.passing), (Verdict.FAIL, proofs.failing)):
        for sample in samples:
            mark = question.mark(Outcome.ANSWERED, sample)  # as a reply would be, refusals with it
            if mark is None or _left_open(question, mark):
                continue
            if mark.verdict is not wanted:
                how = f"; read by: {mark.read_by}" if mark.read_by else ""
                said = f"should {wanted} but comes out {mark.verdict}: {mark.reason}{how}"
                yield _fault(question, "proof", f"the proof '{shortened(sample)}' {said}")


def _left_open(question: Question, mark: Mark) -> bool:
    """Tell whether a mark is open because nothing could be run, which is told as advice, or a person is to look."""
    return mark.verdict is Verdict.OPEN and needs_run(question.marking) and not mark.reason.startswith(KEY_BREAKS)


def key_replies(question: Question) -> list[str]:
    """Return replies that give each accepted key as an author would write it on the answer line."""
    marking = question.marking
    label = marking.answer_line or "The answer is"
    if marking.scheme == "choice":
        texts = [str(key) for key in _keys(question) if len(str(key).strip()) > 1]  # a letter passes by itself
        return [f"{label} {' and '.join(texts)}"] if texts and len(texts) == len(_keys(question)) else []
    if marking.scheme == "query":
        query = isinstance(marking.key, str) and marking.key != NOT_POSSIBLE
        return [f"```sql\n{marking.key}\n```"] if query else []
    if marking.scheme == "exact":
        return [f"{label} {key}" for key in _keys(question) if not _PLAIN_WORDS.fullmatch(str(key))]
    if marking.scheme == "number":
        unit = marking.options.get("unit") if marking.options.get("unit_required") else None
        after = f" {unit}" if unit not in (None, "clock") else ""
        keys = [key for key in _keys(question) if key is not None and not _is_plain_or_expression(key)]
        return [f"{label} {key}{after}" for key in keys]
    return []


def _keys(question: Question) -> list[Any]:
    key = question.marking.key
    return key if isinstance(key, list) else [key]


def _is_plain_or_expression(key: Any) -> bool:
    """Tell keys that need no proof: short whole numbers, and expressions, which no reply gives as they are."""
    if isinstance(key, int):
        return -(10**15) < key < 10**15
    return isinstance(key, str) and not re.fullmatch(r"[-+]?\d+(?:\.\d+)?(?:/\d+)?", key.strip())


def _own_advice(question: Question) -> Iterator[Fault]:
    if not question.why:
        yield _fault(question, "no-why", "no `why`: say how the key is reached")
    if not question.source:
        yield _fault(question, "no-source", "no `source`: say where the question comes from")
    if question.second_try and "{reason}" in question.second_try and not needs_run(question.marking):
        said = "`second_try` hands the mark's reason on, which names the key; `{answer}` hands on what was read"
        yield _fault(question, "key-in-second-try", said)
    yield from _answer_line(question)
    if question.marking.scheme == "number":
        yield from _untold_tolerance(question)
    if question.marking.scheme not in ("exact", "number"):
        return
    asked = question.text.casefold()
    for key in _keys(question):
        said = str(key).strip().casefold()
        if said in asked and re.search(rf"(?<![\w.,]){re.escape(said)}(?!\w|[.,]\d)", asked):
            yield _fault(question, "key-in-question", f"the key '{shortened(str(key))}' stands in the question")
            return


def _answer_line(question: Question) -> Iterator[Fault]:
    """Tell of an answer line that is asked for and taken for a part of the reply."""
    marking = question.marking
    if marking.answer_line is None or not (whole := whole_parts(marking)):
        return
    schemes = " and ".join(f"`{scheme}`" for scheme in whole)
    said = f'"{marking.answer_line}" is asked for, and {schemes} counts that line as part of the reply'
    does = "; `on: answer` looks at the answer alone" if "rules" in whole else ""
    yield _fault(question, "answer-line", f"{said}; `answer_line: none` asks for none{does}")


def _untold_tolerance(question: Question) -> Iterator[Fault]:
    """Tell of a key that no decimal writes out, and that a rounded answer would miss."""
    options = question.marking.options
    if any(name in options for name in ("abs", "rel", "places", "range")):
        return
    from dryquarry.marking.schemes.number import is_irrational  # with all that reads numbers

    for key in _keys(question):
        if is_irrational(key):
            said = f"the key '{shortened(str(key))}' has no end as a decimal, and no tolerance: a rounded answer fails"
            yield _fault(
                question, "no-tolerance", f"{said}; add `rel: 0.001`, or leave it if the exact value is wanted"
            )
            return


def _near_duplicates(suite: Suite) -> Iterator[Fault]:
    """Find questions of the same words, whatever their order, outside one family."""
    seen: dict[int, Question] = {}
    for question in suite.asked():
        words = sorted(re.findall(r"\w+", " ".join(question.texts).casefold()))
        choices = sorted(text.casefold() for _, text in question.marking.choices)
        first = seen.setdefault(hash((*words, "|", *choices)), question)
        if first is not question and (question.family is None or question.family != first.family):
            yield _fault(question, "near-duplicate", f"asks the same words as question {first.id}")


def _lone_families(suite: Suite) -> Iterator[Fault]:
    families: dict[str, list[Question]] = defaultdict(list)
    for question in suite.questions:
        if question.family:
            families[question.family].append(question)
    for name, members in families.items():
        if len(members) == 1 and members[0].drawn is None:
            yield _fault(members[0], "lone-family", f"the only question of family '{name}'")


def _heavy(suite: Suite) -> Iterator[Fault]:
    scored = suite.scored()
    total = sum(question.weight for question in scored)
    for question in scored:
        share = question.weight / total
        if share > HEAVY_SHARE and question.weight > 1.5 * total / len(scored):
            yield _fault(question, "heavy", f"its weight makes it {share:.0%} of the suite, more than a fifth")


def _unbalanced(suite: Suite) -> Iterator[Fault]:
    """Find a letter that is the key so often that guessing it would score well."""
    choices = [one for one in suite.scored() if one.marking.scheme == "choice" and len(_keys(one)) == 1]
    if len(choices) < FEWEST_CHOICES:
        return
    letter, count = Counter(_letter(question) for question in choices).most_common(1)[0]
    options = sum(len(question.marking.choices) for question in choices) / len(choices)
    share = count / len(choices)
    if share >= max(UNBALANCED_SHARE, 1.4 / options):
        message = f"a model that always says {letter} would score {share:.0%} of the {len(choices)} choice questions"
        yield Fault("unbalanced", message, choices[0].file)


def _letter(question: Question) -> str:
    key = str(_keys(question)[0]).strip()
    if key.upper() in {letter for letter, _ in question.marking.choices}:
        return key.upper()
    return next((letter for letter, text in question.marking.choices if fold(text) == fold(key)), key)


def _reused_ids(suite: Suite, previous: Suite) -> Iterator[Fault]:
    """Find ids under which the last edition asked something else altogether."""
    before = {question.id: question for question in previous.questions}
    for question in suite.questions:
        old = before.get(question.id)
        if old is None or old.ask_digest == question.ask_digest or question.drawn or question.state is State.RETIRED:
            continue
        first, second = (set(re.findall(r"\w+", one.text.casefold())) for one in (old, question))
        if len(first & second) < REUSED_SIMILARITY * len(first | second):
            message = f"asked something else in {previous.reference} ('{shortened(old.text, 40)}'); give it a new id"
            yield _fault(question, "id-reused", message)


def _fault(question: Question, kind: str, message: str) -> Fault:
    return Fault(kind, message, question.file, question.line, question.id)
