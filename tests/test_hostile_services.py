"""What a service sends cannot end a run, fill the memory, or bring a secret into the ledger or onto the screen."""

from __future__ import annotations

import base64
import gzip
import json
from collections.abc import Callable, Iterator
from urllib.parse import quote

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import Place, Service, arithmetic_suite, completion
from dryquarry.asking.door import HIDDEN, whole_text, without_secrets
from dryquarry.asking.retrying import retry_after_s

SECRET = "sk-tide/+key 7Ä9"


def body(**parts: object) -> bytes:
    """A completion written by hand, for what orjson would not write."""
    message = {"role": "assistant", "content": "Answer: 1", **parts}
    return json.dumps({"choices": [{"message": message, "finish_reason": "stop"}], "model": "m"}).encode()


BAD = [
    body(content='{"answer": "\\ud83d"}'),
    b'{"choices": [{"message": {"content": "Answer: \\ud83d 1"}, "finish_reason": "stop"}]}',
    b'{"choices": [{"message": {"content": "Answer: 1"}, "finish_reason": "\\ud800"}], "model": "\\udfff"}',
    b'{"choices": [{"message": {"content": "Answer: 1"}}], "usage": {"completion_tokens": 9223372036854775808}}',
    b'{"choices": [{"message": {"content": "Answer: 1"}}], "usage": {"completion_tokens": 1e400}}',
    b'{"choices": [{"message": {"content": "Answer: \\u0000 1"}}]}',
    b'{"choices": [{"message": {"content": ' + b"[" * 5000 + b"]" * 5000 + b"}}]}",
    b"\xff\xfe\x00",
]


@pytest.mark.parametrize("number", range(len(BAD)))
def test_one_bad_reply_leaves_all_others(place: Place, service: Callable[..., Service], number: int) -> None:
    place.suite("sums", arithmetic_suite(4))
    bad = service(lambda content: (200, BAD[number] if "What is 1" in str(content) else completion("Answer: 1")))
    good = service(lambda content: (200, completion("Answer: 1")))
    place.entrant("bad", bad.url, "stream = false\nlimits = {retries = 0}")
    place.entrant("good", good.url, "stream = false\nlimits = {retries = 0}")
    for _ in range(2):
        assert place.run("run", "sums").exit_code in (0, 4)
    rows = {row["entrant"]: row for row in place.json("board", "sums")["rows"]}  # type: ignore[index]
    assert rows["good"]["marked"] == 4
    assert rows["bad"]["marked"] in (3, 4)
    for form in ("table", "json", "csv", "markdown"):
        assert place.run("replies", "sums", "--format", form).exit_code == 0
    assert "the ledger is whole" in place.run("ledger", "check").stdout


@given(st.text(max_size=40))
def test_any_text_comes_in_whole(text: str) -> None:
    whole_text(text).encode("utf-8")
    assert whole_text("\ud83d\ude00") == "😀"
    assert whole_text("a\ud83d") == "a\\ud83d"


@pytest.mark.parametrize(
    "value", ["Wed, 21 Oct 2026 07:28:00 +99999999999999", "Wed, 99 Oct 2026", "9" * 400, "nan", "-5"]
)
def test_no_retry_after_breaks_the_run(value: str) -> None:
    from datetime import UTC, datetime

    waited = retry_after_s(value, datetime(2026, 1, 1, tzinfo=UTC))
    assert waited is None or 0 <= waited <= 600


JUDGED = [
    '{"criteria": [{"id": "warm", "points": 0, "why": "\\ud83d"}]}',
    '{"criteria": [{"id": "\\ud83d", "points": 1}]}',
    '{"criteria": [{"id": "warm", "points": 1' + "0" * 400 + "}]}",
    '{"criteria": [{"id": "warm", "points": 1e999}]}',
    '{"criteria": [{"id": "warm", "points": 0}]} for it said {"criteria": [{"id": "warm", "points": 1}]}',
    '{"criteria": ' * 50_000,
    "{" * 100_000,
]


