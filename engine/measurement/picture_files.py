"""Moment, body and size of a picture, from the first part of its file.

JPEG, HEIF, DNG and RAW files that are built like TIFF carry them in their EXIF data, within the
first HEAD_BYTES. Nothing in a file is trusted: whatever is broken gives a sentence.
"""

import contextlib
import io
import logging
import warnings
from collections.abc import Iterator, Mapping
from datetime import datetime
from typing import Any

import exifread
from PIL import ExifTags, Image

from engine.measurement.capture_times import Picture, body_named, second_digits, seconds_of
from engine.quantities import BYTES_IN_MB

HEAD_BYTES = 262_144
LARGEST_MB = 1_000.0
WANTED = ("DateTimeOriginal", "SubSecTimeOriginal", "Make", "Model")  # no place, no serial number
DAY_AND_TIME = "%Y:%m:%d %H:%M:%S"

# It writes what it finds odd to the log, once a file; that is told in a sentence here.
logging.getLogger("exifread").setLevel(logging.CRITICAL)


class NoPicture(ValueError):
    """A file that tells no moment, in a sentence."""


def read_picture(name: str, head: bytes, size_bytes: int) -> Picture:
    """The picture whose file begins with `head` and has `size_bytes` in all.

    Raises :class:`NoPicture`.
    """
    if not 0 < size_bytes <= LARGEST_MB * BYTES_IN_MB:
        raise NoPicture(f"{name} is empty, or larger than {LARGEST_MB:g} MB: it is no picture.")
    readings = _readings(head[:HEAD_BYTES])
    tags = next((found for found in readings if "DateTimeOriginal" in found), {})
    written = tags.get("DateTimeOriginal", "")
    try:
        moment = datetime.strptime(written[:19], DAY_AND_TIME)  # cameras have no zone
    except ValueError:
        raise NoPicture(f"{name} does not say when it was taken.") from None
    fraction = second_digits(tags.get("SubSecTimeOriginal", ""))
    return Picture(
        name=name,
        mb=size_bytes / BYTES_IN_MB,
        taken_s=seconds_of(moment, fraction),
        decimals=len(fraction),
        body=body_named(tags.get("Make", ""), tags.get("Model", "")),
    )


def _readings(head: bytes) -> Iterator[dict[str, str]]:
    """What each of two libraries reads; the second where the first one fails."""
    for read in (_by_exifread, _by_pillow):
        # Both raise whatever a broken file makes them meet, recursion and memory errors included.
        with contextlib.suppress(Exception):
            yield read(head)


def _by_exifread(head: bytes) -> dict[str, str]:
    found = exifread.process_file(io.BytesIO(head), details=False, extract_thumbnail=False)
    return _text_of({name.rpartition(" ")[2]: tag for name, tag in found.items()})


def _by_pillow(head: bytes) -> dict[str, str]:
    with warnings.catch_warnings(action="ignore"):  # of what is damaged
        exif = Image.open(io.BytesIO(head)).getexif()
        both = dict(exif) | dict(exif.get_ifd(ExifTags.IFD.Exif))
    return _text_of({ExifTags.TAGS.get(number, ""): value for number, value in both.items()})


def _text_of(found: Mapping[str, Any]) -> dict[str, str]:
    return {tag: str(found[tag]).strip("\0 ")[:64] for tag in WANTED if tag in found}
