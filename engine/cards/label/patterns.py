"""The kinds of marks on cards: how each looks, what it says in plain words, what it is worth.

PATTERNS says how a kind looks, WORDS what it says; a new kind is an entry in each.
"""

import math
import re
from collections.abc import Callable
from enum import StrEnum
from typing import Any, NamedTuple

from engine.cards.label.face import READ_MB_S_OF_TIMES
from engine.cards.standards import (
    CAPACITY_GB,
    CEILING_MB_S,
    GUARANTEED_MB_S,
    MOST_GB,
    Bus,
    Form,
    Standard,
)
from engine.quantities import BITS_IN_BYTE, GIB_IN_GB, WRITE_MB_S
from engine.typed_numbers import readings


class Matters(StrEnum):
    """What a mark is worth to somebody who shoots bursts."""

    MOUNT = "tells whether it mounts"
    CEILING = "a ceiling for a burst"
    CLASS = "a hint for a burst"
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
_SPACED = r"[1-9][\s\u00a0\u202f]\d{3}(?!\d)"  # 3 700, as some languages part thousands
_NUMBER = rf"(?:{_SPACED}|\d+(?:[.,]\d+)?)"
_UNIT = (
    r"(?:[kmg](?:b(?:its?|ytes?)?|o(?:ctets?)?)?\s?/\s?s(?:ec(?:ond)?)?"
    r"|[kmg]b(?:its?|ytes?)?(?:ps|\sper\ssecond))(?![^\W_])"
)
_MB_S_OF_UNIT = {"k": 0.001, "m": 1, "g": 1_000}
# Words for speeds that hold, for reading and for writing, in five languages.
_HOLDS = (
    r"(?:min(?:imum|\.)?|sustained|continuous|guaranteed|dauer(?:haft|nd)?|garantierte?s?"
    r"|soutenue?|garantie?|sostenut[ao]|sostenid[ao]|constante)"
)
_READ = r"read(?:s|ing)?|lese(?:n|rate)?|lecture|lettura|lectura"
_WRITE = r"writ(?:es?|ing)|schreib(?:en|t|rate)?|[e\u00e9]criture|scrittura|escritura"


def number_of(text: str) -> float:
    """The number that a face prints: "1,700", "1.700" and "1 700" are thousands, "1,5" not."""
    found = readings(re.sub(r"\s", " ", text))  # no face prints three decimals
    return float(found[0]) if found else math.inf


def mb_s_of(number: str, unit: str) -> tuple[float, str]:
    """A printed speed in MB/s, and the sentence that its unit calls for, or nothing."""
    if not unit:
        return number_of(number), " Without a unit it is taken as MB/s."
    bits = "it" in unit.lower() or unit[1:2] == "b"
    mb_s = number_of(number) * _MB_S_OF_UNIT[unit[0].lower()]
    if not bits:
        return mb_s, ""
    if unit == unit.lower() and "it" not in unit and "ps" not in unit:
        return mb_s, f" In small letters, “{unit}” is taken as megabytes; Mb/s would be an eighth."
    return mb_s / BITS_IN_BYTE, (
        f" {unit} are bits: {number_of(number):g} of them are {mb_s / BITS_IN_BYTE:g} MB/s."
    )


def _cfexpress(match: _Match) -> Words:
    if match["type"] is None:
        return Words("CFexpress: its type says which size.", Matters.MOUNT, {"cfexpress": True})
    return _type(match)


def _type(match: _Match) -> Words:
    form = Form(f"CFexpress {match['type'].upper()}")
    lanes = {"A": "one lane", "B": "two lanes", "C": "four lanes"}[match["type"].upper()]
    return Words(f"Goes into slots for {form}; {lanes} of PCIe.", Matters.MOUNT, {"form": form})


def _cfast(match: _Match) -> Words:
    first = (match["generation"] or "2").startswith("1")
    form, bus = (Form.CFAST_1, Bus.SATA_2) if first else (Form.CFAST_2, Bus.SATA_3)
    return Words(
        f"{form}, on SATA: {CEILING_MB_S[bus]:g} MB/s at most.",
        Matters.MOUNT,
        {"form": form, "bus": bus},
    )


def _xqd(match: _Match) -> Words:
    return Words(
        "XQD, the shape of CFexpress B: 500 MB/s at most, 1,000 in version 2.",
        Matters.MOUNT,
        {"form": Form.XQD},
    )


def _compact_flash(match: _Match) -> Words:
    return Words(
        f"CompactFlash, {CEILING_MB_S[Bus.UDMA_7]:g} MB/s at most.",
        Matters.MOUNT,
        {"form": Form.COMPACT_FLASH},
    )


