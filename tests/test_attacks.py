"""A part of the attack table (`benchmarks/attacks.py` tries all of it) against the installed program."""

from __future__ import annotations

import pytest
from attack_table import attacks
from attacks import tried

ALL = attacks()
# Of each group every so many, so that all groups are among them.
PART = [attack for number, attack in enumerate(ALL) if number % 8 == 3]


def test_the_table_is_as_long_as_it_says_and_no_row_is_twice() -> None:
    assert len(ALL) == len({(attack.group, attack.name) for attack in ALL}) >= 280
    assert {attack.group for attack in PART} == {attack.group for attack in ALL}


@pytest.mark.parametrize("attack", PART, ids=[f"{one.group}: {one.name}" for one in PART])
def test_an_attack_does_no_harm(attack) -> None:
    outcome = tried(attack)
    assert outcome.held, outcome
