"""Editions: sealing, verifying, comparing, retiring, carrying replies over; through the real program on files."""

from __future__ import annotations

import hashlib
import json
import shutil
import threading
from importlib import resources

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import Place, arithmetic_suite, completion
from dryquarry.errors import DryQuarryError
from dryquarry.marking.model import Marking
from dryquarry.marking.registry import prepare_when_used
from dryquarry.suites.diffing import diff_suites, word_diff
from dryquarry.suites.editing import EditFault, with_state
from dryquarry.suites.editions import EditionFault, read_edition, write_edition
from dryquarry.suites.question import State
from dryquarry.suites.reader import SuiteContent, read_suite
from dryquarry.suites.records import content_digest, question_record
from dryquarry.workspace import Workspace

SUITE = """\
# Sums of the desk.
title: Sums
ask: {system: Be brief., answer_line: "Answer:"}
mark: {scheme: number, rel: 0.001}
rubrics: {letter: {criteria: [{id: fact, asks: Names it., points: 2}]}}
questions:
  - id: fares   # the classic
    ask: |
      What do they pay?
    key: 50.00
    why: because

  # doors
  - {id: door, ask: Which door?, options: [left, right], key: B, mark: {scheme: choice}, weight: 2}
  - id: letter
    ask: Write to us.
    mark: {scheme: rubric, rubric: letter}
    proofs: {fail: [""]}
  - id: deep
    ask: How deep?
    key: ["59/28", 1e30, 123456789012345678901234567890]
    state: pilot
"""


def suite_of(text: str = SUITE, name: str = "sums", seed: int = 1):
    read = read_suite(SuiteContent(name, ((f"suites/{name}/suite.yaml", text.encode()),)), seed)
    assert not read.faults, read.faults
    assert read.suite is not None
    return read.suite


def edition_of(suite, number: int = 1) -> bytes:
    return write_edition(suite, number, "2026-11-23T08:00:00.000+00:00", "a note")


def reread(content: bytes):
    return read_edition("sums", "suites/sums/editions/1.jsonl", content)


def test_a_sealed_edition_holds_the_same_questions_as_the_draft() -> None:
    draft = suite_of()
    sealed = reread(edition_of(draft))
    assert [question_record(one) for one in sealed.questions] == [question_record(one) for one in draft.questions]
    assert [one.ask_digest for one in sealed.questions] == [one.ask_digest for one in draft.questions]
    assert [one.mark_digest for one in sealed.questions] == [one.mark_digest for one in draft.questions]
    assert (sealed.edition, sealed.title, sealed.system) == ("1", "Sums", "Be brief.")
    assert sealed.seal is not None
    assert sealed.seal.content_digest == content_digest(draft)


@given(st.data())
def test_any_change_to_a_sealed_file_is_noticed_with_its_line(data: st.DataObject) -> None:
    content = edition_of(suite_of())
    place = data.draw(st.integers(0, len(content) - 2))
    changed = bytearray(content)
    changed[place] = data.draw(st.integers(0, 255).filter(lambda byte: byte != content[place]))
    with pytest.raises(EditionFault, match=r"editions/1\.jsonl"):
        reread(bytes(changed))


@given(st.integers(1, 400))
def test_a_sealed_file_cut_short_is_noticed(length: int) -> None:
    content = edition_of(suite_of())
    with pytest.raises(EditionFault):
        reread(content[: len(content) - 1 - length])


@pytest.mark.parametrize(("written", "otherwise"), [("\n", "\r\n"), ('"question":', '"question": ')])
def test_a_sealed_file_with_the_same_content_written_otherwise_holds(written: str, otherwise: str) -> None:
    content = edition_of(suite_of()).decode()
    assert reread(content.replace(written, otherwise).encode()).questions == reread(content.encode()).questions


def test_the_fault_names_the_line_whose_digest_does_not_hold() -> None:
    content = edition_of(suite_of()).decode()
    with pytest.raises(EditionFault, match=r"1\.jsonl:2: question fares: the digest of the line does not hold"):
        reread(content.replace('"key":50', '"key":51').encode())
    with pytest.raises(EditionFault, match=r"1\.jsonl:1: the digest of the header does not hold"):
        reread(content.replace("a note", "b note").encode())
    with pytest.raises(EditionFault, match="its header says 4 questions, 3 are there"):
        reread("\n".join(content.split("\n")[:4]).encode())


