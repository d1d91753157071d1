"""Features of numbers: given, worked out, worked on, in the unit asked for, on which side of an equation."""

from __future__ import annotations

import re
from collections.abc import Iterable
from fractions import Fraction

from dryquarry.marking.reading.echo import question_in, stem
from dryquarry.marking.reading.likely import Likelihood
from dryquarry.marking.reading.likely_features import Features, Said, Scene
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.numbers import Shape, find_terms
from dryquarry.marking.values.quantities import Quantity

MOST_OPERANDS = 30
_OPERATES_BEHIND = regex(
    r"\s*[a-zA-Z€$£%²]{0,12}\s*[-−–+×·*/÷:^]\s*\d|\s+(?:times|plus|minus|less|divided)\b", re.IGNORECASE
)
_OPERATES_BEFORE = regex(r"[-−–+×·*/÷^]\s*\Z")
_RIGHT_SIDE = frozenset(("=", "≈", "equals", "is", "are", "makes", "make", "gives", "give"))
_COUNTED = regex(r"\bhow\s+(?:many|much)\s+(?P<what>[a-z]+)", re.IGNORECASE)
_UNIT_LAST = regex(r"(?:\bhow\s+many|\bin(?:\s+whole)?)\s+(?P<what>[a-z]+)\s*\??\s*\Z", re.IGNORECASE)
_MONEY = regex(r"\b(?:euros?|pounds?|dollars?|pay|costs?|price|take\s+in)\b|[€£$]", re.IGNORECASE)
_MONEY_HERE = regex(r"[€$£]|\b(?:euros?|pounds?|dollars?)\b", re.IGNORECASE)
_UNITS_TEXT = (
    "euros cents litres metres kilometres hours minutes seconds days weeks grams kilograms kg g km m cm mm l ml "
    "degrees percent per pounds pence tonnes"
)
_UNITS = frozenset(map(stem, _UNITS_TEXT.split()))


def token(quantity: Quantity) -> tuple[Fraction, str | None]:
    """Return what two numbers share that are one answer."""
    return quantity.value, quantity.fault


def features(scene: Scene[Quantity]) -> list[Features]:
    """Return the features that only numbers have, claim by claim."""
    given = frozenset(term.value for term in find_terms(scene.question.asked))
    worked = _worked(scene, given)
    asked = _asked_for(scene)
    return [_form(scene, number, given) | worked[number] | asked[number] for number in range(len(scene.said))]


def _operates(text: str, said: Said[Quantity]) -> bool:
    """Tell whether a number is worked on where it stands: "540 - …", "… times 27"."""
    claim = said.claim
    if _OPERATES_BEHIND.match(text, claim.end, claim.end + 30):
        return True
    return _OPERATES_BEFORE.search(text, max(0, claim.start - 4), claim.start) is not None


def _form(scene: Scene[Quantity], number: int, given: frozenset[Fraction]) -> Features:
    said, text = scene.said[number], scene.reply.text
    claim = said.claim
    operates = _operates(text, said)
    before = said.before[-1] if said.before else ""
    later = [other for other in scene.said[number + 1 :] if other.token == said.token]
    return {
        "given": claim.value.value in given,
        "operand": operates,
        "operand later": any(_operates(text, other) for other in later),
        "right side": before in _RIGHT_SIDE and not operates,
        "a sum": claim.value.shape is Shape.SUM,
        "in words": not any(sign.isdigit() for sign in text[claim.start : claim.end]),
        "has a unit": claim.value.unit is not None,
        "of another unit": claim.value.fault is not None,
        f"shape: {claim.value.shape.name.lower()}": 1.0,
        f"relation: {claim.value.relation}": 1.0,
    }


def _is_made(value: Fraction, of: Iterable[Fraction], others: frozenset[Fraction]) -> bool:
    """Tell whether a number is the sum, difference, product or quotient of one of some and of another."""
    for one in of:
        if one == value:
            continue
        results = [value - one, one - value, value * one]
        results += [value / one] if one else []
        results += [one / value] if value else []
        if any(result in others and result != value for result in results):
            return True
    return False


def _worked(scene: Scene[Quantity], given: frozenset[Fraction]) -> list[Features]:
    """Return which numbers are made of earlier ones, and of which later ones are made in turn."""
    values = [said.claim.value.value for said in scene.said]
    before: list[frozenset[Fraction]] = []
    for number in range(len(values)):
        known = dict.fromkeys((*given, *values[:number]))
        before.append(frozenset(list(known)[:MOST_OPERANDS]))
    found: list[Features] = []
    for number, value in enumerate(values):
        so_far = before[number] | {value}
        new = [at for at in range(number + 1, len(values)) if values[at] not in so_far]
        made = value not in given and _is_made(value, before[number], before[number])
        used = value != 0 and any(_is_made(values[at], (value,), before[at] | {value}) for at in new)
        beside = [at for at in new if scene.said[at].sentence == scene.said[number].sentence]
        found.append(
            {
                "worked out": made,
                "worked on": used,
                "worked out, and not worked on": made and not used,
                "nothing new behind": value not in given and not new,
                "how much new behind": min(len({values[at] for at in new}), 4) / 4,
                "nothing new behind in sentence": value not in given and not beside,
            }
        )
    return found


def _asked_for(scene: Scene[Quantity]) -> list[Features]:
    """Return which numbers stand by what is counted, and in the unit that is asked for."""
    asked = scene.question.asked
    wanted = question_in(asked)
    counted = _COUNTED.search(asked)
    unit = _UNIT_LAST.search(wanted.strip()) or _COUNTED.search(wanted)
    what = stem(counted["what"].lower()) if counted else None
    name = stem(unit["what"].lower()) if unit else None
    money = _MONEY.search(asked) is not None
    text = scene.reply.text
    found: list[Features] = []
    for said in scene.said:
        behind = [stem(word) for word in said.behind[:3] if word.isalpha()]
        before = [stem(word) for word in said.before[-3:] if word.isalpha()]
        claim = said.claim
        found.append(
            {
                "is counted": what in behind,
                "is counted before": what in before,
                "in the unit asked for": name is not None and name in behind[:2],
                "in another unit": name is not None and name not in behind and bool(_UNITS & set(behind[:1])),
                "money": money and _MONEY_HERE.search(text, max(0, claim.start - 1), claim.end + 8) is not None,
            }
        )
    return found


NUMBERS: Likelihood[Quantity] = Likelihood("numbers", token, features, much=1.0)
