"""The columns of a board: what each shows of a row, when it gives way, and which are shown only when asked for."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from dryquarry.showing import figures
from dryquarry.showing.board_lines import CORRECTED, UNSURE
from dryquarry.showing.view import WHOLE, Cell, Column
from dryquarry.standing.board_model import Board, BoardRow


@dataclass(frozen=True, slots=True)
class BoardColumn:
    """A column, and what it shows of a row."""

    column: Column
    shows: Callable[[BoardRow], str | Cell]


def board_columns(board: Board) -> list[BoardColumn]:
    """Return the columns of a board in their order."""
    return [*_places(board), *_scores(board), *_more(board), *_taken(), *_extra(board)]


def _places(board: Board) -> Iterator[BoardColumn]:
    if any(row.edition for row in board.rows):
        yield BoardColumn(Column("edition"), lambda row: row.edition or "–")
    else:
        yield BoardColumn(Column("rank", right=True), _rank)
        yield BoardColumn(Column("band", right=True, drop=7), lambda row: "–" if row.band is None else str(row.band))
    yield BoardColumn(Column("entrant"), lambda row: Cell(row.entrant, "bold" if row.rank == 1 else ""))


def _scores(board: Board) -> Iterator[BoardColumn]:
    yield BoardColumn(Column("score", right=True), lambda row: Cell(figures.percent(row.score), "bold"))
    yield BoardColumn(Column("95 % interval", right=True), lambda row: figures.interval(row.low, row.high))
    if board.audit is not None and board.audit.corrected:
        yield BoardColumn(Column("as judged", right=True, drop=9), lambda row: figures.percent(row.as_judged))
        yield BoardColumn(Column("audited", right=True, drop=8), lambda row: str(row.audited))
    yield BoardColumn(Column("replies passed", least=WHOLE), _passed)
    for place, name in enumerate(names_of(board, lambda row: row.categories)):
        column = Column(name, right=True, drop=100 - place, least=7, named=True)
        yield BoardColumn(column, lambda row, name=name: figures.percent(row.categories.get(name), 0))  # type: ignore[misc]


def _more(board: Board) -> Iterator[BoardColumn]:
    """Yield what only some boards have."""
    if board.baseline:
        yield BoardColumn(Column(f"against {board.baseline}", right=True, drop=8), _against)
    if any(row.repeats for row in board.rows):
        yield BoardColumn(Column("once / every trial", right=True, drop=7), _repeats)
        yield BoardColumn(
            Column("trials differ", right=True, extra=True),
            lambda row: figures.percent(row.repeats.apart if row.repeats else None, 0),
        )
    if board.form_asked:
        yield BoardColumn(Column("form kept", right=True, drop=6), lambda row: figures.percent(row.form_kept, 0))
    if any(row.second_tries for row in board.rows):
        yield BoardColumn(Column("second try", drop=5, least=WHOLE), _second_tries)


def _taken() -> Iterator[BoardColumn]:
    """Yield what the replies took."""
    yield BoardColumn(Column("not answered", drop=4), _unanswered)
    yield BoardColumn(Column("median s", right=True, drop=2), lambda row: figures.seconds(row.median_s))
    yield BoardColumn(Column("tokens out", right=True, drop=1), lambda row: figures.count(row.output_tokens))
    yield BoardColumn(Column("cost", right=True, drop=3), lambda row: figures.cost(row.cost))


def _extra(board: Board) -> Iterator[BoardColumn]:
    """Yield what is shown only where --columns asks for it."""

    def extra(name: str, shows: Callable[[BoardRow], str | Cell], group: str = "") -> BoardColumn:
        return BoardColumn(Column(name, right=True, extra=True, group=group), shows)

    yield extra("p90 s", lambda row: figures.seconds(row.p90_s))
    yield extra("first token s", lambda row: figures.seconds(row.first_token_s))
    yield extra("s per pass", lambda row: figures.seconds(row.seconds_per_pass))
    yield extra("cost per pass", lambda row: figures.cost(row.cost_per_pass))
    yield extra("unsure", lambda row: str(row.unsure.marks if row.unsure else 0))
    kinds: Mapping[str, Callable[[BoardRow], Mapping[str, float | None]]] = {
        "tags": lambda row: row.tags,
        "levels": lambda row: row.levels,
        "categories": lambda row: row.over_suites,
    }
    for group, of in kinds.items():
        word = {"categories": "category"}.get(group, group[:-1])
        for name in names_of(board, of):
            yield extra(
                f"{word} {name}",
                lambda row, name=name, of=of: figures.percent(of(row).get(name), 0),  # type: ignore[misc]
                group,
            )


def names_of(board: Board, of: Callable[[BoardRow], Mapping[str, float | None]]) -> list[str]:
    """Return the names that a mapping of the rows has, in their order."""
    return list(dict.fromkeys(name for row in board.rows for name in of(row)))


def _rank(row: BoardRow) -> str:
    """Return the ranks that an entrant may have."""
    if row.rank is None:
        return "–"
    return str(row.rank_low) if row.rank_low == row.rank_high else f"{row.rank_low}–{row.rank_high}"


def _passed(row: BoardRow) -> str:
    return f"{row.passed} of {row.marked}" + (CORRECTED if row.corrected else "") + (UNSURE if row.unsure else "")


def _second_tries(row: BoardRow) -> str:
    return f"{row.second_tries.passed} of {row.second_tries.marked}" if row.second_tries else "–"


def _unanswered(row: BoardRow) -> str:
    counts = [f"{count} {name}" for name, count in sorted(row.outcomes.items()) if name != "answered"]
    return ", ".join(counts) or "–"


def _against(row: BoardRow) -> str:
    """Return how an entrant differs from the baseline."""
    if row.against_baseline is None:
        return "–"
    found = row.against_baseline
    return f"{figures.difference(found.difference)} ({figures.difference_interval(found.interval)})"


def _repeats(row: BoardRow) -> str:
    """Return the share of questions passed in at least one trial, and in every one."""
    if row.repeats is None:
        return "–"
    return f"{figures.percent(row.repeats.once, 0)} / {figures.percent(row.repeats.every, 0)}"
