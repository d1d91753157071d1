"""No reply of up to 1 MB takes longer than 1 s in any scheme but `expression`: the slowest of many awkward ones.

Of each the better of two tries, as the machine may have other things to do.
"""

from __future__ import annotations

import sys

from common import report, seconds

from dryquarry.marking.model import Marking
from dryquarry.marking.registry import prepare

SIZE = 1_000_000
PIECES = [
    "word ", "Answer: ", "Answer: 5\n", "the answer is ", "\\boxed{", "\\boxed{5}", "(", ")", "{", '{"a": ', "[1, ",
    "1,", "1 ", "1.", "1/", "9^", "-", "*", "**5** ", "_", "`", "\n", " ", "\t", "\u00a0", "a\u0301", "5 or 6 ", "or maybe 5. ",
    "so 5. ", "e.g. ", "A) the red lamp\n", "B ", "- item\n", "1. item\n", "one hundred ", "and ", "2 h 15 min ",
    "14:15 ", "€5 ", "5 km/h ", "%", "= ", "≈ 5 ", "\\frac{1}{2}", "√", "π", "x^", "not ", "cannot be determined ", "ﬀ", "İ",
    "\"", "'", "\x00", "\x1b[31m", "😀", "null, ", "level ", "```json\n", "<think>", "1e9", "0" * 1000 + " ",
]  # fmt: skip
CHOICES = (("A", "the red lamp"), ("B", "the green lamp"), ("C", "the white lamp"))
RULES: list[dict] = [
    {"words": 5}, {"sentences": 5}, {"list_items": 1}, {"has": ["sea", "tide table"]}, {"begins": "s", "each": "sentence"},
    {"spells": "tide"}, {"same_ends": True}, {"vowels_in_order": True}, {"palindrome": True}, {"anagram_of": "sea"},
    {"no_letters": "z"}, {"capitals": "all"}, {"json": True}, {"one_of": ["a"]},
]  # fmt: skip
MARKINGS = {
    "exact": Marking("exact", ["red"], {}, (), "Answer:"),
    "number": Marking("number", 5, {}, (), "Answer:"),
    "number, money": Marking("number", 5, {"unit": "EUR"}, (), "Answer:"),
    "number, unit": Marking("number", 5, {"unit": "min"}, (), "Answer:"),
    "number, clock": Marking("number", "14:15", {"unit": "clock"}, (), "Answer:"),
    "choice": Marking("choice", "B", {}, CHOICES, "Answer:"),
    "set": Marking("set", ["red", "green"], {}, (), "Answer:"),
    "sequence": Marking("sequence", ["red", "green"], {}, (), "Answer:"),
    "fields": Marking("fields", {"a": 1}, {}, (), "Answer:"),
    "pattern": Marking("pattern", "(a+)+b", {"whole": True}, (), "Answer:"),
    **{f"rules, {next(iter(rule))}": Marking("rules", None, {"rules": [rule]}) for rule in RULES},
    "self_count": Marking("self_count", None, {"of": "words"}),
    "abstain": Marking("abstain", None, {}, (), "Answer:"),
}  # fmt: skip


def main() -> None:
    chosen = sys.argv[1:]
    for name, marking in MARKINGS.items():
        if chosen and not name.startswith(tuple(chosen)):
            continue
        mark = prepare(marking)
        slowest, at = 0.0, ""
        for piece in PIECES:
            text = piece * (SIZE // len(piece.encode()) + 1)
            took = min(seconds(lambda text=text: mark(text)) for _ in range(2))  # type: ignore[misc]
            if took > slowest:
                slowest, at = took, piece
        report(f"{name}: slowest reply of 1 MB ({at[:20].strip() or at!r} again and again)", slowest, 1, "s")


if __name__ == "__main__":
    main()