def _sd(match: _Match) -> Words:
    form = Form.MICRO_SD if match["micro"] else Form.SD
    if match["standard"] is None:
        return Words(f"{form}: the shape of the card.", Matters.MOUNT, {"form": form})
    standard = Standard(f"SD{match['standard'].upper()}")
    return Words(
        f"{standard} of the {form} shape, up to {MOST_GB[standard]:,g} GB: the body must take "
        f"{standard} or newer.",
        Matters.MOUNT,
        {"form": form, "standard": standard},
    )


def _express(match: _Match) -> Words:
    return Words(
        f"SD Express, {CEILING_MB_S[Bus.SD_EXPRESS]:g} MB/s a lane of PCIe 3; in a UHS-II slot it "
        "falls back to UHS-I.",
        Matters.CEILING,
        {"express": True},
    )


def _pcie(match: _Match) -> Words:
    generation = int(match["generation"])
    sets = {"generation": generation}
    if match["lanes"]:
        sets["lanes"] = int(match["lanes"])
    per_lane = {3: "985 MB/s", 4: "1,970 MB/s"}[generation]
    return Words(f"PCIe {generation}: {per_lane} a lane at most.", Matters.CEILING, sets)


def _uhs(match: _Match) -> Words:
    bus = _bus_of_numeral(match["uhs"])
    misprint = (
        ""
        if set(match["uhs"].upper()) <= set("I123") and match["uhs"] not in ("11", "111")
        else (f" “{match[0]}” is taken as {bus}.")
    )
    return Words(_uhs_words(bus) + misprint, Matters.CEILING, {"bus": bus})


def _roman(match: _Match) -> Words:
    bus = _bus_of_numeral(match["uhs"])
    return Words(_uhs_words(bus), Matters.CEILING, {"bus_numeral": bus})


def _bus_of_numeral(numeral: str) -> Bus:
    """UHS-I to UHS-III; a small L and a 1 are taken for the I that they look like."""
    strokes = int(numeral) if numeral in ("2", "3") else len(numeral)
    return (Bus.UHS_I, Bus.UHS_II, Bus.UHS_III)[strokes - 1]


def _uhs_words(bus: Bus) -> str:
    second_row = "" if bus is Bus.UHS_I else ", on a second row of contacts that the slot must have"
    return f"{bus}: {CEILING_MB_S[bus]:g} MB/s at most{second_row}."


def _udma(match: _Match) -> Words:
    bus = Bus(f"UDMA {match['mode']}")
    return Words(f"{bus}: {CEILING_MB_S[bus]:g} MB/s at most.", Matters.CEILING, {"bus": bus})


def _version(match: _Match) -> Words:
    number = int((match["version"] or match["short"])[0])
    return Words(
        f"Version {number} of its standard, which sets its bus.",
        Matters.CEILING,
        {"version": number},
    )


def _speed_class(match: _Match) -> Words:
    kind = next(letter for letter in "VUC" if letter == "C" or match[letter.lower()])
    if match["letter"] and match["letter"].upper()[0] in "UVE":
        kind = match["letter"].upper()[0]
    name = f"{kind}{match['class']}"
    return _guarantee(name, "the classes are C2 4 6 10, U1 3, V6 10 30 60 90, E150 300 450 600")


def _vpg(match: _Match) -> Words:
    return _guarantee(f"VPG{match['vpg']}", "the marks are VPG20 65 130 200 400 800")


def _guarantee(name: str, known: str) -> Words:
    if name not in GUARANTEED_MB_S:
        return Words(f"{name} is no mark of the standards: {known}.", Matters.NOTHING)
    return Words(
        f"Made for {GUARANTEED_MB_S[name]:g} MB/s without a break, as video needs.",
        Matters.CLASS,
        {"classes": name},
    )


def _application(match: _Match) -> Words:
    return Words(
        "Random access for apps on a phone.",
        Matters.NOTHING,
        {"application": f"A{match['application']}"},
    )


def _capacity(match: _Match) -> Words:
    unit = match["size"].upper()
    capacity_gb = number_of(match["capacity"]) * {"M": 0.001, "G": 1, "T": 1_000}[unit]
    remark = ""
    if match["binary"]:
        capacity_gb = round(capacity_gb * GIB_IN_GB, 1)
        remark = f" {match[0]} count in powers of two."
    if CAPACITY_GB.fault(capacity_gb):
        return Words(f"{capacity_gb:,.10g} GB is no capacity that a card has.", Matters.NOTHING)
    return Words(
        f"{capacity_gb:,g} GB, each of 10^9 bytes.{remark}",
        Matters.ROOM,
        {"capacity_gb": capacity_gb},
    )


