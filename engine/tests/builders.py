"""Scenarios for tests: a valid default, and hypothesis strategies for any valid one."""

from typing import Any

from hypothesis import strategies as st

from engine import File, InvalidScenario, Scenario, Slot


def scenario(**changes: Any) -> Scenario:
    """A sport body with room for 24 frames; `file_mb`, `write_mb_s` and the like set its parts."""
    file = File(name="raw", mb=changes.pop("file_mb", 50))
    slot = Slot(
        write_mb_s=changes.pop("write_mb_s", 230),
        overhead_s=changes.pop("overhead_s", 0),
        free_mb=changes.pop("free_mb", None),
    )
    defaults = {"frame_rate_fps": 20, "hold_s": 6, "memory_mb": 1200}
    return Scenario(**defaults | {"files": (file,), "slots": (slot,)} | changes)


def _round_or_any(lowest: float, highest: float) -> st.SearchStrategy[float]:
    """Round figures half the time, so that events do fall on the same instant."""
    round_figures = (0, 0.05, 0.1, 0.2, 1, 2, 5, 10, 20, 40, 50, 100, 200, 400, 1000)
    within = [x for x in round_figures if lowest <= x <= highest]
    return st.sampled_from(within) | st.floats(lowest, highest)


@st.composite
def scenarios(draw: st.DrawFn, most_resume_frames: int = 12) -> Scenario:
    """Any scenario that makes sense, bursts of up to some thousand frames."""
    frames = draw(st.integers(1, 60))
    resume = draw(st.integers(1, min(frames, most_resume_frames)))
    sizes = draw(st.lists(_round_or_any(0.1, 100), min_size=1, max_size=2))
    held_mb = draw(st.just(0.0) | _round_or_any(0, 200))
    frame_mb = max(held_mb, sum(sizes))
    try:
        return Scenario(
            frame_rate_fps=draw(_round_or_any(0.2, 120)),
            hold_s=draw(_round_or_any(0.05, 20)),
            memory_mb=frames * frame_mb + draw(st.just(0.0) | st.floats(0, frame_mb)),
            held_mb=held_mb,
            process_fps=draw(st.none() | _round_or_any(0.5, 200)),
            files=tuple(File(name=f"file {n}", mb=mb) for n, mb in enumerate(sizes)),
            slots=(
                Slot(
                    write_mb_s=draw(_round_or_any(1, 2000)),
                    overhead_s=draw(st.just(0.0) | _round_or_any(0, 0.2)),
                    free_mb=draw(st.none() | _round_or_any(0, 5000)),
                ),
            ),
            resume_free_frames=resume,
        )
    except InvalidScenario:
        # Sizes that round down to a byte less than their sum: too close to call, not a scenario.
        return scenario()
