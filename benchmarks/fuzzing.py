"""Fuzzing of everything that reads what others wrote: replies by every scheme, suites, entrants, sheets, streams, judges.

    fuzzing.py [MINUTES]

A reply may only lead to a mark, a file only to a fault that is told; anything else is printed with what caused it. None may take
longer than the two seconds that a formula may, nor 300 MB.
"""

from __future__ import annotations

import random
import resource
import sys
import time
from collections import Counter
from collections.abc import Callable
from contextlib import suppress
from importlib import resources
from pathlib import Path

from long_replies import CHOICES, MARKINGS, PIECES
from ruamel.yaml import YAML

from dryquarry.asking.entrants import read_entrants
from dryquarry.asking.protocol import read_response
from dryquarry.asking.transport import Response
from dryquarry.errors import DryQuarryError
from dryquarry.marking.judging.verdicts import UnreadableVerdict, read_verdict
from dryquarry.marking.model import Marking, MarkingFault, Verdict
from dryquarry.marking.registry import prepare
from dryquarry.marking.rubrics import Criterion, Rubric
from dryquarry.suites.checking import check_suite
from dryquarry.suites.editions import read_edition
from dryquarry.suites.importing import import_questions
from dryquarry.suites.mark_tables import read_marks
from dryquarry.suites.reader import SuiteContent, read_suite
from dryquarry.suites.sheets import FORMS, read_sheet

TABLE = Path(__file__).parents[1] / "tests" / "data" / "fairness.yaml"
SLOW_S = 2.0
MUCH_MB = 300.0
RUBRIC = Rubric("polite", (Criterion("thanks", "Does it thank?"),))


def texts() -> list[str]:
    """Replies to begin from."""
    groups = YAML(typ="safe").load(TABLE)
    sides = ("pass", "fail", "trapped_pass", "trapped_fail")
    return [text for group in groups for side in sides for text in group.get(side, [])]


def markings() -> list[Marking]:
    """A marking of every scheme, and every one of the fairness table."""
    found = [*MARKINGS.values(), Marking("expression", "x^2 + 1", {}, (), "Answer:")]
    for group in YAML(typ="safe").load(TABLE):
        choices = CHOICES if group["scheme"] == "choice" else ()
        found.append(Marking(group["scheme"], group.get("key"), group.get("options", {}), choices, "Answer:"))
    return found


def mutated(chance: random.Random, seeds: list[str]) -> str:
    """A text made of others: joined, cut, with pieces put in and characters changed."""
    text = "".join(chance.choice(seeds) for _ in range(chance.randint(1, 3)))
    for _ in range(chance.randint(0, 8)):
        place = chance.randint(0, len(text))
        kind = chance.random()
        if kind < 0.5:
            text = text[:place] + chance.choice(PIECES) * chance.choice((1, 1, 2, 40)) + text[place:]
        elif kind < 0.7:
            text = text[:place] + text[place + chance.randint(1, 9) :]
        else:
            text = (
                text[:place] + chr(chance.choice((chance.randrange(32, 127), chance.randrange(0xD800)))) + text[place:]
            )
    return text


def readers(chance: random.Random, seeds: list[str]) -> list[tuple[str, Callable[[], object]]]:
    """What to try in one round."""
    demo = resources.files("dryquarry.standin") / "data" / "demo"
    suite = (demo / "suites" / "lamp-logic" / "suite.yaml").read_text("utf-8")
    edition = (demo / "suites" / "tide-sums" / "editions" / "2.jsonl").read_bytes()
    entrants = (demo / "entrants.toml").read_text("utf-8")
    rounds: list[tuple[str, Callable[[], object]]] = []
    for marking in markings():
        try:
            mark = prepare(marking)
        except MarkingFault:
            continue
        rounds.append((f"scheme {marking.scheme}", lambda mark=mark: checked(mark(mutated(chance, seeds)))))  # type: ignore[misc]
    rounds += [
        ("suite", lambda: suite_read(cut(chance, suite, seeds))),
        ("suite, few signs", lambda: suite_read(_few_signs(chance, suite, seeds))),
        ("entrants, few signs", lambda: read_entrants(_few_signs(chance, entrants, seeds).encode("utf-8", "replace"), "f")),
        ("completion, few signs", lambda: read_response(Response(200, _few_signs(chance, COMPLETION, seeds).encode()))),
        ("verdict, few signs", lambda: read_verdict(_few_signs(chance, VERDICT, seeds), RUBRIC, "a reply")),
        ("edition", lambda: read_edition("s", "f", cut_bytes(chance, edition))),
        ("entrants", lambda: read_entrants(cut(chance, entrants, seeds).encode("utf-8", "replace"), "f")),
        ("sheet", lambda: read_sheet(mutated(chance, seeds), chance.choice(FORMS), "f")),
        ("import", lambda: imported(chance, seeds)),
        ("marks", lambda: read_marks(mutated(chance, [*seeds, MARK_TABLE]).encode("utf-8", "replace"), "f")),
        ("stream", lambda: read_response(Response(200, mutated(chance, [*seeds, STREAM]).encode("utf-8", "replace"), streamed=True))),
        ("completion", lambda: read_response(Response(200, mutated(chance, [COMPLETION]).encode("utf-8", "replace")))),
        ("verdict", lambda: read_verdict(mutated(chance, [*seeds, VERDICT]), RUBRIC, "a reply")),
    ]  # fmt: skip
    return rounds


