"""The plan that a request sends or asks for: its forms, and what becomes of it."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any
from urllib.parse import urlencode

from django.forms import BaseFormSet
from django.http import HttpRequest
from django.utils.text import capfirst

from engine import InvalidScenario
from engine.day.plan import Period, Plan
from engine.day.presses import InvalidDay
from engine.typed_numbers import as_typed
from kit.fits import readers_to_copy
from kit.models import Visitor
from outings.models import OF_DESK, OF_PERIOD, OutingDay, OutingPeriod, OutingPlan
from outings.plans.against_plan import predicted_of
from outings.plans.cards import (
    FURTHER,
    FurtherCardForm,
    FurtherCardForms,
    as_kept,
    as_sent,
    first_cards,
)
from outings.plans.changes import PlanChanges
from outings.plans.checklist import Item, checklist
from outings.plans.forms import PERIODS, PeriodForm, PeriodForms, PlanForm, is_of_plan
from outings.plans.planned_outing import PlannedOuting, shot_in, slots_written
from outings.plans.presets import PRESETS, Preset, like
from outings.plans.time_line import PeriodDrawn
from outings.replays.in_view import DayInView
from setups import keys
from setups.kit import Kit
from setups.prediction_words import fault_words
from setups.reader import Reading, read_address, read_query

HOLDS = ("hold_s", "long_hold_s")  # which say nothing where there are no bursts
LONGEST_COUNT = 4  # digits of the number of rows
USUAL_PRESET = "slalom"
NO_READER = (
    "No reader that is chosen takes the {}: choose another, or say at how many MB/s it is copied. "
    "Copying is left out."
)


@dataclass
class PlanInView:
    """A set-up, None without a body, the forms of a plan, and the plan, None where `faults` or the
    forms say why. `notes` tell what is left out, `changes` what was tried so far that would change
    it.
    """

    reading: Reading | None
    form: PlanForm | None = None
    periods: "BaseFormSet[PeriodForm] | None" = None
    further: "BaseFormSet[FurtherCardForm] | None" = None
    preset: Preset | None = None
    planned: PlannedOuting | None = None
    changes: PlanChanges | None = None
    notes: list[str] = field(default_factory=list)
    faults: list[str] = field(default_factory=list)

    @classmethod
    def asked(cls, request: HttpRequest) -> "PlanInView":
        """The plan of an address: a day of the sample scenario, or one like a kept day.

        For a part of the page only its set-up: the page sends the plan that stands on it.
        """
        kit = Kit.of(request.user)
        found = cls(read_address(request.GET.dict(), kit))
        if found.reading is None or request.htmx:  # type: ignore[attr-defined]
            return found
        found.preset = _preset(request)
        data = _data_of(found.preset)
        return found._read(kit, data, request.user)

    @classmethod
    def sent(cls, request: HttpRequest, *, simulated: bool = True) -> "PlanInView":
        """The plan of a form; it is not simulated where only its changes are waited for."""
        told = request.POST
        kit = Kit.of(request.user)
        found = cls(read_address(keys.sent_with(told), kit))
        data: dict[str, Any] = told.dict()
        if (rows := told.get("more")) in (PERIODS, FURTHER):
            count = told.get(f"{rows}-TOTAL_FORMS", "1")
            more = 1 + int(count) if count.isdecimal() and len(count) < LONGEST_COUNT else 1
            data[f"{rows}-TOTAL_FORMS"] = str(more)
        return found._read(kit, data, request.user, simulated=simulated)

    @classmethod
    def of_told(cls, setup: str, told: Mapping[str, Any], visitor: Visitor) -> "PlanInView":
        """The plan that stood in forms, with its set-up."""
        kit = Kit.of(visitor)
        return cls(read_query(setup, kit))._read(kit, told, visitor)

    @classmethod
    def of_kept(
        cls, plan: OutingPlan, visitor: Visitor, *, with_sample: bool = False
    ) -> "PlanInView":
        """A plan that a visitor has kept, with the set-up that is kept with it."""
        kit = Kit.of(visitor, with_sample=with_sample)
        return cls(read_query(plan.setup, kit))._read(kit, _data_of_kept(plan), visitor)

    def save_to(self, plan: OutingPlan) -> None:
        """Writes the plan that stands in the forms over a row, its periods anew.

        What it predicts is kept with it as long as its day has not been shot.

        Raises ValueError where there is none.
        """
        planned, form = self.planned, self.form
        if planned is None or form is None:
            raise ValueError("There is no plan to keep.")
        told = form.cleaned_data
        plan.setup = urlencode(planned.reading.setup.address)
        plan.start, plan.reader, plan.copy_mb_s = told["start"], told["reader"], told["copy_mb_s"]
        plan.cards = as_kept(form, list(self.further or []))
        for name in OF_DESK:
            setattr(plan, name, told[name])
        if not OutingDay.objects.filter(outing=plan.outing).exists():
            plan.predicted = predicted_of(planned.day)  # before the day, not after it
        plan.save()
        plan.periods.all().delete()
        OutingPeriod.objects.bulk_create(
            OutingPeriod(
                plan=plan, number=number, name=one["period"].name, copies=one["copies"],
                listed_s=one["listed_s"], recording=one["recording"],
                arrangement=one.get("arrangement", ""),
                frame_rate_fps=float(one["frame_rate"]) if one["frame_rate"] else None,
                **{name: getattr(one["period"], name) for name in OF_PERIOD},
            )
            for number, one in enumerate(self._typed, 1)
        )  # fmt: skip

    @property
    def told(self) -> dict[str, str]:
        """What stands in the forms, by the names of their fields."""
        data = self.form.data if self.form else {}
        return {name: str(value) for name, value in data.items() if is_of_plan(name)}

    @property
    def _typed(self) -> list[dict[str, Any]]:
        """What is told of each period, in forms that are valid."""
        return [one.cleaned_data for one in self.periods or [] if one.is_there]

    @property
    def _typed_periods(self) -> list[Period]:
        return [one["period"] for one in self._typed]

    @property
    def is_wrong(self) -> bool:
        """Whether something that was typed can't be planned."""
        forms = (self.form, self.further, self.periods)
        return bool(self.faults) or any(one is not None and not one.is_valid() for one in forms)

    @property
    def checklist(self) -> list[Item]:
        """What to do before."""
        return list(checklist(self.planned)) if self.planned else []

    @property
    def ends(self) -> list[tuple[int, PeriodDrawn]]:
        """The row of the form that each period of the drawing stands in."""
        if self.planned is None or self.periods is None:
            return []
        rows = [number for number, row in enumerate(self.periods) if row.is_there]
        return list(zip(rows, self.planned.time_line.periods, strict=True))

    @property
    def sentences(self) -> list[str]:
        """What is wrong, each with the period and the field that it is about."""
        found = list(self.faults)
        for form in [self.form] if self.form else []:
            found += [f"{form.fields[name].label}: {fault}" for name, faults in form.errors.items()
                      for fault in faults]  # fmt: skip
        for row in self.further or []:
            found += [f"Further cards: {fault}" for faults in row.errors.values()
                      for fault in faults]  # fmt: skip
        for number, period in enumerate(self.periods or [], 1):
            name = period.data.get(period.add_prefix("name")) or f"Period {number}"
            found += [f"{name}, {period.label_of(field)}: {fault}"
                      for field, faults in period.errors.items() for fault in faults]  # fmt: skip
        return found

    def _read(
        self,
        kit: Kit,
        data: Mapping[str, Any],
        visitor: Visitor,
        *,
        simulated: bool = True,
    ) -> "PlanInView":
        reading = self.reading
        if reading is None:
            return self
        readers = readers_to_copy(visitor)
        self.form = form = PlanForm(data, reading=reading, readers=readers)
        asked = {"reading": reading, "kit": kit}
        self.periods = PeriodForms(data, prefix=PERIODS, form_kwargs=asked)
        self.further = FurtherCardForms(
            {**as_sent({}), **data}, prefix=FURTHER, form_kwargs={"sides": reading.all_sides}
        )
        is_valid = form.is_valid() & self.further.is_valid() & self.periods.is_valid()
        if not is_valid or not reading.setup.complete:
            return self
        periods, reading = self._typed_periods, form.with_other_card
        copy_mb_s = form.copying_mb_s
        if copy_mb_s is None and any(one.copies for one in periods):
            self.notes.append(NO_READER.format(reading.setup.sides[0].card))
            periods = [replace(one, copies=False) for one in periods]
        written = slots_written(shot_in(reading, one.set_up, kit).setup for one in periods)
        without = [side for side in reading.all_sides[:written] if side.card is None]
        if without:
            self.faults.append(f"Nothing in the kit fits {without[0].slot}.")
            return self
        sides = reading.all_sides
        self.notes += [
            f"Nothing is written to {side.slot}: the further cards for it are left out."
            for side in sides[written:] if any(row.taken(side) for row in self.further)
        ]  # fmt: skip
        cards = [
            [*first_cards(side, form.cleaned_data),
             *(card for row in self.further for card in row.taken(side))]
            for side in sides[:written]
        ]  # fmt: skip
        try:
            plan = Plan(periods=periods, cards=cards, copy_mb_s=copy_mb_s)
            planned = PlannedOuting(kit, reading, plan, form.cleaned_data["start"], form.desk)
            _ = simulated and planned.day
        except InvalidDay as error:
            self.faults = [capfirst(sentence) for sentence in error.sentences()]
        except InvalidScenario as error:
            self.faults = list(fault_words(error))
        else:
            self.planned = planned
        return self


