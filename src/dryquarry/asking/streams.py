"""Reading a streamed reply: server-sent events, the pieces of text in them, and how the stream ended."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Any

from dryquarry.asking.door import read_json

DONE = b"[DONE]"
_NEXT = b"\n\ndata: "

_FIRST_TOKEN = re.compile(rb'"(?:content|reasoning_content|reasoning)"\s*:\s*"[^"]')


@dataclass
class Streamed:
    """What a stream held: texts joined, the finish reason and usage if they came, and what was amiss."""

    text: str = ""
    reasoning: str = ""
    finish: str | None = None
    usage: dict[str, Any] = field(default_factory=dict)
    model: str | None = None
    fingerprint: str | None = None
    refusal: bool = False
    done: bool = False
    problem: str | None = None


def holds_token(chunk: bytes) -> bool:
    """Tell whether a piece of a stream holds a first bit of text or reasoning."""
    return _FIRST_TOKEN.search(chunk) is not None


def event_data(body: bytes) -> list[bytes]:
    """Return the data of each event, as the standard has it: `data:` lines joined, all other lines ignored."""
    body = body.removeprefix(b"\xef\xbb\xbf")
    if b"\r" in body:
        body = body.replace(b"\r\n", b"\n").replace(b"\r", b"\n")
    if body.startswith(_NEXT[2:]) and body.count(b"\n") == 2 * body.count(_NEXT) + 2 and body.endswith(b"\n\n"):
        return body[len(_NEXT) - 2 : -2].split(_NEXT)  # as services send them: an event is one line of data
    found = []
    for event in body.split(b"\n\n"):
        lines = [line[5:].removeprefix(b" ") for line in event.split(b"\n") if line.startswith(b"data:")]
        if lines:
            found.append(b"\n".join(lines))
    return found


def read_stream(body: bytes) -> Streamed:
    """Return what a stream of chat-completion chunks held; an unreadable event ends the reading with a problem."""
    streamed = Streamed()
    texts: list[str] = []
    reasonings: list[str] = []
    for data in event_data(body):
        if data.strip() == DONE:
            streamed.done = True
            break
        try:
            chunk = read_json(data)
            if not isinstance(chunk, dict):
                raise ValueError("no object")
        except ValueError:
            streamed.problem = "an event of the stream is not readable as JSON"
            break
        if chunk.get("error"):
            error = chunk["error"]
            said = error.get("message", error) if isinstance(error, dict) else error
            streamed.problem = f"the service reports an error in the stream ({said})"
            break
        _note(streamed, chunk)
        choices = chunk.get("choices")
        if isinstance(choices, list) and choices and isinstance(choices[0], dict):
            _take(streamed, choices[0], texts, reasonings)
    streamed.text, streamed.reasoning = "".join(texts), "".join(reasonings)
    return streamed


def _note(streamed: Streamed, chunk: dict[str, Any]) -> None:
    """Note what the service says of itself, which is the same in every chunk, and the usage."""
    if streamed.model is None and isinstance(model := chunk.get("model"), str):
        streamed.model = model
    if streamed.fingerprint is None and isinstance(fingerprint := chunk.get("system_fingerprint"), str):
        streamed.fingerprint = fingerprint
    if isinstance(usage := chunk.get("usage"), dict):
        streamed.usage = usage


def _take(streamed: Streamed, choice: dict[str, Any], texts: list[str], reasonings: list[str]) -> None:
    """Take the pieces of text, and the finish, out of a chunk's choice."""
    if isinstance(finish := choice.get("finish_reason"), str):
        streamed.finish = finish
    delta = choice.get("delta")
    if not isinstance(delta, dict):
        return
    if isinstance(content := delta.get("content"), str):
        texts.append(content)
    if isinstance(reasoning := delta.get("reasoning_content") or delta.get("reasoning"), str):
        reasonings.append(reasoning)
    if delta.get("refusal"):
        streamed.refusal = True