STREAM = 'data: {"choices": [{"delta": {"content": "Answer: 5"}, "finish_reason": "stop"}]}\n\ndata: [DONE]\n\n'
COMPLETION = (
    '{"choices": [{"message": {"content": "Answer: 5"}, "finish_reason": "stop"}], "usage": {"prompt_tokens": 1}}'
)
VERDICT = '{"criteria": [{"id": "thanks", "points": 1, "why": "it does"}]}'


def suite_read(text: str) -> None:
    """Read a suite, and where it can be read check it as `suite check` does."""
    read = read_suite(SuiteContent("s", (("f", text.encode("utf-8", "replace")),)))
    if read.suite is not None:
        check_suite("s", read)


MARK_TABLE = "suite,question,entrant,trial,set,because\ns,q,wick,1,pass,read well\ns,q,wick,2,4/5,\n"
IMPORTS = (
    ("f.csv", "id,ask,key,options,weight\na,What?,5,,2\n" + 'b,"Which, then?",A,"A) x; B) y",1\n'),
    ("f.json", '[{"id": "a", "ask": "What?", "key": [1, 2], "mark": {"scheme": "set"}}]'),
    (
        "f.jsonl",
        '{"id": "a", "ask": "What?", "key": 5}\n{"id": "b", "ask": "Which?", "options": {"A": "x"}, "key": "A"}\n',
    ),
)


def imported(chance: random.Random, seeds: list[str]) -> None:
    """A file of questions to import, cut and with something put in; what it gives is read as a suite's would be."""
    file, text = chance.choice(IMPORTS)
    content = (cut if chance.random() < 0.5 else _few_signs)(chance, text, seeds).encode("utf-8", "replace")
    import_questions(content, file, {}, None, "s")


def _few_signs(chance: random.Random, text: str, _: list[str]) -> str:
    """A file's text with a few signs of its kind put in or taken out: it stays readable for longer."""
    for _ in range(chance.randint(1, 4)):
        place = chance.randint(0, len(text))
        text = text[:place] + chance.choice(SIGNS) + text[place + chance.randint(0, 1) :]
    return text


SIGNS = (
    '"',
    "'",
    ",",
    ";",
    "\n",
    "\r",
    "[",
    "]",
    "{",
    "}",
    ":",
    "5",
    "-",
    "1e999",
    "nan",
    "\0",
    "\\ud83d",
    "=",
    "A) ",
    "\t",
    "#",
)


def cut(chance: random.Random, text: str, seeds: list[str]) -> str:
    """A part of a file's text, with something put in."""
    place = chance.randint(0, len(text))
    return text[:place] + mutated(chance, seeds) + text[place + chance.randint(0, 400) :]


def cut_bytes(chance: random.Random, content: bytes) -> bytes:
    place = chance.randint(0, len(content) - 1)
    return content[:place] + bytes([chance.randrange(256)]) + content[place + chance.randint(0, 2) :]


def most_mb() -> float:
    """The most memory that this process has had so far."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def checked(mark) -> None:  # type: ignore[no-untyped-def]
    assert mark.score is None or 0 <= mark.score <= 1
    assert mark.reason
    assert (mark.score is None) == (mark.verdict in (Verdict.OPEN, Verdict.VOID))


def main() -> None:
    minutes = float(sys.argv[1]) if len(sys.argv) > 1 else 10.0
    chance = random.Random(time.time_ns())
    seeds = texts()
    rounds = readers(chance, seeds)
    tried: Counter[str] = Counter()
    found: Counter[str] = Counter()
    slowest = (0.0, "none")
    end = time.monotonic() + 60 * minutes
    while time.monotonic() < end:
        name, read = chance.choice(rounds)
        started, state, held_mb = time.perf_counter(), chance.getstate(), most_mb()
        try:
            read()
        except (DryQuarryError, UnreadableVerdict):
            pass
        except Exception as error:
            found[f"{name}: {type(error).__name__}: {error}"[:160]] += 1
            chance_again = random.Random()
            chance_again.setstate(state)
            if sum(found.values()) <= 20:
                print(
                    f"{name}: {type(error).__name__}: {error}; text {mutated(chance_again, seeds)[:300]!r}", flush=True
                )
        tried[name] += 1
        if most_mb() - held_mb > MUCH_MB:
            found[f"{name}: more than {MUCH_MB:g} MB"] += 1
        took = time.perf_counter() - started
        if took > SLOW_S:  # once more, as the machine may have had other things to do
            chance.setstate(state)
            started = time.perf_counter()
            with suppress(Exception):
                read()
            took = min(took, time.perf_counter() - started)
            if took > SLOW_S:
                found[f"{name}: slower than {SLOW_S:g} s"] += 1
        slowest = max(slowest, (took, name))
    print(
        f"{sum(tried.values()):,} readings in {minutes:g} minutes, slowest {slowest[0]:.2f} s ({slowest[1]}); "
        f"found {sum(found.values())}"
    )
    for what, count in found.most_common():
        print(f"  {count} × {what}")


if __name__ == "__main__":
    main()
