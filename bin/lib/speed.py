"""Times the engine against its SimPy twin, changes of the Desk, and the kit; run by bin/bench."""

import resource
import statistics
import time
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from itertools import product

import django
import numpy as np
from c_loop import ns_a_frame
from more_itertools import consume

from engine import File, LoadedSlot, Scenario
from engine.burst.arrangement import Arrangement
from engine.burst.result import Result
from engine.burst.scenario import ARRANGEMENTS, Coupling, Hold
from engine.burst.simulate import simulate
from engine.cards.label.parser import read_marks
from engine.day.frames_taken import FramesTaken, day_as_it_was
from engine.day.odds import SureSetup, draw_day
from engine.day.plan import Period, Plan, TakenCard
from engine.day.plan_simulation import named, simulate_plan
from engine.day.presses import MOST_PRESSES, Presses, shoot
from engine.day.replay import replay
from engine.figures.uncertainty import MEASURED_ELSEWHERE, MEASURED_HERE, PRINTED
from engine.quantities import NS_IN_S
from engine.selection.candidates import Camera, Candidate, CandidateSide, ShootingMode, SlotUse
from engine.selection.choice import Choice
from engine.selection.requirements import Need
from engine.selection.steps import choose
from engine.tests import simpy_twin
from engine.tests.builders import scenario
from engine.uncertainty.draws import Draws
from engine.uncertainty.intervals import KEPT, confidence
from engine.uncertainty.sensitivity import too_close_to_call, widest_input
from engine.uncertainty.sources import SlotSources, Sources
from engine.uncertainty.sweep import sweep

HTMX = {"HX-Request": "true"}
PRINTED_CARD = Sources(slots=(SlotSources(write_mb_s=PRINTED),))
FACE = "128 GB SDXC II U3 V60 C10 A1 280MB/s R 150MB/s W 1867x"


def milliseconds(act: Callable[[], object], times: int) -> list[float]:
    act()
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        act()
        taken.append((time.perf_counter() - start) * 1000)
    return sorted(taken)


def line(words: str, taken: list[float]) -> None:
    p95 = taken[int(0.95 * (len(taken) - 1))]
    print(f"{words:<62} median {statistics.median(taken):8.2f} ms   p95 {p95:8.2f} ms")


def engine() -> None:
    burst = scenario(hold_s=38.3)
    series = replace(
        scenario(hold_s=3, frame_rate_fps=20),
        later_holds=tuple(Hold(press_s=10 * number, hold_s=3) for number in range(1, 100)),
    )
    line("simulate, 100 bursts of 60 frames", milliseconds(partial(simulate, series), 20))
    long_burst = scenario(frame_rate_fps=120, hold_s=600, write_mb_s=6000, process_fps=121)
    for words, each, times in (("200 frames", burst, 200), ("10 min at 120 fps", long_burst, 20)):
        frames = simulate(each).frames
        line(f"simulate, {words} ({frames:,} frames)", milliseconds(partial(simulate, each), times))
        line("  the same, on SimPy", milliseconds(partial(on_simpy, each), 5))


