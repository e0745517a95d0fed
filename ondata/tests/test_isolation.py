"""Nobody sees or changes another's rows: every address of the site, for every kind of visitor."""

import json
from collections.abc import Iterator
from datetime import date, time
from uuid import uuid4

from django.contrib.auth.models import AnonymousUser
from django.core.signing import get_cookie_signer
from django.test import Client, TestCase
from django.urls import URLPattern, URLResolver, get_resolver, reverse
from django.utils import timezone

from accounts.guests import COOKIE, KEPT
from accounts.models import User
from bench.models import Run
from kit import edit, importing, sample
from kit.document import KINDS, document_of, with_parts
from kit.kit_file import Entry
from kit.models import Body, PendingImport, Reader, Revision
from kit.tests import builders
from outings.models import FieldNote, Outing, OutingDay, OutingPeriod, OutingPlan
from practice.models import PracticeRun, PracticeSession
from prices.models import ExchangeRate, PriceList
from sharing.models import Share, SharedScreen

SCENARIO = {"frame_rate_fps": 20, "hold_s": 1, "memory_mb": 1_200,
            "files": [{"name": "raw", "mb": 50}], "slots": [{"write_mb_s": 230}]}  # fmt: skip
SECRET = "Zanzibar"  # in the name of everything that Ann owns


def patterns(within: URLResolver | None = None) -> Iterator[URLPattern]:
    for one in (within or get_resolver()).url_patterns:
        if isinstance(one, URLResolver):
            yield from patterns(one)
        else:
            yield one


def guest() -> User:
    return User.objects.create(guest_until=timezone.now() + KEPT)


