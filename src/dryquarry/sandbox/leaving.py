"""The files that a program left, out of the archive in which they come; nothing of it is ever written to a disk."""

from __future__ import annotations

import io
import tarfile
from collections.abc import Sequence

MOST_BYTES = 1024 * 1024


def files_in(archive: bytes, wanted: Sequence[str]) -> dict[str, bytes]:
    """Return the files of an archive that are wanted, by their names: plain files alone, and only so much of them."""
    found: dict[str, bytes] = {}
    if not archive:
        return found
    try:
        with tarfile.open(fileobj=io.BytesIO(archive), mode="r:") as tar:
            for member in tar:
                content = tar.extractfile(member) if member.isreg() and member.name in wanted else None
                if content is not None:
                    found[member.name] = content.read(MOST_BYTES)
    except (tarfile.TarError, EOFError, ValueError, OSError, OverflowError):
        pass  # of a broken archive what came before
    return found
