"""Regular expressions that are compiled when first used: all of them can be, and none is before."""

from __future__ import annotations

import importlib
import re
import subprocess
import sys
from collections.abc import Iterator, Mapping
from dataclasses import fields, is_dataclass
from pathlib import Path

import pytest

import dryquarry.marking
from dryquarry.marking.regexes import regex


def kept_in(value: object) -> Iterator[re.Pattern[str]]:
    """Yield the expressions that a module keeps: by themselves, in a collection or in an object of its own."""
    if type(value) is type(regex("")):
        yield value  # type: ignore[misc]
    elif isinstance(value, (tuple, list)):
        for one in value:
            yield from kept_in(one)
    elif isinstance(value, Mapping):
        yield from kept_in(list(value.values()))
    elif is_dataclass(value) and not isinstance(value, type):
        yield from kept_in([getattr(value, each.name) for each in fields(value)])


def test_every_expression_that_waits_for_its_use_is_a_sound_one() -> None:
    root = Path(dryquarry.marking.__file__).parent
    found = 0
    for path in root.rglob("*.py"):
        name = ".".join(path.relative_to(root.parent.parent).with_suffix("").parts).removesuffix(".__init__")
        for expression in kept_in(list(vars(importlib.import_module(name)).values())):
            re.compile(expression.pattern)
            assert expression.split("") is not None
            found += 1
    assert found > 900


def test_it_does_what_the_compiled_one_does_and_tells_of_a_fault() -> None:
    waiting, compiled = regex(r"(?P<one>[a-c])+", re.IGNORECASE), re.compile(r"(?P<one>[a-c])+", re.IGNORECASE)
    assert waiting.sub("-", "xABx") == compiled.sub("-", "xABx") == "x-x"
    assert (waiting.pattern, waiting.groupindex) == (compiled.pattern, compiled.groupindex)
    assert [match.span("one") for match in waiting.finditer("abxc")] == [(1, 2), (3, 4)]
    with pytest.raises(re.error):
        regex("(").search("a")


def test_none_is_compiled_by_importing_the_schemes() -> None:
    code = (
        "import re; before = re.compile; made = []\n"
        "re.compile = lambda *given: made.append(given) or before(*given)\n"
        "import dryquarry.marking.registry\n"
        "print(sum('answer' in str(one) or 'which' in str(one) for one in made))"
    )
    assert subprocess.run([sys.executable, "-c", code], capture_output=True, text=True).stdout == "0\n"
