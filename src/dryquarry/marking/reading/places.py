r"""The places where an answer may stand: after the answer line, in a box, in a JSON field, after a label."""

from __future__ import annotations

import itertools
import re
from bisect import bisect_right
from collections.abc import Iterator
from functools import lru_cache

from dryquarry.marking.cues import cue
from dryquarry.marking.reading.claims import Place, PlaceKind
from dryquarry.marking.reading.echo import question_in
from dryquarry.marking.reading.roles import Role, Told, states_asked
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.blocks import BlockKind
from dryquarry.marking.reply.structure import Reply
from dryquarry.marking.values.json_text import find_objects

MOST_BOXES = 50
LONGEST_BOX = 4000
MOST_PLACES = 40
MOST_WORDS_BELOW = 4
MOST_WORDS_BELOW_LATER = 12
LONGEST_PLACE = 2000
LONGEST_LIST = 20_000
_BOXED = regex(r"\\boxed\s*\{")
_ANSWER_FIELDS = ("answer", "final_answer", "finalAnswer", "Answer", "final answer", "result", "solution")
_NAMES_ANSWER = regex(
    r"answer|tl;?dr|antwort|réponse|respuesta|final|conclusion|result|summary|ergebnis", re.IGNORECASE
)
# "B", "C" and "D", each on a line of its own
_LETTERS_BELOW = regex(r"(?:\W{0,4}[A-Z][).]?[ \t]*(?:\n|\Z)){2,}")
_EMPTY = regex(r"[\W_]*\Z")
_POINTER = regex(
    r"\W*(?:(?:see|as)\s+(?:above|below|stated|shown|computed|calculated)\b.{0,40}|"
    r"(?:see|cf\.?)\s+(?:the\s+)?(?:table|list|explanation|text)\W*|"
    r"(?:see|as in|the one in|given in)\s+(?:the\s+)?(?:\w+\s+){0,3}(?:above|below)\W*|"
    r"the\s+(?:number|value|result|figure|name|one|letter)\s+(?:(?:just\s+)?(?:given|stated|worked\s+out)\s+)?above\W*|"
    r"\(?see\s+(?:my|the)\s+(?:calculations?|working|steps|reasoning|explanation|table|list)\W*)\Z",
    re.IGNORECASE,
)
_TAKEN_UP = r"[\"'(\[*\s]*(?:(?:so|therefore|thus|hence|and|my|the|final|correct|short|full|right)\b[,\s]*){0,4}"


@lru_cache(maxsize=256)
def _label(answer_line: str) -> re.Pattern[str]:
    words = answer_line.strip().rstrip(":").strip()
    colon = r"\s*(?:\([^()\n]{0,30}\)\s*)?:" if answer_line.strip().endswith(":") else r"\s*:?"
    spelled = r"\s+".join(re.escape(word) for word in words.split())
    return re.compile(rf"{_TAKEN_UP}{spelled}(?!\w){colon}[\"'\s]*", re.IGNORECASE)


def telling_places(reply: Reply, answer_line: str | None, asked: str = "") -> list[Place]:
    """Return the places that say themselves that the answer stands there, the strongest first, the last first."""
    labelled = itertools.islice(_labelled(reply, answer_line, asked), MOST_PLACES)
    found = [*labelled, *_boxes(reply), *_tags(reply), *_json_field(reply)]
    order = list(PlaceKind)
    return sorted(found, key=lambda place: (order.index(place.kind), -place.start))[:MOST_PLACES]


def says_nothing(stretch: str) -> bool:
    """Tell whether what stands after a label is nothing, or only points somewhere else."""
    return _EMPTY.match(stretch) is not None or _POINTER.match(stretch) is not None


