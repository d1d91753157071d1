"""The network seam: one small protocol, what passes through it, and where and with which headers one asks."""

from __future__ import annotations

import os
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Protocol

from dryquarry.asking.entrants import Entrant, Limits
from dryquarry.errors import UsageFault


@dataclass(frozen=True, slots=True)
class Response:
    """A service's answer to one post.

    `broken` says why a stream ended early (its `body` is what had come), `timed_out` that it was for want of
    time, `too_large` that it would have gone on beyond its limit; `first_token_s` is when the first bit of text of a
    stream came.
    """

    status: int
    body: bytes
    retry_after: str | None = None
    streamed: bool = False
    first_token_s: float | None = None
    broken: str | None = None
    timed_out: bool = False
    too_large: bool = False


class NoResponse(Exception):
    """No response came; the message says why, `timed_out` whether for want of time, `lasting` that it will not pass."""

    def __init__(self, message: str, *, timed_out: bool = False, lasting: bool = False):
        super().__init__(message)
        self.timed_out = timed_out
        self.lasting = lasting


class Transport(Protocol):
    """What the engine needs of a network: one post, and NoResponse when there is no answer."""

    async def post(self, url: str, headers: Mapping[str, str], body: bytes, limits: Limits) -> Response:
        """Return the response to a post of JSON."""
        ...


def chat_url(endpoint: str) -> str:
    """Return the address that chat completions are posted to."""
    return f"{endpoint.rstrip('/')}/chat/completions"


def secrets_of(entrant: Entrant) -> list[str]:
    """Return what must never be stored or shown: the entrant's key."""
    key = os.environ.get(entrant.key_env, "").strip() if entrant.key_env else ""
    return [key] if key else []


def headers_for(entrant: Entrant) -> dict[str, str]:
    """Return the request headers, with the key from the environment; raises UsageFault when it is not set."""
    headers = {"Content-Type": "application/json"}
    if entrant.key_env:
        key = os.environ.get(entrant.key_env, "").strip()
        if not key:
            raise UsageFault(
                f"entrant '{entrant.name}' wants its key in the environment variable {entrant.key_env}, "
                f"which is not set; set it (export {entrant.key_env}=…) and run again"
            )
        headers["Authorization"] = f"Bearer {key}"
    return headers
