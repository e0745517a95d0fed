"""Everything that the Desk says of one set-up."""

from dataclasses import dataclass, field, replace
from functools import cached_property

from django.utils.text import get_text_list

from desk.address import Reading
from desk.changes import WORDS_OF_ARRANGEMENT, Tried, try_bought, try_free, try_perfect
from desk.drawing import Drawing, draw
from desk.engine_adapter import scenario_of, sources_of, write_speed
from desk.path_drawing import Box, draw_path
from desk.setup import Setup, Side
from engine import InvalidScenario, Result, simulate
from engine.confidence import DRAWS, Confidence, Sources, confidence
from engine.levers import endless_write_mb_s
from engine.rates import Part, next_in_line, path
from engine.standards import EffectiveWrite
from engine.units import NS_IN_S
from kit.models import Card

FRAMES_FOR_RANGES = 300_000  # frames in all draws of one range, so that the Desk answers at once
FEWEST_DRAWS = 10


@dataclass(frozen=True)
class Endless:
    """The write speed that would end the wall, for one slot; None: no speed would."""

    side: Side
    needed_mb_s: float | None
    write: EffectiveWrite

    @property
    def falls_short(self) -> bool:
        """Whether this slot is slower than that."""
        return self.needed_mb_s is not None and self.write.mb_s < self.needed_mb_s

    @property
    def reached_by(self) -> Card | None:
        """The cheapest card of the kit that reaches it in this slot; unknown prices come last."""
        if self.needed_mb_s is None:
            return None
        others = (replace(self.side, card=card, write_mb_s=None) for card in self.side.cards)
        fast = [side.fitted for side in others if write_speed(side).mb_s >= self.needed_mb_s]
        return min(fast, key=lambda card: (card.price is None, card.price or 0), default=None)


@dataclass(frozen=True)
class Prediction:
    """A burst, its ranges and what would change it; or, in `faults`, why it can't be predicted."""

    reading: Reading
    result: Result | None = None
    before: Result | None = None
    faults: list[str] = field(default_factory=list)

    @property
    def arrangement_words(self) -> list[tuple[str, str]]:
        """The arrangements that can be chosen, and how the sentence says them."""
        return [(one.kind, WORDS_OF_ARRANGEMENT[one.kind]) for one in self.reading.arrangements]

    @property
    def setup(self) -> Setup:
        """The set-up that is shot."""
        return self.reading.setup

    @cached_property
    def shot(self) -> Result:
        """The burst; raises ValueError when there is none."""
        if self.result is None:
            raise ValueError("there is no burst to speak of")
        return self.result

    @cached_property
    def sure(self) -> Confidence:
        """The ranges."""
        return confidence(self.shot.scenario, self.sources, self.draws)

    @cached_property
    def sources(self) -> Sources:
        """Where the numbers of the set-up came from."""
        return sources_of(self.setup)

    @property
    def draws(self) -> int:
        """How often its ranges are drawn: long bursts less often."""
        return max(FEWEST_DRAWS, min(DRAWS, FRAMES_FOR_RANGES // self.shot.frames_due))

    @cached_property
    def drawing(self) -> Drawing:
        """Strokes, filling and marks, over those before the change."""
        return draw(self.shot, self.sure.frames_at_full_speed, self.before)

    @cached_property
    def path(self) -> list[Box]:
        """The parts that the data flows through."""
        return draw_path(self.shot)

    @cached_property
    def free(self) -> list[Tried]:
        """Every free change."""
        return try_free(self.reading, self.shot)

    @property
    def free_gains(self) -> list[Tried]:
        """The free changes that bring something."""
        return [tried for tried in self.free if tried.gains]

    @property
    def free_others(self) -> list[Tried]:
        """The free changes that bring nothing, or cost frames."""
        return [tried for tried in self.free if not tried.gains]

    @cached_property
    def bought(self) -> list[Tried]:
        """The best card of the kit for each slot in use."""
        return try_bought(self.reading, self.shot)

    @cached_property
    def perfect(self) -> list[Tried]:
        """A made-up card for each slot, as fast as the slot."""
        return try_perfect(self.reading, self.shot)

    @cached_property
    def endless(self) -> list[Endless]:
        """What each slot in use would have to take in for the burst never to end."""
        return [
            Endless(side, endless_write_mb_s(self.shot.scenario, number), write_speed(side))
            for number, side in enumerate(self.setup.sides)
        ]

    @cached_property
    def writes(self) -> list[tuple[Side, EffectiveWrite]]:
        """Each slot in use, and the speed that it writes at."""
        return [(side, write_speed(side)) for side in self.setup.sides]

    @property
    def narrow_side(self) -> tuple[Side, EffectiveWrite] | None:
        """The slot that everything waits for, if it is one."""
        place = self.shot.narrowest
        if place.startswith(("slot", "card")):
            return self.writes[int(place[-1]) - 1]
        return None

    @property
    def made_mb_s(self) -> float:
        """MB/s that the sensor makes at the full frame rate."""
        sensor = path(self.shot.scenario)[0]
        return sensor.mb_s

    @property
    def next_in_line(self) -> Part | None:
        """What limits once the narrowest part does not."""
        return next_in_line(self.shot.scenario)

    @property
    def half_ready_s(self) -> float:
        """Seconds from finger up until half of memory is free again."""
        return self.shot.pause_until_free_s(0.5)

    @property
    def first_look_s(self) -> float:
        """Seconds from finger up until the first picture can be looked at."""
        if self.setup.body.locks_playback or not self.shot.frames:
            return self.shot.clear_s
        return max(0.0, int(self.shot.written_ns.min()) / NS_IN_S - self.setup.hold_s)

    @property
    def locked(self) -> str:
        """What the body locks while the card light is on, in words; empty: nothing."""
        body = self.setup.body
        locks = {
            "playback": body.locks_playback,
            "menus": body.locks_menus,
            "drive mode": body.locks_drive_mode,
        }
        return get_text_list([name for name, locked in locks.items() if locked], "and")

    @property
    def gained_frames(self) -> int:
        """Frames more than before the change."""
        return self.shot.frames - self.before.frames if self.before else 0

    @property
    def sooner_s(self) -> float:
        """Seconds that the light is out sooner than before the change."""
        return self.before.clear_s - self.shot.clear_s if self.before else 0.0


def predict(reading: Reading, before: Reading | None = None) -> Prediction:
    """The burst of the set-up in `reading`, beside the one in `before` if that can be shot."""
    if not reading.setup.complete:
        return Prediction(reading)
    try:
        result = simulate(scenario_of(reading.setup))
    except InvalidScenario as error:
        return Prediction(reading, faults=list(error.sentences()))
    return Prediction(reading, result, _shoot(before))


def _shoot(reading: Reading | None) -> Result | None:
    if reading is None or not reading.setup.complete:
        return None
    try:
        return simulate(scenario_of(reading.setup))
    except InvalidScenario:
        return None
