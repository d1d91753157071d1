"""Two or three entrants' replies to the same question side by side."""

from __future__ import annotations

import textwrap
from collections.abc import Sequence
from dataclasses import replace
from itertools import zip_longest

from rich.cells import cell_len

from dryquarry.errors import UsageFault
from dryquarry.showing import figures
from dryquarry.showing.figures import visible
from dryquarry.showing.replies import said_key, said_options, verdict_said
from dryquarry.showing.text import PLAIN_WIDTH, labelled
from dryquarry.showing.view import View
from dryquarry.workspace.reply_views import ReplyView

MOST = 3
LEAST_COLUMN = 26
BETWEEN = " │ "


def beside_view(replies: Sequence[ReplyView], view: View) -> View:
    """Return a view of replies whose text has them side by side."""
    return replace(view, text=lambda width: beside(replies, width))


def beside(replies: Sequence[ReplyView], width: int | None) -> str:
    """Return replies question by question, the entrants side by side; raises UsageFault for one, or more than three.

    In a terminal too narrow for that they stand below each other.
    """
    names = list(dict.fromkeys(view.entrant.name for view in replies))
    if not 1 < len(names) <= MOST and replies:
        raise UsageFault(
            f"side by side stand the replies of two or three entrants, not {len(names)}; name them with -e"
        )
    room = width or PLAIN_WIDTH
    column = (room - len(BETWEEN) * (len(names) - 1)) // max(1, len(names))
    blocks: dict[tuple[str, int], dict[str, ReplyView]] = {}
    for view in replies:
        blocks.setdefault((view.question.id, view.reply.held.trial), {})[view.entrant.name] = view
    parts = [_block(each, names, column, room) for each in blocks.values()]
    return "\n".join(parts) + f"\n{figures.plural(len(blocks), 'question')}\n"


def _block(each: dict[str, ReplyView], names: Sequence[str], column: int, room: int) -> str:
    one = next(iter(each.values()))
    trial = one.reply.held.trial
    lines = [f"{one.suite.name}/{one.question.id}" + (f" · trial {trial}" if trial > 1 else "")]
    lines += labelled("question", one.question.text, room)
    lines += labelled("options", said_options(one.question), room) if one.question.marking.choices else []
    lines += [*labelled("key", said_key(one.question), room), ""]
    if column < LEAST_COLUMN:
        stacked = [_column(each.get(name), name, room - 2) for name in names]
        below = [f"  {line}".rstrip() for part in stacked for line in [*part, ""]]
        return "\n".join([*lines, *below[:-1]]) + "\n"
    columns = [_column(each.get(name), name, column) for name in names]
    rows = zip_longest(*columns, fillvalue="")
    lines += [BETWEEN.join(_padded(cell, column) for cell in row).rstrip() for row in rows]
    return "\n".join(lines) + "\n"


def _column(view: ReplyView | None, name: str, width: int) -> list[str]:
    if view is None:
        return [name, "─" * width, "no reply"]
    held = view.reply.held
    took = f"{figures.seconds(held.seconds)} s, {figures.count(held.output_tokens)} tokens out"
    facts = [verdict_said(view), took]
    lines = [name, "─" * width]
    for fact in facts:
        lines += textwrap.wrap(visible(fact), width) or [""]
    lines.append("")
    for line in visible(view.reply.text).split("\n"):
        lines += textwrap.wrap(line, width, break_on_hyphens=False) or [""]
    return lines


def _padded(text: str, width: int) -> str:
    return text + " " * max(0, width - cell_len(text))
