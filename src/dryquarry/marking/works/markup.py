"""Pages and drawings as texts: whether they are well-formed, and what they contain."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from dryquarry.errors import closest
from dryquarry.marking.model import MarkingFault
from dryquarry.marking.regexes import regex

LONGEST_MARKUP = 1_000_000
_CONTAINS_FIELDS = ("select", "count", "at_least", "at_most", "text", "name")
# Of what html5lib finds, what leaves a page other than it was meant; a missing doctype leaves it as it is.
_NOT_CLOSED = regex(
    r"adoption-agency|expected-closing-tag|unexpected-end-tag|eof-in|end-tag-too-early|unexpected-char-in|duplicate"
)
_ENTITY = regex(r"(?i)<!ENTITY")


@dataclass(frozen=True, slots=True)
class Contained:
    """What a page is to contain: elements by a CSS selector, how many, and with which text in one of them."""

    name: str
    select: str
    least: int = 1
    most: int | None = None
    text: str | None = None


def contained_of(given: Any) -> tuple[Contained, ...]:
    """Return what a page is to contain; raises MarkingFault for what is no such list."""
    import soupsieve

    found = []
    for number, one in enumerate(given if isinstance(given, list) else [given], start=1):
        spec = {"select": one} if isinstance(one, str) else one
        what = f"`contains` {number}"
        if not isinstance(spec, Mapping) or not isinstance(spec.get("select"), str):
            raise MarkingFault(f"{what} is a CSS selector, or a mapping with `select`, not {one!r}")
        for name in spec:
            if name not in _CONTAINS_FIELDS:
                raise MarkingFault(f"{what} has no field '{name}'{closest(str(name), _CONTAINS_FIELDS)}")
        try:
            soupsieve.compile(spec["select"])
        except soupsieve.SelectorSyntaxError as error:
            raise MarkingFault(f"{what}: '{spec['select']}' is no CSS selector: {str(error).splitlines()[0]}") from None
        found.append(_contained(spec, what))
    return tuple(found)


def _contained(spec: Mapping[str, Any], what: str) -> Contained:
    numbers = {name: spec.get(name) for name in ("count", "at_least", "at_most")}
    for name, value in numbers.items():
        if value is not None and (isinstance(value, bool) or not isinstance(value, int) or value < 0):
            raise MarkingFault(f"`{name}` of {what} is a number from 0 on, not {value!r}")
    exactly = numbers["count"]
    least = exactly if exactly is not None else numbers["at_least"] if numbers["at_least"] is not None else 1
    least = 0 if exactly is None and numbers["at_least"] is None and numbers["at_most"] is not None else least
    most = exactly if exactly is not None else numbers["at_most"]
    text = spec.get("text")
    return Contained(
        str(spec.get("name") or spec["select"]), spec["select"], least, most, None if text is None else str(text)
    )


def malformed(text: str, kind: str) -> str | None:
    """Return what keeps a page or drawing from being well-formed, or None."""
    if len(text) > LONGEST_MARKUP:
        return f"longer than {LONGEST_MARKUP:,} characters"
    return _malformed_svg(text) if kind == "svg" else _malformed_html(text)


def _malformed_svg(text: str) -> str | None:
    from xml.etree import ElementTree

    if _ENTITY.search(text):
        return "it declares entities"
    try:
        root = ElementTree.fromstring(text.strip())
    except ElementTree.ParseError as error:
        return str(error)
    except (ValueError, RecursionError) as error:
        return f"it cannot be read: {error}"
    return None if root.tag.rpartition("}")[2] == "svg" else f"its root is <{root.tag}> and not <svg>"


def _malformed_html(text: str) -> str | None:
    import html5lib

    parser = html5lib.HTMLParser(html5lib.getTreeBuilder("etree"))
    try:
        parser.parse(text)
    except (RecursionError, ValueError, AssertionError) as error:
        return f"it cannot be read: {error}"
    for (line, _), code, more in parser.errors:
        if _NOT_CLOSED.search(code):
            said = f" ({more['name']})" if isinstance(more, dict) and "name" in more else ""
            return f"line {line}: {code.replace('-', ' ')}{said}"
    return None


def lacking(text: str, wanted: tuple[Contained, ...]) -> list[tuple[Contained, str]]:
    """Return what a page does not contain as it should, each with what it has instead."""
    if not wanted:
        return []
    from bs4 import BeautifulSoup

    page = BeautifulSoup(text, "html5lib")
    found = []
    for one in wanted:
        elements = list(page.select(one.select))
        if one.text is not None:
            elements = [element for element in elements if _folded(one.text) in _folded(element.get_text(" "))]
        with_text = f" with '{one.text}'" if one.text is not None else ""
        count = len(elements)
        if count < one.least or (one.most is not None and count > one.most):
            number = (
                f"exactly {one.least}"
                if one.least == one.most
                else f"at least {one.least}"
                if count < one.least
                else f"at most {one.most}"
            )
            found.append((one, f"{count} of {one.select}{with_text}, {number} wanted"))
    return found


def _folded(text: str) -> str:
    return " ".join(text.split()).casefold()