def _pack(match: _Match) -> Words:
    return Words(f"A pack of {match['pack']} cards; each has the marks.", Matters.NOTHING)


def _times(match: _Match) -> Words:
    times = int(number_of(match["times"]))
    return Words(
        f"{times:,} times {READ_MB_S_OF_TIMES} MB/s: {times * READ_MB_S_OF_TIMES:.4g} MB/s of "
        "reading, in older words.",
        Matters.COPYING,
        {"times": times},
    )


def _adapter(match: _Match) -> Words:
    return Words(
        "Comes with an adapter: one more part to break or lose.",
        Matters.MOUNT,
        {"adapter": True},
    )


def _no_adapter(match: _Match) -> Words:
    return Words("Comes without an adapter.", Matters.NOTHING)


def _other_device(match: _Match) -> Words:
    return Words("Of a reader or a port, not of the card.", Matters.NOTHING)


def _price(match: _Match) -> Words:
    return Words("A price, which says nothing about the card.", Matters.NOTHING)


def speed_words(way: str, mb_s: float, remark: str) -> Words:
    """What a speed printed for `way` ("read", "write", "sustained" or nothing) says."""
    if WRITE_MB_S.fault(mb_s):
        return Words(f"{mb_s:,.10g} MB/s is no speed that a card has.{remark}", Matters.NOTHING)
    says, matters = {
        "read": (f"Reads {mb_s:,g} MB/s at best.", Matters.COPYING),
        "write": (f"Writes {mb_s:,g} MB/s at best.", Matters.UPPER_BOUND),
        "sustained": (f"Sustained write {mb_s:,g} MB/s.", Matters.SUSTAINED),
        "": (f"{mb_s:,g} MB/s more, with no word on what for.", Matters.NOTHING),
    }[way]
    return Words(says + remark, matters, {f"{way}_mb_s": mb_s} if way else {})


_END = r"(?![^\W_])"  # no letter or digit goes on
_NO_LETTER = r"(?![^\W\d_])"
_ADAPTER = r"adapt(?:[eo]r|ateur|ador|atore)"
_MONEY = r"(?:\u20ac|\$|\u00a3|EUR|USD|GBP|CHF)"

