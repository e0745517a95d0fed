"""The units that the names of fields end in, and their names in words."""

_UNIT_OF_ENDING = {"_mb_s": "MB/s", "_gb": "GB", "_mb": "MB", "_fps": "fps", "_s": "s"}


def unit_of(field: str) -> str:
    """The unit that the name of a field ends in, or nothing."""
    return _UNIT_OF_ENDING.get(_ending(field), "")


def words_of(field: str) -> str:
    """The name of a field in words, without its unit."""
    return field.removesuffix(_ending(field)).replace("_", " ").capitalize()


def _ending(field: str) -> str:
    return next((ending for ending in _UNIT_OF_ENDING if field.endswith(ending)), "")
