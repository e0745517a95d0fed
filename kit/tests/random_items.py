"""Valid items of the kit at random: any number of parts, any digits, any text."""

from random import Random
from typing import Any

from engine.burst.scenario import ARRANGEMENTS, COUPLINGS
from engine.cards.standards import BUSES_OF_FORM
from kit.models import CardEvent, CardState, Source

LETTERS = "abcXYZ äß£'\"-=+@,;&<2é"


FIGURES = [
    {"kind": "memory", "of": "", "file": ""}, {"kind": "slot", "of": "1", "file": ""},
    {"kind": "held size", "of": "format-0", "file": ""},
    {"kind": "file size", "of": "format-1", "file": "raw"},
]  # fmt: skip


def words(random: Random, longest: int) -> str:
    """A text that begins and ends with something to see."""
    inner = "".join(random.choice(LETTERS) for _ in range(random.randint(0, longest - 2)))
    return f"{random.choice('ABC=+@')}{inner}{random.choice('xyz')}"


def number(random: Random, low: float, high: float) -> float:
    """A number of few digits, of three decimals, or of all that a float has."""
    digits = random.choice((0, 1, 3, 3, 17))
    return min(max(round(random.uniform(low, high), digits), low), high)


def source(random: Random) -> str:
    return random.choice(Source.values)


def maybe(random: Random, value: Any, otherwise: Any = None) -> Any:
    return value if random.random() < 0.6 else otherwise


def accepted(random: Random, most: int) -> list[dict[str, str]]:
    forms = random.sample(list(BUSES_OF_FORM), random.randint(0, most))
    return [{"form": form.value, "bus": random.choice(BUSES_OF_FORM[form]).value} for form in forms]


def samples(random: Random) -> str:
    return " ".join(f"{random.uniform(0.5, 2):.4f}" for _ in range(random.choice((0, 1, 200))))


def lesson(random: Random) -> dict[str, Any]:
    return {"runs": random.randint(1, 60), "learnt_on": f"2026-0{random.randint(1, 9)}-11"}


def item(random: Random) -> dict[str, Any]:
    return {
        "maker": words(random, 40), "name": words(random, 40),
        "remarks": maybe(random, f"{words(random, 60)}\n\n{words(random, 60)}", ""),
    }  # fmt: skip


def card(random: Random) -> dict[str, Any]:
    form = random.choice(list(BUSES_OF_FORM))
    sustained = number(random, 1, 800)
    cached = random.random() < 0.4
    source_of_write = source(random)
    measured_in = words(random, 80) if source_of_write == Source.MEASURED_HERE else ""
    return item(random) | {
        "label": maybe(random, words(random, 20), ""),
        "state": random.choice(CardState.values),
        "form": form.value,
        "bus": random.choice(BUSES_OF_FORM[form]).value,
        "capacity_gb": number(random, 1, 2_000),
        "marks": maybe(random, "V60 U3 C10 " + words(random, 30), ""),
        "printed_read_mb_s": maybe(random, number(random, 1, 2_000)),
        "printed_write_mb_s": maybe(random, number(random, 800, 2_000)),
        "sustained_write_mb_s": sustained,
        "sustained_source": source_of_write,
        "measured_in": measured_in,
        "cache_gb": number(random, 0.5, 50) if cached else 0.0,
        "cache_write_mb_s": number(random, 800, 2_000) if cached else None,
        "slow_below_free_gb": number(random, 0, 20),
        "slow_factor": number(random, 0.1, 1),
        "adapter": random.random() < 0.5,
        "log": [
            {"on": f"2026-0{random.randint(1, 9)}-11", "event": random.choice(CardEvent.values),
             "words": maybe(random, words(random, 30), "")}
            for _ in range(random.randint(0, 3))
        ],
        "learnt_speeds": [
            {"value": number(random, 1, 400), "own_mb_s": maybe(random, number(random, 1, 500)),
             "spread": number(random, 0, 1),
             "samples": samples(random), "learnt_in": words(random, 80), **lesson(random)}
            for _ in range(random.randint(0, 1))
        ],
    }  # fmt: skip


