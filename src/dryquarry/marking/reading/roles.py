"""What each sentence of a reply is there for: it states, concludes, checks, remarks, asks again or reports."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import cache

from dryquarry.marking.cues import cue, last_cue
from dryquarry.marking.reading.stances import SO_YES, TAG_QUESTION
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.blocks import BlockKind
from dryquarry.marking.reply.structure import Reply, Sentence


class Role(StrEnum):
    """What a sentence is there for."""

    STATES = "states"
    CONCLUDES = "concludes"
    ASKS = "asks again"
    CHECKS = "checks"
    REMARKS = "remarks"
    REPORTS = "reports"
    HEADS = "heads a part"


@dataclass(frozen=True, slots=True)
class Told:
    """The role of a sentence, and the words that tell it."""

    role: Role
    cue: str = ""


_LEAD = (
    r"(?:(?:but|and|well|okay|ok|now|also|yes|right|great|sure|certainly|first|then|finally|"
    r"still)\b[,!.]?\s+)?[\"'(\[✓✔✅🍄💡📝ℹ️⚠️👉*\s]{0,20}"
)
_LONGEST_HEADING_WORDS = 7
# Of so few words between fences is an answer set off, and no code.
MOST_WORDS_IN_FENCE = 3
# "…, but that was wrong" turns to nothing
_BUT_WRONG = (
    r"(?:but|however|yet),?\s+(?:that|this|they|it|he|she|all|both)(?:'s|'re|\s(?:is|are|was|were))\s(?:all\s|quite\s)?"
    r"(?:wrong|mistaken|incorrect|false|untrue|not\s(?:so|true|right|correct))\W*\Z"
)
_TURNS = regex(
    rf"\b(?!{_BUT_WRONG})(?:but|however|yet|in fact|actually|in reality|"
    r"then (?:saw|noticed|realised|realized|found)|(?:right|correct|real|true) (?:one|answer))\b|;\s|,\stoday\s",
    re.IGNORECASE,
)
# "We're asked for one thing, and that's the tern."
_THEN_SAYS = regex(
    r",\s+(?:and|but)\s+(?:that|it|this)(?:'s|\s+(?:is|was))\s|:\s+(?:[^\s:,.;]+\s){0,2}[^\s:,.;]+[.!]?\Z",
    re.IGNORECASE,
)
_YES = regex(rf"\W*(?:yes|right|correct|exactly|ja|oui|sí)\W*\Z|{SO_YES}\Z", re.IGNORECASE)


def roles_of(reply: Reply) -> tuple[Told, ...]:
    """Return the role of each sentence of a reply."""
    told: list[Told] = []
    part: Told | None = None
    for number, sentence in enumerate(reply.sentences):
        block = reply.blocks[sentence.block]
        headed = block.kind is BlockKind.HEADING and len(reply.sentences) > 1
        if headed or _is_heading(reply, sentence):
            part = _part(sentence.text)
            told.append(Told(Role.HEADS))
            continue
        role = _role(sentence, part, block.kind)
        if (
            role.cue == "?"
            and number + 1 < len(reply.sentences)
            and _answers_itself(sentence, reply.sentences[number + 1])
        ):
            role = Told(Role.STATES, "? yes")
        elif _is_dropped(reply, number):
            role = Told(Role.REPORTS, "if … but")
        elif told and told[-1].cue == "? yes":
            role = Told(Role.REMARKS, "yes")
        elif told and told[-1].role is Role.CHECKS and _labels(reply, number):
            role = told[-1]
        told.append(role)
        if sentence.end >= block.end and block.kind is BlockKind.RULE:
            part = None
    return tuple(told)


def _is_dropped(reply: Reply, number: int) -> bool:
    """Tell whether a sentence under an "if" is set aside by the next one: "If …, the answer is 75. But …"."""
    if number + 1 >= len(reply.sentences) or not cue("supposes", r"^\W{0,20}").match(reply.sentences[number].text):
        return False
    return re.match(r"\W*(?:but|however|yet|in fact)\b", reply.sentences[number + 1].text, re.IGNORECASE) is not None


def _labels(reply: Reply, number: int) -> bool:
    """Tell whether the sentence before one is its label: "**Check.** 75 + 9 = 84"."""
    label, sentence = reply.sentences[number - 1], reply.sentences[number]
    return "\n" not in reply.text[label.start : sentence.start] and len(label.text.split()) == 1


def _answers_itself(asked: Sentence, after: Sentence) -> bool:
    """Tell whether a short question is answered by the reply itself: "Caspian Sea? Yes!"."""
    return len(asked.text.split()) <= _LONGEST_HEADING_WORDS and _YES.match(after.text) is not None


def _is_heading(reply: Reply, sentence: Sentence) -> bool:
    """Tell whether a line is a heading in all but name: short, alone, bold or ending with a colon."""
    block = reply.blocks[sentence.block]
    if block.kind is not BlockKind.PARAGRAPH or len(sentence.text.split()) > _LONGEST_HEADING_WORDS:
        return False
    alone = reply.begins_line(sentence.start) and sentence.end >= reply.line_end(sentence.start)
    titled = sentence.text.endswith(":") or reply.is_bold(sentence.start, sentence.end - (sentence.text[-1] in ".:"))
    kinds = ("sections", "titles")
    return alone and titled and any(cue(kind, "^(?:[^\\w]*)", r"\W*\Z").search(sentence.text) for kind in kinds)


def _part(title: str) -> Told | None:
    match = cue("sections", r"^(?:[^\w]|\d+[.)]\s)*", r"(?=\W|\Z)").search(title)
    if match is None:
        return None
    checks = cue("checks", r"^\W{0,20}").search(title)
    return Told(Role.CHECKS if checks else Role.REMARKS, title.strip())


def _role(sentence: Sentence, part: Told | None, kind: BlockKind) -> Told:
    text = sentence.text
    if kind is BlockKind.HEADER:
        return Told(Role.HEADS)
    if (text.endswith("?") or text.endswith('?"')) and not TAG_QUESTION.search(text):
        proposes = cue("proposes", rf"^{_LEAD}").match(text)
        return Told(Role.STATES, proposes.group().strip()) if proposes else Told(Role.ASKS, "?")
    if (label := cue("sections", r"^\W{0,20}", r"\s*[:.–—](?=\s|\Z)").match(text)) is not None:
        checks = cue("checks", r"^\W{0,20}").match(text)
        return Told(Role.CHECKS if checks else Role.REMARKS, label.group().strip())
    if part is not None:
        return part
    for role, name in _BY_OPENING if _opening().match(text) else ():
        found = cue(name, rf"^{_LEAD}").match(text)
        if role is Role.ASKS and found and _THEN_SAYS.search(text):
            continue
        if found and not (role is Role.REPORTS and _TURNS.search(text)):
            return Told(role, found.group().strip(" \"'(*"))
    if _IT_IS.fullmatch(text):
        return Told(Role.CONCLUDES, "it is")
    if _INNER_SO.search(text):
        return Told(Role.CONCLUDES, "therefore")
    if text.startswith("(") and text.rstrip(".").endswith(")") and len(text.split()) > 1:
        return Told(Role.REMARKS, "( )")
    if kind is BlockKind.CODE and (len(text.split()) > MOST_WORDS_IN_FENCE or re.search(r"[=(){};<>]", text)):
        return Told(Role.CHECKS, "code")
    return Told(Role.STATES)


# "Tilde is therefore her grandmother."
_INNER_SO = regex(
    r"\b(?:is|are|was|were|must|has|have|can)\s+(?:therefore|thus|hence|accordingly)\b|\s(?:that|this)\s+leaves\s",
    re.IGNORECASE,
)
# "Three it is."
_IT_IS = regex(
    r"\W*(?:(?!(?:than|what|who|where|how|as|that|why)\b)\w[\w'-]*\s+){1,4}it\s+(?:is|was)[.!]*", re.IGNORECASE
)


@cache
def _opening() -> re.Pattern[str]:
    """Return the pattern of all openings that tell a role; most sentences have none, and one look is quicker."""
    return re.compile(rf"^{_LEAD}(?:{'|'.join(cue(name, '').pattern for _, name in _BY_OPENING)})", re.IGNORECASE)


_BY_OPENING: Sequence[tuple[Role, str]] = (
    # "or maybe 5" adds to an answer, and is none of its own
    (Role.REMARKS, "alternative"),
    (Role.REMARKS, "evaluates"),
    (Role.CONCLUDES, "concludes"),
    (Role.CHECKS, "checks"),
    (Role.REMARKS, "remarks"),
    (Role.ASKS, "asks"),
    (Role.REPORTS, "reports"),
)


# "the popular answer is"
_NOT_MINE = regex(r"\b(?:popular|common|obvious|usual|wrong|first|naive|tempting|expected)\s+\Z", re.IGNORECASE)


def states_asked(text: str) -> re.Match[str] | None:
    """Return the words with which a sentence names the answer as such: "the answer is"."""
    said = last_cue("answers", text)
    return None if said is None or _NOT_MINE.search(text, max(0, said.start() - 12), said.start()) else said
