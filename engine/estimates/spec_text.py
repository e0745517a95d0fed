"""Reads the figures of a body out of pasted text: frame rates, pixels, slots, what a burst holds.

Nothing is guessed in silence: each figure comes with the words that it was read from, to be
confirmed by whoever pasted them.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import NamedTuple

from engine.burst.scenario import MOST_SLOTS
from engine.cards.standards import Bus, Form
from engine.estimates.file_sizes import MEGAPIXELS, FormatKind
from engine.estimates.memory import CLAIM_FRAMES
from engine.quantities import Range

LONGEST_TEXT = 20_000
LONGEST_LINE = 400  # a longer one is read in pieces
MOST_CLAIMS = 12
STILLS_FPS = Range(0.5, 300, "fps")

# Of bounded length, and begun at its first digit only: so that no text takes long to read.
_NUMBER = r"(?<![\d.,])(\d{1,3}(?:[ ,.]\d{3}){1,2}|\d{1,7}(?:[.,]\d{1,3})?)(?!\d)"
_FPS = re.compile(
    rf"{_NUMBER}\s*(?:fps\b|(?:frames|images|pictures|shots)\s*(?:per|a|/)\s*s(?:ec(?:ond)?)?\b)",
    re.I,
)
_PIXELS = re.compile(
    rf"{_NUMBER}\s*(?:million\s+)?(?:effective\s+)?(?:MP\b|Mpx\b|mega-?pixels?\b|pixels\b)",
    re.I,
)
_COUNT = re.compile(
    rf"{_NUMBER}\s*(?:frames|images|pictures|shots|exposures|files)\b(?!\s*(?:per|a|/)\s*s)", re.I
)
_SENTENCE_END = re.compile(r"[\r\n]+|(?<=[^.]{3}[.!?])\s+(?=[A-Z])")
_MOVING = re.compile(r"\b(?:video|movie|[48]K|full\s*HD|\d+p)\b", re.I)
_ABOUT_BURSTS = re.compile(r"\b(?:buffer|burst|continuous|consecutive)", re.I)
_ABOUT_CARDS = re.compile(r"\b(?:slots?|cards?|media|storage)\b", re.I)
_TWICE = re.compile(r"\b(?:two|dual|double|twin|both|2\s*x|2)\b", re.I)
_NEXT_SLOT = re.compile(r"\bslot\s*2\b|\bsecond\b|\b1\s*x|;|\band\b|\+|\n", re.I)
_SHUTTERS = {"mechanical": r"mechanical", "electronic": r"electronic|silent"}
_KINDS = {
    FormatKind.RAW_AND_JPEG: r"RAW\s*(?:\+|&|and)\s*JPE?G",
    FormatKind.UNCOMPRESSED_RAW: r"uncompressed\s+RAW|RAW\s*\(?uncompressed",
    FormatKind.LOSSLESS_RAW: r"lossless(?:ly)?(?:\s+compressed)?\s+RAW|RAW\s*\(?lossless",
    FormatKind.COMPACT_RAW: r"compact\s+RAW",
    FormatKind.LOSSY_RAW: r"(?:lossy|compressed)\s+RAW|RAW\s*\(?(?:lossy|compressed)",
    FormatKind.JPEG_NORMAL: r"JPE?G\s*\(?normal",
    FormatKind.JPEG_FINE: r"JPE?G",
    FormatKind.HEIF: r"HEI[FC]",
}
_PLAIN_RAW = re.compile(r"\bRAW\b", re.I)
_FORMS = re.compile(
    r"CFexpress\s*(?:\(?type\s*)?(?P<type>[ABC])\b|(?P<xqd>XQD)|(?P<cfast>CFast)"
    r"|(?P<cf>Compact\s*Flash|\bCF\b)|(?P<micro>micro\s*SD)|(?P<sd>\bSD(?:HC|XC|UC)?\b)",
    re.I,
)
_UHS = re.compile(r"UHS[- ]?(III|II|I|3|2|1)\b", re.I)
_BUS_OF_UHS = {"I": Bus.UHS_I, "1": Bus.UHS_I, "II": Bus.UHS_II, "2": Bus.UHS_II,
               "III": Bus.UHS_III, "3": Bus.UHS_III}  # fmt: skip
_PCIE_4 = re.compile(r"PCIe\s*(?:gen\w*\s*)?4|\b(?:version\s*)?4\.0\b", re.I)
_BUS_OF_TYPE = {"A": (Form.CFEXPRESS_A, Bus.PCIE_3_X1), "B": (Form.CFEXPRESS_B, Bus.PCIE_3_X2),
                "C": (Form.CFEXPRESS_C, Bus.PCIE_3_X4)}  # fmt: skip


class Taken(NamedTuple):
    """A form of card that a slot takes, and the fastest bus on which it runs it."""

    form: Form
    bus: Bus


class ClaimRead(NamedTuple):
    """What a maker says that a burst holds, as it was read; 0 fps: it does not say."""

    frames: int
    kind: FormatKind
    fps: float
    words: str


@dataclass
class SpecReading:
    """What a text says of a body; `words` has what each figure was read from, by its name.

    `cut` tells that only the first LONGEST_TEXT characters were read.
    """

    fps_of_shutter: dict[str, float] = field(default_factory=dict)
    megapixels: float | None = None
    slots: list[list[Taken]] = field(default_factory=list)
    claims: list[ClaimRead] = field(default_factory=list)
    words: dict[str, str] = field(default_factory=dict)
    cut: bool = False

    @property
    def kinds(self) -> list[FormatKind]:
        """The formats that its claims name."""
        return list(dict.fromkeys(claim.kind for claim in self.claims))


def read_spec(text: str) -> SpecReading:
    """Reads any text; of a longer one than LONGEST_TEXT only its start."""
    reading = SpecReading(cut=len(text) > LONGEST_TEXT)
    lines = list(_lines(text[:LONGEST_TEXT]))
    for line in lines:
        _read_pixels(line, reading)
        claims = list(_claims(line))
        reading.claims += claims
        if not claims:  # else the rate is that of the claim
            _read_rates(line, reading)
    reading.claims = reading.claims[:MOST_CLAIMS]
    lines = [line for line in lines if _ABOUT_CARDS.search(line) and _FORMS.search(line)]
    reading.slots = _slots("\n".join(lines))[:MOST_SLOTS]
    if reading.slots:
        reading.words["slots"] = " / ".join(line[:120] for line in lines[:MOST_SLOTS])
    return reading


def _lines(text: str) -> Iterator[str]:
    for line in filter(None, map(str.strip, _SENTENCE_END.split(text))):
        yield from (line[at : at + LONGEST_LINE] for at in range(0, len(line), LONGEST_LINE))


def _number(text: str) -> float:
    """A printed number: separators before three digits are those of thousands."""
    grouped = re.sub(r"[ ,.](?=\d{3}(?!\d))", "", text)
    return float(grouped.replace(",", "."))


def _read_rates(line: str, reading: SpecReading) -> None:
    if _MOVING.search(line):
        return
    for part in re.split(r"[;,](?!\d)", line):
        for match in _FPS.finditer(part):
            fps = _number(match[1])
            if STILLS_FPS.fault(fps):
                continue
            shutters = [name for name, words in _SHUTTERS.items() if re.search(words, part, re.I)]
            for shutter in shutters or ["mechanical"]:
                if fps > reading.fps_of_shutter.get(shutter, 0):
                    reading.fps_of_shutter[shutter] = fps
                    reading.words[shutter] = part.strip()[:120]


def _read_pixels(line: str, reading: SpecReading) -> None:
    """The effective pixels, or the first that are told."""
    for match in _PIXELS.finditer(line):
        pixels = _number(match[1])
        is_first = reading.megapixels is None
        is_better = (
            is_first or "effective" in line[max(0, match.start() - 20) : match.end()].lower()
        )
        if is_better and not MEGAPIXELS.fault(pixels):
            reading.megapixels = pixels
            reading.words["megapixels"] = line[:120]


def _claims(line: str) -> Iterator[ClaimRead]:
    if _MOVING.search(line):
        return
    for part in re.split(r"[;•]|,(?!\d{3})", line):
        kind = _kind(part)
        count = _COUNT.search(part)
        if count is None and kind and _ABOUT_BURSTS.search(line):
            count = re.search(rf"{_NUMBER}(?!\s*(?:fps|bit|MP|frames|images|x)\b)\b", part)
        if kind is None or count is None:
            continue
        frames = _number(count[1])
        rate = _FPS.search(part) or _FPS.search(line)
        if frames == int(frames) and not CLAIM_FRAMES.fault(frames):
            yield ClaimRead(int(frames), kind, _number(rate[1]) if rate else 0, part.strip()[:120])


def _kind(part: str) -> FormatKind | None:
    for kind, words in _KINDS.items():
        if re.search(words, part, re.I):
            return kind
    return FormatKind.LOSSLESS_RAW if _PLAIN_RAW.search(part) else None


def _slots(text: str) -> list[list[Taken]]:
    """The slots in their order: what is told of one and then of the next, or of two alike."""
    slots: list[list[Taken]] = []
    end = 0
    for match in _FORMS.finditer(text):
        between, behind = text[end : match.start()], text[match.end() : match.end() + 40]
        taken = _taken(match, behind)
        if taken in (slots[-1] if slots else []):
            pass
        elif not slots or _NEXT_SLOT.search(between):
            slots.append([taken])
        else:
            slots[-1].append(taken)
        end = match.end()
    if len(slots) == 1 and _TWICE.search(re.sub(r"slot\s*\d", "", text)):
        return [slots[0], list(slots[0])]
    return slots


def _taken(match: re.Match[str], behind: str) -> Taken:
    if match["type"]:
        form, bus = _BUS_OF_TYPE[match["type"].upper()]
        newer = form == Form.CFEXPRESS_B and _PCIE_4.search(re.split(r"[;,/]| and ", behind)[0])
        return Taken(form, Bus.PCIE_4_X2 if newer else bus)
    if match["xqd"]:
        return Taken(Form.XQD, Bus.XQD_1)
    if match["cfast"]:
        return Taken(Form.CFAST_2, Bus.SATA_3)
    if match["cf"]:
        return Taken(Form.COMPACT_FLASH, Bus.UDMA_7)
    uhs = _UHS.search(behind)
    bus = _BUS_OF_UHS[uhs[1].upper()] if uhs else Bus.UHS_I
    return Taken(Form.MICRO_SD if match["micro"] else Form.SD, bus)