# In the order in which they are tried. Speeds and their directions are read together, by
# parser.py; "filler" are words without meaning here, "and" those that part two clauses.
PATTERNS: dict[str, re.Pattern[str]] = {
    kind: re.compile(pattern, re.IGNORECASE)
    for kind, pattern in {
        "price": rf"{_MONEY}\s?\d[\d.,]*(?!\s?[kmgt]b)|\d[\d.,]*\s?{_MONEY}{_END}"
        rf"|\d[\d.,]*\s?[\u20ac$\u00a3]",
        "other device": r"USB(?:[\s-]?(?:type[\s-]?)?C)?(?:[\s-]?\d(?:\.\d)?)?"
        r"(?:\s?Gen\s?\d(?:x\d)?)?(?:\s?\d+\s?Gb(?:ps|it/s|/s))?(?:\s(?:card\s)?reader)?(?:\s\d+\s?Gb(?:ps|it/s|/s))?"
        + _END,
        "form CFexpress": r"CF[\s-]?express(?:[\s-]*(?:typ[eo]?[\s-]*)?(?P<type>[abc])"
        rf"{_NO_LETTER})?{_NO_LETTER}",
        "type": rf"Typ[eo]?[\s-]?(?P<type>[abc]){_NO_LETTER}",
        "form CFast": rf"CFast(?:[\s-]?(?P<generation>[12](?:\.\d)?))?{_END}",
        "form XQD": rf"XQD{_NO_LETTER}",
        "form CompactFlash": rf"(?:Compact\s?Flash|CF){_END}",
        "form SD": r"(?P<micro>micro[\s-]?)?SD(?P<standard>[HXU]C)?"
        rf"(?:(?=I{{1,3}}{_END})|{_NO_LETTER})",
        "Express": rf"(?:Express|EX){_END}",
        "PCIe": r"(?:PCIe?|Gen)\s?(?:Gen\s?)?(?P<generation>[34])(?:\.0)?"
        rf"(?:\s?[x\u00d7](?P<lanes>[124]))?{_END}",
        "class in words": r"(?:(?P<v>Video\s?)|(?P<u>UHS\s))?(?:Speed\s)"
        rf"(?P<letter>Class(?:e)?|Klasse|Clase)\s?(?P<class>\d{{1,3}}){_END}",
        "bus": rf"UHS[\s-]?(?P<uhs>[Il]{{1,3}}|111?|[123]){_END}",
        "bus in Roman": r"(?P<uhs>(?:(?<=SD[HXU]C)|(?<=SD[HXU]C[\s-])|(?<=SD[\s-]))I{1,3}"
        rf"|(?-i:III?)|(?-i:I)(?=\s[UCV]\d)){_END}",
        "bus UDMA": rf"UDMA[\s-]?(?P<mode>[4-7]){_END}",
        "version": r"(?:v(?:er(?:sion)?)?\.?\s?)?(?P<version>[124]\.0)(?![\w.,]|\s?[kmgt]b)"
        r"|(?-i:v)(?P<short>[124])(?![\w.,])",
        "guarantee": rf"VPG[\s-]?(?P<vpg>\d{{1,4}}){_END}",
        "class": r"(?P<v>(?!))?(?P<u>(?!))?"
        r"(?P<letter>C(?:l(?:ass?e?)?\.?\s?|[\s-])?|Klasse\s?|Clase\s?|[UVE][\s-]?)"
        rf"(?P<class>\d{{1,3}})(?:(?=[UVCA]\d)|{_END})",
        "application": rf"A(?P<application>[12]){_END}",
        "speed": rf"(?P<speed>{_NUMBER})\s?(?P<unit>{_UNIT})",
        "first of several speeds": rf"(?P<speed>{_NUMBER})"
        rf"(?=(?:\s?(?:/|\s?[RW]\s?/)\s?[RW]?\s?{_NUMBER}){{1,2}}\s?(?P<unit>{_UNIT}))",
        "speed without a unit": r"(?:(?<=[RW])|(?<=[RW]:)|(?<=[RW]:\s))(?P<speed>\d{2,5})(?P<unit>)"
        rf"(?![^\W_]|[.,]\d|\s?{_UNIT}|\s?[MGT]B)",
        "speed before its letter": rf"(?P<speed>\d{{2,5}})(?P<unit>)(?=[RW]{_END})",
        "speed among two": r"(?<![\d/.,])(?P<speed>\d{2,5})(?P<unit>)(?=\s?/\s?\d{2,5}(?![\d.,/]))"
        r"",
        "second speed among two": r"(?<=\d/)(?P<speed>\d{2,5})(?P<unit>)(?![\d.,/]|\s?[kmgt]b)",
        "capacity": rf"(?P<capacity>{_NUMBER})\s?(?P<size>[MGT])(?P<binary>i)?(?:B|o)?{_END}",
        "pack": r"(?P<pack>\d)\s?[x\u00d7](?=\s?\d+\s?[GT][Bo])",
        "times": rf"(?P<times>\d{{1,2}}[,.]\d{{3}}|\d{{2,4}})[x\u00d7]{_END}",
        "direction": rf"(?P<holds>(?:{_HOLDS}\W{{1,2}})+)?"
        rf"(?:(?P<way>{_READ}|{_WRITE})(?P<held>\s{_HOLDS})?{_END}"
        rf"|(?P<letter>[RW]){_NO_LETTER})|(?P<alone>{_HOLDS}){_END}",
        "no adapter": r"(?:without|no|w/o|ohne|sans|senza|sin)\s(?:an?\s)?(?:SD[\s-]?)?"
        rf"{_ADAPTER}{_END}",
        "adapter": r"(?:(?:\+|with|incl(?:uding|\.)?|mit|avec)\s?)?(?:SD[\s-]?)?"
        rf"{_ADAPTER}{_END}",
        "and": rf"(?:and|und|et|y|plus){_END}",
        "filler": r"(?:memory|flash|cards?|speeds?|up|to|the|with|for|of|max|type|class|bis|zu|"
        rf"secure|digital|transfer|rates?|new|video|card\sreader|reader){_END}",
        "unread": r"[^\W_]+(?:[-'.][^\W_]+)*",
    }.items()
}
WORDS: dict[str, Callable[[_Match], Words]] = {
    "price": _price,
    "other device": _other_device,
    "form CFexpress": _cfexpress,
    "type": _type,
    "form CFast": _cfast,
    "form XQD": _xqd,
    "form CompactFlash": _compact_flash,
    "form SD": _sd,
    "Express": _express,
    "PCIe": _pcie,
    "class in words": _speed_class,
    "bus": _uhs,
    "bus in Roman": _roman,
    "bus UDMA": _udma,
    "version": _version,
    "guarantee": _vpg,
    "class": _speed_class,
    "application": _application,
    "capacity": _capacity,
    "pack": _pack,
    "times": _times,
    "no adapter": _no_adapter,
    "adapter": _adapter,
}
