"""Which numbers of a stretch are of what was asked: by their label, their noun, whom they are told of, their clause."""

from __future__ import annotations

import itertools
import re
from dataclasses import replace
from fractions import Fraction
from functools import lru_cache

from dryquarry.marking.reading.claims import Claim, Place
from dryquarry.marking.reading.echo import content_of, echo, names_in, question_in, stem, without_supposed
from dryquarry.marking.reading.stretches import (
    ASKS_CHANCE,
    MORE_OR_LESS,
    SUCH,
    Claims,
    Stretch,
    counted_in,
    how_many,
    numbers_asked,
)
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.numbers import Shape
from dryquarry.marking.values.quantities import Quantity

# How much more of what was asked a clause takes up that is taken for the answer against another one.
CLEARLY = 0.4
# Of a question with so few words the numbers would weigh more than they.
FEW_WORDS = 2
_CLAUSE = regex(
    r";\s|,\s(?:and|while|whereas|but)\s|\sand\s(?=[a-z]+\s(?:in|after|at|within)\s\d)|"
    r",\s(?=(?:the|an?|its|his|her|their)\s\w+\s+[€$£]?\d)|,\s(?=\d[\d.,]*(?:\s?%)?\s(?!(?:altogether|together|overall|left|then|total|remain)\b)[a-z]+\W*\Z)",
    re.IGNORECASE,
)
_PART = regex(r";\s")
_COUNTED = regex(rf"\s(?:of (?:the|them) )?(?:(?:{SUCH}|red|blue|green|white) )?(?P<noun>[^\W\d_]{{3,}})")
ASKS_DIFFERENCE = regex(
    rf"\bby how (?:much|many)\b|\bhow (?:much|many)(?: \w+){{0,2}} {MORE_OR_LESS}|\bdifference\b", re.IGNORECASE
)
IS_DIFFERENCE = regex(rf"(?:\s*[€$£%])?(?:\s+[^\W\d_]+){{0,2}}?\s+{MORE_OR_LESS}", re.IGNORECASE)
# "a drop of 16.1 m"
_DIFFERENCE_OF = regex(
    r"\b(?:drop|fall|rise|change|difference|increase|decrease|gain|loss)\s+(?:of|is|was|comes\s+to)\s+(?:about\s+)?[€$£]?\Z",
    re.IGNORECASE,
)
# "45 nails, five fewer than all"
_THAN = regex(rf"(?:\s*[€$£%])?(?:\s+[^\W\d_]+){{0,2}}?\s+{MORE_OR_LESS}\s+than\b", re.IGNORECASE)
_BEHIND_THAN = regex(r"\bthan\s+(?:(?!(?:is|are|makes?|gives?|leaves?)\b)\w+\s+){0,3}\Z", re.IGNORECASE)
_OF_WHOLE = regex(r"\b(?:of|from)\s+(?:the\s+|all\s+|these\s+|those\s+)?\Z", re.IGNORECASE)
_DRAWN_LATER = regex(r"\b(?:so|therefore|thus|hence|leaves?|leaving|remain|which\s+makes)\b", re.IGNORECASE)
_IN = regex(
    r"\s+(?:[^\W\d_]+\s+)?(?:(?:in|out\s+of)\s+(?:every\s+)?|of\s+(?:every\s+|the\s+)?)$|\s?:\s?", re.IGNORECASE
)


_TOTAL = regex(
    r"(?:\s*[€$£%])?(?:\s+[^\W\d_]+)?,?\s+(?:in\s+all|in\s+total|all\s+told|altogether|together)\b", re.IGNORECASE
)
_TOTAL_BEFORE = regex(r"\b(?:in\s+all|in\s+total|total|altogether|together|sum)\s*[:=]\s*[€$£]?\Z", re.IGNORECASE)


def totals(text: str, claims: list[Claim[Quantity]]) -> list[Claim[Quantity]]:
    """Keep what an answer line says is the whole: "252 for the one and 130 for the other, 382 in all"."""
    return [
        claim
        for claim in claims
        if _TOTAL.match(text, claim.end) or _TOTAL_BEFORE.search(text, max(0, claim.start - 24), claim.start)
    ] or claims