class Isolation(TestCase):
    roles = ("nobody", "bob")

    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()
        cls.ann = cls.owner()
        cls.bob = User.objects.create(email="bob@example.org")
        cls.visitors = {"nobody": None, "bob": cls.bob, "guest": guest()}
        builders.ready_body(owner=cls.ann, name=SECRET, slug="zanzibar")
        card = builders.saved(builders.card(owner=cls.ann, name=SECRET, slug="zanzibar"))
        reader = Reader(owner=cls.ann, name=SECRET, maker="Tarn", slug="zanzibar", port="USB 2")
        reader.save()
        edit.archive(card)
        edit.bring_back(card)
        cls.share = Share.objects.create(owner=cls.ann, card=card, screen=SharedScreen.CARD)
        cls.pending = importing.receive(
            cls.ann, f"{SECRET}.json", [Entry("cards", "1", {"name": SECRET})]
        )
        today = date(2026, 11, 1)
        cls.prices = PriceList.objects.create(owner=cls.ann, shop=SECRET, on=today)
        cls.rate = ExchangeRate.objects.create(
            owner=cls.ann, currency="ZNZ", against="EUR", rate=2, on=today
        )
        cls.of_bench = Run.objects.create(
            owner=cls.ann, body=Body.objects.get(slug="zanzibar"), setup="body=zanzibar",
            method="tap", frames=40, notes=SECRET,
        )  # fmt: skip
        cls.outing = Outing.objects.create(owner=cls.ann, name=SECRET)
        OutingDay.objects.create(
            outing=cls.outing, setup="body=zanzibar", body=SECRET, start_s=0, decimals=2, frames=2,
            mb=60, times_s=[0, 0.05], sizes_mb=[30, 30],
        )  # fmt: skip
        plan = OutingPlan.objects.create(outing=cls.outing, setup="body=zanzibar", start=time(9))
        OutingPeriod.objects.create(plan=plan, number=1, name=SECRET, minutes=60, bursts_an_hour=9)
        cls.noted = FieldNote.objects.create(
            outing=cls.outing, key=uuid4(), kind="note", at_s=0, words=SECRET
        )
        cls.practised = PracticeSession.objects.create(
            owner=cls.ann, subject="gannet", seed=1, setup="body=zanzibar", name=SECRET,
            scenario=json.dumps(SCENARIO), first_level=4,
        )  # fmt: skip
        cls.state = cls.everything()

    @classmethod
    def owner(cls) -> User:
        return User.objects.create(email="ann@example.org")

    @classmethod
    def everything(cls) -> list[object]:
        rows = [(kind, document_of(item) | {"archived": item.archived_at, "version": item.version})
                for kind, model in KINDS.items()
                for item in with_parts(model.objects.filter(owner=cls.ann))]  # fmt: skip
        models = (
            Revision,
            PendingImport,
            Share,
            PriceList,
            ExchangeRate,
            Run,
            Outing,
            PracticeSession,
        )
        others = [model.objects.filter(owner=cls.ann).count() for model in models]
        others += [model.objects.filter(outing__owner=cls.ann).count()
                   for model in (OutingDay, FieldNote)]  # fmt: skip
        others.append(PracticeRun.objects.filter(session__owner=cls.ann).count())
        return [rows, others, Share.objects.working().filter(owner=cls.ann).count()]

    def addresses(self, pattern: URLPattern) -> Iterator[str]:
        """The address of every object of Ann's that `pattern` could show, or the one it has."""
        names = pattern.pattern.converters.keys()
        rows = (
            self.share, self.pending, self.prices, self.rate, self.of_bench, self.outing,
            self.outing.day, self.noted, self.practised,
        )  # fmt: skip
        pks = {*Revision.objects.values_list("pk", flat=True), *(row.pk for row in rows)}
        for pk in pks if "pk" in names else [0]:
            for kind in KINDS if "kind" in names else [""]:
                values = {"pk": pk, "kind": kind, "slug": "zanzibar", "form": "json",
                          "token": "guess", "uidb64": "x", "name": "files.csv"}  # fmt: skip
                yield reverse(pattern.name or "", kwargs={name: values[name] for name in names})

    def test_no_view_shows_or_changes_what_another_owns(self) -> None:
        checked = 0
        for role in self.roles:
            visitor = self.visitors[role]
            for pattern in patterns():
                client = self.client_of(visitor)  # anew, as one address signs out
                followed = set[str]()
                for address in self.addresses(pattern):
                    with self.subTest(role=role, address=address):
                        for method in ("get", "post"):
                            self.check(client, address, method, followed)
                            checked += 1
                self.check(client, reverse("account"), "get", set())  # messages not shown yet
                with self.subTest(role=role, view=pattern.name):
                    self.assertEqual(self.state, self.everything())
        self.assertGreater(checked, 150)

    def client_of(self, visitor: User | None) -> Client:
        client = Client()
        if visitor and visitor.is_guest:
            client.cookies[COOKIE] = get_cookie_signer(salt=COOKIE).sign(str(visitor.pk))
        elif visitor:
            client.force_login(visitor)
        return client

    def check(self, client: Client, address: str, method: str, followed: set[str]) -> None:
        """Asks, and goes where the answer points to unless `followed` has been there."""
        query = {"body": "zanzibar", "card1": "zanzibar", "setup": "body=zanzibar"}
        query["kept"] = query["like"] = str(self.outing.day.pk)
        query["outing"] = str(self.outing.pk)
        answer = getattr(client, method)(address, query)
        if 300 <= answer.status_code < 400 and answer.url not in followed:
            followed.add(answer.url)
            answer = client.get(answer.url, follow=True)
        said = b"".join(answer) if answer.streaming else answer.content
        self.assertNotIn(SECRET.encode(), said)
        # As a word of its own: the random token of a form may hold these three letters.
        self.assertNotRegex(said, rb"\bZNZ\b")
        if address != reverse("prices-fetch"):  # there is nobody here to fetch from
            self.assertLess(answer.status_code, 500)

    def test_what_bob_exports_is_his_alone(self) -> None:
        client = Client()
        client.force_login(self.bob)
        kit = json.loads(client.get(reverse("export", args=["json"])).getvalue())
        self.assertEqual([[], [], []], [kit[kind] for kind in KINDS])

    def test_queries_hide_it_from_everybody_else(self) -> None:
        for visitor in (AnonymousUser(), self.bob):
            for model in KINDS.values():
                self.assertFalse(model.objects.visible_to(visitor).filter(name=SECRET).exists())
                self.assertFalse(model.objects.owned_by(visitor).exists())


class IsolationOfGuests(Isolation):
    """The same of what somebody has added without an account."""

    roles = ("guest",)

    @classmethod
    def owner(cls) -> User:
        return guest()
