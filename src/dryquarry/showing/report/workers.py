"""Making many pages on all cores: in copies of this process, which have everything that pages are made of."""

from __future__ import annotations

import gc
import multiprocessing
import os
from collections.abc import Callable, Sequence

from threadpoolctl import threadpool_limits  # type: ignore[import-untyped]

FEW = 100
_makers: list[Callable[[], bytes]] = []


def all_made(makers: Sequence[Callable[[], bytes]]) -> list[bytes]:
    """Return what each of these makes; many are made in several processes, where the system can copy this one."""
    cores = os.cpu_count() or 1
    if len(makers) < FEW or cores < 2 or "fork" not in multiprocessing.get_all_start_methods():
        return [make() for make in makers]
    _makers[:] = makers
    try:
        # what is there already would be looked through, and so copied, again and again
        gc.freeze()
        with multiprocessing.get_context("fork").Pool(cores, _begin) as pool:
            return pool.map(_made, range(len(makers)), chunksize=2)
    finally:
        gc.unfreeze()
        _makers.clear()


def _begin() -> None:
    """Leave garbage alone, and let each process compute on its own core: they would wait for each other's threads."""
    gc.disable()
    threadpool_limits(1)


def _made(number: int) -> bytes:
    return _makers[number]()
