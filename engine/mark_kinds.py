"""The kinds of marks on cards: how each looks, what it says in plain words, what it is worth.

PATTERNS says how a kind looks, WORDS what it says; a new kind is an entry in each.
"""

import re
from collections.abc import Callable
from enum import StrEnum
from typing import Any, NamedTuple

from engine.face import READ_MB_S_OF_TIMES
from engine.scenario import WRITE_MB_S
from engine.standards import (
    CAPACITY_GB,
    CEILING_MB_S,
    GUARANTEED_MB_S,
    MOST_GB,
    Bus,
    Form,
    Standard,
)
from engine.units import BITS_IN_BYTE


class Matters(StrEnum):
    """What a mark is worth to somebody who shoots bursts."""

    MOUNT = "tells whether it mounts"
    CEILING = "a ceiling for a burst"
    FLOOR = "a floor for a burst"
    UPPER_BOUND = "an upper bound for a burst"
    SUSTAINED = "the speed of a burst"
    ROOM = "room for frames"
    COPYING = "for copying only"
    NOTHING = "nothing for a burst"


class Words(NamedTuple):
    """What a mark says, what that is worth, and the fields of a face that it gives."""

    says: str
    matters: Matters
    sets: dict[str, Any] = {}


_Match = re.Match[str]
_NUMBER = r"\d+(?:[.,]\d+)?"
_UNIT = r"(?:[kmg]b(?:its?|ytes?)?(?:\s?/\s?s(?:ec(?:ond)?)?|ps|\sper\ssecond))(?![^\W_])"
_MB_S_OF_UNIT = {"k": 0.001, "m": 1, "g": 1_000}


def number_of(text: str) -> float:
    """The number that a face prints: "1,700" and "1.700" are thousands, "1,5" and "1.5" not."""
    whole, mark, rest = re.match(r"(\d+)([.,]?)(\d*)", text).groups()  # type: ignore[union-attr]
    return float(whole + rest if mark and len(rest) == 3 else f"{whole}.{rest or 0}")


def mb_s_of(number: str, unit: str) -> tuple[float, str]:
    """A printed speed in MB/s, and the sentence that its unit calls for, or nothing."""
    if not unit:
        return number_of(number), " Without a unit it is taken as MB/s."
    bits = "it" in unit.lower() or unit[1] == "b"
    mb_s = number_of(number) * _MB_S_OF_UNIT[unit[0].lower()]
    if not bits:
        return mb_s, ""
    if unit == unit.lower() and "it" not in unit and "ps" not in unit:
        return mb_s, f" In small letters, “{unit}” is taken as megabytes; Mb/s would be an eighth."
    return mb_s / BITS_IN_BYTE, (
        f" {unit} are bits: {number_of(number):g} of them are {mb_s / BITS_IN_BYTE:g} MB/s."
    )


def _cfexpress(found: _Match) -> Words:
    if found["type"] is None:
        return Words(
            "CFexpress, without its type: A is the small one, B the usual, C the large one.",
            Matters.MOUNT,
        )
    form = Form(f"CFexpress {found['type'].upper()}")
    lanes = {"A": "one lane", "B": "two lanes", "C": "four lanes"}[found["type"].upper()]
    return Words(f"Goes into slots for {form}; {lanes} of PCIe.", Matters.MOUNT, {"form": form})


def _cfast(found: _Match) -> Words:
    return Words(
        f"CFast 2, on SATA: {CEILING_MB_S[Bus.SATA_3]:g} MB/s at most.",
        Matters.MOUNT,
        {"form": Form.CFAST_2, "bus": Bus.SATA_3},
    )


def _xqd(found: _Match) -> Words:
    return Words(
        "XQD, the shape of CFexpress B: 500 MB/s at most, 1,000 in version 2.",
        Matters.MOUNT,
        {"form": Form.XQD},
    )


def _compact_flash(found: _Match) -> Words:
    return Words(
        f"CompactFlash, {CEILING_MB_S[Bus.UDMA_7]:g} MB/s at most.",
        Matters.MOUNT,
        {"form": Form.COMPACT_FLASH},
    )


def _sd(found: _Match) -> Words:
    form = Form.MICRO_SD if found["micro"] else Form.SD
    if found["standard"] is None:
        return Words(f"{form}: the shape of the card.", Matters.MOUNT, {"form": form})
    standard = Standard(f"SD{found['standard'].upper()}")
    return Words(
        f"{standard} of the {form} shape, up to {MOST_GB[standard]:,g} GB: the body must take "
        f"{standard} or newer.",
        Matters.MOUNT,
        {"form": form, "standard": standard},
    )


