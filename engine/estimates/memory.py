"""The working memory of a body, from what its maker says that a burst holds.

A claim is a burst with the maker's own card: by the time that memory is full, this card has taken
some of the frames. So memory is not the claim times the size of a frame, but what makes the exact
simulation come to the claim, over the cards that the maker may have used.
"""

import math
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from engine.burst.scenario import HOLD_S, MEMORY_MB, File, LoadedSlot, Scenario
from engine.burst.simulate import simulate
from engine.estimates.file_sizes import FormatKind
from engine.figures.figure import Figure
from engine.figures.uncertainty import LogNormal, LogUniform
from engine.formats import figure
from engine.quantities import BYTES_IN_MB, Range

CLAIM_FRAMES = Range(1, 1_000_000, "frames")
UNTIL_FULL = 1_000  # makers print so many for a burst that ends when the card is full
USUAL_S = (0.8, 6.0)  # of shooting that memory holds, from the class of cheap bodies to the dearest
PLAUSIBLE_S = (0.25, 12.0)  # beyond these a claim contradicts something else
CLAIM_RATIO, USUAL_RATIO = 1.4, 2.5  # of a claim on a card that is known, and of no claim
CARDS_TRIED = 9
LEAST_SHARE, HALVINGS = 0.05, 8  # of a frame that is too large, in search of one that fits
ROUNDED = 0.1  # of the frames of a claim: makers print round numbers
SLOWEST = 0.3  # of the slowest likely card: what bodies write that make little of a fast bus


@dataclass(frozen=True, kw_only=True)
class Claim:
    """What a maker says that a burst holds: frames of a format at a rate before it slows.

    `write_mb_s` are the ends between which the speed of its card lies, if it says which card.
    """

    frames: int
    kind: FormatKind
    frame_rate_fps: float
    write_mb_s: tuple[float, float] | None = None

    def __str__(self) -> str:
        frames = "1 frame" if self.frames == 1 else f"{figure(self.frames)} frames"
        return f"{frames} of {self.kind} at {self.frame_rate_fps:g} fps"


@dataclass(frozen=True)
class Frame:
    """What a frame takes: MB of its files together, and MB held until it is processed."""

    files_mb: float
    held_mb: float

    @property
    def mb(self) -> float:
        """MB of memory that it takes when it is taken."""
        return max(self.files_mb, self.held_mb)


class Contradiction(ValueError):
    """A claim that the other answers contradict, told in a sentence with what would fit."""


def usual_memory(frame: Frame, frame_rate_fps: float) -> Figure:
    """Memory of which nothing is known but the class of the body."""
    low_s, high_s = USUAL_S
    return Figure(
        frame.mb * frame_rate_fps * math.sqrt(low_s * high_s),
        LogNormal.within(USUAL_RATIO),
        f"cameras hold {low_s:g} to {high_s:g} s of shooting at full speed; what the maker says "
        "that a burst holds would narrow this most",
    )


class Solved(NamedTuple):
    """The memory that a claim comes to, and the write speeds in MB/s with which it does."""

    memory: Figure
    write_mb_s: tuple[float, float]


def solved(
    claim: Claim,
    frame: Frame,
    write_mb_s: tuple[float, float],
    passed_mb_s: float = math.inf,
) -> Solved:
    """Memory with which a burst comes to `claim`, on cards with speeds between two ends.

    Its value is that for the speed which the slot is taken to pass, so that the body as a whole
    comes to the claim: `passed_mb_s` where the claim allows it, else the middle of what it allows.

    Where all of these are so fast that memory would never fill, the claim shows that the body
    writes more slowly: down to SLOWEST of them. Raises :class:`Contradiction`.
    """
    if claim.frames >= UNTIL_FULL:
        raise Contradiction(
            f"{figure(claim.frames)} frames usually means until the card is full, which tells "
            "nothing of the buffer."
        )
    ends = claim.write_mb_s or write_mb_s
    found = _solutions(claim, frame, ends)
    if not found and claim.write_mb_s is None:
        found = _solutions(claim, frame, (ends[0] * SLOWEST, ends[0]))
    if not found:
        raise Contradiction(_never_fills(claim, frame, ends[0]))
    low, high = min(found.values()), max(found.values())
    slowest_mb_s, fastest_mb_s = min(found), max(found)
    _check(claim, frame, math.sqrt(low * high), ends)
    middle_mb_s = math.sqrt(slowest_mb_s * fastest_mb_s)
    taken_mb_s = middle_mb_s if passed_mb_s > fastest_mb_s else passed_mb_s
    at_that_speed = _memory_for(claim, frame, taken_mb_s)
    memory = Figure(
        _memory_below(claim, frame, taken_mb_s) if at_that_speed is None else at_that_speed,
        LogNormal(max(LogUniform(low, high).spread, LogNormal.within(CLAIM_RATIO).spread)),
        f"solved backwards from {claim} on cards of {figure(slowest_mb_s)} to "
        f"{figure(fastest_mb_s, 'MB/s')}: the buffer is smaller than that many frames, as the card "
        "takes some meanwhile",
    )
    return Solved(memory, (slowest_mb_s, fastest_mb_s))


