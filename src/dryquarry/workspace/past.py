"""What the ledger holds: how much, whether it is whole, and what was run with which settings when."""

from __future__ import annotations

from dryquarry.ledger.checking import LedgerProblem, ledger_problems
from dryquarry.ledger.health import LedgerInfo, ledger_info
from dryquarry.ledger.history import PastSitting, past_sittings
from dryquarry.workspace.folder import Folder
from dryquarry.workspace.opening import ledger_for_reading


class Past:
    """The ledger of one workspace, for looking at."""

    def __init__(self, folder: Folder):
        self.folder = folder

    def info(self) -> LedgerInfo:
        """Return how much the ledger holds."""
        with ledger_for_reading(self.folder) as ledger:
            return ledger_info(ledger)

    def problems(self) -> list[LedgerProblem]:
        """Verify the whole ledger, and return everything that is wrong in it."""
        with ledger_for_reading(self.folder) as ledger:
            return ledger_problems(ledger)

    def sittings(self, entrant: str) -> list[PastSitting]:
        """Return what was run under an entrant's name, with which settings and when, the latest first."""
        if not self.folder.ledger_path.exists():
            return []
        with ledger_for_reading(self.folder) as ledger:
            return past_sittings(ledger, entrant)
