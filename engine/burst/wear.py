"""What a card does once its cache is used up, and when it is nearly full."""

from collections.abc import Callable, Iterator
from dataclasses import replace

from engine.burst.scenario import LoadedSlot, Scenario
from engine.formats import written
from engine.quantities import MB_IN_GB


def cache_back_s(slot: LoadedSlot) -> float:
    """Seconds of rest after which a cache that was used up is empty again."""
    return slot.cache_mb / slot.flush_mb_s


def worn(scenario: Scenario) -> Scenario | None:
    """`scenario` on cards whose cache is used up; None where no card has one that helps now."""
    if not any(
        slot.cache_mb and slot.cached_mb_s > slot.effective_mb_s and not _is_nearly_full(slot)
        for slot in scenario.slots
    ):
        return None
    return _with_slots(scenario, lambda slot: replace(slot, cache_mb=0.0, cache_write_mb_s=None))


def nearly_full(scenario: Scenario) -> Scenario | None:
    """`scenario` on cards with room for the burst, but so little that they slow down.

    None where no card does, or only those that are nearly full already.
    """
    if not any(
        slot.slow_mb_s < slot.effective_mb_s and not _is_nearly_full(slot)
        for slot in scenario.slots
    ):
        return None
    return _with_slots(scenario, _slowed)


def _is_nearly_full(slot: LoadedSlot) -> bool:
    return slot.free_mb is not None and slot.free_mb < slot.slow_below_free_mb


def _slowed(slot: LoadedSlot) -> LoadedSlot:
    if not slot.slow_below_free_mb:
        return slot
    return replace(
        slot,
        write_mb_s=slot.write_mb_s * slot.slow_factor,
        cache_mb=0.0,
        cache_write_mb_s=None,
        free_mb=None,
        slow_below_free_mb=0.0,
        slow_factor=1.0,
    )


def _with_slots(scenario: Scenario, change: Callable[[LoadedSlot], LoadedSlot]) -> Scenario:
    return replace(scenario, slots=tuple(map(change, scenario.slots)))


def wear_sentences(slot: LoadedSlot) -> Iterator[str]:
    """What a card does fresh and worn, and nearly full, in words; nothing where it is all one."""
    if slot.cache_mb:
        yield (
            f"the first {slot.cache_mb / MB_IN_GB:g} GB go at {written(slot.cached_mb_s)} MB/s; "
            f"after that it writes {written(slot.effective_mb_s)} MB/s, and all of the cache is "
            f"back after {written(cache_back_s(slot))} s of rest"
        )
    if slot.slow_below_free_mb and slot.slow_factor < 1:
        yield (
            f"with less than {slot.slow_below_free_mb / MB_IN_GB:g} GB free it writes "
            f"{written(slot.slow_mb_s)} MB/s"
        )
