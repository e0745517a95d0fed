"""What a camera does by the answers so far: as the Desk would show it, before anything is saved."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from camera.answers_form import AnswersForm
from camera.document import TYPICAL_GB, body_document, typical_card
from engine.cards.compatibility import Fit
from engine.cards.label.checks import NoteKind
from engine.estimates.body import BodyEstimate, estimated, open_question
from engine.figures.key import FigureKind
from engine.formats import figure
from kit.card_reading import proposal
from kit.detached import detached
from kit.document import BadDocument
from kit.engine_adapter import fit_in
from kit.models import Body, Card, CardState, Slot, Visitor
from prices.money import Costs
from setups.drawing import axis_end_s, strokes
from setups.prediction import Prediction, predict
from setups.reader import Reading
from setups.setup import USUAL_HOLD_S, Setup, Side

TEST = (
    "one burst with this card in your own camera: hold it well past the wall, count the frames and "
    "time the card light"
)
NAMELESS = {"maker": "Unnamed", "name": "card"}


@dataclass(frozen=True)
class Preview:
    """The prediction that the answers of `form`, which may have faults, allow.

    `refused` says why they could not be saved.
    """

    form: AnswersForm
    visitor: Visitor
    refused: Sequence[str] = ()

    @cached_property
    def estimate(self) -> BodyEstimate | None:
        """The figures of the body; None while there is no frame rate."""
        answers = self.form.answers
        return estimated(answers) if answers else None

    @cached_property
    def body_document(self) -> Mapping[str, Any]:
        """The body to show and to save."""
        if self.estimate is None:
            raise ValueError("there are no answers to speak of")
        called = self.form.cleaned_data.get("name") or ""
        return body_document(called, self.form.rates, self.form.slots, self.estimate)

    @cached_property
    def card_document(self) -> Mapping[str, Any]:
        """The card to show and to save: by its label, or a typical one."""
        label = self.form.cleaned_data.get("card")
        if not label:
            return typical_card(self.form.slots[0] if self.form.slots else ())
        # No burst of a preview fills a card of that size; a card that is kept says its own.
        room_gb = self.form.card_room_gb or TYPICAL_GB
        read = proposal(self.form.card_reading) | {"capacity_gb": room_gb, "marks": label}
        return {**NAMELESS, **read}

    @cached_property
    def _body(self) -> Body:
        """The body, not saved; raises :class:`BadDocument`."""
        return detached(Body(slug="my-camera"), self.body_document)

    @cached_property
    def own_card(self) -> Card | None:
        """A card that the visitor has already, where no label is typed and one fits."""
        if self.estimate is None or self.form.cleaned_data.get("card"):
            return None
        slot, in_use = self._body.slots.all()[0], (CardState.IN_USE, CardState.SPARE)
        owned = Card.objects.owned_by(self.visitor).current().filter(state__in=in_use)
        return next((card for card in owned if fit_in(card, slot).mounts), None)

    @cached_property
    def prediction(self) -> Prediction | None:
        """The burst in the first format at the first rate; None while there is none."""
        reading, _ = self._read
        return predict(reading.setup) if reading else None

    @property
    def faults(self) -> list[str]:
        """Why there is no prediction, or why it could not be saved."""
        return [*self._read[1], *self.refused]

    @cached_property
    def _read(self) -> tuple[Reading | None, list[str]]:
        """The set-up of body and card, and what is wrong where there is none."""
        if self.estimate is None:
            return None, []
        try:
            body = self._body
            card = self.own_card or detached(Card(slug="my-card"), self.card_document)
        except BadDocument as error:
            return None, list(error.faults.values())
        slot = body.slots.all()[0]
        fit = fit_in(card, slot)
        if not fit.mounts:
            return None, [f"Your card does not go into {slot}. {fit.reasons[-1]}"]
        return self._reading(body, card, slot, fit), []

    def _reading(self, body: Body, card: Card, slot: Slot, fit: Fit) -> Reading:
        side = Side(slot=slot, card=card, cards=[card], fits={card.pk: fit})
        arrangements = list(body.arrangements.all())
        setup = Setup(
            body=body,
            recording=body.formats.all()[0],
            rate=body.shutter_modes.all()[0].frame_rates.all()[0],
            hold_s=USUAL_HOLD_S,
            sides=(side,),
            arrangement=body.single_arrangement,
        )
        return Reading(
            setup=setup,
            all_sides=(side,),
            bodies=[body],
            arrangements=arrangements,
            notes={},
            typed={},
            unknown=False,
            costs=Costs(self.visitor),
        )

    @property
    def strokes(self) -> str:
        """The strokes of the burst, in a box of the drawing's width and height."""
        if self.prediction is None or self.prediction.result is None:
            return ""
        result = self.prediction.shot
        return strokes(result, axis_end_s(result))

    @property
    def doubts(self) -> list[str]:
        """What does not go together in the answers, or on the label of the card."""
        if self.estimate is None:
            return []
        of_card = [
            note.says
            for note in self.form.card_reading.notes
            if note.finding in (NoteKind.CONTRADICTS, NoteKind.WARNS)
        ]
        return [*self.estimate.contradictions, *of_card, *self._less_than_claimed()]

    def _less_than_claimed(self) -> Iterator[str]:
        """Why this card does not bring what the maker claims of the format that is shown."""
        claim, prediction = self.form.answers and self.form.answers.claim, self.prediction
        if not (claim and prediction and prediction.result and self.form.kinds[0] is claim.kind):
            return
        most = prediction.ranges.frames_at_full_speed.high
        due = min(claim.frames, prediction.shot.frames_due)
        if most is not None and most < due and prediction.setup.rate.fps == claim.frame_rate_fps:
            yield (
                f"The maker says {claim}; with this card, which takes "
                f"{figure(prediction.write_as_it_ends(0).mb_s, 'MB/s')} here, expect "
                f"{figure(most, 'frames')} at most in four bursts of five. The claim needs a "
                "faster card, or smaller files than yours."
            )

    @property
    def narrows_most(self) -> str:
        """The question left open, or the test, that would narrow the ranges most; empty: none."""
        prediction = self.prediction
        if prediction is None or prediction.result is None or self.form.answers is None:
            return ""
        factor = prediction.widest_factor
        if not factor:
            return ""
        if factor.kind is FigureKind.CARD and not self.form.cleaned_data.get("card"):
            return "what the label of your card says"
        return open_question(self.form.answers, factor.kind) or TEST
