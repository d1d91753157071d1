"""The languages in which works are written: what they are called, in fences, file names and sentences."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from dryquarry.marking.regexes import regex


@dataclass(frozen=True, slots=True)
class Language:
    """A language; `fences` are the words by which fences name it, `main` the file that a program of one file is.

    `signs` are what tells text in it where nothing names the language.
    """

    name: str
    title: str
    fences: tuple[str, ...]
    suffixes: tuple[str, ...]
    main: str
    signs: re.Pattern[str]


def _signs(*patterns: str) -> re.Pattern[str]:
    return re.compile("|".join(f"(?:{one})" for one in patterns), re.MULTILINE)


_KNOWN = (
    Language(
        "python",
        "Python",
        ("python", "py", "python3", "py3", "pycon"),
        (".py",),
        "program.py",
        _signs(
            r"^\s*(?:async )?def \w+\(.*\)?.*:\s*(?:#.*)?$",
            r"^(?:from [\w.]+ )?import \w[\w., ]*$",
            r"^\s*print\(.*\)\s*$",
            r"^class \w+.*:\s*$",
            r"^\s*(?:for|while|if) .+:\s*$",
            r"^#!.*python",
        ),
    ),
    Language(
        "javascript",
        "JavaScript",
        ("javascript", "js", "node", "nodejs", "mjs", "jsx", "ecmascript"),
        (".js", ".mjs", ".cjs"),
        "program.js",
        _signs(
            r"^\s*(?:async )?function\*? \w+\(",
            r"^\s*(?:const|let|var) \w+ = ",
            r"console\.log\(",
            r"\)\s*=>\s*[{(\w]",
            r"module\.exports",
            r"\brequire\(['\"]",
        ),
    ),
    Language(
        "c",
        "C",
        ("c", "c99", "c11", "c17"),
        (".c",),
        "program.c",
        _signs(r"^\s*#include <(?:stdio|stdlib|string|math|ctype|stdbool|stdint)\.h>", r"\bprintf\("),
    ),
    Language(
        "c++",
        "C++",
        ("c++", "cpp", "cc", "cxx", "c++17", "c++20", "cpp17", "cpp20"),
        (".cpp", ".cc", ".cxx"),
        "program.cpp",
        _signs(r"^\s*#include <(?:iostream|vector|string|algorithm|map|bits/stdc\+\+\.h)>", r"\bstd::", r"\bcout <<"),
    ),
    Language(
        "shell",
        "shell",
        ("shell", "sh", "bash", "zsh", "console", "shellscript"),
        (".sh", ".bash"),
        "program.sh",
        _signs(
            r"^#!.*\b(?:ba)?sh\b",
            r"^\s*(?:if \[|while read|for \w+ in .*; do|echo |awk |sed |grep )",
            r"^\s*(?:fi|done|esac)\s*$",
        ),
    ),
    Language(
        "sql",
        "SQL",
        ("sql", "sqlite", "sqlite3", "postgresql", "postgres", "mysql", "tsql", "psql"),
        (".sql",),
        "query.sql",
        _signs(r"(?i:^\s*(?:select|with|insert into|update|delete from|create (?:table|view)|pragma)\b)"),
    ),
    Language(
        "html",
        "HTML",
        ("html", "htm", "xhtml", "html5"),
        (".html", ".htm"),
        "page.html",
        _signs(r"(?i:<!doctype html)", r"(?i:<html[\s>])", r"(?i:<body[\s>])"),
    ),
    Language(
        "svg", "SVG", ("svg", "svg+xml", "image/svg+xml"), (".svg",), "drawing.svg", _signs(r"(?i:<svg[\s>])")
    ),
)  # fmt: skip
LANGUAGES: Mapping[str, Language] = {one.name: one for one in _KNOWN}
# Words by which fences name what is none of these languages, whatever it looks like.
OTHER_WORDS = frozenset(
    """
    ts tsx typescript java kotlin scala go golang rust rs ruby rb php perl pl lua r julia swift csharp
    cs vb fsharp dart css scss less json json5 yaml yml toml ini xml-schema diff patch mermaid latex tex
    makefile dockerfile powershell ps1 bat cmd haskell elixir erlang clojure groovy matlab fortran
    pascal assembly asm vue svelte graphql proto csv
    """.split()  # noqa: SIM905 (a list of words is read as one)
)
# Files that go with a program and are no program.
_OTHER_SUFFIXES = frozenset(
    {".txt", ".csv", ".json", ".toml", ".md", ".h", ".hpp", ".css", ".ts", ".go", ".rs", ".java", ".rb", ".lua", ".pl"}
)
SUFFIXES = frozenset(suffix for one in _KNOWN for suffix in one.suffixes) | _OTHER_SUFFIXES


def language_named(name: str) -> Language:
    """Return a language by the name that a question gives; one that is not known here has its name and no more."""
    known = LANGUAGES.get(name) or by_fence(name)
    return known or Language(name, name, (name,), (), f"program.{name}", _NOTHING)


_NOTHING = regex(r"(?!)")


def by_fence(word: str) -> Language | None:
    """Return the language that a fence's word names, or None."""
    return _BY_FENCE.get(word.casefold())


_BY_FENCE = {word: one for one in _KNOWN for word in one.fences}


def by_path(path: str) -> Language | None:
    """Return the language of a file by its suffix, or None."""
    return next((one for one in _KNOWN if path.casefold().endswith(one.suffixes)), None)


def by_content(text: str) -> Language | None:
    """Return the language that a text shows most signs of, or None where it shows none."""
    counts = {one.name: len(one.signs.findall(text)) for one in _KNOWN}
    # C's signs stand in C++ programs too, a page may hold a drawing and scripts: what says more of the whole wins.
    for whole in ("html", "svg", "c++", "c"):
        if counts[whole]:
            return LANGUAGES[whole]
    best = max(counts, key=lambda name: counts[name])
    return LANGUAGES[best] if counts[best] else None
