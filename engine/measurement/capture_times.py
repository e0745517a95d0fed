"""Bursts found in a folder of pictures, by the moments at which they were taken and their sizes.

Times are those that a camera writes into its files, to a hundredth or a thousandth of a second.
"""

import re
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from functools import cached_property, lru_cache
from itertools import chain, pairwise
from statistics import fmean, median

import numpy as np
from numpy.typing import NDArray

from engine.formats import figure
from engine.measurement.strokes import Strokes
from engine.quantities import S_IN_HOUR

Real = NDArray[np.float64]

BURST_ENDS_S = 3.0  # after a longer silence a new burst begins
FEWEST_FRAMES = 3  # that make a burst
CLOCK_BACK_S = 1.0  # further back than this the clock was set
MOST_DELETED = 1_000  # numbers further apart are of something else
ALIKE = 0.25  # of a gap to the one beside it
MANY = 20_000  # files that are looked at
MOST_DECIMALS = 6  # after the second
LONGEST_BODY = 200
NEAR_S = 120.0  # within which frames of two bodies are of one moment of the day
MOST_HOURS_APART = 14  # that two clocks are, set in two places
RARELY_TOGETHER, MOSTLY_TOGETHER = 0.1, 0.8  # shares of frames
MOST_OF_A_MODEL = 4  # bodies; more beginnings of names were given by hand
_DIGIT, _LAST_DIGITS = re.compile(r"\d"), re.compile(r"(\d{3,6})$")
EPOCH = datetime(1970, 1, 1)  # cameras have no zone


def seconds_of(moment: datetime, digits: str) -> float:
    """A moment without a zone in seconds, with the digits that stand after the second."""
    whole_s = (moment - EPOCH).total_seconds()
    return whole_s + (int(digits) / 10 ** len(digits) if digits else 0)


def second_digits(text: str) -> str:
    """The digits after the second that a file has in a field of its own; none where it has not."""
    return text[:MOST_DECIMALS] if text.isascii() and text.isdigit() else ""


@lru_cache(maxsize=100)  # of a few bodies, for each of their pictures
def body_named(maker: str, model: str) -> str:
    """The name of a body, whose model may be written with its maker."""
    has_maker = model.casefold().startswith(maker.casefold())
    return (model if has_maker else f"{maker} {model}".strip())[:LONGEST_BODY]


def moment_of(taken_s: float) -> datetime:
    """The moment of so many seconds."""
    return EPOCH + timedelta(seconds=taken_s)


def day_of(taken_s: float) -> date:
    """The day of that."""
    return moment_of(taken_s).date()


@dataclass(frozen=True, kw_only=True)
class Picture:
    """One file: its name, size in MB, the moment in seconds, and the body that took it.

    `decimals` are the digits that the camera writes after the second; 0: whole seconds only.
    """

    name: str
    mb: float
    taken_s: float
    decimals: int = 2
    body: str = ""

    @cached_property
    def stem(self) -> str:
        """The name without its ending: RAW and JPEG of one frame have it in common."""
        return self.name.rpartition(".")[0].casefold() or self.name.casefold()

    @property
    def ending(self) -> str:
        """The ending of the name, in capitals."""
        return self.name.rpartition(".")[2].upper()

    @cached_property
    def prefix(self) -> str:
        """The letters that the name begins with, as a body was set to; a colour space adds "_"."""
        return _DIGIT.split(self.stem, maxsplit=1)[0].strip("_- ")

    @cached_property
    def number(self) -> int | None:
        """The last digits of the name, as cameras count."""
        found = _LAST_DIGITS.search(self.stem)
        return int(found[1]) if found else None


