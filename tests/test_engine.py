"""The run engine against a scripted transport, and what responses mean."""

from __future__ import annotations

import asyncio
from collections.abc import Mapping, Sequence

import orjson
import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import completion
from dryquarry.asking.calling import Stop
from dryquarry.asking.engine import FAILURES_TO_GIVE_UP, Asked, Setting, Wanted, ask_entrant
from dryquarry.asking.entrants import Entrant, Limits, read_entrants
from dryquarry.asking.protocol import messages_for, read_response, request_body
from dryquarry.asking.transport import NoResponse, Response, headers_for
from dryquarry.errors import FaultyFiles, FileFault, UsageFault
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.received import Reply
from dryquarry.suites.ask import Ask


class Scripted:
    """A transport that answers as a function says, and counts how many posts are open at once."""

    def __init__(self, answer, delay_s: float = 0.0):
        self.answer, self.delay_s = answer, delay_s
        self.posts = self.open = self.most_open = 0

    async def post(self, url: str, headers: Mapping[str, str], body: bytes, limits: Limits) -> Response:
        self.posts += 1
        self.open += 1
        self.most_open = max(self.most_open, self.open)
        try:
            await asyncio.sleep(self.delay_s)
            return self.answer(orjson.loads(body))
        finally:
            self.open -= 1


ENTRANT = Entrant("knot", "Knot", "knot-1", "http://x/v1", limits=Limits(in_flight=4, retries=0))


def wanted(count: int) -> list[Wanted]:
    return [Wanted(Ask(None, (f"question {n}",)), n) for n in range(count)]


def ask(transport: Scripted, count: int, entrant: Entrant = ENTRANT, stop: Stop | None = None, on_received=None):
    stored: list[Reply] = []
    asked = started(transport, count, stored, entrant, stop, on_received)
    return asyncio.run(asked), stored


def started(transport, count: int, stored: list[Reply], entrant: Entrant = ENTRANT, stop=None, on_received=None):
    """The asking of `count` questions, which puts replies into `stored`."""
    setting = Setting("http://x/v1", transport, stop or Stop())
    record = lambda arrived: stored.extend(reply for _, reply in arrived)  # noqa: E731
    return ask_entrant(entrant, wanted(count), count, setting, record, on_received or (lambda asked: None))


def ok(body: dict) -> Response:
    return Response(200, completion(f"Answer: {body['messages'][-1]['content']}"))


def test_every_question_gets_one_reply_and_in_flight_is_bounded() -> None:
    transport = Scripted(ok, 0.001)
    asked, stored = ask(transport, 100)
    assert sorted(reply.ask_id for reply in stored) == [one.ask_id for one in wanted(100)]
    assert (asked.received, asked.failed, transport.posts, transport.most_open) == (100, 0, 100, 4)
    assert all(reply.received.text.endswith(str(reply.ask_id)) for reply in stored)


def test_a_reply_is_reported_only_once_it_is_stored() -> None:
    stored: list[Reply] = []

    def on_received(asked: Asked) -> None:
        assert asked.received <= len(stored)

    asyncio.run(started(Scripted(ok), 50, stored, on_received=on_received))
    assert len(stored) == 50


def test_a_service_that_is_down_is_left_alone() -> None:
    def down(body: dict) -> Response:
        raise NoResponse("cannot connect")

    transport = Scripted(down)
    asked, stored = ask(transport, 500)
    assert FAILURES_TO_GIVE_UP <= transport.posts <= FAILURES_TO_GIVE_UP + ENTRANT.limits.in_flight
    assert asked.gave_up is not None
    assert "cannot connect" in asked.gave_up
    assert asked.failed == len(stored) == transport.posts


def test_a_failure_now_and_then_stops_nothing_and_is_told_by_its_cause() -> None:
    def sometimes(body: dict) -> Response:
        number = int(body["messages"][-1]["content"].split()[1])
        if number % 5 == 0:
            return Response(500, b'{"error": {"message": "low tide"}}')
        if number % 7 == 0:
            raise NoResponse("no complete reply within 1 s", timed_out=True)
        return ok(body)

    asked, stored = ask(Scripted(sometimes), 70)
    outcomes = [str(reply.received.outcome) for reply in stored]
    assert (outcomes.count("failed"), outcomes.count("timed-out"), outcomes.count("answered")) == (14, 8, 48)
    assert asked.causes == {"HTTP 500: the service reports an error (low tide)": 14}
    assert asked.gave_up is None


