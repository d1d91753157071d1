"""The items of a list and the rows of a table: where they stand, and which of them a reply calls right."""

from __future__ import annotations

import re
from collections.abc import Sequence

from dryquarry.marking.reading.claims import Place, PlaceKind
from dryquarry.marking.reading.members_named import NamedMember, member_at
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.blocks import BlockKind
from dryquarry.marking.reply.structure import Reply

# A line of no more words than this, without a full stop, may be one of a list of lines without signs.
MOST_WORDS_IN_LINE = 4
# What stands between the members of a list in a sentence.
BETWEEN = regex(
    r"\s+\(?\d{1,2}\)\s+(?=\S)|\s+\d\.\s+(?=[^\W\d])|\s*(?:[,;]\s*(?:and\s+(?:then|finally|lastly|also|"
    r"of\s+course)\s+|and\s+|or\s+|then\s+|und\s+|et\s+|y\s+|followed\s+by\s+|finally\s+|lastly\s+)?|"
    r"\n|\s+\+\s+(?=[^\W\d])|\s*(?:->|→|⇒|=>|\\(?:right|Right)arrow|\\to\b|>|<|(?<!\d)/|/(?!\d)|\|)\s*|"
    r"\s+(?:and(?:\s+(?:then|finally|lastly|also|of\s+course))?|as\s+well\s+as|&|plus|then|"
    r"und(?:\s+dann)?|sowie|et(?:\s+puis)?|y(?:\s+luego)?|or|oder|ou|followed\s+by|before|[∨∧]|"
    r"comes\s+before|together\s+with|along\s+with|mixed\s+with|alloyed\s+with)\s+)\s*",
    re.IGNORECASE,
)
_JUDGED = regex(
    r"(?:[:–—-]\s*|\s\(?)(?:(?P<right>[✓✔✅]|(?:yes|ja|oui|sí)\b)|[✗✘❌]|(?:no|not|nein|non)\b)", re.IGNORECASE
)
_TICKS = "✓✔✅✗✘❌"
_NUMBER = regex(r"\W*(\d{1,3})\W*\Z")
# Cells of a table that say of their row that it is none, or one.
_CROSSED = regex(
    r"[\s*_]*(?:no|not|nein|non|false|[✗✘❌])(?!\w)(?:[^\w|]*(?:\([^()|]*\))?|[\s*_]*[,;:–—][^|]*)\s*", re.IGNORECASE
)
_JUDGES = regex(r"[\s*_]*(?:yes|no|not|ja|nein|oui|non|sí|true|false)[\s*_.!]*(?:[,;:–—(][^|]*)?", re.IGNORECASE)
_TICKED = regex(r"\|[\s*_]*(?:yes|ja|oui|sí|true|[✓✔✅])(?!\w)", re.IGNORECASE)


# "level: palindrome / lever: no palindrome"
_KIND = regex(
    r"(?:[:–—]|\s-)\s{0,4}(?P<not>(?:no|not)\s+|is(?:n't|\s+not)\s+)?(?:(?:is\s+)?an?\s+)?(?P<what>[^\W\d_]+)\W*\Z",
    re.IGNORECASE,
)


