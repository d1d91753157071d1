"""Which claim of a reply stands: one numbered table of rules, the same for every scheme.

1. What is denied, supposed, reported, withdrawn, asked or only a bound never stands.
2. Checks, remarks and what is asked again never compete.
3. A place that says itself that the answer stands there (answer line, box, JSON field, label) is taken at its word:
   where it states nothing of the kind, nothing weaker is looked at.
4. Then "the answer is …", then the bare first words of a reply, then its last conclusion, then a first sentence that
   takes up what was asked, then the last sentence that states something.
5. Of places of the same strength the latest stands.
6. What is taken back after an answer ("wait, it is 5") gives way to what is said then.
7. Alternatives ("or maybe 5") add a second final answer.
8. What 4 says of a sentence of prose gives way to a claim that is much likelier by the weights of `likely.py`.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from heapq import heappop, heappush

from dryquarry.marking.cues import cue
from dryquarry.marking.reading.claims import Claim, Found, Place, PlaceKind, Question, Stance
from dryquarry.marking.reading.echo import asks_yes_or_no, echo, question_in
from dryquarry.marking.reading.kinds import LEAST_TAKEN_UP, Kind, Settled, Value, Weight
from dryquarry.marking.reading.likely import compared, shares_of, weights_of
from dryquarry.marking.reading.openings import first_that_may_answer, is_bare, is_title, says_how_many
from dryquarry.marking.reading.places import LONGEST_PLACE, sentence_at, statements, telling_places
from dryquarry.marking.reading.roles import Role, Told, roles_of, states_asked
from dryquarry.marking.reading.stances import Around, stance_of
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply

MOST_SENTENCES = 60
MOST_CLAIMS = 60
MOST_SENTENCES_AFTER = 40
SHORTEST_WITHDRAWAL = 2
# How much less weight a sentence may have and still be taken for the answer by somebody else.
NEARLY = 1.0
LIST_WEIGHT = 2.5
# Of what is only looked at where nothing else stands.
LEAST_WEIGHT = -9.0
# What only says again what was asked is no answer, even where nothing else is said.
_RESTATES = regex(
    r"\?|you (?!(?:say|write|get|use|need)\b)|the question|(?:we|i)(?: are|'re| were) |given|"
    r"the (?:task|puzzle|problem)",
    re.IGNORECASE,
)


RULES = {
    PlaceKind.ANSWER_LINE: "3: the answer line is taken at its word",
    PlaceKind.BOXED: "3: a box is taken at its word",
    PlaceKind.JSON_FIELD: "3: the answer field is taken at its word",
    PlaceKind.LABEL: "3: what stands after a label is taken at its word",
    PlaceKind.STATEMENT: "4: the reply says that this is the answer",
    PlaceKind.FIRST_WORDS: "4: the reply begins with it",
    PlaceKind.CONCLUSION: "4: the last conclusion",
    PlaceKind.SENTENCE: "4: the last sentence that states something",
    PlaceKind.LIST: "4: the last list",
}


def settle(reply: Reply, question: Question, kind: Kind[Value], *, by_weights: bool = True) -> Settled[Value]:
    """Return the claim of a reply that stands; its `final` is None where none does.

    Without `by_weights` rule 8 is left out, for those who fit the weights.
    """
    looked: list[Claim[Value]] = []
    roles = roles_of(reply)
    telling = telling_places(reply, question.answer_line, question.asked)
    for place in telling:
        settled = _at(reply, question, kind, place, looked)
        if settled is None:
            return Settled(None, f"{RULES[place.kind]}: it states nothing of the kind", place, claims=tuple(looked))
        return _unless_withdrawn(reply, question, kind, settled, roles, looked)
    best: Settled[Value] | None = None
    weight = 0.0
    for place, own_weight in _weaker(reply, question, roles, kind):
        if best is not None and own_weight < weight - NEARLY:
            break
        settled = _at(reply, question, kind, place, looked)
        if settled is None:
            continue
        if best is None:
            best, weight = settled, own_weight
        elif (
            settled.final is not None
            and best.final is not None
            and not kind.same(best.final.value, settled.final.value)
        ):
            best = replace(best, rivals=(*best.rivals, settled.final))
    if best is None:
        return Settled(None, "no claim stands", claims=tuple(looked))
    if by_weights and kind.likelihood is not None and best.place is not None and best.place.kind in PROSE:
        best = _unless_another_is_likelier(reply, question, kind, replace(best, claims=tuple(looked)), roles)
    return _unless_withdrawn(reply, question, kind, replace(best, claims=tuple(looked)), roles, looked)


def _at(
    reply: Reply, question: Question, kind: Kind[Value], place: Place, looked: list[Claim[Value]]
) -> Settled[Value] | None:
    """Return what stands at a place, or None where nothing does."""
    claims = claims_at(reply, question, kind, place)
    looked.extend(claims)
    standing = [claim for claim in claims if claim.stands or claim.stance is Stance.ASIDE]
    if not standing:
        return None
    choice = kind.choose(reply, place, standing, question)
    if choice.final is None:
        return None
    return Settled(choice.final, RULES[place.kind], place, choice.others, choice.rivals, tuple(looked))


def claims_at(reply: Reply, question: Question, kind: Kind[Value], place: Place) -> list[Claim[Value]]:
    """Return what is claimed at a place, with the stance of each claim."""
    found = kind.find(reply, place)[:MOST_CLAIMS]
    claims: list[Claim[Value]] = []
    low = place.start
    if not place.telling and place.sentence < len(reply.sentences):
        low = min(low, reply.sentences[place.sentence].start)
    for one in found:
        around = Around(reply.text, low, place.end, one.start, one.end, question.asked, kind.lists)
        stance, words = (Stance.DENIED, one.denied) if one.denied else stance_of(around)
        claims.append(Claim(one.value, one.start, one.end, place, stance, words))
    return _with_withdrawals(reply, place, _denied_together(reply, claims) if kind.lists else claims)


_BY_ROLE = {
    Role.CHECKS: Stance.CHECKED,
    Role.REMARKS: Stance.ASIDE,
    Role.ASKS: Stance.ASKED,
    Role.REPORTS: Stance.REPORTED,
}


def not_heard(
    reply: Reply, question: Question, kind: Kind[Value], settled: Settled[Value], first: int = 0
) -> list[Claim[Value]]:
    """Return what the sentences from one on say in which `settle` did not look.

    There the role of the sentence is the stance of what would else be asserted.
    """
    heard = {claim.place.sentence for claim in settled.claims}
    claims: list[Claim[Value]] = []
    for number, told in list(enumerate(roles_of(reply)))[first : first + MOST_SENTENCES]:
        if number not in heard and told.role is not Role.HEADS and not reply.sentences[number].text.endswith(":"):
            for claim in claims_at(reply, question, kind, _sentence(reply, number, PlaceKind.SENTENCE)):
                stance = _BY_ROLE.get(told.role, claim.stance) if claim.stands else claim.stance
                claims.append(claim if stance is claim.stance else replace(claim, stance=stance, cue=told.cue))
    return claims


# Where nothing but a sentence itself tells that the answer stands there.
PROSE = frozenset((PlaceKind.CONCLUSION, PlaceKind.SENTENCE, PlaceKind.LIST))
# How much likelier another claim must be to stand where the rules see a rival themselves.
LIKELIER_THAN_RIVALS = 0.5
_PIECES = regex(r"[,;:]\s+(?:and\s|but\s|or\s|so\s)?|\s[–—-]\s|\s\(|\b(?:and|but|while|is|was|the)\s", re.IGNORECASE)
MOST_PIECES = 12
# So many sentences are compared, the last ones, with what the rules looked at before them.
MOST_COMPARED_SENTENCES = 6


def prose_claims(reply: Reply, question: Question, kind: Kind[Value], settled: Settled[Value]) -> list[Claim[Value]]:
    """Return all that a reply claims, in its order, each stretch once: what stands, and what might have been meant."""
    claims = [*([settled.final] if settled.final is not None else []), *settled.claims]
    if kind.likelihood is not None and kind.likelihood.piece is not None:
        claims += _in_pieces(reply, question, kind.likelihood.piece)
    else:
        claims += not_heard(reply, question, kind, settled, max(0, len(reply.sentences) - MOST_COMPARED_SENTENCES))
    by_stretch: dict[tuple[int, int], Claim[Value]] = {}
    for claim in claims:
        by_stretch.setdefault((claim.start, claim.end), claim)
    return sorted(by_stretch.values(), key=lambda claim: (claim.start, claim.end))


def _in_pieces(
    reply: Reply, question: Question, piece: Callable[[Reply, int, int], Found[Value] | None]
) -> Iterator[Claim[Value]]:
    """Yield what the pieces of the last sentences claim by themselves."""
    for number, told in list(enumerate(roles_of(reply)))[-MOST_COMPARED_SENTENCES:]:
        if told.role in (Role.HEADS, Role.ASKS):
            continue
        place = _sentence(reply, number, PlaceKind.SENTENCE)
        cuts = [match.end() for match in _PIECES.finditer(reply.text, place.start, place.end)][:MOST_PIECES]
        for start, end in itertools.pairwise([place.start, *cuts, place.end]):
            if (found := piece(reply, start, end)) is not None:
                around = Around(reply.text, place.start, place.end, found.start, found.end, question.asked, True)
                yield Claim(found.value, found.start, found.end, place, *stance_of(around))


def _unless_another_is_likelier(
    reply: Reply, question: Question, kind: Kind[Value], settled: Settled[Value], roles: Sequence[Told]
) -> Settled[Value]:
    """Return what stands, or another claim of the reply that is much likelier the answer."""
    assert kind.likelihood is not None
    assert settled.final is not None
    # a yes or a no is told by the rules alone
    weights = {} if asks_yes_or_no(question.asked) else weights_of(kind.likelihood.name)
    claims = prose_claims(reply, question, kind, settled) if weights else []
    if len(claims) < 2:
        return settled
    scene, features = compared(reply, question, roles, kind.likelihood, claims, settled.final)
    shares = shares_of(scene, features, weights)
    token = kind.likelihood.token(settled.final.value)
    own = next((share for claim, share in shares if kind.likelihood.token(claim.value) == token), 0.0)
    likeliest, share = shares[0]
    in_pieces = kind.likelihood.piece is not None
    overlaps = in_pieces and likeliest.start <= settled.final.start and settled.final.end <= likeliest.end
    if share <= own or overlaps or kind.same(likeliest.value, settled.final.value):
        return settled
    much = LIKELIER_THAN_RIVALS if settled.rivals or settled.others else kind.likelihood.much
    if share <= own + much or not (likeliest.stands or likeliest.stance is Stance.ASIDE):
        return replace(settled, rivals=(*settled.rivals, likeliest))
    rivals = (settled.final, *settled.rivals)
    rule = f"8: likelier by its wording and place ({share:.2f} against {own:.2f})"
    return replace(settled, final=likeliest, place=likeliest.place, rule=rule, others=(), rivals=rivals)


_JOINED = regex(r"[\s)\"'*]*(?:,|,?\s*\b(?:and|or|nor|und|oder|et|ou|y|o)\b|&)[\s(\"'*]*", re.IGNORECASE)


def _denied_together(reply: Reply, claims: list[Claim[Value]]) -> list[Claim[Value]]:
    """Deny what is joined with what is denied behind it: "A and B are out"."""
    for before, after in zip(range(len(claims) - 2, -1, -1), range(len(claims) - 1, 0, -1), strict=True):
        denied = claims[after].stance is Stance.DENIED and claims[before].stance is Stance.ASSERTED
        behind = reply.text.find(claims[after].cue, claims[after].end) if denied and claims[after].cue else -1
        if behind >= 0 and _JOINED.fullmatch(reply.text, claims[before].end, claims[after].start):
            claims[before] = replace(claims[before], stance=Stance.DENIED, cue=claims[after].cue)
    return claims


def _with_withdrawals(reply: Reply, place: Place, claims: list[Claim[Value]]) -> list[Claim[Value]]:
    """Withdraw what stands before "no, wait" and its like, and mark what is added as an alternative."""
    for before, after in zip(range(len(claims)), range(1, len(claims)), strict=False):
        between = reply.text[claims[before].end : claims[after].start]
        if len(between) > 400:
            continue
        taken_back = cue("withdraws", r"(?:^|[.,;:!?…(—–-])[\s\"'(]*").search(between)
        if taken_back and claims[after].stands:
            for number in range(after):
                if claims[number].stands:
                    claims[number] = replace(
                        claims[number], stance=Stance.WITHDRAWN, cue=taken_back.group().strip(" .,;:!?…—–-")
                    )
        elif (more := cue("alternative", r"(?<![\w])").search(between)) and claims[after].stance in (
            Stance.ASSERTED,
            Stance.SUPPOSED,
        ):
            claims[after] = replace(claims[after], stance=Stance.HEDGED, cue=more.group())
    return claims


def _unless_withdrawn(
    reply: Reply,
    question: Question,
    kind: Kind[Value],
    settled: Settled[Value],
    roles: Sequence[Told],
    looked: list[Claim[Value]],
) -> Settled[Value]:
    """Return what stands once what comes after an answer has been heard: taken back, or with an alternative."""
    assert settled.place is not None
    assert settled.final is not None
    after = sentence_at(reply, settled.place.end - 1) + 1
    for number in range(after, min(len(reply.sentences), after + MOST_SENTENCES_AFTER)):
        sentence = reply.sentences[number]
        if sentence.start < settled.place.end:
            continue
        opening = cue("withdraws", r"^[\"'(*\s]{0,20}(?:but |and |so |oh,? |hmm,? )?").match(sentence.text)
        if (
            opening
            and not sentence.text.endswith("?")
            and len(opening.group()) > SHORTEST_WITHDRAWAL
            and _takes_back(opening, sentence.text, question)
        ):
            later = _after_withdrawal(reply, question, kind, number, roles, looked)
            if later is not None and later.final is not None and not kind.same(later.final.value, settled.final.value):
                return replace(later, rule=f"6: taken back ('{opening.group().strip()}')", claims=tuple(looked))
        elif cue("alternative", r"^[\"'(*\s]{0,20}").match(sentence.text) and not sentence.text.endswith("?"):
            place = _sentence(reply, number, settled.place.kind)
            more = [
                claim
                for claim in claims_at(reply, question, kind, place)
                if claim.stands or claim.stance is Stance.SUPPOSED
            ]
            new = [
                replace(claim, stance=Stance.HEDGED)
                for claim in more
                if not kind.same(claim.value, settled.final.value)
            ]
            looked[:] = [claim for claim in looked if claim.place.sentence != number] + (new or more)
            if new:
                return replace(settled, others=(*settled.others, *new), claims=tuple(looked))
    return settled


# "In fact, the town is named after it" takes nothing back; "In fact, it's the Sill" does.
_MAY_GO_ON = regex(r"\W*(?:and |but |so )?(?:in fact|actually|rather|instead|indeed)\W*\Z", re.IGNORECASE)
_SAYS_ANEW = regex(
    r"\W*(?:it|that|this|the\s+(?:\w+\s+)?answer)(?:'s|\s+(?:is|was|must|should|has))\s+"
    r"(?!(?:less|more|why|how|because|an?|one|only|just|also|even)\b)",
    re.IGNORECASE,
)
SHORTEST_ELABORATION_WORDS = 7


def _takes_back(opening: re.Match[str], text: str, question: Question) -> bool:
    """Tell whether a sentence that opens with a word of withdrawal says the answer anew, and does not only go on."""
    if _MAY_GO_ON.fullmatch(opening.group()) is None:
        return True
    # "Actually, 5.", and not "Actually, 5 is not far off."
    short = len(text.split()) < SHORTEST_ELABORATION_WORDS and cue("copula").search(text) is None
    anew = _SAYS_ANEW.match(text, opening.end()) is not None
    return short or anew or echo(text, question.asked) >= LEAST_TAKEN_UP


def _after_withdrawal(
    reply: Reply, question: Question, kind: Kind[Value], first: int, roles: Sequence[Told], looked: list[Claim[Value]]
) -> Settled[Value] | None:
    last: Settled[Value] | None = None
    for number in range(first, min(len(reply.sentences), first + 12)):
        aside = number > first and roles[number].role in (Role.REMARKS, Role.CHECKS, Role.ASKS)
        if aside and states_asked(reply.sentences[number].text) is None:
            continue
        here = _at(reply, question, kind, _restated(reply, number), looked)
        last = here or last
    return last


def _restated(reply: Reply, number: int) -> Place:
    """Return where a sentence after a withdrawal answers: what it calls the answer, else the whole of it."""
    place = _sentence(reply, number, PlaceKind.CONCLUSION)
    said = states_asked(reply.text[place.start : place.end])
    if said is None or not reply.text[place.start + said.end() : place.end].strip(" .:*"):
        return place
    return replace(place, kind=PlaceKind.STATEMENT, start=place.start + said.end())


# "It's the Inn - no, that's another town."
_TAKES_BACK = regex(r"[,;–—-]\s+(?:no|wait|sorry|oops),\s", re.IGNORECASE)
_NO_ANSWERS = frozenset((Role.REMARKS, Role.CHECKS, Role.HEADS, Role.ASKS, Role.REPORTS))


def _weaker(
    reply: Reply, question: Question, roles: tuple[Told, ...], kind: Kind[Value]
) -> Iterator[tuple[Place, float]]:
    """Yield the places that only their sentence tells, the strongest first, with what weight each has."""
    for place in statements(reply, roles):
        yield place, 20.0
    first = first_that_may_answer(reply, roles)
    if first is not None and is_title(reply, first, question.asked):
        first = None
    if first is not None and _only_answers(reply, first, question.asked):
        yield _sentence(reply, first, PlaceKind.FIRST_WORDS), 9.0
    if first is not None and (_TAKES_BACK.search(reply.sentences[first].text) or _is_turned_from(reply, first)):
        first = None
    nothing = True
    for place, weight in _by_weight(reply, question, roles, kind, first):
        nothing = False
        yield place, weight
    rest = [
        number
        for number, told in enumerate(roles)
        if told.role in (Role.ASKS, Role.CHECKS, Role.REMARKS) and not _RESTATES.match(told.cue)
    ]
    for number in reversed(rest[-MOST_SENTENCES:]):
        if nothing or roles[number].role is Role.CHECKS:
            yield _sentence(reply, number, PlaceKind.SENTENCE), LEAST_WEIGHT


def _only_answers(reply: Reply, number: int, asked: str) -> bool:
    bare = is_bare(reply, number) and not _is_of_what_is_asked(reply, number, asked)
    return bare or says_how_many(reply, number, asked)


_TURNS_AWAY = regex(r"\W*(?:but|however|no|yet|still)\b", re.IGNORECASE)


def _is_turned_from(reply: Reply, number: int) -> bool:
    """Tell whether the sentence behind one turns away from it: "…, we get Wednesday. But today doesn't count, so …"."""
    behind = reply.sentences[number + 1].text if number + 1 < len(reply.sentences) else ""
    return _TURNS_AWAY.match(behind) is not None


def _is_of_what_is_asked(reply: Reply, number: int, asked: str) -> bool:
    """Tell whether a short sentence has a thing of the question as its subject: "Carrots contain carotene."."""
    words = reply.sentences[number].text.strip(" *_.!").split()
    if len(reply.sentences) < 2 or len(words) != LEAST_WORDS_OF_A_SENTENCE or not all(map(str.isalpha, words)):
        return False
    return (
        words[0].endswith("s")
        and words[1].islower()
        and words[0].lower() in re.findall(r"\w+", question_in(asked).lower())
    )


LEAST_WORDS_OF_A_SENTENCE = 3


def _by_weight(
    reply: Reply, question: Question, roles: tuple[Told, ...], kind: Kind[Value], first: int | None
) -> Iterator[tuple[Place, float]]:
    """Yield sentences and lists by their weight; a sentence is weighed once nothing weighed may stand above it."""
    answers = [told.role not in _NO_ANSWERS for told in roles]
    weighed: list[tuple[float, int, int, Place]] = []
    turn = itertools.count()
    for place in kind.more_places(reply, answers):
        weight = LIST_WEIGHT + 1.5 * sentence_at(reply, place.end - 1) / len(reply.sentences)
        heappush(weighed, (-weight, -place.start, next(turn), place))
    bold = reply.view.bold
    waiting = []
    for number in [number for number, may in enumerate(answers) if may][-MOST_SENTENCES:]:
        concludes = roles[number].role is Role.CONCLUDES
        place = _sentence(reply, number, PlaceKind.CONCLUSION if concludes else PlaceKind.SENTENCE)
        most = Weight(kind.most(reply, place, question), any(place.start <= start < place.end for start, _ in bold))
        waiting.append((_weight(most, place, first, len(reply.sentences)), place))
    waiting.sort(key=lambda one: one[0])
    while waiting or weighed:
        while waiting and (not weighed or waiting[-1][0] >= -weighed[0][0]):
            _, place = waiting.pop()
            own = kind.weigh(reply, place, question)
            if own is not None:
                weight = _weight(own, place, first, len(reply.sentences))
                heappush(weighed, (-weight, -place.start, next(turn), place))
        if weighed:
            weight, _, _, place = heappop(weighed)
            yield place, -weight


def _weight(weight: Weight, place: Place, first: int | None, sentences: int) -> float:
    """Return what a sentence weighs by what it says and where it stands."""
    reached = (place.sentence + 1) / sentences
    # what is concluded early leads on to something else
    concluded = (1.5 + 1.5 * reached) * (place.kind is PlaceKind.CONCLUSION)
    opens = 1.0 if place.sentence == first and weight.single and weight.taken_up >= 0.5 else 0.0
    return 2.0 * weight.taken_up + concluded + 1.5 * weight.bold + 1.5 * reached + opens


def _sentence(reply: Reply, number: int, kind: PlaceKind) -> Place:
    sentence = reply.sentences[number]
    return Place(kind, sentence.start, min(sentence.end, sentence.start + LONGEST_PLACE), number)