def _labelled(reply: Reply, answer_line: str | None, asked: str) -> Iterator[Place]:
    own = _label(answer_line) if answer_line else None
    noun = _asked_noun(asked) or _asked_count(asked)
    known = cue("labels", r"[\"'(\[*\s]*", r"(?!\w)")
    for number in range(len(reply.sentences) - 1, -1, -1):
        sentence = reply.sentences[number]
        block = reply.blocks[sentence.block]
        if not reply.begins_line(sentence.start) and block.kind is not BlockKind.CODE:
            continue
        if own is not None and (match := own.match(reply.text, sentence.start, sentence.end)):
            yield from _after(reply, number, match.end(), PlaceKind.ANSWER_LINE)
        elif own is not None and (label := _bold_label(reply, number, str(answer_line))) is not None:
            yield from _after(reply, number, label, PlaceKind.ANSWER_LINE)
        elif noun is not None and (match := noun.match(reply.text, sentence.start, sentence.end)):
            yield from _after(reply, number, match.end(), PlaceKind.LABEL)
        elif (match := known.match(reply.text, sentence.start, sentence.end)) and not _is_total(match, asked):
            named = _NAMES_ANSWER.search(match.group()) is not None
            heads = named and (block.kind is BlockKind.HEADING or reply.is_bold(sentence.start, sentence.end))
            colon = re.compile(r"\s*(?:\([^()\n]{0,30}\)\s*)?(?::|—|–|\s-\s|→|->|=>|\](?!\())[\"'\s]*").match(
                reply.text, match.end(), sentence.end
            )
            if colon and not named and _EMPTY.match(reply.text, colon.end(), sentence.end):
                continue  # "Solution:" heads the working
            if colon:
                yield from _after(reply, number, colon.end(), PlaceKind.LABEL)
            elif heads and _EMPTY.match(reply.text, match.end(), sentence.end):
                for place in _after(reply, number, sentence.end, PlaceKind.LABEL):
                    if _is_short(reply, place):
                        yield place  # more than that is read as any other part of a reply


def _bold_label(reply: Reply, number: int, answer_line: str) -> int | None:
    """Return where the answer begins behind an answer line that is set in bold instead of a colon: "**Answer** 60"."""
    sentence, words = reply.sentences[number], answer_line.strip().rstrip(":").strip()
    end = sentence.start + len(words)
    said = reply.text[sentence.start : end].casefold() == words.casefold()
    alone = said and reply.is_bold(sentence.start, end) and not reply.is_bold(sentence.start, sentence.end - 1)
    short = len(reply.text[end : _line_end(reply, number)].split()) <= MOST_WORDS_BELOW
    return end + 1 if alone and short else None


def _is_short(reply: Reply, place: Place) -> bool:
    """Tell whether what stands below a heading is an answer and no more: a few words, or one line after other parts."""
    number, text = place.sentence, reply.text[place.start : place.end].rstrip()
    later = (one.block for one in reply.sentences[number + 1 :] if one.start >= place.end)
    after = next(later, None)
    ends = after is None or reply.blocks[after].kind is BlockKind.HEADING
    own = reply.blocks[reply.sentences[number].block].kind
    if own in (BlockKind.ITEM, BlockKind.ROW):
        return ends
    if own is BlockKind.HEADING or text.endswith((":", "!")):
        return False
    most = MOST_WORDS_BELOW if number < 2 else MOST_WORDS_BELOW_LATER
    return len(text.split()) <= most and after != reply.sentences[number].block


@lru_cache(maxsize=256)
def _asked_noun(asked: str) -> re.Pattern[str] | None:
    """Return the pattern of a label that is what is asked for: "Sea: …" for "Which sea …?"."""
    match = re.search(r"\b(?:which|what)\s+([^\W\d_]{3,})\b", question_in(asked), re.IGNORECASE)
    if match is None or match[1].lower() in ("the", "does", "did", "are", "was", "were", "will", "would", "can"):
        return None
    return re.compile(rf"[\"'(\[*\s]*(?:the )?{re.escape(match[1])}:[\"'\s]+", re.IGNORECASE)