def test_a_stop_starts_nothing_new_and_waits_for_what_is_in_flight() -> None:
    stop = Stop()

    def answer(body: dict) -> Response:
        if not stop.asked:  # a second stop would not wait
            stop.ask()
        return ok(body)

    transport = Scripted(answer, 0.01)
    asked, stored = ask(transport, 100, stop=stop)
    assert transport.posts == len(stored) == asked.received <= 2 * ENTRANT.limits.in_flight


def test_a_second_stop_does_not_wait() -> None:
    stop = Stop()

    async def stop_twice() -> None:
        await asyncio.sleep(0.05)
        stop.ask()
        stop.ask()

    async def both() -> Asked:
        asking = started(Scripted(ok, 30), 9, [], stop=stop)
        asked, _ = await asyncio.gather(asking, stop_twice())
        return asked

    assert asyncio.run(asyncio.wait_for(both(), 3)).received == 0


def test_a_ledger_that_cannot_store_ends_the_run() -> None:
    def full(replies: Sequence[Reply]) -> None:
        raise FileFault("the disk is full")

    with pytest.raises(FileFault, match="full"):
        asyncio.run(ask_entrant(ENTRANT, wanted(5000), 5000, Setting("http://x", Scripted(ok), Stop()), full))


def test_requests_keep_the_pace_of_the_limit() -> None:
    started = []

    def answer(body: dict) -> Response:
        started.append(asyncio.get_running_loop().time())
        return ok(body)

    ask(Scripted(answer), 5, Entrant("k", "K", "m", "http://x", limits=Limits(in_flight=4, per_minute=1200)))
    assert started[-1] - started[0] >= 4 * 0.05 * 0.9


@pytest.mark.parametrize(
    ("status", "body", "outcome", "cause"),
    [
        (200, completion("Answer: 4"), Outcome.ANSWERED, None),
        (200, completion(""), Outcome.ANSWERED, None),
        (200, completion(None), Outcome.ANSWERED, None),
        (200, completion("half a", "length"), Outcome.CUT_OFF, "the token cap"),
        (200, completion("", "content_filter"), Outcome.BLOCKED, "filter"),
        (200, completion("I'm sorry, but I can't help with that."), Outcome.ANSWERED, None),
        (200, b"<!DOCTYPE html><html>Welcome</html>", Outcome.FAILED, "a web page in HTML"),
        (200, b"", Outcome.FAILED, "an empty body"),
        (200, b'{"choices": []}', Outcome.FAILED, "not a chat completion"),
        (200, b'{"choices": [{"message": null}]}', Outcome.FAILED, "not a chat completion"),
        (200, b"[1, 2]", Outcome.FAILED, "not a chat completion"),
        (
            401,
            b'{"error": {"message": "who are you"}}',
            Outcome.FAILED,
            "HTTP 401: the service refused the key",
        ),
        (404, b'{"error": "no such model"}', Outcome.FAILED, "no such model or address (no such model)"),
        (429, b"", Outcome.FAILED, "slow down"),
        (500, b"\xff\xfe", Outcome.FAILED, "HTTP 500: the service reports an error"),
    ],
)
def test_what_a_response_means(status: int, body: bytes, outcome: Outcome, cause: str | None) -> None:
    got = read_response(Response(status, body))
    assert got.outcome is outcome
    assert (got.cause is None) if cause is None else (cause in (got.cause or "")), got.cause


@given(st.integers(100, 599), st.binary(max_size=100))
def test_no_response_breaks_the_protocol(status: int, body: bytes) -> None:
    assert read_response(Response(status, body)).outcome is Outcome.FAILED


