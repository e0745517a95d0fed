"""What another rhythm would have kept of a moment, tried on the run as it was."""

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from typing import NamedTuple

from engine.burst.scenario import SHORTEST_HOLD_NS, Hold
from engine.practice.score import Score
from engine.practice.subjects import StageKind
from engine.quantities import NOTICED_SHARE, ns_of

PAUSES_S = (0.5, 1.0, 2.0)  # for which somebody lets go; half a second is a finger up and down


class RhythmKind(StrEnum):
    """What would have been done otherwise, the smallest change first."""

    LET_GO = "let_go"
    HOLD_ON = "hold_on"
    PRESS_EARLIER = "press_earlier"
    SKIP_FALSE_STARTS = "skip_false_starts"
    WAIT_FOR_SIGN = "wait_for_sign"
    WAIT_FOR_MOMENT = "wait_for_moment"


@dataclass(frozen=True)
class Rhythm:
    """A change of the presses: its kind, the presses, and for letting go how long and in which
    stage."""

    kind: RhythmKind
    presses: tuple[Hold, ...]
    pause_s: float = 0.0
    during: StageKind | None = None


class TriedRhythm(NamedTuple):
    """A rhythm, and the frames of the moment that it would have kept."""

    rhythm: Rhythm
    kept: int


def better_rhythm(score: Score) -> TriedRhythm | None:
    """The change of rhythm that would have kept most; None: none would have kept more.

    Of several that nobody would tell apart (under a tenth) the smallest.
    """
    tried = [TriedRhythm(one, score.shot.with_presses(one.presses).kept) for one in _rhythms(score)]
    most = max((one.kept for one in tried), default=0)
    as_good = (one for one in tried if one.kept >= most * (1 - NOTICED_SHARE))
    return next((one for one in as_good if one.kept > score.kept), None)


def _rhythms(score: Score) -> Iterator[Rhythm]:
    run, presses = score.shot.run, score.shot.played.presses
    if run.moment_s is None or run.sure_sign_s is None:
        return
    starts_s, ends_s = run.moment_s
    if presses:
        for pause_s in PAUSES_S:
            for stage in run.stages:
                if _is_down(presses, stage.starts_s):
                    apart = _without(presses, stage.starts_s, stage.starts_s + pause_s)
                    yield Rhythm(RhythmKind.LET_GO, apart, pause_s, stage.kind)
        on = _held_until(presses, ends_s)
        yield Rhythm(RhythmKind.HOLD_ON, on)
        yield Rhythm(RhythmKind.SKIP_FALSE_STARTS, _without(on, 0, run.final_build_up_s))
    answers_s = run.sure_sign_s + score.reaction_s
    if answers_s >= ends_s:
        return
    if presses and answers_s < presses[0].press_s:
        yield Rhythm(RhythmKind.PRESS_EARLIER, _hold(ns_of(answers_s), ns_of(ends_s)))
    for kind, from_s in ((RhythmKind.WAIT_FOR_SIGN, answers_s),
                         (RhythmKind.WAIT_FOR_MOMENT, max(answers_s, starts_s))):  # fmt: skip
        yield Rhythm(kind, _hold(ns_of(from_s), ns_of(ends_s)))


def _is_down(presses: tuple[Hold, ...], at_s: float) -> bool:
    return any(one.press_s < at_s < one.press_s + one.hold_s for one in presses)


def _without(presses: tuple[Hold, ...], from_s: float, to_s: float) -> tuple[Hold, ...]:
    """The presses with the finger up for a while."""
    from_ns, to_ns = ns_of(from_s), ns_of(to_s)
    return tuple(
        part
        for one in presses
        for ends in ((one.press_ns, min(one.finger_up_ns, from_ns)),
                     (max(one.press_ns, to_ns), one.finger_up_ns))
        for part in _hold(*ends)
    )  # fmt: skip


def _held_until(presses: tuple[Hold, ...], ends_s: float) -> tuple[Hold, ...]:
    """The presses, the last one that began before then held until then."""
    ends_ns = ns_of(ends_s)
    before = [one for one in presses if one.press_ns < ends_ns]
    if not before:
        return presses
    last_ns = max(before[-1].finger_up_ns, ends_ns)
    return *before[:-1], *_hold(before[-1].press_ns, last_ns)


def _hold(press_ns: int, up_ns: int) -> tuple[Hold, ...]:
    """One press; none where it would be no longer than nothing."""
    return (Hold.between(press_ns, up_ns),) if up_ns - press_ns >= SHORTEST_HOLD_NS else ()
