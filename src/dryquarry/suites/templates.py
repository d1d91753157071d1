"""Questions with named parameters, of which an edition holds instances drawn with a seed.

    - id: fuel-bill
      template:
        count: 3                          # how many instances an edition draws
        parameters:
          boats: {from: 2, to: 9}         # whole numbers, or {from: 2, to: 20, step: 2}
          litres: [12, 15, 18]            # or a list of numbers or texts
        require: ["boats * litres > 40"]  # conditions that the parameters must meet
      ask: "{boats} boats burn {litres} litres each. What do they burn together?"
      key: boats * litres                 # an expression; with `options`, a letter as it is

Texts may hold any expression in braces; `{{` and `}}` stand for braces. Which instances are drawn depends on
the seed, the template's id and its parameters alone, by SHA-256, so that it is the same on every machine.
"""

from __future__ import annotations

import hashlib
import math
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from dryquarry.marking.values.arithmetic import ArithmeticFault, Value, evaluate_with, said

MOST_INSTANCES = 1000
MOST_VALUES = 100_000
MOST_ENUMERATED = 20_000
MOST_TRIES = 20_000

TEMPLATE_FIELDS = ("count", "parameters", "require")
FILLED_FIELDS = ("ask", "options", "why", "second_try", "proofs")

_SLOT = re.compile(r"\{\{|\}\}|\{([^{}]*)\}")


class TemplateFault(ValueError):
    """A template that cannot be read or drawn from; the message is for the suite's author."""


@dataclass(frozen=True, slots=True)
class Template:
    """A question with parameters: the question's own fields, and the values each parameter may take."""

    id: str
    count: int
    parameters: Mapping[str, tuple[Value, ...]]
    require: tuple[str, ...]
    question: Mapping[str, Any]
    record: Mapping[str, Any]

    @property
    def combinations(self) -> int:
        """How many combinations of values there are, conditions apart."""
        product = 1
        for values in self.parameters.values():
            product *= len(values)
        return product


def read_template(name: str, data: Mapping[str, Any]) -> Template:
    """Return the template in a question's fields; raises TemplateFault."""
    spec = data["template"]
    if not isinstance(spec, dict) or not isinstance(spec.get("parameters"), dict) or not spec["parameters"]:
        raise TemplateFault("`template` wants `parameters`, a mapping name → list or {from, to}")
    unknown = [field for field in spec if field not in TEMPLATE_FIELDS]
    if unknown:
        raise TemplateFault(f"`template` has no field '{unknown[0]}'; known are {', '.join(TEMPLATE_FIELDS)}")
    count = spec.get("count", 1)
    if isinstance(count, bool) or not isinstance(count, int) or not 1 <= count <= MOST_INSTANCES:
        raise TemplateFault(f"`count` wants a whole number from 1 to {MOST_INSTANCES}, not {count!r}")
    require = spec.get("require", [])
    require = [require] if isinstance(require, str) else require
    if not isinstance(require, list) or not all(isinstance(condition, str) for condition in require):
        raise TemplateFault("`require` wants a list of conditions")
    # Sorted, so that the order in which they are written changes nothing.
    given = sorted(spec["parameters"].items(), key=lambda item: str(item[0]))
    parameters = {str(label): _values(str(label), values) for label, values in given}
    question = {field: value for field, value in data.items() if field != "template"}
    return Template(name, count, parameters, tuple(require), question, dict(data))


def draw(template: Template, seed: int) -> list[tuple[Mapping[str, Value], dict[str, Any]]]:
    """Return the instances of a template under a seed: the values, and the fields of the question.

    Raises TemplateFault when the conditions leave too few, or an expression cannot be worked out.
    """
    drawn: list[Mapping[str, Value]] = []
    for values in _candidates(template, seed):
        if all(_holds(condition, values) for condition in template.require):
            drawn.append(values)
            if len(drawn) == template.count:
                break
    if len(drawn) < template.count:
        tried = min(template.combinations, MOST_TRIES)
        found = "can never be met" if not drawn else f"leave {len(drawn)} of the {template.count} instances wanted"
        raise TemplateFault(f"the conditions {found} ({tried} of {template.combinations} combinations tried)")
    return [(values, _filled(template, number, values)) for number, values in enumerate(drawn, start=1)]


