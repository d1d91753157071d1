"""Opening the workspace's ledger for as long as it is needed."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from dryquarry import __version__
from dryquarry.errors import UsageFault
from dryquarry.ledger.store import Ledger
from dryquarry.workspace.folder import Folder


@contextmanager
def ledger_for_writing(folder: Folder) -> Iterator[Ledger]:
    """Give the ledger, made if absent, while the context lasts."""
    ledger = Ledger.write(folder.ledger_path, __version__)
    try:
        yield ledger
    finally:
        ledger.close()


@contextmanager
def ledger_for_planning(folder: Folder) -> Iterator[Ledger]:
    """Give the ledger as it is, or an empty one in memory, while the context lasts: a plan writes nothing."""
    if folder.ledger_path.exists():
        with ledger_for_reading(folder) as ledger:
            yield ledger
        return
    ledger = Ledger.empty(folder.ledger_path, __version__)
    try:
        yield ledger
    finally:
        ledger.close()


@contextmanager
def ledger_for_reading(folder: Folder) -> Iterator[Ledger]:
    """Give the ledger, read-only, while the context lasts; raises UsageFault when there is none yet."""
    path = folder.ledger_path
    if not path.exists():
        raise UsageFault(f"nothing has been asked in {folder.root} yet; start with 'dryquarry run SUITE -e NAME'")
    ledger = Ledger.read(path, __version__)
    try:
        yield ledger
    finally:
        ledger.close()
