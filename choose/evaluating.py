"""Evaluates a visitor's cards against a need, in steps whose results are cached."""

import hashlib
import time
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from functools import lru_cache

from django.db.models import prefetch_related_objects

from choose.need_address import NeedReading
from choose.need_form import OWN
from engine.selection.candidates import Candidate
from engine.selection.choice import Choice
from engine.selection.options import Evaluation
from engine.selection.requirements import Need
from engine.selection.steps import Stage, Steps, take_steps
from kit.engine_adapter import copying_with, fit_in
from kit.fits import SlotFit, readers_to_copy
from kit.models import Body, Card, CardState, Reader
from pages.background import results
from prices.money import Priced, Rates, prices_of
from setups.engine_adapter import camera_of, choice_side, shooting_mode_of
from setups.kit import Kit
from setups.setup import Setup, Side

CACHE_VERSION = 14  # raised when the engine would answer the same question otherwise
WORK_S = 0.4  # of evaluating within a request; the rest is left to the background worker
STEP_S = 0.2  # that one step is to take
FIRST_FRAMES = 6_000_000  # of the first step on each core, which takes a fifth of a second
MOST_FRAMES = 5 * FIRST_FRAMES  # of later steps, should all of a sudden everything be simulated
MOST_CARDS = 1_500  # held against all slots and readers within a request
MOST_ENTRIES = 16_000_000  # cards and pairs in all shooting modes, some minutes at best
UNFINISHED_FOR_S = 24 * 3600  # what is done is kept, until somebody goes on
TOO_LONG_FOR_S = 24 * 3600  # until it is tried again


@dataclass(frozen=True)
class EvaluatedCard:
    """One card with its price, and what came of holding it against every slot."""

    card: Card
    candidate: Candidate
    priced: Priced
    held: Sequence[SlotFit]

    @property
    def lacks_rate(self) -> bool:
        """Whether its price is known in a currency only that can't be converted."""
        return self.priced.now is not None and self.candidate.price_cents is None

    @property
    def counts(self) -> bool:
        """Whether it can be relied on and goes into a slot."""
        return any(side is not None for side in self.candidate.sides)


@dataclass(frozen=True)
class Progress:
    """How much of an evaluation is done, 0 to 1: `choice` once all of it is.

    `too_long`: it was given up, as nobody would wait for it.
    """

    share: float
    choice: Choice | None
    too_long: bool


def cards_for(reading: NeedReading) -> Sequence[EvaluatedCard] | None:
    """The visitor's cards and those of the sample kit, as the reading narrows them down.

    None: there are more of them than MOST_CARDS.
    """
    told = reading.form.cleaned_data
    return _cards_for(
        reading.kit,
        reading.desk.setup.body,
        told["among"],
        told["form"],
        reading.least_gb,
        reading.money,
    )


@lru_cache(
    maxsize=8
)  # every step of an evaluation asks anew; a kit that has changed is another one
def _cards_for(
    kit: Kit, body: Body, among: str, form: str, least_gb: float, money: str
) -> Sequence[EvaluatedCard] | None:
    visitor = kit.visitor
    cards = Card.objects.offered_to(visitor).available()
    if among == OWN:
        cards = cards.owned_by(visitor)
    if form:
        cards = cards.filter(form=form)
    chosen = list(cards.filter(capacity_gb__gte=least_gb)[: MOST_CARDS + 1])
    if len(chosen) > MOST_CARDS:
        return None
    prices = prices_of(chosen, visitor)
    prefetch_related_objects([body], "tested_cards")
    readers = readers_to_copy(visitor)
    return [
        _evaluated(card, body, readers, prices[card.pk], kit.costs.rates, money) for card in chosen
    ]


