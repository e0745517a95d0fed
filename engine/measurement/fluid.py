"""A quick look at runs: the fluid limit of the burst model, in closed form (docs/model.md).

Frames and bytes flow instead of coming one by one; caches, a second slot that takes over and stalls
are left out. At a thousandth of the cost of the simulation it is close to what that shows, and
closer once it is calibrated: corrected by what the simulation shows of bodies that fit.

Compiled, as each run of each guess is looked at some thousands of times.
"""

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from numba import njit

from engine.burst.event_loop import one_writer_ns
from engine.burst.plan import COUPLING_NUMBER, PARALLEL
from engine.figures.key import Factor, FigureKind
from engine.measurement.forward import OBSERVED, SHORTEST_HOLD_S, Noted, Real, Seen
from engine.measurement.population import Population, Unknowns, Whole
from engine.measurement.runs import ObservedRun, values_of
from engine.quantities import BYTES_IN_MB
from engine.uncertainty.sources import COUPLING, ENCODER, FILES, FRAME_RATE, HELD, MEMORY, ROOM

CALIBRATED = 3  # of OBSERVED: burst depth, frames, seconds to clear
ONE_BELOW, ONE_ABOVE = 0.1587, 0.8413  # quantiles, a standard deviation from the middle
WILD_SHARE, WILD_RATIO = 0.02, 10.0  # of observations, and how much further off they are
LOG_USUAL, LOG_WILD = math.log1p(-WILD_SHARE), math.log(WILD_SHARE / WILD_RATIO)
# The factors of every run, of which it has the assumed number and the place of its figure's ratios.
FACTORS = (
    FRAME_RATE, ENCODER, HELD, MEMORY, ROOM,
    *(Factor(kind, place) for place in (1, 2)
      for kind in (FigureKind.CARD, FigureKind.SLOT, FigureKind.OVERHEAD, FigureKind.SHARE,
                   FigureKind.PACE)),
)  # fmt: skip
RUN = np.dtype([
    ("values", np.float64, len(FACTORS)), ("places", np.int64, len(FACTORS)),
    ("files_mb", np.float64), ("hold_s", np.float64), ("timed_mb", np.float64, 2),
    ("bus_mb_s", np.float64, 2), ("noted", np.float64, len(OBSERVED)),
    ("deviations", np.float64, len(OBSERVED)), ("did_not_slow", np.int64),
    ("coupling", np.int64), ("coupling_place", np.int64), ("off", np.float64, CALIBRATED),
])  # fmt: skip
IS_KNOWN = -1  # in place of a column of couplings
FIRST_SIDE, OF_SIDE = FACTORS.index(Factor(FigureKind.CARD, 1)), 5
CARD, SLOT, OVERHEAD, SHARE, PACE = range(OF_SIDE)  # of a side
QuickRun = Any  # a record of RUN, whose fields the type checker doesn't know


class QuickLook:
    """The fluid model of `runs`, and how well it fits what was noted of them."""

    def __init__(self, runs: Sequence[ObservedRun], unknowns: Unknowns, noted: Noted) -> None:
        self._unknowns, self._noted = unknowns, noted
        self._records = np.zeros(len(runs), dtype=RUN)
        for record, run in zip(self._records, runs, strict=True):
            _fill(record, run, unknowns)
        for place, name in enumerate(OBSERVED):
            self._records["noted"][:, place] = noted.values[name]
            self._records["deviations"][:, place] = noted.deviations[name]
        self._records["did_not_slow"] = noted.did_not_slow

    def log_likelihood(self, population: Population) -> Real:
        """How likely what was noted is (axes: guess, run), on the scale of logarithms."""
        found = np.empty_like(population.bursts)
        _fits(self._records, *self._guesses(population), found)
        return found

    def calibrate(self, population: Population, seen: Seen) -> None:
        """Corrects what is shown of each run by what the simulation has `seen` of the population.

        By its usual distance from the fluid model (median); how far that varies from body to body
        adds to the deviations of what was noted.
        """
        shown = np.empty((*population.bursts.shape, CALIBRATED))
        _outcomes(self._records, *self._guesses(population), shown)
        depths = np.where(seen.walls, seen.depths, np.nan)
        off = np.stack([depths, seen.frames, seen.clear_s], axis=-1) - shown
        off[:, np.isnan(off).all(axis=0)] = 0.0
        low, middle, high = np.nanquantile(off, (ONE_BELOW, 0.5, ONE_ABOVE), axis=0)
        self._records["off"] = middle
        for place, name in enumerate(OBSERVED[:CALIBRATED]):
            varies = (high - low)[:, place] / 2
            self._records["deviations"][:, place] = np.hypot(self._noted.deviations[name], varies)

    def _guesses(self, population: Population) -> tuple[Real, Real, Real, Whole]:
        ratios = population.ratio_columns
        columns = np.ones((population.count, ratios.shape[1] + 1))  # the last: known exactly
        columns[:, :-1] = ratios
        return columns, population.bursts, population.holds_s, population.couplings


