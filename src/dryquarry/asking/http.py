"""The transport over HTTP, by aiohttp, and the translation of network errors.

Imported where something is asked: aiohttp takes longer to import than most commands take.
"""

from __future__ import annotations

import asyncio
import math
import os
import ssl
import time
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from types import SimpleNamespace, TracebackType
from typing import Self
from urllib.parse import urlsplit
from urllib.request import getproxies, proxy_bypass

import aiohttp

from dryquarry.asking.entrants import Limits
from dryquarry.asking.streams import holds_token
from dryquarry.asking.transport import NoResponse, Response
from dryquarry.errors import UsageFault

# The environment variable in which programs on OpenSSL are told a file of authorities.
CA_FILE = "SSL_CERT_FILE"
READ_AT_ONCE = 2**16


class HttpTransport:
    """The transport over HTTP; use it as an async context manager."""

    def __init__(self, in_flight: int):
        self.in_flight = in_flight

    async def __aenter__(self) -> Self:
        connector = aiohttp.TCPConnector(limit=self.in_flight)
        reuse = aiohttp.TraceConfig()
        reuse.on_connection_reuseconn.append(_note_reuse)
        self._session = aiohttp.ClientSession(
            connector=connector, auto_decompress=True, trace_configs=[reuse], cookie_jar=aiohttp.DummyCookieJar()
        )
        return self

    async def __aexit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        await self._session.close()

    async def post(self, url: str, headers: Mapping[str, str], body: bytes, limits: Limits) -> Response:
        """Return the response to a post of JSON; raises NoResponse when not even its head came.

        A service may close a connection at any moment between two replies. When that is found out by posting on it,
        the service has not failed: the post is made again on another connection.
        """
        kept = self.in_flight  # no more than so many connections can be waiting for another post
        while True:
            on = _Connection()
            try:
                return await self._posted(url, headers, body, limits, on)
            except _CLOSED as error:
                if not on.reused or on.answered or not kept:
                    raise NoResponse(_broken(error)) from None
                kept -= 1

    async def _posted(
        self, url: str, headers: Mapping[str, str], body: bytes, limits: Limits, on: _Connection
    ) -> Response:
        started = time.perf_counter()
        try:
            async with self._session.post(
                url,
                data=body,
                headers=headers,
                timeout=_timeout(limits),
                allow_redirects=False,
                proxy=proxy_for(url),
                ssl=_trusted() if url.startswith("https:") else True,
                trace_request_ctx=on,
            ) as response:
                on.answered = True
                if response.content_type == "text/event-stream":
                    return await _streamed(response, limits, started)
                content = await _whole(response, limits)
                return Response(response.status, content, response.headers.get("Retry-After"))
        except TimeoutError as error:
            raise NoResponse(_late(error, limits), timed_out=True) from None
        except aiohttp.ClientConnectorCertificateError as error:
            said = f"cannot connect to {url}: its certificate is not trusted ({error.certificate_error})"
            raise NoResponse(f"{said}; name a file with its authority in {CA_FILE}") from None
        except aiohttp.ClientConnectorError as error:
            through = f" through the proxy {error.host}:{error.port}" if proxy_for(url) else ""
            raise NoResponse(f"cannot connect to {url}{through}: {error.os_error.strerror or error.os_error}") from None
        except aiohttp.ClientHttpProxyError as error:
            raise NoResponse(f"the proxy refused the way to {url}: HTTP {error.status}") from None
        except _CLOSED:
            raise
        except (aiohttp.ClientError, OSError, ValueError, asyncio.IncompleteReadError) as error:
            raise NoResponse(_broken(error)) from None


# What posting on a connection that the other side has closed comes to.
_CLOSED = (aiohttp.ServerDisconnectedError, aiohttp.ClientOSError, ConnectionError)


@dataclass(slots=True)
class _Connection:
    """What is known of the connection that a post went over: whether an earlier one did, and whether a head came."""

    reused: bool = False
    answered: bool = False


async def _note_reuse(session: aiohttp.ClientSession, context: SimpleNamespace, params: object) -> None:
    context.trace_request_ctx.reused = True


def _broken(error: BaseException) -> str:
    return f"the connection broke: {error or type(error).__name__}"


@cache
def _trusted() -> ssl.SSLContext:
    """Return what certificates are checked against: the system's authorities and those of the named file.

    Read once, and only where a service is asked over TLS: it takes as long as hundreds of replies.
    """
    path = os.environ.get(CA_FILE)
    if not path:
        return ssl.create_default_context()
    try:
        context = ssl.create_default_context()
        context.load_verify_locations(path)
    except OSError as error:  # of which SSLError is one
        raise UsageFault(
            f"the file {path} that {CA_FILE} names cannot be used: {error.strerror or error}; "
            "it wants certificates in PEM form"
        ) from None
    return context


@cache
def proxy_for(url: str) -> str | None:
    """Return the proxy that the environment names for an address (http_proxy, https_proxy, no_proxy), or None.

    This machine itself is always asked directly.
    """
    parts = urlsplit(url)
    host = parts.hostname or ""
    if host == "localhost" or host.startswith("127.") or host == "::1" or proxy_bypass(host):
        return None
    proxy = getproxies().get(parts.scheme) or getproxies().get("all")
    return proxy if proxy is None or "://" in proxy else f"http://{proxy}"


@cache
def _timeout(limits: Limits) -> aiohttp.ClientTimeout:
    # To the moment: by itself aiohttp puts what is longer than five seconds off to the next full one.
    return aiohttp.ClientTimeout(total=limits.timeout_s, sock_read=limits.idle_timeout_s, ceil_threshold=math.inf)


async def _whole(response: aiohttp.ClientResponse, limits: Limits) -> bytes:
    """Return a body; raises NoResponse for one that is larger than a reply may be."""
    chunks, size = [], 0
    async for chunk in response.content.iter_chunked(READ_AT_ONCE):
        size += len(chunk)
        if size > limits.most_mb * 1e6:
            raise NoResponse(_too_large(limits), lasting=True)
        chunks.append(chunk)
    return b"".join(chunks)


def _too_large(limits: Limits) -> str:
    return f"the reply is larger than {limits.most_mb:g} MB (limits: most_mb)"


async def _streamed(response: aiohttp.ClientResponse, limits: Limits, started: float) -> Response:
    """Return a stream as far as it came, and why it went no further."""
    chunks: list[bytes] = []
    size = 0
    first_token_s, broken, timed_out, too_large = None, None, False, False
    try:
        async for chunk in response.content.iter_any():
            size += len(chunk)
            over = size - int(limits.most_mb * 1e6)
            if over > 0:
                broken, too_large = _too_large(limits), True
                chunks.append(chunk[:-over])
                response.close()
                break
            chunks.append(chunk)
            if first_token_s is None and holds_token(chunk):
                first_token_s = time.perf_counter() - started
    except TimeoutError as error:
        broken, timed_out = _late(error, limits), True
    except (aiohttp.ClientError, OSError) as error:
        broken = f"the stream broke: {error or type(error).__name__}"
    head = response.headers.get("Retry-After")
    return Response(response.status, b"".join(chunks), head, True, first_token_s, broken, timed_out, too_large)


def _late(error: TimeoutError, limits: Limits) -> str:
    if isinstance(error, aiohttp.ServerTimeoutError) and limits.idle_timeout_s is not None:
        return f"no byte for {limits.idle_timeout_s:g} s"
    return f"no complete reply within {limits.timeout_s:g} s"
