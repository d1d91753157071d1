"""Which number of a stretch is its result: what is drawn from the rest, what is bold, the end of its last equation."""

from __future__ import annotations

import re
from collections.abc import Sequence

from dryquarry.marking.cues import cue
from dryquarry.marking.reading.amounts_drawn import before_whole, unless_only_given, worked_out
from dryquarry.marking.reading.claims import Claim, Place, Question
from dryquarry.marking.reading.equations import chained, close, end_of_equation, result_of
from dryquarry.marking.reading.further_amounts import ASKS_SHARE
from dryquarry.marking.reading.stretches import MORE_OR_LESS, numbers_asked
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply
from dryquarry.marking.values.numbers import Shape
from dryquarry.marking.values.quantities import Quantity

# What stands after these words belongs to the result's surroundings: "of the 120 singers", "for 3 batches".
_BESIDE = regex(
    r"\b(?:(?<!total )(?<!sum )(?<!number )(?<!average )(?<!cost )(?<!price )(?<!speed )(?<!area )(?<!length )"
    r"(?<!rate )(?<!value )of|"
    r"out of|for|from|with|among|after|before|since|than|per|at|in|within|by|every|each|"
    r"rounded (?:up |down |off )?to|rounds to|close to|"
    r"(?:after|before|by|for) [a-z]{3,}ing|"
    r"divided by|its|their|his|her|my|your|all|the|these|those|between|on|when|if|until)\s+(?:the |"
    r"its |their |all |these |those |each |every |about |only )*[€$£]?-?$",
    re.IGNORECASE,
)
_ASIDE_START = regex(
    r"[;]|\s[–—-]\s|,?\s(?=(?:because|since|as (?:it|they|there|the|each|we|\d)|where|when|if|give or take|"
    r"although|though|while|whereas|for (?:example|instance)|which|given|weil|denn)\b)|"
    r",\s(?=having\b|(?:long|well|shortly|just|soon)\s(?:before|after)\b)",
    re.IGNORECASE,
)
_LETTER_BEHIND = regex(r"\s?[a-z]\b\s*[-+−=]")
# "395, i.e. 97 % of the 408"
_SHARE = regex(r"\s*(?:about\s+)?\d[\d.,]*\s?(?:%|per\s?cent)")
_MINUS = regex(r"\s[–—-]\s[€$£]?\d")
_ENDS_WITH = regex(r":\s+\S[^:;,]*(?:,\s(?:that is|that's it|all told|in all|all in all)\W*)?$", re.IGNORECASE)
_SAYS_MORE = regex(r"\b(?:leaves?|gives?|makes?|is|are|comes|come|remains?|adds?|get|have)\b|'s\b", re.IGNORECASE)
_LABELS = regex(r"(?:^|[;,]\s)\W*(?:[^\W\d_]+\s?){1,3}:\s")
_LEADS_ON = regex(
    rf"(?:\s*[€$£%])?(?:\s+[^\W\d_]+){{0,2}}?\s+(?:{MORE_OR_LESS}|(?:would|could|can|are|is|remain)\b)", re.IGNORECASE
)
DRAWN = regex(
    r"(?:\bthat is,?|\bi\.\s?e\.,?|\brounded\s+(?:up|down|off)\s+(?:to\s+)?(?=[€$£]?\d)|"
    r"\b(?:lands?|landing|ends?(?:\s+up)?|arrives?)\s+(?:on|at|with)(?=\s[€$£−-]?\d)|"
    r"(?<!or )\bso\b(?!\s+that\b)|\btherefore|\bthus|\bhence|\bthat(?:'s| makes| gives|"
    r" leaves)|\bwhich (?:makes|gives|leaves|comes to|means|is(?=\s[€$£]?\d))|\bmaking|\bleaving|\bgiving|"
    r"\bin other words|"
    r"\b(?:for )?a total of|\btotalling|\bin total\b[,:]|"
    r"\b(?:sum|total):?(?=\s[€$£]?\d)|\baltogether\b[,:]|\btogether:?(?=\s+[€$£]?\d)|\bamounts? to|"
    r"\bmakes?\s+it(?=\s[€$£]?\d)|\bmakes?(?=\s(?:one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve)\s)|"
    r"\bleft with|\b(?:we|you|one|i|and)\s+(?:(?:then|thus|finally)\s+)?(?:get|obtain|arrive\s+at|end\s+up\s+with)\b|"
    r"\bcomes? to|\b(?:cancel(?:s|led)?|simplif(?:y|ies|ied)|reduced?s?)\s+(?:down\s+)?to\b|"
    r"\badds? up to|\bis equal to|\bis the same as|\bnamely|\balso\b(?= \d)|\bd\.\s?h\.)",
    re.IGNORECASE,
)