def sweeps() -> None:
    """Every ordered pair of `cards` cards in two slots, 10 s at 20 fps, and how it grows."""
    of_c = ns_a_frame()
    print(f"the events of one slot in plain C, one core: {of_c:.1f} ns a frame")
    head = f"{'cards':>6} {'set-ups':>8} {'draws':>6} {'frames':>13} {'s':>7} {'ns a frame':>11}"
    print(f"{head} {'times C':>8}")
    for cards, draws in ((19, 20), (19, 200), (60, 20), (60, 200), (190, 20)):
        speeds_mb_s = np.geomspace(20, 1500, cards)  # from a slow SD card to a fast CFexpress
        setups = [
            scenario(
                slots=(LoadedSlot(write_mb_s=first), LoadedSlot(write_mb_s=second)),
                arrangement=Arrangement.MIRROR,
                memory_mb=1250, held_mb=55, process_fps=30, hold_s=10,
            )
            for first, second in product(speeds_mb_s, repeat=2)
        ]  # fmt: skip
        slots = (SlotSources(write_mb_s=MEASURED_ELSEWHERE), SlotSources(write_mb_s=MEASURED_HERE))
        unsure = Sources(
            slots=slots, files=MEASURED_HERE, file_to_file=0.1, memory_mb=MEASURED_HERE
        )
        sweep(setups[:1], [unsure], Draws(draws))
        start = time.perf_counter()
        taken = int(sweep(setups, [unsure] * len(setups), Draws(draws)).frames.sum())
        seconds = time.perf_counter() - start
        row = f"{cards:>6} {len(setups):>8,} {draws:>6,} {taken:>13,} {seconds:>7.2f}"
        print(f"{row} {seconds / taken * 1e9:>11.1f} {seconds / taken * 1e9 / of_c:>8.1f}")
    peak_mb = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000
    print(f"largest memory of this process so far: {peak_mb:.0f} MB")


def choices() -> None:
    """Every card and pair of two slots, in four arrangements and six formats, with ranges."""
    choose_among(4, "serial")  # loads what is compiled
    print(f"{'cards':>6} {'coupling':<9} {'options':>10} {'passing':>9} {'s':>7} {'MB':>6}")
    sizes_of: dict[Coupling, tuple[int, ...]] = {
        "parallel": (50, 100, 200, 400),
        "slowest": (200,),
        "serial": (50, 200),
    }
    for coupling, sizes in sizes_of.items():
        for cards in sizes:
            start = time.perf_counter()
            found = choose_among(cards, coupling).shortlist
            seconds = time.perf_counter() - start
            peak_mb = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000
            row = f"{cards:>6} {coupling:<9} {found.counted:>10,} {found.passing:>9,}"
            print(f"{row} {seconds:>7.2f} {peak_mb:>6.0f}")


def choose_among(cards: int, coupling: Coupling) -> Choice:
    camera = Camera(memory_mb=1250, uses=tuple(SlotUse(kind, coupling) for kind in ARRANGEMENTS))
    modes = [
        ShootingMode(
            name=f"{mb} MB", frame_rate_fps=20, files=(File(name="raw", mb=mb),), held_mb=55,
            process_fps=30, file_to_file=0.11)
        for mb in (50, 44, 38, 32, 26, 20)
    ]  # fmt: skip
    random = np.random.default_rng(1)
    speeds_mb_s = np.exp(random.uniform(np.log(20), np.log(1500), cards))
    candidates = [
        Candidate(
            key=str(number),
            sides=tuple(side_at(float(speed), cap_mb_s) for cap_mb_s in (880, 250)),
            price_cents=int(1_000 + 20 * speed * random.uniform(0.6, 1.6)),
            copy_mb_s=min(float(speed), 300),
        )
        for number, speed in enumerate(speeds_mb_s)
    ]
    need = Need(lasts_s=6, every_s=12, goes_on_min=20, full_rate_s=3, frames_a_day=3_000)
    return choose(camera, modes, candidates, need)


def side_at(speed_mb_s: float, cap_mb_s: float) -> CandidateSide:
    return CandidateSide(
        slot=LoadedSlot(write_mb_s=speed_mb_s, slot_limit_mb_s=cap_mb_s, free_mb=256_000),
        sources=SlotSources(write_mb_s=PRINTED, slot_limit_mb_s=MEASURED_HERE),
    )


def on_simpy(burst: Scenario) -> None:
    simpy_twin.Camera(burst).shoot()


