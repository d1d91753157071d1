"""Fits the weights by which a claim of plain prose is likelier than another, and says how often they choose rightly.

`python benchmarks/fit_weights.py` reads the replies of `tests/data/` whose verdicts were written before anything read
them: `blind.jsonl`, each of them once more with a sentence added that says nothing, `said_by_kind.yaml`, and each way of
`ways_to_say_it.txt` for up to three kinds of question. It fits a conditional logit (McFadden, 1974) for each kind of
value: where the verdict is a pass, a claim that passes by the key is the answer; where it is a fail, one that does not.
Large weights are held back by a quadratic penalty. How often the likeliest claim leads to the verdict is told for
replies whose set was left out of the fit, five parts in turn. `--write` fits to all and writes
`src/dryquarry/marking/fitted/`.
"""

from __future__ import annotations

import argparse
import hashlib
import json
import multiprocessing
import sys
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from ruamel.yaml import YAML
from scipy.optimize import minimize
from scipy.sparse import csr_matrix

from dryquarry.marking.model import Marking, MarkingFault
from dryquarry.marking.reading.claims import Claim, Question
from dryquarry.marking.reading.courtesies import heard
from dryquarry.marking.reading.likely import compared, shares_of
from dryquarry.marking.reading.likely_features import Features, Scene
from dryquarry.marking.reading.roles import roles_of
from dryquarry.marking.reading.settling import PROSE, prose_claims, settle
from dryquarry.marking.schemes import choice, exact, number

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))
import test_ways_to_say_it as ways  # noqa: E402

REPLIES = ROOT / "tests/data/blind.jsonl"
BY_KIND = ROOT / "tests/data/said_by_kind.yaml"
FITTED = ROOT / "src/dryquarry/marking/fitted"
SCHEMES: Mapping[str, Any] = {"number": number, "exact": exact, "choice": choice}
PARTS = 5
PENALTY = 4.0
# A feature of fewer replies is not fitted, a weight below this not written.
LEAST_REPLIES = 10
LEAST_WEIGHT = 0.02
# What says nothing of the question, before a reply or behind it.
BEFORE = ("This one is worth a second look. ", "Let's see what we have here.\n\n", "A closer reading helps. ")
BEHIND = (
    " That much is certain.",
    "\n\nThe rest follows from what is given.",
    " There is no doubt about it.",
    "\n\nEverything else in the text is beside the point.",
    " One can look it up in any handbook.",
)


@dataclass(frozen=True, slots=True)
class Judged:
    """A reply's claims with their features, which of them pass by the key, and the verdict it ought to get."""

    set_name: str
    scene: Scene[Any]
    features: list[Features]
    passes: tuple[bool, ...]
    passes_wanted: bool

    def is_right(self, claim: Claim[Any]) -> bool:
        """Tell whether a claim, taken for the answer, leads to the verdict."""
        at = next(at for at, said in enumerate(self.scene.said) if said.claim is claim)
        return self.passes[at] is self.passes_wanted


def judged(case: Mapping[str, Any]) -> Judged | None:
    """Return a case taken apart; None where a place tells the answer, or nothing is claimed."""
    choices = tuple((case.get("choices") or {}).items())
    marking = Marking(case["scheme"], case["key"], case["options"], choices, case["answer_line"], asked=case["ask"])
    scheme = SCHEMES[case["scheme"]]
    try:
        kind, verdicts = scheme.kind_of(marking), scheme.verdicts_of(marking)
    except MarkingFault:
        return None
    question = Question(marking.asked, marking.answer_line)
    reply = heard(case["reply"], marking.asked)
    settled = settle(reply, question, kind, by_weights=False)
    if settled.place is not None and settled.place.kind not in PROSE:
        return None
    claims = prose_claims(reply, question, kind, settled)
    if not claims:
        return None
    scene, features = compared(reply, question, roles_of(reply), kind.likelihood, claims, settled.final)
    passes = tuple(verdicts.score(said.claim) >= 1 for said in scene.said)
    return Judged(case["id"].split("-")[0], scene, features, passes, case["verdict"] == "pass")


