"""Ways of saying what lies there, what one takes or uses, whose it is: patterns, whose group "one" is the answer."""

from __future__ import annotations

import re

from dryquarry.marking.regexes import regex

# "White is not blue, so what is in there is salt."
WHAT_IS_IN = regex(
    r"\bwhat\s+(?:is|was|are|were|stands?|lies|comes?)\s+(?:in|on|at|there|under|behind|inside|next)\b[^,;:]{0,30}?\s(?:is|was|are)\s+(?P<one>[^,;:.]{1,40}?)(?=[,;:.]|\s*\Z)",
    re.IGNORECASE,
)
# "what they take in is carbon dioxide"
WHAT_THEY_DO = regex(
    r"\bwhat\s+(?:[^\W\d_]+\s+)?(?P<what>[^\W\d_]+)(?:\s(?:in|out|up|off|on|for))?\s+(?:is|are)\s+(?P<one>[^,;:.]{1,40}?)(?=[,;:.]|\s*\Z)",
    re.IGNORECASE,
)
# "For bronze one adds tin."
ONE_USES = regex(
    r"\b(?:one|you|we|they|people)\s+(?:adds?|uses?|takes?|calls?|says?|finds?|gets?|needs?|sees?|puts?)\s+(?P<one>[^,;:.]{1,40}?)(?=[,;:.]|\s*\Z)",
    re.IGNORECASE,
)
# "'dog' is the noun, 'slept' the verb"
AND_THE = regex(
    r"(?:\band|[,;])\s+['\"“‘]?(?P<one>[^\W\d_]+)['\"”’]?\s+(?:is\s+)?(?:the|an?)\s+(?P<what>[^\W\d_]+)(?=[,;.]|\s+and\b|\s*\Z)",
    re.IGNORECASE,
)
# "red (box), blue (lid)", where the colour of the lid is asked for
IN_BRACKETS_OF = regex(
    r"(?:\A|[,;]\s(?:and\s)?)\W*(?P<one>[^,;()]{1,40}?)\s\((?:the\s)?(?P<what>[^\W\d_]+)\)(?=[,;]|\W*\Z)"
)
# "At its mouth, where it widens into a bay, lies Lisbon, the capital."
LIES_THERE = regex(
    r"(?:\A\W*|[,;]\s)(?:at|in|on|behind|beyond|beside|under|above|below|near|between|opposite|next\s+to|in\s+front\s+of|north|south|east|west)\s[^,;:]{1,60}"
    r"(?:,\s[^,;:]{1,60},)?\s+(?:lies|lay|stands|stood|sits|sat|lives|lived|hangs|hung|begins|ends)\s+(?:the\s+)?(?P<one>[^,;:]{1,40}?)(?=[,;:]|\W*\Z)"
    r"(?![,;]\s+(?:and\s+|but\s+|while\s+)?(?:at|in|on|behind|beyond|beside|under|above|below|near|between)\s)",
    re.IGNORECASE,
)
ASKS_WHAT_LIES = regex(
    r"\A\W*(?:what|who)\b|\b(?:which|what)\s+[^\W\d_]+(?:\s+[^\W\d_]+)?\s+"
    r"(?:lies|lay|stands|stood|sits|sat|lives|lived|hangs|hung|begins|ends|is|was)\b",
    re.IGNORECASE,
)
# "There's salt in the blue jar."
THERE_IS = regex(
    r"\bthere(?:['’]s|\s+is|\s+are|\s+was|\s+were)\s+(?:only\s+|just\s+)?(?P<one>(?!no\b|not\b|nothing\b)[^,;:.]{1,40}?)\s+"
    r"(?:in|inside|on|at|under|behind|below|above|beneath)\s",
    re.IGNORECASE,
)
ASKS_WHAT_IS_THERE = regex(
    r"\bwhat(?:['’]s|\s+(?:is|are|was|were))\s+(?:there\s+)?(?:in|inside|on|at|under|behind|below|above|beneath)\b",
    re.IGNORECASE,
)
# "1st Mira, 2nd Ove, 3rd Nele", where it is asked who won
RANKED = regex(
    r"\W*(?:1st|1[.:)]|first)[:.]?\s+(?P<one>[^,;:.]{1,40}?)[,;]\s+(?:and\s+)?(?:2nd|2[.:)]|second)[:.]?\s+[^;:]{1,120}",
    re.IGNORECASE,
)
ASKS_WINNER = regex(r"\b(?:won|wins|winner|(?:is|was|came|comes|finished)\s+(?:in\s+)?first)\b", re.IGNORECASE)
# "…, and its author is Hypatia"
ITS_ONE_IS = regex(
    r"\b(?i:its|their)\s+(?:[a-z]+(?:er|or|ist|ian)|captain|chief|head|king|queen|poet|architect)\s+(?:is|was)\s+"
    r"(?P<one>[A-Z][^,;:.]{1,40}?)(?=[,;:.]|\s+and\b|\s*\Z)"
)
# "Take the one on the left.", "you have to take the left door"
TAKE_IT = regex(
    r"(?:\A\W*|\b(?:one|you|we|I|he|she|they)(?:['’]d|\s+(?:have\s+to|has\s+to|must|should|needs?\s+to|would))\s+)"
    r"(?:take|choose|pick|use|open|go\s+through)\s+"
    r"(?:the\s+one\s+(?:on|in|at|to)\s+)?(?:the\s+)?(?P<one>(?!it\b|this\b|that\b|them\b|one\b)[^,;:.]{1,40}?)(?=[,;:.]|\s+(?:because|since|as|and)\b|\s*\Z)",
    re.IGNORECASE,
)
ASKS_WHICH = regex(r"\bwhich\b", re.IGNORECASE)
