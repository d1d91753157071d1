"""Scheme `pattern`: a regular expression of the suite's author matches the answer, in linear time (RE2)."""

from __future__ import annotations

from typing import Any

from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, failed, passed
from dryquarry.marking.reading import Found, read_answer
from dryquarry.marking.text import shortened, uniform

LONGEST_PATTERN = 2000
MOST_MEMORY_BYTES = 8 << 20


def prepare(marking: Marking) -> Marker:
    """Return the marker for a pattern; raises MarkingFault when it cannot be read.

    The pattern is looked for in the answer; with `whole` in the whole reply. Letter case counts only with `case`.
    """
    compiled = _compiled(marking.key, bool(marking.options.get("case", False)))
    whole = bool(marking.options.get("whole", False))

    def match(found: Found) -> str | None:
        got = compiled.search(uniform(found.text))
        return None if got is None else str(got.group())

    def mark(text: str) -> Mark:
        if whole:
            got = match(Found(text.strip(), "whole reply", 0))
            if got is None:
                return failed(f"the pattern {marking.key} matches nothing in the reply")
            return passed(
                f"the pattern {marking.key} matches '{shortened(got)}'", shortened(got, 200), "whole reply", 0
            )
        found, got = read_answer(text, marking.answer_line, match)
        if found is None:
            return failed("the reply is empty")
        place = (shortened(found.text, 200), found.read_by, found.start)
        if got is None:
            return failed(f"read '{shortened(found.text)}', which the pattern {marking.key} does not match", *place)
        return passed(f"read '{shortened(found.text)}', in which the pattern matches '{shortened(got)}'", *place)

    return mark


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


SCHEME = Scheme(name="pattern", options={"case": (bool,), "whole": (bool,)}, prepare=prepare)
