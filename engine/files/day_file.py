"""The day file: a plan in, what becomes of its frames, cards and copying out.

docs/formats.md describes it key by key.
"""

from collections import Counter
from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from typing import Any

from engine.burst.scenario import FREE_MB, HOLD_S, MOST_SLOTS
from engine.day.odds import SureSetup
from engine.day.picture_desk import PictureDesk, delivered
from engine.day.plan import Period, Plan, TakenCard
from engine.day.plan_simulation import DAYS, named, simulate_plan
from engine.day.planned_day import PlannedDay, range_of
from engine.day.presses import InvalidDay
from engine.files.json_keys import InvalidFile, Keys, json_object
from engine.files.scenario_file import read_set_up
from engine.quantities import S_IN_MINUTE, WRITE_MB_S, Range

WHOLE_FILE = "The day file"
SLOTS = Range(1, MOST_SLOTS, "")


@dataclass(frozen=True)
class DayFile:
    """A plan, the set-ups that its periods name, by their names, and who waits for pictures."""

    plan: Plan
    set_ups: Mapping[str, SureSetup]
    desk: PictureDesk | None


def read_day_file(text: str) -> DayFile:
    """The day file that `text` is. Raises :class:`InvalidFile` with every fault."""
    keys = Keys(json_object(text, WHOLE_FILE))
    set_ups = keys.parts("set_ups", lambda one: (one.text("name"), _set_up(one)))
    names = Counter(name for name, _ in set_ups)
    if twice := [name for name, count in names.items() if count > 1]:
        keys.fault("set_ups", f"must each have a name of its own, not {twice[0]}")
    if not set_ups:
        keys.fault("set_ups", "must be one at least")
    periods = keys.parts("periods", _period)
    cards = keys.parts("cards", _card)
    copy_mb_s = keys.number("copy_mb_s", WRITE_MB_S, None)
    desk = keys.optional_part("desk", lambda one: one.of(PictureDesk), None)
    if keys.faults:
        raise InvalidFile(keys.faults)
    first = set_ups[0][0]
    periods = tuple(replace(one, set_up="") if one.set_up == first else one for one in periods)
    by_slot = [
        [card for number, card in cards if number == slot]
        for slot in range(1, 1 + max((number for number, _ in cards), default=1))
    ]
    try:
        plan = Plan(periods=periods, cards=by_slot, copy_mb_s=copy_mb_s)
    except InvalidDay as error:
        raise InvalidFile(error.faults) from error
    return keys.build(DayFile, plan=plan, set_ups=dict(set_ups), desk=desk)


def planned_values(file: DayFile) -> dict[str, Any]:
    """What becomes of the plan, as a JSON object. Raises :class:`InvalidDay`."""
    day = simulate_plan(file.plan, named(file.set_ups))
    sent = delivered(day, file.desk) if file.desk else None
    return {
        "days": DAYS,
        "frames": asdict(day.frames_range),
        "missed": asdict(day.missed_range),
        "bursts_missing": asdict(day.bursts_missing_range),
        "gb": asdict(day.gb_range),
        "periods": [asdict(one) for one in day.periods],
        "slots": [
            {"swap_min": [swap_s / S_IN_MINUTE for swap_s in swaps_s], "cards": _cards(day, number)}
            for number, swaps_s in enumerate(day.swaps_s)
        ],
        "left_out": asdict(range_of(day.left_out)),
        "room_share": float((day.left_out == 0).mean()),
        "copyings": [asdict(one) for one in day.copyings],
        "lost_with_a_card": asdict(day.lost_range),
        "desk": asdict(sent) if sent else None,
    }


def _cards(day: PlannedDay, number: int) -> list[dict[str, float]]:
    return [
        {"used_share": card.used_share, "full_share": card.full_share}
        for card in day.queues[number]
    ]


def _period(keys: Keys) -> Period:
    return keys.of(Period, listed_s=keys.numbers("listed_s", HOLD_S))


def _card(keys: Keys) -> tuple[int, TakenCard]:
    """A card with the slot that it is for."""
    slot = keys.whole_number("slot", SLOTS, 1)
    kind = keys.text("set_up", "")
    return slot, keys.build(TakenCard, free_mb=keys.number("free_mb", FREE_MB), kind=kind)


def _set_up(keys: Keys) -> SureSetup:
    return SureSetup(*read_set_up(keys)).with_room