_ARE = regex(
    r"(?:\s+[^\W\d_]+){0,3}?\s+(?:are|is|were|was|do|did|have|ca(?=n't)|can(?!'t))(?P<denied>n't|\s*not)?\b",
    re.IGNORECASE,
)
_NOT = regex(r"\s+(?:of\s+them\s+)?not\W*(?:\Z|[,;.])", re.IGNORECASE)
_DENIED_NOUN = regex(r"\bhow many (?:are|were) not (?:an? )?(?P<noun>[^\W\d_]{3,})", re.IGNORECASE)
_ASKS_DENIED = regex(
    r"\bhow (?:many|much)\b[^.?]*(?:\bnot\b|\bcannot\b|n't\b|\b(?:something|anything|somewhere)\s+else\b)",
    re.IGNORECASE,
)


def as_denied(stretch: Stretch, claims: Claims) -> Claims:
    """Keep of "18 are altos, 102 are not" what is denied where the question asks how many are not, else the other."""
    text, question = stretch.text, stretch.question
    of_denied = _DENIED_NOUN.search(question.asked)
    if of_denied:  # "18 altos, 102 others", where it is asked how many are not altos
        noun = re.compile(rf"\s+{re.escape(of_denied['noun'])}\b", re.IGNORECASE)
        claims = [claim for claim in claims if not noun.match(text, claim.end)] or claims
    said = [_ARE.match(text, claim.end) for claim in claims]
    denied = [one is not None and one["denied"] is not None for one in said]
    short = [_NOT.match(text, claim.end) is not None for claim in claims]
    if any(short) and not all(short):  # "three in all, two not"
        said, denied = [], short
    wanted = _ASKS_DENIED.search(question.asked) is not None
    if wanted and denied.count(True) == 1 and denied[-1]:
        return claims[-1:]  # "35 of the 52 sing soprano, the other 17 don't"
    if None in said or len(set(denied)) < 2:
        return claims
    return [claim for claim, one in zip(claims, denied, strict=True) if one == wanted]


