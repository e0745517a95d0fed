"""How long somebody takes from what they see to the press, with screen and key in it."""

from collections.abc import Sequence
from statistics import median

from engine.quantities import InvalidValues, Range

TRIES = 5
FEWEST_TRIES = 3  # that must count
ANTICIPATED_S = 0.1  # sooner nobody reacts: the limit for false starts in athletics
LAPSED_S = 1.0  # later they had looked away
REACTION_S = Range(ANTICIPATED_S, LAPSED_S, "s")
USUAL_S = 0.25  # of a press at something seen, until it is measured; a working assumption


class TooFewTries(InvalidValues):
    """Too few of the tries were reactions."""


def reaction_s(tries_s: Sequence[float]) -> float:
    """The median of the tries, without those that were no reactions.

    Raises :class:`TooFewTries`.
    """
    counted = [one for one in tries_s if REACTION_S.fault(one) is None]
    if len(counted) < FEWEST_TRIES:
        raise TooFewTries({"tries": f"must be {FEWEST_TRIES} reactions at least"})
    return round(median(counted), 3)
