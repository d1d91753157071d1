"""Runs against services that misbehave, interruptions, and untrusted replies, through the real program."""

from __future__ import annotations

import json
import os
import signal
import sqlite3
import time
from pathlib import Path

import pytest

from conftest import Place, arithmetic_suite, completion

TWO = arithmetic_suite(2)


def test_a_changed_key_marks_stored_replies_again_and_asks_nothing(place: Place, service) -> None:
    one = service(lambda content: (200, completion("Answer: 1")))
    place.entrant("knot", one.url)
    place.suite("sums", TWO)
    assert place.run("run", "sums").exit_code == 0
    place.suite("sums", TWO.replace("key: 2}", "key: 1}"))
    board = place.run("board", "sums")
    assert "not marked under the present keys: 1 stored replies" in board.stderr
    again = place.run("run", "sums")
    assert "2 held, 0 to ask" in again.stderr
    assert len(one.requests) == 2
    assert place.json("board", "sums")["rows"][0]["passed"] == 2  # type: ignore[index]


def test_mark_marks_what_is_unmarked_without_a_service(place: Place, service) -> None:
    one = service(lambda content: (200, completion("Answer: 1")))
    place.entrant("knot", one.url)
    place.suite("sums", TWO)
    place.run("run", "sums")
    place.suite("sums", TWO.replace("key: 2}", "key: 1}"))
    assert "1 mark changed, 1 the same" in place.run("mark", "sums").stdout
    assert "0 marks changed, 2 the same" in place.run("mark", "sums").stdout


def test_a_reworded_question_alone_is_asked_again(place: Place, service) -> None:
    one = service(lambda content: (200, completion("Answer: 1")))
    place.entrant("knot", one.url)
    place.suite("sums", TWO)
    place.run("run", "sums")
    place.suite("sums", TWO.replace("What is 1 plus 1?", "How much is 1 plus 1?"))
    assert "1 held, 1 to ask" in place.run("run", "sums").stderr
    assert "How much is 1 plus 1?" in one.requests[-1]["messages"][-1]["content"]


def test_changed_settings_are_another_entrant_and_the_board_says_so(place: Place, service) -> None:
    one = service(lambda content: (200, completion("Answer: 1")))
    place.entrant("knot", one.url)
    place.suite("sums", TWO)
    place.run("run", "sums")
    place.entrants(f'[entrant.knot]\nendpoint = "{one.url}"\nmodel = "standin-knot"\nsettings = {{temperature = 1}}\n')
    board = place.run("board", "sums")
    assert "not shown: 2 replies of knot under other settings" in board.stderr
    assert "2 to ask" in place.run("run", "sums").stderr
    assert one.requests[-1]["temperature"] == 1


SERVICES = [
    (401, b'{"error": {"message": "bad key"}}', "HTTP 401: the service refused the key (bad key)"),
    (404, b'{"error": {"message": "no model"}}', "HTTP 404: the service knows no such model"),
    (200, b"<html>hello</html>", "a web page in HTML"),
    (500, b"oops", "HTTP 500: the service reports an error (oops)"),
]


@pytest.mark.parametrize(("status", "body", "cause"), SERVICES)
def test_a_failed_request_is_told_asked_again_and_never_wrong(
    place: Place, service, status: int, body: bytes, cause: str
) -> None:
    well = []
    one = service(lambda content: (200, completion("Answer: 1")) if well else (status, body))
    place.entrant("knot", one.url)
    place.suite("sums", TWO)
    done = place.run("run", "sums")
    assert done.exit_code == 4
    assert cause in done.stderr
    assert "2 replies could not be had" in done.stderr
    (row,) = place.json("board", "sums")["rows"]  # type: ignore[index]
    assert (row["score"], row["marked"], row["outcomes"]) == (None, 0, {"failed": 2})
    ping = place.run("entrant", "ping", "knot")
    assert ping.exit_code == 4
    assert cause in ping.stdout
    well.append(True)
    again = place.run("run", "sums")
    assert again.exit_code == 0
    assert "0 held, 2 to ask" in again.stderr
    assert place.json("board", "sums")["rows"][0]["outcomes"] == {"answered": 2}  # type: ignore[index]