def reader(random: Random) -> dict[str, Any]:
    most = maybe(random, number(random, 1, 2_000))
    return item(random) | {
        "port": random.choice(["USB 2", "USB 5 Gb/s", "USB 10 Gb/s"]),
        "most_mb_s": most,
        "most_source": source(random) if most is not None else "",
        "matches_maker": maybe(random, words(random, 40), ""),
        "accepted_forms": accepted(random, 8),
    }


def body(random: Random) -> dict[str, Any]:
    slots = random.randint(1, 2)
    return item(random) | {
        "firmware": maybe(random, f"{random.randint(1, 3)}.{random.randint(0, 9)}", ""),
        "newest_standard": random.choice(["", "SDXC"]),
        "memory_mb": number(random, 100, 5_000),
        "memory_source": source(random),
        "resume_free_frames": random.randint(1, 9),
        "resume_source": source(random),
        "locks_playback": random.random() < 0.5,
        "locks_menus": random.random() < 0.5,
        "locks_drive_mode": random.random() < 0.5,
        "shutter_modes": [_mode(random, place) for place in range(random.randint(0, 3))],
        "slots": [_slot(random) for _ in range(slots)],
        "arrangements": [
            {"kind": kind, "coupling": random.choice(COUPLINGS), "source": source(random)}
            for kind in (random.sample(ARRANGEMENTS, random.randint(0, 4)) if slots == 2 else [])
        ],
        "formats": [_format(random, place) for place in range(random.randint(0, 4))],
        "estimates": [
            figure | {"below": number(random, 0, 1), "above": number(random, 0, 1),
                      "tail": number(random, 0, 0.5), "why": words(random, 60)}
            for figure in random.sample(FIGURES, random.randint(0, 3))
        ],
        "learnt_figures": [
            figure | {"value": number(random, 1, 5_000), "spread": number(random, 0, 1),
                      "samples": samples(random), **lesson(random)}
            for figure in random.sample(FIGURES, random.randint(0, 3))
        ],
        "learnt_couplings": [
            {"kind": kind, "coupling": random.choice(COUPLINGS), "odds": number(random, 0.5, 1),
             **lesson(random)}
            for kind in random.sample(ARRANGEMENTS, random.randint(0, 2))
        ],
        "tested_cards": [
            {"maker": words(random, 40), "name": f"{place} {words(random, 30)}"}
            for place in range(random.randint(0, 3))
        ],
    }  # fmt: skip


def _mode(random: Random, place: int) -> dict[str, Any]:
    count = random.choice((0, 1, 1, 2, 3, 30))
    rates = {number(random, 1, 120) for _ in range(count)}
    return {
        "name": f"{place} {words(random, 30)}",
        "lens_limit": maybe(random, words(random, 60), ""),
        "frame_rates": [{"fps": fps, "source": source(random)} for fps in rates],
    }


def _slot(random: Random) -> dict[str, Any]:
    cap = maybe(random, number(random, 1, 2_000))
    return {
        "cap_mb_s": cap,
        "cap_source": source(random) if cap is not None else "",
        "overhead_s": number(random, 0, 1),
        "overhead_source": source(random),
        "accepted_forms": [
            one | {"from_firmware": maybe(random, f"{random.randint(1, 3)}.1", "")}
            for one in accepted(random, 6)
        ],
    }


def _format(random: Random, place: int) -> dict[str, Any]:
    process = maybe(random, number(random, 1, 100))
    return {
        "slug": f"format-{place}",
        "name": words(random, 40),
        "held_mb": number(random, 0, 100),
        "held_source": source(random),
        "process_fps": process,
        "process_source": source(random) if process is not None else "",
        "iso_step": number(random, 0, 0.9),
        "detail_step": number(random, 0, 0.9),
        "files": [
            {"name": random.choice(("raw", "jpeg", words(random, 20))),
             "file_mb": number(random, 1, 100), "spread_mb": number(random, 0, 1),
             "source": source(random)}
            for _ in range(random.randint(0, 2))
        ],
    }  # fmt: skip


RANDOM_ITEMS = {"bodies": body, "cards": card, "readers": reader}
