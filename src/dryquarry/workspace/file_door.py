"""The one door through which files are read: regular files, within their folder, no larger than they may be."""

from __future__ import annotations

import os
import stat
from pathlib import Path

LARGEST_FILE = 512 * 1024**2


class Refused(ValueError):
    """A file that is not read; the message goes on from "FILE cannot be read: "."""


def read_file(path: Path, *, within: Path | None = None, most: int = LARGEST_FILE) -> bytes:
    """Return the content of a file; raises Refused.

    A link may lead to another place of the folder `within`, and nowhere else. What was looked at is what is read: the
    file is opened once, and never waited for as a pipe or a device would want.
    """
    real = Path(os.path.realpath(path))
    if within is not None and not real.is_relative_to(os.path.realpath(within)):
        raise Refused(f"it lies outside of {within.name}, in {real}")
    try:
        number = os.open(real, os.O_RDONLY | os.O_NONBLOCK | os.O_NOFOLLOW | os.O_CLOEXEC)
    except (OSError, ValueError) as error:
        raise Refused(getattr(error, "strerror", None) or str(error)) from None
    with os.fdopen(number, "rb") as file:
        state = os.fstat(number)
        if not stat.S_ISREG(state.st_mode):
            kind = "a folder" if stat.S_ISDIR(state.st_mode) else "a pipe or a device"
            raise Refused(f"it is {kind} and no file")
        if state.st_size > most:
            raise Refused(f"it is larger than {most // 1024**2} MiB")
        try:
            return file.read(most + 1)
        except OSError as error:
            raise Refused(error.strerror or str(error)) from None
