"""Letters of options as an answer line writes them: side by side, with semicolons, small."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence

from dryquarry.marking.reading.claims import Place
from dryquarry.marking.reading.constructions import Span
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply


def written_together(text: str, start: int, end: int, options: Mapping[str, str]) -> Sequence[tuple[str, Span]]:
    """Return the letters of "A; C; D", of "BCD" and of "b and c", where a stretch begins with them, and where."""
    named = "".join(options)
    whole = text[start:end].strip(" .!)(\"'*:\n")
    if re.fullmatch(rf"[{named}](?:\s*;\s*[{named}])+|[{named}](?:\s*[–—;-]\s*[{named}]){{2,}}", whole):
        return [("".join(one for one in whole if one in named), (start, end))]
    with_texts = rf"[{named}][).:]\s*[^;]{{1,40}}"
    if re.fullmatch(rf"{with_texts}(?:;\s*{with_texts})+", whole):  # "A: 14; C: 30"
        return [(one[0], (start, end)) for one in re.split(r";\s*", whole)]
    glued = re.match(rf"\W*([{named}]{{2,}})\b", text[start:end])
    if glued and len(set(glued[1])) == len(glued[1]) and glued[1] not in options.values():
        first = start + glued.start(1)
        return [(letter, (first + at, first + at + 1)) for at, letter in enumerate(glued[1])]
    small = named.lower()
    if re.fullmatch(rf"[{small}](?:\W+(?:and\W+)?[{small}])+", whole) and small_letter(text, start, end, named):
        letters = re.finditer(rf"\b[{small}]\b", text[start:end])
        return [(one.group().upper(), (start + one.start(), start + one.end())) for one in letters]
    return []


# "C, D is out", "C; A and B are wrong", "(C) Wednesday – tomorrow would be (D)"
_FIRST = r"\W*(?:(?i:option|answer|choice)\s+)?[(\[]?[A-Z]\b[)\]]?"
_OUT = (
    r"(?:(?:is|are)(?:n['’]t|\s+(?:not|out|wrong|false|incorrect|excluded|impossible|ruled\s+out|too\s+\w+))|would\s+be|"
    r"(?:does|do|did)(?:n['’]t|\s+not)|cannot|can['’]t)\b"
)
_OTHER = r"[(\[]?[A-Z]\b[)\]]?"
_ONE_OUT = regex(rf"{_FIRST}(?P<end>),\s+(?:(?i:and|but)\s+)?{_OTHER}\s+(?!are\b|do\b){_OUT}")
_REST_OUT = regex(
    rf"{_FIRST}[^,;–—.]{{0,60}}(?P<end>)\s*(?:[;–—.]|\s-\s)\s*(?:{_OTHER}(?:(?:,\s*|\s+and\s+){_OTHER})*\s+{_OUT}|[^;–—]{{0,60}}\bwould\s+be\s+{_OTHER}\W*\Z)"
)


def end_of_chosen(text: str, start: int, end: int) -> int:
    """Return where an answer line ends that names one option and then tells which others are out."""
    said = _ONE_OUT.match(text, start, end) or _REST_OUT.match(text, start, end)
    return said.start("end") if said else end


def small_letter(text: str, start: int, end: int, named: str) -> tuple[str, Span] | None:
    """Return the small letter that a stretch begins with, and where; None where it begins with none."""
    small = re.match(
        rf"\W*(?:(?:option|choice|answer)\s+)?\(?([{named.lower()}])(?:[).:]|\s*\Z|\s*[-–—]\s|,\s|\s(?=and\b|or\b))",
        text[start:end],
    )
    small = small or re.match(
        rf"\W*(?:(?i:so\s+)?(?i:it\s+is|it's|that's|i\s+(?:choose|pick|say)|(?:the\s+|my\s+)?(?:right\s+|correct\s+)?(?:answer|choice)\s+is))\s+"
        rf"\(?([{named.lower()}])\)",
        text[start:end],
    )
    return (small[1], (start + small.start(1), start + small.end(1))) if small else None


def alone_in_bold(reply: Reply, place: Place) -> bool:
    """Tell whether of options listed as in the question the one of a place is set in bold, and no other."""
    starts = [match.start(1) for match in re.finditer(r"(?m)^\W*([A-Z])[).:]\s", reply.text)]
    bold = [start for start in starts if reply.is_bold(start, start + 1)]
    line = reply.text.rfind("\n", 0, place.start) + 1
    return len(bold) == 1 and line <= bold[0] < place.end
