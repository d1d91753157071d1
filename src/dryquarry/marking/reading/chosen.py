"""Which of the options that a stretch names are the ones that it chooses: what it says of them, and in which order."""

from __future__ import annotations

import itertools
import re
from collections.abc import Sequence
from dataclasses import dataclass

from dryquarry.marking.reading.claims import Claim, Place, Question
from dryquarry.marking.reading.echo import echo, question_in
from dryquarry.marking.reading.extremes import tells_extreme, way_of
from dryquarry.marking.reading.ranks_said import ASKS_MOST
from dryquarry.marking.regexes import regex

_REASON = regex(r"\W*(?:since|as|because|given\s+that|with)\b[^.;]*,\s", re.IGNORECASE)
_COPULA = regex(r"\s(?:is|are|was|were|must be|has to be)\s", re.IGNORECASE)
_STEP = regex(r"\b(?:first|second|third|fourth|fifth|last|finally|then)\b", re.IGNORECASE)
_NOUN = regex(r"\s+(?:\w+\s+)??(?P<noun>[^\W\d_]{3,})")
_CLAUSE = regex(r"[,;]\s|\s(?:while|whereas|but)\s|\sand\s(?=the\s\w+est\s|an?\s\w+\s\w+s\b)", re.IGNORECASE)
# "dark green, not just green"
_NOT_JUST = regex(r",\s+(?:and\s+)?not\s+(?:just|only|merely|simply)\s+(?:the\s+|an?\s+)?\Z", re.IGNORECASE)
# "what fits is A"
_WHAT_FITS = regex(
    r"\b(?:what\s+(?:fits|remains|is\s+left|follows|holds|works)\s+is|"
    r"(?:speaks|decides(?:\s+it)?|argues|points)\s+(?:for|to|towards|in\s+favou?r\s+of))\s+(?=\W?[A-Z]\b)"
)
# "(C), since Ola comes last", "It has to be C, as the red one is higher"
_OPENS_WITH = regex(
    r"\W*(?:(?:[Ss]o\s+)?[Ii]t\s+(?:has\s+to|must|can\s+only)\s+be\s+)?(?:option\s+)?[(\[]?[A-Z]"
    r"(?:[)\]]?,?\s+(?:since|because|as(?!\s+well\b))\s|[)\]]?:\s(?=\S+\s\S+\s\S+\s))"
)


# What stands behind it says why, and chooses nothing.
ASIDE_START = regex(
    r"[;]|\.\s|\s\((?=[A-Z]\s+(?:is|was|are|would|has|does|only)\b)|\s[–—-]\s(?=(?:not|because|since|as|which|it|the|this|that)\b)|—|(?<!\bwell),?\s(?=(?:because|"
    r"since|as(?!\s+well\b)|so\s+that|while|whereas|although|though|where|which|given|even\s+though|"
    r"for(?=\s[^;:]*?\s(?:is|are|has|have)\b)|being)\b)",
    re.IGNORECASE,
)


@dataclass(frozen=True, slots=True)
class Chosen:
    """The letters that a stretch names, and how a single one is contradicted by the text beside it."""

    letters: frozenset[str]
    contradiction: str | None = None
    by_text: bool = False


# "Both Kim and Max are older than Lou.", where the youngest is asked for
_THAN = regex(r"\b(?P<more>[a-z]+er)\b[^,;:.]{0,20}?\bthan\b", re.IGNORECASE)


def compared(text: str, place: Place, claims: list[Claim[Chosen]], question: Question) -> list[Claim[Chosen]]:
    """Keep whom all others are older than, where the youngest is asked for, and who is younger than all others."""
    than = list(_THAN.finditer(text, place.start, place.end))
    way = way_of(than[0]["more"], question_in(question.asked)) if len(than) == 1 else 0
    kept = [claim for claim in claims if (claim.start > than[0].end()) == (way < 0)] if way else []
    return kept if len(kept) == 1 else claims


_CLAUSES = regex(r"[;,]\s")
_WOULD = regex(r"\bwould\b", re.IGNORECASE)


