"""Scheme `exact`: the answer is one of the accepted texts."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from dryquarry.marking.model import Marker, Marking, MarkingFault, Scheme
from dryquarry.marking.options import option_types, options_of
from dryquarry.marking.reading.claims import Claim, Question
from dryquarry.marking.reading.echo import question_in
from dryquarry.marking.reading.named import Named
from dryquarry.marking.reading.phrases import Phrases
from dryquarry.marking.regexes import regex
from dryquarry.marking.schemes.reading_marker import Verdicts, reading_marker
from dryquarry.marking.values.clock import find_times
from dryquarry.marking.values.days import day_of, weekday_of
from dryquarry.marking.values.numerals import in_digits
from dryquarry.marking.values.texts import fold, shortened, without_one


@dataclass(frozen=True, slots=True)
class ExactOptions:
    """The differences that count: none of them does unless it is set to true."""

    case: bool = False
    accents: bool = False
    punctuation: bool = False
    articles: bool = False


def prepare(marking: Marking) -> Marker:
    """Return the marker for accepted texts; raises MarkingFault when the key is not text."""
    return reading_marker(marking, kind_of(marking), verdicts_of(marking))


def verdicts_of(marking: Marking) -> Verdicts[Named]:
    """Return how answers in words compare with the key."""
    keys = accepted_texts(marking.key)
    counts = asdict(options_of(ExactOptions, marking))
    folded = {fold(key, **counts): key for key in reversed(keys)}
    return _Texts(tuple(keys), folded, counts, marking.asked)


def kind_of(marking: Marking) -> Phrases:
    """Return how answers in words are read."""
    return Phrases(Question(marking.asked, marking.answer_line))


_TIME = regex(r"\d{1,2}:\d{2}(?:\s?[ap]\.?m\.?)?", re.IGNORECASE)
# "Mount Kenya's summit": an owner is named, too
_OWNED = regex(r"(?<=\w)['’]s?(?!\w)")
# "14:20 h", "14.20 Uhr"
_OCLOCK = regex(r"(?<=\d)\s?(?:h|hrs|hours|Uhr)\Z", re.IGNORECASE)
_AT = regex(r"(?:at|um|à)\s+", re.IGNORECASE)


def _time_of(text: str) -> int | None:
    """Return the minutes after midnight of a text that is a time of day and nothing else."""
    times = find_times(text)
    return times[0].minutes if len(times) == 1 and times[0].text == _OCLOCK.sub("", text.strip(" .")) else None


# "An t-Eilean Sgitheanach (Skye)"
_OTHER_NAME = regex(r"[^()]+\((?:the\s+)?(?P<one>[^()]+)\)\W*")


_YES_OR_NO = frozenset(("yes", "no", "true", "false"))
# "isn't", "it does": a piece of a sentence, and nothing that it names
_NO_NAME = regex(
    r"(?:it|he|she|they|there|this|that|what|which|is|are|was|were|isn't|aren't|does|doesn't|did|can't|cannot|out|than|so|and|but|also|"
    r"too|even|just)\b",
    re.IGNORECASE,
)
_SET_APART = regex(
    r"(?:\b(?:not|nor|never|than|like|unlike|near|beside|of|from|to|with|by|except|say|think|believe)|n['’]t)\s+(?:[^\s,;]+\s+){0,2}\Z",
    re.IGNORECASE,
)


_BETWEEN_TWO = regex(r"\s*[/&+,–→]\s*")
_TITLED = regex(
    r"(?:(?:the\s+)?(?:mr|mrs|ms|miss|mx|dr|doctor|prof|professor|captain|capt|sir|dame|lady|lord|rev|reverend|herr|frau|"
    r"madame|monsieur|señora?)\b\.?\s+)+(?=[^\W\d_])",
    re.IGNORECASE,
)
_SURNAME_FIRST = regex(r"(?P<surname>[A-ZÀ-Þ][\w'’-]+),\s+(?P<given>[A-ZÀ-Þ][\w'’.-]*(?:\s[A-ZÀ-Þ][\w'’.-]*)?)")


def _person(text: str) -> str:
    """Return a person's name without titles and with the surname last: "Brook, Ida", "Mrs Ida Brook"."""
    turned = _SURNAME_FIRST.fullmatch(text)
    return f"{turned['given']} {turned['surname']}" if turned else _TITLED.sub("", text, count=1)


# "Lund", "K. Lund", where the question speaks of Kari Lund
_SURNAME = regex(r"(?:(?P<initial>[A-ZÀ-Þ])\.\s*)?(?P<surname>[A-ZÀ-Þ][^\W\d_]+)")
_FULL_NAME = regex(r"\b(?P<given>[A-ZÀ-Þ][^\W\d_]+)\s+(?P<surname>[A-ZÀ-Þ][^\W\d_]+)\b")