def test_usage_reasoning_and_the_served_model_are_kept() -> None:
    message = {"content": [{"type": "text", "text": "4"}], "reasoning_content": "two and two"}
    body = {
        "choices": [{"message": message, "finish_reason": "stop"}],
        "model": "x-2",
        "usage": {"prompt_tokens": 7},
    }
    got = read_response(Response(200, orjson.dumps(body)))
    assert (got.text, got.reasoning, got.served_model) == ("4", "two and two", "x-2")
    assert (got.input_tokens, got.output_tokens, got.tokens_estimated) == (7, 3, True)  # 12 characters


def test_a_request_joins_system_texts_and_passes_settings_on() -> None:
    entrant = Entrant("k", "K", "m-1", system="Think.", settings={"temperature": 0.5, "top_k": 3})
    content = orjson.loads(request_body(entrant, messages_for(entrant, Ask("Be brief.", ("What?",)))[0]))
    assert content == {
        "model": "m-1",
        "messages": [
            {"role": "system", "content": "Think.\n\nBe brief."},
            {"role": "user", "content": "What?"},
        ],
        "stream": True,
        "stream_options": {"include_usage": True},
        "temperature": 0.5,
        "top_k": 3,
    }
    assert messages_for(Entrant("k", "K", "m"), Ask(None, ("What?",))) == [[{"role": "user", "content": "What?"}]]


def test_a_missing_key_is_told_by_the_name_of_its_variable(monkeypatch: pytest.MonkeyPatch) -> None:
    entrant = Entrant("k", "K", "m", key_env="KNOT_KEY")
    monkeypatch.delenv("KNOT_KEY", raising=False)
    with pytest.raises(UsageFault, match="KNOT_KEY, which is not set"):
        headers_for(entrant)
    monkeypatch.setenv("KNOT_KEY", "s3cret")
    assert headers_for(entrant)["Authorization"] == "Bearer s3cret"


ENTRANTS = """\
[entrant.knot]
title = "Knot"
endpoint = "http://h/v1/"
model = "knot-1"
key_env = "KNOT_KEY"
settings = {temperature = 0}
price = {input = 1.0, output = 2.0}
limits = {in_flight = 3}
"""


def digest_of(text: str) -> str:
    return read_entrants(text.encode(), "entrants.toml").entrants["knot"].digest


def test_the_entrant_digest_covers_what_changes_replies_and_nothing_else() -> None:
    base = digest_of(ENTRANTS)
    for old, new in [
        ('"Knot"', '"K"'),
        ("KNOT_KEY", "OTHER"),
        ("2.0", "3.0"),
        ("in_flight = 3", "in_flight = 9"),
    ]:
        assert digest_of(ENTRANTS.replace(old, new)) == base
    for old, new in [
        ("knot-1", "knot-2"),
        ("temperature = 0", "temperature = 1"),
        ("title", "system"),
        ("title", "build"),
    ]:
        assert digest_of(ENTRANTS.replace(old, new)) != base


@pytest.mark.parametrize(
    ("old", "new", "line", "words"),
    [
        ("title", "tilte", 2, "did you mean 'title'"),
        ("http://h/v1/", "h:80", 3, "neither a http(s) URL nor 'standin:'"),
        ('"KNOT_KEY"', '"sk-abc def"', 5, "NAME of an environment variable"),
        ("{temperature = 0}", "{model = 'x'}", 6, "'model' is set by the tool"),
        ("output = 2.0", "output = -2", 7, "wants 'output'"),
        ("in_flight = 3", "in_flight = 2.5", 8, "whole number"),
        ("in_flight = 3", "timeout = 3", 8, "did you mean 'timeout_s'"),
        ('model = "knot-1"\n', "", 1, "'model' is missing"),
        ("[entrant.knot]", "[entrants.knot]", 1, "did you mean 'entrant'"),
        ("[entrant.knot]", "[entrant.knot", 1, "not readable as TOML"),
    ],
)
def test_faults_of_entrants_name_their_line(old: str, new: str, line: int | None, words: str) -> None:
    with pytest.raises(FaultyFiles) as error:
        read_entrants(ENTRANTS.replace(old, new).encode(), "entrants.toml")
    assert words in str(error.value)
    assert error.value.faults[0].line == line
    assert "sk-abc" not in str(error.value)