def cases_of(scheme: str) -> Iterator[dict[str, Any]]:
    """Yield the cases of a scheme from all sources."""
    blind = [json.loads(line) for line in REPLIES.read_text(encoding="utf-8").splitlines()]
    for at, case in enumerate(case for case in blind if case["scheme"] == scheme):
        yield case
        added = at % (len(BEFORE) + len(BEHIND))
        before = BEFORE[added] if added < len(BEFORE) else ""
        behind = "" if before else BEHIND[added - len(BEFORE)]
        yield case | {"reply": f"{before}{case['reply']}{behind}"}
    for at, asked in enumerate(YAML(typ="safe").load(BY_KIND)):
        if asked["scheme"] == scheme:
            case = {"options": {}, "answer_line": None, **asked, "ask": asked["asked"], "id": f"kind{at}-"}
            for verdict, replies in (("pass", asked["passes"]), ("fail", asked["fails"])):
                yield from (case | {"reply": reply, "verdict": verdict} for reply in replies)
    for at, way in enumerate(ways.WAYS):
        # each way for three kinds of question at most, so that they are no more than the other replies
        said = [one for kind in (*ways.IN_WORDS, *ways.OTHERS) for one in ways.judged(way, kind)]
        said = [one for one in said if one[0].scheme == scheme]
        for marking, reply, verdict in (2 * said)[2 * at % len(said) :][:6]:
            case = {"id": f"way{at}-", "answer_line": None, "reply": reply, "verdict": verdict}
            told = {"scheme": scheme, "key": marking.key, "options": marking.options, "ask": marking.asked}
            yield case | told | {"choices": dict(marking.choices)}


def fit(replies: Sequence[Judged]) -> dict[str, float]:
    """Return the weights by feature: those of the least sum of log losses and penalty."""
    replies = [one for one in replies if any(right is one.passes_wanted for right in one.passes)]
    counts = Counter(name for one in replies for name in {name for features in one.features for name in features})
    columns = {name: at for at, name in enumerate(sorted(name for name, n in counts.items() if n >= LEAST_REPLIES))}
    matrix, reply_of = _matrix(replies, columns)
    right = np.array([passes is one.passes_wanted for one in replies for passes in one.passes], dtype=float)

    def loss(weights: NDArray[np.float64]) -> tuple[float, NDArray[np.float64]]:
        sums = matrix @ weights
        most = np.full(len(replies), -np.inf)
        np.maximum.at(most, reply_of, sums)
        parts = np.exp(sums - most[reply_of])
        whole = np.bincount(reply_of, parts, len(replies))
        good = np.maximum(np.bincount(reply_of, parts * right, len(replies)), 1e-300)
        slope = matrix.T @ (parts / whole[reply_of] - parts * right / good[reply_of])
        return float(np.log(whole / good).sum() + PENALTY * weights @ weights / 2), slope + PENALTY * weights

    found = minimize(loss, np.zeros(len(columns)), jac=True, method="L-BFGS-B", options={"maxiter": 500})
    weights = {name: round(float(found.x[at]), 3) for name, at in columns.items()}
    return {name: weight for name, weight in weights.items() if abs(weight) >= LEAST_WEIGHT}


def _matrix(replies: Sequence[Judged], columns: Mapping[str, int]) -> tuple[Any, NDArray[np.int64]]:
    """Return a row for each claim with its features, and of which reply each row is."""
    rows = [(at, features) for at, one in enumerate(replies) for features in one.features]
    filled = [
        (row, columns[name], strength)
        for row, (_, features) in enumerate(rows)
        for name, strength in features.items()
        if name in columns
    ]
    row, column, strength = zip(*filled, strict=True)
    return csr_matrix((strength, (row, column)), (len(rows), len(columns))), np.array([at for at, _ in rows])


def part_of(name: str) -> int:
    """Return in which part a set of replies is: one set was written in one go, and stays together."""
    return hashlib.sha256(name.encode()).digest()[0] % PARTS


def wrong(replies: Iterable[Judged], weights: Mapping[str, float]) -> int:
    """Return for how many replies the likeliest claim leads to the other verdict."""
    return sum(not one.is_right(shares_of(one.scene, one.features, weights)[0][0]) for one in replies)


def main() -> None:
    """Fit each kind, tell the rates of what was left out, and write the weights if asked."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--write", action="store_true", help="write the weights")
    write = parser.parse_args().write
    for name in SCHEMES:
        with multiprocessing.Pool() as pool:
            replies = [one for one in pool.map(judged, cases_of(name), chunksize=100) if one is not None]
        others = 0
        for part in range(PARTS):
            weights = fit([one for one in replies if part_of(one.set_name) != part])
            others += wrong((one for one in replies if part_of(one.set_name) == part), weights)
        weights = fit(replies)
        share = f"{others / len(replies):.1%} wrong where left out, {wrong(replies, weights) / len(replies):.1%} where fitted"
        print(f"{name}: {len(replies)} replies of prose, {len(weights)} weights; {share}")
        if write:
            FITTED.mkdir(exist_ok=True)
            text = json.dumps(weights, ensure_ascii=False, indent=0, sort_keys=True)
            (FITTED / f"{scheme_file(name)}.json").write_text(text + "\n", encoding="utf-8")


def scheme_file(name: str) -> str:
    """Return the file of the weights of a scheme's kind of value."""
    return {"number": "numbers", "exact": "phrases", "choice": "options"}[name]


if __name__ == "__main__":
    main()
