"""Where a reply lists something line by line or sentence by sentence: items, rows, "Square: yes.", "Apples do."."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from dryquarry.marking.reading.asked_lists import mentioned_in, short_mentions, things_asked, things_of
from dryquarry.marking.reading.claims import Place, PlaceKind
from dryquarry.marking.reading.constructions import ARROW_SIGN
from dryquarry.marking.reading.echo import question_in
from dryquarry.marking.reading.judged_things import affirmed_in
from dryquarry.marking.reading.list_forms import labelled_run, line_of_label_asked
from dryquarry.marking.reading.list_items import begins_anew, is_entry
from dryquarry.marking.reading.order_put_together import put_together
from dryquarry.marking.reading.places import sentence_at
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply

MOST_RUNS = 20
# "Square: yes."
_YES_OR_NO = regex(r"\W*[^:.!?\n]{1,40}:\s*(?:yes|no)(?:[,;–—(][^:\n]{0,80})?\W*", re.IGNORECASE)


def tells_whole_order(reply: Reply, asked: str) -> bool:
    """Tell whether an order follows only from all sentences of a reply together, and not from the last alone."""
    if len(reply.sentences) < 2 or not put_together(reply.text, 0, len(reply.text), asked):
        return False
    return not any(put_together(reply.text, one.start, one.end, asked) for one in reply.sentences)


_STEPS = regex(r"\b(?:first|then|next|after\s+that|afterwards|finally|lastly|at\s+last)\b", re.IGNORECASE)


def _tells_step_by_step(reply: Reply, asked: str) -> bool:
    """Tell whether all sentences together name what the question lists, each once: "First you wash them. Then …"."""
    things = things_asked(asked)
    if len(reply.sentences) < 2 or len(_STEPS.findall(reply.text)) < 2 or not things:
        return False
    named = mentioned_in(reply.text, 0, len(reply.text), asked)
    return len(named) == len(things) and not any(
        len(mentioned_in(reply.text, one.start, one.end, asked)) == len(things) for one in reply.sentences
    )


def runs_in(reply: Reply, answers: Sequence[bool], asked: str) -> Iterator[Place]:
    """Yield the runs of list items of a reply, and of sentences that each tell of another thing."""
    runs: list[list[int]] = []
    for number in range(len(reply.sentences)):
        if not (is_entry(reply, number) and answers[number]):
            continue
        if runs and runs[-1][-1] == number - 1 and not begins_anew(reply, runs[-1], number):
            runs[-1].append(number)
        else:
            runs.append([number])
    judged = [number for number, one in enumerate(reply.sentences) if _YES_OR_NO.fullmatch(one.text)]
    if len(judged) > 1 and judged == list(range(judged[0], judged[-1] + 1)):
        runs.append(judged)
    whole = affirmed_in(reply.text, 0, len(reply.text), things_of(asked))
    if whole and len(reply.sentences) == 1 and ARROW_SIGN.search(reply.text):
        yield Place(PlaceKind.LIST, reply.sentences[0].start, reply.sentences[0].end, 0)
    together = bool(whole) or tells_whole_order(reply, asked) or _tells_step_by_step(reply, asked)
    if together and len(reply.sentences) > 1:
        runs.append(list(range(len(reply.sentences))))
    runs += short_mentions([one.text for one in reply.sentences], question_in(asked))
    if (labelled := labelled_run(reply.text, asked)) is not None:
        yield Place(PlaceKind.LIST, *labelled, sentence_at(reply, labelled[1] - 1))
    if (line := line_of_label_asked(reply.text, asked)) is not None:
        yield Place(PlaceKind.LIST, *line, sentence_at(reply, line[1] - 1))
        return
    for run in [run for run in runs if len(run) > 1][-MOST_RUNS:]:
        yield Place(PlaceKind.LIST, reply.sentences[run[0]].start, reply.sentences[run[-1]].end, run[0])
