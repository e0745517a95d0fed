"""Days are kept, replayed again, passed on, learnt from and brought back."""

import json
from datetime import time
from typing import Any
from urllib.parse import parse_qsl

from django.core.signing import get_cookie_signer
from django.db import IntegrityError, transaction
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from accounts import sample_account
from accounts.guests import COOKIE, KEPT, move_in
from accounts.models import User
from bench.models import Run
from engine.files.replay_file import read_replay_file, replayed_values
from kit import sample
from kit.models import Body, Card
from kit.tests import builders
from outings.models import MOST_OUTINGS, Outing, OutingDay, OutingPlan
from setups import keys

SETUP = (
    "body=varnholt-vx-3&format=lossless-raw&fps=20&to=mirror"
    "&card1=gravelock-tide-512&card2=tarn-90-128"
)


class KeptOutings(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()
        cls.ann = User.objects.create(email="ann@example.org")

    def setUp(self) -> None:
        self.client.force_login(self.ann)
        self.sent = self.client.post(reverse("replay"), {"setup": SETUP, "example": "on"})
        form = {"setup": SETUP, "table": self.sent.context["table"], "name": "Gannets"}
        self.page = self.client.post(reverse("outing-keep"), form, follow=True)
        self.outing = Outing.objects.get()

    def at(self, name: str) -> str:
        return reverse(name, args=[self.outing.pk])

    def test_a_day_comes_back_as_it_was_sent(self) -> None:
        self.assertContains(self.page, "The day is kept.")
        before, after = self.sent.context["day"], self.page.context["day"]
        self.assertEqual(before.missed, after.missed)
        self.assertEqual(
            [(one.frames, one.missed) for one in before.was.bursts],
            [(one.frames, one.missed) for one in after.was.bursts],
        )
        self.assertEqual([one.brings for one in before.others], [o.brings for o in after.others])
        listed = self.client.get(reverse("outings"))
        self.assertContains(listed, "Gannets")
        self.assertContains(listed, "1 May 2026, 06:10")

    def test_another_set_up_is_tried_and_kept(self) -> None:
        form: dict[str, Any] = {
            "kept": self.outing.day.pk,
            "setup": SETUP.replace("mirror", "single"),
        }
        tried = self.client.post(reverse("replay"), form)
        self.assertContains(tried, "It is kept with another set-up or other holds.")
        self.client.post(self.at("outing-set-up"), form)
        kept = dict(parse_qsl(OutingDay.objects.get().setup))
        self.assertEqual("single", kept[keys.ARRANGEMENT])
        (asked, *_) = [one for one in self.sent.context["day"].worst if one.may_be_told]
        longest_s = round(asked.burst.longest_s, 2)
        told = {"kept": self.outing.day.pk, "setup": SETUP, "held_at": asked.after_s,
                "held_s": longest_s}  # fmt: skip
        self.client.post(self.at("outing-set-up"), told)
        day = self.client.get(self.at("outing")).context["day"]
        self.assertEqual({asked.after_s: longest_s}, day.told_s)
        self.assertGreaterEqual(day.missed, self.sent.context["day"].missed)

    def test_name_and_notes_are_changed_and_a_nameless_one_is_not_kept(self) -> None:
        self.client.post(self.at("outing-edit"), {"name": "Skerry", "notes": "swell"})
        self.outing.refresh_from_db()
        self.assertEqual(("Skerry", "swell"), (self.outing.name, self.outing.notes))
        nameless = self.client.post(self.at("outing-edit"), {"name": " ", "notes": "calm"})
        self.assertContains(nameless, "This field is required.", status_code=422)
        self.assertContains(nameless, "calm", status_code=422)
        form = {"setup": SETUP, "table": "A.RAW,1.25,30", "name": ""}
        again = self.client.post(reverse("outing-keep"), form)
        self.assertContains(again, "A.RAW,1.25,30", status_code=422)
        self.assertEqual(1, Outing.objects.count())

    def test_a_deleted_one_comes_back_to_its_owner_alone(self) -> None:
        self.client.post(self.at("outing-delete"))
        self.assertFalse(Outing.objects.exists())
        self.client.force_login(User.objects.create(email="bob@example.org"))
        self.client.post(self.at("outing-restore"))
        self.assertFalse(Outing.objects.exists())
        self.client.force_login(self.ann)
        self.client.post(self.at("outing-restore"))
        after = self.client.get(self.at("outing")).context["day"]
        self.assertEqual(self.sent.context["day"].missed, after.missed)

    def test_its_replay_file_says_on_the_command_line_what_the_page_says(self) -> None:
        day = self.page.context["day"]
        text = self.client.get(self.at("outing-replay-file")).content.decode()
        values = replayed_values(read_replay_file(text))
        self.assertEqual(day.missed, values["missed"])
        for one in day.others:
            self.assertEqual(one.day.missed, values["set_ups"][one.change.words]["missed"])
        again = self.client.post(reverse("replay"), {"setup": SETUP, "table": text})
        self.assertEqual(day.missed, again.context["day"].missed)
        lines = self.client.get(self.at("outing-bursts")).getvalue().decode().splitlines()
        self.assertEqual(1 + len(day.was.bursts), len(lines))

    def test_its_long_bursts_become_runs_with_what_was_predicted_once(self) -> None:
        page = self.client.post(self.at("outing-runs"), follow=True)
        self.assertContains(page, "12 runs are saved.")
        runs = Run.objects.made_by(self.ann)
        self.assertTrue(all(run.predicted and run.method == "files" for run in runs))
        again = self.client.post(self.at("outing-runs"), follow=True)
        self.assertContains(again, "12 were there already")

    def test_choose_takes_the_day_as_its_need(self) -> None:
        address = self.page.context["day"].need_address
        page = self.client.get(f"{reverse('choose')}?{address}")
        self.assertContains(page, 'value="2055"')

    def test_there_is_room_for_so_many(self) -> None:
        Outing.objects.bulk_create(
            Outing(owner=self.ann, name=str(number)) for number in range(MOST_OUTINGS)
        )
        form = {"setup": SETUP, "table": "A.RAW,1.25,30", "name": "One more"}
        page = self.client.post(reverse("outing-keep"), form, follow=True)
        self.assertContains(page, "are as many as are kept")
        self.assertFalse(Outing.objects.filter(name="One more").exists())

    def test_the_database_refuses_what_no_day_is(self) -> None:
        kept = OutingDay.objects.values().get() | {"outing_id": None}
        for wrong in ({"frames": 0}, {"decimals": 0}, {"start_s": 1e12}):
            outing = Outing.objects.create(owner=self.ann, name="x")
            row = OutingDay(**(kept | {"id": None, "outing_id": outing.pk} | wrong))
            with self.subTest(wrong), self.assertRaises(IntegrityError), transaction.atomic():
                OutingDay.objects.bulk_create([row])
        with self.assertRaises(IntegrityError), transaction.atomic():
            Outing.objects.bulk_create([Outing(owner=self.ann, name="")])

    def test_a_guest_keeps_one_and_takes_it_along(self) -> None:
        self.client.logout()
        guest = User.objects.create(guest_until=timezone.now() + KEPT)
        self.client.cookies[COOKIE] = get_cookie_signer(salt=COOKIE).sign(str(guest.pk))
        for owner in (guest, self.ann):  # both have some of these names
            builders.ready_body(owner=owner, slug="own")
            builders.saved(builders.card(owner=owner, slug="own-card"))
        form = {"setup": "body=own", "table": self.sent.context["table"], "name": "As a guest"}
        page = self.client.post(reverse("outing-keep"), form, follow=True)
        self.assertContains(page, "As a guest")
        self.assertEqual(404, self.client.get(self.at("outing")).status_code)
        OutingPlan.objects.create(
            outing=Outing.objects.get(owner=guest), setup="body=own", start=time(9),
            cards={"card2": "own-card", "further": [{"card": "1/own-card", "count": 2}]},
        )  # fmt: skip
        kept = json.dumps(list(OutingDay.objects.values()), default=str)
        self.assertNotIn("SKR_", kept)  # as nothing of a picture but its moment and its size
        move_in(guest, self.ann)
        moved = OutingDay.objects.get(outing__name="As a guest", outing__owner=self.ann)
        other = Body.objects.owned_by(self.ann).exclude(slug="own").get()
        self.assertEqual(other.slug, dict(parse_qsl(moved.setup))[keys.BODY])
        slug = Card.objects.owned_by(self.ann).exclude(slug="own-card").get().slug
        further = [{"card": f"1/{slug}", "count": 2}]
        self.assertEqual({"card2": slug, "further": further}, OutingPlan.objects.get().cards)

    def test_the_sample_account_has_one_of_each_kind(self) -> None:
        user = sample_account.ready()
        self.client.force_login(user)
        self.assertContains(self.client.get(reverse("outings")), "Gannet cliffs, from the boat")
        for outing, words in zip(
            Outing.objects.made_by(user).order_by("pk"),
            ("The buffer was full in", "The day writes"),
            strict=True,
        ):
            page = self.client.get(reverse("outing", args=[outing.pk]), follow=True)
            self.assertContains(page, words)
