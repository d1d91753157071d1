"""Taking programs, queries, pages and drawings out of replies."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from ruamel.yaml import YAML

from dryquarry.marking.works.model import NoWork, Work
from dryquarry.marking.works.taking import program_in, text_in

CASES: list[dict[str, Any]] = YAML(typ="safe", pure=True).load(Path(__file__).parent / "data" / "works.yaml")


def taken(case: dict[str, Any]) -> Work | NoWork:
    if "kind" in case:
        return text_in(case["text"], case["kind"])
    return program_in(case["text"], case["languages"], case.get("wanted", ()))


@pytest.mark.parametrize("case", CASES, ids=[case["id"] for case in CASES])
def test_the_work_that_was_meant_is_taken(case: dict[str, Any]) -> None:
    work = taken(case)
    if "none" in case:
        assert isinstance(work, NoWork)
        assert case["none"] in work.reason
        return
    assert isinstance(work, Work), work
    text = "\n".join(one.text for one in work.files)
    assert [one for one in case.get("has", []) if one not in text] == []
    assert [one for one in case.get("lacks", []) if one in text] == []
    assert [one.path for one in work.files] == case.get("files", [one.path for one in work.files])
    assert work.main == case.get("main", work.main)


@pytest.mark.parametrize("case", [case for case in CASES if "none" not in case], ids=lambda case: case["id"])
def test_a_file_stands_at_its_place_in_the_reply(case: dict[str, Any]) -> None:
    work = taken(case)
    assert isinstance(work, Work)
    for one in work.files:
        first = next(line.strip() for line in one.text.splitlines() if line.strip())
        assert first in case["text"][one.start : one.end]


@given(
    st.text(alphabet="`~ \n#<>svgdefSELECT();:=\"'\\/.py", max_size=200),
    st.sampled_from(["sql", "html", "svg", "python"]),
)
def test_no_text_breaks_the_taking(text: str, kind: str) -> None:
    work = program_in(text, [kind]) if kind == "python" else text_in(text, kind)
    if isinstance(work, Work):
        assert 0 <= work.start <= work.end <= len(text)
        assert work.main in {one.path for one in work.files}
    else:
        assert work.reason
