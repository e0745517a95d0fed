"""The made-up camera that ships: a hidden body shoots a set-up and leaves what a real one would."""

import io
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from bench.engine_adapter import assumed
from bench.figure_rows import described
from engine import Result, Scenario
from engine.burst.simulate import simulate
from engine.figures.key import FigureKind
from engine.formats import figure
from engine.measurement.assumed import AssumedSetup
from engine.measurement.hidden_body import HiddenBody
from engine.measurement.picture_table import as_line
from engine.measurement.runs import values_of
from engine.measurement.synthetic_camera import (
    picture_files,
    shots,
    strokes_s,
    wav_pieces,
)
from setups.setup import Setup

MOST_SEEDS = 1_000_000
MOST_FILES_MB = 500
LONGEST_SOUND_S = 120.0
HIDDEN_KINDS = (
    FigureKind.MEMORY, FigureKind.HELD, FigureKind.FILES, FigureKind.ENCODER, FigureKind.CARD,
    FigureKind.SLOT,
)  # fmt: skip


class TooMuch(ValueError):
    """More than one answer may hold, told in a sentence."""


@dataclass(frozen=True)
class HiddenFigure:
    """A figure of the hidden body, and what is assumed of it."""

    name: str
    unit: str
    value: float
    assumed: float


@dataclass(frozen=True)
class StandIn:
    """A hidden body, by its seed, with a set-up, which must be complete, in its hands."""

    setup: Setup
    seed: int

    @cached_property
    def _assumed(self) -> AssumedSetup:
        return assumed(self.setup)

    @cached_property
    def scenario(self) -> Scenario:
        """What it really does."""
        return HiddenBody(self.seed).scenario(self._assumed)

    @cached_property
    def result(self) -> Result:
        """The burst that it shoots; raises InvalidScenario where it can't."""
        return simulate(self.scenario)

    @property
    def figures(self) -> list[HiddenFigure]:
        """What it hides, in words."""
        hidden, before = values_of(self.scenario), values_of(self._assumed.scenario)
        found = []
        for factor, key in self._assumed.figures.items():
            value, was = hidden.get(factor), before.get(factor)
            if value and was and key.kind in HIDDEN_KINDS:
                found.append(HiddenFigure(*described(key, [self.setup]), value, was))
        return found

    @property
    def sound_fault(self) -> str:
        """Why there is no sound of it; empty: there is one."""
        if self.setup.hold_s <= LONGEST_SOUND_S:
            return ""
        return f"A sound has {figure(LONGEST_SOUND_S, 's')} at most: hold it shorter."

    @property
    def files_fault(self) -> str:
        """Why there is no zip of its files; empty: there is one."""
        total_mb = self.result.frames * sum(file.mb for file in self.scenario.files)
        if total_mb <= MOST_FILES_MB:
            return ""
        return (
            f"Its pictures come to {figure(total_mb, 'MB')}, and a zip may have {MOST_FILES_MB} "
            "MB: choose a shorter hold, or take the table of names, times and sizes."
        )

    def sound(self) -> Iterator[bytes]:
        """Its shutter in a noisy hide, as WAV, in pieces; raises :class:`TooMuch`."""
        if fault := self.sound_fault:
            raise TooMuch(fault)
        return wav_pieces(strokes_s(self.result), self.seed)

    def table(self) -> Iterator[bytes]:
        """Its files as a table of names, times and sizes, line by line."""
        return (as_line(shot.picture()).encode() for shot in shots(self.result, self.seed))

    def pictures(self) -> Iterator[bytes]:
        """Its files, true to size, as one zip; raises :class:`TooMuch`."""
        if fault := self.files_fault:
            raise TooMuch(fault)
        return iter([self._zip()])

    def _zip(self) -> bytes:
        file = io.BytesIO()
        with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as packed:
            for name, content in picture_files(self.result, self.seed):
                packed.writestr(name, content)
        return file.getvalue()
