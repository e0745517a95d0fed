"""No request takes long or much: every address, with the largest kit that somebody may have."""

import gc
import io
import json
import struct
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import timedelta
from functools import partial
from pathlib import Path
from typing import Any, ClassVar
from uuid import uuid4

import av
import numpy as np
from django.core.cache import caches
from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import HttpRequest, HttpResponse
from django.test import Client, TestCase, modify_settings
from django.urls import reverse
from django.utils import timezone

from accounts.models import User
from bench.models import Run
from engine.day.frames_taken import FramesTaken
from engine.day.presses import MOST_PRESSES
from engine.measurement.picture_files import HEAD_BYTES
from engine.practice.presses import MOST_IN_A_RUN
from engine.practice.subject_run import RUNS as RUNS_OF_SESSION
from engine.selection.steps import load
from engine.uncertainty.intervals import KEPT
from engine.uncertainty.sensitivity import too_close_to_call, widest_input
from kit import importing, sample
from kit.document import document_of
from kit.kit_file import Entry
from kit.models import Body, Card
from ondata.tests.test_isolation import patterns
from outings.models import MOST_FRAMES_KEPT, MOST_NOTES, FieldNote, Outing, OutingDay
from outings.plans.cards import MOST_FURTHER
from outings.records.field_notes import MOST_AT_ONCE
from practice.models import MOST_SESSIONS, PracticeRun, PracticeSession
from practice.playing import Playing
from setups.kit import _kept_kit
from table.body_table import table_of

MOST_CPU_S = 2.0
MOST_BYTES = 300_000_000
PEAK_ANEW = Path("/proc/self/clear_refs")
CARDS, BODIES, RUNS = 1_500, 100, 600
PROBE_S = 0.05  # that `slower` takes where these limits were measured


def slower() -> float:
    """How many times slower than there this machine computes just now; 1 at least."""
    start_s, number = time.process_time(), 0
    for n in range(950_000):
        number += n & 3
    return max(1.0, (time.process_time() - start_s) / PROBE_S)


def forget() -> None:
    """Drops what this process keeps: a request is then as dear as when it was asked first."""
    for kept in (_kept_kit, table_of, too_close_to_call, widest_input):
        kept.cache_clear()
    KEPT.clear()
    for kept in caches.all():
        kept.clear()


@dataclass
class Cost:
    """What a request took."""

    cpu_s: float
    most_bytes: int


class Measured:
    """Middleware that notes what each request takes, with all that its answer streams."""

    costs: ClassVar[list[Cost]] = []

    def __init__(self, respond: Callable[[HttpRequest], HttpResponse]) -> None:
        self.respond = respond

    def __call__(self, request: HttpRequest) -> HttpResponse:
        gc.collect(1)  # of what the request before has left, not of all that is kept
        PEAK_ANEW.write_text("5")  # by proc(5)
        before_bytes, start_s = memory_bytes("VmRSS"), time.process_time()
        response = self.respond(request)
        if response.streaming:
            response = HttpResponse(b"".join(response), status=response.status_code)
        taken_s = time.process_time() - start_s
        self.costs.append(Cost(taken_s, memory_bytes("VmHWM") - before_bytes))
        return response


def memory_bytes(what: str) -> int:
    """What this process takes of the machine's memory now (VmRSS), or has at most (VmHWM)."""
    lines = Path("/proc/self/status").read_text().splitlines()
    [line] = [line for line in lines if line.startswith(what)]
    return 1_024 * int(line.split()[1])


