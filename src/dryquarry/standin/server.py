"""The stand-in as an HTTP server that speaks the chat-completions protocol on loopback."""

from __future__ import annotations

import asyncio
from collections import Counter
from collections.abc import AsyncIterator, Mapping, Sequence
from contextlib import asynccontextmanager, suppress
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

import orjson
from aiohttp import web

from dryquarry.standin.bank import Bank, BankReply, ModelVoice
from dryquarry.standin.faults import FaultPlan, ServiceFault
from dryquarry.standin.judge import judged

CHARACTERS_PER_TOKEN = 4
PIECE = 48
JUDGE_REQUEST = "=== question "
LARGEST_REQUEST = 64 * 1024 * 1024


@dataclass(frozen=True, slots=True)
class StandinSettings:
    """`reply_s` fixes the seconds a reply takes (None: by model); `key` is wanted from clients if given.

    `faults` says how the service misbehaves.
    """

    reply_s: float | None = None
    key: str | None = None
    faults: FaultPlan = field(default_factory=FaultPlan)


class Standin:
    """The service: answers from a bank, and counts the requests for chat completions."""

    def __init__(self, bank: Bank, settings: StandinSettings | None = None):
        self.bank = bank
        self.settings = settings or StandinSettings()
        self.requests = 0
        self.asked: Counter[tuple[str, str]] = Counter()
        # Looking a question up means searching for its words; the same few texts come again and again.
        self._reply = lru_cache(maxsize=200_000)(self._look_up)

    def application(self) -> web.Application:
        """Return the web application."""
        application = web.Application(client_max_size=LARGEST_REQUEST)
        application.router.add_post("/v1/chat/completions", self._complete)
        application.router.add_get("/v1/models", self._models)
        application.router.add_get("/v1/standin/count", self._count)
        return application

    async def _models(self, _: web.Request) -> web.Response:
        rows = [{"id": name, "object": "model"} for name in sorted(self.bank.models)]
        return web.json_response({"object": "list", "data": rows})

    async def _count(self, _: web.Request) -> web.Response:
        return web.json_response({"requests": self.requests})

    async def _complete(self, request: web.Request) -> web.StreamResponse:
        self.requests += 1
        came_at = asyncio.get_running_loop().time()
        if self.settings.key and request.headers.get("Authorization") != f"Bearer {self.settings.key}":
            return _error(401, "this key is not known here")
        try:
            content = orjson.loads(await request.read())
            name, messages = str(content["model"]), content["messages"]
            asked = _text_of(messages[-1]["content"])
        except (ValueError, KeyError, IndexError, TypeError):
            return _error(400, "the request wants 'model' and 'messages'")
        model = self.bank.model(name)
        if model is None:
            return _error(404, f"there is no model '{name}' here")
        reply = _capped(self._reply(model, _judge_request_in(messages) or asked), content.get("max_tokens"))
        fault = self.settings.faults.fault_for(name, asked, self.asked[name, asked])
        self.asked[name, asked] += 1
        if fault is not None:
            refused = await _refused_by(fault, request)
            if refused is not None:
                return refused
            name, reply = _changed_by(fault, name, reply)
        output_tokens = tokens(reply.text)
        input_tokens = sum(tokens(_text_of(message.get("content", ""))) for message in messages)
        if content.get("stream"):
            events = _events(name, reply, input_tokens, output_tokens)
            return await _stream(request, events, came_at, self._times(model, output_tokens, fault))
        await _until(came_at + sum(self._times(model, output_tokens, fault)))
        return web.Response(body=_completion(name, reply, input_tokens, output_tokens), content_type="application/json")

    def _times(self, model: ModelVoice, output_tokens: int, fault: ServiceFault | None) -> tuple[float, float]:
        """Return the seconds to the first token, and from there to the end."""
        if fault is not None and fault.kind == "drip":
            return model.first_token_s, fault.seconds
        if self.settings.reply_s is not None:
            return self.settings.reply_s / 2, self.settings.reply_s / 2
        return model.first_token_s, output_tokens / model.tokens_per_s if model.tokens_per_s else 0.0

    def _look_up(self, model: ModelVoice, asked: str) -> BankReply:
        verdict = judged(asked, self.bank.cues, model.habits) if asked.startswith(JUDGE_REQUEST) else None
        return BankReply(verdict) if verdict is not None else self.bank.reply(model.voice, asked)


def _judge_request_in(messages: Sequence[Mapping[str, Any]]) -> str | None:
    """Return the request to a judge among the messages, also where it is asked once more."""
    texts = (_text_of(one.get("content", "")) for one in messages if one.get("role") == "user")
    return next((text for text in texts if text.startswith(JUDGE_REQUEST)), None)