def in_line(reply: Reply, place: Place, claims: Sequence[Claim[Quantity]], question: Question) -> Claim[Quantity]:
    """Return what an answer line or statement gives: its first number, or where it works something out the result."""
    text = reply.text
    drawn = [match for match in DRAWN.finditer(text, place.start, place.end) if match.start() > claims[0].start]
    given = numbers_asked(question.asked)
    if drawn:
        after = [claim for claim in claims if claim.start >= drawn[-1].end()]
        if after and not drawn[-1].start() < claims[0].end and _LEADS_ON.match(text, after[0].end):
            after = []  # "1500 litres, so 4500 more would fit in"
        if len(after) > 1 and sum(claim.value.value for claim in after) == claims[0].value.value:
            after = []  # "36, that is 18 left and 18 right ones"
        share = _SHARE.match(text, drawn[-1].end()) and not ASKS_SHARE.search(question.asked)
        if share or (claims[0].value.value not in given and all(claim.value.value in given for claim in after)):
            after = []  # "1344 kg a day, i.e. 56 kg an hour"
        aside = _ASIDE_START.search(text, claims[0].end, place.end)
        parts = aside and aside.start() < drawn[-1].start() and text[aside.start()] != ","
        if after and not (parts and not _MINUS.match(text, aside.start() if aside else 0)):
            before = [claim for claim in claims if claim.start < drawn[-1].end()]
            said, again = end_of_equation(text, before), end_of_equation(text, after)
            return said if close(said.value, again.value) else again
    bold = [claim for claim in claims if reply.is_bold(claim.start, claim.end)]
    if len(bold) == 1 and not reply.is_bold(place.start, place.end - 1):
        return bold[0]
    if claims[0].value.relation or (len(claims) > 1 and chained(text, claims[0], claims[1])):
        return end_of_equation(text, claims)
    last = claims[-1]
    if last.value.relation == "=" and _LETTER_BEHIND.match(text, claims[0].end):
        return last  # "4w + 2 = 14"
    if len(claims) > 2 and sum(claim.value.value for claim in claims[:-1]) == last.value.value:
        return last  # "CD is 400, XL is 40, IV is 4: 444"
    if (summed := worked_out(text, claims, given)) is not None:
        return summed
    first_clause = _ASIDE_START.search(text, claims[0].start, place.end)
    here = [claim for claim in claims if first_clause is None or claim.start < first_clause.start()]
    novel = [claim for claim in here if claim.value.value not in given]
    if (
        here
        and here[0] not in novel
        and len(novel) == 1
        and _BESIDE.search(text, max(place.start, here[0].start - 40), here[0].start)
    ):
        return novel[0]
    return end_of_equation(text, claims)


