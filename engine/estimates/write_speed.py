"""How fast cards and slots write, from what is printed on them.

A card has a speed of its own, of which a slot makes a share, whatever the card, up to a ceiling of
the slot's. What is printed is what a card came to at best; docs/model.md, "Estimates", says what
cameras make of it. None of it is an end: only a bus is never exceeded.
"""

import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from functools import reduce

from engine.cards.label.face import READ_MB_S_OF_TIMES, Face
from engine.cards.standards import CEILING_MB_S, Bus
from engine.figures.figure import Figure
from engine.figures.uncertainty import (
    ESTIMATED,
    MEASURED_ELSEWHERE,
    PRINTED,
    LogNormal,
    Skewed,
)
from engine.formats import figure

TAIL = 0.3  # fakes, twins with other chips, slots that let any card crawl: all have been met
SLOT_SHARE = Skewed.between(0.55, 0.8, 1.0, 0.05)  # of any card's speed
SLOT_CEILING = Skewed.between(0.2, 0.55, 0.95, TAIL)  # of its bus
# Of what is printed, or guaranteed, a camera keeps writing so much; the slot's share is in it.
KEPT_OF_SUSTAINED = Skewed.between(0.65, 0.88, 1.0, TAIL)
KEPT_OF_WRITE = Skewed.between(0.45, 0.72, 0.95, TAIL)
KEPT_OF_READ = Skewed.between(0.2, 0.45, 0.85, TAIL)
KEPT_OF_CLASS = Skewed.between(0.9, 1.6, 2.9, TAIL)
# The same where a bus is all that is known of a card: in MB/s, or as a share of the bus.
KEPT_ON_SD_BUS = {Bus.UHS_I: (10.0, 90.0), Bus.UHS_II: (40.0, 250.0)}
KEPT_OF_BUS = (0.12, 0.75)
LEAST_RATIO = 1.05  # between the ends of an estimate: marks alone never tell a speed exactly
GUESSED = LogNormal(0.4)  # of what somebody takes a card to write
LEAST_WIDTH = 0.08  # of a card's own speed, however much of the doubt is the slot's
ELSEWHERE = 0.06  # spread of what was measured in another body, beside that of both slots' shares


def slot_share() -> Figure:
    """What a slot makes of any card's own speed."""
    why = "slots make about 0.8 of any card's speed, most of them 0.55 to 1"
    return Figure.around_middle(1.0, SLOT_SHARE, why)


def slot_ceiling(bus_mb_s: float) -> Figure:
    """The most in MB/s that a slot on a bus passes, whatever the card."""
    return Figure.around_middle(
        bus_mb_s,
        SLOT_CEILING,
        f"its bus carries {figure(bus_mb_s, 'MB/s')}; most slots pass 0.2 to 0.95 of that",
    )


@dataclass(frozen=True)
class Clue:
    """What one mark on a card lets expect of its own speed."""

    mb_s: float
    uncertainty: Skewed
    words: str

    @classmethod
    def of_kept(cls, mb_s: float, kept: Skewed, words: str) -> "Clue":
        """A card of which cameras keep writing a share of so many MB/s, their slot's in it."""
        below, above = (
            max(math.sqrt(max(of_both**2 - of_slot**2, 0.0)), LEAST_WIDTH)
            for of_both, of_slot in zip(kept.widths, SLOT_SHARE.widths, strict=True)
        )
        own = Skewed.of_widths(below, above, TAIL)
        return cls(mb_s * kept.middle / SLOT_SHARE.middle, own, words)

    @property
    def figure(self) -> Figure:
        """The card's own speed as this clue alone has it."""
        return Figure(self.mb_s, self.uncertainty, self.words)

    def and_also(self, other: "Clue") -> "Clue":
        """Both clues together, weighted by how sure each is on the side of the other.

        They are of one maker, so that both together are no surer than the surer of them; where they
        are further apart than they should be, as much less sure (the Birge ratio of combined
        measurements).
        """
        low, high = sorted((self, other), key=lambda clue: clue.mb_s)
        apart = math.log(high.mb_s / low.mb_s)
        up, down = low.uncertainty.above, high.uncertainty.below
        middle_mb_s = low.mb_s * math.exp(apart * up**2 / (up**2 + down**2))
        wider = max(1.0, apart / math.hypot(up, down))
        below = wider * min(low.uncertainty.below, high.uncertainty.below)
        above = wider * min(low.uncertainty.above, high.uncertainty.above)
        return Clue(
            middle_mb_s, Skewed(below, above, tail=TAIL), f"{self.words}, and {other.words}"
        )


def measured_elsewhere(mb_s: float) -> Figure:
    """The own speed of a card that was measured in a body whose slot nobody knows."""
    own = Figure(mb_s / SLOT_SHARE.middle, LogNormal(SLOT_SHARE.spread))
    return learnt_elsewhere(own)


