"""The learn file: a body, cards, runs and questions in, figures and predictions out.

docs/formats.md describes it key by key.
"""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from functools import partial
from typing import Any

from engine.burst import scenario as limits
from engine.burst.scenario import ARRANGEMENTS, COUPLINGS, File
from engine.estimates.file_sizes import MEGAPIXELS, FormatKind
from engine.figures.figure import Figure
from engine.figures.uncertainty import EXACT, PRINTED, Uncertainty
from engine.json_keys import SPREAD, InvalidFile, Keys, json_object
from engine.measurement.assumed import (
    AssumedBody,
    AssumedCard,
    AssumedFormat,
    AssumedSetup,
    AssumedSlot,
    setup_of,
)
from engine.measurement.learning import learn
from engine.measurement.learnt import Learnt, LearntFigure
from engine.measurement.runs import CLEAR_S, FILES_MB, FRAMES, Method, Observed, Run
from engine.quantities import WRITE_MB_S, Range

WHOLE_FILE = "The learn file"
MOST_RUNS, MOST_QUESTIONS = 60, 200
MOST_FRAMES = 100_000  # due in all runs together
DEFAULT_SOURCE: Uncertainty = PRINTED
NO_SOURCES: dict[str, Uncertainty] = {}
NO_BODY: dict[str, Any] = {}
NO_COUPLINGS: dict[str, Any] = {}
FILE_TO_FILE = 0.1


@dataclass(frozen=True)
class LearnFile:
    """What is assumed, what was seen, and what is asked."""

    body: AssumedBody
    runs: Sequence[Run]
    questions: Sequence[AssumedSetup]


def read_learn_file(text: str) -> LearnFile:
    """The learn file that `text` is. Raises :class:`InvalidFile` with every fault."""
    keys = Keys(json_object(text, WHOLE_FILE))
    known = keys.optional_part("body", _read_body, NO_BODY)
    cards = keys.parts("cards", _read_card) if "cards" in keys.values else ()
    if not known and not keys.faults:
        keys.fault("body", "is missing")
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
    learnt = Learnt(file.runs, learn(file.runs))
    return {
        "figures": {
            name: _figure_values(figure, learnt.assumed[name])
            for name, figure in learnt.figures.items()
        },
        "coupling": {name.split(" ", 1)[1]: odds for name, odds in learnt.odds.items()},
        "runs": [
            {"misfits": misfits, "flagged": place in learnt.wild}
            for place, misfits in enumerate(learnt.misfits)
        ],
        "predictions": [
            asdict(learnt.predict(one.scenario, one.sources, one.figures)) for one in file.questions
        ],
    }


def _figure_values(figure: LearntFigure, assumed: float) -> dict[str, Any]:
    return {
        "low": figure.low * assumed,
        "middle": figure.middle * assumed,
        "high": figure.high * assumed,
        "before": {"low": figure.low_before * assumed, "high": figure.high_before * assumed},
    }


def _known(
    keys: Keys, sources: Mapping[str, Uncertainty], key: str, allowed: Range
) -> Figure | None:
    value = keys.number(key, allowed, None)
    return None if value is None else Figure(float(value), sources.get(key, DEFAULT_SOURCE))


def _read_named_sources(keys: Keys) -> dict[str, Uncertainty]:
    return {key: keys.source(key) for key in list(keys.values)} | keys.build(dict)


def _read_file(keys: Keys) -> File:
    return keys.build(File, name=keys.text("name", "file"), mb=keys.number("mb", limits.FILE_MB))


def _read_format(keys: Keys) -> AssumedFormat:
    name = keys.text("name")
    sources = keys.optional_part("sources", _read_named_sources, NO_SOURCES)
    files = keys.parts("files", _read_file) if "files" in keys.values else ()
    if not files and name not in list(FormatKind):
        kinds = ", ".join(FormatKind)
        keys.fault("files", f"must be there, or name one of {kinds}, whose size is estimated")
    never_waits = keys.values.get("process_fps", 0) is None
    return keys.build(
        AssumedFormat,
        name=name,
        files=files,
        files_uncertainty=sources.get("files", DEFAULT_SOURCE),
        file_to_file=keys.number("file_to_file", SPREAD, FILE_TO_FILE),
        held=_known(keys, sources, "held_mb", limits.HELD_MB),
        encoder=_known(keys, sources, "process_fps", limits.PROCESS_FPS),
        never_waits=never_waits,
    )


