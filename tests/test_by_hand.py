"""Asking by hand: sheets come back exactly as they were filled in, and nothing in them is lost or mixed up."""

from __future__ import annotations

import csv
import io
import json
import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import Place, arithmetic_suite
from dryquarry.errors import FaultyFiles
from dryquarry.suites.sheet_entry import SheetEntry
from dryquarry.suites.sheets import FORMS, read_sheet, write_sheet

BY_HAND = '[entrant.ruff]\nmodel = "ruff-preview"\nsystem = "Take your time."\n'

replies = st.text(st.characters(exclude_categories=["Cs"]) | st.sampled_from("\n`\"',=<>-#"), max_size=80).filter(
    lambda text: "\x00" not in text
)


@given(st.lists(replies, min_size=1, max_size=4), st.sampled_from(FORMS))
def test_a_filled_sheet_reads_back_exactly(texts: list[str], form: str) -> None:
    entries = [
        SheetEntry("sums", "3", "ruff", f"q{n}", 1, "ab" * 32, f"=What is {n}?\n```\ncode\n```", text)
        for n, text in enumerate(texts)
    ]
    written = write_sheet(entries, form, "Be brief.")
    # As a file: written and read without changing line ends.
    found = read_sheet(written.encode("utf-8").decode("utf-8"), form, "sheet")
    assert [(one.question, one.trial, one.ask_digest, one.reply) for one in found] == [
        (one.question, one.trial, one.ask_digest, one.reply) for one in entries
    ]


@pytest.mark.parametrize("form", FORMS)
def test_a_sheet_is_filled_in_collected_and_marked(place: Place, form: str) -> None:
    place.suite("sums", arithmetic_suite(5))
    place.entrants(BY_HAND)
    sheet = place.root / f"ruff.{form}"
    assert place.run("sheet", "sums", "-e", "ruff", "--out", sheet.name).exit_code == 0
    assert place.run("sheet", "sums", "-e", "ruff", "--out", sheet.name).exit_code == 3  # never written over
    assert "Take your time." in sheet.read_text("utf-8") or form != "md"
    code = "First I add:\r\n\r\n```\nx = 0 + 1\n\n\n```\n\nÆ — “one”  \n\nAnswer: 1"
    fill(sheet, {"q0": code, "q1": "Answer: 3", "q2": "I'm sorry, I can't help with that."})
    report = place.json("collect", sheet.name)
    assert {name: report[name] for name in ("new", "changed", "same", "empty", "unknown")} == {
        "new": 3, "changed": 0, "same": 0, "empty": 2, "unknown": 0,
    }  # fmt: skip
    found = {reply["question"]: reply for reply in place.json("replies", "sums")}
    assert found["q0"]["text"] == code
    assert [(found[name]["verdict"], found[name]["outcome"]) for name in ("q0", "q1", "q2")] == [
        ("pass", "answered"), ("fail", "answered"), ("fail", "refused"),
    ]  # fmt: skip
    assert (found["q0"]["seconds"], found["q0"]["cost"]) == (None, None)
    fill(sheet, {"q1": "Answer: 2"})
    again = place.json("collect", sheet.name)
    assert (again["new"], again["changed"], again["same"], again["empty"]) == (0, 1, 2, 2)
    (row,) = place.json("board", "sums")["rows"]
    assert (row["passed"], row["marked"], row["asked"], row["unfinished"]["missing"]) == (2, 3, 5, 2)
    rest = place.root / f"rest.{form}"
    assert "2 questions written" in place.run("sheet", "sums", "-e", "ruff", "--out", rest.name).stderr


def fill(sheet: Path, texts: dict[str, str]) -> None:
    """Put replies into a sheet as a person would."""
    content = sheet.read_bytes().decode("utf-8")
    form = sheet.suffix[1:]
    entries = read_sheet(content, form, "sheet")
    if form == "md":
        for entry in entries:
            token = re.search(r'"token": "(\w+)"', content)[1]  # type: ignore[index]
            end = f"\n<!-- end {token}: {entry.question}, trial 1 -->"
            if entry.question in texts:
                head, _, tail = content.partition(f"{entry.ask_digest} -->\n")
                before, _, after = tail.partition(end)
                assert before == entry.reply
                content = f"{head}{entry.ask_digest} -->\n{texts[entry.question]}{end}{after}"
    else:
        filled = [
            SheetEntry(
                one.suite, one.edition, one.entrant, one.question, one.trial, one.ask_digest, "",
                texts.get(one.question, one.reply),
            )
            for one in entries
        ]  # fmt: skip
        content = write_sheet(filled, form)
    sheet.write_bytes(content.encode("utf-8"))