def learnt_elsewhere(own: Figure) -> Figure:
    """The own speed of a card as another body finds it, of which runs have taught it in one."""
    spread = math.hypot(ELSEWHERE, own.uncertainty.spread)
    return Figure(own.value, LogNormal(spread), "measured in another body")


def estimated_card(mb_s: float, face: Face) -> Figure:
    """The own speed of a card that somebody takes to keep writing so much.

    By its marks, where it has any: an estimate is hardly ever surer than these.
    """
    by_marks = card_speed(face)
    sure, why = (by_marks.uncertainty, by_marks.why) if by_marks else (GUESSED, "somebody's guess")
    return Figure(mb_s / SLOT_SHARE.middle, sure, why)


def unknown_card(bus_mb_s: float) -> Figure:
    """The own speed of a card of which only the bus is known."""
    known = {CEILING_MB_S[bus]: ends for bus, ends in KEPT_ON_SD_BUS.items()}
    low, high = known.get(bus_mb_s) or (share * bus_mb_s for share in KEPT_OF_BUS)
    kept = Skewed.between(low, math.sqrt(low * high), high, TAIL)
    words = f"nothing but its bus of {figure(bus_mb_s, 'MB/s')} is known"
    return Clue.of_kept(1, kept, words).figure


def clues_on(face: Face) -> Iterator[Clue]:
    """What the marks of a card tell of its speed: one printed speed, the surest, and a class.

    More than its bus carries is printed of readers made to match.
    """
    most_mb_s = CEILING_MB_S[bus] if (bus := face.least_bus) else math.inf
    for mb_s, kept, words in (
        (face.sustained_mb_s, KEPT_OF_SUSTAINED, "printed as sustained"),
        (face.write_mb_s, KEPT_OF_WRITE, "printed for writing"),
        (face.read_mb_s, KEPT_OF_READ, "printed for reading"),
        ((face.times or 0) * READ_MB_S_OF_TIMES, KEPT_OF_READ, f"printed as {face.times}x"),
    ):
        if mb_s:
            yield Clue.of_kept(min(mb_s, most_mb_s), kept, f"{figure(mb_s, 'MB/s')} {words}")
            break
    if face.guaranteed_mb_s:
        words = f"a class made for {figure(face.guaranteed_mb_s, 'MB/s')}"
        yield Clue.of_kept(face.guaranteed_mb_s, KEPT_OF_CLASS, words)


def put_together(clues: Iterable[Clue]) -> Figure:
    """The own speed of a card by all of them; there is one at least."""
    return reduce(Clue.and_also, clues).figure


def card_speed(face: Face) -> Figure | None:
    """The own speed of a card by its marks; None: they tell nothing."""
    if clues := list(clues_on(face)):
        return put_together(clues)
    return unknown_card(CEILING_MB_S[bus]) if (bus := face.least_bus) else None


def noted_speed(noted: Figure, face: Face) -> tuple[Figure, bool]:
    """The speed of a card by what somebody noted of it and its marks, and whether it was measured.

    A figure says by its uncertainty where it is from: what was measured in this body is what the
    card keeps writing there, all else tells of its own speed.
    """
    if noted.uncertainty is PRINTED:
        return put_together(clues_on(replace(face, write_mb_s=noted.value))), False
    if noted.uncertainty is MEASURED_ELSEWHERE:
        return measured_elsewhere(noted.value), False
    if noted.uncertainty is ESTIMATED:
        return estimated_card(noted.value, face), False
    return noted, True


@dataclass(frozen=True)
class WriteEstimate:
    """What a camera will keep writing to a card, from its marks alone, MB/s: wide, until a test.

    Four in five lie between `low_mb_s` and `high_mb_s`.
    """

    low_mb_s: float
    middle_mb_s: float
    high_mb_s: float
    why: str

    @classmethod
    def over(cls, bus: Bus, own: Figure) -> "WriteEstimate":
        """That of a card of this own speed over a bus, in a slot of which nobody knows anything."""
        below, above = map(math.hypot, own.uncertainty.widths, SLOT_SHARE.widths)
        middle_mb_s = own.value * SLOT_SHARE.middle
        low, middle, high = (
            min(ratio * middle_mb_s, CEILING_MB_S[bus])
            for ratio in (math.exp(-below), 1.0, math.exp(above))
        )
        why = f"Estimated from {own.why}; only a test in the body tells."
        return cls(low, middle, max(high, LEAST_RATIO * low), why)


def estimate_write(face: Face) -> WriteEstimate | None:
    """What a camera will keep writing to a card of that face; None: not even its bus is told."""
    own, bus = card_speed(face), face.least_bus
    return None if own is None or bus is None else WriteEstimate.over(bus, own)


def typical_write(bus: Bus) -> WriteEstimate:
    """The same of a card of which only the bus is known."""
    return WriteEstimate.over(bus, unknown_card(CEILING_MB_S[bus]))
