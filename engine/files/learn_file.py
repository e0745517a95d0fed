"""The learn file: a body, cards, runs and questions in, figures and predictions out.

docs/formats.md describes it key by key.
"""

import math
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from functools import partial
from typing import Any

from engine.burst.arrangement import Arrangement
from engine.burst.scenario import (
    ARRANGEMENTS,
    COUPLINGS,
    FRAME_RATE_FPS,
    HOLD_S,
    MOST_SLOTS,
    File,
)
from engine.cards.label.parser import read_marks
from engine.estimates.file_sizes import FormatKind, kinds_of
from engine.estimates.frame_rate import of_rate
from engine.estimates.side import AssumedCard, AssumedSlot
from engine.estimates.write_speed import card_speed, noted_speed
from engine.figures.uncertainty import PRINTED
from engine.files.json_keys import InvalidFile, Keys, json_object
from engine.measurement.assumed import (
    AssumedBody,
    AssumedFormat,
    AssumedSetup,
    setup_of,
)
from engine.measurement.contradictions import contradictions
from engine.measurement.learning import Learning
from engine.measurement.learnt import LearntBody, LearntRange
from engine.measurement.runs import CLEAR_S, Method, Observed, ObservedRun
from engine.measurement.surprises import surprises

WHOLE_FILE = "The learn file"
MOST_RUNS, MOST_QUESTIONS = 60, 200
MOST_PRINTED = 2  # times what a bus carries
MOST_FRAMES = 100_000  # due in all runs together
NO_BODY: dict[str, Any] = {}
NO_COUPLINGS: dict[str, Any] = {}


@dataclass(frozen=True)
class LearnFile:
    """What is assumed, what was seen, and what is asked."""

    body: AssumedBody
    runs: Sequence[ObservedRun]
    questions: Sequence[AssumedSetup]


def read_learn_file(text: str) -> LearnFile:
    """The learn file that `text` is. Raises :class:`InvalidFile` with every fault."""
    keys = Keys(json_object(text, WHOLE_FILE))
    known = keys.optional_part("body", _read_body, NO_BODY)
    cards = keys.parts("cards", _read_card) if "cards" in keys.values else ()
    if not known and not keys.faults:
        keys.fault("body", "is missing")
    keys.faults |= _faster_than_any_bus(known.get("slots", ()), cards)
    if keys.faults:
        raise InvalidFile(keys.faults)
    body = AssumedBody(**known, cards={card.name: card for card in cards})
    runs = keys.parts("runs", partial(_read_run, body))
    questions = keys.parts("ask", partial(_read_setup, body)) if "ask" in keys.values else ()
    if len(runs) > MOST_RUNS or sum(run.scenario.frames_due for run in runs) > MOST_FRAMES:
        keys.fault("runs", f"must be {MOST_RUNS} at most, and {MOST_FRAMES:,} frames due in all")
    if not runs:
        keys.fault("runs", "must have at least one run")
    if len(questions) > MOST_QUESTIONS:
        keys.fault("ask", f"must be {MOST_QUESTIONS} set-ups at most")
    return keys.build(LearnFile, body=body, runs=runs, questions=questions)


def learnt_values(file: LearnFile) -> dict[str, Any]:
    """What is learnt of `file`, as a JSON object."""
    learning = Learning(file.runs)
    learnt = LearntBody.of(learning)
    against = {one.place: one.words for one in contradictions(learnt)}
    surprising = {one.key: one.why for one in surprises(learnt)}
    return {
        "figures": {
            str(key): _figure_values(figure, learnt.assumed[key])
            | ({"surprising": surprising[key]} if key in surprising else {})
            for key, figure in learnt.figures.items()
        },
        "effective_bodies": learning.effective_count,
        "error_ratio": learnt.error_ratio,
        "coupling": {key.of: odds for key, odds in learnt.odds.items()},
        "runs": [
            {"misfits": misfits, "flagged": place in against}
            | ({"because": against[place]} if place in against else {})
            for place, misfits in enumerate(learnt.misfits)
        ],
        "predictions": [
            asdict(learnt.predict(one.scenario, one.sources, one.figures)) for one in file.questions
        ],
    }


def _figure_values(figure: LearntRange, assumed: float) -> dict[str, Any]:
    return {
        "low": figure.low * assumed,
        "middle": figure.middle * assumed,
        "high": figure.high * assumed,
        "before": {"low": figure.low_before * assumed, "high": figure.high_before * assumed},
    }


def _read_file(keys: Keys) -> File:
    return keys.of(File, name=keys.text("name", "file"))


def _read_format(keys: Keys) -> AssumedFormat:
    files = keys.parts("files", _read_file) if "files" in keys.values else ()
    is_null = keys.values.get("process_fps", 0) is None
    values = keys.fields_of(AssumedFormat, without=("files", "files_uncertainty", "never_waits"))
    never_waits = is_null and "process_fps" not in keys.sources
    if not files and not kinds_of(str(values["name"])):
        kinds = ", ".join(FormatKind)
        said = f"must be there, or name one of {kinds} or two with + between, whose sizes are"
        keys.fault("files", f"{said} estimated")
    return keys.build(
        AssumedFormat, **values, files=files, files_uncertainty=keys.source_of("files"),
        never_waits=never_waits,
    )  # fmt: skip


