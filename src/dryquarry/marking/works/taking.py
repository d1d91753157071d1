"""Taking the work out of a reply: which of what it shows is the program, query, page or drawing that was asked for."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator, Sequence

from dryquarry.marking.regexes import regex
from dryquarry.marking.works.languages import LANGUAGES, Language, by_content, by_path, language_named
from dryquarry.marking.works.model import NoWork, Work, WorkFile
from dryquarry.marking.works.pieces import Piece, pieces_of
from dryquarry.marking.works.versions import the_program

MOST_FILES = 40
ENDS_OPEN = regex(r"[({\[,=+\-*/\\:]\s*$")


def program_in(text: str, languages: Sequence[str], wanted: Sequence[str] = ()) -> Work | NoWork:
    """Return the program that a reply gives, in one of these languages (any that is known, where none is named).

    `wanted` are the names that it must define, which tells versions and parts from examples of use.
    """
    known = [language_named(name) for name in languages] or list(_PROGRAMS)
    pieces = pieces_of(text)
    fitting = [piece for piece in pieces if _fits(piece, known)]
    if not any(piece.fenced for piece in fitting):
        # a function without a fence has its body indented, which Markdown takes for code by itself
        bare, indented = _without_fence(_outside(text, pieces), known), sum(len(piece.text) for piece in fitting)
        if bare is not None and len(bare.text) >= indented:
            return bare
        if not fitting:
            return _none(text, pieces, known)
    language = _language_of(fitting[-1], known)
    own = [piece for piece in fitting if _language_of(piece, known) == language]
    # a piece that shows what a prompt answered is an example beside a program
    shown = [piece for piece in own if not piece.is_session] or own
    named = _last_by_path(pieces, language)
    unnamed = [piece for piece in shown if piece.path is None or _is_other(piece.path, language)]
    if named and (len(named) > 1 or not unnamed or _defines(named, wanted)):
        found: Work | NoWork = _of_files(named, language, wanted)
    else:
        found = _of_pieces(the_program(shown, language.name, wanted), shown, language)
    return _unless_cut_off(found, shown, language)


_PROGRAMS = tuple(LANGUAGES[name] for name in ("python", "javascript", "c", "c++", "shell"))


def text_in(text: str, kind: str) -> Work | NoWork:
    """Return the query, page or drawing (`kind` is "sql", "html" or "svg") that a reply gives, the last whole one."""
    language = LANGUAGES[kind]
    pieces = pieces_of(text)
    fitting = [piece for piece in pieces if _fits(piece, [language])]
    if kind == "sql" and fitting:
        # tables made up beforehand are no query; where there is nothing else, they are what was asked for
        asking = [piece for piece in fitting if not _MAKES_TABLES.match(piece.text)] or fitting
        return _unless_cut_off(_of_pieces(asking[-1:], fitting, language), fitting, language)
    if kind == "html" and (several := _page_of_files(pieces, fitting, language)) is not None:
        return several
    if kind != "sql":
        whole = _marked_up(text, kind, [piece for piece in pieces if piece.word in ("", "xml", "html", "svg")])
        if whole is not None:
            return whole
    if not fitting:
        return _without_fence(_outside(text, pieces), [language]) or _none(text, pieces, [language])
    return _unless_cut_off(_of_pieces(the_program(fitting, kind, ()), fitting, language), fitting, language)


_MAKES_TABLES = regex(
    r"(?is)\s*(?:--[^\n]*\n\s*)*(?:create\s+(?:temp\w*\s+)?table|insert\s+into)\b(?!.*;\s*(?:select|with)\b)"
)
_NAMES_FILE = regex(r"""(?i)<(?:link|script)\b[^>]*?(?:href|src)\s*=\s*["']([\w./-]+\.(css|js))["']""")


def _page_of_files(pieces: Sequence[Piece], pages: Sequence[Piece], language: Language) -> Work | None:
    """Return a page with the styles and scripts that stand in fences of their own, or None where it has none."""
    if not pages:
        return None
    named = _last_by_path(pieces, language)
    if len(named) > 1:
        return _of_files(named, language, ())
    page = pages[-1]
    files = [WorkFile(page.path or language.main, page.text, page.start, page.end)]
    for name, suffix in dict.fromkeys(_NAMES_FILE.findall(page.text)):
        words = ("css",) if suffix.casefold() == "css" else ("js", "javascript")
        own = [
            one for one in pieces if one is not page and (one.path == name or (one.path is None and one.word in words))
        ]
        if own:
            files.append(WorkFile(name.removeprefix("./"), own[-1].text, own[-1].start, own[-1].end))
    if len(files) == 1:
        return None
    return Work(language.name, files[0].path, tuple(files), f"{len(files)} files")


def _fits(piece: Piece, languages: Sequence[Language]) -> bool:
    if any(piece.word in one.fences for one in languages):
        return True
    language = piece.language
    if language is not None:
        return language in languages
    # nothing tells what it is: a fence without a word may be what was asked for, a word that is none is not
    return piece.fenced and not piece.word and len(languages) == 1 and len(piece.text.strip().splitlines()) > 1


def _language_of(piece: Piece, languages: Sequence[Language]) -> Language:
    named = next((one for one in languages if piece.word in one.fences), None)
    return named or (piece.language if piece.language in languages and piece.language is not None else languages[0])


def _is_other(path: str, language: Language) -> bool:
    """Tell whether a path is of another language than the code that stands under it."""
    other = by_path(path)
    return other is not None and other is not language


def _last_by_path(pieces: Sequence[Piece], language: Language) -> dict[str, Piece]:
    """Return the last version of each file that is named, where one of them is of the language."""
    named = {piece.path: piece for piece in pieces if piece.path is not None and not piece.is_session}
    ours = [path for path in named if by_path(path) is language or (not language.suffixes and path)]
    return dict(list(named.items())[:MOST_FILES]) if ours else {}


def _defines(named: dict[str, Piece], wanted: Sequence[str]) -> bool:
    text = "\n".join(piece.text for piece in named.values())
    return all(re.search(rf"\b{re.escape(name)}\b", text) for name in wanted)


def _of_files(named: dict[str, Piece], language: Language, wanted: Sequence[str]) -> Work:
    # a name cannot be a file's and a folder's at once
    kept = {path: piece for path, piece in named.items() if not any(one.startswith(f"{path}/") for one in named)}
    files = tuple(WorkFile(path, piece.text, piece.start, piece.end) for path, piece in kept.items())
    ours = [one for one in files if by_path(one.path) is language] or list(files)
    how = f"{len(files)} files" if len(files) > 1 else "named in the reply"
    return Work(language.name, _main_of(ours, language, wanted), files, how)


_STARTS = (r'__name__\s*==\s*["\']__main__', r"\bint\s+main\s*\(", r"require\.main\s*===\s*module")


def _main_of(files: Sequence[WorkFile], language: Language, wanted: Sequence[str]) -> str:
    """Return the file to run: the one that defines what is wanted, that starts the program, is called main, or last."""
    for name in wanted:
        for one in reversed(files):
            if re.search(rf"\b(?:def|class|function|const|let|var)\s+{re.escape(name)}\b", one.text):
                return one.path
    starting = [one for one in files if any(re.search(sign, one.text) for sign in _STARTS)]
    called = [one for one in files if re.match(r"(?:.*/)?(?:main|index|app|program|__main__)\.\w+$", one.path)]
    return (called or starting or list(files))[-1].path


def _of_pieces(chosen: Sequence[Piece], shown: Sequence[Piece], language: Language) -> Work:
    text = "\n".join(piece.text.rstrip("\n") for piece in chosen) + "\n"
    files = (WorkFile(language.main, text, chosen[0].start, chosen[-1].end),)
    how = ""
    if len(chosen) > 1:
        how = f"{len(chosen)} pieces of {len(shown)} together"
    elif len(shown) > 1:
        how = f"piece {shown.index(chosen[0]) + 1} of {len(shown)}"
    elif not chosen[0].fenced:
        how = "indented, without a fence"
    return Work(language.name, language.main, files, how)


def _unless_cut_off(found: Work | NoWork, shown: Sequence[Piece], language: Language) -> Work | NoWork:
    """Return the work, or that the reply ends in the middle of it."""
    last = shown[-1]
    if isinstance(found, NoWork) or last.closed or found.end < last.start or found.start > last.end:
        return found
    if _ends_whole(last.text, language):
        return found
    return NoWork("the reply was cut off in the middle of its code", last.start)


def _ends_whole(text: str, language: Language) -> bool:
    """Tell whether code that the reply ends with, its fence left open, may be all of it."""
    if language.name == "python":
        try:
            ast.parse(text)
        except (SyntaxError, ValueError, RecursionError, MemoryError):
            return False
        return True
    if language.name in ("html", "svg"):
        return re.search(rf"(?i)</{language.name}\s*>\s*$", text) is not None
    if ENDS_OPEN.search(text):
        return False
    return text.count("{") == text.count("}") and text.count("(") == text.count(")")


def _none(text: str, pieces: Sequence[Piece], languages: Sequence[Language]) -> NoWork:
    """Return why there is no work: none at all, one of another language, or one that was cut off."""
    if not text.strip():
        return NoWork("the reply is empty")
    thing = {"sql": "query", "html": "page", "svg": "drawing"}.get(languages[0].name, "program")
    others = [one for piece in pieces if (one := piece.language) is not None and one not in languages]
    wanted = " or ".join(one.title for one in languages)
    others = [one for one in others if thing != "program" or one in _PROGRAMS]
    if others and len(languages) < len(_PROGRAMS):
        return NoWork(f"no {thing} in {wanted} in the reply; it holds {others[-1].title}", pieces[-1].start)
    return NoWork(f"no {thing} in the reply")


def _outside(text: str, pieces: Sequence[Piece]) -> str:
    """Return a text with blanks where it is fenced: what stands there was looked at already."""
    for piece in pieces:
        if piece.fenced:
            inside = re.sub(r"[^\n]", " ", text[piece.start : piece.end])
            text = text[: piece.start] + inside + text[piece.end :]
    return text


def _without_fence(text: str, languages: Sequence[Language]) -> Work | None:
    """Return code that stands in a reply without any fence."""
    for language in languages:
        if language.name == "sql":
            found = _bare_query(text)
        elif language.name == "python":
            found = _bare_python(text)
        else:
            found = _bare_lines(text, language)
        if found is not None:
            start, end = found
            file = WorkFile(language.main, text[start:end].rstrip() + "\n", start, end)
            return Work(language.name, language.main, (file,), "without a fence")
    return None


_BARE_QUERY = regex(
    r"(?im)^[ \t]*`?((?:SELECT|WITH|INSERT\s+INTO|UPDATE|DELETE\s+FROM|CREATE|DROP)\b[^`;]*;?)"
    r"|`((?:SELECT|WITH)\b[^`]+)`"
)
# As a statement begins, and a sentence such as "Select the boat you like best from the list" does not.
_STATEMENT = regex(
    r"(?is)select\s+(?:distinct\s+)?(?:\*|[\w.\"']+(?:\s*\(|\s*,|\s+as\b|\s*[-+*/|]|\s+from\b|\s*;?\s*$)|\(|case\b)|"
    r"with\s+(?:recursive\s+)?\w+\s*(?:\([^)]*\)\s*)?as\b|insert\s+into\s+\w+\s*(?:\(|values|select)|"
    r"update\s+\w+\s+set\s+\w+\s*=|delete\s+from\s+\w+\s*(?:where|;|$)|(?:create|drop)\s+(?:table|view|index)\b"
)


def _bare_query(text: str) -> tuple[int, int] | None:
    """Return where the last query stands that begins a line, up to its semicolon or an empty line."""
    found = None
    for match in _BARE_QUERY.finditer(text):
        group = 1 if match[1] else 2
        query = re.split(r"\n\s*\n", match[group])[0]
        if _STATEMENT.match(query):
            found = match.start(group), match.start(group) + len(query)
    return found


_PYTHON_BEGINS = regex(r"(?:async def|def|class|import|from|@|if __name__|#!|[A-Za-z_]\w* = |for \w|while |print\()")


def _bare_python(text: str) -> tuple[int, int] | None:
    """Return the longest run of lines that Python can read, from one that begins like a program on."""
    starts = [0, *(match.end() for match in re.finditer("\n", text))]
    ends = [*starts[1:], len(text)]
    best: tuple[int, int] | None = None
    for first in _beginnings(text, starts):
        if best is not None and starts[first] < best[1]:
            continue
        for last in _possible_ends(text, starts, ends, first):
            if _reads(text[starts[first] : ends[last]]):
                if best is None or ends[last] - starts[first] > best[1] - best[0]:
                    best = starts[first], ends[last]
                break
    return best or _python_in_a_line(text)


def _python_in_a_line(text: str) -> tuple[int, int] | None:
    """Return the last function that stands in a line of prose, set as code."""
    spans = [
        match.span(1)
        for match in re.finditer(r"`+(?:python |py )?((?:async )?def \w+\([^`\n]+|\w+ = lambda [^`\n]+)`", text)
    ]
    readable = [span for span in spans if _reads(text[slice(*span)])]
    return readable[-1] if readable else None


MOST_BEGINNINGS = 40
MOST_ENDS = 60


def _beginnings(text: str, starts: Sequence[int]) -> list[int]:
    found = [place for place, start in enumerate(starts) if _PYTHON_BEGINS.match(text, start)]
    return found[:MOST_BEGINNINGS]


def _possible_ends(text: str, starts: Sequence[int], ends: Sequence[int], first: int) -> Iterator[int]:
    """Yield lines at which code that begins at a line may end, the last first: before a blank line, or at the end."""
    blank = [place - 1 for place in range(first + 1, len(starts)) if not text[starts[place] : ends[place]].strip()]
    found = [one for one in (*blank, len(starts) - 1) if one >= first]
    yield from reversed(found[-MOST_ENDS:])


def _reads(code: str) -> bool:
    """Tell whether Python reads a text, and it does something: prose of one word is code, too."""
    try:
        tree = ast.parse(code)
    except (SyntaxError, ValueError, RecursionError, MemoryError):
        return False
    return any(not isinstance(node, ast.Expr) or isinstance(node.value, ast.Call) for node in tree.body)


_CODE_LINE = regex(r"[{};]\s*$|^\s*(?://|/\*|\*|#include|#define|#!|[})\]])|^\s+\S|^\s*$")


def _bare_lines(text: str, language: Language) -> tuple[int, int] | None:
    """Return the lines from the first with a sign of the language to the last that looks like code."""
    if by_content(text) is not language:
        return None
    first = language.signs.search(text)
    if first is None:
        return None
    start = text.rfind("\n", 0, first.start()) + 1
    end = start
    place = start
    for line in text[start:].splitlines(keepends=True):
        place += len(line)
        if line.strip() and (_CODE_LINE.search(line) or language.name == "shell"):
            end = place
        elif line.strip() and not _CODE_LINE.search(line) and not language.signs.search(line):
            break
    return (start, end) if text[start:end].count("\n") >= 1 or language.name == "shell" else None


_MARKUP = {
    "html": regex(r"(?is)(?:<!doctype html[^>]*>\s*)?<html\b.*?</html\s*>"),
    "svg": regex(r"(?is)<svg\b.*?</svg\s*>"),
}


def _marked_up(text: str, kind: str, pieces: Sequence[Piece]) -> Work | None:
    """Return the last whole page or drawing, in a fence or in the middle of prose."""
    found = list(_MARKUP[kind].finditer(text))
    if not found:
        return None
    match = found[-1]
    start, end = match.start(), match.end()
    if kind == "svg":
        start, end = _outermost(text, start, end)
    inside = any(piece.start <= start and end <= piece.end for piece in pieces)
    how = f"the last of {len(found)}" if len(found) > 1 else "" if inside else "without a fence"
    file = WorkFile(LANGUAGES[kind].main, text[start:end] + "\n", start, end)
    return Work(kind, file.path, (file,), how)


def _outermost(text: str, start: int, end: int) -> tuple[int, int]:
    """Return where a drawing ends that holds drawings."""
    tags = list(re.finditer(r"(?i)<svg\b|</svg\s*>", text))
    depth, begun = 0, start
    best = start, end
    for tag in tags:
        if tag[0].startswith("</"):
            depth -= 1
            if depth <= 0:
                depth = 0
                best = begun, tag.end()
        else:
            if depth == 0:
                begun = tag.start()
            depth += 1
    return best
