"""Runs inside the sandbox of an author's tests: tells pytest's own report to the tool, a line a test."""

import json
import os

_goes = os.fdopen(int(os.environ["REPORT_OUT"]), "w", encoding="utf-8")


def _tell(name, ok, said, seconds):
    _write({"name": name, "ok": ok, "said": said, "seconds": round(seconds, 3)})


def _write(said):
    _goes.write(json.dumps(said) + "\n")
    _goes.flush()


def pytest_collection_finish(session):
    _write({"all": [one.nodeid.partition("::")[2] for one in session.items]})


def _said(report):
    crash = getattr(report.longrepr, "reprcrash", None)
    text = crash.message if crash is not None else str(report.longrepr or "")
    lines = [line.strip() for line in text.strip().splitlines() if line.strip()]
    if crash is None:
        # a file that cannot be collected: what it broke on stands in the last line marked as an error
        marked = [line[1:].strip() for line in lines if line.startswith("E ")]
        return (marked or lines or [""])[-1][:600]
    return "; ".join(lines[:2])[:600]


def pytest_collectreport(report):
    if report.failed:
        _tell(report.nodeid.rpartition("/")[2], False, _said(report), 0.0)


def pytest_runtest_logreport(report):
    name = report.nodeid.partition("::")[2] or report.nodeid
    if report.skipped:
        _write({"skipped": name})
    elif report.when == "call":
        _tell(name, report.passed, "" if report.passed else _said(report), report.duration)
    elif report.failed:
        _tell(name, False, _said(report), report.duration)
