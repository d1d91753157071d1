"""Ways of saying how something is called, or the same in another word: patterns, whose group "one" is the answer."""

from __future__ import annotations

import re

from dryquarry.marking.regexes import regex

# "The French call it café."
CALLED = regex(
    r"\bcall(?:s|ed)?\s+(?:it|this|that|them|him|her)\s+(?:an?\s+|the\s+)?(?P<one>[^,;:.]{1,60}?)(?=[,;:.]|\s\(|\s+(?:and|or|in|because|since|for|as)\b|\s*\Z)|"
    r"\bby\s+the\s+name\s+of\s+(?P<other>[^,;:.]{1,60}?)(?=[,;:.]|\s\(|\s+(?:and|or|in|because|since|for|as)\b|\s*\Z)",
    re.IGNORECASE,
)
# "Nidaros is what people today call Trondheim."
WHAT_CALL = regex(
    r"\bwhat\s+(?:[^\W\d_]+\s+){1,3}?calls?\s+(?P<one>[^,;:.]{1,60}?)(?=[,;:.]|\s+(?:and|or|in|because)\b|\s*\Z)",
    re.IGNORECASE,
)
# "Its name, from the Latin for 'sixth part', is sextant."
NAME_IS = regex(
    r"\b(?:(?:its|the|his|her)\s+name(?:,\s[^,;:]{1,60},)?\s+(?:is|was)|"
    r"(?:gave|gives|got|has|have|had|bears?)\s(?:[^,;:.]{1,24}\s)?the\s+name)\s+(?P<one>[^,;:.]{1,60}?)(?=[,;:.]|\s\(|\s+(?:and|because)\b|\s*\Z)",
    re.IGNORECASE,
)
# "…, and its name is the Caspian Sea", "retinol, better known as vitamin A"
ITS_NAME_IS = regex(
    r"\b(?:(?i:its|his|her)\s+name\s+is|(?i:better|best|also|commonly)\s+known\s+as)\s+"
    r"(?P<one>(?:the\s+)?(?:[a-z]+\s)?[A-Z][^,;:.]{0,60}?)(?=[,;:.]|\s+(?:and|because)\b|\s*\Z)"
)
ASKS_NAME = regex(r"\b(?:call|called|named?|term|word\s+for|known\s+as)\b", re.IGNORECASE)
# "Such a line is known as an isobar."
KNOWN_AS = regex(
    r"\b(?:known\s+as|called|named|termed)\s+(?P<one>[^,;:.]{1,60}?)(?=[,;:.]|\s\(|\s+(?:and|or|in|because|since)\b|\s*\Z)",
    re.IGNORECASE,
)
# "NW, that is north-west"
THAT_IS = regex(
    r"\W*[^,;:.]{1,24},\s+(?:that\s+is|i\.\s?e\.|or\s+rather),?\s+(?P<one>[^,;:.]{1,40}?)\W*", re.IGNORECASE
)
# "…, from which the body makes vitamin A", where it is asked which vitamin
ASKS_LETTERED = regex(r"\bwhich\s+(?:vitamin|gate|platform|pier|berth|hall|block|wing)\b", re.IGNORECASE)
LETTERED = regex(r"\b(?P<what>vitamin|gate|platform|pier|berth|hall|block|wing)\s+(?P<one>[A-Z]\d{0,2})\b")
# "Cleo is the only one left.", "Only the cat is left for Mara."
IS_LEFT = regex(
    r"(?:\A|,\s)\W*(?:so\s+|and\s+)?only\s+(?P<other>[^,;:]{1,40}?)\s+(?:is|are)\s+left\b|\W*(?:(?:so|only|then)\s+)?(?P<one>[^,;:]{1,40}?)\s+(?:is|are)\s+(?:therefore\s+|thus\s+)?the\s+(?:only\s+|last\s+)?(?:one|person|possibility)\s+"
    r"(?:(?:that|who)(?:['’]s|\s+is)\s+)?(?:left|remaining)\b",
    re.IGNORECASE,
)