@modify_settings(MIDDLEWARE={"prepend": "ondata.tests.test_costs.Measured"})
class Costs(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()
        load()
        cls.ann = User.objects.create(email="ann@example.org")
        card = document_of(Card.objects.get(owner=None, slug="gravelock-tide-512"))
        body = document_of(Body.objects.get(owner=None, slug="varnholt-vx-3"))
        entries = [
            Entry("cards", str(n), card | {"slug": f"c{n}", "label": f"{n}", "log": [],
                                           "sustained_write_mb_s": 20 + n / 10})
            for n in range(CARDS)
        ] + [
            Entry("bodies", str(n), body | {"slug": f"b{n}", "firmware": f"{n}"})
            for n in range(BODIES)
        ]  # fmt: skip
        pending = importing.receive(cls.ann, "kit.json", entries)
        while not pending.checked:
            importing.check_next(pending)
        importing.ask_to_save(pending.pk)
        importing.save(pending.pk)
        tested = Body.objects.get(owner=cls.ann, slug="b0")
        Run.objects.bulk_create(
            Run(owner=cls.ann, body=tested, setup=f"body=b0&card1=c{n}&hold=6", method="files",
                frames=60 + n % 30, frames_at_full_speed=60, clear_s=5,
                strokes_s=[place / 20 for place in range(300)],
                predicted={"frames": [50, 70, 90], "clear_s": [1, 5, 9]})
            for n in range(RUNS)
        )  # fmt: skip

        day = FramesTaken.of([(n / 20, 30.0) for n in range(MOST_PRESSES)], 0.01)
        outing = Outing.objects.create(pk=Run.objects.first().pk, owner=cls.ann, name="A long day")
        OutingDay.objects.create(
            outing=outing, setup="body=b0", start_s=0, decimals=2, frames=MOST_PRESSES, mb=30,
            times_s=day.times_s.tolist(), sizes_mb=day.mb.tolist(),
        )  # fmt: skip
        in_bursts = [n // 20 * 30 + n % 20 / 20 for n in range(MOST_PRESSES)]
        for number in range(MOST_FRAMES_KEPT // MOST_PRESSES - 1):
            OutingDay.objects.create(
                outing=Outing.objects.create(owner=cls.ann, name=f"Long day {number}"),
                setup="body=b0", start_s=0, decimals=2, frames=MOST_PRESSES, mb=30,
                times_s=in_bursts, sizes_mb=day.mb.tolist(),
            )  # fmt: skip
        FieldNote.objects.bulk_create(
            FieldNote(outing=outing, key=uuid4(), kind="swap", at_s=n, card=f"c{n % CARDS}")
            for n in range(MOST_NOTES)
        )

        cls.keep_practice()

    @classmethod
    def keep_practice(cls) -> None:
        """As many sessions as are kept, and one with the quickest camera and fingers there are."""
        setup = {"frame_rate_fps": 1_000, "hold_s": 1, "memory_mb": 1_000_000,
                 "files": [{"name": "raw", "mb": 0.5}], "slots": [{"write_mb_s": 400}],
                 "resume_free_frames": 9}  # fmt: skip
        of_all = {"owner": cls.ann, "subject": "gannet", "setup": "body=b0", "name": "quickest",
                  "scenario": json.dumps(setup), "first_level": 20, "seed": 5}  # fmt: skip
        quickest = PracticeSession.objects.create(pk=Run.objects.first().pk, **of_all)
        sessions = PracticeSession.objects.bulk_create(
            PracticeSession(**of_all) for _ in range(MOST_SESSIONS - 1)
        )
        of_run = {"level": 20, "frames": 9, "kept": 5, "possible": 9}
        PracticeRun.objects.bulk_create(
            PracticeRun(session=one, number=number, presses=[[1, 3]], **of_run)
            for one in sessions for number in range(1, RUNS_OF_SESSION + 1)
        )  # fmt: skip
        days = [timezone.now() - timedelta(days=n) for n in range(MOST_SESSIONS)]
        for one, day in zip(sessions, days, strict=False):
            one.made_at = day
        PracticeSession.objects.bulk_update(sessions, ["made_at"])
        presses = [[n / 18, 0.05] for n in range(MOST_IN_A_RUN)]
        PracticeRun.objects.bulk_create(
            PracticeRun(session=quickest, number=number, presses=presses, **of_run)
            for number in range(1, RUNS_OF_SESSION)
        )

    def asked(self) -> Iterator[tuple[str, dict[str, Any]]]:
        """Every address with the dearest set-up, and what else makes some of them dear."""
        hardest = {"body": "b0", "hold": "20", "fps": "30"}
        run = Run.objects.first()
        for pattern in patterns():
            names = pattern.pattern.converters.keys()
            for slug in ("b0", "c0") if "slug" in names else ("",):
                for form in ("json", "csv") if "form" in names else ("",):
                    values = {"pk": run.pk, "kind": "cards", "slug": slug, "form": form,
                              "token": "guess", "uidb64": "x", "name": "files.csv"}  # fmt: skip
                    address = reverse(pattern.name, kwargs={name: values[name] for name in names})
                    yield address, hardest
        for name in ("desk", "compare", "table"):  # each in bodies that nobody has asked for yet
            place = 10 * len(name)
            pins = [f"body=b{place + n % 9}&hold={600 - n % 99}" for n in range(1_000)]
            yield reverse(name), {"pin": pins}
        yield reverse("choose"), {**hardest, "lasts": "20", "every": "21", "minutes": "120"}
        for name in ("table", "table-csv", "table-json"):
            yield reverse(name), {**hardest, "rates": "all", "ways": "all", "hold": "6"}
        for name in ("shutter.wav", "pictures.zip", "files.csv"):
            asked = {**hardest, "seed": "7", "hold": "100"}
            yield reverse("stand-in-file", args=[name]), asked

        quickest = PracticeSession.objects.get(pk=Run.objects.first().pk)
        strokes = reverse("practice-strokes", args=[quickest.pk])
        yield (
            strokes,
            {"presses": ",".join(f"{n / 18}-{n / 18 + 0.05}" for n in range(MOST_IN_A_RUN - 5))},
        )

    def hostile(self) -> Iterator[tuple[str, dict[str, Any]]]:
        """What costs most of all that can be sent."""
        quickest = PracticeSession.objects.get(pk=Run.objects.first().pk)
        ends_s = Playing(quickest).subject_run(RUNS_OF_SESSION).ends_s
        presses = [[n / 18, n / 18 + 0.05] for n in range(MOST_IN_A_RUN - 5)]
        played = {"number": RUNS_OF_SESSION, "presses": json.dumps(presses), "lasted_s": ends_s}
        yield reverse("practice-run", args=[quickest.pk]), played
        lines = "\n".join(f"IMG_{n:05}.RAW,{n / 20:.2f},30" for n in range(20_000))
        yield reverse("bench-files"), {"table": lines}
        yield reverse("replay"), {"setup": "body=b0", "table": lines}
        yield reverse("outing-keep"), {"setup": "body=b0", "table": lines, "name": "One more"}
        objects = [
            {"time": f"{n / 20:.2f}", "mb": 30, **dict.fromkeys(range(20), "x")}
            for n in range(19_000)
        ]
        file = SimpleUploadedFile("a.json", json.dumps(objects).encode())
        yield reverse("replay"), {"setup": "body=b0", "file": file}
        for minutes, bursts, hold_s in ((2_400, 95, 0.5), (2_880, 12, 4), (600, 390, 0.05)):
            period = {"name": "x", "minutes": minutes, "bursts_an_hour": bursts, "hold_s": hold_s}
            day = {"setup": "body=b0", "periods-TOTAL_FORMS": 1, "periods-INITIAL_FORMS": 0}
            day |= {f"periods-0-{key}": value for key, value in period.items()}
            yield reverse("plan"), day | {"periods-0-long_hold_s": 2 * hold_s}
            # A card of another kind each time, all of them full before the day is over.
            kinds: dict[str, Any] = {"further-TOTAL_FORMS": MOST_FURTHER, "rooms1": "1"}
            for number in range(MOST_FURTHER):
                kinds[f"further-{number}-card"] = f"1/c{number}"
                kinds[f"further-{number}-rooms"] = f"{100 * number}"
            yield reverse("plan"), day | kinds | {"further-INITIAL_FORMS": 0}
        noted = [{"key": uuid4().hex, "kind": "burst", "at_s": n} for n in range(MOST_AT_ONCE)]
        address = reverse("outing-field-keep", args=[Run.objects.first().pk])
        yield address, {"notes": json.dumps(noted)}
        yield reverse("outing-keep-with"), {"setup": "body=b0", "table": lines, "outing": "1"}
        yield reverse("outing-runs", args=[Run.objects.first().pk]), {}
        singles = "\n".join(f"S_{n:05}.RAW,{9 * n:.2f},30" for n in range(-15_000, 0))
        yield reverse("replay"), {"setup": "body=b0", "table": f"{singles}\n{lines[:200_000]}"}
        days = [
            {"name": f"From a file {n}", "field_notes": [
                {"key": str(uuid4()), "kind": "burst", "at_s": n} for n in range(250)
             ], "day": {
                "setup": "body=b0", "start_s": n, "decimals": 2, "frames": 1, "mb": 1,
                "times_s": [m / 10 for m in range(17_000)], "sizes_mb": [30.5] * 17_000,
            }}
            for n in range(11)
        ]  # fmt: skip
        outings = json.dumps({"ondata_outings": 1, "outings": days}).encode()
        yield reverse("outings-receive"), {"file": SimpleUploadedFile("o.json", outings)}
        strokes = " ".join(f"{n / 70:.3f}" for n in range(20_000))
        yield reverse("bench-sound"), {"times": strokes}
        yield reverse("bench-sound"), {"sound": SimpleUploadedFile("a.flac", long_sound())}
        heads = [SimpleUploadedFile("a.tif", hostile_tiff()) for _ in range(20)]
        yield reverse("bench-heads"), {"head": heads, "size": ["99"] * 20}
        of_log = {"body": "b0", "method": "typed"}
        rows = "hold;frames\n" + "6;40\n" * 700_000
        yield reverse("bench-lines"), of_log | {"file": SimpleUploadedFile("a.csv", rows.encode())}
        runs = json.dumps([{"hold_s": 6, "frames": 40}] * 100_000).encode()
        yield reverse("bench-lines"), of_log | {"file": SimpleUploadedFile("a.json", runs)}

    def test_every_address_is_cheap_with_the_largest_kit(self) -> None:
        client = Client()
        client.force_login(self.ann)
        for address, query in self.asked():
            self.check(address, query, partial(client.get, address, query), again=True)
        for address, data in self.hostile():
            self.check(address, list(data), partial(client.post, address, data))

    def check(
        self, address: str, what: object, ask: Callable[[], Any], *, again: bool = False
    ) -> None:
        """`again`: what seems too dear is asked once more before it is called so.

        A machine that others slow down for a second makes a request dearer, and never cheaper.
        """
        cost, most_cpu_s = self.measured(ask)
        if again and (cost.cpu_s >= most_cpu_s or cost.most_bytes >= MOST_BYTES):
            forget()
            cost, most_cpu_s = self.measured(ask)
        with self.subTest(address, what=str(what)[:100], cost=cost):
            self.assertLess(cost.most_bytes, MOST_BYTES)
            self.assertLess(cost.cpu_s, most_cpu_s)

    def measured(self, ask: Callable[[], Any]) -> tuple[Cost, float]:
        """What it takes, and the most CPU seconds that it may take on the machine as it is now."""
        Measured.costs.clear()
        before = slower()
        ask()
        [cost] = Measured.costs
        return cost, MOST_CPU_S * max(before, slower())


def long_sound() -> bytes:
    """Five minutes at 192 kHz, as much as is looked through at all, in as few bytes as it takes."""
    file, rate_hz = io.BytesIO(), 192_000
    second = np.zeros((1, rate_hz), dtype=np.int16)
    second[0, :: rate_hz // 20] = 20_000
    with av.open(file, "w", format="flac") as container:
        stream = container.add_stream("flac", rate=rate_hz, layout="mono")
        for _ in range(300):
            frame = av.AudioFrame.from_ndarray(second, format="s16", layout="mono")
            frame.sample_rate = rate_hz
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return file.getvalue()


def hostile_tiff() -> bytes:
    """As many tags as the first part of a file may have, each of many values."""
    count = 21_000
    tags = b"".join(struct.pack("<HHII", tag, 2, 200_000, 8) for tag in range(count))
    whole = b"II*\0" + struct.pack("<IH", 8, count) + tags
    return whole[:HEAD_BYTES].ljust(HEAD_BYTES, b"\0")