def _in_full(text: str, asked: str) -> str:
    """Return the one name of a question that a surname is short for; any other text as it is."""
    short = _SURNAME.fullmatch(text)
    full = {
        one.group()
        for one in (_FULL_NAME.finditer(asked) if short else ())
        if short and one["surname"] == short["surname"] and one["given"].startswith(short["initial"] or "")
    }
    return full.pop() if len(full) == 1 else text


# "le quartz", "das Salz", "mainly quartz, with some feldspar", and neither "La Palma" nor "die cast"
_ARTICLE = regex(
    r"(?:le|la|les|un|une|el|los|las|una|unos|il|lo)\s+(?=[^\W\d_])|l['’](?=[^\W\d_])|"
    r"(?i:der|die|das|den|dem|ein|eine|einen)\s+(?=[A-ZÄÖÜ])|(?i:mainly|mostly|chiefly|largely|primarily)\s+"
)
# "La pêche", where the French word is asked for
_ANY_ARTICLE = regex(
    r"(?:le|la|les|une?|der|die|das|den|dem|eine?n?|el|los|las|unos|una|il|lo|het|de)\s+(?=[^\W\d_])|l['’](?=[^\W\d_])",
    re.IGNORECASE,
)
_ASKS_FOREIGN = regex(
    r"\b(?:French|German|Spanish|Italian|Dutch|Portuguese)\s+(?:word|noun|name|term)\b", re.IGNORECASE
)
_WITH_SOME = regex(r",\s+(?:with|and)\s+(?:some|a\s+(?:little|bit\s+of))\s+[^,;:.]{1,40}\Z", re.IGNORECASE)


_ASKS_KIND = regex(
    r"\b(?:which|what)\s+(?:of\s+(?:the|these)\s+(?:[a-z]+\s+)?)?(?!(?:is|are|was|were|does|did)\b)(?P<kind>[a-z]{3,})\b",
    re.IGNORECASE,
)


def _without_kind(text: str, asked: str) -> str:
    """Return a text without the kind that is asked for behind it: "the left door" where it is asked which door."""
    wanted = _ASKS_KIND.search(question_in(asked))
    words = text.rsplit(maxsplit=1)
    if wanted is None or len(words) < 2 or words[0].lower() in ("the", "a", "an"):
        return text
    kinds = {wanted["kind"].lower(), wanted["kind"].lower().removesuffix("s")}
    return words[0] if words[1].lower() in kinds else text


def _itself(text: str, asked: str) -> str:
    """Return a text without an article of another language, and without what is said to be little beside it."""
    article = (_ANY_ARTICLE if _ASKS_FOREIGN.search(asked) else _ARTICLE).match(text)
    return _WITH_SOME.sub("", text[article.end() :]) if article else text