def _preset(request: HttpRequest) -> Preset:
    if number := request.GET.get("like", ""):
        kept = OutingDay.objects.numbered(number, request.user)
        day = kept and DayInView.of_kept(kept, request).day
        if day:
            return like(day)
    return PRESETS.get(request.GET.get("day", ""), PRESETS[USUAL_PRESET])


def _data_of_kept(plan: OutingPlan) -> dict[str, Any]:
    """A kept plan as its form would send it."""
    periods = [
        one.told | {name: getattr(one, name) for name in OF_PERIOD
                    if one.bursts_an_hour or name not in HOLDS}
        for one in plan.periods.all()
    ]  # fmt: skip
    data = _data_of(Preset("", plan.start, periods))
    data |= as_sent(plan.cards) | {"reader": plan.reader}
    for name in ("copy_mb_s", *OF_DESK):
        if (value := getattr(plan, name)) is not None:
            data[name] = as_typed(float(value))
    return data


def _data_of(preset: Preset) -> dict[str, Any]:
    """A day as its form would send it."""
    data: dict[str, Any] = {
        "start": preset.start.strftime("%H:%M"), "cards1": "1", "cards2": "1",
        "periods-TOTAL_FORMS": len(preset.periods) + 1, "periods-INITIAL_FORMS": 0,
    }  # fmt: skip
    for number, period in enumerate(preset.periods):
        shown = {key: as_typed(value) if isinstance(value, float) else value
                 for key, value in period.items() if value}  # fmt: skip
        data |= {f"periods-{number}-{key}": value for key, value in shown.items()}
    return data
