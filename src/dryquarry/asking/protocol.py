"""The chat-completions protocol, as pure functions: what is sent, and what an answer means."""

from __future__ import annotations

import base64
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any

import orjson

from dryquarry.asking.door import read_json, whole_text, without_secrets
from dryquarry.asking.entrants import Entrant
from dryquarry.asking.streams import read_stream
from dryquarry.asking.transport import Response
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.received import Received
from dryquarry.marking.values.texts import shortened
from dryquarry.suites.ask import Ask, Attachment

MOST_TOKENS = 2**53
Message = dict[str, Any]
Load = Callable[[Attachment], bytes]

_THINKING = re.compile(r"\s*<think(?:ing)?>(?P<thought>.*?)(?:</think(?:ing)?>\s*|\Z)", re.DOTALL)


def no_files(file: Attachment) -> bytes:
    """Refuse every file: what an ask without files needs."""
    raise ValueError(f"the file {file.path} is not at hand")


def messages_for(entrant: Entrant, ask: Ask, load: Load = no_files) -> list[list[Message]]:
    """Return the messages that each turn adds: the entrant's system text before the suite's, then the turn.

    Text documents stand in the first turn before the question, delimited and named; images go with it as base64.
    `load` gives the bytes of a file.
    """
    system = "\n\n".join(text for text in (entrant.system, ask.system) if text)
    opening: list[Message] = [{"role": "system", "content": system}] if system else []
    first: Message = {"role": "user", "content": _with_files(ask.turns[0], ask.files, load)}
    return [[*opening, first], *([{"role": "user", "content": turn}] for turn in ask.turns[1:])]


def _with_files(text: str, files: Sequence[Attachment], load: Load) -> str | list[dict[str, Any]]:
    images: list[dict[str, Any]] = []
    documents = []
    for file in files:
        content = load(file)
        if file.media_type.startswith("image/"):
            url = f"data:{file.media_type};base64,{base64.b64encode(content).decode('ascii')}"
            images.append({"type": "image_url", "image_url": {"url": url}})
        else:
            said = content.decode("utf-8", "replace").strip()
            documents.append(f"[begin of document {file.path}]\n{said}\n[end of document {file.path}]")
    whole = "\n\n".join([*documents, text])
    return [*images, {"type": "text", "text": whole}] if images else whole


def request_body(entrant: Entrant, messages: Sequence[Message], also: Mapping[str, Any] | None = None) -> bytes:
    """Return the JSON body of a request, with the entrant's settings passed on as they are, and `also` these."""
    content = {"model": entrant.model, "messages": list(messages), **entrant.settings, **(also or {})}
    if entrant.stream:
        content |= {"stream": True, "stream_options": {"include_usage": True}}
    return orjson.dumps(content)


def read_response(response: Response, secrets: Sequence[str] = ()) -> Received:
    """Return what a service's response means; a response that is no reply is `failed` with its cause.

    No `secrets` stand in it, even where the service sends them back, and every text in it can be stored.
    """
    received = _read_response(response)

    def told(text: str | None) -> str | None:
        return None if text is None else without_secrets(whole_text(text), secrets)

    return replace(
        received,
        text=told(received.text) or "",
        reasoning=told(received.reasoning),
        finish=told(received.finish),
        cause=told(received.cause),
        served_model=told(received.served_model),
        fingerprint=told(received.fingerprint),
    )


def _read_response(response: Response) -> Received:
    if response.status != 200:
        return Received(Outcome.FAILED, cause=_http_cause(response.status, response.body))
    if response.streamed:
        return _read_streamed(response)
    body = response.body
    try:
        content = read_json(body)
        choice = content["choices"][0]
        message = choice["message"]
        text = message.get("content")
    except (ValueError, KeyError, IndexError, TypeError, AttributeError):
        return Received(Outcome.FAILED, cause=f"the service's answer is not a chat completion: {_start_of(body)}")
    if isinstance(text, list):
        text = "".join(str(part.get("text", "")) for part in text if isinstance(part, dict))
    reasoning = message.get("reasoning_content") or message.get("reasoning")
    received = _received(
        text if isinstance(text, str) else "",
        reasoning if isinstance(reasoning, str) else "",
        content.get("usage") if isinstance(content.get("usage"), dict) else {},
        _text_or_none(choice.get("finish_reason")),
        _text_or_none(content.get("model")),
        _text_or_none(content.get("system_fingerprint")),
    )
    return with_outcome(received, bool(message.get("refusal")))


