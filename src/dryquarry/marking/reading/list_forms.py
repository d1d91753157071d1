"""Lists written in a form of their own: between dashes, as two signs, worked out, with a note to each member."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator

from dryquarry.marking.reading.asked_lists import listed_in, plain_member
from dryquarry.marking.reading.claims import Place
from dryquarry.marking.reading.echo import echo, is_echo
from dryquarry.marking.reading.list_items import BETWEEN, MOST_WORDS_IN_LINE
from dryquarry.marking.reading.members_named import NamedMember, member_at, members_of
from dryquarry.marking.regexes import regex

LEAST_DASHED = 3
LONGEST_RUN = 4000
# "So is the oystercatcher."
_SO = (
    r"(?:and\s+)?(?:so\s+(?:is|are|was|were|does|do|did|has|have|can)"
    r"|the\s+same\s+(?:goes|holds|is\s+true)\s+(?:for|of))\s+"
    r"(?P<one>(?:the\s+)?[^,;:.!?\n]{2,60}?)(?=[,;.!]|\s*\Z)"
)
_SHORT_TOO = (
    r"(?:and\s+)?(?P<one>(?!(?:that|this|it|some|many|most|often|sometimes)\b)"
    r"(?:the\s+)?[^,;:.!?\n]{2,40}?),?\s+(?:too|as\s+well)\s*(?=[.!]|\Z)"
)
_TOO = regex(rf"[^.!?;\n]{{0,40}}[.;]\s+{_SHORT_TOO}", re.IGNORECASE)
ADDS = regex(rf"\W*(?:{_SO}|{_SHORT_TOO.replace('<one>', '<other>')})", re.IGNORECASE)
_SO_IS = regex(rf"[^.!?;\n]{{0,40}}(?:[.;]|,(?=\s+and\s+so\s))\s+{_SO}", re.IGNORECASE)
_DASH = regex(r"\s+[–—-]\s+")
# "12, 18, 30 and 50. Of these, 50 is not divisible by 3."
_DROPPED = regex(
    r"[^.!?;\n]{0,40}[.;,]\s+(?:of\s+(?:these|them|those),?\s+(?:only\s+)?|but\s+|however,?\s+|yet\s+)(?:the\s+)?(?P<one>[^,;:.!?\n]{1,40}?)\s+"
    r"(?:(?:is|are|does|do|has|have|can)(?:n't|\s+not)\b|(?:drops?|falls?)\s+(?:out|away)|(?:is|are)\s+(?:out|ruled\s+out|excluded)\b)",
    re.IGNORECASE,
)


def dashed(text: str, start: int, end: int) -> tuple[NamedMember, ...]:
    """Return three members or more of few words each between dashes: "noon – dusk – midnight"."""
    colon = text.rfind(": ", start, end)
    start = colon + 2 if colon >= 0 else start
    members = members_of(text, start, end, _DASH)
    short = all(len(member.split()) <= MOST_WORDS_IN_LINE for member, _, _ in members)
    return members if short and len(members) >= LEAST_DASHED else ()


# "x = (3 ± √169)/2 = (3 ± 13)/2."
_EITHER_SIGN = regex(r"[=:]\s*(?P<one>[^=:;,\n±a-zA-Z]{0,40}±[^=:;,\n±a-zA-Z]{1,40}?)[\s.!*$]*\Z")


def both_signs(text: str, start: int, end: int) -> tuple[NamedMember, ...]:
    """Return the two members that a formula with both signs at the end of a stretch stands for."""
    found = _EITHER_SIGN.search(text, start, end)
    return tuple((found["one"].replace("±", sign), *found.span("one")) for sign in "+−") if found else ()


# "thus x₁ = (3 + 13)/2 = 8 and x₂ = (3 − 13)/2 = −5"
_ROOT_OF = regex(
    r"(?<!\w)[a-z](?:[₁-₉]|_?\{?\d\}?)\s*=(?:[^=,;\n]*=)?\s*(?P<one>[^=,;\n]*?)\s*(?=,|;|\s(?:and|or|und|∨|∧)\s|[.!*$\s]*(?:\n|\Z))"
)
# "x − 8 = 0, which gives x = 8, or x + 5 = 0, which gives x = −5"
_GIVES = regex(
    r"(?:\b(?:which|this|that)\s+(?:gives|yields|means|makes)|\bgiving|→|⇒)\s+(?:that\s+)?[a-z]\s*=\s*(?P<one>[^=,;\s]{1,40}?)(?=[,;.]?(?:\s|\Z))"
)


def worked_out(text: str, start: int, end: int) -> tuple[NamedMember, ...]:
    """Return the members that are numbered variables, or one variable worked out more than once."""
    for way in (_ROOT_OF, _GIVES):
        found = [member_at(text, *match.span("one")) for match in way.finditer(text, start, end)]
        if len(found) > 1 and all(member for member, _, _ in found):
            return tuple(found)
    return ()


# "gull, with two legs; ant, with six; …"
_NOTED = regex(
    r"\W*(?:and\s+)?(?P<one>[^,;]{1,40}?),\s+(?:with|who|which|at|having|because|since)\s[^;]*", re.IGNORECASE
)


# "42 = 2 × 21 = 2 × 3 × 7"
_PRODUCT = regex(r"(?:=|\A)\s*(?P<all>\d+(?:\s*[×·*⋅]\s*\d+)+)[\s.!*$]*\Z")
_SIGN_OF_PRODUCT = regex(r"\s*[×·*⋅]\s*")


def factors(text: str, start: int, end: int) -> tuple[NamedMember, ...]:
    """Return the factors of the product that an equation ends with."""
    product = _PRODUCT.search(text[start:end])
    if product is None:
        return ()
    first, last = product.span("all")
    return members_of(text, start + first, start + last, _SIGN_OF_PRODUCT)


# "2·2·3·5 → {2, 3, 5}"
_IN_BRACES = regex(r"(?:→|⇒|->|=>|=|:)\s*\{\s*(?P<all>[^{}]{1,200}?)\s*\}[\s.!*$]*\Z")


# "March: starling. April: swallow. May: cuckoo."
_LABELLED_ONE = regex(r"(?P<label>[^\W\d_][^:.;,\n]{0,25}):\s(?P<one>[^:.,;\n]{1,40})[.;](?:\s|\Z)")
_LABELLED_RUN = regex(rf"(?:{_LABELLED_ONE.pattern.replace('?P<label>', '').replace('?P<one>', '')}\s{{0,2}}){{3,}}")


def labelled_run(text: str, asked: str) -> tuple[int, int] | None:
    """Return where three or more short sentences each name one thing behind a label that the question does not have."""
    run = _LABELLED_RUN.search(text[:LONGEST_RUN])
    labels = [one["label"] for one in _LABELLED_ONE.finditer(text, *run.span())] if run else []
    sorts = _ASKS_ORDER.search(asked) is not None
    told = sorts or not any(is_echo(word, asked) for label in labels for word in label.split())
    return run.span() if run and told else None


# "Before noon: Elm, Ash"
_LABELLED_LINE = regex(
    r"^[ \t]*[-*•]?[ \t]*[*_]{0,2}(?P<label>[^\n:.;,]{2,40})[*_]{0,2}:[*_]{0,2}[ \t]+(?P<list>[^\n:]{2,200})$",
    re.MULTILINE,
)


def line_of_label_asked(text: str, asked: str) -> tuple[int, int] | None:
    """Return where the list stands whose label takes up what is asked more than the labels of the other lines do."""
    lines = list(_LABELLED_LINE.finditer(text, 0, LONGEST_RUN))
    shares = [echo(line["label"], asked) for line in lines]
    if len(lines) < 2 or max(shares) < LEAST_LABEL or shares.count(max(shares)) != 1:
        return None
    return lines[shares.index(max(shares))].span("list")


# A label that takes up less of what is asked says nothing of it.
LEAST_LABEL = 0.3
_ASKS_ORDER = regex(r"\b(?:order|sort|sequence|arrange|rank)\b", re.IGNORECASE)


def labelled_ones(text: str, start: int, end: int) -> tuple[NamedMember, ...]:
    """Return what stands behind the labels of a run of short sentences."""
    return tuple(member_at(text, *one.span("one")) for one in _LABELLED_ONE.finditer(text, start, end))


def in_braces(text: str, start: int, end: int) -> tuple[NamedMember, ...]:
    """Return the members of the set in braces with which a stretch ends."""
    braces = _IN_BRACES.search(text[start:end])
    if braces is None:
        return ()
    first, last = braces.span("all")
    return members_of(text, start + first, start + last, BETWEEN)


# "10 8 6"
_SPACED = regex(r"[\s.!*$]*(?P<all>[-−]?\d+(?:[ \t]+[-−]?\d+)+)[\s.!*$]*")
_SPACE = regex(r"[ \t]+")


def spaced(text: str, start: int, end: int) -> tuple[NamedMember, ...]:
    """Return the numbers of a stretch that holds nothing but numbers with spaces between them."""
    only = _SPACED.fullmatch(text, start, end)
    return members_of(text, *only.span("all"), _SPACE) if only else ()


def noted(text: str, start: int, end: int) -> tuple[NamedMember, ...]:
    """Return three members or more between semicolons, each without what is noted behind its comma."""
    found = [_NOTED.fullmatch(text, *part.span()) for part in re.compile(r"[^;]+").finditer(text, start, end)]
    every = [member_at(text, *match.span("one")) for match in found if match]
    return tuple(every) if len(found) >= LEAST_DASHED and len(every) == len(found) else ()


# "Mercury, Venus and Mars: rocky; Jupiter, Saturn: gas giants."
_LABELLED_BEHIND = regex(r"(?P<list>[^;:]{2,200}):\s(?P<label>[^;:]{1,60})(?:;|\Z)")


def labelled_behind(text: str, start: int, end: int, asked: str) -> tuple[NamedMember, ...]:
    """Return the list whose label behind it takes up most of what was asked, where each of several lists has one."""
    parts = list(_LABELLED_BEHIND.finditer(text, start, end))
    shares = [echo(part["label"], asked) for part in parts]
    if len(parts) < 2 or parts[-1].end() < end - 1 or shares.count(max(shares)) != 1:
        return ()
    return members_of(text, *parts[shares.index(max(shares))].span("list"), BETWEEN)


# "The curlew wades, so does the avocet, and so does the oystercatcher."
_SO_DO_THEY = regex(
    r"\W*(?P<one>(?:the\s+)?[^\W\d_]+)\s[^,;.]{2,40}(?P<more>(?:,\s+(?:and\s+)?so\s+(?:does|do|is|are|did)\s+(?:the\s+)?[^\W\d_]+)+)\W*",
    re.IGNORECASE,
)
_SO_DOES_ONE = regex(r",\s+(?:and\s+)?so\s+(?:does|do|is|are|did)\s+(?P<one>(?:the\s+)?[^\W\d_]+)", re.IGNORECASE)


def so_do_they(text: str, start: int, end: int) -> tuple[NamedMember, ...]:
    """Return the first subject of a sentence and all of which it says that so do they."""
    whole = _SO_DO_THEY.fullmatch(text, start, end)
    if whole is None:
        return ()
    others = _SO_DOES_ONE.finditer(text, *whole.span("more"))
    return tuple(member_at(text, *span) for span in (whole.span("one"), *(one.span("one") for one in others)))


# "23 and 29 are prime, and so is 31."
_SO_ARE_MORE = regex(
    r"\W*(?P<ones>(?:(?!\bnot\b|n['’]t)[^;:.]){1,80}?)\s(?:is|are|was|were|do|does|did|has|have|can)\s(?!not\b|no\b)[^,;.]{2,40}[,;]\s+"
    r"(?:and\s+)?(?:so|as|likewise)\s+(?:is|are|was|were|do|does|did|has|have|can)\s+(?P<more>(?!(?:it|this|that|they)\b)[^,;:.]{1,40})\W*",
    re.IGNORECASE,
)


def so_are_more(text: str, start: int, end: int) -> tuple[NamedMember, ...]:
    """Return the subjects of a sentence and those of which it says that so are they."""
    whole = _SO_ARE_MORE.fullmatch(text, start, end)
    if whole is None:
        return ()
    return tuple(one for part in ("ones", "more") for one in members_of(text, *whole.span(part), BETWEEN))


# "The only even one is 2, and the odd ones are 3 and 5."
_ONES_ARE = regex(
    r"\W*(?:so\s+)?the\s+(?:only\s+)?[^\W\d_]+\s+ones?\s+(?:is|are)\s+(?P<first>[^,;:.]+),?\s+and\s+the\s+[^\W\d_]+\s+ones?\s+(?:is|are)\s+(?P<other>[^;:.]+?)\W*",
    re.IGNORECASE,
)


def ones_that_are(text: str, start: int, end: int) -> tuple[NamedMember, ...]:
    """Return what ones of one kind are, and those of the other."""
    both = _ONES_ARE.fullmatch(text, start, end)
    parts = ("first", "other") if both else ()
    return tuple(one for part in parts if both for one in members_of(text, *both.span(part), BETWEEN))


# "Not only spruce and pine, but larch, too."
_NOT_ONLY = regex(
    r"\W*not\s+(?:only|just|merely)\s+(?P<ones>[^;:.]{2,80}?),?\s+but\s+(?:also\s+)?(?P<more>[^;:.]{2,60}?)(?:,?\s+(?:too|also|as\s+well))?\W*",
    re.IGNORECASE,
)


def not_only(text: str, start: int, end: int) -> tuple[NamedMember, ...]:
    """Return the members of "not only A and B, but C, too"."""
    both = _NOT_ONLY.fullmatch(text, start, end)
    return (
        tuple(one for part in ("ones", "more") for one in members_of(text, *both.span(part), BETWEEN)) if both else ()
    )


# "7 (white) < 9 (red) < 12 (blue)"
_NUMBER_AND_NAME = regex(r"[\s,;<>→]*(?:and\s+)?\d[\d.,]*(?:\s?[^\W\d_]{1,3})?\s*\((?P<one>[^()\d]{2,40})\)")


def named_in_brackets(text: str, start: int, end: int) -> tuple[NamedMember, ...]:
    """Return the names of a stretch that holds nothing but numbers, each with a name in brackets behind it."""
    colon = text.rfind(": ", start, end)
    start = colon + 1 if colon >= 0 else start
    found = list(_NUMBER_AND_NAME.finditer(text, start, end))
    joined = all(first.end() == second.start() for first, second in itertools.pairwise(found))
    whole = found and found[0].start() == start and not text[found[-1].end() : end].strip(" .!")
    return tuple(member_at(text, *match.span("one")) for match in found) if whole and joined and len(found) > 1 else ()


# "level → level ✓", "24 leave no rest"
_BEHIND_OFFERED = regex(r"\s*(?:→|⇒|->|=|:)\s")


# "…, so 730 mm < 95 cm < 1.2 m"
ORDERED = regex(r"(?:\b(?:so|therefore|thus|hence|is|:)\s+)(?P<all>(?:[^<>,;:]{1,40}\s[<>]\s){2,}[^<>,;:]{1,40})\Z")
# "the hen, which sleeps, the cat, which washes its paws"
RELATIVE = regex(r",\s+(?:which|who|that)\s", re.IGNORECASE)


# "The day after Sunday is Monday, and the day before Saturday is Friday."
_EACH_IS = regex(
    r"\W*the\s[^,;:]{3,60}?\s(?:is|was)\s+(?P<one>(?:the\s+)?[A-Z][^\W\d_]+),?\s+and\s+the\s[^,;:]{3,60}?\s(?:is|was)\s+(?P<other>(?:the\s+)?[A-Z][^\W\d_]+)\W*",
    re.IGNORECASE,
)


# "Copper is one of them; the other is zinc", "One of them is copper, the other zinc"
_ONE_AND_OTHER = regex(
    r"\W*(?:(?P<one>[^,;:]{2,40}?)\s+(?:is|was)\s+(?:the\s+)?(?:one(?:\s+of\s+(?:them|these|the\s+two))?|first(?:\s+one)?)|"
    r"(?:the\s+)?(?:one(?:\s+of\s+(?:them|these|the\s+two))?|first(?:\s+one)?)\s+(?:is|was)\s+(?P<first>[^,;:]{2,40}?))"
    r"\s*[,;]?\s+(?:and\s+)?(?:(?:the\s+)?(?:other|second)(?:\s+one)?\s+(?:(?:is|was)\s+)?(?P<other>[^,;:]{2,40}?)|"
    r"(?P<last>[^,;:]{2,40}?)\s+(?:(?:is|was)\s+)?the\s+(?:other|second)(?:\s+one)?)\W*",
    re.IGNORECASE,
)


def each_that_is(text: str, start: int, end: int) -> tuple[NamedMember, ...]:
    """Return what two descriptions are each said to be; nothing where a stretch is not put so."""
    if (two := _ONE_AND_OTHER.fullmatch(text, start, end)) is not None:
        named = [name for name in ("one", "first", "other", "last") if two[name]]
        return tuple(member_at(text, *two.span(name)) for name in named)
    both = _EACH_IS.fullmatch(text, start, end)
    return tuple(member_at(text, *both.span(name)) for name in ("one", "other")) if both else ()


# "That goes for Mercury and Venus."
GOES_FOR = regex(
    r"\W*(?:that|this|it|the\s+same)(?:['’]s\s+(?:true|so)|\s+(?:goes|holds|applies|is\s+true|is\s+so))\s+(?:only\s+|just\s+)?(?:for|to|of)\s+",
    re.IGNORECASE,
)
# "One holds salt and pepper, the next oil, and the last one vinegar."
_ONE_HOLDS = regex(r"\W*(?:one|the\s+first(?:\s+one)?)\s+(?:of\s+them\s+)?(?P<verb>[a-z]+s)\s+", re.IGNORECASE)
_THE_NEXT = regex(
    r"\s*[,;]\s+(?:and\s+)?(?:the\s+(?:next|second|third|fourth|last|other)(?:\s+one)?|another(?:\s+one)?)\s+",
    re.IGNORECASE,
)


def one_and_the_next(text: str, start: int, end: int) -> tuple[NamedMember, ...]:
    """Return what one has, the next and the last; nothing where a stretch is not put so."""
    one = _ONE_HOLDS.match(text, start, end)
    joints = list(_THE_NEXT.finditer(text, one.end(), end)) if one else []
    if one is None or not joints:
        return ()
    again = re.compile(rf"{one['verb']}\s+")
    begins = [one.end(), *(joint.end() for joint in joints)]
    begins = [said.end() if (said := again.match(text, begin)) else begin for begin in begins]
    return tuple(
        member_at(text, begin, last)
        for begin, last in zip(begins, [*(joint.start() for joint in joints), end], strict=True)
    )


def cut_as_offered(text: str, members: tuple[NamedMember, ...], asked: str) -> tuple[NamedMember, ...]:
    """Return members cut where what the question lists ends; none where one is not listed, or nothing is to be cut."""
    offered = {plain_member(one) for one in listed_in(asked)}
    cut = []
    for member in members:
        said, start, end = member
        first = next((word for word in said.split()[:1] if plain_member(word) in offered), None)
        stop = start + text[start:end].index(first) + len(first) if first else end
        if plain_member(said) in offered:
            cut.append(member)
        elif first is not None and (member is members[-1] or _BEHIND_OFFERED.match(text, stop, end)):
            cut.append(member_at(text, start, stop))
    return tuple(cut) if len(cut) == len(members) and tuple(cut) != members else ()


def added_after(text: str, start: int, end: int) -> tuple[NamedMember, ...]:
    """Return the members that the sentence behind a list adds to it: "… are waders. So is the oystercatcher."."""
    more = _SO_IS.match(text, start, end) or _TOO.match(text, start, end)
    return members_of(text, *more.span("one"), BETWEEN) if more else ()


def dropped_after(text: str, start: int, end: int) -> frozenset[str]:
    """Return, plainly written, what the sentence behind a list takes out of it: "… and 50. Of these, 50 is not …"."""
    out = _DROPPED.match(text, start, end)
    return (
        frozenset(plain_member(said) for said, _, _ in members_of(text, *out.span("one"), BETWEEN))
        if out
        else frozenset()
    )


_EITHER = regex(r"\beither\b|\s(?:or|oder)\s+(?=\w+,\s)", re.IGNORECASE)
# "the oar or the rudder"
_ONE_OR_THE_OTHER = regex(
    r"\W*(?:the\s+|an?\s+)?(?P<one>[^\W\d_]{2,})\s+or\s+(?:the\s+|an?\s+)?(?P<other>[^\W\d_]{2,})\W*", re.IGNORECASE
)


def is_one_or_the_other(text: str, place: Place) -> bool:
    """Tell whether an answer line names two things, one of which it leaves open: "the oar or the rudder"."""
    return place.telling and _ONE_OR_THE_OTHER.fullmatch(text, place.start, place.end) is not None


def alternatives(text: str, place: Place) -> Iterator[tuple[int, int]]:
    """Yield the lists of "either A, B, C or B, A, C" one by one; any other stretch is one."""
    either = re.compile(r"\b(?:either)\s+", re.IGNORECASE).search(text, place.start, place.end)
    start = either.end() if either else place.start
    # "(x - 8)(x + 5) = 0, so either x = 8 or x = -5" has no lists to choose from
    if _EITHER.search(text, place.start, place.end) and "," in text[start : place.end]:
        parts = list(re.compile(r"\s+or\s+", re.IGNORECASE).finditer(text, start, place.end))
        if parts and either:
            yield start, parts[-1].start()
            yield parts[-1].end(), place.end
            return
    if is_one_or_the_other(text, place) and (two := _ONE_OR_THE_OTHER.fullmatch(text, place.start, place.end)):
        yield two.span("one")
        yield two.span("other")
        return
    yield place.start, place.end


def has_more(text: str, start: int, end: int, asked: str) -> bool:
    """Tell whether a list has a member of one word that is none of what the question lists: "ant, bee, cow, dog"."""
    offered = {plain_member(member) for member in listed_in(asked)}
    said = [plain_member(member) for member, _, _ in members_of(text, start, end, BETWEEN)]
    more = [one for one in said if one not in offered]
    return bool(offered) and len(said) > 2 and 0 < len(more) < len(said) and all(len(one.split()) == 1 for one in more)


_SPAN = regex(r"\W*[^\W\d_]+[–—][^\W\d_]+\W*")


def is_span(text: str, start: int, end: int) -> bool:
    """Tell whether a stretch names no two members, but all from one to the other: "Mon–Fri"."""
    return _SPAN.fullmatch(text, start, end) is not None


# The ways to write a list that tell by themselves what its members are.
WRITTEN = (
    *(dashed, both_signs, factors, in_braces, spaced, noted),
    *(named_in_brackets, so_do_they, ones_that_are, not_only, one_and_the_next),
)
