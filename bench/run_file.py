"""Runs as a file: JSON or a table, out and in again, and tables that somebody types.

A line says which set-up it is of by `setup`, an address as the Desk has it, or by the names of
body, format, cards and arrangement and the frame rate. docs/formats.md lists the columns.
"""

import json
import math
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any, cast
from urllib.parse import parse_qsl, urlencode

from django.contrib.auth.base_user import AbstractBaseUser
from django.db import transaction

from bench.columns import (
    COLUMNS,
    LEFT_OUT,
    NAMED,
    OBSERVED,
    column_of,
    is_column,
    is_table,
    nearest,
)
from bench.forms import RunForm
from bench.measured import clean_predicted
from bench.models import Run
from engine.formats import exact
from engine.typed_numbers import NotANumber, quantity_in
from kit.csv_cells import TRUTHS, as_date, lines_of, plain_text
from pages.boundary import NoJson, read_json
from pages.refusals import Refused
from setups import keys
from setups.kit import Kit
from setups.reader import Reading, read_address

RAW = ("is_confirmed", "depth_is_tapped", "taps_s", "strokes_s", "predicted")  # in JSON only
TAPPED_FRAMES = 1.5  # between a tap in frames and the whole count that it fills in
NOTHING = ("-", "\N{EN DASH}", "n/a", "?")  # in a cell: it was not noted
MARK = "ondata_runs"
MOST_LINES = 300
MOST_ENDS = 10 * MOST_LINES  # of lines, empty ones too, or of objects of JSON and those in them
MOST_FAULTS = 10


class BadRuns(Refused):
    """Runs that can't be read; `sentences` has one for each fault, the first few of them."""


@dataclass(frozen=True)
class Received:
    """What came of a file: how many runs are new, and how many were there already."""

    added: int
    known: int

    @property
    def words(self) -> str:
        """That in a sentence."""
        known = f"; {self.known} were there already" if self.known else ""
        saved = "1 run is" if self.added == 1 else f"{self.added} runs are"
        return f"{saved} saved{known}."


def record_of(run: Run) -> dict[str, Any]:
    """A run by its columns; that of the body is for people to read."""
    told: dict[str, Any] = {"body": str(run.body), "setup": run.setup}
    told |= {"shot_on": run.shot_on, "hold_s": run.address.get(keys.HOLD)}
    return told | {name: getattr(run, name) for name in OBSERVED}


def rows_of(runs: Iterable[Run]) -> Iterator[Iterable[Any]]:
    """The rows of a table, its header first."""
    yield COLUMNS
    for run in runs:
        yield record_of(run).values()


def as_json(runs: Iterable[Run]) -> Iterator[str]:
    """All that is kept of runs, a line a run, in pieces: it is never in memory as a whole."""
    yield f'{{"{MARK}": 1, "runs": ['
    for number, run in enumerate(runs):
        record = record_of(run) | {name: getattr(run, name) for name in RAW}
        yield f"{',' if number else ''}\n{json.dumps(record, default=str)}"
    yield "\n]}\n"


def read_runs(
    text: str, kit: Kit, usual: Mapping[str, str], matched: Mapping[str, str] | None = None
) -> list[Run]:
    """The runs in `text`, not saved and nobody's yet; `usual` holds where a line says nothing.

    `matched` has the columns that headings of a table are, where somebody said so. Raises
    :class:`BadRuns`.
    """
    # Counted before anything is read: some megabytes of lines would take seconds.
    if text.count("\n" if is_table(text) else "{") > MOST_ENDS:
        raise BadRuns([f"{MOST_LINES} runs are the most at a time; this has very many more."])
    records = list(_records(text, matched or {}))
    if len(records) > MOST_LINES:
        raise BadRuns([f"{MOST_LINES} runs are the most at a time; there are {len(records)}."])
    found, faults = [], []
    for place, record in records:
        try:
            found.append(_run(dict(usual) | record, kit))
        except BadRuns as error:
            faults += [f"{place}: {sentence}" for sentence in error.sentences]
        if len(faults) >= MOST_FAULTS:
            break
    if faults or not found:
        raise BadRuns(faults[:MOST_FAULTS] or ["There is no run in it."])
    return found


def save_runs(runs: list[Run], owner: AbstractBaseUser) -> Received:
    """Gives new runs to somebody; those that are there already are left out.

    Raises :class:`BadRuns` where they are too many.
    """
    with transaction.atomic():
        kept = Run.objects.made_by(owner)
        known = {_told(run) for run in kept}
        new = [run for run in runs if _told(run) not in known]
        if words := kept.no_room_words(len(new), sum(len(run.strokes_s) for run in new)):
            raise BadRuns([words])
        for run in new:
            run.owner_id = owner.pk
        Run.objects.bulk_create(new)
    return Received(len(new), len(runs) - len(new))


def _records(text: str, matched: Mapping[str, str]) -> Iterator[tuple[str, dict[str, Any]]]:
    """Each run with its place in words, its keys as columns."""
    text = text.strip()
    if not text:
        return
    if not is_table(text):
        yield from _json_records(text)
        return
    lines = lines_of(text)
    header = [column_of(name, matched) for name in next(lines, [])]
    named = [name for name in header if name != LEFT_OUT]
    if unknown := [name for name in named if not is_column(name)]:
        raise BadRuns([_unknown_words(unknown[0])])
    if len(set(named)) < len(named):
        raise BadRuns(["Two headings are the same column."])
    for number, cells in enumerate(lines, 2):
        values = [plain_text(value.strip()) for value in cells]
        if any(values):
            filled = zip(header, values, strict=False)
            yield (
                f"Line {number}",
                {
                    name: value
                    for name, value in filled
                    if value and value not in NOTHING and name != LEFT_OUT
                },
            )