def without_supposed_ones(text: str, place: Place, claims: list[Claim[Chosen]], asked: str) -> list[Claim[Chosen]]:
    """Leave out what only would be: "a full turn would bring you to north; half a turn brings you to south"."""
    if len(claims) < 2 or _WOULD.search(asked) or not _WOULD.search(text, place.start, place.end):
        return claims
    ends = [place.start, *(joint.end() for joint in _CLAUSES.finditer(text, place.start, place.end)), place.end]
    would = [span for span in itertools.pairwise(ends) if _WOULD.search(text, *span)]
    return [claim for claim in claims if not any(start <= claim.start < end for start, end in would)] or claims


# "The bowl beats even the jug."
_BEATS = regex(r"\s+(?:beats?|exceeds?|outdoes|tops|outweighs?|surpass(?:es)?)\s+(?:even\s+)?", re.IGNORECASE)


def that_beats(text: str, claims: list[Claim[Chosen]], asked: str) -> list[Claim[Chosen]]:
    """Keep the one of two that is said to beat the other, where it is asked which has the most."""
    beats = (
        len(claims) == 2
        and ASKS_MOST.search(question_in(asked))
        and _BEATS.match(text, claims[0].end, claims[1].start) is not None
    )
    return claims[:1] if beats else claims


_SO_THEN = regex(r",\s+(?:so|hence|thus|therefore)\s", re.IGNORECASE)


def behind_so(text: str, claims: list[Claim[Chosen]]) -> list[Claim[Chosen]]:
    """Keep what follows from the rest: "in 49 days it's Thursday, so in 50 it's Friday; the nearest is D"."""
    joints = list(_SO_THEN.finditer(text, claims[0].end, claims[-1].start))
    return [claim for claim in claims if claim.start >= joints[-1].end()] if joints else claims


# "…; the plane is the one with the shavings"
_IS_THE_ONE = regex(
    r"[\s)\]:]*(?:(?:is|must\s+be)\s+(?:the\s+one|what\s+(?:we|you|is)|the\s+answer|fine|right|correct|true)|follows|holds|fits)\b",
    re.IGNORECASE,
)
_SO_DO_OTHERS = regex(r"\b(?:so\s+(?:do|does|is|are)|too|also|both|as\s+well|if|when)\b", re.IGNORECASE)


def called_the_one(text: str, claims: list[Claim[Chosen]]) -> list[Claim[Chosen]]:
    """Keep the one option of which it is said that it is the one, or the answer."""
    said = [claim for claim in claims if _IS_THE_ONE.match(text, claim.end)]
    if _SO_DO_OTHERS.search(text, claims[0].start, claims[-1].end + 24):
        return claims
    return said if len(said) == 1 else claims


def after_reason(text: str, place: Place, claims: list[Claim[Chosen]]) -> list[Claim[Chosen]]:
    """Leave out what only stands in the reason that a sentence begins with: "Since A and B are out, only C fits"."""
    reason = _REASON.match(text, place.start, claims[-1].start)
    return [claim for claim in claims if claim.start >= reason.end()] if reason else claims


def what_fits(text: str, place: Place, claims: list[Claim[Chosen]]) -> list[Claim[Chosen]]:
    """Keep what stands behind "what fits is", where that is said."""
    fits = _WHAT_FITS.search(text, place.start, place.end)
    return [claim for claim in claims if claim.start >= fits.end()] or claims if fits else claims


# "as nothing is said of A, I can't choose it; D", "A? No: … B? No. D"
_ENDS_WITH = regex(
    r":\s+(?:[Oo]ption|[Aa]nswer|[Cc]hoice)\s+\(?[A-Z]\)?\W*\Z|"
    r"\b(?:since|because|as|n't|not|out|wrong)\b[^;]*;\s*\(?[A-Z]\)?\W*\Z|\b[A-Z]\?\s+[Nn]o\b.*[.;!]\s+\(?[A-Z]\)?\W*\Z"
)


_ENDS_WITH_OPTION = regex(r":\s+(?:[Oo]ption|[Aa]nswer|[Cc]hoice)\s+\(?[A-Z]\)?\W{0,4}\Z")


def ends_with_letter(text: str, place: Place, claims: list[Claim[Chosen]]) -> list[Claim[Chosen]]:
    """Keep the letter alone that a line ends with, where what stands before it only says why."""
    ends = (
        len(claims) > 1
        and (place.telling or _ENDS_WITH_OPTION.search(text, place.start, place.end))
        and _ENDS_WITH.search(text[place.start : place.end].rstrip())
    )
    return claims[-1:] if ends else claims


