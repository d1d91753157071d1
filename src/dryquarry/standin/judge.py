"""The simulated judge: reads the reply it is sent against the criteria it is sent."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping, Sequence
from typing import Any

from dryquarry.standin.bank import Cue, one_line

_AT_MOST_WORDS = re.compile(r"at most (\d+) words", re.IGNORECASE)
_SMALL_WORDS = frozenset(
    ["the", "that", "this", "with", "from", "what", "when", "which", "their", "they", "have", "does"]
)


def judged(message: str, cues: Sequence[Cue]) -> str | None:
    """Return the judge's answer to a message, or None when the message is no request to mark by criteria."""
    try:
        request = json.loads(message)
        criteria, reply = request["criteria"], str(request["reply"])
        cues = [cue for cue in cues if cue.question in one_line(str(request["question"]))]
    except (ValueError, KeyError, TypeError):
        return None
    given = [_points(criterion, reply, cues) for criterion in criteria]
    return "Here is my marking.\n\n```json\n" + json.dumps({"criteria": given}, ensure_ascii=False, indent=1) + "\n```"


def _points(criterion: Mapping[str, Any], reply: str, cues: Sequence[Cue]) -> dict[str, Any]:
    share, why = _met(str(criterion["asks"]), reply, cues)
    points = round(float(criterion["most_points"]) * share, 2)
    return {"id": criterion["id"], "points": int(points) if points.is_integer() else points, "why": why}


def _met(asks: str, reply: str, cues: Sequence[Cue]) -> tuple[float, str]:
    """Return the share of the points that a reply earns for one criterion, and why."""
    limit = _AT_MOST_WORDS.search(asks)
    if limit:
        count, most = len(reply.split()), int(limit.group(1))
        return (1.0, f"{count} words") if count <= most else (0.0, f"{count} words, more than {most}")
    for cue in cues:
        if cue.criterion not in asks:
            continue
        against = next((match for pattern in cue.missing if (match := pattern.search(reply))), None)
        if against:
            return 0.0, f"it says '{against.group().strip()}'"
        hits = [match for pattern in cue.found if (match := pattern.search(reply))]
        if hits:
            return 1.0, f"it says '{hits[0].group().strip()}'"
        return (0.0, "nothing of the kind is said") if cue.found else (1.0, "nothing against it is said")
    return _shared_words(asks, reply)


def _shared_words(asks: str, reply: str) -> tuple[float, str]:
    """Judge a criterion without a cue by how many of its telling words the reply uses."""
    words = set(re.findall(r"[^\W\d_]{4,}", asks.casefold())) - _SMALL_WORDS
    said = set(re.findall(r"[^\W\d_]{4,}", reply.casefold()))
    if not words:
        return 0.5, "the criterion names nothing to look for"
    share = len(words & said) / len(words)
    return (
        1.0 if share >= 0.5 else 0.5 if share >= 0.25 else 0.0
    ), f"{len(words & said)} of {len(words)} points touched"
