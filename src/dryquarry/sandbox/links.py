"""Descriptors carried into a container, which takes none from outside but the three streams: by named pipes."""

from __future__ import annotations

import fcntl
import os
import select
import threading
from collections.abc import Sequence
from pathlib import Path
from types import TracebackType

CHUNK = 65536
LOOK_EVERY_S = 0.1


def writes_to(number: int) -> bool:
    """Tell whether a descriptor is one to write to, for the program that gets it."""
    return fcntl.fcntl(number, fcntl.F_GETFL) & os.O_ACCMODE != os.O_RDONLY


class Links:
    """Named pipes in a folder, one a descriptor, with a thread each that carries what comes to the other side."""

    def __init__(self, folder: Path, numbers: Sequence[int]):
        self.folder = folder
        self.numbers = numbers
        self._over = threading.Event()
        self._carrying: list[threading.Thread] = []

    def __enter__(self) -> Links:
        self.folder.mkdir()
        self.folder.chmod(0o755)
        for number in self.numbers:
            path = self.folder / str(number)
            os.mkfifo(path)
            path.chmod(0o666)
            own = os.dup(number)
            if writes_to(number):
                ends = os.open(path, os.O_RDONLY | os.O_NONBLOCK), own
            else:
                # for both, so that it can be opened before anybody reads
                ends = own, os.open(path, os.O_RDWR)
            self._carrying.append(threading.Thread(target=self._carry, args=ends, daemon=True))
            self._carrying[-1].start()
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.end()

    def end(self) -> None:
        """Carry no more; what was written before has been carried."""
        self._over.set()
        for one in self._carrying:
            one.join(timeout=2)

    def _carry(self, come: int, go: int) -> None:
        """Carry what comes until nobody writes any more, or all is over."""
        looking = select.poll()
        looking.register(come, select.POLLIN)
        try:
            while True:
                seen = looking.poll(LOOK_EVERY_S * 1000)
                if not seen:
                    if self._over.is_set():
                        return
                    continue
                content = os.read(come, CHUNK)
                if not content:
                    return
                while content:
                    content = content[os.write(go, content) :]
        except OSError:
            return  # nobody reads any more
        finally:
            os.close(come)
            os.close(go)