def of_whom_is_asked(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the numbers of the one whom the question names, where others have theirs: "Mia is 8, Lars 13"."""
    text, place, question = stretch.text, stretch.place, stretch.question
    asked = names_in(without_supposed(question.asked))
    names = [
        (match.start(), stem(match.group()))
        for match in re.compile(r"[A-Z][^\W\d_]+").finditer(text, place.start, place.end)
        if stem(match.group()) in _named(question.asked)
    ]
    if len(asked) != 1 or len({name for _, name in names}) < 2:
        asked = _things(question_in(question.asked))
        names = [
            (match.start(), stem(match["thing"]))
            for match in _THE_THING.finditer(text, place.start, place.end)
            if stem(match["thing"]) in _things(question.asked)
        ]
    if len(asked) != 1 or len({name for _, name in names}) < 2:
        return claims
    own = [next((name for at, name in reversed(names) if at < claim.start), None) for claim in claims]
    return [claim for claim, name in zip(claims, own, strict=True) if name in asked] or claims


_ASKS_OF_THING = regex(
    r"\bwhat\s+(?:does|do|did)\s+the\s+(?:[^\W\d_]+\s)?(?P<thing>[^\W\d_]+)\s+(?:weigh|cost|measure|hold)\b",
    re.IGNORECASE,
)


def of_thing_asked(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the number of the thing asked about, whose verb is left out: "The honey weighs 500 g, the jar 100 g."."""
    asks = _ASKS_OF_THING.search(question_in(stretch.question.asked))
    if asks is None or len(claims) < 2:
        return claims
    before = re.compile(rf"(?:,|;|\band)\s+the\s+(?:[^\W\d_]+\s)?{asks['thing']}\s+(?:only\s+)?[€$£]?\Z", re.IGNORECASE)
    own = [one for one in claims[1:] if before.search(stretch.text, stretch.place.start, one.start)]
    return own if len(own) == 1 else claims


# "Pim is 32", "16. That's Pim."
_NAME_IS = regex(
    r"\b(?P<name>[A-Z][^\W\d_]+)(?:\s+(?:is|was|has|had|gets|got|weighs|pays|paid)|\s*[=:])\s+(?:now\s+|only\s+|just\s+)?[€$£]?\Z"
)
_THAT_IS = regex(r"\W{0,3}[.;,]\s+(?:[Tt]hat|[Tt]his|[Ii]t)(?:'s|\s+is)\s+(?P<name>[A-Z][^\W\d_]+)\b(?!['’])")


def not_of_others_named(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out what is said to be somebody's of whom the question speaks, and does not ask: "Pim is 32"."""
    asked = names_in(question_in(stretch.question.asked))
    others = _named(stretch.question.asked) - asked
    if not asked or not others:
        return claims
    kept = []
    for claim in claims:
        said = _NAME_IS.search(stretch.text, max(stretch.place.start, claim.start - 40), claim.start)
        said = said or _THAT_IS.match(stretch.text, claim.end)
        if said is None or stem(said["name"]) not in others:
            kept.append(claim)
    # where somebody else's stands first and the one asked for behind it, later rules tell them apart
    return kept if stretch.place.telling or not kept or kept[-1] is not claims[-1] else claims


# "The cork costs 0.05 and the bottle 1.05."
_THE_THING = regex(r"\bthe\s+(?P<thing>[^\W\d_]{3,})", re.IGNORECASE)
_THING = regex(r"\b(?:the|an?)\s+(?P<thing>[^\W\d_]{3,})", re.IGNORECASE)


@lru_cache(maxsize=256)
def _things(asked: str) -> frozenset[str]:
    """Return the stems of the things that a text speaks of with an article."""
    return frozenset(stem(match["thing"]) for match in _THING.finditer(asked))


@lru_cache(maxsize=256)
def _named(asked: str) -> frozenset[str]:
    """Return the names in a question, also one that it begins with."""
    return names_in(f", {asked}")


# "10 % is 235, 8 % is 188; together 423"
_SUMS_UP = regex(
    r"\W*(?:so|therefore|thus|hence|together|altogether|sum|total|in\s+(?:all|total)|which\s+makes|that\s+makes)\b",
    re.IGNORECASE,
)
# "What is the sum of the angles?"
_ASKED_HEAD = regex(r"\bwhat(?:'s|\s+is|\s+was|\s+are)\s+the\s+(?P<what>[^\W\d_]{3,})", re.IGNORECASE)
_ORDINAL = regex(r"(?:st|nd|rd|th)\b")


# "The five of them pay 47.50", "All five pay 47.50"
_ALL_OF = regex(r"\b(?:all|the)\s+\Z", re.IGNORECASE)
_PLURAL_VERB = regex(
    r"\s+(?:of\s+(?:them|us|you)\s+)?(?:together\s+)?(?:have|pay|get|need|spend|earn|owe|weigh|cost|make|walk|carry|hold|take)\s",
    re.IGNORECASE,
)


def not_whose_it_is(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out how many they are who have what is asked for: "The five of them pay 47.50"."""
    text, start = stretch.text, stretch.place.start
    if len(claims) < 2:
        return claims
    return [
        claim
        for claim in claims
        if not (_ALL_OF.search(text, max(start, claim.start - 6), claim.start) and _PLURAL_VERB.match(text, claim.end))
    ] or claims


def cardinals(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out what only is one in a row, where it is asked how many: "41 whole crates and a 42nd"."""
    text, question = stretch.text, stretch.question
    claims = [claim for claim in claims if not _stands_for_things(text, claim)] or claims
    if how_many(question.asked) is None:
        return claims
    return [claim for claim in claims if not _ORDINAL.match(text, claim.end)] or claims


_TWO = regex(r"two|three|four|five", re.IGNORECASE)
_THE = regex(r"\b(?:the|these|those)\s+\Z", re.IGNORECASE)
_ENDS_THERE = regex(r"\s*[,;.)]|\s+(?:and|is|are|makes?|gives?|comes?)\b", re.IGNORECASE)


def _stands_for_things(text: str, claim: Claim[Quantity]) -> bool:
    """Tell whether a number only stands for what was named before: "the sum of the two, and this is 382"."""
    points = _THE.search(text, max(0, claim.start - 8), claim.start) is not None
    return points and _TWO.fullmatch(claim.value.text) is not None and _ENDS_THERE.match(text, claim.end) is not None


# "It takes 92 posts: 46 m / 2 m = 23 on each of the four sides."
_ITS_COLON = regex(r"\s+(?:of\s+(?:the|these|them)\s+)?(?P<noun>[^\W\d_]{3,})\s*:\s")


def before_working(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the first number of what is to be counted, where a colon behind it leads to how it is worked out."""
    wanted, first = how_many(stretch.question.asked), claims[0] if claims else None
    counted = _ITS_COLON.match(stretch.text, first.end) if first and wanted else None
    if len(claims) < 3 or first is None or counted is None or stem(counted["noun"].lower()) != wanted:
        return claims
    works = claims[-1].value.relation or claims[-2].value.relation or claims[1].value.shape is Shape.SUM
    return claims[:1] if works and first.value.value not in stretch.given else claims


# "for the last 2 kg we need a seventh", where it is asked how many are needed
_ONE_MORE = regex(
    r"\b(?:needs?|needed|takes?|fills?|requires?)\s+(?:yet\s+|still\s+)?\Z",
    re.IGNORECASE,
)
_NTH = regex(r"an?\s+[^\W\d_]+(?:th|rd|nd)", re.IGNORECASE)


def up_to_the_last(stretch: Stretch, claims: Claims) -> Claims:
    """Return as a count what is told of the last of several that are counted up: "we need a seventh"."""
    last = claims[-1] if claims else None
    if last is None or how_many(stretch.question.asked) is None or last.value.value.numerator != 1:
        return claims
    needed = _ONE_MORE.search(stretch.text, max(stretch.place.start, last.start - 24), last.start)
    if len(claims) < 2 or not needed or not _NTH.fullmatch(last.value.text):
        return claims
    return [replace(last, value=replace(last.value, value=Fraction(last.value.value.denominator)))]


def years(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out how many years it took where it is asked in which year: "46 years after 1187, in 1233"."""
    text, question = stretch.text, stretch.question
    asks_when = _ASKS_WHEN.search(question_in(question.asked)) and any(
        1000 <= one.value.value <= 2100 for one in claims
    )
    if not (_ASKS_YEAR.search(question.asked) or asks_when):
        return claims
    return [claim for claim in claims if not _YEARS.match(text, claim.end)] or claims


_ASKS_YEAR = regex(r"\b(?:which|what)\s+year\b", re.IGNORECASE)
_ASKS_WHEN = regex(r"\bwhen\b", re.IGNORECASE)
_YEARS = regex(r"\s+years?\b", re.IGNORECASE)
_ASKS_BALANCE = regex(r"\b(?:balance|account)\b", re.IGNORECASE)
_OWES = regex(
    r"\b(?:owe[sd]?|owing|debts?\s+of|deficit\s+of|overdrawn\s+by|(?:in\s+debt|in\s+the\s+red|short)\s+by)\s+(?:about\s+)?\Z",
    re.IGNORECASE,
)
_IN_DEBT = regex(
    r"\s+\(?(?:debts?(?:\s+left)?|owed|negative|below\s+zero|in\s+debt|in\s+the\s+red|overdrawn|of\s+debts?|in\s+arrears)\b",
    re.IGNORECASE,
)


def owed(stretch: Stretch, claims: Claims) -> Claims:
    """Return what is owed as less than nothing, where a balance is asked for: "the club still owes £45.20"."""
    text, question = stretch.text, stretch.question
    if not _ASKS_BALANCE.search(question.asked):
        return claims
    return [
        replace(claim, value=replace(claim.value, value=-claim.value.value))
        if claim.value.value > 0
        and (_OWES.search(text, max(0, claim.start - 30), claim.start) or _IN_DEBT.match(text, claim.end))
        else claim
        for claim in claims
    ]


def in_best_clause(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the numbers of the clause that takes up what was asked, where one does so far more than the others."""
    text, place, question = stretch.text, stretch.place, stretch.question
    parts = _PART if any(claim.value.relation for claim in claims) else _CLAUSE
    ends = [match.end() for match in parts.finditer(text, place.start, place.end)]
    if len(claims) < 2 or not ends:
        return claims
    clauses = list(itertools.pairwise([place.start, *ends, place.end]))
    head = _ASKED_HEAD.search(question_in(question.asked))
    of_head = [span for span in clauses if head and re.search(rf"\b(?i:{head['what']})\b", text[slice(*span)])]
    if len(of_head) == 1 and (own := [claim for claim in claims if of_head[0][0] <= claim.start < of_head[0][1]]):
        return own
    shares = [_words_taken_up(text[start:end], question.asked) for start, end in clauses]
    told = [any(start <= claim.start < end for claim in claims) for start, end in clauses]
    best = max(range(len(clauses)), key=lambda number: (told[number], shares[number]))
    labelled_so = shares[best] == 1 and _LABEL_OF_CLAUSE.match(text, clauses[best][0])
    if not labelled_so and any(
        told[number] and _SUMS_UP.match(text, clauses[number][0]) for number in range(best + 1, len(clauses))
    ):
        return claims
    rest = max((share for number, share in enumerate(shares) if number != best and told[number]), default=1.0)
    given = numbers_asked(question.asked)
    own = [claim for claim in claims if clauses[best][0] <= claim.start < clauses[best][1]]
    only_given = all(claim.value.value in given for claim in own)
    if shares[best] < rest + CLEARLY or (only_given and any(claim.value.value not in given for claim in claims)):
        return claims
    return own


# "glass: 25; clay: 15; total: 40"
_LABEL_OF_CLAUSE = regex(r"\W*(?:[^\W\d_]+\s?){1,3}:\s")


def _words_taken_up(clause: str, asked: str) -> float:
    """Return the share of what was asked that a clause takes up, its numbers left aside where it has words."""
    wanted = {word for word in content_of(question_in(asked)) if not word.isdecimal()}
    return len(wanted & content_of(clause)) / len(wanted) if 0 < len(wanted) <= FEW_WORDS else echo(clause, asked)


def differences(stretch: Stretch, claims: Claims) -> Claims:
    """Keep what is said to be more or less, where that is asked for: "37.50 € off, so you pay 112.50 €"."""
    text, question = stretch.text, stretch.question
    asks = ASKS_DIFFERENCE.search(question.asked) is not None
    if len(claims) < 2 and (asks or claims[0].place.telling):
        return claims
    if not asks:
        kept = [claim for claim in claims if not _THAN.match(text, claim.end)]
        if kept == claims and any(_TOTAL.match(text, claim.end) for claim in claims):
            # "382 in all, 122 more for the kayaks"
            kept = [claim for claim in claims if not IS_DIFFERENCE.match(text, claim.end)] or claims
        beside = [claim for claim in kept if not _BEHIND_THAN.search(text, max(0, claim.start - 30), claim.start)]
        if len(kept) == len(claims):
            return claims
        return beside or (claims if claims[0].place.telling else [])  # "five days less than with six"
    named = [claim for claim in claims if _DIFFERENCE_OF.search(text[max(0, claim.start - 40) : claim.start])]
    return named or [claim for claim in claims if IS_DIFFERENCE.match(text, claim.end)] or claims


def of_what_is_asked(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the numbers of what is asked for, where others are of something else: "14 maps and 17 postcards"."""
    reply, place, question = stretch.reply, stretch.place, stretch.question
    asked = content_of(question_in(question.asked)) - counted_in(question.asked)
    denied = _ASKS_DENIED.search(question_in(question.asked)) is not None  # "18 are altos" tells not how many are not
    given = numbers_asked(question.asked)
    if not denied and (meant := _for_what_is_asked(reply.text, place, claims, asked)) is not None:
        only_given = meant.value.value in given and any(claim.value.value not in given for claim in claims)
        return claims if only_given else [meant]
    if len(claims) < 2 or not asked:
        return claims
    counted = [_noun(reply.text, claim) for claim in claims]
    wanted = how_many(question.asked)
    if None not in counted and wanted in counted and (counted[-1] == wanted or place.telling):
        return [claim for claim, noun in zip(claims, counted, strict=True) if noun == wanted]
    new = [claim for claim, noun in zip(claims, counted, strict=True) if noun == wanted]
    only_new = all((claim.value.value in given) != (claim in new) for claim in claims)
    if len(new) == 1 and only_new and not place.telling:
        return new  # "50 + 10 + 2 + 1 = 63, which takes four coins", of 63 cents
    if None not in counted and len(new) == 1 and new[0].value.value not in given:
        of_whole = _OF_WHOLE.search(reply.text[max(place.start, new[0].start - 12) : new[0].start])
        if of_whole is None and not _DRAWN_LATER.search(reply.text, new[0].end, place.end):
            return new  # "he has 16 bulbs left, 2 short of another row"
    nouns = [None if claim.value.value in given else _noun(reply.text, claim) for claim in claims]
    own = [claim for claim, noun in zip(claims, nouns, strict=True) if noun in asked]
    others = [noun for noun in nouns if noun is not None and noun not in asked]
    return own if own and len(own) + len(others) == len(claims) else claims


_THIS = regex(r"\s*(?:this|ours|our)\b", re.IGNORECASE)
_FOR = regex(
    r"\s*(?:[^\W\d_]+\s+)?(?:for|is|are|belongs?\s+to)\s+(?:the|his|her|its)?\s*(?P<what>[^,;.]*)", re.IGNORECASE
)


def _for_what_is_asked(
    text: str, place: Place, claims: list[Claim[Quantity]], asked: frozenset[str]
) -> Claim[Quantity] | None:
    """Return the one that is said to be for what was asked: "15 cm for the shorter piece and 25 cm for the longer"."""
    ends = [*(claim.start for claim in claims[1:]), place.end]
    said = [_FOR.match(text, claim.end, end) for claim, end in zip(claims, ends, strict=True)]
    told = [(claim, content_of(one["what"])) for claim, one in zip(claims, said, strict=True) if one]
    own = [claim for claim, words in told if words & asked]
    here = [claim for claim, one in zip(claims, said, strict=True) if one and _THIS.match(one["what"])]
    if len(told) > 1 and len(here) == 1:
        return here[0]  # "93 for an open line, 92 for this closed one"
    return own[0] if len(told) > 1 and len(own) == 1 else None


def _noun(text: str, claim: Claim[Quantity]) -> str | None:
    """Return the stem of the word that a number counts; None where a sign or nothing follows it."""
    match = _COUNTED.match(text, claim.end)
    return stem(match["noun"]) if match else None


_ASKS_PERCENT = regex(r"\b(?:percentage|(?:what|how\s+many)\s+per\s?cent)\b", re.IGNORECASE)


def with_chances(stretch: Stretch, claims: Claims) -> Claims:
    """Read "1 in 8" and "1:8" as 1/8 where a chance or a share is asked for."""
    reply, question = stretch.reply, stretch.question
    asks_percent = _ASKS_PERCENT.search(question.asked) is not None
    if not ASKS_CHANCE.search(question.asked) and not asks_percent:
        return list(claims)
    found: list[Claim[Quantity]] = []
    skip = False
    for claim, after in zip(claims, [*claims[1:], None], strict=True):
        if skip:
            skip = False
            continue
        if (
            after is not None
            and claim.value.unit != "%"
            and _IN.fullmatch(reply.text, claim.end, after.start)
            and 0 < claim.value.value < after.value.value
            and after.value.unit in (None, claim.value.unit)
            and claim.value.value.denominator == 1
        ):
            value = claim.value.value / after.value.value
            percent = asks_percent or after.value.unit == "%"
            whole = Quantity(
                value * (100 if percent else 1), claim.start, after.end, reply.text[claim.start : after.end]
            )
            found.append(Claim(whole, claim.start, after.end, claim.place, claim.stance, claim.cue))
            skip = True
        else:
            found.append(claim)
    return found