def _express(found: _Match) -> Words:
    return Words(
        f"SD Express, {CEILING_MB_S[Bus.SD_EXPRESS]:g} MB/s a lane of PCIe 3; in a UHS-II slot it "
        "falls back to UHS-I.",
        Matters.CEILING,
        {"express": True},
    )


def _pcie(found: _Match) -> Words:
    generation = int(found["generation"])
    sets = {"generation": generation}
    if found["lanes"]:
        sets["lanes"] = int(found["lanes"])
    per_lane = {3: "985 MB/s", 4: "1,970 MB/s"}[generation]
    return Words(f"PCIe {generation}: {per_lane} a lane at most.", Matters.CEILING, sets)


def _uhs(found: _Match) -> Words:
    bus = Bus(f"UHS-{found['uhs'] if found['uhs'][0] in 'Ii' else 'I' * int(found['uhs'])}".upper())
    second_row = "" if bus is Bus.UHS_I else ", on a second row of contacts that the slot must have"
    return Words(
        f"{bus}: {CEILING_MB_S[bus]:g} MB/s at most{second_row}.", Matters.CEILING, {"bus": bus}
    )


def _udma(found: _Match) -> Words:
    return Words(
        f"UDMA 7: {CEILING_MB_S[Bus.UDMA_7]:g} MB/s at most.", Matters.CEILING, {"bus": Bus.UDMA_7}
    )


def _version(found: _Match) -> Words:
    number = int(found["version"][0])
    return Words(
        f"Version {number} of its standard, which sets its bus.",
        Matters.CEILING,
        {"version": number},
    )


def _speed_class(found: _Match) -> Words:
    name = f"{found['letter'].upper()[0]}{found['class']}"
    return _guarantee(name, "the classes are C2 4 6 10, U1 3, V6 10 30 60 90, E150 300 450 600")


def _vpg(found: _Match) -> Words:
    return _guarantee(f"VPG{found['vpg']}", "the marks are VPG20 65 130 200 400 800")


def _guarantee(name: str, known: str) -> Words:
    if name not in GUARANTEED_MB_S:
        return Words(f"{name} is no mark of the standards: {known}.", Matters.NOTHING)
    return Words(
        f"Keeps writing at {GUARANTEED_MB_S[name]:g} MB/s at least.",
        Matters.FLOOR,
        {"classes": name},
    )


def _application(found: _Match) -> Words:
    return Words(
        "Random access for apps on a phone.",
        Matters.NOTHING,
        {"application": f"A{found['application']}"},
    )


def _capacity(found: _Match) -> Words:
    unit = found["size"].upper()
    capacity_gb = number_of(found["capacity"]) * {"M": 0.001, "G": 1, "T": 1_000}[unit]
    if CAPACITY_GB.fault(capacity_gb):
        return Words(f"{capacity_gb:,.10g} GB is no capacity that a card has.", Matters.NOTHING)
    return Words(
        f"{capacity_gb:,g} GB, each of 10^9 bytes.", Matters.ROOM, {"capacity_gb": capacity_gb}
    )


def _pack(found: _Match) -> Words:
    return Words(f"A pack of {found['pack']} cards; each has the marks.", Matters.NOTHING)


def _times(found: _Match) -> Words:
    times = int(found["times"])
    return Words(
        f"{times:,} times {READ_MB_S_OF_TIMES} MB/s: {times * READ_MB_S_OF_TIMES:.4g} MB/s of "
        "reading, in older words.",
        Matters.COPYING,
        {"times": times},
    )


def _adapter(found: _Match) -> Words:
    return Words(
        "Comes with an adapter: one more part to break or lose.",
        Matters.MOUNT,
        {"adapter": True},
    )


def speed_words(way: str, mb_s: float, remark: str) -> Words:
    """What a speed printed for `way` ("read", "write", "sustained" or nothing) says."""
    if WRITE_MB_S.fault(mb_s):
        return Words(f"{mb_s:,.10g} MB/s is no speed that a card has.{remark}", Matters.NOTHING)
    says, matters = {
        "read": (f"Reads {mb_s:,g} MB/s at best.", Matters.COPYING),
        "write": (f"Writes {mb_s:,g} MB/s at best.", Matters.UPPER_BOUND),
        "sustained": (f"Goes on writing at {mb_s:,g} MB/s.", Matters.SUSTAINED),
        "": (f"{mb_s:,g} MB/s more, with no word on what for.", Matters.NOTHING),
    }[way]
    return Words(says + remark, matters, {f"{way}_mb_s": mb_s} if way else {})