def test_digests_of_the_demo_edition_agree_with_an_independent_computation() -> None:
    folder = resources.files("dryquarry.standin") / "data" / "demo" / "suites" / "tide-sums" / "editions"
    for number in (1, 2, 3):
        header, *lines = (json.loads(line) for line in (folder / f"{number}.jsonl").read_text("utf-8").splitlines())

        def sha(content: object) -> str:
            text = json.dumps(content, sort_keys=True, ensure_ascii=False, separators=(",", ":"))
            return hashlib.sha256(text.encode()).hexdigest()

        for line in lines:
            ask = line["question"]["ask"] + '\n\nGive your final answer on a last line that begins with "Answer:"'
            assert line["ask"] == sha({"system": header["ask"]["system"], "turns": [ask]})
            options = dict(line["question"]["mark"])
            mark = {"scheme": options.pop("scheme"), "options": options, "key": line["question"]["key"]}
            assert line["mark"] == sha({**mark, "answer_line": "Answer:", "choices": []})
            assert line["digest"] == sha({part: line[part] for part in ("ask", "mark", "question")})
        content = {name: value for name, value in header.items() if name != "digest"}
        assert header["digest"] == sha({**content, "lines": [line["digest"] for line in lines]})


@pytest.mark.parametrize(
    ("same", "new"),
    [
        (True, SUITE.replace("# doors", "# the doors")),
        (True, SUITE.replace("key: 50.00", "key: 50")),
        (True, SUITE.replace("\n", "\r\n")),
        (False, SUITE.replace("because", "for")),
        (False, SUITE.replace("title: Sums", "title: Totals")),
        (False, SUITE.replace("weight: 2", "weight: 3")),
    ],
)
def test_nothing_has_changed_is_told_from_a_change(same: bool, new: str) -> None:
    assert (content_digest(suite_of(new)) == content_digest(suite_of())) is same


CHANGES = [
    ("What do they pay?", "What do they all pay?", [("fares", "reworded")]),
    ("key: 50.00", "key: 51", [("fares", "key changed")]),
    ("rel: 0.001", "rel: 0.01", [("fares", "scheme changed"), ("deep", "scheme changed")]),
    ("points: 2", "points: 3", [("letter", "scheme changed")]),
    ("key: 50.00", "key: 50.00\n    state: retired\n    retired_because: too easy", [("fares", "retired")]),
    ("why: because", "why: since", [("fares", "notes changed")]),
    ("id: letter", "id: note", [("note", "added"), ("letter", "retired")]),
    ("system: Be brief.", "system: Be long.", [(one, "reworded") for one in ("fares", "door", "letter", "deep")]),
]


@pytest.mark.parametrize(("old", "new", "changes"), CHANGES)
def test_a_diff_says_what_changed(old: str, new: str, changes: list[tuple[str, str]]) -> None:
    diff = diff_suites(suite_of(), suite_of(SUITE.replace(old, new)))
    assert [(change.question, str(change.kind)) for change in diff.changes] == changes
    changed = {name for name, kind in changes if kind not in ("notes changed", "added")}
    assert diff.same == 4 - len(changed)


def test_a_moved_question_is_only_moved() -> None:
    door = next(line for line in SUITE.splitlines(keepends=True) if "id: door" in line)
    diff = diff_suites(suite_of(), suite_of(SUITE.replace(door, "") + door))
    assert [(change.question, str(change.kind)) for change in diff.changes] == [("door", "moved")]


@given(st.lists(st.sampled_from("abcde"), max_size=12), st.lists(st.sampled_from("abcde"), max_size=12))
def test_changed_words_give_both_texts_back(before: list[str], after: list[str]) -> None:
    shown = word_diff(" ".join(before), " ".join(after))
    kept = shown.replace("{+", "").replace("+}", "")
    words = [word for part in kept.split("[-") for word in part.split("-]")[-1].split()]
    assert words == after


# Retiring in the author's own text.


