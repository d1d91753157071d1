"""What can be said below a board, in sentences that follow from its numbers."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from dryquarry.showing import figures
from dryquarry.standing.board_model import AuditNote, Board, BoardRow, Target
from dryquarry.standing.paired import Comparison

CORRECTED = "*"
DIFFERS = 0.05
UNSURE = "°"
BANDS = "Bands: nobody in band 1 is told apart below anyone; in each later band somebody of the band before is above."
TESTS = "Told apart: paired tests of all pairs at once; one false difference or more in 5 of 100 such boards."


def lines_below(board: Board) -> list[str]:
    """Return the lines below a board's table."""
    own = any(row.edition for row in board.rows)
    lines = [f"Pilot, not scored: {pilot.question}, passed by {pilot.passed} of {pilot.sat}." for pilot in board.pilots]
    corrected = sum(row.corrected for row in board.rows)
    if corrected:
        said = f"{CORRECTED} with marks set by a person, {corrected} in all"
        lines.append(f"{said}: 'dryquarry replies {_reference(board)} --corrected' lists them.")
    lines += [_unsure_line(board, row) for row in board.rows if row.unsure]
    if any(row.second_tries for row in board.rows):
        lines.append("Second try: after a failed first one, how many passed; no score counts them.")
    lines += [_unfinished_line(board, row) for row in board.rows if row.unfinished and not own]
    if own:
        return [*lines, "Each on its own edition: compare only rows of the same edition."]
    if board.sorted_by:
        lines.append(f"Sorted by {board.sorted_by.removeprefix('-')}; ranks and bands are by score.")
    if board.suite_weights:
        lines.append(_weights_line(board))
    return [*lines, *_audit_lines(board), *_about_intervals(board), *conclusion(board)]


def _audit_lines(board: Board) -> Iterator[str]:
    """Yield what people's marks of random replies say of the judges, and what was done with them."""
    audit = board.audit
    if audit is None:
        return
    if not audit.corrected:
        lacking = ", ".join(f"{name} {count}" for name, count in audit.lacking.items())
        need = sum(audit.lacking.values())
        yield (
            f"As judged: too few audited marks to correct the scores; still wanted: {lacking}: "
            f"'dryquarry review {board.suite} --audit {max(1, need)}'."
        )
        return
    bias = ", ".join(f"{name} {figures.difference(value)}" for name, value in sorted(audit.bias.items()))
    yield (
        "Scores are corrected by people's marks of randomly drawn replies, so intervals are wider; --as-judged shows "
        "them uncorrected."
    )
    yield f"Judges less people, in points of a hundred: {bias}{_bias_said(audit)}."
    if audit.more is not None:
        yield f"About {audit.more} more audited marks would tell the best two apart."


def _bias_said(audit: AuditNote) -> str:
    """Return whether judges are off by the same for every entrant."""
    if audit.pooled:
        return "; shown to be the same for all within 5 points, so one correction serves all"
    if audit.bias_p is None:
        return ""
    differs = "which differs by entrant" if audit.bias_p < DIFFERS else "not shown to be the same, so each has its own"
    return f"; {differs} (p {figures.p_value(audit.bias_p)})"


def _weights_line(board: Board) -> str:
    """Return what the suites weigh in the score."""
    if len(set(board.suite_weights.values())) == 1:
        return "Each suite weighs the same in the score, whatever its number of questions."
    weights = ", ".join(f"{name} {weight:g}" for name, weight in board.suite_weights.items())
    return f"In the score the suites weigh as {weights}, whatever their number of questions."


def _reference(board: Board) -> str:
    return f"{board.suite}@{board.edition}" if board.edition else "SUITE"


def _unsure_line(board: Board, row: BoardRow) -> str:
    """Return what an entrant's unsure marks could change, in a sentence."""
    assert row.unsure is not None
    marks = "1 mark is unsure" if row.unsure.marks == 1 else f"{row.unsure.marks} marks are unsure"
    between = f"the score lies between {figures.percent(row.unsure.low)} and {figures.percent(row.unsure.high)}"
    command = f"'dryquarry replies {_reference(board)} -e {row.entrant} --unsure'"
    return f"{UNSURE} {row.entrant}: {marks}; {between}: {command}."


def _unfinished_line(board: Board, row: BoardRow) -> str:
    """Return what may be said of an entrant that lacks questions."""
    found = row.unfinished
    assert found is not None
    has = f"{row.entrant} has {board.questions - found.missing} of {figures.plural(board.questions, 'question')}"
    bounds = (
        f"{figures.percent(found.bounds.low)} if the others were failed, {figures.percent(found.bounds.high)} if passed"
    )
    said = f"{has}, so it has no rank: its score is {bounds}"
    if found.comparison is not None:
        said += f"; against {found.against} {compared(found.comparison)}"
    if found.decided:
        all_missing = "passed" if found.decided == "below" else "failed"
        said += f"; even with all others {all_missing} it is told apart {found.decided} {found.against}"
    return said + "."


def compared(comparison: Comparison) -> str:
    """Return a difference with its interval and the questions that it stands on."""
    return (
        f"{figures.difference(comparison.difference)} ({figures.difference_interval(comparison.interval)}) "
        f"on {figures.plural(comparison.questions, 'shared question')}"
    )


def _about_intervals(board: Board) -> Iterator[str]:
    if not any(row.low is not None for row in board.rows):
        return
    about = {
        Target.KIND: f"Intervals (95 %) are about {Target.KIND}",
        Target.THESE: f"Intervals (95 %) are about {Target.THESE}",
    }[board.target]
    one_trial = board.target is Target.THESE and all(row.trials == 1 for row in board.rows)
    families = f", of which those of a family count together ({board.families} families)"
    yield about + (
        "; with one trial they are the widest that they can be."
        if one_trial
        else families + "."
        if board.target is Target.KIND and board.families < board.questions
        else "."
    )


def conclusion(board: Board) -> Iterator[str]:
    """Yield what the tests allow to conclude, and what not."""
    ranked = [row for row in board.rows if row.band is not None]
    if len(ranked) < 2:
        return
    first = sorted((row for row in ranked if row.band == 1), key=lambda row: (row.rank or 0, row.entrant))
    names = [row.entrant for row in first]
    if len(first) == len(ranked):
        asked = figures.plural(board.questions, "question")
        yield f"These {asked} tell nobody apart: all are in band 1, and any may be the best."
    elif len(first) == 1 and first[0].rank_high == 1:
        yield f"{names[0]} is told apart above all others."
    elif len(first) == 1:
        yield f"{names[0]} alone is in band 1, and not told apart above all others."
    else:
        yield f"Not told who is best: nobody is told apart above {_listed(names)}."
    if len(first) < len(ranked):
        yield BANDS
    yield TESTS


def _listed(names: Sequence[str]) -> str:
    shown = list(names[:6]) + ([f"{len(names) - 6} more"] if len(names) > 6 else [])
    return f"{', '.join(shown[:-1])} and {shown[-1]}" if len(shown) > 1 else shown[0]


def board_notes(board: Board) -> list[str]:
    """Return what is to be known of how the board was made, for standard error."""
    notes = list(board.notes)
    if board.left_out:
        who = "some entrant" if board.only_shared else "at least half of the entrants"
        shown = ", ".join(board.left_out[:8]) + (
            f" and {len(board.left_out) - 8} more" if len(board.left_out) > 8 else ""
        )
        many = len(board.left_out) != 1
        lack = f"{'they are' if many else 'it is'} missing for {who}"
        notes.append(f"left out for all, as {lack}: {figures.plural(len(board.left_out), 'question')} ({shown})")
    return notes