def _fill(record: QuickRun, run: ObservedRun, unknowns: Unknowns) -> None:
    scenario, values = run.scenario, values_of(run.scenario)
    used = len(scenario.slots) if scenario.arrangement.writes_both else 1
    for number, slot in enumerate(scenario.slots[:used]):
        record["timed_mb"][number] = scenario.timed_bytes(number) / BYTES_IN_MB
        record["bus_mb_s"][number] = math.inf if slot.bus_mb_s is None else slot.bus_mb_s
    for place, factor in enumerate(FACTORS):
        value = values.get(factor, 0.0)
        record["values"][place] = math.inf if value is None else value
        key = run.figures.get(factor)
        known = len(unknowns.figures)  # where what is known exactly stands
        record["places"][place] = unknowns.column.get(key, known) if key else known
    record["files_mb"] = values[FILES]
    record["hold_s"] = scenario.hold_s
    record["coupling"] = COUPLING_NUMBER[scenario.coupling]
    key = run.figures.get(COUPLING)
    record["coupling_place"] = IS_KNOWN
    if key and key in unknowns.couplings:
        record["coupling_place"] = unknowns.couplings.index(key)


@njit(cache=True, nogil=True)
def weighed_in(misfit: float, log: float, factor: float) -> tuple[float, float]:
    """A likelihood of `factor` times the exponential of `log`, with what is off by `misfit` in it.

    That is in standard deviations. Errors are normal, but for a few that are far off (a mixture of
    two normals, but for a constant): a slip of the thumb does not pull everything along. The
    smaller of the two is in the factor, so that one logarithm does for all that was noted.
    """
    usual, wild = LOG_USUAL - misfit**2 / 2, LOG_WILD - (misfit / WILD_RATIO) ** 2 / 2
    return log + max(usual, wild), factor * (1 + math.exp(-abs(usual - wild)))


@njit(cache=True, nogil=True)
def transfer_s(run: QuickRun, side: int, ratios: Real, size: float) -> float:
    """Seconds to write what goes to a slot of a frame; 0 where nothing does."""
    if run.timed_mb[side] == 0:
        return 0.0
    speed = side_value(run, side, CARD, ratios) * side_value(run, side, SHARE, ratios)
    speed = min(speed, side_value(run, side, SLOT, ratios), run.bus_mb_s[side])
    return float(run.timed_mb[side] * size / speed / side_value(run, side, PACE, ratios))


@njit(cache=True, nogil=True)
def wait_s(run: QuickRun, side: int, ratios: Real) -> float:
    """Seconds spent on a frame before its bytes."""
    return side_value(run, side, OVERHEAD, ratios)


@njit(cache=True, nogil=True)
def side_value(run: QuickRun, side: int, place: int, ratios: Real) -> float:
    """A figure of a slot and its card in one guess."""
    column = FIRST_SIDE + OF_SIDE * side + place
    return float(run.values[column] * ratios[run.places[column]])


@njit(cache=True, nogil=True)
def writing_s(run: QuickRun, ratios: Real, size: float, coupling: int) -> float:
    """Seconds to write a frame, by how the slots share the work."""
    wait_1 = wait_s(run, 0, ratios)
    write_1 = transfer_s(run, 0, ratios, size)
    if run.timed_mb[1] == 0:
        return float(wait_1 + write_1)
    wait_2 = wait_s(run, 1, ratios)
    write_2 = transfer_s(run, 1, ratios, size)
    if coupling == PARALLEL:
        return float(max(wait_1 + write_1, wait_2 + write_2))
    # Seconds do as well as whole nanoseconds.
    return float(one_writer_ns(coupling, wait_1, write_1, wait_2, write_2))  # type: ignore[arg-type]