_TOTAL = regex(r"\W*(?:the\s+)?total\W*", re.IGNORECASE)


def _is_total(label: re.Match[str], asked: str) -> bool:
    """Tell whether a label is the total where only some are to be counted."""
    question = question_in(asked)
    some = _asked_count(asked) is not None or _ASKS_OTHERS.search(question) or _ASKS_EACH.search(question)
    return bool(some) and _TOTAL.fullmatch(label.group()) is not None


# "How many are not altos?"
# "What does each pay?"
_ASKS_EACH = regex(r"\b(?:does|do|did|will|must)\s+each\b|\b(?:apiece|per\s+(?:person|head)|a\s+head)\b", re.IGNORECASE)
_ASKS_OTHERS = regex(r"\bhow\s+many\b.*\bnot\b", re.IGNORECASE)


# "How many good plums are there?"
_HOW_MANY_SUCH = regex(r"\bhow\s+many\s+(?P<such>[a-z]{3,})\s+(?P<noun>[a-z]{2,}s)\s+[a-z]+\b", re.IGNORECASE)
_NO_SUCH = frozenset(("of", "more", "fewer", "other", "different", "whole", "full", "the"))


@lru_cache(maxsize=256)
def _asked_count(asked: str) -> re.Pattern[str] | None:
    """Return the pattern of a label that is what is to be counted: "Good: …" for "How many good plums …?"."""
    match = _HOW_MANY_SUCH.search(question_in(asked))
    if match is None or match["such"].lower() in _NO_SUCH or match["noun"].lower() in ("does", "was", "is", "has"):
        return None
    return re.compile(rf"[\"'(\[*\s]*(?:the )?{match['such']}(?:\s+{match['noun']})?\s*:[\"'\s]+", re.IGNORECASE)


def _after(reply: Reply, number: int, start: int, kind: PlaceKind) -> Iterator[Place]:
    """Yield the place after a label: the rest of its line, or what stands below it."""
    sentence = reply.sentences[number]
    end = _line_end(reply, number)
    below = None
    if not _EMPTY.match(reply.text, start, end):
        stretch = reply.text[start:end]
        listed = re.match(r"\s*[-*•]\s", stretch) is not None
        if (listed or stretch.rstrip().endswith(":")) and (below := _below(reply, number, end)):
            end = below[1]
        if not _POINTER.match(stretch):
            yield Place(kind, start, min(end, start + (LONGEST_LIST if below else LONGEST_PLACE)), number)
        return
    below = _below(reply, number, sentence.end)
    if below is not None:
        yield Place(kind, *below, number + 1)


def _line_end(reply: Reply, number: int) -> int:
    """Return where the line of a sentence ends, wrapped lines being one."""
    end = reply.sentences[number].end
    return max(end, reply.line_end(end - 1))


def _below(reply: Reply, number: int, start: int) -> tuple[int, int] | None:
    """Return what stands below a line: the next line, or all items of the list that follows."""
    later = (place for place in range(number + 1, len(reply.sentences)) if reply.sentences[place].start >= start)
    first = next(later, None)
    if first is None:
        return None
    while reply.blocks[reply.sentences[first].block].kind is BlockKind.HEADER and first + 1 < len(reply.sentences):
        first += 1
    kind = reply.blocks[reply.sentences[first].block].kind
    if kind not in (BlockKind.ITEM, BlockKind.ROW):
        letters = _LETTERS_BELOW.match(reply.text, reply.sentences[first].start)
        return reply.sentences[first].start, letters.end() if letters else _line_end(reply, first)
    end = first
    while end + 1 < len(reply.sentences) and reply.blocks[reply.sentences[end + 1].block].kind is kind:
        end += 1
    return reply.sentences[first].start, min(reply.sentences[end].end, reply.sentences[first].start + LONGEST_LIST)