def _solutions(claim: Claim, frame: Frame, ends_mb_s: tuple[float, float]) -> dict[float, float]:
    """Memory in MB by write speed, for speeds evenly between the ends that meet the wall so."""
    low_mb_s, high_mb_s = ends_mb_s
    shares = (np.arange(CARDS_TRIED) + 0.5) / CARDS_TRIED
    speeds = [low_mb_s * (high_mb_s / low_mb_s) ** float(share) for share in shares]
    memory = {speed: _memory_for(claim, frame, speed) for speed in speeds}
    return {speed: mb for speed, mb in memory.items() if mb is not None}


def _memory_for(claim: Claim, frame: Frame, write_mb_s: float) -> float | None:
    """Memory in MB with which a card of `write_mb_s` comes to the claim; None: there is none.

    With memory that never fills, what is in use as each frame is taken says what it would need:
    at least what is in use at each frame of the claim, less than at the frame that follows. With a
    card nearly as fast as the camera, that frame may find one just written and need no more: then
    the next possible number of frames is taken, up to ROUNDED more than the claim.
    """
    moments_ns, used_bytes, last_ns = _filling(claim, frame, write_mb_s)
    least = int(used_bytes[moments_ns <= last_ns].max())
    later = used_bytes[moments_ns > last_ns]
    grown = later[later > least]
    return (least + int(grown[0])) / 2 / BYTES_IN_MB if len(grown) else None


def _memory_below(claim: Claim, frame: Frame, write_mb_s: float) -> float:
    """Memory in MB with which a card of `write_mb_s` meets the wall a little before the claim.

    For a card with which no memory comes to it: a little more memory, and the burst would go far
    beyond.
    """
    moments_ns, used_bytes, last_ns = _filling(claim, frame, write_mb_s)
    until = used_bytes[moments_ns <= last_ns]
    most, before = int(until.max()), until[: int(until.argmax())]
    return (most + int(before.max(initial=0))) / 2 / BYTES_IN_MB


def _filling(
    claim: Claim, frame: Frame, write_mb_s: float
) -> tuple[NDArray[np.int64], NDArray[np.int64], int]:
    """Moments and bytes in use with memory that never fills, and when the claim's last frame is."""
    more = max(1, math.ceil(claim.frames * ROUNDED))
    scenario = Scenario(
        frame_rate_fps=claim.frame_rate_fps,
        hold_s=min((claim.frames + more - 0.5) / claim.frame_rate_fps, HOLD_S.highest),
        memory_mb=min((claim.frames + more + 1) * frame.mb, MEMORY_MB.highest),
        files=(File(name="any", mb=frame.files_mb),),
        held_mb=frame.held_mb,
        slots=(LoadedSlot(write_mb_s=write_mb_s),),
    )
    moments_ns, used_bytes = simulate(scenario).memory_steps
    return moments_ns, used_bytes, (claim.frames - 1) * scenario.frame_interval_ns


def _never_fills(claim: Claim, frame: Frame, low_mb_s: float) -> str:
    stream = frame.files_mb * claim.frame_rate_fps
    return (
        f"{claim.kind} of about {figure(frame.files_mb, 'MB')} at {claim.frame_rate_fps:g} fps "
        f"makes {figure(stream, 'MB/s')}, which the card takes: the buffer would never fill, and "
        f"certainly not after {figure(claim.frames)} frames. It fits files of "
        f"{figure(low_mb_s / claim.frame_rate_fps, 'MB')} or more, "
        f"{figure(low_mb_s / frame.files_mb, 'fps')} or more, or a slower card."
    )


def _largest_mb(claim: Claim, frame: Frame, ends_mb_s: tuple[float, float]) -> float:
    """The largest frame with which the claim takes no more than PLAUSIBLE_S of shooting."""
    fits, too_large = LEAST_SHARE, 1.0
    for _ in range(HALVINGS):
        share = math.sqrt(fits * too_large)
        smaller = Frame(share * frame.files_mb, share * frame.held_mb)
        found = _solutions(claim, smaller, ends_mb_s).values()
        memory_mb = math.sqrt(min(found) * max(found)) if found else 0.0
        if memory_mb / smaller.mb / claim.frame_rate_fps > PLAUSIBLE_S[1]:
            too_large = share
        else:
            fits = share
    return fits * frame.mb


def _check(claim: Claim, frame: Frame, memory_mb: float, ends_mb_s: tuple[float, float]) -> None:
    held_s = memory_mb / frame.mb / claim.frame_rate_fps
    shortest_s, longest_s = PLAUSIBLE_S
    words = f"{claim} would take a buffer of {figure(memory_mb, 'MB')}, "
    if held_s > longest_s:
        smaller_mb = _largest_mb(claim, frame, ends_mb_s)
        raise Contradiction(
            f"{words}{figure(held_s, 's')} of shooting; cameras have far less. "
            f"It fits frames of {figure(smaller_mb, 'MB')} or less, as JPEG may be, or a lower "
            "frame rate."
        )
    if held_s < shortest_s:
        slower_fps = claim.frame_rate_fps * held_s / shortest_s
        raise Contradiction(
            f"{words}room for {figure(memory_mb / frame.mb)} frames; cameras have more. "
            f"It fits larger files, or {figure(slower_fps, 'fps')} or less."
        )