def _unknown_words(heading: str) -> str:
    """That there is no such column, and which one may have been meant."""
    meant = nearest(heading)
    asked = f"; did you mean “{meant}”?" if meant else "."
    return f"No column “{heading[:30]}”{asked}"


def _json_records(text: str) -> Iterator[tuple[str, dict[str, Any]]]:
    try:
        told = read_json(text)
    except NoJson as error:
        raise BadRuns(error.sentences) from None
    runs = told.get("runs") if isinstance(told, dict) else told
    if not isinstance(runs, list) or not all(isinstance(one, dict) for one in runs):
        raise BadRuns([f'Runs are a list of objects, or {{"{MARK}": 1, "runs": [...]}}.'])
    for number, one in enumerate(runs, 1):
        named = {
            column_of(str(name), {}): value for name, value in one.items() if value is not None
        }
        if unknown := sorted(named.keys() - {*COLUMNS, *NAMED, *RAW}):
            raise BadRuns([f"Run {number}: there is no column “{unknown[0][:30]}”."])
        yield f"Run {number}", named


def _run(record: Mapping[str, Any], kit: Kit) -> Run:
    """The run of a record, not saved yet."""
    reading = _reading(record, kit)
    setup = reading.setup
    data = {name: _text(value) for name, value in record.items() if name in RunForm.base_fields}
    if "depth_is_tapped" not in data:
        data["depth_is_tapped"] = _text(_was_tapped(record, setup.rate.fps))
    for name in ("did_not_slow", "covered", "settings_checked", "depth_is_tapped"):
        data[name] = "on" if TRUTHS.get(data.get(name, "").casefold()) else ""
    for name in ("taps_s", "strokes_s"):
        data[name] = json.dumps(record.get(name, []))
    if day := data.get("shot_on"):
        data["shot_on"] = str(as_date(day))
    data.setdefault("hold_s", exact(setup.hold_s))
    form = RunForm(data, instance=Run(body=setup.body), fps=setup.rate.fps)
    if not form.is_valid():
        raise BadRuns([_fault(form, name) for name in form.errors])
    run = cast("Run", form.save(commit=False))
    run.setup = urlencode(setup.address | {keys.HOLD: exact(form.cleaned_data["hold_s"])})
    run.left_out = TRUTHS.get(_text(record.get("left_out", "")).casefold(), False)
    run.is_confirmed = record.get("is_confirmed") is True
    run.predicted = clean_predicted(record.get("predicted"))
    return run


def _was_tapped(record: Mapping[str, Any], fps: float) -> bool:
    """Whether the depth is that of the tap when it slowed: earlier files don't tell."""
    match record.get("frames_at_full_speed"), record.get("taps_s"):
        case int() as depth, [_, int() | float() as tap_s, *_]:
            return abs(depth - fps * tap_s) <= TAPPED_FRAMES
    return False


def _fault(form: RunForm, name: str) -> str:
    told = " ".join(map(str, form.errors[name]))
    return f"{form.fields[name].label}: {told}" if name in form.fields else told


def _reading(record: Mapping[str, Any], kit: Kit) -> Reading:
    """The set-up that a record names; nothing is put in place of what the kit doesn't have."""
    asked = _query(record["setup"]) if "setup" in record else _asked(record, kit)
    reading = read_address(asked, kit)
    if reading is None:
        raise BadRuns(["There is no body in the kit."])
    if reading.notes:
        raise BadRuns(list(reading.notes.values()))
    if not reading.setup.complete:
        raise BadRuns(["No card in the kit fits."])
    return reading


def _asked(record: Mapping[str, Any], kit: Kit) -> dict[str, str]:
    """The address of a set-up that is given by names."""
    body = kit.with_choices(_named(kit.bodies, record.get("body") or _first(kit), "body"))
    asked = {keys.BODY: body.slug}
    if name := record.get("format"):
        asked[keys.FORMAT] = _named(list(body.formats.all()), name, "format of the body").slug
    if rate := record.get("fps"):
        try:
            asked[keys.FRAME_RATE] = exact(quantity_in(_text(rate), "fps"))
        except NotANumber as error:
            raise BadRuns([str(error)]) from None
    if kind := record.get("arrangement"):
        asked[keys.ARRANGEMENT] = _text(kind)
    slots = {slot.number: slot for slot in body.slots.all()}
    for number, name in ((1, record.get("card")), (2, record.get("card 2"))):
        if name:
            if number not in slots:
                raise BadRuns([f"The body has no slot {number}."])
            cards = kit.cards(slots[number])
            asked[keys.card(number)] = _named(cards, name, f"card that fits slot {number}").slug
    return asked


def _first(kit: Kit) -> str:
    return kit.bodies[0].slug if kit.bodies else ""


def _named(items: list[Any], name: Any, what: str) -> Any:
    """The item that is called so, in whatever case, or has that place in addresses."""
    plain = _text(name).strip().casefold()
    for one in items:
        if plain in (str(one).casefold(), one.slug):
            return one
    raise BadRuns([f"“{_text(name)[:40]}” is no {what} in the kit."])


def _query(setup: Any) -> dict[str, str]:
    return dict(parse_qsl(_text(setup)[: keys.LONGEST_SETUP]))


def _told(run: Run) -> tuple[Any, ...]:
    """What makes two runs the same one."""
    return (
        run.setup,
        run.shot_on,
        *(getattr(run, name) for name in OBSERVED if name != "left_out"),
    )


def _text(value: Any) -> str:
    """A value of JSON as somebody would type it."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return exact(value) if isinstance(value, float) and math.isfinite(value) else str(value)
