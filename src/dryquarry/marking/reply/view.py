r"""A reply as a reader sees it: without signs of emphasis and math delimiters, with one kind of quote and space.

The original text is never rewritten. A `View` is a second text beside it, in which every index leads back to the
place in the original; its lines are the lines of the original. Text that is struck out is not in it.
"""

from __future__ import annotations

import re
import unicodedata
from bisect import bisect_right
from dataclasses import dataclass

from dryquarry.marking.regexes import regex

_SAME_LENGTH = {
    **dict.fromkeys("‘’‚‛′ʼ´", "'"),
    **dict.fromkeys("“”„‟″«»", '"'),
    **dict.fromkeys("‐‑‒−﹣－", "-"),
    **dict.fromkeys("\u00a0\u2007\u202f\u2009\u200a\u2002\u2003\u3000\t", " "),
    "―": "—",
    "：": ":",
    "\r": " ",
    "\x0b": " ",
    "\x0c": " ",
    "\u2028": " ",
    "\u2029": " ",
    "\x85": " ",
}
_UNLIKE = frozenset(_SAME_LENGTH)
_SEEN = regex(r"[*_`~$\\<\[\]{&\U0001f300-\U0001faff]|[\u200b-\u200d\u2060\ufeff\u00ad\u0300-\u036f]| {9}")
# Small pictures at the end of a line; thumbs, lamps and medals say something.
_PICTURES = (
    r"[\U0001f300-\U0001f44c\U0001f44f-\U0001f533\U0001f536-\U0001f64f\U0001f680-\U0001f6ff"
    r"\U0001f900-\U0001f946\U0001f94a-\U0001faff\ufe0f\u200d]"
)
_MARKUP = regex(
    rf"(?P<picture>(?<=[^\s:])[ ]+(?:{_PICTURES}[ ]?){{1,4}}(?=[ ]*(?:\n|\Z)))"
    r"""
    | (?P<gap>[ ]{9,})
    | (?P<unseen>[\u200b-\u200d\u2060\ufeff\u00ad])
    | (?P<composed>[^\W\d_][\u0300-\u036f]{1,4})
    | ~~(?P<struck>[^\n~]{1,400})~~
    | (?P<tag></?(?:br|b|i|em|strong|u|p|div|span|code|mark|small|sup|sub|center|li|ul|ol)(?:\s[^<>\n]{0,80})?/?>)
    | !?\[(?P<link>[^\[\]\n]{1,200})\]\((?:https?:|/|\#|mailto:)[^()\n]{0,400}\)
    | \\(?:text(?:bf|it|rm|tt|sf)?|math(?:rm|bf|it|sf|tt)|operatorname)\s*\{(?P<worded>[^{}\n]{0,400})\}
    | (?P<degree>\^\s?(?:\{\s?\\circ\s?\}|\\circ(?![A-Za-z])))
    | (?P<spacing>\\(?:[,;:!\ ]|q?quad(?![A-Za-z])|left(?![a-z])|right(?![a-z])|displaystyle|(?:begin|end)\{[a-z]+\*?\})
        |\\\\(?:\[\d+pt\])?|(?<=\ )&(?=\s?=)|(?<=\n)&(?=\s?=)|&(?==))
    | \\(?P<escaped>[%$€£&_\#*.!~>+-])
    | (?P<comma>\{,\})
    | (?P<inline>\\[()])
    | (?P<delimiter>\\[\[\]]|\$\$)
    | (?P<dollar>\$)
    | (?P<ticks>`+)
    | (?P<signs>\*+|_+)
    """,
    re.VERBOSE,
)
_TAGS = {"sup": "^", "br": " ", "li": " "}


@dataclass(frozen=True, slots=True)
class View:
    """A text and where each stretch of it stands in the original; `bold` are the stretches set in bold."""

    text: str
    starts: tuple[int, ...] = (0,)
    origins: tuple[int, ...] = (0,)
    bold: tuple[tuple[int, int], ...] = ()
    struck: tuple[tuple[int, int], ...] = ()

    def origin(self, index: int) -> int:
        """Return the place in the original of the character at an index."""
        run = bisect_right(self.starts, index) - 1
        return self.origins[run] + index - self.starts[run]


def view_of(source: str) -> View:
    """Return the view of a text."""
    plain = source
    for sign in set(source) & _UNLIKE:
        plain = plain.replace(sign, _SAME_LENGTH[sign])
    if not _SEEN.search(plain):
        return View(plain)
    return _Building(plain).view()


# A longer gap says nothing more.
WIDEST_GAP = 8