def test_retiring_and_restoring_leaves_every_other_character() -> None:
    content = SUITE.encode()
    for name in ("fares", "door", "letter"):
        retired = with_state(content, "suite.yaml", name, State.RETIRED, 'too "easy": 5 # of 5')
        question = next(one for one in suite_of(retired.decode()).questions if one.id == name)
        assert (question.state, question.retired_because) == (State.RETIRED, 'too "easy": 5 # of 5')
        added = [line for line in retired.decode().splitlines() if line not in SUITE.splitlines()]
        assert len(added) in (1, 2)
        assert with_state(retired, "suite.yaml", name, State.LIVE, None) == content
        again = with_state(retired, "suite.yaml", name, State.RETIRED, "other")
        assert with_state(again, "suite.yaml", name, State.LIVE, None) == content


def test_retiring_a_pilot_replaces_its_state_and_windows_line_endings_stay() -> None:
    windows = SUITE.replace("\n", "\r\n").encode()
    retired = with_state(windows, "suite.yaml", "deep", State.RETIRED, "done")
    assert retired.count(b"state:") == 1
    assert retired.replace(b"\r\n", b"").count(b"\n") == 0


def test_retiring_in_json_lines_changes_that_line_only() -> None:
    lines = b'{"id": "a", "ask": "x"}\n\n{"id": "b", "ask": "y", "key": 1.50}\n'
    retired = with_state(lines, "q.jsonl", "b", State.RETIRED, "done")
    assert retired.split(b"\n")[:2] == lines.split(b"\n")[:2]
    assert json.loads(retired.split(b"\n")[2])["retired_because"] == "done"
    with pytest.raises(EditFault, match="not found"):
        with_state(lines, "q.jsonl", "c", State.RETIRED, "done")


# The program.


def test_sealing_running_changing_and_sealing_again(place: Place, service) -> None:
    one = service(lambda content: (200, completion("Answer: 1")))
    place.entrant("knot", one.url)
    path = place.suite("sums", arithmetic_suite(6))
    assert place.run("suite", "seal", "sums", "--note", "first").exit_code == 0
    unchanged = place.run("suite", "seal", "sums", "--note", "again")
    assert (unchanged.exit_code, "nothing has changed since sums@1" in unchanged.stderr) == (1, True)
    place.run("run", "sums")
    assert len(one.requests) == 6
    path.write_text(
        path.read_text().replace("What is 1 plus 1?", "How much is 1 plus 1?").replace("key: 3}", "key: 1}")
    )
    assert place.run("suite", "retire", "sums", "q5", "--because", "too easy").exit_code == 0
    faulty = path.read_text()
    path.write_text(faulty + "  - {id: bad}\n")
    refused = place.run("suite", "seal", "sums", "--note", "x")
    assert refused.exit_code == 1
    assert "not sealed" in refused.stderr
    path.write_text(faulty)
    sealed = place.run("suite", "seal", "sums", "--note", "second")
    assert "1 question reworded, 1 question re-keyed, 1 question retired" in sealed.stdout
    before = place.run("board", "sums")
    assert "knot has 3 of 5 questions, so it has no rank" in before.stdout
    assert "4 held, 1 to ask" in place.run("run", "sums").stderr
    assert len(one.requests) == 7
    rows = place.json("board", "sums")["rows"]  # type: ignore[index]
    assert (rows[0]["passed"], rows[0]["marked"]) == (2, 5)  # q0, and q2 by its new key
    assert place.json("board", "sums@1")["rows"][0]["marked"] == 6  # type: ignore[index]
    history = place.json("suite", "history", "sums")["editions"]  # type: ignore[index]
    assert [(row["edition"], row["reworded"], row["re-keyed"], row["retired"]) for row in history] == [
        ("1", None, None, None), ("2", 1, 1, 1)
    ]  # fmt: skip
    assert [row["note"] for row in history] == ["first", "second"]
    fresh = place.run("run", "sums", "--fresh")
    assert "5 to ask" in fresh.stderr
    assert len(one.requests) == 12