@dataclass(frozen=True, slots=True)
class _Texts(Verdicts[Named]):
    """How what a clause names compares with the accepted texts."""

    keys: tuple[str, ...]
    folded: Mapping[str, str]
    counts: Mapping[str, bool]
    asked: str = ""

    def _likeliest(self, claim: Claim[Named]) -> str:
        """Return the likeliest reading; a yes or no before others where one is wanted: "No, it is shut"."""
        said = (one for one in claim.value.texts if self.wants_yes_or_no and fold(one) in _YES_OR_NO)
        return next(said, claim.value.texts[0])

    @property
    def wants_yes_or_no(self) -> bool:
        """Whether each accepted text is a yes or a no."""
        return all(key in _YES_OR_NO for key in self.folded)

    def where(self, claim: Claim[Named]) -> tuple[int, int]:
        match = self._match(claim)
        read = match[0] if match else claim.value.texts[0]
        return next((start, end) for text, start, end in claim.value.readings if text == read)

    def _match(self, claim: Claim[Named]) -> tuple[str, str] | None:
        """Return the reading that is an accepted text, and which it is."""
        for reading in claim.value.texts:
            itself = reading if self.counts["articles"] else _itself(reading, self.asked)
            bare = _without_kind(without_one(reading), self.asked)
            for said in (reading, without_one(reading), in_digits(reading), itself, bare):
                key = self.folded.get(fold(said, **self.counts))
                if key is not None:
                    return reading, key
            first = reading == claim.value.texts[0]  # "P. Lund" may be read as "Lund", too, and is not Kari Lund
            for said in (_person(reading), *([_in_full(_person(reading), self.asked)] if first else [])):
                if (key := self.folded.get(fold(said, **self.counts))) is not None:
                    return reading, key
        same = (
            None
            if any(self.counts.values())
            else self._of_several(claim) or self._same_time(claim) or self._same_day(claim)
        )
        if same is not None:
            return same
        if not self.counts["punctuation"]:
            joined = {folded.replace(" ", ""): key for folded, key in self.folded.items() if "-" in key}
            for reading in claim.value.texts:
                if (key := joined.get(fold(reading, **self.counts).replace(" ", ""))) is not None:
                    return reading, key
        else:
            for reading in claim.value.texts:
                for sign in ".!?":
                    if (key := self.folded.get(fold(f"{reading}{sign}", **self.counts))) is not None:
                        return reading, key
        return None

    def _of_several(self, claim: Claim[Named]) -> tuple[str, str] | None:
        """Return a reading of two accepted texts with a slash between them: "autumn/fall"."""
        pairs = {folded: key for folded, key in self.folded.items() if " and " in folded}
        for reading in claim.value.texts if pairs else ():
            if (key := pairs.get(fold(_BETWEEN_TWO.sub(" and ", reading), **self.counts))) is not None:
                return reading, key  # "Green/Red" for "green and red"
        for reading in claim.value.texts:
            keys = [self.folded.get(fold(part, **self.counts)) for part in re.split(r"/|\s+or\s+", reading)]
            if len(keys) > 1 and None not in keys:
                return reading, str(keys[0])
        return None

    def _same_time(self, claim: Claim[Named]) -> tuple[str, str] | None:
        """Return a reading that is the time of day of an accepted text, written otherwise: "at 14.35" for "14:35"."""
        times = {time: key for key in self.keys if _TIME.fullmatch(key.strip()) and (time := _time_of(key)) is not None}
        for reading in claim.value.texts if times else ():
            if (time := _time_of(_AT.sub("", reading.strip()))) in times:
                return reading, times[time]
        return None

    def _same_day(self, claim: Claim[Named]) -> tuple[str, str] | None:
        """Return a reading that is the day of an accepted text, written otherwise: "the first of May" for "1 May"."""
        for day_in in (day_of, weekday_of):
            days = {day: key for key in self.keys if (day := day_in(key)) is not None}
            for reading in claim.value.texts if days else ():
                if (day := day_in(reading)) in days:
                    return reading, days[day]
        return None

    def score(self, claim: Claim[Named]) -> float:
        return float(self._match(claim) is not None)

    def names(self, claim: Claim[Named]) -> tuple[int, int] | None:
        holding = [
            (start, end)
            for text, start, end in claim.value.readings
            if any(f" {key} " in f" {fold(_OWNED.sub('', text), **self.counts)} " for key in self.folded)
        ]
        return min(holding, key=lambda span: span[1] - span[0], default=None)

    def otherwise(self, claim: Claim[Named]) -> str | None:
        first = self._likeliest(claim)
        if self.wants_yes_or_no and fold(first) not in _YES_OR_NO:
            return f"'{shortened(first, 40)}' says neither yes nor no"
        if not claim.place.telling and _NO_NAME.match(first):
            return f"'{shortened(first, 40)}' could not be read as an answer"
        for reading in claim.value.texts:
            other = _OTHER_NAME.fullmatch(reading)
            if other and fold(other["one"], **self.counts) in self.folded:
                return f"'{shortened(other['one'])}' stands in brackets, perhaps as another name of the same"
        return None

    def said_beside(self, text: str, final: Claim[Named]) -> str | None:
        """Return an accepted text that stands in the clause that was read, and is neither compared nor denied there."""
        clause = text[slice(*final.value.clause)]
        for key in self.keys:
            said = re.search(rf"(?<!\w){re.escape(key)}(?!\w)", clause, re.IGNORECASE) if len(key) > 2 else None
            if said and not _SET_APART.search(clause[: said.start()]):
                return said.group()
        return None

    def said(self, claim: Claim[Named]) -> str:
        match = self._match(claim)
        if match is None:
            return f"read '{shortened(self._likeliest(claim))}'"
        reading, key = match
        return f"read '{shortened(reading)}'" + ("" if reading == key else f", which counts as '{shortened(key)}'")

    def said_key(self) -> str:
        return " or ".join(f"'{shortened(key)}'" for key in self.keys[:3]) + (" or …" if len(self.keys) > 3 else "")

    def nothing(self) -> str:
        return "no answer"


def accepted_texts(key: Any) -> list[str]:
    """Return the key as a list of texts; raises MarkingFault when it is anything else."""
    members = list(key) if isinstance(key, list | tuple) else [key]
    if key is None or not members:
        raise MarkingFault("the key is missing; scheme 'exact' wants a text or a list of texts")
    texts = []
    for member in members:
        if isinstance(member, bool) or not isinstance(member, str | int):
            raise MarkingFault(f'the key {member!r} is not a text; put it in quotes: "{member}"')
        if not str(member).strip():
            raise MarkingFault("the key is an empty text")
        texts.append(str(member))
    return texts


SCHEME = Scheme(name="exact", options=option_types(ExactOptions), prepare=prepare, kind=kind_of)
