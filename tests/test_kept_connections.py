"""A connection that a service closed between two replies is no failure: it costs no try, and no reply."""

from __future__ import annotations

import asyncio
import threading
from collections.abc import Iterator
from contextlib import contextmanager

import orjson
import pytest

from conftest import Place, arithmetic_suite, completion

COUNT = 15


class Closing:
    """A service over bare sockets that keeps connections only as long as it likes, and never says so."""

    def __init__(self, *, kept_s: float, streamed: bool, silent_on_second: bool = False):
        self.kept_s = kept_s
        self.streamed = streamed
        self.silent_on_second = silent_on_second
        self.requests = 0

    async def serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """Answer requests on one connection until it has been idle for so long."""
        served = 0
        while True:
            try:
                head = await asyncio.wait_for(reader.readuntil(b"\r\n\r\n"), self.kept_s if served else 5)
            except (TimeoutError, asyncio.IncompleteReadError):
                break
            length = next(int(line[15:]) for line in head.splitlines() if line.lower().startswith(b"content-length:"))
            await reader.readexactly(length)
            self.requests += 1
            if served and self.silent_on_second:
                break
            writer.write(self.answer())
            await writer.drain()
            served += 1
            if not self.kept_s:
                break
        writer.close()

    def answer(self) -> bytes:
        if not self.streamed:
            body = completion("Answer: 1")
            return b"HTTP/1.1 200 OK\r\nContent-Type: application/json\r\nContent-Length: %d\r\n\r\n" % len(body) + body
        chunk = {"choices": [{"index": 0, "delta": {"content": "Answer: 1"}, "finish_reason": "stop"}]}
        body = b"data: " + orjson.dumps(chunk) + b"\n\ndata: [DONE]\n\n"
        head = b"HTTP/1.1 200 OK\r\nContent-Type: text/event-stream\r\nTransfer-Encoding: chunked\r\n\r\n"
        return head + b"%x\r\n" % len(body) + body + b"\r\n0\r\n\r\n"


@contextmanager
def listening(service: Closing) -> Iterator[str]:
    loop = asyncio.new_event_loop()
    thread = threading.Thread(target=loop.run_forever, daemon=True)
    thread.start()
    server = asyncio.run_coroutine_threadsafe(asyncio.start_server(service.serve, "127.0.0.1", 0), loop).result(10)
    try:
        yield f"http://127.0.0.1:{server.sockets[0].getsockname()[1]}/v1"
    finally:
        loop.call_soon_threadsafe(loop.stop)
        thread.join(10)


def ran(place: Place, service: Closing, *, per_minute: int | None = None, retries: int = 0) -> dict:
    place.suite("sums", arithmetic_suite(COUNT))
    limits = f"retries = {retries}, in_flight = 2" + (f", per_minute = {per_minute}" if per_minute else "")
    stream = "stream = true" if service.streamed else "stream = false"
    with listening(service) as url:
        place.entrant("wick", url, f"{stream}\nlimits = {{{limits}}}")
        result = place.run("run", "sums", "--format", "json")
    return orjson.loads(result.stdout)["sittings"][0]  # type: ignore[no-any-return]


@pytest.mark.parametrize("streamed", [True, False])
@pytest.mark.parametrize("kept_s", [0.0, 0.05])
def test_a_service_that_closes_connections_has_not_failed(place: Place, kept_s: float, streamed: bool) -> None:
    service = Closing(kept_s=kept_s, streamed=streamed)
    asked = ran(place, service, per_minute=600 if kept_s else None)
    assert (asked["received"], asked["failed"], asked["tried_again"]) == (COUNT, 0, 0)
    assert service.requests == COUNT


@pytest.mark.parametrize("streamed", [True, False])
def test_a_connection_that_closes_just_as_the_next_request_comes_costs_no_try(place: Place, streamed: bool) -> None:
    # What a keep-alive of a second comes to when requests come a second apart, made certain.
    asked = ran(place, Closing(kept_s=1.0, streamed=streamed, silent_on_second=True))
    assert (asked["received"], asked["failed"], asked["tried_again"]) == (COUNT, 0, 0)


def test_a_service_that_breaks_off_on_new_connections_too_has_failed_and_why_is_told(place: Place) -> None:
    class Silent(Closing):
        def answer(self) -> bytes:
            return b""

    service = Silent(kept_s=0.0, streamed=False)
    asked = ran(place, service, retries=1)
    assert asked["received"] == 0
    assert any("connection broke" in cause for cause in asked["tried_again_for"])


def test_what_was_tried_again_is_told_with_its_cause(place: Place) -> None:
    service = Closing(kept_s=5.0, streamed=False)
    answer, answered = service.answer, []

    def busy_at_first() -> bytes:
        answered.append(1)
        body = b'{"error": {"message": "warming up"}}'
        head = b"HTTP/1.1 503 Busy\r\nRetry-After: 0\r\nContent-Length: %d\r\n\r\n" % len(body)
        return head + body if len(answered) < 3 else answer()

    service.answer = busy_at_first  # type: ignore[method-assign]
    place.suite("sums", arithmetic_suite(3))
    with listening(service) as url:
        place.entrant("wick", url, "stream = false\nlimits = {retries = 3, in_flight = 1}")
        told = place.run("run", "sums").stderr
    assert "2 requests tried again: HTTP 503" in told
    assert "warming up" in told


def test_cookies_are_not_kept(place: Place) -> None:
    service = Closing(kept_s=5.0, streamed=False)
    answer, heads = service.answer, []
    service.answer = lambda: answer().replace(b"\r\n", b"\r\nSet-Cookie: who=wick\r\n", 1)  # type: ignore[method-assign]
    serve = service.serve

    async def noting(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        read = reader.readuntil

        async def readuntil(separator: bytes) -> bytes:
            heads.append(await read(separator))
            return heads[-1]

        reader.readuntil = readuntil  # type: ignore[method-assign,assignment]
        await serve(reader, writer)

    service.serve = noting  # type: ignore[method-assign]
    assert ran(place, service)["received"] == COUNT
    assert len(heads) == COUNT
    assert not any(b"cookie" in head.lower() for head in heads)