def test_entrants_on_different_editions_are_compared_on_what_they_share(place: Place, service) -> None:
    url = service(lambda content: (200, completion("Answer: 1"))).url
    place.entrant("knot", url)
    place.entrant("ruff", url)
    place.entrant("late", url)
    path = place.suite("sums", arithmetic_suite(8))
    place.run("suite", "seal", "sums", "--note", "first")
    place.run("run", "sums", "-e", "knot")
    text = path.read_text()
    for number in (1, 2):
        text = text.replace(f"What is {number} plus", f"How much is {number} plus")
    path.write_text(text)
    place.run("suite", "seal", "sums", "--note", "second")
    place.run("run", "sums", "-e", "ruff")
    whole = place.json("board", "sums")
    assert [(row["entrant"], row["rank"]) for row in whole["rows"]] == [("ruff", 1), ("knot", None)]  # type: ignore[index]
    assert whole["rows"][1]["unfinished"]["comparison"]["questions"] == 6  # type: ignore[index]
    board = place.json("board", "sums", "--shared")
    assert (board["edition"], board["questions"]) == ("2", 6)  # type: ignore[index]
    assert [row["asked"] for row in board["rows"]] == [6, 6]  # type: ignore[index]
    own = place.json("board", "sums", "--each-own")
    assert [(row["edition"], row["entrant"], row["rank"], row["asked"]) for row in own["rows"]] == [  # type: ignore[index]
        ("2", "ruff", None, 8), ("1", "knot", None, 8)
    ]  # fmt: skip
    path.write_text(text.replace("What is", "Say what is"))
    place.run("suite", "seal", "sums", "--note", "third")
    place.run("run", "sums", "-e", "late")
    left = place.run("board", "sums")
    assert "ruff has 2 of 8 questions, so it has no rank" in left.stdout
    assert "knot has 0 of 8 questions, so it has no rank" in left.stdout


def test_pilot_questions_are_asked_and_shown_apart(place: Place, service) -> None:
    place.entrant("knot", service(lambda content: (200, completion("Answer: 1"))).url)
    place.suite("sums", arithmetic_suite(3) + "  - {id: trial, ask: What is 0 plus 1 again?, key: 1, state: pilot}\n")
    place.run("run", "sums")
    board = place.run("board", "sums")
    assert "Pilot, not scored: trial, passed by 1 of 1." in board.stdout
    assert place.json("board", "sums")["rows"][0]["asked"] == 3  # type: ignore[index]
    grid = place.json("grid", "sums")
    assert [(row["id"], row["pilot"]) for row in grid["questions"]][-1] == ("trial", True)  # type: ignore[index]
    assert grid["totals"]["knot"]["counted"] == 3  # type: ignore[index]


def test_an_edited_edition_is_refused_everywhere_with_exit_3(place: Place) -> None:
    place.entrant("knot", "http://127.0.0.1:9/v1")
    place.suite("sums", arithmetic_suite(3))
    place.run("suite", "seal", "sums", "--note", "first")
    path = place.root / "suites" / "sums" / "editions" / "1.jsonl"
    path.write_text(path.read_text().replace('"key":2', '"key":3'))
    for command in (
        ["run", "sums"],
        ["suite", "show", "sums@1"],
        ["suite", "history", "sums"],
        ["suite", "check", "sums"],
    ):
        done = place.run(*command)
        assert (done.exit_code, "1.jsonl:3: question q1" in done.stderr) == (3, True), command


def test_two_people_sealing_the_same_number_get_one_edition(place: Place) -> None:
    place.suite("sums", arithmetic_suite(3))
    results: list[str] = []

    def seal(note: str) -> None:
        try:
            results.append(Workspace.open(place.root).suites.seal("sums", note).path)
        except DryQuarryError as error:
            results.append(type(error).__name__)

    threads = [threading.Thread(target=seal, args=(f"by {name}",)) for name in ("Ada", "Bram", "Cleo", "Dirk")]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert results.count("suites/sums/editions/1.jsonl") == 1
    assert set(results) <= {"suites/sums/editions/1.jsonl", "FileFault", "DoesNotHold"}
    assert [path.name for path in (place.root / "suites/sums/editions").iterdir()] == ["1.jsonl"]


def test_another_edition_under_a_number_that_has_run_is_refused(place: Place, service) -> None:
    place.entrant("knot", service(lambda content: (200, completion("Answer: 1"))).url)
    path = place.suite("sums", arithmetic_suite(3))
    place.run("suite", "seal", "sums", "--note", "first")
    place.run("run", "sums")
    shutil.rmtree(place.root / "suites" / "sums" / "editions")
    path.write_text(path.read_text().replace("What is", "How much is"))
    place.run("suite", "seal", "sums", "--note", "another first")
    done = place.run("run", "sums")
    assert (done.exit_code, "is not the edition that was run here" in done.stderr) == (3, True)