def test_a_service_that_is_not_there_is_told_by_its_address(place: Place) -> None:
    place.entrant("knot", "http://127.0.0.1:9/v1")
    place.suite("sums", TWO)
    done = place.program("run", "sums")
    assert done.returncode == 4
    assert "cannot connect to http://127.0.0.1:9/v1/chat/completions" in done.stderr
    assert "Traceback" not in done.stderr


def test_a_reply_that_never_comes_is_timed_out_and_not_passed(place: Place, service) -> None:
    one = service(lambda content: None)
    place.entrant("knot", one.url, "limits = {timeout_s = 0.2}")
    place.suite("sums", TWO)
    assert place.run("run", "sums").exit_code == 0
    (row,) = place.json("board", "sums")["rows"]  # type: ignore[index]
    assert (row["score"], row["marked"], row["outcomes"]) == (0.0, 2, {"timed-out": 2})


@pytest.mark.parametrize("text", ["", None])
def test_an_empty_reply_is_an_answer_that_fails(place: Place, service, text: str | None) -> None:
    place.entrant("knot", service(lambda content: (200, completion(text))).url)
    place.suite("sums", TWO)
    assert place.run("run", "sums").exit_code == 0
    replies = place.json("replies", "sums")
    assert {(one["verdict"], one["reason"]) for one in replies} == {("fail", "the reply is empty")}  # type: ignore[union-attr]


LETTER = """\
title: Letters
mark: {scheme: rubric, rubric: letter}
rubrics:
  letter:
    criteria:
      - {id: fact, asks: It names the time., points: 2}
      - {id: kind, asks: It is kind.}
questions:
  - {id: bus, ask: When does the bus go?}
"""


@pytest.mark.parametrize(
    ("verdicts", "asked", "verdict"),
    [
        (['{"criteria": [{"id": "fact", "points": 2, "evidence": "18:40"}, {"id": "kind", "points": 0}]}'], 1, "pass"),
        (
            [
                "Well, it depends.",
                '{"criteria": [{"id": "fact", "points": 0}, {"id": "kind", "points": 1, "evidence": "18:40"}]}',
            ],
            2,
            "fail",
        ),
        (["Well, it depends.", "I would rather tell you a story about the sea."], 2, "open"),
    ],
)
def test_a_judge_that_rambles_is_asked_once_more_and_then_left(
    place: Place, service, verdicts: list[str], asked: int, verdict: str
) -> None:
    said = iter(verdicts)
    judge = service(lambda content: (200, completion(next(said))))
    place.entrants(f'[judge.heron]\nendpoint = "{judge.url}"\nmodel = "j"\n')
    place.entrant("knot", service(lambda content: (200, completion("At 18:40."))).url)
    place.suite("letters", LETTER)
    done = place.run("run", "letters")
    assert done.exit_code == 0, done.output
    (reply,) = place.json("replies", "letters")  # type: ignore[misc]
    assert (len(judge.requests), reply["verdict"]) == (asked, verdict)
    if verdict == "open":
        assert "1 mark open: what the judge said could not be read" in done.stderr
        assert "no JSON object" in reply["reason"]


def test_without_a_judge_rubric_marks_stay_open_and_an_unknown_one_is_told_first(place: Place, service) -> None:
    one = service(lambda content: (200, completion("At 18:40.")))
    place.entrant("knot", one.url)
    place.suite("letters", LETTER)
    done = place.run("run", "letters")
    assert done.exit_code == 0
    assert "1 mark open: no judge to ask" in done.stderr
    place.suite("letters", LETTER.replace("rubric: letter}", "rubric: letter, judge: hern}"))
    wrong = place.run("run", "letters")
    assert wrong.exit_code == 2
    assert "there is no judge 'hern'" in wrong.stderr


