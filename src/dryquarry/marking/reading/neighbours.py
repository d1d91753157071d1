"""Who came before or after whom, in whichever way a clause puts it, where one of the two is asked for."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from dryquarry.marking.reading.echo import question_in
from dryquarry.marking.reading.offers import Mention
from dryquarry.marking.regexes import regex

_CAPITAL = r"[A-ZÀ-Þ][\w'’-]{0,30}?"
_NAME = rf"(?:the\s+)?{_CAPITAL}(?:\s+{_CAPITAL}){{0,3}}"
_VERB = r"(?:came|comes|come|was|is|served|ruled|reigned|kept|follows?|goes|went)"
_ONE = rf"(?P<one>{_NAME})"
_OTHER = rf"(?P<other>{_NAME}|[Hh]im|[Hh]er|[Tt]hem|[Ii]t)(?:['’]s\s+time)?(?![\w'’])"
_ASKS = regex(
    rf"\b(?:[Ww]ho|[Ww]hich\s+\w+|[Ww]hat\s+\w+|[Ww]hom)\s+(?:(?:{_VERB})\s+(?:\w+\s+)?(?P<way>after|before|behind)|"
    r"(?P<verb>followed|succeeded|replaced|preceded))\s+(?:the\s+)?(?P<name>[A-ZÀ-Þ][\w'’-]+(?:\s+[A-ZÀ-Þ][\w'’-]+)*)"
)
_LATER = r"(?:followed|follows|succeeded|succeeds|replaced|took\s+over\s+from|takes\s+over\s+from)"
_EARLIER = r"preced(?:ed|es)"
# Each with whether `one` is the later of the two.
_FORMS = tuple(
    (regex(rf"(?<!\w){pattern}"), later)
    for pattern, later in (
        (rf"{_ONE}\s+(?:{_VERB}\s+)?(?:(?:right|directly|next,?)\s+)?(?:after|behind)\s+{_OTHER}", True),
        (rf"{_ONE}\s+(?:{_VERB}\s+)?(?:(?:right|directly)\s+)?(?:before|ahead\s+of)\s+{_OTHER}", False),
        (rf"{_ONE}\s+{_LATER}\s+{_OTHER}", True),
        (rf"{_ONE}\s+{_EARLIER}\s+{_OTHER}", False),
        (rf"{_ONE}\s+(?:was|is)\s+(?:then\s+)?(?:followed|succeeded|replaced)\s+by\s+{_OTHER}", False),
        (rf"{_ONE}\s+(?:was|is)\s+preceded\s+by\s+{_OTHER}", True),
        (rf"[Aa]fter\s+{_OTHER},?\s+(?:(?:it|that)\s+)?(?:{_VERB}\s+)?{_ONE}(?![\w'’])", True),
        (rf"[Bb]efore\s+{_OTHER},?\s+(?:(?:it|that)\s+)?(?:{_VERB}\s+)?{_ONE}(?![\w'’])", False),
        (rf"{_ONE}\s+(?:was|is)\s+(?:the\s+)?successor\s+(?:of|to)\s+{_OTHER}", True),
        (rf"{_ONE}\s+(?:was|is)\s+(?:the\s+)?predecessor\s+(?:of|to)\s+{_OTHER}", False),
        (rf"{_ONE}\s+(?:handed|passed|gave)\s+(?:\w+\s+){{0,3}}?(?:over\s+|on\s+)?to\s+{_OTHER}", False),
    )
)
_PRONOUNS = frozenset(("him", "her", "them", "it"))


@dataclass(frozen=True, slots=True)
class _Asked:
    name: str
    later: bool


@lru_cache(maxsize=256)
def _asked(asked: str) -> _Asked | None:
    asks = _ASKS.search(question_in(asked))
    if asks is None:
        return None
    return _Asked(asks["name"], later=(asks["way"] or asks["verb"]) not in ("before", "preceded"))


def neighbour_told(text: str, start: int, end: int, asked: str) -> Mention | None:
    """Return who came before or after the one that a question names, as is asked, by the words of a clause.

    Where the clause tells who stands on the other side, the name is empty. None where it tells neither, or nothing of
    the kind is asked.
    """
    wanted = _asked(asked)
    if wanted is None:
        return None
    beside = None
    for pattern, one_is_later in _FORMS:
        for told in pattern.finditer(text, start, end):
            for name, other, is_later in (("one", "other", one_is_later), ("other", "one", not one_is_later)):
                if not _is_meant(told[other], wanted.name) or told[name].lower() in _PRONOUNS:
                    continue
                if is_later == wanted.later:
                    return told[name], *told.span(name)
                beside = "", *told.span(name)
    return beside


def _is_meant(said: str, name: str) -> bool:
    """Tell whether a name or pronoun of a clause is the one of the question: "Penn" for "Jory Penn"."""
    plain = said.removeprefix("the ").removeprefix("The ")
    return said.lower() in _PRONOUNS or plain == name or name.endswith(f" {plain}")