def test_what_a_sheet_cannot_be_collected_for_is_told(place: Place) -> None:
    place.suite("sums", arithmetic_suite(3))
    place.entrants(BY_HAND + '[entrant.knot]\nendpoint = "standin:"\nmodel = "standin-knot"\n')
    refused = place.run("sheet", "sums", "-e", "knot", "--out", "knot.md")
    assert (refused.exit_code, "has an endpoint" in refused.stderr) == (2, True)
    assert place.run("sheet", "sums", "-e", "ruff", "--out", "ruff.pdf").exit_code == 2
    place.run("sheet", "sums", "-e", "ruff", "--out", "ruff.jsonl")
    sheet = place.root / "ruff.jsonl"
    rows = [json.loads(line) for line in sheet.read_text("utf-8").splitlines()]
    rows[0]["reply"], rows[1]["question"] = "Answer: 1", "q77"
    sheet.write_text("".join(json.dumps(row) + "\n" for row in rows), "utf-8")
    place.suite("sums", arithmetic_suite(3).replace("What is 0", "How much is 0"))
    report = place.json("collect", "ruff.jsonl")
    assert (report["unknown"], report["empty"], report["new"]) == (2, 1, 0)
    told = {one["question"]: one["why"] for one in report["replies"] if one["why"]}
    assert "changed since the sheet was written" in told["q0"]
    assert "no such question" in told["q77"]


@pytest.mark.parametrize(
    ("text", "form", "words"),
    [
        ("# nothing\n", "md", "first line"),
        (
            '<!-- sheet: {"suite": "s", "edition": "1", "entrant": "e", "token": "0a0b0c0d"} -->\n',
            "md",
            "no place for a reply",
        ),
        (
            '<!-- sheet: {"suite": "s", "edition": "1", "entrant": "e", "token": "0a0b0c0d"} -->\n'
            f"<!-- reply 0a0b0c0d: q, trial 1, {'0' * 64} -->\nmy reply\n",
            "md",
            "end 0a0b0c0d: q, trial 1",
        ),
        ("a,b\n1,2\n", "csv", "names no column"),
        ('{"suite": 1}\n', "jsonl", "no suite"),
        ("{", "jsonl", "not readable as JSON"),
    ],
)
def test_a_damaged_sheet_is_told(text: str, form: str, words: str) -> None:
    with pytest.raises(FaultyFiles, match=words):
        read_sheet(text, form, "sheet")


def test_the_same_place_twice_is_told() -> None:
    entry = SheetEntry("s", "1", "ruff", "q", 1, "ab" * 32, "", "one")
    with pytest.raises(FaultyFiles, match="stands twice"):
        read_sheet(write_sheet([entry, entry], "md"), "md", "sheet")


def written(replies: list[str], system: str | None = None) -> str:
    entries = [SheetEntry("s", "1", "e", f"q{n}", 1, "ab" * 32, f"What is {n}?", one) for n, one in enumerate(replies)]
    return write_sheet(entries, "md", system)


def test_a_sheet_pasted_into_a_reply_is_a_part_of_it() -> None:
    another = written(["mine", "also mine"])
    found = read_sheet(written([another, "last"]), "md", "sheet")
    assert [one.reply for one in found] == [another, "last"]


@pytest.mark.parametrize(
    ("old", "new", "at", "words"),
    [
        ("q0, trial 1 -->\n\n##", "q0, trial 1 -->\nAnswer: 7\nand more\n\n##", "Answer: 7", "outside of every place"),
        ("What is 1?\n", "What is 1?\nAnswer: 2\n", "```text-[0-9a-f]+\nWhat is 1", "text of a question was changed"),
        ("# s@1", "Answer: 7\n# s@1", "Answer: 7", "outside of every place"),
        ("\nright\n", "\n<!-- end TOKEN: q9 -->\n", "<!-- end TOKEN: q9", "line of this sheet stands inside"),
        ("```\n\n<!-- reply TOKEN: q1", "\n\n<!-- reply TOKEN: q1", "```text-[0-9a-f]+\nWhat is 1", "closing line"),
    ],
)
def test_what_is_not_understood_is_an_error_with_its_line(old: str, new: str, at: str, words: str) -> None:
    sheet = written(["right", "wrong"])
    token = re.search(r'"token": "(\w+)"', sheet)[1]  # type: ignore[index]
    old, new, at = (text.replace("TOKEN", token) for text in (old, new, at))
    assert old in sheet
    sheet = sheet.replace(old, new, 1)
    with pytest.raises(FaultyFiles, match=words) as fault:
        read_sheet(sheet, "md", "sheet")
    place = re.search(at, sheet)
    assert place is not None
    assert [one.line for one in fault.value.faults] == [sheet[: place.start()].count("\n") + 1]


def test_a_sheet_that_an_editor_has_tidied_is_still_read() -> None:
    sheet = written(["right", "wrong"], "Be brief.  \nAlways.")
    tidied = "\r\n".join(line.rstrip() for line in sheet.split("\n")) + "\r\n\r\n"
    assert [one.reply for one in read_sheet("\ufeff" + tidied, "md", "sheet")] == ["right", "wrong"]


@pytest.mark.parametrize("separator", [";", "\t"])
def test_a_sheet_that_a_spreadsheet_saved_with_another_separator_is_read(separator: str) -> None:
    entry = SheetEntry("s", "1", "e", "q", 1, "ab" * 32, "What; is, 1?", 'Well, "1"; or so\nAnswer: 1')
    rows = csv.reader(write_sheet([entry], "csv").splitlines(keepends=True))
    out = io.StringIO()
    csv.writer(out, delimiter=separator).writerows(rows)
    assert read_sheet(out.getvalue(), "csv", "sheet")[0].reply == entry.reply