async def _stream(
    request: web.Request, events: list[bytes], came_at: float, times: tuple[float, float]
) -> web.StreamResponse:
    """Send a reply as server-sent events, spread over the time that it takes; in one piece if that is none."""
    first, rest = times
    if not first + rest:
        return web.Response(body=b"".join(events), content_type="text/event-stream")
    response = web.StreamResponse(headers={"Content-Type": "text/event-stream"})
    opening, middle, end = (b"".join(piece) for piece in (events[:2], events[2:-2], events[-2:]))
    with suppress(ConnectionError):  # the client may be gone by now
        await _until(came_at + first)
        await response.prepare(request)
        await response.write(opening)
        await _until(came_at + first + rest / 2)
        await response.write(middle)
        await _until(came_at + first + rest)
        await response.write_eof(end)
    return response


async def _until(moment: float) -> None:
    """Sleep until a moment on the loop's clock, so that several waits in a row do not add up to more than was meant."""
    await asyncio.sleep(max(0.0, moment - asyncio.get_running_loop().time()))


async def _refused_by(fault: ServiceFault, request: web.Request) -> web.StreamResponse | None:
    """Return what a service says instead of a reply, or None when the fault lies in the reply itself."""
    if fault.kind == "throttle":
        response = _error(429, "too many requests")
        if fault.retry_after is not None:
            response.headers["Retry-After"] = fault.retry_after
        return response
    if fault.kind == "error":
        return _error(500, "something broke here")
    if fault.kind == "html":
        return web.Response(text="<!doctype html><html><body>Welcome</body></html>", content_type="text/html")
    if fault.kind == "malformed":
        return web.Response(body=b'{"choices": [{"message": {"content": "Ans', content_type="application/json")
    if fault.kind == "hang":
        await asyncio.sleep(fault.seconds)
    if fault.kind == "reset":
        stream = web.StreamResponse(headers={"Content-Type": "text/event-stream"})
        await stream.prepare(request)
        await stream.write(b'data: {"choices": [{"index": 0, "delta": {"content": "Half a re"}}]}\n\n')
        if request.transport is not None:
            request.transport.abort()
        return stream
    return None


def _changed_by(fault: ServiceFault, name: str, reply: BankReply) -> tuple[str, BankReply]:
    """Return the model name and the reply as the fault makes them."""
    if fault.kind == "empty":
        return name, BankReply("")
    if fault.kind == "filter":
        return name, BankReply("", "content_filter")
    if fault.kind == "cap":
        return name, BankReply(reply.text[: len(reply.text) // 2], "length")
    return (f"{name}-later" if fault.kind == "rename" else name), reply


def _text_of(content: object) -> str:
    """Return the text of a message, whose content may be a list of parts."""
    if isinstance(content, list):
        return "\n".join(str(part.get("text", "")) for part in content if isinstance(part, dict))
    return str(content)


def tokens(text: str) -> int:
    """Return the tokens that the stand-in counts for a text."""
    return -(-len(text) // CHARACTERS_PER_TOKEN)


def _capped(reply: BankReply, max_tokens: object) -> BankReply:
    if isinstance(max_tokens, int) and 0 < max_tokens < tokens(reply.text):
        return BankReply(reply.text[: max_tokens * CHARACTERS_PER_TOKEN], "length")
    return reply


def _completion(model: str, reply: BankReply, input_tokens: int, output_tokens: int) -> bytes:
    return orjson.dumps(
        {
            "object": "chat.completion",
            "model": model,
            "choices": [
                {
                    "index": 0,
                    "message": {"role": "assistant", "content": reply.text},
                    "finish_reason": reply.finish,
                }
            ],
            "usage": {
                "prompt_tokens": input_tokens,
                "completion_tokens": output_tokens,
                "total_tokens": input_tokens + output_tokens,
            },
        }
    )


def _events(model: str, reply: BankReply, input_tokens: int, output_tokens: int) -> list[bytes]:
    """Return the events of a streamed reply: its role, its text in pieces, its end, the usage, the end marker."""
    pieces = [reply.text[start : start + PIECE] for start in range(0, len(reply.text), PIECE)]
    deltas: list[dict[str, str]] = [{"role": "assistant", "content": ""}, *({"content": piece} for piece in pieces)]
    chunks: list[dict[str, object]] = [
        {"choices": [{"index": 0, "delta": delta, "finish_reason": None}], "model": model} for delta in deltas
    ]
    chunks.append({"choices": [{"index": 0, "delta": {}, "finish_reason": reply.finish}], "model": model})
    usage = {"prompt_tokens": input_tokens, "completion_tokens": output_tokens}
    chunks.append({"choices": [], "model": model, "usage": usage})
    return [*(b"data: " + orjson.dumps(chunk) + b"\n\n" for chunk in chunks), b"data: [DONE]\n\n"]


def _error(status: int, message: str) -> web.Response:
    return web.json_response({"error": {"message": message, "code": status}}, status=status)


@asynccontextmanager
async def serving(standin: Standin, port: int = 0, host: str = "127.0.0.1") -> AsyncIterator[str]:
    """Serve on loopback while the context lasts; gives the base URL. Port 0 takes a free one."""
    runner = web.AppRunner(standin.application(), access_log=None)
    await runner.setup()
    try:
        site = web.TCPSite(runner, host, port, backlog=1024)
        await site.start()
        yield f"http://{host}:{runner.addresses[0][1]}/v1"
    finally:
        await runner.cleanup()
