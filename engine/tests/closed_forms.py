"""The fluid limit: what a burst comes to when frames are fine enough to flow.

`memory_frames` is B, the frames that memory holds at the wall; rates are frames a second. With
whole frames, memory counts as anything from one frame less to exactly B: the true burst depth
lies between the depths of B - 1 and of B, one frame either way.
"""


def burst_depth(memory_frames: float, frame_rate_fps: float, sustained_fps: float) -> float:
    """Frames taken before the wall; sustained_fps must be below frame_rate_fps.

    Memory fills at f - r and the sensor runs at f meanwhile: B / (f - r) * f.
    """
    return memory_frames / (1 - sustained_fps / frame_rate_fps)


def frames_in_hold(
    memory_frames: float, frame_rate_fps: float, sustained_fps: float, hold_s: float
) -> float:
    """Frames taken in a hold: all that are due, or what memory and the writer had room for."""
    return min(frame_rate_fps * hold_s, memory_frames + sustained_fps * hold_s)


def clear_s(frames_held: float, sustained_fps: float) -> float:
    """Seconds from finger up until `frames_held` are on the card."""
    return frames_held / sustained_fps


def no_wall_write_mb_s(frame_rate_fps: float, file_mb: float) -> float:
    """Write speed from which no burst meets the wall, if the encoder keeps up."""
    return frame_rate_fps * file_mb
