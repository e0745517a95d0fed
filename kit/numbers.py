"""Numbers as photographers type them, with a decimal comma and a unit; and the units of fields."""

_GROUPS = str.maketrans("", "", " \u00a0\u202f\u2009'\u2019_")
_UNIT_OF_ENDING = {"_mb_s": "MB/s", "_gb": "GB", "_mb": "MB", "_fps": "fps", "_s": "s"}


def as_decimal(text: str) -> float | None:
    """The number in `text`, with a decimal comma or point; None when it is none."""
    try:
        return float(text.strip().replace(",", "."))
    except ValueError:
        return None


def as_number(text: str, unit: str = "") -> float | None:
    """The number in `text`, of which `unit` is stripped ("95 MB/s", "95"); None when it is none.

    Comma and point are both decimal; where both stand, the last one is.
    """
    bare = text.strip().translate(_GROUPS)
    if unit:
        bare = bare.casefold().removesuffix(unit.translate(_GROUPS).casefold())
    if "," in bare and "." in bare:
        bare = bare.replace(min(",.", key=bare.rindex), "")
    return as_decimal(bare)


def unit_of(field: str) -> str:
    """The unit that the name of a field ends in, or nothing."""
    return _UNIT_OF_ENDING.get(_ending(field), "")


def words_of(field: str) -> str:
    """The name of a field in words, without its unit."""
    return field.removesuffix(_ending(field)).replace("_", " ").capitalize()


def _ending(field: str) -> str:
    return next((ending for ending in _UNIT_OF_ENDING if field.endswith(ending)), "")
