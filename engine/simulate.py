"""One hold of the button, exact to the nanosecond."""

from engine.result import Result
from engine.scenario import Scenario

UNLIMITED_FRAMES = 2**62


def simulate(scenario: Scenario) -> Result:
    """Hold the button down and follow every frame until the last byte is on the card."""
    # Here because its compiler takes a second to import, and most commands never simulate.
    from engine import event_loop

    free_bytes = scenario.free_bytes
    taken_ns, encoded_ns, written_ns, wall_ns, card_full_ns = event_loop.run(
        hold_ns=scenario.hold_ns,
        interval_ns=scenario.frame_interval_ns,
        encode_ns=scenario.encode_ns,
        write_ns=scenario.write_ns,
        memory_bytes=scenario.memory_bytes,
        frame_bytes=scenario.frame_bytes,
        file_bytes=scenario.file_bytes,
        resume_bytes=scenario.resume_free_frames * scenario.frame_bytes,
        most_frames=UNLIMITED_FRAMES if free_bytes is None else free_bytes // scenario.file_bytes,
    )
    return Result(
        scenario=scenario,
        taken_ns=taken_ns,
        encoded_ns=encoded_ns,
        written_ns=written_ns,
        wall_ns=None if wall_ns == event_loop.NEVER else wall_ns,
        card_full_ns=None if card_full_ns == event_loop.NEVER else card_full_ns,
    )
