"""Six answers about a body, and all its figures as they let expect."""

import math
from dataclasses import dataclass
from functools import cached_property
from statistics import geometric_mean

from engine.cards.standards import CEILING_MB_S, Bus
from engine.estimates.file_sizes import (
    FILES_OF_FORMAT,
    FormatKind,
    KnownSize,
    file_sizes,
    held_size,
    pixels,
)
from engine.estimates.memory import Claim, Contradiction, Frame, Solved, solved, usual_memory
from engine.estimates.write_speed import slot_ceiling
from engine.figures.figure import Figure
from engine.figures.key import FigureKind
from engine.figures.uncertainty import LogNormal, LogUniform
from engine.formats import figure

OF_MAKERS_CARD = (0.25, 0.95)  # of the bus: a maker takes a fast card for a claim
USUAL_BUS = Bus.UHS_II
DOUBTFUL_RATIO = 2.5  # a file that differs by more from what its pixels let expect


@dataclass(frozen=True, kw_only=True)
class Answers:
    """What the owner of a body knows of it; whatever is left out is estimated.

    `frame_rates_fps` has one rate at least, `buses` those of each slot, the
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
    files: tuple[Figure, ...]
    held: Figure

    @property
    def frame(self) -> Frame:
        """What a frame takes."""
        return Frame(sum(file.value for file in self.files), self.held.value)


@dataclass(frozen=True)
class BodyEstimate:
    """Every figure of a body that the answers let expect.

    `solved` is what the maker's claim comes to; None without one, or where it contradicts the
    other answers. `contradictions` has a sentence for each.
    """

    answers: Answers
    solved: Solved | None = None
    contradictions: tuple[str, ...] = ()

    @cached_property
    def megapixels(self) -> Figure:
        """Its megapixels."""
        return pixels(self.answers.megapixels, self.answers.known)

    @cached_property
    def formats(self) -> list[FormatEstimate]:
        """Its formats, as they were named."""
        return [self.format(kind) for kind in self.answers.formats]

    def format(self, kind: FormatKind) -> FormatEstimate:
        """A format, whether it was named or not."""
        files = file_sizes(kind, self.megapixels, self.answers.known)
        files_mb = sum(file.value for file in files)
        return FormatEstimate(kind, files, held_size([kind], files_mb, self.megapixels))

    @property
    def buses(self) -> tuple[Bus, ...]:
        """The bus of each slot, the usual one where nobody said."""
        return self.answers.buses or (USUAL_BUS,)

    @cached_property
    def slots(self) -> list[Figure]:
        """The most that each slot passes, MB/s."""
        caps = [slot_ceiling(CEILING_MB_S[bus]) for bus in self.buses]
        claim, found = self.answers.claim, self.solved
        if claim and found and found.write_mb_s[1] < caps[0].middle:
            low, high = found.write_mb_s
            why = (
                f"the buffer fills after {figure(claim.frames)} frames of {claim.kind} all the same"
            )
            caps[0] = _between(low, high, why)
        return caps

    @property
    def memory(self) -> Figure:
        """Its working memory in MB: from the claim, or as is usual where that says nothing."""
        if self.solved:
            return self.solved.memory
        # A rate for special occasions alone says little of what a body is built for.
        usual_fps = geometric_mean(self.answers.frame_rates_fps)
        return usual_memory(self.formats[0].frame, usual_fps)


def estimated(answers: Answers) -> BodyEstimate:
    """The figures of a body by `answers`, the maker's claim included."""
    sizes, claim = BodyEstimate(answers), answers.claim
    found, told = None, [doubt] if (doubt := _doubtful_size(answers)) else []
    if claim is not None:
        try:
            frame, bus = sizes.format(claim.kind).frame, sizes.buses[0]
            passed_mb_s = slot_ceiling(CEILING_MB_S[bus]).value
            found = solved(claim, frame, write_ends(bus), passed_mb_s)
        except Contradiction as error:
            told.append(str(error))
    return BodyEstimate(answers, found, tuple(told))


def write_ends(bus: Bus) -> tuple[float, float]:
    """The ends in MB/s between which a camera writes over a bus to its maker's own card."""
    low, high = OF_MAKERS_CARD
    return CEILING_MB_S[bus] * low, CEILING_MB_S[bus] * high


def _between(low: float, high: float, why: str) -> Figure:
    """A figure as sure as if it lay anywhere between two ends."""
    return Figure(math.sqrt(low * high), LogNormal(LogUniform(low, high).spread), why)


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


def open_question(answers: Answers, kind: FigureKind) -> str:
    """The question left open that narrows figures of a kind most; empty: none does."""
    questions = {
        FigureKind.MEMORY: "" if answers.claim else "what the maker says that a burst holds",
        FigureKind.FILES: "" if answers.known else "the size of one of your files",
        FigureKind.HELD: "" if answers.megapixels else "how many megapixels it has",
        FigureKind.SLOT: "" if answers.buses else "what goes into which slot",
    }
    return questions.get(kind, "")