def _boxes(reply: Reply) -> Iterator[Place]:
    text = reply.text
    if "\\boxed" not in text:
        return
    for match in list(_BOXED.finditer(text))[-MOST_BOXES:]:
        depth, position = 1, match.end()
        end = min(len(text), position + LONGEST_BOX)
        while position < end and depth:
            depth += {"{": 1, "}": -1}.get(text[position], 0)
            position += 1
        if depth == 0 and not _EMPTY.match(text, match.end(), position - 1):
            yield Place(PlaceKind.BOXED, match.end(), position - 1, sentence_at(reply, match.start()))


# "<answer>42</answer>"
_TAGGED = regex(
    r"<(?P<tag>answer|final_answer|finalanswer|result|solution)>(?P<said>[^<]{1,2000})</(?P=tag)>", re.IGNORECASE
)


def _tags(reply: Reply) -> Iterator[Place]:
    """Yield what stands between tags that name the answer."""
    for match in list(_TAGGED.finditer(reply.text))[-MOST_BOXES:]:
        if not _EMPTY.fullmatch(match["said"]):
            yield Place(PlaceKind.BOXED, *match.span("said"), sentence_at(reply, match.start()))


def _json_field(reply: Reply) -> Iterator[Place]:
    """Yield the answer field of a reply that is a JSON object, or that ends with one."""
    if not re.search(r"\}[\s`]*\Z", reply.text):
        return
    objects = [one for one in find_objects(reply.text) if one.broken is None]
    for name in _ANSWER_FIELDS if objects else ():
        value = objects[-1].value.get(name)
        if isinstance(value, str | int | float | list) and not isinstance(value, bool) and value not in ("", []):
            pattern = re.compile(rf'"{re.escape(name)}"\s*:\s*(?P<value>"(?:[^"\\]|\\.)*"|\[[^\]]*\]|[^,}}\s]+)')
            match = pattern.search(reply.text, objects[-1].start)
            if match:
                yield Place(PlaceKind.JSON_FIELD, *match.span("value"), sentence_at(reply, match.start()))
                return


def sentence_at(reply: Reply, place: int) -> int:
    """Return the number of the sentence in which a place of the view stands, or of the next one."""
    return bisect_right(reply.sentences, place, key=lambda one: one.end)


# "Then it is 39.60 euros, which is my answer."
_IS_MY_ANSWER = regex(
    r",\s+(?:which|and\s+(?:that|this))\s+is\s+(?:also\s+)?my\s+(?:final\s+)?answer\W*\Z", re.IGNORECASE
)


def statements(reply: Reply, roles: tuple[Told, ...]) -> Iterator[Place]:
    """Yield what follows "the answer is …", from the end."""
    for number in range(len(reply.sentences) - 1, -1, -1):
        if roles[number].role in (Role.REMARKS, Role.CHECKS, Role.HEADS, Role.REPORTS):
            continue
        sentence = reply.sentences[number]
        behind = _IS_MY_ANSWER.search(sentence.text[:LONGEST_PLACE])
        if behind is not None:
            yield Place(PlaceKind.STATEMENT, sentence.start, sentence.start + behind.start(), number)
            continue
        said = states_asked(sentence.text[:LONGEST_PLACE])
        if said is None:
            continue
        start, end = sentence.start + said.end(), min(sentence.end, sentence.start + LONGEST_PLACE)
        if _EMPTY.match(reply.text, start, end):
            below = _below(reply, number, end)
            if below is None:
                continue
            start, end = below
        elif _POINTER.match(reply.text[start:end]) or _is_aside(sentence.text, said):
            continue
        yield Place(PlaceKind.STATEMENT, start, end, number)


def _is_aside(text: str, said: re.Match[str]) -> bool:
    """Tell whether what names the answer stands between commas behind it: "Into the Sea of Azov, I'd say, though …"."""
    return re.search(r"\w,\s*\Z", text[: said.start()]) is not None and text[said.end() :].startswith(",")
