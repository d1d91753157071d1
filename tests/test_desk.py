"""The marking desk: sessions, the screen, papers over a pipe, audits; and votes between two replies."""

import asyncio
import json
import os
import pty
import re
import select
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from conftest import PROGRAM, Place, completion
from dryquarry.showing.screens.pair import PairScreen
from dryquarry.showing.screens.review import ReviewScreen
from dryquarry.standing.votes import Choice
from dryquarry.workspace.desk import DeskSession, DeskWish
from dryquarry.workspace.folder import Folder
from dryquarry.workspace.marking_desk import MarkingDesk
from dryquarry.workspace.voting import Voting

SUITE = """\
title: Letters
mark: {scheme: rubric, rubric: letter, pass_at: 0.7}
rubrics:
  letter:
    criteria:
      - {id: fact, asks: Does it tell the time?, points: 3}
      - {id: kind, asks: Is it kind?}
questions:
"""
QUESTIONS = "".join(f"  - {{id: q{n}, ask: When does bus {n} go?, category: bus}}\n" for n in range(6))
HAND = "  - {id: by-hand, ask: Write a poem., mark: {scheme: hand, out_of: 5, pass_at: 0.6}}\n"


def judge(content: dict) -> tuple[int, bytes]:
    """A judge that gives everything to long replies, and nothing for kindness to short ones."""
    text = content["messages"][-1]["content"]
    if "=== reply " not in text:
        return 200, completion(
            "It goes at 18:40." if "-b" in content["model"] else "Dear guest, it goes at 18:40. Best wishes."
        )
    kind = "Dear guest" in text
    entries = [
        {"id": "fact", "points": 3, "evidence": "18:40"},
        {"id": "kind", "points": int(kind), "evidence": "Dear guest" if kind else ""},
    ]
    return 200, completion(json.dumps({"criteria": entries}))


@pytest.fixture
def letters(place: Place, service) -> Place:
    one = service(judge)
    place.entrants(f'[judge.heron]\nendpoint = "{one.url}"\nmodel = "j"\n')
    for name in ("a", "b"):
        place.entrant(name, one.url)
    place.suite("letters", SUITE + QUESTIONS + HAND)
    assert place.run("run", "letters").exit_code == 0
    return place


@contextmanager
def session(place: Place, person: str = "kim", **wish: object) -> Iterator[DeskSession]:
    with MarkingDesk(Folder.find(place.root, exactly=True)).session("letters", person, DeskWish(**wish)) as found:  # type: ignore[arg-type]
        yield found


def decide_all(desk: DeskSession) -> None:
    while desk.paper is not None:
        desk.decide("pass", None, "a note")
        desk.next()


def test_what_waits_is_marked_by_hand_and_becomes_the_mark(letters: Place) -> None:
    with session(letters) as desk:
        assert [(paper.question.id, paper.why_asked) for paper in desk.papers] == [("by-hand", "open")] * 2
        desk.decide(None, {"points": 4}, "a fine poem")
        desk.next()
        desk.decide("fail", None, None)
        desk.next()
    marks = {reply["score"]: reply["reason"] for reply in letters.json("replies", "letters", "--question", "by-hand")}  # type: ignore[union-attr]
    assert marks == {0.8: "marked by kim, points 4/5: a fine poem", 0.0: "marked by kim, points 0/5"}
    assert letters.run("review", "letters", "--format", "jsonl", "--as", "kim").stdout == ""


def test_an_audit_stands_beside_the_judges_marks_and_corrects_the_board(letters: Place) -> None:
    with session(letters, audit=5) as desk:
        assert len(desk.papers) == 12
        questions = [paper.question.id for paper in desk.papers]
        assert all(questions.count(name) == 2 for name in questions)
        assert questions[::2] == questions[1::2]  # all replies to one question in a row
        for paper in list(desk.papers):
            own = desk.papers[desk.place]
            assert own is paper
            desk.decide(None, {"fact": 3, "kind": 0}, None)
            desk.next()
            if len(desk.done) == 9:
                break
    with session(letters, audit=3) as desk:  # goes on where it was left
        assert len(desk.papers) == 3
        for _ in range(3):
            desk.decide(None, {"fact": 3, "kind": 0}, None)
            desk.next()
    judged = letters.json("board", "letters", "--as-judged", "--shared")["rows"]  # type: ignore[index]
    rows = letters.json("board", "letters", "--shared")["rows"]  # type: ignore[index]
    assert {row["entrant"]: row["score"] for row in judged} == {"a": 1.0, "b": 0.75}
    assert {row["entrant"]: (row["score"], row["as_judged"], row["audited"]) for row in rows} == {
        "a": (0.75, 1.0, 6),
        "b": (0.75, 0.75, 6),
    }
    verdicts = [reply["score"] for reply in letters.json("replies", "letters", "-e", "a", "--category", "bus")]  # type: ignore[union-attr]
    assert verdicts == [1.0] * 6  # the judge's marks are as they were


