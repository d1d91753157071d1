"""Streaming, trying again, pace, trials, plans and budgets."""

from __future__ import annotations

import asyncio
import json
from base64 import b64encode
from datetime import UTC, datetime, timedelta
from email.utils import format_datetime

import orjson
import pytest
from aiohttp import web
from hypothesis import given
from hypothesis import strategies as st

from conftest import Place, arithmetic_suite, completion
from dryquarry.asking.budget import Purse
from dryquarry.asking.entrants import Limits
from dryquarry.asking.pacing import Pace
from dryquarry.asking.protocol import read_response, split_thinking
from dryquarry.asking.retrying import FIRST_DELAY_S, LONGEST_DELAY_S, backoff_s, is_transient, retry_after_s
from dryquarry.asking.streams import event_data, holds_token, read_stream
from dryquarry.asking.transport import Response
from dryquarry.marking.outcomes import Outcome


def event(content: object) -> bytes:
    return b"data: " + (content.encode() if isinstance(content, str) else orjson.dumps(content)) + b"\n\n"


def delta(**fields: object) -> bytes:
    return event({"choices": [{"index": 0, "delta": fields, "finish_reason": None}], "model": "m-2"})


FINISH = event({"choices": [{"index": 0, "delta": {}, "finish_reason": "stop"}]})
USAGE = event({"choices": [], "usage": {"prompt_tokens": 7, "completion_tokens": 3}})
DONE = event("[DONE]")
HELLO = delta(role="assistant", content="") + delta(content="Ans") + delta(content="wer: 4")


def outcome_of(body: bytes, **more: object):
    return read_response(Response(200, body, streamed=True, **more))  # type: ignore[arg-type]


def test_a_stream_gives_text_reasoning_usage_and_the_served_model() -> None:
    got = outcome_of(delta(reasoning_content="two and ") + delta(reasoning="two") + HELLO + FINISH + USAGE + DONE)
    assert (got.outcome, got.text, got.reasoning, got.finish) == (Outcome.ANSWERED, "Answer: 4", "two and two", "stop")
    assert (got.input_tokens, got.output_tokens, got.tokens_estimated, got.served_model) == (7, 3, False, "m-2")


ENDINGS = [
    (HELLO + FINISH, {}, Outcome.ANSWERED, None),
    (HELLO + DONE, {}, Outcome.ANSWERED, None),
    (HELLO + FINISH.replace(b"stop", b"length"), {}, Outcome.CUT_OFF, "token cap"),
    (HELLO + FINISH.replace(b"stop", b"content_filter"), {}, Outcome.BLOCKED, "filter"),
    (HELLO, {}, Outcome.FAILED, "without its end marker"),
    (HELLO, {"broken": "the stream broke: reset"}, Outcome.FAILED, "the stream broke: reset"),
    (HELLO, {"broken": "no byte for 3 s", "timed_out": True}, Outcome.TIMED_OUT, "no byte for 3 s"),
    (HELLO + FINISH, {"broken": "the stream broke: reset"}, Outcome.ANSWERED, None),
    (HELLO + event("{oops"), {}, Outcome.FAILED, "not readable as JSON"),
    (HELLO + event({"error": {"message": "overloaded"}}), {}, Outcome.FAILED, "overloaded"),
    (b"", {}, Outcome.FAILED, "without its end marker"),
    (DONE, {}, Outcome.ANSWERED, None),
]


@pytest.mark.parametrize(("body", "more", "outcome", "cause"), ENDINGS)
def test_how_a_stream_ended_is_told_by_evidence_and_its_text_is_kept(
    body: bytes, more: dict, outcome: Outcome, cause: str | None
) -> None:
    got = outcome_of(body, **more)
    assert got.outcome is outcome
    assert (got.cause is None) if cause is None else cause in (got.cause or "")
    assert got.text == ("Answer: 4" if HELLO in body else "")


@pytest.mark.parametrize("line_end", [b"\n", b"\r\n", b"\r"])
def test_events_are_read_as_the_standard_has_them(line_end: bytes) -> None:
    body = b"\n".join(
        [b": a comment", b"event: x", b"data: one", b"data:two", b"id: 3", b"", b"retry: 5", b"", b"data: {}", b"", b""]
    )
    assert event_data(body.replace(b"\n", line_end)) == [b"one\ntwo", b"{}"]