@njit(cache=True, nogil=True)
def flow(
    fps: float, encode_s: float, write_s: float, hold_s: float, held_mb: float, kept_mb: float,
    memory_mb: float,
) -> tuple[float, float, float, bool]:  # fmt: skip
    """Burst depth, frames, seconds to clear, and whether there is a wall.

    What comes in more than goes out fills the buffer: frames that wait for the encoder, and those
    that wait for the writer.
    """
    encoded_s = max(1 / fps, encode_s)
    written_s = max(encoded_s, write_s)
    fill_mb_s = (fps - 1 / encoded_s) * held_mb + (1 / encoded_s - 1 / written_s) * kept_mb
    room_mb = memory_mb - held_mb * (1 + encode_s / encoded_s) - kept_mb * write_s / written_s
    full_s = max(room_mb, 0.0) / max(fill_mb_s, 1e-9)
    pace_s = max(encode_s, write_s, 1e-9)
    if full_s >= hold_s - 1 / fps:
        frames = depth = hold_s * fps + 0.5
    else:
        depth = full_s * fps + 2  # the first frames and the one that is refused come on top
        # Once full, those that wait for the encoder shrink and make room, until none is left.
        shrinking_fps = ((held_mb - kept_mb) / encoded_s + kept_mb / pace_s) / held_mb
        shrinking_fps = min(shrinking_fps, fps)
        waiting = full_s * (fps - 1 / encoded_s)
        after_s = hold_s - full_s
        shrinking_s = min(waiting / max(1 / encoded_s - shrinking_fps, 1e-9), after_s)
        frames = depth + shrinking_s * shrinking_fps + (after_s - shrinking_s) / pace_s
    clear_s = max(frames * pace_s + min(encode_s, write_s) - hold_s, write_s / 2)
    return depth, frames, clear_s, full_s < hold_s - 1 / fps


@njit(cache=True, nogil=True)
def _shown(
    run: QuickRun, ratios: Real, log_size: float, longer_s: float, couplings: Whole
) -> tuple[float, float, bool, float, float]:
    """Burst depth, frames, whether there is a wall, seconds to clear, and MB a frame."""
    values, places, size = run.values, run.places, math.exp(log_size)
    unknown = run.coupling_place
    coupling = run.coupling if unknown == IS_KNOWN else couplings[unknown]
    kept_mb = run.files_mb * size
    depth, frames, clear_s, is_wall = flow(
        values[0] * ratios[places[0]],
        1 / (values[1] * ratios[places[1]]),
        writing_s(run, ratios, size, coupling),
        max(run.hold_s + longer_s, SHORTEST_HOLD_S),
        max(values[2] * ratios[places[2]], kept_mb),
        kept_mb,
        values[3] * ratios[places[3]] * ratios[places[4]],
    )
    return depth, frames, is_wall, clear_s, kept_mb


@njit(cache=True, nogil=True)
def _outcomes(
    runs: Any, ratios: Real, bursts: Real, holds_s: Real, couplings: Whole, shown: Real
) -> None:
    for guess in range(len(ratios)):
        of_guess, unknown = ratios[guess], couplings[guess]
        for place in range(len(runs)):
            size, longer_s = bursts[guess, place], holds_s[guess, place]
            depth, frames, is_wall, clear_s, _ = _shown(
                runs[place], of_guess, size, longer_s, unknown
            )
            shown[guess, place, 0] = depth if is_wall else math.nan
            shown[guess, place, 1] = frames
            shown[guess, place, 2] = clear_s


@njit(cache=True, nogil=True)
def _fits(
    runs: Any, ratios: Real, bursts: Real, holds_s: Real, couplings: Whole, found: Real
) -> None:
    for guess in range(len(ratios)):
        of_guess, unknown = ratios[guess], couplings[guess]
        for place in range(len(runs)):
            run, size, longer_s = runs[place], bursts[guess, place], holds_s[guess, place]
            noted, deviations, off = run.noted, run.deviations, run.off
            log, factor = 0.0, 1.0
            depth, frames, is_wall, clear_s, kept_mb = _shown(
                run, of_guess, size, longer_s, unknown
            )
            if run.did_not_slow and is_wall:
                log, factor = weighed_in((depth - frames - 1) / deviations[0], log, factor)
            frames += off[1]
            # Where there is no wall, depth is one above the frames, as `Seen` has it.
            depth = depth + off[0] if is_wall else frames + 1
            if not math.isnan(noted[0]):
                log, factor = weighed_in((depth - noted[0]) / deviations[0], log, factor)
            if not math.isnan(noted[1]):
                log, factor = weighed_in((frames - noted[1]) / deviations[1], log, factor)
            if not math.isnan(noted[2]):
                clear_s = max(clear_s + off[2], 0.0)
                log, factor = weighed_in((clear_s - noted[2]) / deviations[2], log, factor)
            if not math.isnan(noted[3]):
                fps = run.values[0] * of_guess[run.places[0]]
                log, factor = weighed_in(math.log(fps / noted[3]) / deviations[3], log, factor)
            if not math.isnan(noted[4]):
                log, factor = weighed_in(math.log(kept_mb / noted[4]) / deviations[4], log, factor)
            found[guess, place] = log + math.log(factor)
