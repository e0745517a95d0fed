"""What a body with two slots writes where; docs/model.md has the table."""

from enum import StrEnum


class Arrangement(StrEnum):
    """What is written to which slot."""

    SINGLE = "single"
    OVERFLOW = "overflow"
    MIRROR = "mirror"
    SPLIT = "split"

    @property
    def slots_used(self) -> int:
        """How many slots it may write to."""
        return 1 if self is Arrangement.SINGLE else 2

    @property
    def writes_both(self) -> bool:
        """Whether every frame goes to both slots, so that it matters how they share the work."""
        return self in (Arrangement.MIRROR, Arrangement.SPLIT)

    @property
    def splits(self) -> bool:
        """Whether each slot gets one file of a frame."""
        return self is Arrangement.SPLIT

    @property
    def needs_files(self) -> int:
        """How many files a format must write for it."""
        return 2 if self.splits else 1

    @property
    def copies(self) -> int:
        """How many copies of each file there are afterwards."""
        return 2 if self is Arrangement.MIRROR else 1
