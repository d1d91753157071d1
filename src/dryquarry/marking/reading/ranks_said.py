"""Ways of saying which of several goes farthest, comes first or second: patterns, whose group "one" is the answer."""

from __future__ import annotations

import re

from dryquarry.marking.regexes import regex

# "Skye > Mull > Islay", where the largest is asked for
ASKS_MOST = regex(
    r"\b(?:farthest|furthest|largest|biggest|highest|longest|tallest|oldest|heaviest|fastest|greatest|deepest|most)\b",
    re.IGNORECASE,
)
CHAIN = regex(r"(?!.*\sand\s)\W*(?P<one>[^<>]{1,40}?)\s*>\s*[^<>]{1,40}(?:>\s*[^<>]{1,40})+")
# "Mull is large, but Skye is larger.", where the largest is asked for
ASKS_MORE = regex(r"\bwh(?:ich|o|at)\s+(?:is|was|are)\s+(?:the\s+)?[a-z]+er\b", re.IGNORECASE)
STILL_MORE = regex(
    r"\W*(?:but\s+)?(?P<one>[^,;:]{1,40}?)\s+(?:is|was|are|were)\s+(?:even\s+|still\s+|yet\s+|much\s+|slightly\s+)?"
    r"(?:larger|bigger|higher|longer|taller|older|heavier|faster|greater|deeper)(?:\s+(?:still|yet))?\W*",
    re.IGNORECASE,
)
# "Helsinki is north of Tallinn.", where the farthest north is asked for
FARTHER = regex(
    r"\A\W*(?:but\s+)?(?P<one>[^,;:]{1,40}?)\s+(?:is|lies|stands|sits)\s+(?:even\s+|still\s+)?(?P<what>north|south|east|west|above|below|ahead|left|right)\s+of\s",
    re.IGNORECASE,
)
# "Of all these none is larger than Skye."
NONE_MORE = regex(
    r"\b(?:none|nothing|nobody|no\s+(?:other\s+)?[^\W\d_]+)(?:\s+of\s+(?:these|them))?(?:\s+there)?\s+(?:is|are|was|were|comes|goes|lies|stands)\s+"
    r"(?:(?:larger|bigger|higher|longer|taller|older|heavier|faster|greater|deeper|(?:farther|further)(?:\s+\w+)?)\s+than|"
    r"(?:as|so)\s+(?:large|big|high|long|tall|old|heavy|fast|great|deep)\s+as)\s+(?P<one>[^,;:.]{1,40}?)(?=[,;:.]|\s*\Z)",
    re.IGNORECASE,
)
# "Kilimanjaro comes first, then Mount Kenya", where the second is asked for
ASKS_SECOND = regex(r"\bsecond\b|\bsecond-", re.IGNORECASE)
THEN_COMES = regex(
    r"\b(?:first|1st|highest|largest|longest|biggest|number\s+one)\b[^.;]{0,40}?[,;]\s+(?:and\s+)?(?:then|next|followed\s+by|(?:in\s+)?second(?:\s+place)?|number\s+two)\s+"
    r"(?:comes?\s+|is\s+|by\s+)?(?P<one>[^,;:.]{1,50}?)(?=\s+(?:with|and|in)\b|[,;:.]|\s*\Z)|(?:\bfollowed\s+by|\A\W*(?:next|then|second)\s+(?:in\s+line\s+)?(?:comes|is))\s+(?P<other>[^,;:.]{1,50}?)(?=\s+(?:with|and|in)\b|[,;:.]|\s*\Z)",
    re.IGNORECASE,
)
# "Cleo > Ada > Ben, with Cleo at the top"
AT_THE_TOP = regex(
    r"\b(?:with|put(?:s|ting)|leaves|leaving)\s+(?P<one>(?:the\s+)?[A-Z][^\W\d_]+(?:\s[A-Z][^\W\d_]+)?)\s+"
    r"(?:at\s+the\s+(?:top|head|front)|on\s+top|in\s+(?:front|the\s+lead|first\s+place)|ahead|leading|first)\b"
)
# "Of the inner ones Skye comes first"
COMES_FIRST = regex(r"(?P<one>[A-Z][^\W\d_]+(?:\s[A-Z][^\W\d_]+)?)\s+(?:comes|ranks|is|stands)\s+first\b")
ASKS_TOP = regex(
    r"\bwh(?:ich|at|o)\b(?![^?]*\b(?:second|third|fourth|next)\b)[^?]*\b(?:most|[^\W\d_]{2,}est)\b", re.IGNORECASE
)
# "The Cole is the longest and the Birr the shortest."
AND_THE_MOST = regex(
    r"(?:\band|[,;])\s+(?P<one>(?:the\s+)?[^\W\d_]+(?:\s[^\W\d_]+)?)\s+(?:is\s+|was\s+)?the\s+(?P<what>[^\W\d_]+est)\b",
    re.IGNORECASE,
)
# "Kilimanjaro is the highest and Mount Kenya the second-highest."
AND_THE_SECOND = regex(
    r"(?:\band|[,;])\s+(?P<one>(?:the\s+)?[^\W\d_]+(?:\s[^\W\d_]+)?)\s+(?:is\s+|was\s+)?the\s+second[\s-](?P<what>[^\W\d_]+est)\b",
    re.IGNORECASE,
)
# "Velm is 200 years older than Tarn", where it is asked which is older
MORE_SO = regex(
    r"\A\W*(?P<one>[^,;:]{1,60}?)\s+(?:is|are|was|were)\s+[^,;:]{0,40}?\b(?P<what>[^\W\d_]+er)\s+than\b", re.IGNORECASE
)
# "Lake Victoria is smaller than Lake Tanganyika.", where the largest is asked for
ASKS_BIG = regex(r"\b(?:larg|bigg|great|high|tall|long|old|heavi|fast|deep)est\b", re.IGNORECASE)
LESS_THAN = regex(
    r"\A\W*[^,;:]{1,40}?\s+(?:is|was)\s+(?:much\s+|a\s+bit\s+|slightly\s+)?(?:small|low|short|young|light|slow|shallow)er\s+than\s+"
    r"(?P<one>[^,;:.]{1,40}?)(?=[,;.]|\W*\Z)",
    re.IGNORECASE,
)
# "Jupiter has the longest day, Mercury the shortest."
NAME_THE_MOST = regex(
    r"(?:\band|[,;])\s+(?P<one>(?:the\s+)?[A-Z][^\W\d_]+(?:\s[A-Z][^\W\d_]+)?)\s+(?:is\s+|was\s+)?the\s+(?P<what>[^\W\d_]+est)\b"
)
# "It was Harrow, and is Tarn.", where it is asked what it is
ASKS_IS = regex(r"\b(?:what|which)\b[^?]*\bis\b", re.IGNORECASE)
IS_NOW = regex(
    r"\b(?:was|used\s+to\s+be)\s+[^,;:]{1,30}?,?\s+(?:and|but)\s+(?:now\s+)?is\s+(?:now\s+)?(?P<one>[A-Z][^,;:.]{0,40}?)\W*\Z"
)
# "The capital is no longer Harrow but Tarn."
NO_LONGER = regex(
    r"\b(?:no\s+longer|not\s+any\s+more)\s+[^,;:]{1,40}?,?\s+but\s+(?:now\s+)?(?P<one>[^,;:.]{1,40}?)\W*\Z",
    re.IGNORECASE,
)