def _evaluated(
    card: Card, body: Body, readers: Sequence[Reader], priced: Priced, rates: Rates, money: str
) -> EvaluatedCard:
    held = [SlotFit(card, slot, fit_in(card, slot)) for slot in body.slots.all()]
    sides = tuple(
        choice_side(Side(slot=one.slot, card=card, fits={card.pk: one.fit}))
        if one.mounts and card.state != CardState.SUSPECT
        else None
        for one in held
    )
    now = priced.now
    copies = [copy.mb_s for reader in readers if (copy := copying_with(card, reader))]
    candidate = Candidate(
        key=str(card.pk),  # what is kept of an evaluation is to name nothing of anybody's
        sides=sides,
        price_cents=rates.cents(now.price, now.currency, money) if now else None,
        owned=card.is_owned,
        copy_mb_s=max(copies, default=None),
    )
    return EvaluatedCard(card, candidate, priced, held)


def evaluation_of(
    setups: Sequence[Setup], evaluated: Sequence[EvaluatedCard], need: Need
) -> Evaluation:
    """What is to be evaluated; candidates have the numbers of `evaluated`."""
    return Evaluation(
        camera=camera_of(setups[0].body),
        modes=tuple(map(shooting_mode_of, setups)),
        candidates=tuple(one.candidate for one in evaluated),
        need=need,
    )


def continue_evaluation(evaluation: Evaluation, work_s: float) -> Progress:
    """Evaluates what is not known yet, for about `work_s`, one step at least; 0: none.

    All that is found is kept under what was asked, so that a reload, another visitor and another
    day find it.
    """
    asked = cache_key(evaluation)
    with suppress(LookupError):
        return Progress(1.0, kept_choice(asked), too_long=False)
    steps_name, too_long_name = f"steps:{asked}", f"too-long:{asked}"
    kept = results.get_many([steps_name, too_long_name])
    steps, too_long = kept.get(steps_name) or Steps(), bool(kept.get(too_long_name))
    choice = None
    if work_s and not too_long:
        steps, choice = _take_steps(evaluation, steps, work_s)
        if choice:
            results.set(f"choice:{asked}", choice)
            results.delete(steps_name)
        else:
            results.set(steps_name, steps, UNFINISHED_FOR_S)
    return Progress(1.0 if choice else steps.share(evaluation), choice, too_long=too_long)


@lru_cache(maxsize=64)  # a page that suggests changes reads ten; what is asked says all of it
def kept_choice(asked: str) -> Choice:
    """What came of an evaluation; raises LookupError as long as that isn't known."""
    choice: Choice | None = results.get(f"choice:{asked}")
    if choice is None:
        raise LookupError(asked)
    return choice


class _StepSize:
    """The frames of each step, so that one takes about STEP_S."""

    stage: Stage | None = None
    frames = FIRST_FRAMES
    began = 0.0

    def __call__(self, stage: Stage) -> int:
        now = time.monotonic()
        # What is decided without being simulated is much quicker than was allowed for.
        faster = STEP_S / max(now - self.began, 1e-3)
        more = max(FIRST_FRAMES, min(int(self.frames * faster), MOST_FRAMES))
        self.frames = more if stage is self.stage else FIRST_FRAMES
        self.began, self.stage = now, stage
        return self.frames


def _take_steps(evaluation: Evaluation, steps: Steps, work_s: float) -> tuple[Steps, Choice | None]:
    """As many steps as are done in about `work_s`, and the choice if none is left."""
    until = time.monotonic() + work_s
    steps = take_steps(evaluation, steps, _StepSize(), lambda: time.monotonic() > until)
    is_done = steps.stage(evaluation) is Stage.DONE
    return steps, steps.choice(evaluation) if is_done else None


def mark_too_long(evaluation: Evaluation) -> None:
    """Notes that an evaluation takes too long for anybody to wait for it."""
    results.set(f"too-long:{cache_key(evaluation)}", True, TOO_LONG_FOR_S)


def cache_key(evaluation: Evaluation) -> str:
    """What an evaluation is kept under."""
    return hashlib.sha256(f"{CACHE_VERSION} {evaluation!r}".encode()).hexdigest()