@given(
    st.lists(
        st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\r\n"), max_size=20),
        min_size=1,
        max_size=5,
    ),
    st.booleans(),
)
def test_events_are_the_same_whether_or_not_other_lines_stand_between_them(data: list[str], space: bool) -> None:
    sign = "data: " if space else "data:"
    plain = "".join(f"{sign}{one}\n\n" for one in data).encode()
    mixed = "".join(f": a comment\nevent: x\n{sign}{one}\nid: 7\n\n" for one in data).encode()
    assert event_data(plain) == event_data(mixed)


@given(st.lists(st.text(st.characters(exclude_categories=["Cs"]), max_size=12), max_size=8))
def test_any_text_comes_through_in_pieces(pieces: list[str]) -> None:
    streamed = read_stream(b"".join(delta(content=piece) for piece in pieces) + DONE)
    assert streamed.text == "".join(pieces)
    assert streamed.done


@given(st.binary(max_size=200))
def test_no_bytes_break_the_reading_of_streams(body: bytes) -> None:
    assert isinstance(read_stream(body).text, str)


def test_the_first_token_is_text_and_not_the_role() -> None:
    assert not holds_token(delta(role="assistant", content=""))
    assert holds_token(delta(content="A"))
    assert holds_token(delta(reasoning_content="Hm"))


@pytest.mark.parametrize(
    ("text", "thought", "rest"),
    [
        ("<think>two\nand two</think>\n\nAnswer: 4", "two\nand two", "Answer: 4"),
        ("  <thinking>x</thinking>4", "x", "4"),
        ("<think>never closed, Answer: 5", "never closed, Answer: 5", ""),
        ("Answer: 4 <think>x</think>", "", "Answer: 4 <think>x</think>"),
    ],
)
def test_thinking_at_the_start_is_kept_apart(text: str, thought: str, rest: str) -> None:
    assert split_thinking(text) == (thought, rest)


NOW = datetime(2026, 11, 23, 8, 0, 0, tzinfo=UTC)


@pytest.mark.parametrize(
    ("value", "seconds"),
    [("3", 3.0), ("0.5", 0.5), ("-1", 0.0), (format_datetime(NOW + timedelta(seconds=90), usegmt=True), 90.0),
     (format_datetime(NOW - timedelta(seconds=90), usegmt=True), 0.0), ("99999", 600.0), ("soon", None), ("", None),
     (None, None), ("nan", None)],
)  # fmt: skip
def test_retry_after_is_read_in_both_its_forms(value: str | None, seconds: float | None) -> None:
    assert retry_after_s(value, NOW) == seconds


@given(st.integers(1, 60), st.floats(0, 1))
def test_waits_grow_with_jitter_and_stay_in_bounds(tries: int, share: float) -> None:
    wait = backoff_s(tries, None, lambda low, high: low + share * (high - low))
    assert FIRST_DELAY_S / 2 <= wait <= LONGEST_DELAY_S
    assert backoff_s(tries, 7.0, lambda low, high: high) >= 7.0


def test_what_may_pass_is_tried_again_and_nothing_else() -> None:
    assert [status for status in range(200, 600) if is_transient(status)] == [408, 409, 429, *range(500, 600)]


def test_the_window_halves_once_for_each_sign_of_throttling_and_recovers() -> None:
    async def run() -> list[float]:
        now = 100.0
        pace = Pace(Limits(in_flight=16), clock=lambda: now)
        seen = [pace.window]
        for _ in range(3):
            pace.throttled(0.0)
            pace.throttled(0.0)  # the same sign, by another request in flight
            seen.append(pace.window)
            now += 1.0
        for _ in range(400):
            pace.went_well(10)
        return [*seen, pace.window]

    assert asyncio.run(run()) == [16.0, 8.0, 4.0, 2.0, 16.0]


def test_tokens_a_minute_hold_the_next_start_back() -> None:
    async def run() -> float:
        pace = Pace(Limits(in_flight=2, tokens_per_minute=6000))
        loop = asyncio.get_running_loop()
        started = loop.time()
        for _ in range(3):
            await pace.enter()
            pace.went_well(10)
            pace.leave()
        return loop.time() - started

    assert asyncio.run(run()) >= 0.19  # 10 tokens take 0.1 s at 6,000 a minute


def test_a_purse_is_never_passed_and_waits_for_what_is_in_flight() -> None:
    async def run() -> tuple[float, int]:
        purse, granted = Purse(1.0), 0

        async def ask() -> None:
            nonlocal granted
            while await purse.take(0.3):
                granted += 1
                await asyncio.sleep(0.001)
                purse.settle(0.3, 0.1)

        await asyncio.gather(*(ask() for _ in range(5)))
        return purse.spent, granted

    spent, granted = asyncio.run(run())
    assert spent <= 1.0 + 1e-9
    assert granted == 8  # after 0.8 is spent, another 0.3 could pass 1.0