def test_after_ten_decisions_three_earlier_ones_lie_on_the_desk_again_unmarked_as_such(letters: Place) -> None:
    with session(letters, audit=12) as desk:
        decide_all(desk)
        whys = [decision.why_asked for _, decision in desk.done]
        assert (len(whys), whys[10:13], whys.count("repeat")) == (15, ["repeat"] * 3, 3)
        assert len(desk.own_drift()) == 3
        again = [paper.judged.reply_id for paper, one in desk.done if one.why_asked == "repeat"]
        assert len(set(again)) == 3
    report = letters.json("judge", "check", "letters")
    assert report["reviewers"][0]["with_itself"]["verdicts"]["value"] == 1.0  # type: ignore[index]


def test_precedents_come_after_the_first_decision_and_both_are_kept(letters: Place) -> None:
    with session(letters, audit=12) as desk:
        first = desk.paper
        assert first is not None
        assert desk.precedents(first) == []
        desk.decide("fail", None, "too short")
        desk.next()
        second = desk.paper
        assert second is not None
        desk.decide("pass", None, None)
        assert [one.decision.note for one in desk.precedents(second)] == ["too short"]
        desk.amend("fail", None, "as before")
        desk.next()
    (reply,) = [
        one
        for one in letters.json("replies", "letters", "--judged", "--question", second.question.id)  # type: ignore[union-attr]
        if one["text"] == second.text and len(one["decisions"]) == 2
    ]
    assert [(one["why_asked"], one["verdict"]) for one in reply["decisions"]] == [
        ("audit", "pass"),
        ("amended", "fail"),
    ]


def test_undo_and_skip_and_a_second_person_who_sees_nothing_of_the_first(letters: Place) -> None:
    with session(letters, audit=12) as desk:
        paper = desk.paper
        desk.skip()
        assert desk.papers[-1] is paper
        desk.decide("pass", None, None)
        desk.next()
        assert desk.undo() is not None
        assert (desk.place, desk.undo()) == (0, None)
        for _ in range(2):
            desk.decide("pass", None, "kim's own note")
            desk.next()
    with session(letters, "lee", second=True) as desk:
        assert len(desk.papers) == 2
        decide_all(desk)
        assert all("kim" not in (one.decision.note or "") for one in desk.precedents(desk.done[0][0]))
    report = letters.json("judge", "check", "letters")
    assert {one["person"]: list(one["with_others"]) for one in report["reviewers"]} == {"kim": ["lee"], "lee": ["kim"]}  # type: ignore[index]


def test_papers_go_out_blind_and_decisions_come_in_all_or_none(letters: Place) -> None:
    written = letters.run("review", "letters", "--audit", "12", "--as", "kim", "--out", "papers.jsonl")
    assert (written.exit_code, "12 papers for kim" in written.stderr) == (0, True)
    papers = [json.loads(line) for line in (letters.root / "papers.jsonl").read_text().splitlines()]
    assert not {"entrant", "trial", "judge", "score"} & set(papers[0])
    assert (
        letters.run("review", "letters", "--audit", "12", "--out", "papers.jsonl").exit_code == 3
    )  # never overwritten

    def read_in(*lines: dict, person: str = "kim") -> object:
        (letters.root / "filled.jsonl").write_text("".join(json.dumps(line) + "\n" for line in lines))
        return letters.run("review", "letters", "--from", "filled.jsonl", "--as", person)

    good = {**papers[0], "points": {"fact": 2, "kind": 1}}
    for wrong, said in (
        ({**papers[1], "points": {"fact": 4, "kind": 1}}, "go from 0 to 3"),
        ({**papers[1], "points": {"fact": 1}}, "no points for 'kind'"),
        ({**papers[1], "points": {"fact": 1, "kind": 1, "x": 1}}, "no criterion 'x'"),
        ({**papers[1], "verdict": "good"}, "pass, fail, void"),
        ({**papers[1], "item": "nonsense", "verdict": "pass"}, "no paper nonsense"),
        (good, "decided twice"),
        ({**papers[1], "entrnt": "x"}, "unknown field"),
    ):
        told = read_in(good, wrong)
        assert (told.exit_code, said in told.stderr) == (3, True), told.stderr  # type: ignore[attr-defined]
    assert read_in(good, person="lee").exit_code == 3  # type: ignore[attr-defined]  # papers are one person's
    done = read_in(good, *papers[1:])
    assert "1 decision by kim stored; 11 papers not filled in" in done.stderr  # type: ignore[attr-defined]
    again = read_in(good)
    assert "kim has decided paper" in again.stderr  # type: ignore[attr-defined]