def _read_streamed(response: Response) -> Received:
    """Return what a stream means: whole when it gave a finish or its end marker, else kept with what went wrong."""
    streamed = read_stream(response.body)
    received = _received(
        streamed.text, streamed.reasoning, streamed.usage, streamed.finish, streamed.model, streamed.fingerprint
    )
    if response.too_large:
        return replace(received, outcome=Outcome.CUT_OFF, cause=response.broken)
    if response.timed_out:
        return replace(received, outcome=Outcome.TIMED_OUT, cause=response.broken)
    if streamed.finish is not None or (streamed.done and not streamed.problem):
        return with_outcome(received, streamed.refusal)
    cause = streamed.problem or response.broken or "the stream ended without its end marker"
    return replace(received, outcome=Outcome.FAILED, cause=cause)


def _received(
    text: str,
    reasoning: str,
    usage: Mapping[str, Any],
    finish: str | None,
    model: str | None,
    fingerprint: str | None,
) -> Received:
    """Return a reply with its thinking kept apart; tokens that the service did not count are estimated."""
    thought, text = split_thinking(text)
    reasoning = "\n\n".join(part for part in (reasoning, thought) if part)
    output_tokens = _count(usage.get("completion_tokens"))
    estimated = output_tokens is None
    return Received(
        outcome=Outcome.ANSWERED,
        text=text,
        reasoning=reasoning or None,
        input_tokens=_count(usage.get("prompt_tokens")),
        output_tokens=estimated_tokens(text + reasoning) if output_tokens is None else output_tokens,
        tokens_estimated=estimated,
        finish=finish,
        served_model=model,
        fingerprint=fingerprint,
    )


def split_thinking(text: str) -> tuple[str, str]:
    """Return inline thinking (tags at the start of a reply) and the text after it; unclosed, all is thinking."""
    match = _THINKING.match(text)
    return (match.group("thought").strip(), text[match.end() :]) if match else ("", text)


def estimated_tokens(text: str) -> int:
    """Return about how many tokens a text has, where nobody counted: one for every four characters."""
    return -(-len(text) // 4)


def with_outcome(received: Received, says_refusal: bool = False) -> Received:
    """Return the reply with the outcome that its finish is evidence for; its text is read when it is marked."""
    if received.finish == "content_filter":
        return replace(received, outcome=Outcome.BLOCKED, cause="the service's filter")
    if received.finish == "length":
        return replace(received, outcome=Outcome.CUT_OFF, cause="the token cap")
    if says_refusal:
        return replace(received, outcome=Outcome.REFUSED, cause="the service says that the model declined")
    return received


def _http_cause(status: int, body: bytes) -> str:
    meaning = {
        401: "the service refused the key",
        403: "the service refused access",
        404: "the service knows no such model or address",
        429: "the service asks to slow down",
    }.get(status, "the service reports an error" if status >= 500 else "the service refused the request")
    said = _error_message(body)
    return f"HTTP {status}: {meaning}" + (f" ({said})" if said else "")


def _error_message(body: bytes) -> str:
    try:
        content: Any = read_json(body)
    except ValueError:
        return _start_of(body)
    error = content.get("error", content) if isinstance(content, dict) else content
    message = error.get("message", error) if isinstance(error, dict) else error
    return shortened(str(message), 200)


def _start_of(body: bytes) -> str:
    text = body[:2000].decode("utf-8", "replace")
    if re.search(r"<(?:!doctype|html)", text, re.IGNORECASE):
        return "a web page in HTML, not JSON; is the endpoint right?"
    return shortened(text, 120) or "an empty body"


def _count(value: Any) -> int | None:
    """Return a count of tokens, or None for what is none or beyond what any service could count."""
    return value if isinstance(value, int) and not isinstance(value, bool) and 0 <= value < MOST_TOKENS else None


def _text_or_none(value: Any) -> str | None:
    return value if isinstance(value, str) else None