def opens_with_letter(text: str, place: Place, claims: list[Claim[Chosen]]) -> bool:
    """Tell whether a stretch begins with a letter and goes on with why: "(C), since Ola comes last"."""
    opens = _OPENS_WITH.match(text, place.start, min(place.end, claims[0].end + 40))
    lists = len(re.findall(r"\b[A-Z]\)?:\s", text[place.start : place.end])) > 1  # "B: 102 min, C: 105 min"
    return opens is not None and not lists and not claims[0].value.by_text


# "The gull: heavier than the tern, lighter than the heron."
_COMPARED_BEHIND = regex(r"\s*:\s+[^:;]*\bthan\b[^:;]*\Z", re.IGNORECASE)


def opens_with_text(text: str, place: Place, claims: list[Claim[Chosen]]) -> bool:
    """Tell whether a stretch begins with the text of an option and goes on with what it is more and less than."""
    first = claims[0]
    opens = first.value.by_text and not re.search(r"\w{4}", text[place.start : first.start])
    return opens and len(claims) > 1 and _COMPARED_BEHIND.match(text, first.end, place.end) is not None


def without_lesser(text: str, claims: list[Claim[Chosen]]) -> list[Claim[Chosen]]:
    """Leave out what it is more than: "dark green, not just green"."""
    return [claim for claim in claims if not _NOT_JUST.search(text[max(0, claim.start - 24) : claim.start])] or claims


def complement(text: str, place: Place, claims: list[Claim[Chosen]]) -> list[Claim[Chosen]]:
    """Keep what is said of something that an option's text is only a part of: "left of north is west"."""
    verbs = list(_COPULA.finditer(text, place.start, place.end))
    after = [claim for claim in claims if verbs and claim.start >= verbs[-1].end()]
    before = [claim for claim in claims if claim not in after]
    if len(before) != 1 or not after or not all(claim.value.by_text for claim in claims):
        return claims
    between = re.compile(r".*(?:[,;.]\s|\band\s)", re.DOTALL).match(text, place.start, before[0].start)
    subject = text[between.end() if between else place.start : before[0].start]
    return after if re.search(r"\w\s+(?:of|from|after|before|to|beside|opposite)\W*(?:the\s+)?\Z", subject) else claims


def result(text: str, claims: list[Claim[Chosen]]) -> list[Claim[Chosen]]:
    """Keep the end of an equation whose terms are the texts of options, too: "3 + 3 + 3 = 9"."""
    equals = text.rfind("=", claims[0].end, claims[-1].start)
    return [claim for claim in claims if claim.start > equals] if claims[0].value.by_text and equals >= 0 else claims


def counted(text: str, place: Place, claims: list[Claim[Chosen]], question: Question) -> list[Claim[Chosen]]:
    """Keep the number of what was asked to be counted: "6 corners and 9 edges"."""
    if len(claims) < 2 or not all(claim.value.by_text and text[claim.end - 1].isdecimal() for claim in claims):
        return claims
    nouns = [_NOUN.match(text, claim.end, place.end) for claim in claims]
    own = [claim for claim, noun in zip(claims, nouns, strict=True) if noun and echo(noun["noun"], question.asked) > 0]
    return own if len(own) == 1 else claims


def last_step(text: str, place: Place, claims: list[Claim[Chosen]]) -> list[Claim[Chosen]]:
    """Keep the last of several steps: "after the first turn east, after the second south, after the third west"."""
    if len(claims) < 2 or not all(claim.value.by_text for claim in claims):
        return claims
    said = list(_STEP.finditer(text, place.start, claims[-1].start))
    steps = [match.group().lower() for match in said]
    if steps[:1] == ["first"]:
        claims = [claim for claim in claims if claim.start > said[0].start()]  # "From north, the first turn …"
    parted = all("," in text[one.end : other.start] for one, other in itertools.pairwise(claims))
    return claims[-1:] if steps[:1] == ["first"] and len(steps) >= len(claims) and parted else claims