# Through the program.


def test_a_throttled_service_is_asked_again_until_it_answers(place: Place, service) -> None:
    asked: dict[str, int] = {}

    def answer(content: dict) -> tuple[int, bytes]:
        question = content["messages"][-1]["content"]
        asked[question] = asked.get(question, 0) + 1
        return (200, completion("Answer: 1")) if asked[question] > 2 else (429, b"")

    one = service(answer)
    place.entrant("knot", one.url, "limits = {in_flight = 2}")
    place.suite("sums", arithmetic_suite(3))
    done = place.run("run", "sums", "--format", "json")
    assert done.exit_code == 0, done.stderr
    (sitting,) = json.loads(done.stdout)["sittings"]
    assert (sitting["received"], sitting["failed"], sitting["tried_again"]) == (3, 0, 6)
    assert set(asked.values()) == {3}


def test_trials_are_replies_of_their_own_and_later_ones_add_to_those_held(place: Place, service) -> None:
    replies = iter(["Answer: 1", "Answer: 2", "Answer: 1", "Answer: 1"] * 3)
    one = service(lambda content: (200, completion(next(replies))))
    place.entrant("knot", one.url, "limits = {in_flight = 1}")
    place.suite("sums", arithmetic_suite(2))
    assert "0 held, 4 to ask" in place.run("run", "sums", "--trials", "2").stderr
    assert "4 held, 2 to ask" in place.run("run", "sums", "--trials", "3").stderr
    assert "2 held, 0 to ask" in place.run("run", "sums").stderr
    (row,) = place.json("board", "sums")["rows"]  # type: ignore[index]
    assert (row["trials"], row["asked"], row["marked"], len(one.requests)) == (3, 6, 6, 6)
    assert {reply["trial"] for reply in place.json("replies", "sums")} == {1, 2, 3}  # type: ignore[union-attr]


def test_a_plan_asks_nothing_and_estimates_from_earlier_replies(place: Place, service) -> None:
    one = service(lambda content: (200, completion("Answer: 1")))
    place.entrant("knot", one.url, "price = {input = 1.0, output = 2.0}")
    place.suite("sums", arithmetic_suite(4))
    (before,) = place.json("run", "sums", "--plan")["sittings"]  # type: ignore[index]
    assert (before["held"], before["to_ask"], before["from_replies"], one.requests) == (0, 4, 0, [])
    place.run("run", "sums")
    (after,) = place.json("run", "sums", "--plan", "--trials", "3")["sittings"]  # type: ignore[index]
    assert (after["held"], after["to_ask"], after["from_replies"], after["output_tokens"]) == (4, 8, 4, 40)
    assert after["cost"] == pytest.approx((after["input_tokens"] + 2 * 40) / 1e6)
    assert "a guess" not in place.run("run", "sums", "--plan", "--trials", "3").stdout


def test_a_budget_stops_before_it_is_passed_and_the_rest_can_follow(place: Place, service) -> None:
    one = service(lambda content: (200, completion("Answer: 1")))
    place.entrant("knot", one.url, "price = {input = 0.0, output = 1000000.0}\nsettings = {max_tokens = 10}")
    place.suite("sums", arithmetic_suite(20))
    stopped = place.run("run", "sums", "--budget", "32", "--format", "json")
    assert stopped.exit_code == 4
    assert "the budget left no room" in stopped.stderr
    (sitting,) = json.loads(stopped.stdout)["sittings"]
    assert 20 <= sitting["cost"] <= 32  # 5 a reply, 10 at most
    held = sitting["received"]
    assert f"{held} held, {20 - held} to ask" in place.run("run", "sums").stderr
    assert len(one.requests) == 20
    place.entrant("free", one.url)
    refused = place.run("run", "sums", "-e", "free", "--budget", "1")
    assert (refused.exit_code, "has no price" in refused.stderr) == (2, True)


def streaming_service(place: Place, parts: list[bytes], pause_s: float, *, abort: bool = False):
    """A service that sends parts of a stream with pauses, in this process's loop, and what a run shows of it."""

    async def handle(request: web.Request) -> web.StreamResponse:
        response = web.StreamResponse(headers={"Content-Type": "text/event-stream"})
        await response.prepare(request)
        for part in parts:
            await response.write(part)
            await asyncio.sleep(pause_s)
        if abort and request.transport is not None:
            request.transport.abort()
        return response

    return handle