def test_the_key_reaches_the_service_and_no_file_or_output(place: Place, service) -> None:
    secret = "k3y-of-the-lamp-room"
    one = service(lambda content: (500, b'{"error": {"message": "no"}}'))
    place.entrant("knot", one.url, 'key_env = "DRYQUARRY_TEST_KEY"')
    place.suite("sums", TWO)
    missing = place.program("run", "sums")
    assert missing.returncode == 2
    assert "DRYQUARRY_TEST_KEY" in missing.stderr
    assert one.requests == []
    done = place.program("--debug", "run", "sums", env={**os.environ, "DRYQUARRY_TEST_KEY": secret})
    assert one.headers[-1]["Authorization"] == f"Bearer {secret}"
    assert secret not in done.stdout + done.stderr
    for path in place.root.rglob("*"):
        assert not path.is_file() or secret.encode() not in path.read_bytes(), path


def test_hostile_replies_are_shown_as_data(place: Place, service) -> None:
    hostile = "=cmd()\x1b[2J\x1b]0;owned\x07 <script>alert(1)</script> ```\n[red]x[/red]\u202e"
    place.entrant("knot", service(lambda content: (200, completion(hostile))).url)
    place.suite("sums", arithmetic_suite(1))
    place.run("run", "sums")
    for form in ("table", "markdown"):
        shown = place.run("replies", "sums", "--format", form).stdout
        assert "\x1b" not in shown
        assert "\x07" not in shown
        assert "\u202e" not in shown
        assert "\\x1b[2J" in shown
    assert json.loads(place.run("replies", "sums", "--format", "json").stdout)[0]["text"] == hostile
    assert "'=cmd()" in place.run("replies", "sums", "--format", "csv").stdout


def wait_for_replies(root: Path, count: int) -> None:
    path = root / ".dryquarry" / "ledger.db"
    for _ in range(600):
        time.sleep(0.02)
        if path.exists():
            try:
                if held_in(root) >= count:
                    return
            except sqlite3.Error:
                continue
    raise AssertionError("the run stored nothing")


def held_in(root: Path) -> int:
    connection = sqlite3.connect(f"file:{root / '.dryquarry' / 'ledger.db'}?mode=ro", uri=True)
    try:
        return int(connection.execute("SELECT count(*) FROM replies WHERE current = 1").fetchone()[0])
    finally:
        connection.close()


def test_a_killed_run_loses_nothing_and_the_next_asks_only_the_rest(place: Place, service) -> None:
    one = service(lambda content: (200, completion("Answer: 1")), delay_s=0.05)
    place.entrant("knot", one.url, "limits = {in_flight = 8}")
    place.suite("sums", arithmetic_suite(500))
    running = place.started("run", "sums")
    wait_for_replies(place.root, 60)
    running.send_signal(signal.SIGKILL)
    running.communicate(timeout=20)
    held, asked_before = held_in(place.root), len(one.requests)
    assert 60 <= held < 500
    again = place.program("run", "sums")
    assert again.returncode == 0, again.stderr
    assert f"{held} held, {500 - held} to ask" in again.stderr
    assert len(one.requests) - asked_before == 500 - held
    assert held_in(place.root) == 500
    assert place.json("board", "sums")["rows"][0]["marked"] == 500  # type: ignore[index]


def test_ctrl_c_ends_cleanly_with_130_and_the_same_command_goes_on(place: Place, service) -> None:
    one = service(lambda content: (200, completion("Answer: 1")), delay_s=0.05)
    place.entrant("knot", one.url)
    place.suite("sums", arithmetic_suite(400))
    running = place.started("run", "sums")
    wait_for_replies(place.root, 20)
    running.send_signal(signal.SIGINT)
    _, stderr = running.communicate(timeout=20)
    assert running.returncode == 130
    assert "the same command goes on from there" in stderr
    held = held_in(place.root)
    assert held == len(one.requests)  # what was in flight was waited for
    assert place.program("run", "sums").returncode == 0
    assert (held_in(place.root), len(one.requests)) == (400, 400)


