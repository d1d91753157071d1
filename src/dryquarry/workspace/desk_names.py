"""Names of people who mark and vote."""

from __future__ import annotations

from dryquarry.errors import UsageFault

LONGEST_NAME = 60


def check_name(person: str) -> None:
    """Raise UsageFault for what can be no person's name."""
    if not person.strip() or len(person) > LONGEST_NAME or not person.isprintable():
        raise UsageFault(f"a reviewer's name is a short text on one line: --as NAME, not {person[:20]!r}")