@pytest.mark.parametrize(
    ("parts", "pause_s", "abort", "outcome"),
    [
        ([HELLO, FINISH + DONE], 0.05, False, "answered"),
        ([HELLO], 0.05, True, "failed"),
        ([HELLO], 3.0, False, "timed-out"),
    ],
)
def test_streams_over_a_real_socket(
    place: Place, parts: list[bytes], pause_s: float, abort: bool, outcome: str
) -> None:
    async def serve() -> tuple[web.AppRunner, str]:
        application = web.Application()
        application.router.add_post("/v1/chat/completions", streaming_service(place, parts, pause_s, abort=abort))
        runner = web.AppRunner(application, shutdown_timeout=0.1)
        await runner.setup()
        await web.TCPSite(runner, "127.0.0.1", 0).start()
        return runner, f"http://127.0.0.1:{runner.addresses[0][1]}/v1"

    async def run() -> None:
        runner, url = await serve()
        place.entrant("knot", url, "limits = {retries = 0, idle_timeout_s = 1.0}")
        await asyncio.to_thread(place.program, "run", "sums")
        await runner.cleanup()

    place.suite("sums", arithmetic_suite(1))
    asyncio.run(run())
    (reply,) = place.json("replies", "sums")  # type: ignore[misc]
    assert (reply["outcome"], reply["text"]) == (outcome, "Answer: 4")
    if outcome == "answered":
        assert 0 < reply["first_token_s"] < reply["seconds"]
        assert reply["seconds"] >= 0.05


TURNS = """\
title: Talk
ask: {answer_line: "Answer:", system: Be kind.}
mark: {scheme: exact}
questions:
  - {id: talk, ask: [Remember the word fog., Which word was it?], key: fog}
  - {id: look, ask: What is on it?, key: tide, files: [files/map.png, files/notes.md]}
"""


def test_turns_are_sent_one_after_the_reply_to_the_other(place: Place, service) -> None:
    def answer(content: dict) -> tuple[int, bytes]:
        asked = content["messages"][-1]["content"]
        return 200, completion("I will." if "Remember" in str(asked) else "Answer: fog")

    one = service(answer)
    place.entrant("knot", one.url, "limits = {in_flight = 1}")
    place.suite("talk", TURNS.split("  - {id: look")[0])
    assert place.run("run", "talk").exit_code == 0
    assert [[message["role"] for message in request["messages"]] for request in one.requests] == [
        ["system", "user"], ["system", "user", "assistant", "user"]
    ]  # fmt: skip
    assert one.requests[1]["messages"][2]["content"] == "I will."
    assert "Answer:" in one.requests[1]["messages"][3]["content"]
    assert "Answer:" not in one.requests[1]["messages"][1]["content"]
    (reply,) = place.json("replies", "talk")  # type: ignore[misc]
    assert (reply["verdict"], reply["text"], reply["output_tokens"]) == ("pass", "Answer: fog", 10)


def test_a_turn_that_fails_ends_the_question(place: Place, service) -> None:
    one = service(lambda content: (200, completion("half a", "length")))
    place.entrant("knot", one.url, "limits = {in_flight = 1}")
    place.suite("talk", TURNS.split("  - {id: look")[0])
    place.run("run", "talk")
    assert len(one.requests) == 1
    assert place.json("board", "talk")["rows"][0]["outcomes"] == {"cut-off": 1}  # type: ignore[index]


def test_images_go_as_base64_parts_and_documents_before_the_question(place: Place, service) -> None:
    one = service(lambda content: (200, completion("Answer: tide")))
    place.entrant("knot", one.url, "limits = {in_flight = 1}")
    path = place.suite("talk", TURNS.split("  - {id: talk")[0] + "  - {id: look" + TURNS.split("  - {id: look")[1])
    (path.parent / "files").mkdir()
    (path.parent / "files" / "map.png").write_bytes(b"\x89PNG tiny")
    (path.parent / "files" / "notes.md").write_text("High water at noon.\n")
    assert place.run("suite", "seal", "talk", "--note", "first").exit_code == 0
    assert place.run("run", "talk").exit_code == 0
    image, text = one.requests[0]["messages"][-1]["content"]
    assert image["image_url"]["url"] == "data:image/png;base64," + b64encode(b"\x89PNG tiny").decode()
    assert text["text"].startswith(
        "[begin of document files/notes.md]\nHigh water at noon.\n[end of document files/notes.md]\n\nWhat is on it?"
    )
    (path.parent / "files" / "notes.md").write_text("Low water at noon.\n")
    changed = place.run("run", "talk", "--fresh")
    assert (changed.exit_code, "has changed since the edition was sealed" in changed.stderr) == (4, True)
