"""Cards of each class, for somebody who has not bought one: what a class says, and no maker.

Their marks are those of public standards (SD Association: speed and video speed classes;
CompactFlash Association: CFexpress types and video performance guarantees). What cameras make of
them follows from the marks, as for any card that is known by its label alone.
"""

from collections.abc import Iterator
from typing import Any

from django.utils.text import slugify

from engine.cards.label.parser import read_marks
from kit.card_reading import proposal

MAKER = "Any"
CLASSES = {
    "V30 SD, 128 GB": "128 GB SDXC UHS-I U3 V30",
    "V60 SD, 128 GB": "128 GB SDXC UHS-II U3 V60",
    "V90 SD made for 300 MB/s, 128 GB": "128 GB SDXC UHS-II U3 V90 W 300 MB/s",
    "CFexpress A, VPG200, 160 GB": "160 GB CFexpress Type A VPG200",
    "CFexpress A, VPG400, 320 GB": "320 GB CFexpress Type A PCIe 4 VPG400",
    "CFexpress B, 256 GB": "256 GB CFexpress Type B",
    "CFexpress B, VPG400, 512 GB": "512 GB CFexpress Type B VPG400",
    "CFexpress B of PCIe 4, VPG400, 512 GB": "512 GB CFexpress Type B PCIe Gen4 x2 VPG400",
    "XQD, 64 GB": "64 GB XQD",
    "CFast 2, VPG130, 128 GB": "128 GB CFast 2.0 VPG130",
    "CompactFlash UDMA 7, VPG65, 64 GB": "64 GB CompactFlash UDMA 7 VPG65",
}


def documents() -> Iterator[dict[str, Any]]:
    """A card of each class, as `kit.document.write` takes it."""
    for name, marks in CLASSES.items():
        told = {"slug": slugify(f"{MAKER} {name}"), "maker": MAKER, "name": name, "marks": marks}
        yield proposal(read_marks(marks)) | told