def test_a_renamed_suite_keeps_its_replies(place: Place, service) -> None:
    one = service(lambda content: (200, completion("Answer: 1")))
    place.entrant("knot", one.url)
    place.suite("sums", arithmetic_suite(3))
    place.run("suite", "seal", "sums", "--note", "first")
    place.run("run", "sums")
    (place.root / "suites" / "sums").rename(place.root / "suites" / "totals")
    assert "3 held, 0 to ask" in place.run("run", "totals@1").stderr
    assert place.json("board", "totals")["rows"][0]["marked"] == 3  # type: ignore[index]


FILES = """\
title: Files
mark: {scheme: exact}
questions:
  - {id: map, ask: What is it?, key: x, files: [PATH]}
"""


def test_files_stay_in_the_suites_folder_and_are_part_of_what_is_asked(place: Place) -> None:
    path = place.suite("maps", FILES.replace("PATH", "files/map.png"))
    folder = path.parent / "files"
    folder.mkdir()
    outside = place.root / "secret.txt"
    outside.write_text("secret")
    (folder / "link.txt").symlink_to(outside)
    (folder / "map.png").write_bytes(b"\x89PNG one")
    before = Workspace.open(place.root).suites.get("maps").questions[0]
    assert before.ask.files[0].sha256 == hashlib.sha256(b"\x89PNG one").hexdigest()
    assert place.run("suite", "seal", "maps", "--note", "first").exit_code == 0
    (folder / "map.png").write_bytes(b"\x89PNG two")
    assert Workspace.open(place.root).suites.get("maps@draft").questions[0].ask_digest != before.ask_digest
    diff = place.json("suite", "diff", "maps@1", "maps@draft")
    assert [(change["question"], change["kind"]) for change in diff["changes"]] == [("map", "reworded")]  # type: ignore[index]
    for bad, words in [
        ("../../secret.txt", "outside the suite's folder"),
        (str(outside), "outside the suite's folder"),
        ("files/link.txt", "outside the suite's folder"),
        ("files/none.png", "cannot be read"),
        ("files/map.exe", "no kind that can be sent"),
    ]:
        path.write_text(FILES.replace("PATH", bad))
        shutil.rmtree(path.parent / "editions", ignore_errors=True)
        done = place.run("suite", "check", "maps")
        assert (done.exit_code, words in done.stdout) == (1, True), done.output


def test_the_folder_form_reads_all_files_and_tells_faults_by_file_and_line(place: Place) -> None:
    path = place.suite("big", 'title: Big\nask: {answer_line: "Answer:"}\nmark: {scheme: number}\n')
    folder = path.parent / "questions"
    folder.mkdir()
    (folder / "a.yaml").write_text("- {id: a1, ask: One?, key: 1}\n- {id: a2, ask: Two?, kye: 2}\n")
    (folder / "b.jsonl").write_bytes(
        b'\xef\xbb\xbf{"id": "b1", "ask": "Three?", "key": 3}\r\n\r\n{"id": "a1", "ask": "x", "key": 1}\r\n{oops\r\n'
    )
    (folder / "c.jsonl").write_bytes(b'{"id": "c1", "ask": "\xff"}\n')
    faults = json.loads(place.run("suite", "check", "big", "--format", "json").stdout)["faults"]
    places = {(fault["file"].rsplit("/", 1)[1], fault["line"], fault["kind"]) for fault in faults}
    assert places == {
        ("a.yaml", 2, "unknown-field"), ("a.yaml", 2, "missing-key"), ("b.jsonl", 3, "duplicate-id"),
        ("b.jsonl", 4, "unreadable"), ("c.jsonl", 1, "unreadable"),
    }  # fmt: skip
    assert "first at suites/big/questions/a.yaml:1" in json.dumps(faults)


def test_a_question_of_5_mb_is_told_and_nothing_hangs(place: Place) -> None:
    place.suite("sums", arithmetic_suite(1) + f"  - {{id: huge, ask: {'word ' * 1_000_000}, key: 1}}\n")
    done = place.program("suite", "check", "sums")
    assert done.returncode == 1
    assert "longer than 1,000,000 characters; use `files`" in done.stdout
    assert len(done.stdout) < 5000


