"""Whether a value is only a bound or a round number for what is asked: "at least 36", "36 or more", "almost 52"."""

from __future__ import annotations

import re
from functools import lru_cache

from dryquarry.marking.cues import cue
from dryquarry.marking.regexes import regex

FARTHEST_BOUND = 40
_CLOCK = regex(r"\d{1,2}[:.]\d\d(?:\s?[ap]\.?m\.?)?", re.IGNORECASE)
_LATER_THAN = regex(r"\b(?:arrives?|ends?|leaves?|starts?|begins?)\s+(?:after|before|not\s+until)\s+\Z", re.IGNORECASE)
_ADDS = regex(r"\b(?:adds?|adding|added|sums?|totals?|comes?|makes?)\s+\Z", re.IGNORECASE)
_PLACED = regex(r"(?:over|under|above|beyond)\s+the\s+\Z", re.IGNORECASE)
_SIGN = regex(r"(?<![=-])[<>≤≥]\s*[€$£]?$")
# "in 1233 or a little later"
_OR_SO = regex(
    r"\s*±|\s+or\s+(?:a\s+little|a\s+bit|slightly|somewhat|even)\s+(?:more|less|later|earlier|fewer|longer)\b",
    re.IGNORECASE,
)
# "36 or more", "36 eggs at least", "36+"
_MORE_BEHIND = regex(
    r"(?P<sign>\+)(?!\s*[\d(√π]|\w)|"
    r"(?:\s+[^\W\d_]+)?,?\s+(?P<words>or\s+(?:more|less|fewer|above|below|over|under|later|earlier|longer|higher)\b"
    r"(?!\s+(?:precisely|exactly|specifically|accurately|than|to\s+the\s+point))|"
    r"(?:at\s+(?:the\s+)?(?:least|most|minimum|maximum)|minimum|maximum|tops|upwards?|"
    r"and\s+(?:up|over|above|more))(?=\W*\Z|[,;]))",
    re.IGNORECASE,
)
_NUMERIC = regex(
    r"\d|\b(?:one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|\w+teen|\w+ty|dozen)\b", re.IGNORECASE
)
# "in the 1250s"
_DECADE = regex(r"['’]?s\b")
_ROUND_YEAR = regex(r"[12]\d\d0")
# "almost 52" is not 52, "nearly 400,000" may be
_ALMOST = regex(r"\b(?:almost|nearly|not quite)\s+[€$£]?\Z", re.IGNORECASE)
_NOT_ROUND = regex(r"\d*[1-9]")
_MOST = regex(
    r"up to|at (?:the )?most|as (?:many|much|far|long) as|maximum|no more than|or (?:less|fewer|below|under)|tops",
    re.IGNORECASE,
)
_LEAST = regex(
    r"at (?:the )?least|minimum|no (?:fewer|less) than|or (?:more|above|over)|and (?:up|over|above|more)|upwards?|\+",
    re.IGNORECASE,
)
_ASKS_FOR_MOST = regex(
    r"\bhow (?:many|much|far|long|high|deep|fast)\b[^.?]*\b(?:can|could|may)\b|"
    r"\b(?:at most|maximum|most|largest|greatest|highest|limit|capacity|up to|hold|holds)\b",
    re.IGNORECASE,
)
_ASKS_FOR_LEAST = regex(r"\b(?:at least|minimum|least|fewest|smallest|lowest)\b", re.IGNORECASE)


def bound_in(before: str, value: str, after: str, asked: str) -> str | None:
    """Return the words beside a value by which it is only a bound; None where it is a value, or a bound is asked for.

    `before` and `after` are what its sentence has on either side of it.
    """
    decade = _DECADE.match(after) if _ROUND_YEAR.fullmatch(value) else None
    if (so := _OR_SO.match(after) or decade) is not None:
        return so.group()
    if (more := _MORE_BEHIND.match(after)) is not None and _NUMERIC.search(value):
        said = more["sign"] or more["words"]
        return None if _is_asked(said, asked) else said
    if _CLOCK.fullmatch(value) and (later := _LATER_THAN.search(before)) is not None:
        return later.group().strip()  # "It arrives after 2:25."
    match = cue("bounds", r"(?<![\w])", r"\s*(?:about |around |exactly |the |a |an )?[€$£]?\s*-?$").search(before)
    if match and _ADDS.search(before[: match.start()]):
        match = None  # "this adds up to 1,344"
    if match and _PLACED.match(match.group()) and value[:1].isupper():
        match = None  # "the bridge over the Inn"
    if match and not _is_asked(match.group(), asked):
        return match.group()
    almost = _ALMOST.search(before)
    if almost and _NOT_ROUND.fullmatch(value):
        return almost.group()
    sign = _SIGN.search(before)
    return sign.group() if sign else None


def _is_asked(said: str, asked: str) -> bool:
    """Tell whether a bound is what a question asks for: "up to 40" for "how many cars can it carry"."""
    return bool(_MOST.search(said) and _asks_for_most(asked)) or bool(_LEAST.search(said) and _asks_for_least(asked))


@lru_cache(maxsize=256)
def _asks_for_most(asked: str) -> bool:
    return _ASKS_FOR_MOST.search(asked) is not None


@lru_cache(maxsize=256)
def _asks_for_least(asked: str) -> bool:
    return _ASKS_FOR_LEAST.search(asked) is not None
