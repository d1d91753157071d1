"""What words tell of a sentence and of what is said in it; one file a language, and adding a language is adding a file.

Each file is a module with a `CUES`: a mapping from a kind of cue, as named in `KINDS`, to regular expressions. Where
a language has none of a kind, the key is absent. All languages are looked for in every reply: a model that is asked
in one may well answer in another.
"""

from __future__ import annotations

import importlib
import pkgutil
import re
from collections.abc import Mapping
from functools import cache, lru_cache

KINDS: Mapping[str, str] = {
    "answers": "names the answer as such: the answer is, my pick",
    "labels": "a label before the result of a reply: final answer, TL;DR",
    "concludes": "opens a sentence that draws the result: so, therefore, in total",
    "checks": "opens a check of the result: to verify, sanity check",
    "remarks": "opens what is no result: note, let me know, tip, source",
    "greets": "a whole sentence of courtesy before an answer: sure, great question",
    "opinions": "opens a sentence with whose view it is, and says no more: I think, in my view",
    "takes leave": "a whole sentence of courtesy after an answer: I hope this helps",
    "evaluates": "a sentence on what was said before it: that is a well-known fact",
    "titles": "the heading of the whole or of the result: solution, answer",
    "sections": "the heading of a part that is no result: explanation, check, background",
    "asks": "says again what was asked",
    "proposes": "offers an answer in the form of a question: how about",
    "supposes": "makes what follows a supposition: if, assuming",
    "hypothetical": "marks a statement as supposed where a supposition stands near it: would",
    "otherwise": "names another case: otherwise, without them",
    "reports": "reports what others or a first thought say: some think, at first sight",
    "withdraws": "takes back what was said before it: wait, on second thought",
    "wrong": "says of what stands before it that it is not so: is wrong, is ruled out",
    "right": "says of what stands before it that it is so: is right, fits",
    "denies": "denies what follows it: not, neither, rather than",
    "but": "ends the reach of a denial: but, it is",
    "alternative": "adds a second final answer: or maybe, alternatively",
    "bounds": "makes a number a bound: more than, at least",
    "doubts": "leaves a statement undecided: not sure whether, I doubt that",
    "aside": "opens a clause that adds to the main one: because, which, since",
    "contrast": "opens a clause on something else: whereas, while",
    "copula": "joins what was asked for with the answer: is, are",
    "who": "opens a clause on what stands before it: who, that",
    "by": "names who or what does it: by",
    "and": "joins members of a list",
    "or": "parts alternatives",
    "abstains": "says that what is given does not decide",
    "guesses": "gives an answer all the same: my best guess is",
    "opens no name": "a word that opens a sentence with a capital and is no name: although, second",
    "goes by a name": "a kind of thing each of which has a name: river, capital",
    "declines": "declines, on grounds of policy or safety",
    "apology": "opens a refusal politely: I'm sorry",
}


@cache
def _all() -> Mapping[str, tuple[str, ...]]:
    found: dict[str, tuple[str, ...]] = dict.fromkeys(KINDS, ())
    for module in pkgutil.iter_modules(__path__):
        language = importlib.import_module(f"{__name__}.{module.name}").CUES
        for kind, patterns in language.items():
            found[kind] = (*found[kind], *patterns)
    return found


@lru_cache(maxsize=4096)
def may_hold(kind: str, text: str) -> bool:
    """Tell whether a cue of a kind may stand in a text; remembered, as each value of a sentence asks for it."""
    return cue(kind, r"(?<!\w)", "").search(text) is not None


def last_cue(kind: str, text: str) -> re.Match[str] | None:
    """Return where the last cue of a kind stands in a text, none inside a word or a hyphenated one."""
    found = None
    for match in cue(kind, r"(?<![\w'-])", r"(?![\w-])").finditer(text):
        found = match
    return found


@cache
def cue(kind: str, before: str = r"\b", after: str = r"(?!\w)") -> re.Pattern[str]:
    """Return the pattern of all cues of a kind, as whole words."""
    patterns = _all()[kind]
    inside = "|".join(pattern.replace(" ?", r"\s*").replace(" ", r"\s+") for pattern in patterns)
    return re.compile(rf"{before}(?:{inside}){after}", re.IGNORECASE)