def _read_slot(keys: Keys) -> AssumedSlot:
    sources = keys.optional_part("sources", _read_named_sources, NO_SOURCES)
    overhead = _known(keys, sources, "overhead_s", limits.OVERHEAD_S)
    limit = _known(keys, sources, "slot_limit_mb_s", WRITE_MB_S)
    bus_mb_s = keys.number("bus_mb_s", WRITE_MB_S, None)
    if limit is None and bus_mb_s is None:
        keys.fault("bus_mb_s", "must be there, or slot_limit_mb_s")
    return keys.build(
        AssumedSlot, bus_mb_s=bus_mb_s, limit=limit, overhead=overhead or Figure(0.0, EXACT)
    )


def _read_card(keys: Keys) -> AssumedCard:
    sources = keys.optional_part("sources", _read_named_sources, NO_SOURCES)
    return keys.build(
        AssumedCard,
        name=keys.text("name"),
        write=_known(keys, sources, "write_mb_s", WRITE_MB_S),
    )


def _read_rate(keys: Keys) -> tuple[float, Any]:
    fps = keys.number("fps", limits.FRAME_RATE_FPS)
    source = keys.source("source") if "source" in keys.values else DEFAULT_SOURCE
    return keys.build(lambda: (float(fps), source))


def _read_couplings(keys: Keys) -> dict[str, Any]:
    return keys.build(dict, **{
        kind: keys.word(kind, COUPLINGS, "parallel")
        for kind in ARRANGEMENTS
        if kind in keys.values
    })  # fmt: skip


def _read_body(keys: Keys) -> dict[str, Any]:
    sources = keys.optional_part("sources", _read_named_sources, NO_SOURCES)
    megapixels = keys.number("megapixels", MEGAPIXELS, None)
    formats = keys.parts("formats", _read_format)
    rates, slots = keys.parts("rates", _read_rate), keys.parts("slots", _read_slot)
    for name, found in (("formats", formats), ("rates", rates)):
        if not found and not keys.faults:
            keys.fault(name, "must have at least one")
    if not 1 <= len(slots) <= limits.MOST_SLOTS and not keys.faults:
        keys.fault("slots", f"must be 1 or {limits.MOST_SLOTS}")
    if megapixels is None and any(not one.files for one in formats):
        keys.fault("megapixels", "must be there, as a format has no size")
    return keys.build(
        dict,
        formats={one.name: one for one in formats},
        rates=dict(rates),
        slots=slots,
        memory=_known(keys, sources, "memory_mb", limits.MEMORY_MB),
        megapixels=megapixels,
        resume_free_frames=keys.whole_number("resume_free_frames", limits.RESUME_FREE_FRAMES, 1),
        couplings=keys.optional_part("coupling", _read_couplings, NO_COUPLINGS),
    )


def _setup_values(keys: Keys) -> dict[str, Any]:
    cards = keys.values.pop("cards", [])
    if not isinstance(cards, list) or not all(isinstance(name, str) for name in cards):
        keys.fault("cards", "must be a list of names")
    return {
        "format_name": keys.text("format"),
        "frame_rate_fps": keys.number("fps", limits.FRAME_RATE_FPS),
        "card_names": cards,
        "arrangement": keys.word("arrangement", ARRANGEMENTS, "single"),
        "hold_s": keys.number("hold_s", limits.HOLD_S),
    }


def _read_setup(body: AssumedBody, keys: Keys) -> AssumedSetup:
    values = _setup_values(keys)
    return keys.build(partial(setup_of, body), **values)


def _read_run(body: AssumedBody, keys: Keys) -> Run:
    values = _setup_values(keys)
    method = keys.word("method", list(Method), Method.TAP)
    name = keys.text("name", "")
    flags = {flag: keys.values.pop(flag, False) for flag in ("did_not_slow", "full_speed_tapped")}
    for flag, value in flags.items():
        if not isinstance(value, bool):
            keys.fault(flag, "must be true or false")
    clear_s = keys.number("clear_s", CLEAR_S, None)
    light_out_s = keys.number("light_out_s", CLEAR_S, None)
    if light_out_s is not None and values["hold_s"] is not None:
        clear_s = light_out_s - values["hold_s"]
        if clear_s < 0:
            keys.fault("light_out_s", "must not be before finger up, hold_s")
    seen = {
        "frames_at_full_speed": keys.whole_number("frames_at_full_speed", FRAMES, None),
        "frames": keys.whole_number("frames", FRAMES, None),
        "frame_rate_fps": keys.number("frame_rate_fps", limits.FRAME_RATE_FPS, None),
        "files_mb": keys.number("files_mb", FILES_MB, None),
    }

    def build() -> Run:
        observed = Observed(**seen, **flags, clear_s=clear_s)
        if observed.is_empty:
            raise InvalidFile({"frames": "or another observation must be there"})
        setup = setup_of(body, **values)
        return Run(
            scenario=setup.scenario, sources=setup.sources, figures=setup.figures,
            observed=observed, method=Method(method), name=name,
        )  # fmt: skip

    return keys.build(build)
