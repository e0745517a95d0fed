"""Six answers about a body, and all its figures as they let expect."""

import math
from dataclasses import dataclass, field
from functools import cached_property

from engine.burst.scenario import File, Scenario, Slot
from engine.cards.standards import CEILING_MB_S, Bus
from engine.estimates.figures import Estimate, spread_of_ends
from engine.estimates.file_sizes import (
    FILES_OF_FORMAT,
    FormatKind,
    KnownSize,
    file_sizes,
    held_size,
    pixels,
)
from engine.estimates.memory import Claim, Contradiction, Frame, Solved, solved, usual_memory
from engine.formats import figure
from engine.uncertainty.sources import Between, SlotSources, Sources

LEAST_OF_BUS = 0.5  # what cameras and cards make of the speed of their bus, at worst
USUAL_BUS = Bus.UHS_II
DOUBTFUL_RATIO = 2.5  # a file that differs by more from what its pixels let expect


@dataclass(frozen=True, kw_only=True)
class Answers:
    """What the owner of a body knows of it; whatever is left out is estimated.

    `frame_rates_fps` has one rate at least, the usual one first, `buses` those of each slot, the
    fastest that it runs, and `known` the size of a file of one format.
    """

    frame_rates_fps: tuple[float, ...]
    megapixels: float | None = None
    known: KnownSize | None = None
    buses: tuple[Bus, ...] = ()
    formats: tuple[FormatKind, ...] = (FormatKind.LOSSLESS_RAW,)
    claim: Claim | None = None


@dataclass(frozen=True)
class FormatEstimate:
    """A format: its files, in the order of its rules, and what a frame takes until processed."""

    kind: FormatKind
    files: tuple[Estimate, ...]
    held: Estimate

    @property
    def frame(self) -> Frame:
        """What a frame takes."""
        return Frame(sum(file.value for file in self.files), self.held.value)

    @property
    def largest(self) -> int:
        """The number of the largest file, whose spread counts for all."""
        return max(range(len(self.files)), key=lambda number: self.files[number].value)


@dataclass(frozen=True)
class BodyEstimate:
    """Every figure of a body that the answers let expect, and what of them contradicts."""

    answers: Answers
    contradictions: list[str] = field(default_factory=list)

    @cached_property
    def megapixels(self) -> Estimate:
        """Its megapixels."""
        return pixels(self.answers.megapixels, self.answers.known)

    @cached_property
    def formats(self) -> list[FormatEstimate]:
        """Its formats, as they were named."""
        return [self.format(kind) for kind in self.answers.formats]

    def format(self, kind: FormatKind) -> FormatEstimate:
        """A format, whether it was named or not."""
        files = file_sizes(kind, self.megapixels, self.answers.known)
        return FormatEstimate(kind, files, held_size(files, self.megapixels))

    @cached_property
    def _solved(self) -> Solved | None:
        """What the maker's claim comes to; None without one, or where it contradicts the rest."""
        claim = self.answers.claim
        if claim is None:
            return None
        try:
            return solved(claim, self.format(claim.kind).frame, write_ends(self.buses[0]))
        except Contradiction as error:
            self.contradictions.append(str(error))
            return None

    @property
    def buses(self) -> tuple[Bus, ...]:
        """The bus of each slot, the usual one where nobody said."""
        return self.answers.buses or (USUAL_BUS,)

    @cached_property
    def slots(self) -> list[Estimate]:
        """The most that each slot passes, MB/s."""
        caps = [slot_cap(bus) for bus in self.buses]
        claim, found = self.answers.claim, self._solved
        if claim and found and found.write_mb_s[1] < write_ends(self.buses[0])[0]:
            low, high = found.write_mb_s
            why = (
                f"the buffer fills after {figure(claim.frames)} frames of {claim.kind} all the same"
            )
            caps[0] = Estimate(math.sqrt(low * high), spread_of_ends(low, high), why)
        return caps

    @property
    def memory(self) -> Estimate:
        """Its working memory in MB: from the claim, or as is usual where that says nothing."""
        if self._solved:
            return self._solved.memory
        return usual_memory(self.formats[0].frame, max(self.answers.frame_rates_fps))

    def scenario(
        self, kind: FormatKind, frame_rate_fps: float, hold_s: float, card: Estimate
    ) -> Scenario:
        """A hold on one card in slot 1; raises InvalidScenario where a frame exceeds memory."""
        recording = self.format(kind)
        return Scenario(
            frame_rate_fps=frame_rate_fps,
            hold_s=hold_s,
            memory_mb=self.memory.value,
            files=tuple(
                File(name=rule.name, mb=file.value)
                for rule, file in zip(FILES_OF_FORMAT[kind], recording.files, strict=True)
            ),
            held_mb=recording.held.value,
            slots=(
                Slot(
                    write_mb_s=card.value,
                    slot_limit_mb_s=self.slots[0].value,
                    bus_mb_s=CEILING_MB_S[self.buses[0]],
                ),
            ),
        )

    def sources(self, kind: FormatKind, card: Estimate) -> Sources:
        """How sure the figures of such a hold are."""
        recording = self.format(kind)
        return Sources(
            slots=(
                SlotSources(
                    write=Between.of_spread(card.spread),
                    limit=Between.of_spread(self.slots[0].spread),
                ),
            ),
            frame_rate="printed",
            held=recording.held.spread,
            files=recording.files[recording.largest].spread,
            file_to_file=FILES_OF_FORMAT[kind][recording.largest].variation,
            memory=self.memory.spread,
        )


def estimated(answers: Answers) -> BodyEstimate:
    """The estimate, its contradictions told."""
    found = BodyEstimate(answers)
    _ = found.memory  # which meets a claim that contradicts
    if doubt := _doubtful_size(answers):
        found.contradictions.append(doubt)
    return found


def write_ends(bus: Bus) -> tuple[float, float]:
    """The ends in MB/s between which cameras, and cards made for `bus`, write over it."""
    return CEILING_MB_S[bus] * LEAST_OF_BUS, CEILING_MB_S[bus]


def slot_cap(bus: Bus) -> Estimate:
    """The most that a slot on `bus` passes; also what a card made for it keeps writing."""
    low, high = write_ends(bus)
    return Estimate(
        math.sqrt(low * high),
        spread_of_ends(low, high),
        f"{bus} carries {figure(high, 'MB/s')}; cameras make half to all of it",
    )


def _doubtful_size(answers: Answers) -> str:
    """What is odd about a file size beside the megapixels; empty: nothing."""
    known = answers.known
    if known is None or answers.megapixels is None:
        return ""
    expected_mb = FILES_OF_FORMAT[known.kind][0].mb(answers.megapixels)
    if 1 / DOUBTFUL_RATIO < known.mb / expected_mb < DOUBTFUL_RATIO:
        return ""
    return (
        f"A {known.kind} of {answers.megapixels:g} megapixels usually has about "
        f"{figure(expected_mb, 'MB')}, not {figure(known.mb, 'MB')}: one of the two may be wrong."
    )


def open_question(answers: Answers, factor: str) -> str:
    """The question left open that narrows `factor`, one of `Sources.factors`; empty: none does."""
    questions = {
        "memory": "" if answers.claim else "what the maker says that a burst holds",
        "file size": "" if answers.known else "the size of one of your files",
        "held size": "" if answers.megapixels else "how many megapixels it has",
        "slot": "" if answers.buses else "what goes into which slot",
    }
    return questions.get(factor.rstrip(" 12"), "")