# In the order in which they are tried. Speeds and their directions are read together, by
# engine.marks; "filler" are words without meaning here.
PATTERNS: dict[str, re.Pattern[str]] = {
    kind: re.compile(pattern, re.IGNORECASE)
    for kind, pattern in {
        "form CFexpress": r"CF\s?express(?:[\s-]*(?:type[\s-]*)?(?P<type>[abc]))?(?![^\W\d_])",
        "form CFast": r"CFast(?:\s?2(?:\.0)?)?(?![^\W_])",
        "form XQD": r"XQD(?![^\W\d_])",
        "form CompactFlash": r"(?:Compact\s?Flash|CF)(?![^\W_])",
        "form SD": r"(?P<micro>micro[\s-]?)?SD(?P<standard>[HXU]C)?(?![^\W\d_])",
        "Express": r"(?:Express|EX)(?![^\W_])",
        "PCIe": r"(?:PCIe?|Gen)\s?(?:Gen\s?)?(?P<generation>[34])(?:\.0)?"
        r"(?:\s?[x\u00d7](?P<lanes>[124]))?(?![^\W_])",
        "bus": r"UHS[\s-]?(?P<uhs>I{1,3}|[123])(?![^\W_])",
        "bus in Roman": r"(?P<uhs>(?-i:III?|(?<=SD[HXU]C[\s-])I|I(?=\s[UCV]\d)))(?![^\W_])",
        "bus UDMA": r"UDMA[\s-]?7(?![^\W_])",
        "version": r"(?:v(?:er(?:sion)?)?\.?\s?)?(?P<version>[124]\.0)(?![\w.,]|\s?[kmgt]b)",
        "guarantee": r"VPG[\s-]?(?P<vpg>\d{1,4})(?![^\W_])",
        "class": r"(?P<letter>C(?:lass\s?)?|[UVE])(?P<class>\d{1,3})(?![^\W_])",
        "application": r"A(?P<application>[12])(?![^\W_])",
        "speed": rf"(?P<speed>{_NUMBER})\s?(?P<unit>{_UNIT})",
        "first of two speeds": rf"(?P<speed>{_NUMBER})"
        rf"(?=\s?(?:/|\s?[RW]\s?/)\s?[RW]?\s?{_NUMBER}\s?(?P<unit>{_UNIT}))",
        "speed without a unit": rf"(?<=[RW])(?P<speed>\d{{2,5}})(?P<unit>)"
        rf"(?![^\W_]|[.,]\d|\s?{_UNIT}|\s?[MGT]B)",
        "capacity": r"(?P<capacity>" + _NUMBER + r")\s?(?P<size>[MGT])(?:B|iB)?(?![^\W_])",
        "pack": r"(?P<pack>\d)\s?[x\u00d7](?=\s?\d+\s?[GT]B)",
        "times": r"(?P<times>\d{2,4})[x\u00d7](?![^\W_])",
        "direction": r"(?P<holds>(?:(?:min(?:imum)?|sustained|continuous|guaranteed)\W{1,2})+)?"
        r"(?:(?P<way>read(?:ing)?|writ(?:e|ing))(?![^\W_])|(?P<letter>[RW])(?![^\W\d_]))",
        "adapter": r"(?:(?:\+|with|incl(?:uding|\.)?)\s?)?(?:SD\s)?adapt[eo]r(?![^\W_])",
        "filler": r"(?:memory|flash|cards?|speeds?|up|to|the|with|for|and|of|max|type|class|"
        r"secure|digital|transfer|rates?|new)(?![^\W_])",
        "unread": r"[^\W_]+(?:[-'.][^\W_]+)*",
    }.items()
}
WORDS: dict[str, Callable[[_Match], Words]] = {
    "form CFexpress": _cfexpress,
    "form CFast": _cfast,
    "form XQD": _xqd,
    "form CompactFlash": _compact_flash,
    "form SD": _sd,
    "Express": _express,
    "PCIe": _pcie,
    "bus": _uhs,
    "bus in Roman": _uhs,
    "bus UDMA": _udma,
    "version": _version,
    "guarantee": _vpg,
    "class": _speed_class,
    "application": _application,
    "capacity": _capacity,
    "pack": _pack,
    "times": _times,
    "adapter": _adapter,
}