def day() -> None:
    """A day of 2,000 bursts, one in twenty of them long, told from 20,000 pictures and replayed."""
    body = scenario()
    holds_s = [4.0 if number % 20 == 0 else 0.35 for number in range(2_000)]
    presses = Presses.of(
        [Hold(press_s=15 * number, hold_s=hold_s) for number, hold_s in enumerate(holds_s)]
    )
    taken_ns = shoot(body, presses).taken_ns[:MOST_PRESSES]
    pictures = [(round(one / NS_IN_S, 2), 50.0) for one in taken_ns.tolist()]
    of_files = partial(FramesTaken.of, pictures, 0.01)
    words = f"a day told from {len(pictures):,} pictures"
    line(words, milliseconds(lambda: day_as_it_was(body, of_files()), 5))
    was = day_as_it_was(body, of_files())
    line(
        f"  its {len(was.bursts):,} bursts replayed",
        milliseconds(lambda: replay(body, was.presses, was.first_presses), 20),
    )
    set_ups = [
        SureSetup(scenario(write_mb_s=200 + 20 * number), PRINTED_CARD) for number in range(10)
    ]
    start = time.perf_counter()
    for one in set_ups:
        draw_day(one, was.presses, was.first_presses, 200)
    print(f"  on 10 set-ups in 200 draws {time.perf_counter() - start:>38.1f} s")
    busy = Period(name="busy", minutes=480, bursts_an_hour=250, hold_s=0.6, long_hold_s=2)
    plan = Plan(periods=[busy], cards=[[TakenCard(500_000)]])
    line(
        "a plan of 2,000 bursts on 200 days",
        milliseconds(lambda: simulate_plan(plan, named({"": set_ups[0]})), 3),
    )


def desk() -> None:
    from django.test import Client

    from kit.models import Body

    client = Client(SERVER_NAME="localhost")

    def change(address: dict[str, str]) -> None:
        KEPT.clear()  # as if nobody had asked for it before
        for kept in (too_close_to_call, widest_input):
            kept.cache_clear()
        response = client.get("/", address, headers=HTMX)
        if response.status_code != 200:
            raise RuntimeError(f"the Desk answered {response.status_code}")

    taken: list[float] = []
    for body, hold in product(Body.objects.filter(owner=None).ready_to_shoot(), ("1", "6", "30")):
        for recording in body.formats.all():
            address = {"body": body.slug, "format": recording.slug, "hold": hold}
            taken += milliseconds(partial(change, address), 3)
    line(f"one change of the Desk ({len(taken)} requests)", sorted(taken))
    longest = {"format": "jpeg-normal", "fps": "120", "hold": "600"}
    line("  10 min at 120 fps", milliseconds(partial(change, longest), 20))
    for story in ("plunge-dive", "start"):
        asked = partial(client.get, "/choose/", {"story": story}, headers=HTMX)
        line(f"  Choose, {story}, evaluated before", milliseconds(asked, 20))
    size = len(client.get("/", longest).content)
    print(f"  its whole page: {size / 1000:.0f} kB")


def table() -> None:
    """The whole Table of the largest sample body, and one of 12 formats, 4 rates and 60 cards."""
    from django.contrib.auth import get_user_model
    from django.db import transaction
    from django.test import Client

    from kit import edit
    from kit.document import document_of
    from kit.models import Body, Card
    from setups.kit import Kit
    from setups.reader import read_address
    from table.body_table import BodyTable, table_of
    from table.cells import Lead

    client = Client(SERVER_NAME="localhost")

    def asked(**query: str) -> None:
        KEPT.clear()
        table_of.cache_clear()
        client.get("/table/", query, headers=HTMX)

    line("the Table, seven formats on every card", milliseconds(asked, 10))
    with transaction.atomic():
        owner = get_user_model().objects.create(email="bench@example.org")
        body = document_of(Body.objects.get(owner=None, slug="varnholt-vx-3"))
        formats = [body["formats"][n % 7] | {"slug": f"f{n}", "name": f"f{n}"} for n in range(12)]
        rates = [{"fps": fps, "source": "printed"} for fps in (20, 15, 10, 5)]
        modes = [{"name": "electronic", "frame_rates": rates}]
        edit.add(Body, owner, body | {"formats": formats, "shutter_modes": modes})
        card = document_of(Card.objects.get(owner=None, slug="gravelock-tide-256"))
        for number in range(56):
            speed = {"sustained_write_mb_s": 100 + 9 * number}
            edit.add(Card, owner, card | speed | {"label": f"{number}"})
        start = time.perf_counter()
        reading = read_address({}, Kit(owner))
        assert reading is not None  # noqa: S101 - a body has just been added
        whole = BodyTable(reading, Lead.FULL_SPEED, with_rates=True, with_arrangements=True)
        cells = sum(cell is not None for row in whole.rows for cell in row.cells)
        print(f"{cells:,} cells, sorted {time.perf_counter() - start:>39.1f} s")
        start = time.perf_counter()
        consume(whole.batches())
        print(f"  all their ranges {time.perf_counter() - start:>48.1f} s")
        transaction.set_rollback(True)


