"""A part of the replies of benchmarks/linear.py: none takes much more than four times as long for four times the length."""

from __future__ import annotations

import importlib.util
from pathlib import Path

import pytest

from dryquarry.marking.registry import prepare

_path = Path(__file__).parent.parent / "benchmarks" / "linear.py"
_spec = importlib.util.spec_from_file_location("linear", _path)
assert _spec is not None
assert _spec.loader is not None
linear = importlib.util.module_from_spec(_spec)
_spec.loader.exec_module(linear)


@pytest.mark.parametrize("name", linear.MARKINGS)
def test_reading_takes_its_share_and_no_more(name: str) -> None:
    assert linear.slow(prepare(linear.MARKINGS[name]), every=97) == []


@pytest.mark.parametrize("name", ["set", "sequence"])
@pytest.mark.parametrize(("beginning", "filler", "end"), [("1", "\\", "$"), ('{"a": ', "$", "}")])
def test_lists_without_ticks_are_not_looked_through_for_them(name: str, beginning: str, filler: str, end: str) -> None:
    marker = prepare(linear.MARKINGS[name])
    shorter = linear.seconds_for(marker, beginning, filler, end, 1_000)
    assert linear.seconds_for(marker, beginning, filler, end, 4_000) < 100 * (shorter + 0.01)


def test_a_rule_of_a_table_is_seen_at_once() -> None:
    marker = prepare(linear.MARKINGS["rules"])
    shorter = linear.seconds_for(marker, "| a | b |\n|---|---|\n", "-", ")", 1_000)
    assert linear.seconds_for(marker, "| a | b |\n|---|---|\n", "-", ")", 4_000) < 30 * (shorter + 0.01)