def _with_their_verb(
    text: str, clauses: list[tuple[int, int, list[Claim[Chosen]]]]
) -> list[tuple[int, int, list[Claim[Chosen]]]]:
    """Return clauses with those joined to the next that only begin a list: "B, C and D float"."""
    joined: list[tuple[int, int, list[Claim[Chosen]]]] = []
    for start, end, own in clauses:
        before = joined[-1] if joined else None
        if (
            before
            and not re.search(r"\w", text[before[2][-1].end : before[1]])
            and not text[start : own[0].start].strip()
        ):
            joined[-1] = (before[0], end, [*before[2], *own])
        else:
            joined.append((start, end, own))
    return joined


PARTLY = 0.2
_IN_ALL = regex(r"\b(?:in\s+all|in\s+total|altogether|overall|all\s+in\s+all)\b", re.IGNORECASE)


_AGAINST = regex(r",?\s+(?:but|while|whereas)\s+", re.IGNORECASE)


def are_set_against(text: str, claims: list[Claim[Chosen]]) -> bool:
    """Tell whether two options are told in words and set against each other: "it slips when pulled, but holds …"."""
    if len(claims) != 2 or not all(claim.value.by_text for claim in claims):
        return False
    return _AGAINST.search(text, claims[0].end, claims[1].start) is not None


def of_what_is_asked(text: str, place: Place, claims: list[Claim[Chosen]], question: Question) -> list[Claim[Chosen]]:
    """Keep the options of which is said what was asked: "A and D are even, B and C are odd" where that is "even"."""
    parted = [match.span() for match in _CLAUSE.finditer(text, place.start, place.end)]
    ends = [place.start, *(bound for span in parted for bound in span), place.end]
    clauses = [
        (start, end, [claim for claim in claims if start <= claim.start < end])
        for start, end in zip(ends[::2], ends[1::2], strict=True)
    ]
    clauses = _with_their_verb(text, [clause for clause in clauses if clause[2]])
    of_extreme = [own for start, end, own in clauses if tells_extreme(text[start:end], question_in(question.asked))]
    if len(of_extreme) == 1 and len(clauses) > 1 and len(of_extreme[0]) == 1:
        return of_extreme[0]  # "Max is the oldest, …, and the youngest is Lou"
    said = [text[own[-1].end : end] for _, end, own in clauses]
    if len(clauses) > 1 and not any(re.search(r"\w{2}", rest) for rest in said):
        # "…; second is Mara": what is asked may stand before them
        heads = [re.search(r"\w{2}", text[start : own[0].start]) for start, _, own in clauses]
        shares = [echo(text[start : own[0].start], question.asked) if own else 0.0 for start, _, own in clauses]
        best = max(shares)
        if heads[shares.index(best)] and best > 0 and shares.count(best) == 1:
            return clauses[shares.index(best)][2]
    alone = [bool(re.search(r"\w{2}", rest)) and echo(rest, question.asked) >= PARTLY for rest in said]
    heads_of_all = [_IN_ALL.search(text, start, own[0].start) is not None for start, _, own in clauses]
    if alone.count(True) == 1 and all(one or of_all for one, of_all in zip(alone, heads_of_all, strict=True)):
        return clauses[alone.index(True)][2]  # "They meet once on the way there, and in all they meet twice."
    taken_up = [bool(re.search(r"\w", rest)) and echo(rest, question.asked) > 0 for rest in said]
    if len(clauses) < 2 or not any(taken_up) or not all(re.search(r"\w{2}", rest) for rest in said):
        return claims
    shares = [echo(rest, question.asked) for rest in said]
    if all(taken_up) and shares.count(max(shares)) == 1:
        return clauses[shares.index(max(shares))][2]  # "… make green, … make orange, and … make purple"
    return [claim for (_, _, own), takes in zip(clauses, taken_up, strict=True) if takes for claim in own]


def drawn(text: str, place: Place, claims: Sequence[Claim[Chosen]], *, turns: bool) -> list[Claim[Chosen]]:
    """Return what a sentence draws from the rest: what follows its "so", or else its "but"."""
    for pattern in (
        r"\b(?:so(?!\s+(?:do|does|did|is|are|was|were)\b)|therefore|thus|hence|leaves|leaving)\b",
        *([r"\bbut\b"] if turns else []),
    ):
        ends = [match.end() for match in re.finditer(pattern, text[place.start : place.end], re.IGNORECASE)]
        after = [claim for claim in claims if ends and claim.start >= place.start + ends[-1]]
        if after:
            return after
    return list(claims)
