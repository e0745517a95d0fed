"""Which column of somebody's table is which: by the names that are known, or as somebody says."""

from collections.abc import Mapping, Sequence
from difflib import get_close_matches
from itertools import islice
from typing import Any

from django import forms
from django.contrib.sessions.backends.base import SessionBase

from bench.forms import RunForm
from kit.csv_cells import lines_of

OBSERVED = (
    "method", "frames_at_full_speed", "did_not_slow", "frames", "clear_s", "frame_rate_fps",
    "files_mb", "covered", "settings_checked", "battery_percent", "left_out", "notes",
)  # fmt: skip
COLUMNS = ("body", "setup", "shot_on", "hold_s", *OBSERVED)
NAMED = {
    "body": "body", "format": "format", "fps": "frame rate set, fps", "card": "card",
    "card 2": "card in slot 2", "arrangement": "how two slots are used",
}  # fmt: skip
LEFT_OUT = "-"
ALSO = {
    "set-up": "setup", "day": "shot_on", "hold": "hold_s", "full speed": "frames_at_full_speed",
    "light out": "clear_s", "rate": "frame_rate_fps", "mb": "files_mb", "card 1": "card",
    "card1": "card", "card2": "card 2", "held": "hold_s",
}  # fmt: skip
MEANT = {
    "date": "day", "duration": "hold", "seconds": "hold", "frame rate": "fps", "clear": "light out",
    "buffer": "full speed", "shots": "frames", "write time": "light out",
    "media": "card", "camera": "body", "mode": "format", "file type": "format",
    "quality": "format",
}  # fmt: skip
MOST_COLUMNS = 40
LONGEST_HEADING = 60
PREVIEWED = 3  # lines
MOST_REMEMBERED = 200
REMEMBERED = "columns_of_runs"  # where the session keeps them


def is_table(text: str) -> bool:
    """Whether it is lines with headings, not JSON."""
    return text.lstrip()[:1] not in ("", "{", "[")


def plain(heading: str) -> str:
    """A heading as it is compared."""
    return heading.strip().casefold()[:LONGEST_HEADING]


def column_of(heading: str, matched: Mapping[str, str]) -> str:
    """The column that a heading names: as somebody said, or by itself."""
    said = plain(heading)
    return matched.get(said) or ALSO.get(said.replace("_", " "), ALSO.get(said, said))


def is_column(name: str) -> bool:
    """Whether there is such a column."""
    return name in COLUMNS or name in NAMED


def nearest(heading: str) -> str | None:
    """The name that may have been meant; None: none is like it."""
    said = plain(heading)
    near = get_close_matches(said, [*COLUMNS, *NAMED, *ALSO, *MEANT], n=1)
    found = MEANT.get(said) or next(iter(near), None)
    return MEANT.get(found, found) if found else None


class MatchForm(forms.Form):
    """Which column each heading of a table is."""

    def __init__(
        self, lines: Sequence[Sequence[str]], data: Mapping[str, Any], before: Mapping[str, str]
    ) -> None:
        self.headings, self.lines, self.before = lines[0][:MOST_COLUMNS], lines[1:], before
        # Answers for another table are none for this one.
        super().__init__(data if data.get("headings") == self.shown_headings else None)
        choices = [("", "choose ..."), (LEFT_OUT, "leave out"), *_choices()]
        for place, heading in enumerate(self.headings):
            known = column_of(heading, before)
            guess = known if is_column(known) else column_of(nearest(heading) or "", {})
            self.fields[f"column-{place}"] = forms.ChoiceField(
                label=heading.strip()[:LONGEST_HEADING] or f"column {place + 1}",
                choices=choices,
                initial=guess if is_column(guess) else "",
                widget=forms.Select(attrs={"class": "form-select"}),
            )

    @classmethod
    def of_table(
        cls, text: str, data: Mapping[str, Any], before: Mapping[str, str]
    ) -> "MatchForm | None":
        """The form of a table, answered by `data` and by what was said before; None of JSON.

        Raises :class:`NoTable`.
        """
        lines = list(islice(lines_of(text), 1 + PREVIEWED)) if is_table(text) else []
        return cls(lines, data, before) if lines else None

    @property
    def shown_headings(self) -> str:
        """What the answers are for."""
        return " | ".join(map(plain, self.headings))

    @property
    def previewed(self) -> list[tuple[Any, list[str]]]:
        """Each field, with the first cells below its heading."""
        return [
            (
                self[name],
                [line[place][:LONGEST_HEADING] for line in self.lines if place < len(line)],
            )
            for place, name in enumerate(self.fields)
        ]

    @property
    def matched(self) -> dict[str, str]:
        """The column of each heading, as somebody said, now or before."""
        if not self.is_valid():
            return dict(self.before)
        chosen = (self.cleaned_data[name] for name in self.fields)
        return dict(self.before) | dict(zip(map(plain, self.headings), chosen, strict=True))

    def clean(self) -> dict[str, Any]:
        """No column stands for two headings."""
        cleaned = super().clean() or {}
        taken: set[str] = set()
        for name, column in list(cleaned.items()):
            if column in taken:
                self.add_error(name, "Another heading is this column already.")
            elif column != LEFT_OUT:
                taken.add(column)
        return cleaned


def remembered(session: SessionBase) -> dict[str, str]:
    """What each heading was said to be before."""
    found: dict[str, str] = session.get(REMEMBERED, {})
    return found


def remember(session: SessionBase, matched: Mapping[str, str]) -> None:
    """Keeps what headings were said to be, for the next table."""
    if matched:
        session[REMEMBERED] = dict(list(matched.items())[-MOST_REMEMBERED:])


def _choices() -> list[tuple[str, str]]:
    labels = {
        name: str(field.label or name).removesuffix(", by the counter")
        for name, field in RunForm.base_fields.items()
    }
    of_runs = ("shot_on", "hold_s", *OBSERVED)
    return [
        *NAMED.items(),
        *((one, labels[one][0].lower() + labels[one][1:]) for one in of_runs if one in labels),
    ]