def test_decisions_on_replies_that_were_replaced_count_no_more(letters: Place) -> None:
    with session(letters, audit=12) as desk:
        decide_all(desk)
    assert letters.run("run", "letters", "--fresh").exit_code == 0
    with session(letters) as desk:
        assert desk.replaced == 15
    assert "as_judged" not in letters.json("board", "letters", "--shared")["rows"][0]  # type: ignore[index]


async def press(screen: object, keys: list[str], size: tuple[int, int]) -> str:
    async with screen.run_test(size=size) as pilot:  # type: ignore[attr-defined]
        for key in keys:
            await pilot.press(key)
            await pilot.pause()
        return "\n".join(str(widget.render()) for widget in screen.query("Static"))  # type: ignore[attr-defined]


@pytest.mark.parametrize("size", [(100, 32), (60, 20)])
def test_the_screen_marks_by_single_keys(letters: Place, size: tuple[int, int]) -> None:
    with session(letters, audit=12) as desk:
        screen = ReviewScreen(desk, lambda file: b"")
        shown = asyncio.run(
            press(
                screen,
                ["9", "3", "1", "enter", "n", *"late", "enter", "f", "enter", "m", "u", "/", *"18", "enter"],
                size,
            )
        )
        assert [(one.score, one.note) for _, one in desk.done] == [(1.0, None)]
        assert "taken back" not in shown
        assert "kim" in shown
        assert not re.search(r"\bstandin-[ab]\b", shown)
    rows = [one["decisions"] for one in letters.json("replies", "letters", "--judged")]  # type: ignore[union-attr]
    assert sum(map(len, rows)) == 1


def test_pass_or_fail_void_skip_and_the_end_of_the_desk(letters: Place) -> None:
    with session(letters) as desk:
        shown = asyncio.run(press(ReviewScreen(desk, lambda file: b""), ["s", "right", "p", "v", "enter"], (100, 32)))
        assert [str(one.verdict) for _, one in desk.done] == ["fail", "void"]
        assert "nothing is left to mark" in shown
        assert "2 decisions in this session" in shown


def test_two_replies_are_voted_on_by_single_keys_and_make_a_board(letters: Place) -> None:
    voting = Voting(Folder.find(letters.root, exactly=True))
    with voting.session("letters", ["a", "b"], "kim") as votes:
        shown = asyncio.run(
            press(PairScreen(votes), ["1", "n", *"why", "enter", "2", "s", "t", "b", "u", "b"], (100, 32))
        )
        assert [str(vote.choice) for _, vote in votes.done] == ["first", "second", "tie", "both-bad"]
        assert [vote.because for _, vote in votes.done] == [None, "why", None, None]
        assert "kim · 4 votes" in shown
    board = letters.json("board", "letters", "--votes")
    assert (board["votes"], board["both_bad_share"], board["tie_share"]) == (4, 0.25, 0.25)  # type: ignore[index]
    table = letters.run("board", "letters", "--votes").stdout
    assert "who beat whom" in table


def test_each_pair_is_shown_once_to_a_person_in_random_order(letters: Place) -> None:
    voting = Voting(Folder.find(letters.root, exactly=True))
    with voting.session("letters", ["a", "b"], "kim") as votes:
        firsts = []
        while votes.ballot is not None:
            firsts.append(votes.ballot.first.entrant.name)
            votes.vote(Choice.TIE)
        assert len(firsts) == 7
        assert set(firsts) == {"a", "b"}