def six_answers() -> None:
    """How well bodies estimated from six answers predict what the sample bodies do."""
    from django.contrib.auth.models import AnonymousUser

    from camera.document import body_document
    from engine.cards.standards import CEILING_MB_S, Bus, Form
    from engine.estimates.body import Answers, estimated
    from engine.estimates.file_sizes import FormatKind, KnownSize
    from engine.estimates.memory import Claim
    from kit.detached import detached
    from kit.models import Body
    from setups.engine_adapter import scenario_of, sources_of
    from setups.kit import Kit
    from setups.reader import read_address
    from setups.setup import Setup

    kit = Kit(AnonymousUser())
    errors, inside, counted = [], 0, 0
    for body in kit.bodies:
        reading = read_address({"body": body.slug}, kit)
        if reading is None:
            continue
        side = reading.all_sides[0]
        of_kind = {FormatKind(f.name): f for f in body.formats.all() if f.name in set(FormatKind)}
        fps = reading.setup.rate.fps
        first = next(iter(of_kind))
        cards = sorted(side.cards, key=side.usable_mb_s, reverse=True)

        def shot(setup: Setup, hold_s: float) -> Result:
            return simulate(scenario_of(replace(setup, hold_s=hold_s)))

        alone = replace(reading.setup, sides=(side,), arrangement=None)
        best = replace(alone, sides=(side.with_card(cards[0]),), recording=of_kind[first])
        depth = shot(best, 60).frames_at_full_speed
        slots = [[(Form(one.form), Bus(one.bus)) for one in slot.accepted_forms.all()]
                 for slot in body.slots.all()]  # fmt: skip
        answers = Answers(
            frame_rates_fps=(fps,),
            known=KnownSize(first, of_kind[first].files.all()[0].file_mb),
            buses=tuple(
                max((bus for _, bus in slot), key=lambda bus: CEILING_MB_S[bus]) for slot in slots
            ),
            formats=tuple(of_kind),
            claim=Claim(frames=depth, kind=first, frame_rate_fps=fps) if depth else None,
        )
        document = body_document("Estimated body", {"any": fps}, slots, estimated(answers))
        guessed = detached(Body(slug="estimated"), document)
        slot = guessed.slots.all()[0]
        for recording in guessed.formats.all():
            for card in cards:
                true = shot(replace(alone, recording=of_kind[FormatKind(recording.name)],
                                    sides=(side.with_card(card),)), 20)  # fmt: skip
                mine = replace(side.with_card(card), slot=slot, fits={})
                setup = replace(
                    alone, body=guessed, recording=recording, sides=(mine,), hold_s=20.0
                )
                ranges = confidence(scenario_of(setup), sources_of(setup))
                low, high = ranges.frames.low, ranges.frames.high
                counted += 1
                inside += low is not None and high is not None and low <= true.frames <= high
                errors.append(abs((ranges.frames.middle or 0) / true.frames - 1))
    errors.sort()
    error = f"median error of the frames {100 * errors[counted // 2]:.0f} %"
    print(f"six answers, {counted} bursts: {error}, {100 * inside / counted:.0f} % in the range")


