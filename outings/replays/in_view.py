"""The day that a request sends or asks for: read, and replayed with the set-up in view."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from heapq import nlargest
from itertools import islice
from typing import Any

from django.http import HttpRequest, QueryDict

from bench.from_files import SetupOfFiles
from bench.picture_form import PicturesForm
from bench.views.measuring import LONGEST_TOLD
from engine import InvalidScenario
from engine.burst.scenario import HOLD_S
from engine.day.presses import InvalidDay
from engine.measurement.capture_times import Folder, find_bursts
from engine.typed_numbers import NotANumber, quantity_in
from outings.models import Outing, OutingDay
from outings.replays.day import WORST_BURSTS, DayReplay
from outings.replays.example import example_table
from outings.replays.pictures import BodyPictures, PicturesOfDay
from outings.words import clock_words
from setups import keys
from setups.kit import Kit
from setups.pins import Pins
from setups.prediction_words import fault_words
from setups.reader import Reading, read_address

MOST_TOLD = 200  # holds of a day
LONGEST_TYPED = 20
GONE = "This day is not kept any more."


@dataclass
class DayInView:
    """A set-up, None without a body, pins, and what came of the day that goes with them.

    `table` is its pictures as text, or `kept` the row that has them. `day` is None where `faults`
    say why, or where they have whole seconds and are only `counted`. `found` has the further bodies
    of a folder, `questions` what its files leave open, `refused` the files that were none.
    `of_outings` are those that it may be of, as their pictures have not been kept; `typed` are
    holds as they were typed.
    """

    reading: Reading | None
    pins: Pins
    table: str = ""
    kept: OutingDay | None = None
    is_example: bool = False
    found: BodyPictures | None = None
    counted: Folder | None = None
    day: DayReplay | None = None
    refused: list[str] = field(default_factory=list)
    questions: list[str] = field(default_factory=list)
    faults: list[str] = field(default_factory=list)
    of_outings: Sequence[Outing] = ()
    typed: dict[float, str] = field(default_factory=dict)

    @classmethod
    def asked(cls, request: HttpRequest) -> "DayInView":
        """The set-up of an address, without a day."""
        kit = Kit.of(request.user)
        pins = Pins.of(request.GET.getlist(keys.PIN), kit)
        return cls(read_address(request.GET.dict(), kit), pins)

    @classmethod
    def sent(cls, request: HttpRequest) -> "DayInView":
        """The day of a form: a table or a file of pictures, a made-up one, or one that is kept."""
        told, kit = request.POST, Kit.of(request.user)
        found = cls(read_address(keys.sent_with(told), kit), Pins.of(told.getlist(keys.PIN), kit))
        found.refused = told.get("refused", "")[:LONGEST_TOLD].splitlines()
        if found.reading is None:
            return found
        if number := told.get("kept", ""):
            found.kept = OutingDay.objects.numbered(number, request.user)
            if found.kept is None:
                found.faults = [GONE]
            else:
                told_s = found.kept.told_s
                found._replay(found.reading, found.kept.pictures, found._told_s(told, told_s))
        elif "example" in told:
            found._make_up(found.reading, told)
        else:
            found._read(found.reading, told, request.FILES)
        if found.day and not found.kept:
            found.of_outings = list(Outing.objects.without_day(request.user))
        return found

    @classmethod
    def of_kept(cls, kept: OutingDay, request: HttpRequest) -> "DayInView":
        """A day that is kept, with the set-up that is kept with it."""
        kit = Kit.of(request.user)
        pins = Pins.of(request.GET.getlist(keys.PIN), kit)
        found = cls(kept.outing.reading(kit), pins, kept=kept)
        if found.reading:
            found._replay(found.reading, kept.pictures, kept.told_s)
        return found

    @property
    def longest_counted(self) -> list[tuple[str, int]]:
        """When the longest bursts began and their frames, where only counts are told."""
        bursts = self.counted.bursts if self.counted else ()
        longest = nlargest(WORST_BURSTS, bursts, key=lambda one: len(one.frames))
        return [
            (clock_words(one.frames[0][0].taken_s, "%H:%M:%S"), len(one.frames)) for one in longest
        ]

    @property
    def has_kept_setup(self) -> bool:
        """Whether set-up and holds are those that are kept with the day."""
        if self.kept is None or self.day is None:
            return False
        return (self.kept.setup, self.kept.told_s) == (self.day.setup_query, self.day.told_s)

    def _make_up(self, reading: Reading, told: QueryDict) -> None:
        if not reading.setup.complete:
            return  # the page says so
        self.is_example = True
        try:
            table = example_table(reading.setup)
        except InvalidScenario as error:
            self.faults = list(fault_words(error))
            return
        made_up = told.copy()
        made_up["table"] = table
        self._read(reading, made_up, None)

    def _read(self, reading: Reading, told: QueryDict, files: Any) -> None:
        """What is in a form; a set-up that its files tell of takes the place of the one in view."""
        form = PicturesForm(told, files)
        if not form.is_valid():
            self.faults = form.sentences
        self.table = form.lines
        if self.faults:
            return
        is_new = "of_files" in told or "camera" in told
        body = told.get("camera", "" if is_new else told.get("of_body", ""))
        self.found = BodyPictures.of(form.cleaned_data["pictures"], body)
        if not self.found.decimals:
            self.counted = find_bursts(self.found.pictures)
            return
        try:
            pictures = self.found.of_day
        except InvalidDay as error:
            self.faults = list(error.sentences())
            return
        if is_new:
            of_files = SetupOfFiles(pictures.told, reading, self.pins.kit)
            self.reading, self.questions = of_files.reading(), of_files.questions
        self._replay(self.reading or reading, pictures, self._told_s(told, {}))

    def _told_s(self, told: QueryDict, kept: dict[float, float]) -> dict[float, float]:
        """How long bursts were held, as it is typed, or else as it is kept."""
        if "held_at" not in told:
            return kept
        found = {}
        pairs = zip(told.getlist("held_at"), told.getlist("held_s"), strict=False)
        for at, typed in islice((pair for pair in pairs if pair[1].strip()), MOST_TOLD):
            try:
                after_s = quantity_in(at, "s")
                self.typed[after_s] = typed[:LONGEST_TYPED]
                hold_s = quantity_in(typed, "s")
            except NotANumber as error:
                self.questions.append(f"Held: {error}")
                continue
            if fault := HOLD_S.fault(hold_s):
                self.questions.append(f"Held: {fault}.")
            else:
                found[after_s] = hold_s
        return found

    def _replay(
        self, reading: Reading, pictures: PicturesOfDay, told_s: dict[float, float]
    ) -> None:
        if not reading.setup.complete:
            return  # the page says so
        day = DayReplay(reading, pictures, self.pins, told_s)
        try:
            day.work_out()
        except InvalidDay as error:
            self.faults = list(error.sentences())
        except InvalidScenario as error:
            self.faults = list(fault_words(error))
        else:
            self.day = day