def in_sentence(reply: Reply, place: Place, claims: Sequence[Claim[Quantity]], question: Question) -> Claim[Quantity]:
    """Return what a sentence concludes: what is bold, what is drawn from the rest, the end of its last equation."""
    text = reply.text
    check = cue("checks", r"[;,.(—–-]\s*").search(text, claims[0].end, place.end)
    claims = [claim for claim in claims if check is None or claim.start < check.start()]
    bold = [claim for claim in claims if reply.is_bold(claim.start, claim.end)]
    if len(bold) == 1:
        return bold[0]
    last = _ENDS_WITH.search(text, place.start, place.end)
    if last and len(_LABELS.findall(text, place.start, place.end)) > 1:
        last = None  # "usable: 100; broken: 20"
    if last and (after := [claim for claim in claims if claim.start > last.start()]):
        before = [claim for claim in claims if claim not in after]
        if before and len(after) == 1 and after[0].value.shape is Shape.SUM:
            after = before  # "She gets 2.30 back: 20 − 7.20 − 11.50."
        parts = before and len(after) > 1 and sum(one.value.value for one in after) == before[-1].value.value
        claims = before if parts else after  # "78 legs: 48 of spiders and 30 of beetles"
    aside = [
        match
        for match in _ASIDE_START.finditer(text, place.start, place.end)
        if match.start() > claims[0].start and match.group() != ";" and not _MINUS.match(text, match.start())
    ]
    drawn = list(DRAWN.finditer(text, place.start, place.end))
    if drawn and (after := [claim for claim in claims if claim.start >= drawn[-1].end()]):
        claims = unless_only_given(after, claims, numbers_asked(question.asked))
        aside = [match for match in aside if match.start() > after[0].start]
        part = text.find("; ", after[0].end, place.end)
        claims = [claim for claim in claims if part < 0 or claim.start < part]
    if aside and (main := [claim for claim in claims if claim.start < aside[0].start()]):
        claims = main
    chains: list[list[Claim[Quantity]]] = []
    for claim in claims:
        if chains and chained(text, chains[-1][-1], claim):
            chains[-1].append(claim)
        else:
            chains.append([claim])
    given = numbers_asked(question.asked)
    results = [result_of(chain, given) for chain in chains]
    checks = results[-1].value.value in given and any(one.value.value not in given for one in results[:-1])
    if len(chains[-1]) > 1 and not checks:
        return results[-1]
    worked_out = [result for chain, result in zip(chains, results, strict=True) if len(chain) > 1]
    leads_on = _SAYS_MORE.search(text, worked_out[0].end, claims[-1].start) if len(worked_out) == 1 else None
    if not drawn and len(worked_out) == 1 and not leads_on and worked_out[0].value.value not in given:
        return worked_out[0]  # "364 / 7 = 52, a week having seven days"
    free = [one for one in results if not _BESIDE.search(text, max(place.start, one.start - 40), one.start)]
    if checks and (new := [one for one in free if one.value.value not in given]):
        return new[0]  # "It cost 60: a quarter of that is 15, and 60 - 15 = 45."
    for pool in (
        [one for one in free if one.value.value not in given],
        [one for one in results if one.value.value not in given],
        free,
    ):
        if pool:
            return before_whole(text, pool, results)
    return results[-1]


def rivals(
    reply: Reply, place: Place, final: Claim[Quantity], claims: Sequence[Claim[Quantity]], question: Question
) -> tuple[Claim[Quantity], ...]:
    """Return the numbers of a stretch that might be taken for its result, too: new ones that no word sets apart."""
    given = numbers_asked(question.asked)
    bold = reply.is_bold(final.start, final.end)
    found = []
    for claim in claims:
        apart = _BESIDE.search(reply.text, max(place.start, claim.start - 40), claim.start)
        rough = re.search(
            r"(?:about|roughly|around|approximately|than)\s+[€$£]?$", reply.text[max(0, claim.start - 16) : claim.start]
        )
        if (
            claim is final
            or apart
            or rough
            or bold
            or close(claim.value, final.value)
            or claim.value.shape is Shape.SUM
        ):
            continue
        if claim.value.value not in given and not _leads_to(reply.text, claim, final):
            found.append(claim)
    return tuple(found)


def _leads_to(text: str, claim: Claim[Quantity], final: Claim[Quantity]) -> bool:
    """Tell whether a number is a step on the way to the final one: "is 6.5, so …", "2.5 hours, that is 145"."""
    if claim.start > final.start:
        return False
    between = text[claim.end : final.start]
    return DRAWN.search(between) is not None or "=" in between or "≈" in between
