"""The event loop itself, in whole nanoseconds and bytes, compiled.

Compiled because the Desk redraws ten minutes at 120 frames a second while a finger drags: 72,000
frames take 180 ms interpreted and 2 ms compiled (`bin/bench` prints both).
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

NEVER = -1


@njit("(int64, int64, int64, int64, int64, int64, int64, int64, int64)", cache=True, nogil=True)
def run(
    hold_ns: int,
    interval_ns: int,
    encode_ns: int,
    write_ns: int,
    memory_bytes: int,
    frame_bytes: int,
    file_bytes: int,
    resume_bytes: int,
    most_frames: int,
) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64], int, int]:
    """Moments at which each frame was taken, encoded and written, then wall and card full.

    Things that fall on the same instant follow one order: room is freed (written frames, then
    encoded ones), the card is asked for room, memory is asked for room, the frame is taken.
    `most_frames` is what the card has room for; the last two answers are NEVER where it applies.
    """
    due = min(most_frames, -(-hold_ns // interval_ns))
    taken = np.empty(due, np.int64)
    encoded = np.empty(due, np.int64)
    written = np.empty(due, np.int64)
    frames = shrunk = freed = 0  # taken, encoded, written by now, as far as memory has noticed
    used_bytes = 0
    needed_bytes = frame_bytes
    encoder_free_ns = writer_free_ns = 0
    wall_ns = card_full_ns = NEVER

    now_ns = 0
    while now_ns < hold_ns:
        while freed < frames and written[freed] <= now_ns:
            freed += 1
            used_bytes -= file_bytes
        while shrunk < frames and encoded[shrunk] <= now_ns:
            shrunk += 1
            used_bytes -= frame_bytes - file_bytes
        if frames == most_frames:
            card_full_ns = now_ns
            break
        if used_bytes + needed_bytes > memory_bytes:
            if wall_ns == NEVER:
                wall_ns = now_ns
            needed_bytes = resume_bytes
            now_ns = written[freed]
            if shrunk < frames:
                now_ns = min(now_ns, encoded[shrunk])
            continue
        encoder_free_ns = max(encoder_free_ns, now_ns) + encode_ns
        writer_free_ns = max(writer_free_ns, encoder_free_ns) + write_ns
        taken[frames] = now_ns
        encoded[frames] = encoder_free_ns
        written[frames] = writer_free_ns
        frames += 1
        used_bytes += frame_bytes
        needed_bytes = frame_bytes
        now_ns += interval_ns
    return taken[:frames], encoded[:frames], written[:frames], wall_ns, card_full_ns