def fill(text: str, values: Mapping[str, Value]) -> str:
    """Return a text with every expression in braces worked out; raises TemplateFault."""

    def one(match: re.Match[str]) -> str:
        if match.group(1) is None:
            return match.group()[0]
        try:
            return said(evaluate_with(match.group(1), values))
        except ArithmeticFault as fault:
            raise TemplateFault(f"in the text: {fault}") from None

    return _SLOT.sub(one, text)


def _values(label: str, given: Any) -> tuple[Value, ...]:
    if not re.fullmatch(r"[a-z][a-z0-9_]*", label):
        raise TemplateFault(f"the parameter '{label}' wants a name of small letters, digits and '_'")
    if isinstance(given, list) and given and all(_is_value(value) for value in given):
        return tuple(value if isinstance(value, str) else Fraction(str(value)) for value in given)
    if isinstance(given, dict) and set(given) <= {"from", "to", "step"}:
        low, high, step = given.get("from"), given.get("to"), given.get("step", 1)
        whole = [value for value in (low, high, step) if type(value) is int]
        if len(whole) == 3 and 0 <= whole[1] - whole[0] < MOST_VALUES and whole[2] >= 1:
            return tuple(Fraction(value) for value in range(whole[0], whole[1] + 1, whole[2]))
    raise TemplateFault(
        f"the parameter '{label}' wants a list of numbers or texts, or {{from: 2, to: 9}} in whole numbers"
    )


def _is_value(value: Any) -> bool:
    if isinstance(value, float) and not math.isfinite(value):
        return False
    return isinstance(value, int | float | str) and not isinstance(value, bool)


def _candidates(template: Template, seed: int) -> Iterator[Mapping[str, Value]]:
    """Yield combinations of values in an order that the seed decides: all of them, or a sample of very many."""
    total = template.combinations
    if total <= MOST_ENUMERATED:
        order = sorted(range(total), key=lambda index: _hash(template, seed, index))
        yield from (_combination(template, index) for index in order)
        return
    seen: set[int] = set()
    for attempt in range(MOST_TRIES):
        index = int.from_bytes(_hash(template, seed, attempt), "big") % total
        if index not in seen:
            seen.add(index)
            yield _combination(template, index)


def _hash(template: Template, seed: int, number: int) -> bytes:
    return hashlib.sha256(f"{seed}/{template.id}/{number}".encode()).digest()


def _combination(template: Template, index: int) -> Mapping[str, Value]:
    chosen: dict[str, Value] = {}
    for label, values in template.parameters.items():
        index, place = divmod(index, len(values))
        chosen[label] = values[place]
    return chosen


def _holds(condition: str, values: Mapping[str, Value]) -> bool:
    try:
        return bool(evaluate_with(condition, values))
    except ArithmeticFault as fault:
        raise TemplateFault(f"in the condition: {fault}") from None


def _filled(template: Template, number: int, values: Mapping[str, Value]) -> dict[str, Any]:
    fields = dict(template.question)
    for name in FILLED_FIELDS:
        if name in fields:
            fields[name] = _fill_all(fields[name], values)
    fields["id"] = f"{template.id}.{number}"
    fields.setdefault("family", template.id)
    if "key" in fields:
        fields["key"] = _key(fields["key"], values, has_options="options" in fields)
    fields["drawn"] = {
        "template": template.id,
        "values": {name: _plain(value) for name, value in values.items()},
    }
    return fields


def _fill_all(content: Any, values: Mapping[str, Value]) -> Any:
    if isinstance(content, str):
        return fill(content, values)
    if isinstance(content, list):
        return [_fill_all(member, values) for member in content]
    if isinstance(content, dict):
        return {name: _fill_all(member, values) for name, member in content.items()}
    return content


def _key(key: Any, values: Mapping[str, Value], *, has_options: bool) -> Any:
    if isinstance(key, list):
        return [_key(member, values, has_options=has_options) for member in key]
    if not isinstance(key, str) or (has_options and re.fullmatch(r"[A-Z]", key)):
        return key
    try:
        return _plain(evaluate_with(key, values))
    except ArithmeticFault as fault:
        raise TemplateFault(f"in the key: {fault}") from None


def _plain(value: Value) -> str | int | float | bool:
    """Return a value as YAML and JSON hold it; a fraction that no decimal writes stays the text "a/b"."""
    if isinstance(value, Fraction):
        if value.denominator == 1:
            return value.numerator
        text = said(value)
        return float(text) if Fraction(text) == value else f"{value.numerator}/{value.denominator}"
    return value
