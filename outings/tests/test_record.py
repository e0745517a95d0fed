"""What is tapped in the field is kept once; records, totals and calendars follow from it."""

import csv
import json
import random
from datetime import date, datetime, timedelta
from typing import Any
from uuid import uuid4

from django.core.signing import get_cookie_signer
from django.db import IntegrityError, transaction
from django.http import HttpResponse
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone
from icalendar import Calendar

from accounts.guests import COOKIE, KEPT, move_in
from accounts.models import User
from engine.measurement.capture_times import seconds_of
from kit import sample
from kit.models import Card, CardState
from kit.tests import builders
from outings.models import MOST_NOTES, FieldNote, Outing, OutingDay
from outings.replays.example import START
from outings.tests.test_plan import form

START_S = seconds_of(START, "")
EXAMPLE = {"setup": "body=varnholt-vx-3&to=single&card1=gravelock-tide-256", "example": "on"}


def note(kind: str = "burst", minutes: float = 0, **told: Any) -> dict[str, Any]:
    """One as a phone sends it, so many minutes after the first frame of the made-up day."""
    return {"key": uuid4().hex, "kind": kind, "at_s": START_S + 60 * minutes, **told}


class FieldLogs(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()
        cls.ann = User.objects.create(email="ann@example.org")

    def setUp(self) -> None:
        self.client.force_login(self.ann)
        self.client.post(reverse("outing-begin"), {"name": "Cliffs", "on": "2026-05-01"})
        self.outing = Outing.objects.get()

    def at(self, name: str, pk: int = 0) -> str:
        return reverse(name, args=[pk or self.outing.pk])

    def send(self, notes: Any, status: int = 200) -> dict[str, Any]:
        answer = self.client.post(self.at("outing-field-keep"), {"notes": json.dumps(notes)})
        self.assertEqual(status, answer.status_code)
        told: dict[str, Any] = answer.json()
        return told

    def keep_day(self) -> HttpResponse:
        table = self.client.post(reverse("replay"), EXAMPLE).context["table"]
        told = {"setup": EXAMPLE["setup"], "table": table, "outing": self.outing.pk}
        return self.client.post(reverse("outing-keep-with"), told, follow=True)

    def test_every_note_is_kept_once_however_it_is_sent(self) -> None:
        for seed in range(5):
            dice = random.Random(seed)
            notes = [note(minutes=n) for n in range(20)]
            before = FieldNote.objects.count()
            for _ in range(6):  # a phone that hears no answer sends again
                some = dice.sample(notes, dice.randint(1, 20))
                self.assertEqual({one["key"] for one in some}, set(self.send(some)["kept"]))
            self.send(notes)
            self.assertEqual(before + 20, FieldNote.objects.count())

    def test_a_note_that_is_none_is_told_and_the_others_are_kept(self) -> None:
        wrong = [
            note("note"), note("dance"), note(at_s="1e99"), note("swap", slot=3), note(key="x"),
            note("note", words="x" * 201),
        ]  # fmt: skip
        told = self.send([*wrong, note("note", words=" =1+1 ", minutes=3)])
        self.assertEqual({one["key"] for one in wrong}, set(told["refused"]))
        self.assertIn("Write what you want to note.", told["refused"][wrong[0]["key"]])
        self.assertEqual("=1+1", FieldNote.objects.get().words)
        for no_notes in ({"a": 1}, ["x"], "x", [note()] * 201):
            self.send(no_notes, status=422)
        FieldNote.objects.bulk_create(
            FieldNote(outing=self.outing, key=uuid4(), kind="burst", at_s=n)
            for n in range(MOST_NOTES - 1)
        )
        self.assertEqual(1, len(self.send([note()])["refused"]))

    def test_without_script_a_form_keeps_it(self) -> None:
        told = {"kind": "note", "words": "spray", "at": "06:24"}
        page = self.client.post(self.at("outing-field-keep"), told, follow=True)
        self.assertContains(page, "It is noted.")
        self.assertContains(page, "06:24")
        page = self.client.post(self.at("outing-field-keep"), told | {"words": ""})
        self.assertContains(page, "Write what you want to note.", status_code=422)

    def test_a_card_that_failed_has_one_line_in_its_log(self) -> None:
        card = builders.saved(builders.card(owner=self.ann, slug="own"))
        failure = note("failure", card="own", words="light stayed on")
        self.assertIn("it counts as suspect now", self.send([failure])["said"][0])
        self.send([failure, note("failure", card="gravelock-tide-256")])  # not one's own
        card = Card.objects.get(pk=card.pk)
        self.assertEqual(CardState.SUSPECT, card.state)
        (line,) = card.log.all()
        self.assertEqual((date(2026, 5, 1), "Cliffs: light stayed on"), (line.on, line.words))

    def test_a_failed_card_that_is_told_afterwards_has_its_line_once(self) -> None:
        card = builders.saved(builders.card(owner=self.ann, slug="own"))
        self.send([note("failure", words="light stayed on")])
        told = {"note": FieldNote.objects.get().pk, "card": "own"}
        for said in ("it counts as suspect now", "has been told already"):
            page = self.client.post(self.at("outing-tell-card"), told, follow=True)
            self.assertContains(page, said, status_code=page.status_code)
        self.assertEqual(["Cliffs: light stayed on"], [line.words for line in card.log.all()])

    def test_swaps_tell_which_card_has_what_by_the_clock_of_the_camera(self) -> None:
        self.keep_day()
        self.send([note("swap", 30, card="gravelock-tide-512"), note("swap", 45)])
        record = self.client.get(self.at("outing-record")).context["record"]
        first, second, third = record.cards
        self.assertEqual("Gravelock Tide 256", first.name)
        self.assertEqual(("06:40", "06:55"), (second.from_clock, second.until_clock))
        day = OutingDay.objects.get()
        self.assertAlmostEqual(day.gb, sum(one.gb for one in record.cards), places=3)
        moments = [day.start_s + after_s for after_s in day.times_s]
        until_s = START_S + 30 * 60
        self.assertEqual(sum(at_s < until_s for at_s in moments), first.use.frames)
        untold = FieldNote.objects.get(card="")
        told = {"note": untold.pk, "card": "gravelock-tide-512"}
        self.client.post(self.at("outing-tell-card"), told)
        totals = self.client.get(reverse("outing-totals")).context["totals"]
        by_card = {one.name: one.frames for one in totals.cards}
        self.assertEqual(second.use.frames + third.use.frames, by_card["Gravelock Tide 512"])
        self.client.post(self.at("outing-clock"), {"ahead_min": "60"})
        page = self.client.get(self.at("outing-record"))
        self.assertEqual(day.frames, page.context["record"].cards[0].use.frames)
        self.client.post(self.at("outing-clock"), {"ahead_min": "-600"})
        self.assertContains(self.client.get(self.at("outing-record")), "are the clocks")
        page = self.client.post(self.at("outing-clock"), {"ahead_min": "lots"})
        self.assertContains(page, "lots", status_code=422)

    def test_a_plan_is_held_against_its_day_as_it_was_predicted_before(self) -> None:
        plan = form(name="Planned", on="2026-05-01")
        self.client.post(reverse("outing-keep-plan"), plan)
        self.outing = Outing.objects.get(name="Planned")
        before = self.outing.plan.predicted
        page = self.keep_day()
        self.assertContains(page, "The day is kept with Planned.")
        self.client.post(self.at("outing-save-plan"), plan | {"periods-0-minutes": "9"})
        self.outing.plan.refresh_from_db()
        self.assertEqual(before, self.outing.plan.predicted)
        record = page.context["record"]
        figures = {one.key: one for _, one in record.compared}
        day = self.client.get(self.at("outing")).context["day"]
        self.assertEqual(
            [day.bursts, day.frames, day.missed, len(day.filled)],
            [figures[key].measured for key in ("bursts", "frames", "missed", "bursts_missing")],
        )
        self.assertEqual(before["frames"][1], figures["frames"].middle)
        self.assertGreater(figures["frames"].low, day.frames)  # as that plan is of a longer day
        page = self.client.get(f"{reverse('outing-totals')}?begins=9")
        totals, (season,) = page.context["totals"], page.context["seasons"]
        self.assertEqual(record.track_record.within, totals.plans.within)
        self.assertEqual(5, totals.plans.figures)
        self.assertEqual(("2025/26", 2, day.frames, day.missed),
                         (season.name, season.outings, season.frames, season.missed))  # fmt: skip

    def test_pictures_and_notes_are_taken_away_and_brought_back(self) -> None:
        self.keep_day()
        self.send([note("note", words="spray")])
        day, spray = OutingDay.objects.get(), FieldNote.objects.get()
        for gone, back, pk, model in (
            (self.at("outing-drop-day"), "day-restore", day.pk, OutingDay),
            (self.at("note-delete", spray.pk), "note-restore", spray.pk, FieldNote),
        ):
            self.client.post(gone)
            self.assertFalse(model.objects.exists())
            self.client.force_login(User.objects.create(email=f"bob@{back}.example"))
            self.client.post(self.at(back, pk))
            self.assertFalse(model.objects.exists())
            self.client.force_login(self.ann)
            self.client.post(self.at(back, pk))
            self.assertTrue(model.objects.filter(pk=pk).exists())
        self.client.post(self.at("outing-delete"))
        self.assertFalse(FieldNote.objects.exists())
        self.client.post(self.at("outing-restore"))
        self.assertEqual("spray", FieldNote.objects.get().words)

    def test_a_plan_goes_into_a_calendar_with_its_swaps(self) -> None:
        name = "Heats; a, b " + "é" * 40
        self.client.post(reverse("outing-keep-plan"), form(name=name, notes="weir, 5 €"))
        outing = Outing.objects.get(plan__isnull=False)
        calendar = self.at("outing-calendar", outing.pk)
        self.assertEqual(404, self.client.get(calendar).status_code)  # as it has no date
        outing.on = date(2026, 9, 12)
        outing.save()
        answer = self.client.get(calendar)
        self.assertEqual("text/calendar; charset=utf-8", answer["Content-Type"])
        events = Calendar.from_ical(answer.content).walk("VEVENT")
        heat, noon, *rest = events
        self.assertEqual(datetime(2026, 9, 12, 9), heat.decoded("dtstart"))
        self.assertEqual(timedelta(minutes=30), noon.decoded("duration"))
        self.assertEqual(f"{outing}: heat", str(heat["summary"]))
        self.assertEqual("weir, 5 €", str(heat["description"]))
        found = self.client.get(self.at("outing-plan", outing.pk)).context["found"]
        clocks = [f"{one.decoded('dtstart'):%H:%M}" for one in rest if "swap" in one["summary"]]
        self.assertEqual([found.planned.clock(at_s) for at_s, _ in found.planned.swaps], clocks)
        again = Calendar.from_ical(self.client.get(calendar).content).walk("VEVENT")
        self.assertEqual([one["uid"] for one in events], [one["uid"] for one in again])
        self.assertEqual(len(events), len({one["uid"] for one in events}))

    def test_all_of_it_goes_out_as_tables_and_json(self) -> None:
        self.keep_day()
        self.send([note("note", words="=HYPERLINK()"), note("swap", 30, card="gone")])
        notes = self.client.get(self.at("outing-notes")).getvalue().decode()
        self.assertIn("'=HYPERLINK()", notes)
        self.assertIn("a card that is no longer in your kit", notes)
        (line,) = csv.DictReader(
            self.client.get(reverse("outings-csv")).getvalue().decode().splitlines()
        )
        day = OutingDay.objects.get()
        self.assertEqual(("2026-05-01", "Cliffs", str(day.frames)),
                         (line["on"], line["outing"], line["frames"]))  # fmt: skip
        (told,) = json.loads(self.client.get(reverse("outings-json")).getvalue())["outings"]
        self.assertEqual(day.times_s, told["day"]["times_s"])
        self.assertEqual(2, len(told["field_notes"]))

    def test_a_guest_takes_notes_along(self) -> None:
        guest = User.objects.create(guest_until=timezone.now() + KEPT)
        self.client.logout()
        self.client.cookies[COOKIE] = get_cookie_signer(salt=COOKIE).sign(str(guest.pk))
        for owner in (guest, self.ann):
            builders.saved(builders.card(owner=owner, slug="own"))
        self.client.post(reverse("outing-begin"), {"name": "As a guest"})
        self.outing = Outing.objects.get(owner=guest)
        self.send([note("swap", card="own")])
        move_in(guest, self.ann)
        other = Card.objects.owned_by(self.ann).exclude(slug="own").get()
        self.assertEqual(other.slug, FieldNote.objects.get().card)

    def test_the_database_refuses_what_no_note_is(self) -> None:
        right = {"outing": self.outing, "key": uuid4(), "kind": "burst", "at_s": 0.0}
        FieldNote.objects.create(**right)
        for wrong in ({}, {"kind": "x"}, {"at_s": 1e12}, {"slot": 3}, {"kind": "note"}):
            row = FieldNote(**right | ({"key": uuid4()} | wrong if wrong else {}))
            with self.subTest(wrong), self.assertRaises(IntegrityError), transaction.atomic():
                FieldNote.objects.bulk_create([row])
        with self.assertRaises(IntegrityError), transaction.atomic():
            Outing.objects.create(owner=self.ann, name="x", on=date(2300, 1, 1))