def bench() -> None:
    """Learning from runs, the files of a day, and a minute of sound."""
    from recovery import random_body, run_of, setups

    from engine.measurement.capture_times import find_bursts
    from engine.measurement.learning import learn
    from engine.measurement.learnt import LearntBody
    from engine.measurement.picture_files import HEAD_BYTES, read_picture
    from engine.measurement.runs import Method
    from engine.measurement.shutter_sounds import hear
    from engine.measurement.synthetic_camera import (
        SAMPLE_RATE_HZ,
        jpeg_of,
        shots,
        shutter_sound,
    )
    from engine.tests.stand_in_runs import stand_in_runs

    body = random_body(np.random.default_rng(4))
    for count in (3, 10, 30):
        plan = [run_of(one, Method.TAP) for one in (setups(body, 8.0) * count)[:count]]
        _, runs = stand_in_runs(plan, 1)
        start = time.perf_counter()
        learnt = LearntBody(runs, learn(runs))
        _ = learnt.figures
        print(f"learn, {count:>2} runs {time.perf_counter() - start:>46.1f} s")
    burst = simulate(scenario(hold_s=100, frame_rate_fps=20))
    day = list(shots(burst))
    heads = [(one.name, jpeg_of(one.moment, HEAD_BYTES), one.size_bytes) for one in day[:200]]
    each = milliseconds(lambda: [read_picture(*head) for head in heads], 3)
    print(f"first part of a file read {statistics.median(each) / len(heads):>33.2f} ms")
    pictures = [one.picture() for one in day] * (2_000 // len(day) + 1)
    line("2,000 files to bursts", milliseconds(lambda: find_bursts(pictures[:2_000]), 3))
    minute = shutter_sound(np.arange(1_800) / 30, snr_db=6)
    line("60 s of sound heard", milliseconds(lambda: hear([minute], SAMPLE_RATE_HZ), 5))
    for fps, noise_db in product((10, 20, 30, 40), (20, 6, 0)):
        moments = np.arange(4 * fps) / fps
        sound = shutter_sound(moments, fps, snr_db=noise_db)
        heard = np.array(hear([sound], SAMPLE_RATE_HZ).strokes_s)
        apart = np.abs(heard[:, None] - 0.5 - moments)
        found, false = (apart.min(0) < 0.01).sum(), (apart.min(1) > 0.01).sum()
        error_ms = 1_000 * float(np.std((heard[:, None] - moments)[apart < 0.01]))
        told = f"{found} of {len(moments)} found, {false} false, ± {error_ms:.2f} ms"
        print(f"sound, {fps} fps, {noise_db:>2} dB: {told}")


def kit() -> None:
    """Reading a face, five thousand cards from a file, and the screens with them; all undone."""
    from django.contrib.auth import get_user_model
    from django.db import transaction
    from django.test import Client

    from kit import importing
    from kit.kit_file import read_kit

    line("a card's face read", milliseconds(partial(read_marks, FACE), 200))
    with transaction.atomic():
        owner = get_user_model().objects.create(email="bench@example.org")
        for words, price in (("5,000 cards from a file, all new", 29), ("  all changed", 31)):
            start = time.perf_counter()
            pending = importing.receive(owner, "cards.csv", read_kit("cards.csv", cards_csv(price)))
            while not pending.checked:
                importing.check_next(pending)
            importing.ask_to_save(pending.pk)
            importing.save(pending.pk)
            print(f"{words:<62} {time.perf_counter() - start:15.1f} s")
        client = Client(SERVER_NAME="localhost")
        client.force_login(owner)
        for address in ("/cards/", "/fits/"):
            line(f"  {address} with them", milliseconds(partial(client.get, address), 10))
        transaction.set_rollback(True)


def cards_csv(price: int) -> bytes:
    header = "maker,name,form,bus,capacity_gb,sustained_write_mb_s,sustained_source,price,currency"
    rows = (f"Tarn,Shoal {n},SD,UHS-II,128,95,printed,{price},EUR" for n in range(5_000))
    return "\n".join([header, *rows]).encode()


django.setup()
engine()
choices()
sweeps()
day()
desk()
table()
six_answers()
kit()
bench()