def test_votes_come_in_from_a_table_all_or_none(letters: Place) -> None:
    def collect(*rows: str) -> object:
        (letters.root / "votes.csv").write_text(
            "suite,question,first,second,choice,by,order_known\n" + "\n".join(rows) + "\n"
        )
        return letters.run("collect", "votes.csv")

    for wrong, said in (
        ("letters,q0,a,c,first,kim,yes", "no entrant 'c'"),
        ("letters,q9,a,b,first,kim,yes", "no reply to question q9"),
        ("letters,q0,a,a,first,kim,yes", "both sides"),
        ("letters,q0,a,b,left,kim,yes", "not 'left'"),
        ("letters,q0,a,b,first,,yes", "`by` is empty"),
        ("letters,q0,a,b,first,kim,perhaps", "yes or no"),
    ):
        told = collect("letters,q0,a,b,first,kim,no", wrong)
        assert (told.exit_code, said in told.stderr) == (3, True), told.stderr  # type: ignore[attr-defined]
    assert "nobody has voted" in letters.run("board", "letters", "--votes").stderr
    assert collect("letters,q0,a,b,first,kim,no", "letters,q1,b,a,second,kim,no").exit_code == 0  # type: ignore[attr-defined]
    board = letters.json("board", "letters", "--votes")
    assert [(row["entrant"], row["wins"]) for row in board["rows"]] == [("a", 2), ("b", 0)]  # type: ignore[index]


def test_a_judge_votes_in_both_orders_and_its_order_effect_is_found(place: Place, service) -> None:
    def answer(content: dict) -> tuple[int, bytes]:
        text = content["messages"][1]["content"] if len(content["messages"]) > 1 else ""
        if "=== reply one " in text:
            return 200, completion('{"choice": "first", "why": "it comes first"}')
        return 200, completion("A reply.")

    one = service(answer)
    place.entrants(f'[judge.heron]\nendpoint = "{one.url}"\nmodel = "j"\n')
    for name in ("a", "b"):
        place.entrant(name, one.url)
    place.suite("letters", SUITE + QUESTIONS)
    place.run("run", "letters")
    voted = place.run("pair", "letters", "-e", "a", "-e", "b", "--judge", "heron", "--count", "5")
    assert "10 votes by heron stored" in voted.stderr
    board = place.json("board", "letters", "--votes")
    assert board["order_effect"]["low"] > 0  # type: ignore[index]
    assert [row["wins"] for row in board["rows"]] == [5, 5]  # type: ignore[index]
    assert "is not" not in place.run("pair", "letters", "-e", "a", "-e", "b", "--judge", "hern").stdout


def test_pairs_and_desks_that_cannot_be_are_told(letters: Place) -> None:
    for typed, said in (
        (("pair", "letters", "-e", "a"), "two entrants at least"),
        (("pair", "letters", "-e", "a", "-e", "zz"), "no entrant 'zz'"),
        (("pair", "letters", "-e", "a", "-e", "b", "--judge", "hern"), "no judge 'hern'"),
        (("review", "letters", "--audit", "3", "--disputed", "--format", "jsonl"), "one at a time"),
        (("review", "letters", "--format", "jsonl", "--as", "x\ny"), "short text"),
        (("review", "letters"), "needs a terminal"),
    ):
        told = letters.run(*typed)
        assert told.exit_code == 2
        assert said in told.stderr or (typed[0] == "pair" and "needs a terminal" in told.stderr)


def in_terminal(place: Place, keys: str, rows: int, columns: int, term: str, *arguments: str) -> tuple[int, str]:
    """Run the installed program in a real terminal of that size, type the keys, and return its end and its output."""
    pid, terminal = pty.fork()
    if pid == 0:
        os.chdir(place.root)
        os.environ.update(TERM=term, LINES=str(rows), COLUMNS=str(columns))
        os.execv(sys.executable, [*PROGRAM, *arguments])
    import fcntl
    import struct
    import termios

    fcntl.ioctl(terminal, termios.TIOCSWINSZ, struct.pack("HHHH", rows, columns, 0, 0))
    output, typed, until = b"", 0, time.monotonic() + 60
    while time.monotonic() < until:
        ready, _, _ = select.select([terminal], [], [], 0.5)
        try:
            if ready:
                output += os.read(terminal, 65536)
            elif typed < len(keys) and output:
                os.write(terminal, keys[typed].encode())
                typed += 1
        except OSError:
            break
    return os.waitstatus_to_exitcode(os.waitpid(pid, 0)[1]), output.decode("utf-8", "replace")


