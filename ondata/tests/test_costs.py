"""No request takes long or much: every address, with the largest kit that somebody may have."""

import gc
import time
import tracemalloc
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import ClassVar

from django.http import HttpRequest, HttpResponse
from django.test import Client, TestCase, modify_settings
from django.urls import reverse

from accounts.models import User
from bench.models import Run
from engine.selection.steps import load
from kit import importing, sample
from kit.document import document_of
from kit.kit_file import Entry
from kit.models import Body, Card
from ondata.tests.test_isolation import patterns

MOST_CPU_S = 2.0
MOST_BYTES = 300_000_000
CARDS, BODIES, RUNS = 1_500, 100, 600


@dataclass
class Cost:
    """What a request took."""

    cpu_s: float
    most_bytes: int


class Measured:
    """Middleware that notes what each request takes, with all that its answer streams."""

    costs: ClassVar[list[Cost]] = []
    counts_memory = False

    def __init__(self, respond: Callable[[HttpRequest], HttpResponse]) -> None:
        self.respond = respond

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if self.counts_memory:
            gc.collect()
            tracemalloc.start()
        start_s = time.process_time()
        response = self.respond(request)
        if response.streaming:
            response = HttpResponse(b"".join(response), status=response.status_code)
        taken_s = time.process_time() - start_s
        most_bytes = tracemalloc.get_traced_memory()[1] if self.counts_memory else 0
        tracemalloc.stop()
        self.costs.append(Cost(taken_s, most_bytes))
        return response


@modify_settings(MIDDLEWARE={"prepend": "ondata.tests.test_costs.Measured"})
class Costs(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()
        load()
        cls.ann = User.objects.create(email="ann@example.org")
        card = document_of(Card.objects.get(owner=None, slug="tarn-90-128"))
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

    def asked(self) -> Iterator[tuple[str, dict[str, str]]]:
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
        for name in ("table", "table-csv", "table-json"):
            yield reverse(name), {**hardest, "rates": "all", "ways": "all", "hold": "6"}
        for name in ("shutter.wav", "pictures.zip", "files.csv"):
            asked = {**hardest, "seed": "7", "hold": "100"}
            yield reverse("stand-in-file", args=[name]), asked

    def test_every_address_is_cheap_with_the_largest_kit(self) -> None:
        client = Client()
        client.force_login(self.ann)
        for address, query in self.asked():
            Measured.costs.clear()
            client.get(address, query)
            print(f"{Measured.costs[0].cpu_s:6.2f} {address} {query}")
