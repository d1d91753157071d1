"""Which numbers of a stretch are kept for its result: one table of rules, each told in the module that it is from."""

from __future__ import annotations

import itertools
import re
from dataclasses import replace

from dryquarry.marking.reading.amounts_added import without_added
from dryquarry.marking.reading.amounts_apart import (
    before_reason,
    behind_head,
    behind_which_is_asked,
    by_how_much,
    not_as_given,
    not_converted,
    of_each_asked,
    of_main_clause,
    of_period_asked,
    of_time_asked,
    the_count,
    with_all_parts,
    without_advice,
    without_lacking,
    without_measures,
    without_parts,
    without_saved,
)
from dryquarry.marking.reading.amounts_contrasted import (
    ASKED_SUCH,
    behind_asked_verb,
    not_as_it_was,
    not_of_each,
    not_of_rest,
    not_what_it_is_set_against,
    of_kind_asked,
    of_predicate_asked,
    of_those_such,
    without_differences,
    without_rates,
    worked_on_last,
)
from dryquarry.marking.reading.amounts_drawn import drawn_at_end, operand_sought, unless_only_given
from dryquarry.marking.reading.asked_amounts import (
    as_denied,
    before_working,
    cardinals,
    differences,
    not_of_others_named,
    not_whose_it_is,
    of_thing_asked,
    of_what_is_asked,
    of_whom_is_asked,
    owed,
    totals,
    up_to_the_last,
    with_chances,
    years,
)
from dryquarry.marking.reading.chains import end_of_chain
from dryquarry.marking.reading.claims import Stance
from dryquarry.marking.reading.each_told import of_count_asked, of_kind_of_part, of_pair_asked, of_pronoun_asked
from dryquarry.marking.reading.echo import question_in
from dryquarry.marking.reading.equations import close
from dryquarry.marking.reading.further_amounts import without_per_cent
from dryquarry.marking.reading.labelled_amounts import labelled, of_label_asked, remainders
from dryquarry.marking.reading.rounded_amounts import exact_beside_rough, rounded_if_asked
from dryquarry.marking.reading.series_amounts import next_of_series
from dryquarry.marking.reading.stretches import Claims, Keep, Stretch
from dryquarry.marking.reading.supposed_amounts import firm
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.numbers import Shape


def without_asides(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out what only stands in an aside, where anything else does not."""
    for sum_of, claim in itertools.pairwise(claims):
        behind = stretch.text[sum_of.end : claim.start]
        if sum_of.value.shape is Shape.SUM and _WHICH_IS.fullmatch(behind) and claim.stance is Stance.ASIDE:
            return [claim]  # "twice 78, which is 156"
        if _CANCELLED.fullmatch(behind):
            return [claim]  # "15/48, which can be cancelled to 5/16"
    return [claim for claim in claims if claim.stance is not Stance.ASIDE] or claims


_WHICH_IS = regex(r",\s+which\s+(?:is|makes|gives|equals|comes\s+to)\s+", re.IGNORECASE)

_CANCELLED = regex(
    r",?\s+which\s+(?:can\s+be\s+)?(?:cancel(?:s|led)?|simplif(?:y|ies|ied)|reduced?s?)\s+(?:down\s+)?to\s+",
    re.IGNORECASE,
)


def the_total(stretch: Stretch, claims: Claims) -> Claims:
    """Keep what an answer line calls the whole."""
    if not stretch.place.telling or ASKED_SUCH.search(question_in(stretch.question.asked)):
        return claims  # "75, 84 in all", where it is asked how many good ones
    return unless_only_given(totals(stretch.text, claims), claims, stretch.given)


def in_unit_of_rough(stretch: Stretch, claims: Claims) -> Claims:
    """Return an exact value in the unit that only its rough one has: "12π ≈ 37.70 cm"."""
    found = list(claims)
    for place, (first, second) in enumerate(itertools.pairwise(claims)):
        bare = first.value.unit is None and first.value.shape is Shape.EXACT
        if bare and second.value.relation == "≈" and second.value.unit is not None and close(first.value, second.value):
            found[place] = replace(first, value=replace(first.value, unit=second.value.unit, fault=second.value.fault))
    return found


# Of a sentence that has several numbers the first rules leave out what surely is none, the later ones weigh its words.
KEPT: tuple[Keep, ...] = (
    of_count_asked,
    of_pair_asked,
    of_pronoun_asked,
    of_kind_of_part,
    next_of_series,
    up_to_the_last,
    before_working,
    of_kind_asked,
    not_of_rest,
    of_label_asked,
    end_of_chain,
    exact_beside_rough,
    rounded_if_asked,
    of_predicate_asked,
    of_those_such,
    not_of_each,
    of_thing_asked,
    not_as_it_was,
    not_what_it_is_set_against,
    without_differences,
    without_rates,
    worked_on_last,
    behind_asked_verb,
    not_as_given,
    not_of_others_named,
    not_whose_it_is,
    with_chances,
    remainders,
    labelled,
    drawn_at_end,
    operand_sought,
    firm,
    without_per_cent,
    of_whom_is_asked,
    behind_which_is_asked,
    without_measures,
    without_parts,
    without_advice,
    with_all_parts,
    of_period_asked,
    not_converted,
    the_count,
    without_lacking,
    without_added,
    behind_head,
    by_how_much,
    of_time_asked,
    before_reason,
    of_main_clause,
    owed,
    without_saved,
    as_denied,
    cardinals,
    years,
    without_asides,
    differences,
    of_each_asked,
    of_what_is_asked,
    the_total,
    in_unit_of_rough,
)


def kept(stretch: Stretch, claims: Claims) -> Claims:
    """Return what all rules keep, one after another."""
    for keep in KEPT:
        if claims:
            claims = keep(stretch, claims)
    return claims
