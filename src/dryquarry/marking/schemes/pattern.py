"""Scheme `pattern`: a regular expression of the suite's author matches the answer, in linear time (RE2)."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, failed, passed
from dryquarry.marking.options import option_types, options_of
from dryquarry.marking.reading.claims import Claim
from dryquarry.marking.reading.named import Named
from dryquarry.marking.regexes import regex
from dryquarry.marking.schemes.exact import kind_of
from dryquarry.marking.schemes.reading_marker import Verdicts, reading_marker
from dryquarry.marking.values.texts import bare, shortened, uniform

LONGEST_PATTERN = 2000
MOST_MEMORY_BYTES = 8 << 20
# "It's QW-417, not QV-417."
_SETS_ASIDE = regex(r"\b(?:not|nicht|pas|rather than|instead of|never)\s+(?:the\s+)?[\"'*_`(]*\Z", re.IGNORECASE)
_TELLS_ITS_ENDS = regex(r"\\b|\\A|\\z|^\(\?[a-z]+\)\^|^\^|\$$|\.\*")


@dataclass(frozen=True, slots=True)
class PatternOptions:
    """`case` makes letter case count, `whole` wants the pattern to account for the whole answer."""

    case: bool = False
    whole: bool = False


def prepare(marking: Marking) -> Marker:
    """Return the marker for a pattern; raises MarkingFault when it cannot be read.

    The pattern is looked for in the answer. With `whole` it accounts for the whole answer; one that says itself where
    it begins or ends (by `^`, `$` or `\\b`) is then looked for in the whole reply. Letter case counts only with `case`.
    """
    options = options_of(PatternOptions, marking)
    compiled, whole = _compiled(marking.key, options.case), options.whole
    reads = reading_marker(marking, kind_of(marking), _Matches(marking.key, compiled, whole))
    if not whole or not _TELLS_ITS_ENDS.search(marking.key):
        return reads

    def mark(text: str) -> Mark:
        got = compiled.search(uniform(text.strip())) or compiled.search(uniform(bare(text.strip())))
        if got is None:
            return failed(f"the pattern {marking.key} matches nothing in the reply")
        said = shortened(str(got.group()), 200)
        return passed(f"the pattern {marking.key} matches '{shortened(said)}'", said, "whole reply", 0)

    return mark


@dataclass(frozen=True, slots=True)
class _Matches(Verdicts[Named]):
    """Whether the answer that was read is one that the pattern matches."""

    key: str
    compiled: Any
    whole: bool

    def _match(self, claim: Claim[Named]) -> str | None:
        look = self.compiled.fullmatch if self.whole else self.compiled.search
        for reading in claim.value.texts:
            said = uniform(reading)
            if (got := look(said)) is not None and not _SETS_ASIDE.search(said[: got.start()]):
                return str(got.group())
        return None

    def score(self, claim: Claim[Named]) -> float:
        return float(self._match(claim) is not None)

    def said(self, claim: Claim[Named]) -> str:
        got = self._match(claim)
        read = f"read '{shortened(claim.value.texts[0])}'"
        return (
            f"{read}, which the pattern does not match"
            if got is None
            else f"{read}, in which the pattern matches '{shortened(got)}'"
        )

    def said_key(self) -> str:
        return self.key

    def nothing(self) -> str:
        return "no answer"


def _compiled(key: Any, case: bool) -> Any:
    import re2  # type: ignore[import-untyped]

    if not isinstance(key, str) or not key:
        raise MarkingFault("the key wants a regular expression, as a text")
    if len(key) > LONGEST_PATTERN:
        raise MarkingFault(f"the key is longer than {LONGEST_PATTERN} characters")
    options = re2.Options()
    options.case_sensitive = case
    options.max_mem = MOST_MEMORY_BYTES
    options.log_errors = False
    try:
        return re2.compile(uniform(key), options)
    except re2.error as error:
        said = error.args[0].decode() if error.args and isinstance(error.args[0], bytes) else str(error)
        raise MarkingFault(f"the key is no regular expression that can be used (RE2 syntax): {said}") from None


SCHEME = Scheme(name="pattern", options=option_types(PatternOptions), prepare=prepare, kind=kind_of)