@pytest.mark.parametrize("number", range(len(JUDGED)))
def test_no_verdict_ends_the_run_or_wins_by_a_quotation(
    place: Place, service: Callable[..., Service], number: int
) -> None:
    one = service(lambda content: (200, completion(JUDGED[number] if content["model"] == "j" else "Dear visitor")))
    rubric = "rubrics: {kind: {criteria: [{id: warm, asks: Warm?}]}}\nmark: {scheme: rubric, rubric: kind}\n"
    place.suite("letters", "title: l\n" + rubric + "questions: [{id: dear, ask: Write.}]\n")
    place.entrant("wick", one.url)
    path = place.root / "entrants.toml"
    path.write_text(path.read_text() + f'[judge.fair]\nendpoint = "{one.url}"\nmodel = "j"\n')
    assert place.run("run", "letters").exit_code == 0
    (reply,) = place.json("replies", "letters")  # type: ignore[misc]
    assert reply["verdict"] == ("fail" if number == 0 else "open")
    assert place.run("replies", "letters").exit_code == 0


def echoes() -> Iterator[str]:
    yield SECRET
    yield quote(SECRET, safe="")
    yield json.dumps(SECRET)
    for start in range(3):
        yield base64.b64encode(b"x" * start + SECRET.encode()).decode()
        yield base64.b64encode(b"x" * start + SECRET.encode() + b"yz").decode()


@pytest.mark.parametrize("echo", list(echoes()))
def test_no_form_of_a_key_gets_in(echo: str) -> None:
    told = without_secrets(f"Bearer {echo}, and {echo}", [SECRET])
    assert HIDDEN in told
    for form in (
        SECRET,
        quote(SECRET, safe=""),
        json.dumps(SECRET)[1:-1],
        base64.b64encode(SECRET.encode()).decode()[:-4],
    ):
        assert form not in told


def test_a_key_that_a_service_echoes_is_nowhere(
    place: Place, service: Callable[..., Service], monkeypatch: pytest.MonkeyPatch
) -> None:
    key = "sk-tide-key-79"
    monkeypatch.setenv("TIDE_KEY", key)
    place.suite("sums", arithmetic_suite(3))
    answers = iter(
        [
            (200, completion(f"Answer: 1, by {key}", model=f"m {key}", system_fingerprint=key)),
            (401, json.dumps({"error": {"message": f"bad key {key}"}}).encode()),
            (200, f"<html>{base64.b64encode(key.encode()).decode()}</html>".encode()),
        ]
    )
    place.entrant(
        "wick", service(lambda content: next(answers, (500, key.encode()))).url,
        'key_env = "TIDE_KEY"\nstream = false\nlimits = {retries = 0, in_flight = 1}',
    )  # fmt: skip
    said = [place.run("run", "sums").output, place.run("replies", "sums").output, place.run("entrant", "ping").output]
    said.append(place.run("entrant", "show", "wick").output)
    stored = b"".join(path.read_bytes() for path in place.root.rglob("*") if path.is_file())
    for form in (key, base64.b64encode(key.encode()).decode()[:-4]):
        assert form not in "".join(said)
        assert form.encode() not in stored
    assert HIDDEN in "".join(said)


@pytest.mark.parametrize("streamed", [True, False])
def test_a_reply_has_a_largest_size(place: Place, streamed: bool) -> None:
    from test_kept_connections import Closing, listening

    class Endless(Closing):
        def answer(self) -> bytes:
            if not self.streamed:
                packed = gzip.compress(b'{"choices": "' + b"a" * 30_000_000 + b'"}')
                head = b"HTTP/1.1 200 OK\r\nContent-Type: application/json\r\nContent-Encoding: gzip\r\n"
                return head + b"Content-Length: %d\r\n\r\n" % len(packed) + packed
            chunk = b'data: {"choices": [{"delta": {"content": "' + b"word " * 2000 + b'"}}]}\n\n'
            head = b"HTTP/1.1 200 OK\r\nContent-Type: text/event-stream\r\n\r\n"
            return head + chunk * 300

    place.suite("sums", arithmetic_suite(1))
    with listening(Endless(kept_s=0.0, streamed=streamed)) as url:
        place.entrant("wick", url, f"stream = {str(streamed).lower()}\nlimits = {{retries = 2, most_mb = 1}}")
        ran = place.run("run", "sums", "--format", "json")
    (reply,) = place.json("replies", "sums")  # type: ignore[misc]
    assert reply["outcome"] == ("cut-off" if streamed else "failed")
    assert (len(reply["text"]) > 500_000) is streamed
    assert ran.exit_code == (0 if streamed else 4)
    assert "larger than 1 MB" in place.run("replies", "sums").stdout
    assert json.loads(ran.stdout)["sittings"][0]["tried_again"] == 0
