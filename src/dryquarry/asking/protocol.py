"""The chat-completions protocol, as pure functions: what is sent, and what an answer means."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import orjson

from dryquarry.asking.entrants import Entrant
from dryquarry.ledger.records import Received
from dryquarry.marking.outcomes import Outcome, is_refusal
from dryquarry.marking.text import shortened
from dryquarry.suites.ask import Ask


def messages_for(entrant: Entrant, ask: Ask) -> list[dict[str, str]]:
    """Return the messages of a request: the entrant's system text before the suite's, then the turns."""
    system = "\n\n".join(text for text in (entrant.system, ask.system) if text)
    messages = [{"role": "system", "content": system}] if system else []
    return messages + [{"role": "user", "content": turn} for turn in ask.turns]


def request_body(entrant: Entrant, messages: Sequence[dict[str, str]]) -> bytes:
    """Return the JSON body of a request, with the entrant's settings passed on as they are."""
    return orjson.dumps({"model": entrant.model, "messages": list(messages), **entrant.settings})


def read_response(status: int, body: bytes) -> Received:
    """Return what a service's response means; a response that is no reply is `failed` with its cause."""
    if status != 200:
        return Received(Outcome.FAILED, cause=_http_cause(status, body))
    try:
        content = orjson.loads(body)
        choice = content["choices"][0]
        message = choice["message"]
        text = message.get("content")
    except (orjson.JSONDecodeError, KeyError, IndexError, TypeError, AttributeError):
        return Received(Outcome.FAILED, cause=f"the service's answer is not a chat completion: {_start_of(body)}")
    if isinstance(text, list):
        text = "".join(str(part.get("text", "")) for part in text if isinstance(part, dict))
    usage = content.get("usage") if isinstance(content.get("usage"), dict) else {}
    reasoning = message.get("reasoning_content") or message.get("reasoning")
    received = Received(
        outcome=Outcome.ANSWERED,
        text=text if isinstance(text, str) else "",
        reasoning=reasoning if isinstance(reasoning, str) else None,
        finish=_text_or_none(choice.get("finish_reason")),
        input_tokens=_count(usage.get("prompt_tokens")),
        output_tokens=_count(usage.get("completion_tokens")),
        served_model=_text_or_none(content.get("model")),
    )
    return with_outcome(received, bool(message.get("refusal")))


def with_outcome(received: Received, says_refusal: bool = False) -> Received:
    """Return the reply with the outcome that its finish and text are evidence for."""
    outcome, cause = Outcome.ANSWERED, None
    if received.finish == "content_filter":
        outcome, cause = Outcome.BLOCKED, "the service's filter"
    elif received.finish == "length":
        outcome, cause = Outcome.CUT_OFF, "the token cap"
    elif says_refusal or is_refusal(received.text):
        outcome, cause = Outcome.REFUSED, "the reply declines to answer"
    return replace(received, outcome=outcome, cause=cause)


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
        content: Any = orjson.loads(body)
    except orjson.JSONDecodeError:
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
    return value if isinstance(value, int) and not isinstance(value, bool) and value >= 0 else None


def _text_or_none(value: Any) -> str | None:
    return value if isinstance(value, str) else None
