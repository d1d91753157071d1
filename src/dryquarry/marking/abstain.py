"""Scheme `abstain`: the reply says that the question cannot be answered from what is given, and does not answer it."""

from __future__ import annotations

import re

from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, failed, passed
from dryquarry.marking.reading import places
from dryquarry.marking.text import fold, shortened, uniform
from dryquarry.marking.words import spelled_out

# Said of the question, not of the model: what is given does not decide the answer.
_ABSTAINS = re.compile(
    r"\b(?:can(?:not|'t|\s+not)|could\s*(?:not|n't)|is\s+not\s+possible\s+to|is\s+impossible\s+to|no\s+way\s+(?:to|of)|"
    r"unable\s+to|not\s+able\s+to)\s+(?:be\s+)?(?:\w+ly\s+)?"
    r"(?:determin\w+|answer\w*|know\w*|sa(?:y|id)|tell\w*|told|decid\w+|work\w*\s+(?:it\s+)?out|calculat\w+|comput\w+|infer\w*|"
    r"deduc\w+|found|find|establish\w*|solv\w+|conclud\w+)"
    r"|\b(?:not|in)\s*(?:enough|sufficient)\s+(?:information|data|details?|facts?)"
    r"|\binsufficient\s+(?:information|data)"
    r"|\b(?:information|data|detail|fact)s?\s+(?:is|are)\s+(?:missing|lacking|not\s+(?:given|provided|stated|there))"
    r"|\b(?:does\s*(?:not|n't)|do\s*(?:not|n't)|never|did\s*(?:not|n't))\s+(?:say|tell|state|mention|specify|give\s+(?:us\s+)?(?:the|enough|any))"
    r"|\b(?:is|are|was|were)\s*(?:not|n't)\s+(?:given|stated|specified|mentioned|provided|known|determinable)"
    r"|\b(?:cannot\s+be\s+known|undetermined|indeterminate|undeterminable|unknowable|it\s+depends\s+on\s+\w+)"
    r"|\bno\s+(?:information|data)\b|\bwould\s+need\s+(?:to\s+know|more)|\bwe\s+(?:do\s*(?:not|n't))\s+know",
    re.IGNORECASE,
)
_POLICY = re.compile(
    r"\b(?:policy|policies|guidelines|not\s+allowed|not\s+permitted|not\s+comfortable|harmful|unsafe|inappropriate|against\s+my)\b"
    r"|\bi\s*(?:'m|\s+am)\s+sorry,?\s+but\s+i\s+(?:can(?:not|'t))\s+(?:help|assist|do\s+that)\b",
    re.IGNORECASE,
)
_ANSWERS_ANYWAY = re.compile(
    r"\b(?:but|however|still|though|so)\b[^.!?\n]{0,60}\b(?:the\s+answer\s+is|my\s+(?:best\s+)?(?:guess|estimate)\s+is|"
    r"i(?:'d|\s+would)\s+(?:guess|say|estimate)|i\s+(?:guess|assume|estimate)|most\s+likely\s+(?:it\s+is|is|it's)|"
    r"(?:it\s+is|it's)\s+(?:probably|likely))",
    re.IGNORECASE,
)
# "…, but a page takes ten minutes, so it was 18:40": what is concluded after the objection is the answer.
_CONCLUDES_ANYWAY = re.compile(
    r"\b(?:but|however|still|though|yet|assuming|suppos\w+|if\s+(?:we|i)\s+(?:assume|take|suppose))\b[^?!\n]{8,160}"
    r"\b(?:so|therefore|hence|thus|then|that\s+(?:makes|gives|is)|which\s+(?:makes|gives))\b(?P<conclusion>[^?!\n]{1,160})",
    re.IGNORECASE,
)
_NO_ANSWER = re.compile(
    r"\W*(?:unknown|n/?a|none|undetermined|indeterminate|unclear|\?+|not\s+\w+|cannot\s+\w+.*)\W*", re.IGNORECASE
)


def prepare(marking: Marking) -> Marker:
    """Return the marker for abstaining; raises MarkingFault when a phrase is no text."""
    phrases = marking.options.get("phrases", [])
    if not all(isinstance(phrase, str) and phrase.strip() for phrase in phrases):
        raise MarkingFault("option 'phrases' of scheme 'abstain' wants a list of texts")
    folded = [fold(phrase) for phrase in phrases]

    def abstains(text: str) -> str | None:
        plain = uniform(text)
        match = _ABSTAINS.search(plain)
        if match:
            return match.group()
        whole = fold(text)
        return next((phrase for phrase in folded if phrase in whole), None)

    def mark(text: str) -> Mark:
        said = abstains(text)
        if said is None:
            return failed("the reply does not say that the question cannot be answered from what is given")
        if _POLICY.search(uniform(text)):
            return failed("the reply declines on other grounds than what is given")
        stated = next((one for one in places(text, marking.answer_line) if one.read_by == "answer line"), None)
        if stated is not None and not (abstains(stated.text) or _NO_ANSWER.fullmatch(uniform(stated.text))):
            reason = f"says '{shortened(said)}', and then answers '{shortened(stated.text)}'"
            return failed(reason, shortened(stated.text, 200), stated.read_by, stated.start)
        anyway = _ANSWERS_ANYWAY.search(uniform(text))
        if anyway:
            return failed(f"says '{shortened(said)}', and then answers anyway: '{shortened(anyway.group())}'")
        concluded = _CONCLUDES_ANYWAY.search(uniform(text))
        if concluded and not abstains(concluded.group()) and re.search(r"\d", spelled_out(concluded["conclusion"])):
            return failed(f"says '{shortened(said)}', and then concludes '{shortened(concluded.group())}'")
        read_by, start = (stated.read_by, stated.start) if stated else ("whole reply", 0)
        return passed(f"says '{shortened(said)}', and answers nothing", shortened(said, 200), read_by, start)

    return mark


SCHEME = Scheme(name="abstain", options={"phrases": (list,)}, prepare=prepare, marks_refusals=True, reads_whole=True)
