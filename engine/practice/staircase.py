"""How difficult the next run is: the weighted up-down method (Kaernbach, 1991).

After a success the level rises by one, after a failure it falls by three: it comes to rest where
three runs in four succeed, hard enough to learn from. Kaernbach, "Simple adaptive testing with the
weighted up-down method", Perception & Psychophysics 49 (1991).
"""

from engine.practice.subject_run import LEVEL

FIRST_LEVEL = 4
UP, DOWN = 1, 3
SUCCESSES = DOWN / (UP + DOWN)  # the share at which steps up and down cancel out


def next_level(level: int, succeeded: bool | None) -> int:
    """The level after a run; the same where there was nothing to keep (`succeeded` is None)."""
    if succeeded is None:
        return level
    moved = level + UP if succeeded else level - DOWN
    return int(min(max(moved, LEVEL.lowest), LEVEL.highest))