def _read_slot(keys: Keys) -> AssumedSlot:
    values = keys.fields_of(AssumedSlot)
    if values["slot_limit_mb_s"] is None and values["bus_mb_s"] is None:
        keys.fault("bus_mb_s", "must be there, or slot_limit_mb_s")
    return keys.build(AssumedSlot, **values)


def _read_card(keys: Keys) -> AssumedCard:
    """A card by its speed, by the words on it, or by both."""
    face = read_marks(str(keys.text("label", "") or "")).face
    values = keys.fields_of(AssumedCard, without=("has_share", "is_tested"))
    noted = values.pop("write_mb_s")
    speed, is_tested = noted_speed(noted, face) if noted else (card_speed(face), False)
    return keys.build(
        AssumedCard, **values, write_mb_s=speed, has_share=is_tested, is_tested=is_tested
    )


def _faster_than_any_bus(
    slots: Sequence[AssumedSlot], cards: Sequence[AssumedCard]
) -> dict[str, str]:
    """A fault for each card that is said to write more than any slot of the body carries.

    What is printed of a card holds in another reader, and may be more up to MOST_PRINTED times.
    """
    bus_mb_s = max((slot.bus_mb_s or math.inf for slot in slots), default=math.inf)
    faults = {}
    for place, card in enumerate(cards):
        mb_s = card.write_mb_s.value if card.write_mb_s else 0.0
        if card.has_share and mb_s > bus_mb_s:
            faults[f"cards[{place}].write_mb_s"] = (
                f"must not be above what the bus carries, {bus_mb_s:g}, got {mb_s:g}"
            )
        elif mb_s > MOST_PRINTED * bus_mb_s:
            faults[f"cards[{place}]"] = (
                f"is far too fast for this body, whose bus carries {bus_mb_s:g} MB/s: check its "
                "numbers, its label and the bus"
            )
    return faults


def _read_rate(keys: Keys) -> tuple[float, Any]:
    fps = keys.number("fps", FRAME_RATE_FPS)
    source = keys.source("source") if "source" in keys.values else PRINTED
    return keys.build(lambda: (float(fps), of_rate(source)))


def _read_couplings(keys: Keys) -> dict[str, Any]:
    known = [kind for kind in ARRANGEMENTS if kind in keys.values]
    return keys.build(dict, **{kind: keys.word(kind, COUPLINGS, "parallel") for kind in known})


def _read_body(keys: Keys) -> dict[str, Any]:
    values = keys.fields_of(
        AssumedBody, without=("formats", "rates", "slots", "cards", "couplings")
    )
    formats = keys.parts("formats", _read_format)
    rates, slots = keys.parts("rates", _read_rate), keys.parts("slots", _read_slot)
    for name, found in (("formats", formats), ("rates", rates)):
        if not found and not keys.faults:
            keys.fault(name, "must have at least one")
    if not 1 <= len(slots) <= MOST_SLOTS and not keys.faults:
        keys.fault("slots", f"must be 1 or {MOST_SLOTS}")
    if values["megapixels"] is None and any(not one.files for one in formats):
        keys.fault("megapixels", "must be there, as a format has no size")
    return keys.build(
        dict,
        **values,
        formats={one.name: one for one in formats},
        rates=dict(rates),
        slots=slots,
        couplings=keys.optional_part("coupling", _read_couplings, NO_COUPLINGS),
    )


def _setup_values(keys: Keys) -> dict[str, Any]:
    cards = keys.values.pop("cards", [])
    if not isinstance(cards, list) or not all(isinstance(name, str) for name in cards):
        keys.fault("cards", "must be a list of names")
    return {
        "format_name": keys.text("format"),
        "frame_rate_fps": keys.number("fps", FRAME_RATE_FPS),
        "card_names": cards,
        "arrangement": Arrangement(keys.word("arrangement", ARRANGEMENTS, "single") or "single"),
        "hold_s": keys.number("hold_s", HOLD_S),
    }


def _read_setup(body: AssumedBody, keys: Keys) -> AssumedSetup:
    values = _setup_values(keys)
    return keys.build(partial(setup_of, body), **values)


def _read_run(body: AssumedBody, keys: Keys) -> ObservedRun:
    values = _setup_values(keys)
    method = keys.word("method", list(Method), Method.TAP)
    name = keys.text("name", "")
    seen = keys.fields_of(Observed)
    light_out_s = keys.number("light_out_s", CLEAR_S, None)
    if light_out_s is not None and values["hold_s"] is not None:
        seen["clear_s"] = light_out_s - values["hold_s"]
        if seen["clear_s"] < 0:
            keys.fault("light_out_s", "must not be before finger up, hold_s")

    def build() -> ObservedRun:
        observed = Observed(**seen)
        if observed.is_empty:
            raise InvalidFile({"frames": "or another observation must be there"})
        setup = setup_of(body, **values)
        return ObservedRun(
            scenario=setup.scenario, sources=setup.sources, figures=setup.figures,
            observed=observed, method=Method(method), name=name,
        )  # fmt: skip

    return keys.build(build)