def test_in_a_real_terminal_a_reviewer_marks_quits_and_goes_on(letters: Place) -> None:
    code, output = in_terminal(
        letters, "31\rq", 32, 100, "xterm-256color", "review", "letters", "--audit", "12", "--as", "kim"
    )
    assert code == 0, output[-500:]
    assert "1 decision by kim stored; 11 left" in output
    code, output = in_terminal(
        letters, "q", 20, 60, "xterm-256color", "review", "letters", "--audit", "11", "--as", "kim"
    )
    assert "11 left" in output
    code, output = in_terminal(letters, "", 32, 100, "dumb", "review", "letters", "--audit", "3", "--as", "kim")
    assert (code, "which can show no screen" in output) == (2, True)


def test_papers_and_closed_standard_input(letters: Place, tmp_path: Path) -> None:
    done = letters.program("review", "letters", "--from", "-")
    assert done.returncode == 0  # nothing on standard input: nothing decided
    assert "0 decisions" in done.stderr


def test_two_reviewers_at_once_and_a_run_that_goes_on(letters: Place) -> None:
    from dryquarry.workspace.around_runs import alone

    with session(letters, audit=12) as one, session(letters, "lee", audit=12) as other, alone(one.ledger):
        assert len(one.papers) == len(other.papers) == 12
        for desk in (one, other, one, other):
            desk.decide("pass", None, None)
            desk.next()
    rows = [one["decisions"] for one in letters.json("replies", "letters", "--judged")]  # type: ignore[union-attr]
    assert sorted(decision["person"] for row in rows for decision in row) == ["kim", "kim", "lee", "lee"]
    assert letters.run("ledger", "check").exit_code == 0


def test_audited_marks_correct_the_comparison_of_two(letters: Place) -> None:
    with session(letters, audit=12) as desk:
        while desk.paper is not None:
            desk.decide(None, {"fact": 3, "kind": 0}, None)
            desk.next()
    on = ("versus", "a", "b", "--on", "letters")
    assert letters.json(*on, "--as-judged")["whole"]["comparison"]["difference"] == 0.25  # type: ignore[index]
    found = letters.json(*on)
    assert (found["whole"]["comparison"]["difference"], found["audited"]) == (0.0, 12)  # type: ignore[index]
    assert "Corrected by people's marks" in letters.run(*on).stdout


def test_a_draw_weighs_by_how_many_of_its_stratum_were_marked(place: Place, service) -> None:
    from dryquarry.workspace.audits import audits_of

    one = service(judge)
    place.entrants(f'[judge.heron]\nendpoint = "{one.url}"\nmodel = "j"\n')
    place.entrant("a", one.url)
    place.suite("letters", SUITE + "".join(f"  - {{id: q{n}, ask: When does bus {n} go?}}\n" for n in range(30)))
    place.run("run", "letters")
    with session(place, audit=12) as desk:
        assert len(desk.papers) == 12
        for _ in range(10):
            desk.decide(None, {"fact": 3, "kind": 0}, None)
            desk.next()
        folder = Folder.find(place.root, exactly=True)
        (found,) = audits_of(desk.ledger, desk.suite, list(folder.entrants().entrants.values())).values()
    assert (found.count, len(found.hand)) == (10, 30)
    assert {chance for chance, hand in zip(found.probability, found.hand, strict=True) if hand == hand} == {10 / 30}
    (row,) = place.json("board", "letters")["rows"]  # type: ignore[index]
    assert (row["score"], row["as_judged"]) == (0.75, 1.0)


def test_the_number_to_do_does_not_tell_when_earlier_papers_come_again(letters: Place) -> None:
    with session(letters, audit=12) as desk:
        counts = []
        while desk.paper is not None:
            counts.append(desk.remaining)
            desk.decide("pass", None, None)
            desk.next()
    assert counts == list(range(15, 0, -1))


def test_an_audit_also_asks_for_what_the_person_picked_before_and_that_one_never_corrects(letters: Place) -> None:
    with session(letters, audit=12) as desk:
        picked = desk.paper
        assert picked is not None
        desk.papers[desk.place] = type(picked)(picked.judged, "disputed")
        desk.decide("fail", None, "picked")
    assert "as_judged" not in letters.json("board", "letters", "--shared")["rows"][0]  # type: ignore[index]
    with session(letters, audit=12) as desk:
        assert len(desk.papers) == 12  # the picked one among them
        decide_all(desk)
    rows = letters.json("board", "letters", "--shared")["rows"]  # type: ignore[index]
    assert [row["audited"] for row in rows] == [6, 6]
    assert all(row["score"] == 1.0 for row in rows)
