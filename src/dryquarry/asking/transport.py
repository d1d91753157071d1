"""The network seam: one small protocol, its aiohttp form, and the translation of network errors."""

from __future__ import annotations

import asyncio
import os
from collections.abc import Mapping
from dataclasses import dataclass
from types import TracebackType
from typing import Protocol, Self

import aiohttp

from dryquarry.asking.entrants import Entrant
from dryquarry.errors import UsageFault


@dataclass(frozen=True, slots=True)
class Response:
    """A service's answer to one post."""

    status: int
    body: bytes


class NoResponse(Exception):
    """No response came; the message says why, `timed_out` whether it was for want of time."""

    def __init__(self, message: str, *, timed_out: bool = False):
        super().__init__(message)
        self.timed_out = timed_out


class Transport(Protocol):
    """What the engine needs of a network: one post, and NoResponse when there is no answer."""

    async def post(self, url: str, headers: Mapping[str, str], body: bytes, timeout_s: float) -> Response:
        """Return the response to a post of JSON."""
        ...


class HttpTransport:
    """The transport over HTTP; use it as an async context manager."""

    def __init__(self, in_flight: int):
        self.in_flight = in_flight

    async def __aenter__(self) -> Self:
        connector = aiohttp.TCPConnector(limit=self.in_flight)
        self._session = aiohttp.ClientSession(connector=connector, auto_decompress=True)
        return self

    async def __aexit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        await self._session.close()

    async def post(self, url: str, headers: Mapping[str, str], body: bytes, timeout_s: float) -> Response:
        """Return the response to a post of JSON; raises NoResponse."""
        timeout = aiohttp.ClientTimeout(total=timeout_s)
        try:
            async with self._session.post(
                url, data=body, headers=headers, timeout=timeout, allow_redirects=False
            ) as response:
                return Response(response.status, await response.read())
        except TimeoutError:
            raise NoResponse(f"no complete reply within {timeout_s:g} s", timed_out=True) from None
        except aiohttp.ClientConnectorError as error:
            raise NoResponse(f"cannot connect to {url}: {error.os_error.strerror or error.os_error}") from None
        except (aiohttp.ClientError, OSError, ValueError, asyncio.IncompleteReadError) as error:
            raise NoResponse(f"the connection broke: {error or type(error).__name__}") from None


def chat_url(endpoint: str) -> str:
    """Return the address that chat completions are posted to."""
    return f"{endpoint.rstrip('/')}/chat/completions"


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