@dataclass(frozen=True)
class Burst:
    """Frames in a row, each with its files."""

    frames: tuple[tuple[Picture, ...], ...]

    @cached_property
    def strokes(self) -> Strokes:
        """When each frame was taken, from the first on."""
        times = [files[0].taken_s for files in self.frames]
        decimals = min(files[0].decimals for files in self.frames)
        return Strokes(tuple(time - times[0] for time in times), resolution_s=10.0**-decimals)

    @property
    def has_strokes(self) -> bool:
        """Whether the files tell more than whole seconds."""
        return all(files[0].decimals for files in self.frames)

    @property
    def first_name(self) -> str:
        """The file that it begins with."""
        return self.frames[0][0].name

    @cached_property
    def mb_of_ending(self) -> dict[str, list[float]]:
        """Sizes in MB by the ending of names."""
        sizes: dict[str, list[float]] = defaultdict(list)
        for files in self.frames:
            for picture in files:
                sizes[picture.ending].append(picture.mb)
        return dict(sizes)

    @property
    def mean_mb(self) -> float:
        """Mean size of all files of a frame together."""
        return fmean(sum(picture.mb for picture in files) for files in self.frames)

    @property
    def is_covered(self) -> bool:
        """Whether all files are so alike in size that the lens must have been covered."""
        return all(np.std(sizes) < 0.004 * fmean(sizes) for sizes in self.mb_of_ending.values())


@dataclass(frozen=True)
class Folder:
    """The bursts of a folder, the frames that are in none, and what was odd, a sentence each."""

    bursts: tuple[Burst, ...]
    singles: int
    notes: tuple[str, ...]


def find_bursts(pictures: Iterable[Picture]) -> Folder:
    """Sorts a folder's pictures by time and body into bursts."""
    every = list(pictures)
    by_body = of_each_body(every)
    notes = list(notes_of(every, by_body))
    bursts, singles = [], 0
    for of_body in by_body.values():
        for run in _runs(frames_of(of_body)):
            if len(run) < FEWEST_FRAMES:
                singles += len(run)
            else:
                bursts.append(Burst(tuple(run)))
    bursts.sort(key=lambda burst: burst.frames[0][0].taken_s)
    notes += [note for burst in bursts if (note := _missing(burst))]
    return Folder(tuple(bursts), singles, tuple(notes))


def of_each_body(pictures: Sequence[Picture]) -> dict[str, list[Picture]]:
    """The pictures that each body took, each file once; of very many the first.

    Two bodies of one model are known by what the names of their files begin with.
    """
    by_body: dict[str, list[Picture]] = defaultdict(list)
    for picture in dict.fromkeys(pictures[:MANY]):
        by_body[picture.body].append(picture)
    return dict(chain.from_iterable(_of_each_name(*one) for one in by_body.items()))


def _of_each_name(body: str, pictures: list[Picture]) -> Iterator[tuple[str, list[Picture]]]:
    """All of them, or, where some beginnings of names alternate, those of each."""
    if not body:
        yield body, pictures
        return
    by_name: dict[str, list[Picture]] = defaultdict(list)
    for picture in pictures:
        by_name[picture.prefix].append(picture)
    spans = sorted(
        (min(one.taken_s for one in some), max(one.taken_s for one in some))
        for some in by_name.values()
    )
    follow = all(first[1] <= second[0] for first, second in pairwise(spans))
    if follow or len(by_name) > MOST_OF_A_MODEL:
        yield body, pictures
        return
    for prefix, some in by_name.items():
        yield f"{body} ({prefix.upper() or 'numbers'})", some


def frames_of(pictures: Sequence[Picture]) -> list[tuple[Picture, ...]]:
    """Files of one name and moment are one frame; frames by time, then by name."""
    frames: dict[tuple[str, float], list[Picture]] = defaultdict(list)
    for picture in pictures:
        frames[(picture.stem, picture.taken_s)].append(picture)
    of_each = (
        (files[0],) if len(files) == 1 else tuple(sorted(files, key=lambda one: one.ending))
        for files in frames.values()
    )
    return sorted(of_each, key=lambda files: (files[0].taken_s, files[0].stem))


def with_deleted(frames: Sequence[tuple[Picture, ...]]) -> list[tuple[float, float]]:
    """The moment and the MB of each frame, and of those between others that were deleted.

    Their numbers are missing, and frames in their places would follow each other as those beside
    them do; where they would not, it was another burst that was deleted, or none.
    """
    found = [(files[0].taken_s, sum(one.mb for one in files)) for files in frames]
    steps = [_step(*pair) for pair in pairwise(frames)]
    if 2 * steps.count(1) < len(steps):
        return found  # the names don't count
    apart_s = [
        (second[0] - first[0]) / max(step, 1)
        for step, (first, second) in zip(steps, pairwise(found), strict=True)
    ]
    filled = found[:1]
    for place, (step, each_s) in enumerate(zip(steps, apart_s, strict=True)):
        if 1 < step < MOST_DELETED:
            beside_s = [apart_s[one] for one in (place - 1, place + 1) if 0 <= one < len(apart_s)]
            if any(abs(each_s - other_s) <= ALIKE * other_s for other_s in beside_s):
                (taken_s, mb), after = found[place : place + 2]
                mean_mb = (mb + after[1]) / 2
                filled += [(taken_s + each_s * number, mean_mb) for number in range(1, step)]
        filled.append(found[place + 1])
    return filled


