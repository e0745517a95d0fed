"""Numbers as photographers type them: with a decimal comma, with a unit behind."""

_GROUPS = str.maketrans("", "", " \u00a0\u202f\u2009'\u2019_")


def as_number(text: str, unit: str = "") -> float | None:
    """The number in `text`, of which `unit` is stripped ("95 MB/s", "95"); None when it is none.

    Comma and point are both decimal; where both stand, the last one is.
    """
    bare = text.strip().translate(_GROUPS)
    if unit:
        bare = bare.casefold().removesuffix(unit.translate(_GROUPS).casefold())
    if "," in bare and "." in bare:
        bare = bare.replace(min(",.", key=bare.rindex), "")
    try:
        return float(bare.replace(",", "."))
    except ValueError:
        return None
