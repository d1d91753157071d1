"""The layers: imports go downwards only, and the pure ones touch nothing outside."""

from __future__ import annotations

import ast
import subprocess
import sys
from pathlib import Path

import pytest

import dryquarry

ROOT = Path(dryquarry.__file__).parent
# Higher first; a package may import those after it, and `errors`.
ORDER = ["cli", "showing", "workspace", "asking", "sandbox", "ledger", "standin", "suites", "marking", "standing"]
# Below the line: standing takes verdicts and outcomes from marking, and suites proves keys by marking.
PURE = {"suites": {"marking"}, "marking": set(), "standing": {"marking"}}
OUTSIDE = {
    "os",
    "pathlib",
    "time",
    "random",
    "socket",
    "sqlite3",
    "aiohttp",
    "sqlalchemy",
    "datetime",
    "subprocess",
}


def imports_of(package: str) -> list[tuple[Path, str]]:
    found = []
    for path in sorted((ROOT / package).rglob("*.py")):
        if path.parent.name == "harness":  # scripts that run inside the sandbox, by themselves
            continue
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.Import):
                found += [(path, alias.name) for alias in node.names]
            elif isinstance(node, ast.ImportFrom):
                found.append((path, node.module or ""))
    return found


@pytest.mark.parametrize("package", ORDER)
def test_a_layer_imports_only_from_below(package: str) -> None:
    allowed = PURE.get(package, set(ORDER[ORDER.index(package) + 1 :])) | {package, "errors"}
    for path, module in imports_of(package):
        if module.startswith("dryquarry."):
            assert module.split(".")[1] in allowed, f"{path.name} imports {module}"


@pytest.mark.parametrize("package", PURE)
def test_a_pure_layer_touches_no_clock_file_or_network(package: str) -> None:
    for path, module in imports_of(package):
        assert module.split(".")[0] not in OUTSIDE, f"{path.name} imports {module}"


def test_no_sql_stands_outside_the_ledger() -> None:
    for package in set(ORDER) - {"ledger"}:
        for path, module in imports_of(package):
            assert not module.startswith(("sqlalchemy", "sqlite3")), f"{path.name} imports {module}"


def test_no_file_and_no_function_outgrows_reading() -> None:
    for path in ROOT.rglob("*.py"):
        text = path.read_text("utf-8")
        # the cues of a language are data, one a line
        assert text.count("\n") <= 450 or path.parent.name == "cues", path
        for node in ast.walk(ast.parse(text)):
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
                assert (node.end_lineno or 0) - node.lineno < 60, f"{path.name}: {node.name}"


def test_every_benchmark_finds_what_it_imports() -> None:
    folder = Path(__file__).parent.parent / "benchmarks"
    names = sorted(path.stem for path in folder.glob("*.py"))
    done = subprocess.run(
        [sys.executable, "-c", f"import {', '.join(names)}"], cwd=folder, capture_output=True, text=True
    )
    assert (done.returncode, len(names) > 20) == (0, True), done.stderr
