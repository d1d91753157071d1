"""Which formula a stretch of a reply gives: what follows its last equals sign, without words and remarks around it."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import ClassVar

from dryquarry.marking.reading.claims import Claim, Found, Place, PlaceKind, Question, Stance
from dryquarry.marking.reading.echo import echo, question_in
from dryquarry.marking.reading.kinds import Choice, Weight
from dryquarry.marking.reading.set_aside import IT_IS
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply
from dryquarry.marking.values.formulas import Formula, FormulaFault, substituted
from dryquarry.marking.values.numerals import WORDS
from dryquarry.marking.values.texts import bare
from dryquarry.marking.values.written import formula_in, number_in

LONGEST_STRETCH = 600
MOST_TRIES = 24
# How much less a sentence weighs that has numbers only, where the question speaks of "x kilometres".
CONSTANT = 0.6
_ASKS_IN_LETTER = regex(r"(?<![\w'’])[b-z](?![\w'’])")
# What a sentence takes up that only says "it's …".
SAID_SO = 0.7
_EQUALS = regex(r"(?<![<>!=])=(?!=)|\bequals\b|\\equiv\b|≡")
_ALTERNATIVE = regex(r",?\s+(?:or|oder|ou|resp\.)\s+|\s+(?:⇔|⟺|\\iff)\s+", re.IGNORECASE)
_IFF = regex(r"\s(?:⇔|⟺|\\iff)\s")
_CLAUSE_END = regex(
    r"[,;](?=\s+(?:I|(?:an?\s+)?[A-Za-z]{3,})\b)(?!,\s+(?:plus|minus|less|all\s+over)\b)|(?<!\d)[,;](?=\s)(?!,\s+(?:plus|minus|less|all\s+over)\b)|(?<=[\w)}])[.!?:](?=\s|\Z)|\s[–—]\s|\n|\\\\|\s(?=(?:where|with|for|if|when|"
    r"in\s+total|altogether|it\s+is|it\s+was|is\s+(?:right|correct)|because|since|which|as|so|and|in|per|on|at|by)\b)|≈|\\approx",
    re.IGNORECASE,
)
# "2x³ − 4x + C with C = 5"
_CONSTANT = regex(
    r"\W{0,3}\s*(?:with|where|and|for)\s+\$?(?P<name>[A-Za-z])\s*=\s*(?P<value>[-−]?\d{1,9}(?:/[1-9]\d{0,8}|\.\d{1,9})?)(?![\w/])"
)
# "f′(x) = 3x², where f(x) = x³"
_WHERE = regex(
    r"(?<=[\w)}²³]),\s+(?:(?:since|because|as)\s+(?=[(\d])|(?:where|with|as|since|because)\s+(?=[a-zA-Z]'?(?:\(\w\))?\s*=))|"
    # "x² − 3x − 10, whose zeros are −2 and 5"
    r"(?<=[\w)}²³]),?\s+(?:whose|and\s+its|with(?:\s+the)?|and\s+has(?:\s+the)?)\s+(?:zeros?|roots?|vertex|discriminant|graph|degree)\b",
    re.IGNORECASE,
)
# "4 € + 3 €/km · x", "€(12d + 30)"
_CURRENCY = regex(r"(?<=[\da-z)])\s?[€£](?:\s?/\s?(?:km|h|min|kg|g|l|m|d)\b)?|[€£]\s?(?=[(\d])")
# "For n = 3 that's 12."
_FOR_EXAMPLE = regex(
    r"\W*(?:e\.g\.\s*|check:?\s*|so\s+)?\b(?:for|with|if|when|take|testing)\s+[a-z]\s*=\s*[-−]?\d", re.IGNORECASE
)
_EXAMPLE = regex(
    r":\s+for\s+[a-z]\s*=\s*\d|"
    r",?\s+so\s+[-−]?\d[\d.,]*\s+(?:for|with|when|if)\s+[a-z]\s*=|"
    r",?\s+\(?(?:e\.\s?g\.|for (?:example|instance)\b|such as\b|z\.\s?B\.|par exemple\b)|"
    r"\s+\((?=(?:and|which|the|this|not|here|with|for|where|in|it|so|as|check|checked|test|verify|since|because|e\.g)\b)",
    re.IGNORECASE,
)
_VALUE_FOR = regex(r"\W*[-−]?\d[\d.,]*\s+(?:for|with|when|if)\s+\$?[a-z]\s*=", re.IGNORECASE)
_UNIT = regex(
    r"(?:(?<=[\w)}\]²³])(?:\s+[A-Za-z]{2,}\.?){1,3}|\s*[€$£]|\s*\([^()]*(?:€|\$|£|[a-z]{3,})[^()]*\))(?=\s*(?:[-+]|$))"
)
_ENDS_VALUE = regex(r"[\w)}\]]\s*$")
# "x(x+1) m²"
_LETTER_OF_UNIT = regex(r"\s+(?P<unit>[a-zA-Z])m?(?:\s?\^\s?\{?[23]\}?|[²³])?\s*$")
# "3x + 4 mg": a unit, and no product of variables
_LAST_WORD = regex(r"(?<=[\w)}\]])\s+([A-Za-z]{2,})\.?$")
_LEAD = regex(
    r"^.*?\b(?:is|are|equals|gives|makes?|becomes|as|get|to|be|formula|expression|function|have|it)\b:?\s+",
    re.IGNORECASE | re.DOTALL,
)
# "2 ln x is ln x², and ln x² + ln 5 is ln(5x²)"
_LAST_LEAD = regex(r"^.*(?:\b(?:is|are|equals|gives|becomes)|it's)\s+(?=[^\s])", re.IGNORECASE | re.DOTALL)
# "Together they cost three times x plus two times y."
_COUNTED = regex(
    r"^[^\d=]*?\b[a-z]{3,}\s+(?=(?:two|three|four|five|six|seven|eight|nine|ten|twice|half)\s+(?:(?:times|of)\s+)?[a-z]\b)",
    re.IGNORECASE,
)
# "As the diameter is 2r, we get 2πr."
_WE_GET = regex(
    r"^.*,\s+(?:(?:so|then|thus|therefore|hence)\s+)?(?:we|you|one)\s+(?:gets?|have|has|obtains?|finds?|arrives?\s+at)\s+(?=\S)",
    re.IGNORECASE | re.DOTALL,
)
# "with n = 1 it's 5n + 2"
_SETS = regex(r"\b(?:with|for|at|when|if|where)\s+[a-zA-Z]\s*\Z", re.IGNORECASE)
_SETS_FIRST = regex(r"\W*(?:with|putting|setting|since|as|because)\s+[a-zA-Z]\s*=", re.IGNORECASE)
# "80 · (1/2)^(t/3) milligrams are left after t hours."
_BEFORE_WORDS = regex(
    r"\W{0,3}(?P<one>[^A-Za-z\n]*\d(?:[^A-Za-z\n]|[a-zA-Z](?![a-zA-Z]))*?)\s+"
    r"(?=(?!sqrt|times|plus|minus|over|gives|makes|would|means|yields|leads|becomes)[a-z]{4,}\s)"
)
_AFTER_LETTER = regex(
    r"\W*(?:after|in|for|at)\s+[a-z]\s+[a-z]{3,},?\s+(?:(?:there|we)\s+(?:are|have)\s+)?(?=[\d(])", re.IGNORECASE
)
_COLON = regex(r"^[^:=]{0,80}:\s+(?=\S)", re.DOTALL)
# "the sum of all six faces, ab + ab + …"
_UP_TO_COMMA = regex(r"^[A-Za-z][A-Za-z' -]{4,80}\s[A-Za-z]{4,},\s+")
_WORDS_BEFORE = regex(r"^(?:(?:I(?:'(?:ll|d|ve|m))?|[A-Za-z]{2,}(?:'s)?),?\s+)+(?:[→⇒]\s*)?")


_SO = regex(r",\s*(?:so|thus|hence|therefore|that\s+is|i\.\s?e\.)(?:\s+(?:it's|it\s+is|that's))?,?\s*\Z", re.IGNORECASE)
# "y = 2x + 3 and x = (y - 3)/2"
_BOTH_LETTERS = regex(r"\W*[a-zA-Z]\s?=[^,;:=]*?(?P<and>\sand\s)(?=\$?[a-zA-Z]\s?=)")
_SO_SOLVED = regex(r",\s*(?:so|thus|hence|therefore)\s+\$?[a-zA-Z]\s*=\s*\Z", re.IGNORECASE)
_IN_GENERAL = regex(r"\b(?:in\s+general|generally|that\s+is|i\.\s?e\.),?\s+\Z", re.IGNORECASE)
# "not 7q but 3x", "3x rather than 7q"
_NOT_BUT = regex(r"[^,;:.]{0,40}?\bnot\s+[^,;:.]{1,60}?\s+but\s+(?:rather\s+)?", re.IGNORECASE)
_AND_NOT = regex(
    r"(?:(?:,|,?\s+and)\s+not|,?\s+(?:rather\s+than|instead\s+of|as\s+opposed\s+to))(?=\s|\Z)|\s*—\s*\Z", re.IGNORECASE
)
# "→ 3x", "I think 3x", "In conclusion, it is 3x", "So 3x it is"
_OPENS = regex(
    r"[\s*]*(?:[a-z]\s*)?(?:[→⇒➜∴↦]|=>|->)[\s*]*|\W{0,3}(?:(?:oops|sorry|no|wait|correction|hmm)[,:!.]?\s+)?(?:i\s+(?:think|believe|meant?)|in\s+(?:conclusion|short|total|sum|other\s+words),?(?:\s+(?:it\s+is|it's|that\s+is|that's))?)\s+(?=[\w(√])",
    re.IGNORECASE,
)
_THE = regex(r"\b(?:the|constant|term)\s+\Z", re.IGNORECASE)
_BOXED = regex(r"[^\w\\]*\\boxed\s*\{(?P<inside>.*)\}[^\w}]*", re.DOTALL)
# "…, and 0 for 9: 12x² − 1."
_ENDS_WITH = regex(r"(?<=\S):\s+(?P<one>[^:=]{1,80}?)[\s.!]*\Z")
_A_WORD = regex(r"(?<!\\)\b(?!sqrt|sin|cos|tan|ln|log|exp|pi)[a-zA-Z]{3,}")
_RAISED = regex(r"squared|cubed", re.IGNORECASE)
# "80 mg divided by 2^(t/3)"
_UNIT_INSIDE = regex(
    r"(?<=\d)\s?(?:mg|kg|cm|mm|km|ml|grams?|litres?|metres?|euros?|pounds?|dollars?|hours?|minutes?|degrees?)"
    r"(?=\s*(?:[*·×⋅/+−–^:-]|divided|times|plus|minus))",
    re.IGNORECASE,
)
# "y = 6 - 3x/2"
_SOLVED = regex(r"[\W_]*[^\W\d_](?:_?\d|\([^\W\d_]\))?\s*=")


# "x² + x – 6": a dash between two terms is a minus
_MINUS = regex(r"(?<=[\w)}\]²³⁴])(?P<before>\s?)–(?=\s?(?:\d|\(|\\|√|[^\W\d_](?![^\W\d_])))")


@lru_cache(maxsize=8)
def with_minus(text: str) -> str:
    """Return a text of the same length in which dashes that part two terms are signs."""
    return _MINUS.sub(r"\g<before>-", text) if "–" in text else text


@dataclass(frozen=True, slots=True)
class Said:
    """A formula with the text it was read from."""

    text: str
    formula: Formula


@dataclass(frozen=True, slots=True)
class FormulasSaid:
    """Formulas with given variables: how they are found in a stretch of a reply."""

    variables: tuple[str, ...]
    letters: frozenset[str]
    likelihood: ClassVar[None] = None
    lists: bool = False

    def find(self, reply: Reply, place: Place) -> list[Found[Said]]:
        """Return the formulas of a stretch: one for each alternative, and one for each clause."""
        found = []
        start = place.start
        text = with_minus(reply.text)
        where = _WHERE.search(text, place.start, place.end)
        place = replace(place, end=where.start()) if where else place
        steps = list(_IFF.finditer(text, place.start, place.end))
        if steps and "=" in text[steps[-1].end() : place.end]:
            start = steps[-1].end()  # "p = 2a + 2b ⇔ b = (p − 2a)/2"
            place = replace(place, start=start)
        for end in self._ends(text, place):
            said = self._read(text, start, min(end, start + LONGEST_STRETCH), place)
            if said is not None:
                found.append(said)
            start = end
        return found

    def _ends(self, text: str, place: Place) -> Iterator[int]:
        stretch = text[place.start : place.end]
        marks = sorted(
            {match.end() for match in _ALTERNATIVE.finditer(stretch)}
            | {
                match.end()
                for match in re.finditer(
                    r"(?<=[\w)}])(?<!\be\.g)(?<!\bi\.e)[.!?;]\s+|\n|"
                    r",\s+(?:but|so|(?:and\s+)?then|not|and not|hence|thus|therefore|giving|together|in all)\s|"
                    r",\s+(?:that is,?|i\.\s?e\.,?|namely)\s+(?:by\s+)?|—|\s–\s|"
                    r",\s+which\s+(?:is|equals|comes\s+to|becomes)\s+(?=\S)|"
                    r",\s+(?:and\s+)?(?=the\s+[a-z]+(?:er|est)(?:\s+one)?\s+(?:is\s+)?\S)|"
                    r",\s+(?:and\s+)?(?:in\s+general|generally)(?:\s+(?:it's|it\s+is))?:?\s|"
                    r",\s+and\s+(?=[^,.]*\b(?:left|remains?)\b)|"
                    r"(?<=[\w)}²³])\s+and\s+(?=(?:its|the)\s+[a-z]{3,}\s+(?:is\s+)?\S)|"
                    r"(?<=[\w)}]),\s+(?=[a-zA-Z]\w*'?(?:\(\w\))?\s*=)|,\s+(?=(?:wait|no)\b)",
                    stretch,
                )
            }
        )
        if (both := _BOTH_LETTERS.match(stretch)) is not None:
            marks = sorted({*marks, both.end("and")})
        yield from (place.start + mark for mark in marks if mark < len(stretch))
        yield place.end

    def _read(self, text: str, start: int, end: int, place: Place) -> Found[Said] | None:
        if _VALUE_FOR.match(text, start, end):
            return None  # "…, so 47 for p = 40"
        if (turned := _NOT_BUT.match(text, start, end)) is not None:
            start = turned.end()
        if (opens := _OPENS.match(text, start, end)) is not None:
            start = opens.end()
        if (boxed := _BOXED.fullmatch(text, start, end)) is not None:
            start, end = boxed.span("inside")
        if (other := _AND_NOT.search(text, start + 1, end)) is not None:
            end = other.start()
        example = _EXAMPLE.search(text, start + 1, end)
        end = example.start() if example else end
        for first, last in list(dict.fromkeys(self._stretches(text, start, end)))[:MOST_TRIES]:
            said = bare(text[first:last].strip())
            bare_end = self._unit_start(said)
            said, last = said[:bare_end], first + text[first:last].find(said) + bare_end
            if said.endswith(")") and said.count(")") > said.count("("):
                said = said[:-1]  # "(the answer: 3x)"
            if not said or not re.search(r"[\w√π]", said):
                continue
            try:
                formula = formula_in(_UNIT_INSIDE.sub("", _CURRENCY.sub("", said)), self.variables, self.letters)
            except FormulaFault:
                continue
            if (
                formula.kind == "name"
                and not (place.telling or place.kind is PlaceKind.STATEMENT)
                and "=" not in text[start:last]
            ):
                continue  # a letter in prose
            return Found(Said(said, self._with_constant(text, last, formula)), first, last)
        return None

    def _with_constant(self, text: str, end: int, formula: Formula) -> Formula:
        """Return a formula with the value of the constant that is told behind it: "2x³ − 4x + C with C = 5"."""
        told = _CONSTANT.match(text, end)
        if told is None or told["name"] in self.letters or told["name"] not in formula.names():
            return formula
        return substituted(formula, told["name"], number_in(told["value"].replace("−", "-")))

    def _unit_start(self, said: str) -> int:
        """Return where the unit of a formula begins, "mg" or "m²"; its end where it has none."""
        word = _LAST_WORD.search(said)
        if word and not (
            _RAISED.fullmatch(word[1])
            or WORDS.fullmatch(word[1])
            or set(word[1]) & self.letters
            or word[1] in self.variables
        ):
            return word.start()
        letter = _LETTER_OF_UNIT.search(said)
        if letter and letter["unit"] not in self.letters and _ENDS_VALUE.search(said[: letter.start()]):
            return letter.start()
        return len(said)

    def _stretches(self, text: str, start: int, end: int) -> Iterator[tuple[int, int]]:
        """Yield where in a clause the formula may stand, the likeliest first."""
        equals = [
            one
            for one in _EQUALS.finditer(text, start, end)
            if not _SETS.search(text, max(start, one.start() - 12), one.start())
        ]
        sides = [match.end() for match in reversed(equals)] or []
        ends = _ENDS_WITH.search(text[start:end])
        if ends is not None and not _A_WORD.search(ends["one"]) and not sides:
            yield start + ends.start("one"), start + ends.end("one")
        if (lead := _AFTER_LETTER.match(text, start, end)) is not None and not sides:
            start = lead.end()  # "After t hours 100 − 5t litres are left."
        for first in [*sides, start]:
            # "With r = d/2 the area becomes …"
            sets = _SETS_FIRST.match(text, first, end)
            last = next((one.start() for one in _EQUALS.finditer(text, sets.end() if sets else first, end)), end)
            yield from _cut(text, first, last)
            for pattern in (_WE_GET, _COUNTED, _COLON, _LAST_LEAD, _LEAD, _UP_TO_COMMA, _WORDS_BEFORE):
                lead = pattern.match(text[first:last])
                if lead:
                    yield from _cut(text, first + lead.end(), last)
            if first == start:
                if (before_words := _BEFORE_WORDS.match(text, first, last)) is not None:
                    yield first, before_words.end("one")
                continue
            if re.search(r"[\w)]", text[first:last]) and not sides:
                return

    def same(self, first: Said, second: Said) -> bool:
        """Tell whether two formulas are written alike."""
        return first.formula == second.formula

    def most(self, reply: Reply, place: Place, question: Question) -> float:
        """Return the most that `weigh` may say."""
        text = reply.text[place.start : place.end]
        result = SAID_SO * (_RESULT_IS.match(text) is not None)
        return max(echo(text, question.asked), float("=" in text), SAID_SO) + result

    def weigh(self, reply: Reply, place: Place, question: Question) -> Weight | None:
        """Return how far a sentence takes up what was asked."""
        found = self.find(reply, place)
        if not found:
            return None
        text = reply.text[place.start : place.end]
        bold = any(place.start <= start and end <= place.end + 1 for start, end in reply.view.bold)
        given = "".join(text.split()).strip(".") in "".join(question.asked.split())
        if _FOR_EXAMPLE.match(text) and ":" not in text and not _FOR_EXAMPLE.search(question.asked):
            return Weight(-0.5, bold)
        solved = _SOLVED.match(text) is not None  # its words are letters, which say nothing of what was asked
        said_so = SAID_SO if IT_IS.match(text) or _RESULT_IS.match(text) else 0.0
        share = 0.0 if given else 1.0 if solved else max(echo(text, question.asked), said_so)
        constant = not any(one.value.formula.names() for one in found)
        share += SAID_SO * (_RESULT_IS.match(text) is not None)
        return Weight(share - CONSTANT * (constant and _ASKS_IN_LETTER.search(question.asked) is not None), bold)

    def more_places(self, reply: Reply, answers: Sequence[bool]) -> Iterator[Place]:
        """Yield nothing more than the sentences."""
        yield from ()

    def choose(self, reply: Reply, place: Place, claims: Sequence[Claim[Said]], question: Question) -> Choice[Said]:
        """Return the first formula of an answer line, or the last of a sentence; "or" adds another."""
        firm = [claim for claim in claims if claim.stance is not Stance.ASIDE] or list(claims)
        if (own := _of_asked_kind(reply.text, place, firm, question.asked)) is not None:
            return Choice(own, (), ())
        firm = _solved_as_asked(reply.text, firm, question.asked)
        if not place.telling and _ASKS_IN_LETTER.search(question.asked):
            # "100 − 5t are left; the tank is empty after 20 hours"
            firm = [claim for claim in firm if claim.value.formula.names()] or firm
        named = [claim for claim in firm if claim.value.formula.names()]
        if named and not all(claim in named for claim in firm):
            # "12x² − 1; the 9 vanishes": a number of the question, of which something is told
            firm = [
                one for one in firm if one in named or not _THE.search(reply.text, max(0, one.start - 12), one.start)
            ] or firm
        final = firm[0] if place.telling or place.kind is PlaceKind.STATEMENT else firm[-1]
        for before, claim in itertools.pairwise(firm):
            more = final.value.formula.names() < claim.value.formula.names()
            if _IN_GENERAL.search(reply.text[before.end : claim.start]) and named and claim in named:
                final = claim  # "w times w plus 5, that is w(w + 5)", "24 for w = 3; in general w² + 5w"
            if before is final and _SO_SOLVED.search(reply.text[before.end : claim.start]):
                final = claim  # "2y = 4x + 6, so y = 2x + 3"
            if before is final and more and _SO.search(reply.text[before.end : claim.start]):
                final = claim  # "4 + 3 per km, so 4 + 3x"
        others = []
        for before, claim in itertools.pairwise(firm):
            between = reply.text[before.end : claim.start]
            if claim.stance is Stance.HEDGED or _ALTERNATIVE.search(f" {between}"):
                others.append(claim if claim is not final else before)
        return Choice(final, tuple(others), ())


# "The difference is 4x + 4x = 8x."
_RESULT_IS = regex(
    r"\W*the\s+(?:difference|sum|product|result|rest|quotient|whole|total)\s+(?:is|becomes|equals|simplifies)\b",
    re.IGNORECASE,
)
_KIND = regex(r"\b[a-z]{2,}(?:er|est)\b", re.IGNORECASE)


_ASKS_FOR_LETTER = regex(r"\bfor\s+\$?([a-zA-Z])\$?\W*\Z")


def _solved_as_asked(text: str, claims: Sequence[Claim[Said]], asked: str) -> list[Claim[Said]]:
    """Keep the formulas of the letter for which a question asks: "y = 2x + 3 and x = (y - 3)/2", solved for y."""
    letter = _ASKS_FOR_LETTER.search(asked)
    if letter is None or len(claims) < 2:
        return list(claims)
    of_it = re.compile(rf"(?<![\w)]){letter[1]}\s*=\s*\Z")
    return [claim for claim in claims if of_it.search(text, max(0, claim.start - 8), claim.start)] or list(claims)


def _of_asked_kind(text: str, place: Place, claims: Sequence[Claim[Said]], asked: str) -> Claim[Said] | None:
    """Return the one formula of the kind asked for: "The longer one is (L + 3)/2, the shorter one (L − 3)/2."."""
    starts = [place.start, *(claim.end for claim in claims[:-1])]
    for kinds in (_KIND, _THE_NOUN):
        wanted = {word.lower() for word in kinds.findall(question_in(asked))}
        told = [
            {word.lower() for word in kinds.findall(text[start : claim.start])}
            for start, claim in zip(starts, claims, strict=True)
        ]
        own = [claim for claim, said in zip(claims, told, strict=True) if said & wanted]
        if len(claims) > 1 and len(own) == 1 and all(told):
            return own[0]
    return None


# "The area is a², the perimeter 4a."
_THE_NOUN = regex(r"\bthe\s+([^\W\d_]{4,})(?=\s+(?:of|is|would\s+be|=)\s|\W{0,3}\Z)", re.IGNORECASE)


def _cut(text: str, start: int, end: int) -> Iterator[tuple[int, int]]:
    """Yield a stretch, and it without units and remarks at its end."""
    yield start, end
    stop = _CLAUSE_END.search(text, start, end)
    while stop and not text[start : stop.start()].strip(" .,:"):
        start = stop.end()
        stop = _CLAUSE_END.search(text, start, end)
    if stop:
        end = stop.start()
        yield start, end
    brackets = re.compile(r"\s*\((?=[^()]*(?:[€$£]|[a-zA-Z]{3,}))[^()]*\)\s*$").search(text[start:end])
    if brackets:
        end = start + brackets.start()
        yield start, end
    unit = _UNIT.search(text[start:end])
    if unit and not text[start + unit.end() : end].strip():
        yield start, start + unit.start()