def test_a_second_run_on_the_same_ledger_is_refused(place: Place, service) -> None:
    place.entrant("knot", service(lambda content: (200, completion("Answer: 1")), delay_s=0.5).url)
    place.suite("sums", arithmetic_suite(400))
    running = place.started("run", "sums")
    wait_for_replies(place.root, 10)
    second = place.program("run", "sums")
    assert second.returncode == 3
    assert "another run is using the ledger" in second.stderr
    assert place.program("board", "sums").returncode == 0  # reading is possible meanwhile
    running.send_signal(signal.SIGINT)
    running.communicate(timeout=30)
    assert running.returncode == 130


def test_a_folder_that_cannot_hold_a_ledger_is_told(place: Place, service) -> None:
    one = service(lambda content: (200, completion("Answer: 1")))
    place.entrant("knot", one.url)
    place.suite("sums", TWO)
    (place.root / ".dryquarry").write_text("a file where the folder should be")
    done = place.program("run", "sums")
    assert done.returncode == 3
    assert ".dryquarry cannot be made" in done.stderr
    assert one.requests == []


def test_a_lock_that_cannot_be_written_is_told(place: Place, service) -> None:
    place.entrant("knot", service(lambda content: (200, completion("Answer: 1"))).url)
    place.suite("sums", TWO)
    (place.root / ".dryquarry" / "run.lock").mkdir(parents=True)
    done = place.program("run", "sums")
    assert done.returncode == 3
    assert "run.lock cannot be written" in done.stderr


WRONG_USE = [
    (["board", "smus"], 2, "did you mean 'sums'"),
    (["board", "sums@7"], 2, "has no edition 7"),
    (["board", "sums"], 2, "nothing has been asked"),
    (["board", "sums", "sums@draft"], 2, "takes each suite once"),
    (["run", "sums", "-e", "knto"], 2, "did you mean 'knot'"),
    (["run", "sums", "-e", "ruff"], 2, "has no endpoint"),
    (["run", "torn"], 3, "suites/torn/suite.yaml:2"),
    (["suite", "check", "torn"], 1, ""),
    (["entrant", "show", "kont"], 2, "did you mean 'knot'"),
    (["--workspace"], 2, "No such option"),
    (["board", "sums", "--format", "xml"], 2, "xml"),
    (["board", "sums", "--workspace", "/nowhere"], 2, "no workspace here"),
    (["suite", "list", "--out", "no/such/folder.txt"], 3, "cannot be written"),
]


@pytest.mark.parametrize(("arguments", "code", "words"), WRONG_USE)
def test_wrong_use_ends_with_its_code_and_a_next_step(
    place: Place, arguments: list[str], code: int, words: str
) -> None:
    place.entrants(
        '[entrant.knot]\nendpoint = "http://127.0.0.1:9/v1"\nmodel = "m"\n[entrant.ruff]\ntitle = "by hand"\n'
    )
    place.suite("sums", TWO)
    place.suite("torn", "title: t\nquestins: []\n")
    done = place.run(*arguments)
    assert done.exit_code == code, done.output
    assert words in done.stderr
    assert "Traceback" not in done.output


def test_an_unforeseen_error_is_a_message_and_a_traceback_only_with_debug(
    place: Place, monkeypatch: pytest.MonkeyPatch
) -> None:
    def broken(*_: object) -> None:
        raise RuntimeError("the floor gave way")

    monkeypatch.setattr("dryquarry.workspace.folder.Folder.suite_names", broken)
    done = place.run("suite", "list")
    assert (done.exit_code, "unforeseen: RuntimeError: the floor gave way" in done.stderr) == (70, True)
    assert isinstance(place.run("--debug", "suite", "list").exception, RuntimeError)