def _step(before: tuple[Picture, ...], after: tuple[Picture, ...]) -> int:
    """How far the numbers of two frames are apart; 0 where that can't be told."""
    first, second = before[0].number, after[0].number
    if first is None or second is None:
        return 0
    step = second - first
    return step if step == 1 or before[0].prefix == after[0].prefix else 0


def _runs(frames: Sequence[tuple[Picture, ...]]) -> Iterator[list[tuple[Picture, ...]]]:
    run: list[tuple[Picture, ...]] = []
    for files in frames:
        if run and files[0].taken_s - run[-1][0].taken_s > BURST_ENDS_S:
            yield run
            run = []
        run.append(files)
    if run:
        yield run


def notes_of(
    pictures: Sequence[Picture], by_body: Mapping[str, Sequence[Picture]]
) -> Iterator[str]:
    """What is odd about the files of a folder, a sentence each; `by_body` has each file once."""
    if len(pictures) > MANY:
        yield f"Of {figure(len(pictures))} files the first {figure(MANY)} were looked at."
    twice = min(len(pictures), MANY) - sum(map(len, by_body.values()))
    if twice:
        yield f"{figure(twice)} files are there twice; they count once."
    if len(by_body) > 1:
        yield f"The files are of {len(by_body)} bodies; each body's bursts are told apart."
    yield from _clocks_apart(by_body)
    coarse = sum(not picture.decimals for picture in pictures)
    if coarse:
        yield (
            f"{figure(coarse)} files have whole seconds only: frames can be counted, but not when "
            "each was taken. Some cameras can be set to write hundredths."
        )
    numbered = sorted(
        (picture for picture in pictures if picture.number is not None),
        key=lambda one: (one.body, one.stem),
    )
    back = sum(
        second.body == first.body and second.taken_s < first.taken_s - CLOCK_BACK_S
        for first, second in pairwise(numbered)
    )
    if back:
        often = "once" if back == 1 else f"{figure(back)} times"
        yield (
            f"The clock goes back {often} in the order of the names: was it set, or are there two "
            "bodies of one model?"
        )


def _clocks_apart(by_body: Mapping[str, Sequence[Picture]]) -> Iterator[str]:
    """Bodies that were used together only if their clocks are some whole hours apart."""
    first, *others = sorted(by_body, key=lambda body: len(by_body[body]), reverse=True)
    moments_s = np.sort([picture.taken_s for picture in by_body[first]])
    for other in others:
        theirs_s = np.array([picture.taken_s for picture in by_body[other]])

        def together(hours: int, theirs_s: Real = theirs_s) -> float:
            """The share of their frames that are near one of the first body's then."""
            shifted_s = theirs_s + hours * S_IN_HOUR
            near = np.searchsorted(moments_s, [shifted_s - NEAR_S, shifted_s + NEAR_S])
            return float((near[1] > near[0]).mean())

        hours = max(range(-MOST_HOURS_APART, MOST_HOURS_APART + 1), key=together)
        if together(0) < RARELY_TOGETHER and together(hours) > MOSTLY_TOGETHER:
            ahead, behind = (first, other) if hours > 0 else (other, first)
            apart = "1 hour" if abs(hours) == 1 else f"{abs(hours)} hours"
            yield (
                f"Is the clock of the {ahead or 'unnamed body'} {apart} ahead of that of the "
                f"{behind or 'unnamed body'}? By that they would have been used side by side."
            )


def _missing(burst: Burst) -> str:
    steps = [_step(*pair) for pair in pairwise(burst.frames)]
    missing = sum(step - 1 for step in steps if 1 < step < MOST_DELETED)
    if not missing or median(steps) != 1:
        return ""
    return (
        f"{figure(missing)} numbers are missing in the burst from {burst.first_name} on: frames "
        "that were deleted make it look slower than it was."
    )
