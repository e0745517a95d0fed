"""The presses that somebody made in a run, as the page reports them."""

import math
from collections.abc import Sequence
from itertools import pairwise

from engine.burst.scenario import HOLD_S, Hold
from engine.formats import exact, figure
from engine.quantities import NS_IN_S, InvalidValues

MOST_IN_A_RUN = 95  # ten runs have no more than a series may have holds (MOST_HOLDS)
MOST_IN_A_SECOND = 20  # nobody taps as often; quick fingers reach a dozen


class ImpossiblePresses(InvalidValues):
    """Presses that nobody can have made; `fault` says why, in a sentence."""

    def __init__(self, fault: str) -> None:
        super().__init__({"presses": fault})
        self.fault = fault


def holds_of_presses(presses: Sequence[Sequence[float]], ends_s: float) -> tuple[Hold, ...]:
    """Presses, each the moment of the finger down and of the finger up, in a run that so ends.

    What is shorter than a millisecond counts as one. Raises :class:`ImpossiblePresses`.
    """
    if len(presses) > MOST_IN_A_RUN:
        raise ImpossiblePresses(
            f"A run has at most {MOST_IN_A_RUN} presses, and these are {figure(len(presses))}."
        )
    holds = tuple(_hold(press, ends_s) for press in presses)
    for before, hold in pairwise(holds):
        if hold.press_ns < before.finger_up_ns:
            raise ImpossiblePresses("A press began before the finger was up.")
    for first, last in zip(holds, holds[MOST_IN_A_SECOND:], strict=False):
        if last.press_ns - first.press_ns < NS_IN_S:
            raise ImpossiblePresses(
                f"Nobody presses more than {MOST_IN_A_SECOND} times in a second."
            )
    return holds


def _hold(press: Sequence[float], ends_s: float) -> Hold:
    if len(press) != 2 or not all(math.isfinite(moment) for moment in press):
        raise ImpossiblePresses("Every press needs the moments of finger down and finger up.")
    down_s, up_s = press
    if not 0 <= down_s <= up_s:
        raise ImpossiblePresses("A press must not end before it begins, nor begin before the run.")
    if up_s > ends_s:
        raise ImpossiblePresses(f"A press went on after the end of the run, {exact(ends_s)} s.")
    return Hold(press_s=down_s, hold_s=max(up_s - down_s, HOLD_S.lowest))
