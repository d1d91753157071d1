"""Which of several pieces of code are the program: the last whole version, with the parts that it leans on."""

from __future__ import annotations

import ast
import builtins
import re
from collections.abc import Sequence
from dataclasses import dataclass

from dryquarry.marking.regexes import regex
from dryquarry.marking.works.pieces import Piece

WHOLE_SHARE = 0.5
_BUILT_IN = frozenset(dir(builtins)) | {"__name__", "__file__", "__doc__"}
_JS_DEFINED = regex(
    r"^(?:export\s+)?(?:default\s+)?(?:async\s+)?(?:function\*?|class|const|let|var)\s+(\w+)\b(?!\s*=\s*(?:await\s+)?(?:require|import)\b)",
    re.M,
)
_JS_EXPORTED = regex(r"(?:module\.)?exports\.(\w+)\s*=|module\.exports\s*=\s*\{([^}]*)\}")
_MAKING = (ast.FunctionDef, ast.AsyncFunctionDef, ast.ClassDef)
_WORDS = regex(r"[A-Za-z_$][\w$]*")


@dataclass(frozen=True, slots=True)
class Names:
    """What a piece of code defines for others, and what it uses that others must define; `whole` if it can be read.

    `made` are the functions and classes among what it defines, `imported` what it takes from elsewhere.
    """

    defined: frozenset[str]
    used: frozenset[str]
    whole: bool = True
    made: frozenset[str] = frozenset()
    imported: frozenset[str] = frozenset()

    @property
    def own(self) -> frozenset[str]:
        """What it defines itself, and does not only take from elsewhere."""
        return self.defined - self.imported


def names_in(piece: Piece, language: str) -> Names:
    """Return the names that a piece of code defines and uses; of languages that are not read here, none."""
    if language == "python":
        return _python_names(piece.text)
    if language == "javascript":
        exported = (
            word for single, several in _JS_EXPORTED.findall(piece.text) for word in _WORDS.findall(single or several)
        )
        defined = frozenset(_JS_DEFINED.findall(piece.text)) | frozenset(exported)
        return Names(defined, frozenset(_WORDS.findall(piece.text)) - defined, made=defined)
    return Names(frozenset(), frozenset())


def _python_names(text: str) -> Names:
    try:
        tree = ast.parse(text)
    except (SyntaxError, ValueError, RecursionError, MemoryError):
        return Names(frozenset(re.findall(r"^(?:async )?(?:def|class) (\w+)", text, re.M)), frozenset(), whole=False)
    top: set[str] = set()
    imported: set[str] = set()
    for node in _at_top(tree.body):
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef):
            top.add(node.name)
        elif isinstance(node, ast.Import | ast.ImportFrom):
            imported |= {(one.asname or one.name).partition(".")[0] for one in node.names}
        else:
            top |= {one.id for one in ast.walk(node) if isinstance(one, ast.Name) and isinstance(one.ctx, ast.Store)}
    top |= imported
    stored = {one.id for one in ast.walk(tree) if isinstance(one, ast.Name) and not isinstance(one.ctx, ast.Load)}
    stored |= {one.arg for one in ast.walk(tree) if isinstance(one, ast.arg)}
    inner = {
        one.name for one in ast.walk(tree) if isinstance(one, ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef)
    }
    caught = {one.name for one in ast.walk(tree) if isinstance(one, ast.ExceptHandler) and one.name}
    brought = {
        (each.asname or each.name).partition(".")[0]
        for one in ast.walk(tree)
        if isinstance(one, ast.Import | ast.ImportFrom)
        for each in one.names
    }
    loaded = {one.id for one in ast.walk(tree) if isinstance(one, ast.Name) and isinstance(one.ctx, ast.Load)}
    made = frozenset(node.name for node in tree.body if isinstance(node, _MAKING))
    return Names(
        frozenset(top),
        frozenset(loaded - stored - inner - caught - brought - top - _BUILT_IN),
        made=made,
        imported=frozenset(imported),
    )


def _at_top(body: Sequence[ast.stmt]) -> list[ast.stmt]:
    """Return the statements of a module, those within `if` and `try` too."""
    found: list[ast.stmt] = []
    for node in body:
        found.append(node)
        if isinstance(node, ast.If | ast.Try | ast.With):
            found += _at_top(node.body)
            found += _at_top(getattr(node, "orelse", []))
            found += [one for handler in getattr(node, "handlers", []) for one in _at_top(handler.body)]
    return found


def the_program(pieces: Sequence[Piece], language: str, wanted: Sequence[str]) -> list[Piece]:
    """Return the pieces that are the program, in their order.

    `wanted` are names that it must define. It is the last piece that defines them all, or, where nothing is wanted,
    the last that is as long as a whole program of this reply is; with the earlier pieces that it leans on. Where no
    piece has all that is wanted, the pieces that have some of it are the program together.
    """
    names = [names_in(piece, language) for piece in pieces]
    places = [place for place, one in enumerate(names) if set(wanted) <= one.own] if wanted else []
    if wanted and not places:
        parts = [place for place, one in enumerate(names) if one.own & set(wanted)]
        if len(parts) > 1 and set(wanted) <= frozenset().union(*(names[place].own for place in parts)):
            return [pieces[place] for place in _with_needed(parts, names)]
    if not places:
        longest = max(len(piece.text.strip()) for piece in pieces)
        long = [place for place, one in enumerate(pieces) if len(one.text.strip()) >= WHOLE_SHARE * longest]
        places = [place for place in long if names[place].whole] or long
    return [pieces[place] for place in _with_needed([places[-1]], names)]


def _with_needed(chosen: Sequence[int], names: Sequence[Names]) -> list[int]:
    """Return the places chosen with those of the earlier pieces that define what they use, the last that does each."""
    taken = set(chosen)
    open_names = frozenset().union(*(names[place].used for place in chosen))
    have = frozenset().union(*(names[place].defined for place in chosen))
    open_names -= have
    while open_names:
        name = min(open_names)
        open_names -= {name}
        before = [place for place in range(max(chosen)) if name in names[place].defined and names[place].whole]
        after = [place for place in range(max(chosen), len(names)) if name in names[place].made]
        place = before[-1] if before else after[0] if after else None
        if place is not None and place not in taken:
            taken.add(place)
            have |= names[place].defined
            open_names = (open_names | names[place].used) - have
    return sorted(taken)