def test_the_ledger_of_the_first_release_is_brought_up_to_date(place: Place, service) -> None:
    import sqlite3

    place.entrant("knot", service(lambda content: (200, completion("Answer: 1"))).url)
    place.suite("sums", arithmetic_suite(2))
    place.run("run", "sums")
    raw = sqlite3.connect(place.root / ".dryquarry" / "ledger.db")
    raw.executescript("DROP TABLE editions; UPDATE about SET value = '1' WHERE name = 'schema';")
    raw.close()
    assert place.run("board", "sums").exit_code == 0
    place.run("suite", "seal", "sums", "--note", "first")
    assert "2 held" in place.run("run", "sums").stderr
    raw = sqlite3.connect(place.root / ".dryquarry" / "ledger.db")
    assert raw.execute("SELECT suite, number FROM editions").fetchall() == [("sums", 1)]
    raw.close()


ADVICE = [
    (
        "  - {id: x, ask: What is 0 plus 1 again?, key: 1, family: lone}\n",
        "lone-family",
        "the only question of family 'lone'",
    ),
    ("  - {id: x, ask: 'plus 0, what is 1?', key: 1}\n", "near-duplicate", "asks the same words as question q0"),
    ("  - {id: x, ask: Which number is 7?, key: 7}\n", "key-in-question", "the key '7' stands in the question"),
    ("  - {id: x, ask: Heavy?, key: 7, weight: 40}\n", "heavy", "its weight makes it"),
]


@pytest.mark.parametrize(("question", "kind", "words"), ADVICE)
def test_advice_is_told_apart_and_fails_only_when_strict(place: Place, question: str, kind: str, words: str) -> None:
    place.suite("sums", arithmetic_suite(9) + question)
    done = place.run("suite", "check", "sums", "--format", "json")
    assert done.exit_code == 0
    found = {(one["kind"], one["question"]): one["message"] for one in json.loads(done.stdout)["advice"]}
    assert words in found[kind, "x"]
    assert place.run("suite", "check", "sums", "--strict").exit_code == 1
    place.run("suite", "seal", "sums", "--note", "first")
    sealed = json.loads(place.run("suite", "check", "sums@1", "--format", "json").stdout)
    assert (sealed["edition"], kind in {one["kind"] for one in sealed["advice"]}) == ("1", True)


def test_a_choice_suite_that_guessing_would_pass_is_told(place: Place) -> None:
    lines = [f"  - {{id: q{n}, ask: Which {n}?, options: [a, b, c], key: {'B' if n < 4 else 'A'}}}\n" for n in range(6)]
    place.suite("doors", "title: d\nmark: {scheme: choice}\nquestions:\n" + "".join(lines))
    assert (
        "a model that always says B would score 67% of the 6 choice questions"
        in place.run("suite", "check", "doors").stdout
    )


def test_an_id_reused_for_another_question_and_a_key_that_fails_are_told(place: Place) -> None:
    path = place.suite("sums", arithmetic_suite(3))
    place.run("suite", "seal", "sums", "--note", "first")
    path.write_text(path.read_text().replace("What is 1 plus 1?", "Name any even prime whatsoever"))
    assert "asked something else in sums@1" in place.run("suite", "check", "sums").stdout
    place.suite("words", 'title: w\nmark: {scheme: exact}\nquestions:\n  - {id: q, ask: x, key: "> 5 m"}\n')
    found = json.loads(place.run("suite", "check", "words", "--format", "json").stdout)["faults"]
    assert [(fault["kind"], fault["question"]) for fault in found] == [("key-fails", "q")]


def test_a_suite_and_an_edition_that_do_not_exist_are_told(place: Place) -> None:
    place.suite("sums", arithmetic_suite(2))
    for reference, words in [
        ("sums@2", "none is sealed yet"),
        ("sums@x", "names no edition"),
        ("smus@1", "did you mean"),
    ]:
        done = place.run("suite", "show", reference)
        assert (done.exit_code, words in done.stderr) == (2, True), reference
    assert place.run("suite", "retire", "sums", "q9", "--because", "x").exit_code == 2
    assert "known are q0, q1" in place.run("suite", "retire", "sums", "q9", "--because", "x").stderr


def test_a_sealed_key_is_prepared_when_a_reply_is_marked_and_what_cannot_be_is_told() -> None:
    prepared = prepare_when_used(Marking("number", "a dozen or so"))
    mark = prepared("12")
    assert (mark.verdict, "this version cannot mark by the sealed key" in mark.reason) == ("open", True)
    assert prepare_when_used(Marking("number", 12))("It is 12.").verdict == "pass"
