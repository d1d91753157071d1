"""Gates: what is asked to hold, for scripts. Each says plainly what was found, and whether it could have been shown."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from dryquarry.errors import UsageFault, closest
from dryquarry.standing.board_model import Board
from dryquarry.standing.intervals import LEVEL, student_quantile
from dryquarry.standing.paired import Comparison

NO_WORSE = re.compile(r"no worse than (\d*\.?\d+)\s*(%?)")
SCORE = re.compile(r"(?P<name>\S+)(?P<low>\s+low)?\s*(?P<sign>>=|>)\s*(?P<least>\d*\.?\d+)\s*(?P<percent>%?)")
# A gate that even equal entrants would pass less often than this is told to be beyond these questions.
LEAST_CHANCE = 0.5
USUAL_CHANCE = 0.8


@dataclass(frozen=True, slots=True)
class GateResult:
    """Whether a gate `holds`; `limit` is the figure that decides, against `wanted`.

    `chance` is how often the gate would hold for two equal entrants on such questions, `questions_needed` how many
    like these it takes for 80 in 100; both None where the gate is about a score.
    """

    gate: str
    holds: bool
    limit: float | None
    wanted: float
    chance: float | None = None
    questions_needed: int | None = None


def gate_versus(gate: str, comparison: Comparison) -> GateResult:
    """Return whether the first entrant is "no worse than X" below the second: a test of non-inferiority.

    Holds where the one-sided 95 % limit of the difference is above -X. Raises UsageFault for another wording.
    """
    from scipy import special

    found = NO_WORSE.fullmatch(gate.strip())
    if found is None:
        raise UsageFault(f"the gate '{gate}' is not understood; write \"no worse than 0.02\" (or 2 %)")
    margin = _share(found[1], found[2], gate)
    quantile = student_quantile(max(1, comparison.families - 1), 1 - LEVEL)
    limit = comparison.difference - quantile * comparison.standard_error
    chance = float(special.ndtr(margin / comparison.standard_error - quantile)) if comparison.standard_error else 1.0
    wanted_error = margin / (quantile + float(special.ndtri(USUAL_CHANCE))) if margin else 0.0
    needed = None
    if wanted_error:
        needed = int(-(-comparison.questions * (comparison.standard_error / wanted_error) ** 2 // 1))
    return GateResult(gate, limit > -margin, limit, margin, chance, needed)


def gate_board(gate: str, board: Board) -> GateResult:
    """Return whether an entrant's score ("NAME >= 0.8") or its interval's low end ("NAME low >= 0.8") is so high.

    Who lacks questions has not reached it unless it would with all of them failed. Raises UsageFault for another
    wording, or a name that is not on the board.
    """
    found = SCORE.fullmatch(gate.strip())
    if found is None:
        raise UsageFault(f'the gate \'{gate}\' is not understood; write "NAME >= 0.8" or "NAME low >= 0.8"')
    names = [row.entrant for row in board.rows]
    if found["name"] not in names:
        raise UsageFault(f"the gate '{gate}' names nobody on this board{closest(found['name'], names)}")
    row = board.rows[names.index(found["name"])]
    wanted = _share(found["least"], found["percent"], gate)
    limit = row.low if found["low"] else row.score
    if row.unfinished is not None:
        limit = None if found["low"] else row.unfinished.bounds.low
    reached = limit is not None and (limit > wanted + 1e-12 if found["sign"] == ">" else limit >= wanted - 1e-12)
    return GateResult(gate, reached, limit, wanted)


def _share(text: str, percent: str, gate: str) -> float:
    value = float(text) / (100 if percent else 1)
    if not 0 <= value <= 1:
        raise UsageFault(f"the gate '{gate}' wants a share from 0 to 1, such as 0.02, or per cent, such as 2 %")
    return value


def failing(results: Sequence[GateResult]) -> list[GateResult]:
    """Return the gates that do not hold."""
    return [result for result in results if not result.holds]