ALL_OF = LETTER.replace(
    "mark: {scheme: rubric, rubric: letter}",
    "mark: {scheme: all, parts: [{scheme: rubric, rubric: letter}, {scheme: rules, rules: [{has: bus}]}]}",
)


@pytest.mark.parametrize(("suite", "text", "verdict"), [(LETTER, "At 18:40.", "pass"), (ALL_OF, "At 18:40.", "fail"), (ALL_OF, "The bus: 18:40.", "pass")])  # fmt: skip
def test_a_judges_mark_stands_when_replies_are_marked_again_also_within_all(
    place: Place, service, suite: str, text: str, verdict: str
) -> None:
    judge = service(
        lambda content: (
            200,
            completion(
                '{"criteria": [{"id": "fact", "points": 2, "evidence": "18:40"}, {"id": "kind", "points": 1, "evidence": "18:40"}]}'
            ),
        )
    )
    place.entrants(f'[judge.heron]\nendpoint = "{judge.url}"\nmodel = "j"\n')
    place.entrant("knot", service(lambda content: (200, completion(text))).url)
    place.suite("letters", suite)
    assert place.run("run", "letters").exit_code == 0
    (before,) = place.json("replies", "letters")  # type: ignore[misc]
    assert before["verdict"] == verdict
    again = place.run("mark", "letters")
    assert "1 kept as a person or judge gave them" in again.stdout or verdict == "fail"
    (after,) = place.json("replies", "letters")  # type: ignore[misc]
    asked = 0 if suite == ALL_OF and verdict == "fail" else 1  # no judge is asked where a rule already fails
    assert (after["verdict"], after["reason"], len(judge.requests)) == (verdict, before["reason"], asked)


def test_an_unsure_mark_is_shown_on_board_grid_and_replies_and_settled_by_a_person(place: Place, service) -> None:
    said = "Adults pay 38 and children 12 euros. They pay 50 euros or so, and the dog is 4 euros."
    place.entrant("knot", service(lambda content: (200, completion(said))).url)
    place.suite("fares", "title: f\nmark: {scheme: number}\nquestions: [{id: fare, ask: What do they pay?, key: 50}]")
    assert place.run("run", "fares").exit_code == 0
    assert "° knot: 1 mark is unsure; the score lies between 0.0 and 100.0" in place.run("board", "fares").stdout
    assert "° unsure" in place.run("grid", "fares").stdout
    (reply,) = place.json("replies", "fares", "--unsure")  # type: ignore[misc]
    assert (reply["verdict"], "also stands" in reply["unsure_because"]) == ("pass", True)
    place.run("mark", "fares", "--question", "fare", "-e", "knot", "--set", "pass", "--because", "it says 50")
    assert place.json("replies", "fares", "--unsure") == []
    assert "unsure" not in place.run("board", "fares").stdout


@pytest.mark.parametrize(
    ("text", "outcome", "verdict"),
    [
        ("I'm sorry, but I can't provide the exact table.\n\nAnswer: 50", "answered", "pass"),
        ("I'm sorry, but I can't help with that.", "refused", "fail"),
    ],
)
def test_a_refusal_is_told_with_the_answer_line_known_in_run_and_try_alike(
    place: Place, service, text: str, outcome: str, verdict: str
) -> None:
    place.entrant("knot", service(lambda content: (200, completion(text))).url)
    questions = "questions: [{id: fare, ask: What do they pay?, key: 50}]"
    place.suite("fares", f'title: f\nask: {{answer_line: "Answer:"}}\nmark: {{scheme: number}}\n{questions}')
    assert place.run("run", "fares").exit_code == 0
    (reply,) = place.json("replies", "fares")  # type: ignore[misc]
    assert (reply["outcome"], reply["verdict"]) == (outcome, verdict)
    (place.root / "reply.txt").write_text(text, encoding="utf-8")
    tried = place.json("try", "fares", "fare", "reply.txt")
    assert (tried["outcome"], tried["verdict"]) == (outcome, verdict)
