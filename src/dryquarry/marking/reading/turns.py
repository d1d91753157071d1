"""Where a clause turns away from those before it: "…, but it was Piet"."""

from __future__ import annotations

import re

from dryquarry.marking.regexes import regex

LONGEST_TURN = 70
# "…, but in this made-up world it's the Grey Ocean"
_BUT_THERE_IT_IS = regex(
    r"\bbut\s+(?:in|on|for|with|at|here)\b[^,;:.]{0,40}?\sit(?:['’]s|\s+is|\s+was)\s+(?:the\s+|an?\s+)?\Z",
    re.IGNORECASE,
)


def turns(text: str, start: int, place: int) -> bool:
    """Tell whether a clause turns away from those before it: "…, but it was Piet"."""
    near = text[max(start, place - 30) : place]
    if _BUT_THERE_IT_IS.search(text, max(start, place - LONGEST_TURN), place):
        return True
    return (
        re.search(
            r"(?:\bbut|\bwhich leaves|\bso|\btherefore|\bthus|\bhence|\bsondern|\baber|\bmais|\bdonc|\bsino|\bpero|:|→|"
            r"\bno,|\byes,|\byet|\bhere,?|[;,]\s+(?:and\s+)?(?:now|today|nowadays|these\s+days|since\s+then)|"
            r"\bin this case,?|\band(?=\sthat\W?s?\s))\W+"
            r"(?:(?:really|actually|now|today|in fact|in truth|in reality),? )?"
            r"(?:it\W?s? |(?:that|this)\W?s |that is |it is |it was |the |an? |(?:on|in|at) (?:the )?|"
            r"(?:it|that|this) (?:must|has to|can only|could only) (?:be|have been) (?:the |an? )?|"
            r"i'd |i know |i think |i'd say |that )*[\"'“‘*]*$",
            near,
            re.IGNORECASE,
        )
        is not None
    )
