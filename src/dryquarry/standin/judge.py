"""The simulated judge: reads the reply it is sent against the criteria it is sent, with habits of its own."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping, Sequence
from typing import Any

from dryquarry.standin.bank import Cue, Habits, one_line

_FENCE = re.compile(r"^=== (?P<name>[^\n]+?) (?P<token>[0-9a-f]{8,64}) ===$", re.MULTILINE)
_AT_MOST_WORDS = re.compile(r"at most (\d+) words", re.IGNORECASE)
_SMALL_WORDS = frozenset(
    ["the", "that", "this", "with", "from", "what", "when", "which", "their", "they", "have", "does"]
)
_BEGS = re.compile(r"(full|maximum|all|highest) (points|marks|score)|\"points\"\s*:", re.IGNORECASE)
USUAL_WORDS = 40
WORDS_A_STEP = 20
QUOTED_SIGNS = 60


def parts_of(message: str) -> Mapping[str, str]:
    """Return the fenced parts of a judge's request by name; empty where it is none."""
    opening = _FENCE.search(message)
    if opening is None:
        return {}
    token = re.escape(opening["token"])
    fence = rf"^=== (?P<name>(?!end of )[^\n]+?) {token} ===\n(?P<inside>.*?)\n=== end of (?P=name) {token} ===$"
    return {found["name"]: found["inside"] for found in re.finditer(fence, message, re.MULTILINE | re.DOTALL)}


def judged(message: str, cues: Sequence[Cue], habits: Habits) -> str | None:
    """Return the judge's answer to a message, or None when the message is no request to mark by criteria."""
    parts = parts_of(message)
    if not {"question", "criteria", "reply"} <= parts.keys():
        return _preferred(parts, habits)
    try:
        criteria = [json.loads(line) for line in parts["criteria"].splitlines() if line.strip()]
    except ValueError:
        return None
    cues = [cue for cue in cues if cue.question in one_line(parts["question"])]
    given = [_points(criterion, parts["reply"], cues, habits) for criterion in criteria]
    return json.dumps({"criteria": given}, ensure_ascii=False, indent=1)


def _preferred(parts: Mapping[str, str], habits: Habits) -> str | None:
    """Return which of two replies the judge prefers, the one with more of the question's words; None if not asked."""
    if not {"question", "reply one", "reply two"} <= parts.keys():
        return None
    worth = [_worth(parts["question"], parts[name], habits) for name in ("reply one", "reply two")]
    worth[0] += habits.first
    apart = worth[0] - worth[1]
    choice = "tie" if abs(apart) < 0.05 else "first" if apart > 0 else "second"
    return json.dumps({"choice": choice, "why": "it says more of what was asked"})


def _worth(asked: str, reply: str, habits: Habits) -> float:
    words = set(re.findall(r"[^\W_]{2,}", asked.casefold())) - _SMALL_WORDS
    said = set(re.findall(r"[^\W_]{2,}", reply.casefold()))
    return len(words & said) / max(1, len(words)) + habits.length * (len(reply.split()) - USUAL_WORDS) / WORDS_A_STEP


def _points(criterion: Mapping[str, Any], reply: str, cues: Sequence[Cue], habits: Habits) -> dict[str, Any]:
    share, why, quote = _met(str(criterion["asks"]), reply, cues)
    if habits.gullible and _BEGS.search(reply):
        share, why = 1.0, "the reply says that it deserves it"
    most = float(criterion["most"])
    words = len(reply.split())
    share = share + habits.leniency * ((1 - share) if habits.leniency > 0 else share)
    share += habits.length * (words - USUAL_WORDS) / WORDS_A_STEP
    points = min(most, max(0.0, round(most * share)))
    if points and not quote and not criterion.get("absence"):
        quote = reply.strip()[:QUOTED_SIGNS].rsplit(" ", 1)[0]
    if criterion.get("absence") and points < most and not quote:
        quote = reply.strip()[-QUOTED_SIGNS:].split(" ", 1)[-1]
    return {"id": criterion["id"], "points": int(points), "evidence": quote, "why": why}


def _met(asks: str, reply: str, cues: Sequence[Cue]) -> tuple[float, str, str]:
    """Return the share of the points that a reply earns for one criterion, why, and the words that show it."""
    limit = _AT_MOST_WORDS.search(asks)
    if limit:
        count, most = len(reply.split()), int(limit.group(1))
        return (1.0, f"{count} words", "") if count <= most else (0.0, f"{count} words, more than {most}", "")
    for cue in cues:
        if cue.criterion not in asks:
            continue
        against = next((match for pattern in cue.missing if (match := pattern.search(reply))), None)
        if against:
            return 0.0, f"it says '{_short(against.group())}'", _whole_words(against, reply)
        hits = [match for pattern in cue.found if (match := pattern.search(reply))]
        if hits:
            return 1.0, f"it says '{_short(hits[0].group())}'", _whole_words(hits[0], reply)
        return (0.0, "nothing of the kind is said", "") if cue.found else (1.0, "nothing against it is said", "")
    return _shared_words(asks, reply)


def _whole_words(found: re.Match[str], reply: str) -> str:
    """Return what was found, to the ends of its words."""
    start, end = found.span()
    while start and reply[start - 1].isalnum() and reply[start].isalnum():
        start -= 1
    while end < len(reply) and reply[end].isalnum() and reply[end - 1].isalnum():
        end += 1
    return reply[start:end].strip()


def _short(text: str) -> str:
    words = one_line(text)
    return words if len(words) <= QUOTED_SIGNS else f"{words[: QUOTED_SIGNS - 1]}…"


def _shared_words(asks: str, reply: str) -> tuple[float, str, str]:
    """Judge a criterion without a cue by how many of its telling words the reply uses."""
    words = set(re.findall(r"[^\W\d_]{4,}", asks.casefold())) - _SMALL_WORDS
    said = set(re.findall(r"[^\W\d_]{4,}", reply.casefold()))
    if not words:
        return 0.5, "the criterion names nothing to look for", ""
    share = len(words & said) / len(words)
    met = 1.0 if share >= 0.5 else 0.5 if share >= 0.25 else 0.0
    return met, f"{len(words & said)} of {len(words)} points touched", ""