def _of_one_kind(text: str, items: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Return the items that are of a kind where the others are said not to be; nothing where it is not said so."""
    said = [_KIND.search(text[start:end]) for start, end in items]
    kinds = {one["what"].casefold() for one in said if one}
    if None in said or len(kinds) != 1 or len({bool(one["not"]) for one in said if one}) < 2:
        return []
    return [(start, start + one.start()) for (start, _), one in zip(items, said, strict=True) if one and not one["not"]]


# "[x] spruce", "☐ oak"
_BOX = regex(r"\W{0,2}?(?:\[(?:(?P<right>[xX✓✔✅☑])|\s?)\]|[☐☒✗✘❌]|(?P<ticked>[☑✓✔✅]))\s*")


# "Which of these birds are waders?"
_ASKS_KIND = regex(r"\bwhich\b[^?]*\bare\s+(?P<kinds>[^\W\d_]{4,}s)\s*\?", re.IGNORECASE)
# "Gannet: a seabird that dives for fish.", "Oystercatcher (a wader)"
_DESCRIBED = regex(r"(?P<one>[^\n:(–—]{2,40}?)\W*(?::|\s[–—-]|\()\s*(?P<what>[^\n]+)")
_NOT = regex(r"\b(?:not?|never|none)\b|n['’]t\b", re.IGNORECASE)


def _of_asked_kind(text: str, items: list[tuple[int, int]], asked: str) -> list[tuple[int, int]]:
    """Return the items whose description says that they are of the kind asked for, where some are and others not.

    "Curlew: a wader with a long bill. / Gannet: a seabird.", where the waders are asked for.
    """
    kind = _ASKS_KIND.search(asked)
    said = [_DESCRIBED.match(text, start, end) for start, end in items] if kind else [None]
    if kind is None or None in said:
        return []
    of_kind = re.compile(rf"\b{re.escape(kind['kinds'].removesuffix('s'))}s?\b", re.IGNORECASE)
    right = [one for one in said if one and of_kind.search(one["what"]) and not _NOT.search(one["what"])]
    return [one.span("one") for one in right] if 0 < len(right) < len(items) else []


def right_ones(text: str, items: list[tuple[int, int]], asked: str) -> list[tuple[int, int]]:
    """Return of a list that judges each of its items those that it calls right: "12 ✓ / 15 ✗"; any other whole."""
    if of_kind := _of_asked_kind(text, items, asked):
        return of_kind
    if alike := _of_one_kind(text, items):
        return alike
    boxes = [_BOX.match(text, start, end) for start, end in items]
    right = [box is not None and bool(box["right"] or box["ticked"]) for box in boxes]
    if None not in boxes and any(right):
        return [(box.end(), end) for (_, end), box, one in zip(items, boxes, right, strict=True) if box and one]
    judged = [_JUDGED.search(text, start + 1, end) for start, end in items]
    if None in judged or not any(one["right"] for one in judged if one):
        return items
    return [(start, one.start()) for (start, _), one in zip(items, judged, strict=True) if one and one["right"]]


_TICKED_ONE = regex(
    r"(?P<one>[^\s,;|✓✔✅✗✘❌()](?:(?![.:]\s)[^,;|\n✓✔✅✗✘❌()]){0,60}?)\s*(?::?\s*(?:(?P<right>[✓✔✅])|[✗✘❌])|(?::\s*|\s\(?)(?:(?P<yes>yes)|no)\b(?=\W*(?:[,;.(]|\Z|\n)))",
    re.IGNORECASE,
)
_SIGN = regex(r"[✓✔✅✗✘❌]|[^,;.]\s\(?(?:yes|no)\s*[,;.()]", re.IGNORECASE)


def ticked_ones(text: str, place: Place) -> tuple[tuple[int, int], ...]:
    """Return where what is ticked stands where each thing is ticked or crossed: "red ✓, white ✗, blue ✓"."""
    if _SIGN.search(text, place.start, place.end) is None:
        return ()
    judged = list(_TICKED_ONE.finditer(text, place.start, place.end))
    right = [match for match in judged if match["right"] or match["yes"]]
    if not right or len(judged) < 2:
        return ()
    return tuple(match.span("one") for match in right)


def is_item(reply: Reply, place: Place) -> bool:
    """Tell whether a sentence is an item of a list, a row, or a line of a list without signs."""
    if re.match(r"[^\n]{1,60}?\s2[.)]\s", reply.text[place.start : place.end]):
        return False  # "1) dune 2) creek 3) mill"
    number = place.sentence
    if reply.blocks[reply.sentences[number].block].kind in (BlockKind.ITEM, BlockKind.ROW):
        return not _is_only_item(reply, number)
    beside = [other for other in (number - 1, number + 1) if 0 <= other < len(reply.sentences)]
    return _is_short_line(reply, number) and any(_is_short_line(reply, other) for other in beside)


_FIRST_MARKER = regex(r"\(?(?:1[.):]|1st\b)")


def begins_anew(reply: Reply, run: Sequence[int], number: int) -> bool:
    """Tell whether a list begins again with an item: behind a line across the page, or with its first number."""
    before, own = reply.sentences[run[-1]].block, reply.sentences[number].block
    parted = any(block.kind is BlockKind.RULE for block in reply.blocks[before:own])
    markers = {reply.blocks[own].marker, reply.blocks[reply.sentences[run[0]].block].marker}
    first = all(_FIRST_MARKER.match(marker) for marker in markers)
    return parted or (len(run) > 1 and own != before and first)


def _is_only_item(reply: Reply, number: int) -> bool:
    """Tell whether a sentence is in a list of one item, which is no list."""
    kinds = (BlockKind.ITEM, BlockKind.ROW)
    own = reply.sentences[number].block
    near = reply.sentences[max(0, number - 12) : number + 13]
    return not any(one.block != own and reply.blocks[one.block].kind in kinds for one in near)


def is_entry(reply: Reply, number: int) -> bool:
    """Tell whether a sentence belongs to a list of lines, with or without signs before them."""
    kind = reply.blocks[reply.sentences[number].block].kind
    return kind in (BlockKind.ITEM, BlockKind.ROW) or _is_short_line(reply, number)


def _is_short_line(reply: Reply, number: int) -> bool:
    sentence = reply.sentences[number]
    whole = reply.begins_line(sentence.start) and sentence.end >= reply.line_end(sentence.start)
    short = len(sentence.text.split()) <= MOST_WORDS_IN_LINE and (
        sentence.text[-1].isalnum() or sentence.text[-1] in _TICKS
    )
    return whole and short and not BETWEEN.search(sentence.text)


def _counts_down(reply: Reply, items: list[tuple[int, int]]) -> bool:
    """Tell whether a list is numbered from its last place to its first: "3. Rhea / 2. Oda / 1. Sol"."""
    starts = {start for start, _ in items}
    numbers = [_NUMBER.match(block.marker) for block in reply.blocks if block.start in starts]
    given = [int(number[1]) for number in numbers if number]
    return len(given) == len(items) > 1 and given == list(range(len(given), 0, -1))


# "Shortest: 7 dm / Then: 75 cm / Longest: 0.8 m"
_PLACE_LABEL = regex(
    r"\W*(?:(?:the\s+)?(?:[^\W\d_]+est|first|second|third|fourth|fifth|last)|then|next|finally|after\s+that|top|middle|bottom|left|centre|center|right)(?:\s+one)?\W{0,3}:\W{0,3}\s+|\d{1,2}:\d\d\s+(?=[A-Z])",
    re.IGNORECASE,
)


def items(reply: Reply, place: Place) -> list[tuple[int, int]]:
    """Return the list items or table rows of a stretch; of a table that says yes or no of each row the right ones."""
    found: list[tuple[int, int]] = []
    crossed: list[tuple[int, int]] = []
    for number, sentence in enumerate(reply.sentences):
        if sentence.start < place.start or sentence.end > place.end:
            continue
        block = reply.blocks[sentence.block]
        short = place.kind is PlaceKind.LIST and _is_short_line(reply, number)
        if (block.kind is BlockKind.ITEM and sentence.start == block.start) or short:
            found.append((sentence.start, sentence.end))
        elif block.kind is BlockKind.ROW:
            cells = [match for match in re.finditer(r"[^|\n]+", sentence.text) if match.group().strip()]
            naming = (one for one in cells if re.search(r"[^\W\d]", one.group()) and not _JUDGES.fullmatch(one.group()))
            named = next(naming, cells[0] if cells else None)
            if named:
                found.append((sentence.start + named.start(), sentence.start + named.end()))
                crossed += found[-1:] if any(_CROSSED.fullmatch(cell.group()) for cell in cells) else []
    labels = [_PLACE_LABEL.match(reply.text, *span) for span in found]
    if len(found) > 1 and all(labels):
        found = [(label.end(), end) for label, (_, end) in zip(labels, found, strict=True) if label]
    found = found[::-1] if _counts_down(reply, found) else found
    ticked = crossed and any(_TICKED.search(sentence.text) for sentence in reply.sentences)
    return [item for item in found if item not in crossed] if ticked else found


# "Bosun / Dory", a line each and nothing else down to a blank line
_LINE = r"[ \t]*[^\W_](?:[^\n.:;!?,]|(?<=\d)[.,](?=\d)){0,30}?[.,;]?[ \t]*"
_LINES = regex(rf"\s*{_LINE}(?:\n{_LINE})+(?=\s*\Z|\n[ \t]*\n)")
_YES_OR_NO_LINES = regex(
    r"\s*(?:[^\n:]{1,30}:[ \t]*(?:yes|no|true|false)[.,;]?[ \t]*(?:\n|\Z)){2,}(?=\s*\Z|[ \t]*\n)", re.IGNORECASE
)
_YES_LINE = regex(r"^[ \t]*(?P<name>[^\n:]{1,30}):[ \t]*(?:yes|true)\b", re.IGNORECASE | re.MULTILINE)
_ONE_LINE = regex(r"[^\n]*\w[^\n]*")
MOST_WORDS_OF_MEMBER = 4


def short_lines(text: str, start: int) -> tuple[NamedMember, ...]:
    """Return the members that stand below each other behind an answer line without any sign; none for another text."""
    judged = _YES_OR_NO_LINES.match(text, start)
    if judged is not None:  # "Abe: yes / Bea: no"
        so = (one.span("name") for one in _YES_LINE.finditer(text, *judged.span()))
        return tuple(member_at(text, *span) for span in so)
    lines = _LINES.match(text, start)
    spans = [line.span() for line in _ONE_LINE.finditer(text, *lines.span())] if lines else []
    plain = all(len(text[slice(*span)].split()) <= MOST_WORDS_OF_MEMBER for span in spans)
    return tuple(member_at(text, *span) for span in spans) if plain else ()