class _Building:
    """A walk over the markup of a text, keeping what is seen and noting where it came from."""

    def __init__(self, plain: str):
        self.plain = plain
        self.parts: list[str] = []
        self.length = self.taken = 0
        self.starts, self.origins = [0], [0]
        self.bold: list[tuple[int, int]] = []
        self.struck: list[tuple[int, int]] = []
        # signs of emphasis that wait for their second: where they stand in the original, and in the view
        self.open: dict[str, tuple[int, int]] = {}
        self.closing_dollar = -1
        self.blanks = 0  # spaces at the end of what is seen so far

    def view(self) -> View:
        for match in _MARKUP.finditer(self.plain):
            if match.start() < self.taken:
                continue
            said = self._seen_as(match)
            if said is not None:
                self._keep(self.taken, match.start())
                self._say(said, match)
                self.taken = match.end()
        self._keep(self.taken, len(self.plain))
        return View("".join(self.parts), tuple(self.starts), tuple(self.origins), tuple(self.bold), tuple(self.struck))

    def _keep(self, start: int, end: int) -> None:
        kept = self.plain[start:end]
        if kept and not self._widens_gap(kept):
            self._mark(start)
            self.parts.append(kept)
            self.length += end - start

    def _widens_gap(self, said: str) -> bool:
        """Tell whether spaces only make a gap wider that is one already; what is between many signs adds up to that."""
        bare = said.rstrip(" ")
        if bare:
            self.blanks = len(said) - len(bare)
            return False
        if self.blanks >= WIDEST_GAP:
            return True
        self.blanks += len(said)
        return False

    def _mark(self, origin: int) -> None:
        if self.starts[-1] == self.length:
            self.origins[-1] = origin
        else:
            self.starts.append(self.length)
            self.origins.append(origin)

    def _say(self, said: str, match: re.Match[str]) -> None:
        if said and not self._widens_gap(said):
            inner = match.start(match.lastgroup) if match.lastgroup in ("link", "worded", "escaped") else match.start()
            self._mark(inner)
            self.parts.append(said)
            self.length += len(said)

    def _seen_as(self, match: re.Match[str]) -> str | None:
        """Return what a reader sees of a piece of markup; None where it is no markup and stands as it is."""
        kind, text = match.lastgroup or "", match.group()
        if kind == "composed":
            return unicodedata.normalize("NFC", text)
        if kind == "struck":
            self.struck.append(match.span("struck"))
            return ""
        if kind in ("link", "worded", "escaped"):
            return match[kind]
        if kind == "tag":
            return "" if text[1] == "/" else _TAGS.get(text.strip("<>/").split()[0], "")
        if kind == "dollar":
            return self._dollar(match.start())
        if kind == "ticks":
            return "'" if self._between_letters(match) else ""
        if kind == "signs":
            return self._emphasis(match)
        # a longer gap says nothing more, and what looks for words across it takes its time
        return {
            "gap": " " * WIDEST_GAP,
            "unseen": "",
            "picture": "",
            "inline": "",
            "degree": "°",
            "spacing": " ",
            "comma": ",",
            "delimiter": " ",
        }[kind]

    def _between_letters(self, match: re.Match[str]) -> bool:
        before, after = self.plain[match.start() - 1 : match.start()], self.plain[match.end() : match.end() + 1]
        return len(match.group()) == 1 and before.isalpha() and after.isalpha()

    def _dollar(self, place: int) -> str | None:
        """Drop a dollar sign that delimits mathematics: nothing but a digit parts it from an amount of money."""
        if place == self.closing_dollar:
            return ""
        after = self.plain[place + 1 : place + 2]
        if not after or after.isspace():
            return None
        end = self.plain.find("$", place + 1, place + 600)
        if end < 0 or "\n" in self.plain[place:end] or self.plain[end - 1].isspace():
            return None
        if self.plain[end + 1 : end + 2].isdigit():
            return None
        self.closing_dollar = end
        return ""

    def _emphasis(self, match: re.Match[str]) -> str | None:
        """Drop signs of emphasis; a star between factors and a line under a name stand as they are."""
        signs, start, end = match.group(), match.start(), match.end()
        before, after = self.plain[start - 1 : start], self.plain[end : end + 1]
        ends = not before or before.isspace()
        begins = bool(after) and not after.isspace()
        place = self.length + start - self.taken
        opened = self.open.get(signs)
        if opened is not None and not ends and "\n\n" not in self.plain[opened[0] : start]:
            if signs == "_" and after.isalnum():
                return None
            del self.open[signs]
            if len(signs) > 1:
                self.bold.append((opened[1], place))
            return ""
        if begins and (ends or not (before.isalnum() or before in ")]}_\\")):
            self.open[signs] = (start, place)
            return ""
        # the second of a pair whose first stands in another paragraph
        lone = signs[0] == "*" and len(signs) > 1 and not ends and (not begins or not (after.isalnum() or after == "("))
        return "" if lone else None
