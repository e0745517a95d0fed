"""The cards of a visitor weighed against a need, in steps that are kept: no work is done twice."""

import hashlib
import os
import time
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from itertools import islice

from django.core.cache import cache
from django.db.models import prefetch_related_objects

from desk.engine_adapter import camera_of, choice_side, way_of
from desk.need_address import OWN, NeedReading
from desk.setup import Setup, Side
from engine.candidates import Candidate
from engine.choose import Choice, find
from engine.cores import on_all_cores
from engine.digest import Found
from engine.need import Need
from engine.options import Evaluation
from kit.engine_adapter import copying_with, fit_in
from kit.fits import SlotFit, readers_to_copy
from kit.models import Body, Card, CardState, Reader, Visitor
from prices.money import Priced, Rates, prices_of

RESULTS = 5  # raised when the engine would answer the same question otherwise
WORK_S = 0.4  # of evaluating, before a page shows how far it is
MOST_BLOCKS = 400  # some minutes


@dataclass(frozen=True)
class Weighed:
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
    """How far an evaluation is: `choice` once all of it is done."""

    done: int
    total: int
    choice: Choice | None


def weigh(reading: NeedReading, visitor: Visitor) -> list[Weighed]:
    """The visitor's cards and those of the sample kit, as the reading narrows them down."""
    cards = Card.objects.visible_to(visitor).current().in_service()
    if reading.shown["among"] == OWN:
        cards = cards.owned_by(visitor)
    if reading.shown["form"]:
        cards = cards.filter(form=reading.shown["form"])
    chosen = list(cards.filter(capacity_gb__gte=reading.least_gb))
    prices, rates = prices_of(chosen, visitor), Rates.of(visitor)
    body = reading.desk.setup.body
    prefetch_related_objects([body], "tested_cards")
    readers = readers_to_copy(visitor)
    return [_weighed(card, body, readers, prices[card.pk], rates, reading.money) for card in chosen]


def _weighed(
    card: Card, body: Body, readers: Sequence[Reader], priced: Priced, rates: Rates, money: str
) -> Weighed:
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
    return Weighed(card, candidate, priced, held)


def evaluation_of(setups: Sequence[Setup], weighed: Sequence[Weighed], need: Need) -> Evaluation:
    """What is to be evaluated; candidates have the numbers of `weighed`."""
    return Evaluation(
        camera=camera_of(setups[0].body),
        ways=tuple(map(way_of, setups)),
        candidates=tuple(one.candidate for one in weighed),
        need=need,
    )


def go_on(evaluation: Evaluation, work_s: float) -> Progress:
    """Evaluates what is not known yet, for about `work_s`, one step at least; 0: none.

    All that is found is kept under what was asked, so that a reload, another visitor and another
    day find it.
    """
    asked = hashlib.sha256(f"{RESULTS} {evaluation!r}".encode()).hexdigest()
    total = len(evaluation.blocks) + 2
    known: Choice | None = cache.get(f"choice:{asked}")
    if known is not None:
        return Progress(total, total, known)
    keys = {f"block:{asked}:{number}": block for number, block in enumerate(evaluation.blocks)}
    found: dict[str, Found] = cache.get_many(keys)
    open_ = iter([key for key in keys if key not in found])
    until = time.monotonic() + work_s
    news: dict[str, Found] = {}
    while work_s and (batch := list(islice(open_, os.cpu_count()))):
        came = on_all_cores(partial(find, evaluation), [keys[key] for key in batch])
        news = dict(zip(batch, came, strict=True))
        found |= news
        if len(found) < len(keys) or time.monotonic() > until:
            cache.set_many(news)
        if time.monotonic() > until:
            break
    if len(found) < len(keys) or not work_s or (news and time.monotonic() > until):
        return Progress(len(found), total, None)
    choice: Choice | None = cache.get(f"judged:{asked}")
    if choice is None:
        choice = Choice.of(evaluation, list(found.values()))
        if time.monotonic() > until:
            cache.set(f"judged:{asked}", choice)
            return Progress(len(found) + 1, total, None)
    choice.settle()
    cache.set(f"choice:{asked}", choice)
    return Progress(total, total, choice)
