"""A day is planned on the page: its answer, what is wrong with it, and how it is kept."""

import re
from typing import Any
from urllib.parse import parse_qsl, urlencode

from django.db import IntegrityError, transaction
from django.http import HttpResponse
from django.test import TestCase
from django.urls import reverse
from procrastinate.contrib.django.models import ProcrastinateJob

from accounts.models import User
from engine.formats import figure
from engine.uncertainty.intervals import Interval
from kit import sample
from outings.models import Outing, OutingPeriod, OutingPlan
from outings.plans.planned_outing import brings
from outings.plans.presets import PRESETS
from outings.tasks import changes_of_plan

SETUP = "body=varnholt-vx-3&format=lossless-raw&fps=20&to=single&card1=gravelock-tide-256"


def form(**changes: Any) -> dict[str, Any]:
    """Two heats with copying between them."""
    heat = {"name": "heat", "minutes": "60", "bursts_an_hour": "120", "hold_s": "1,5"}
    rows = [heat, {"name": "noon", "minutes": "30", "copies": "on"}, heat, {}]
    data = {"setup": SETUP, "start": "09:00", "periods-TOTAL_FORMS": len(rows),
            "periods-INITIAL_FORMS": 0}  # fmt: skip
    data |= {
        f"periods-{n}-{key}": value for n, row in enumerate(rows) for key, value in row.items()
    }
    return data | {key.replace("__", "-"): value for key, value in changes.items()}


class Planning(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()
        cls.ann = User.objects.create(email="ann@example.org")

    def setUp(self) -> None:
        self.client.force_login(self.ann)

    def sent(self, status: int = 200, at: str = "plan", **changes: Any) -> HttpResponse:
        page = self.client.post(reverse(at), form(**changes))
        self.assertEqual(status, page.status_code)
        return page

    def test_every_sample_day_is_answered(self) -> None:
        for name in PRESETS:
            with self.subTest(name):
                page = self.client.get(f"{reverse('plan')}?day={name}&{SETUP}")
                self.assertContains(page, "The day writes")
                self.assertContains(page, "copying takes")
                self.assertContains(page, "If one card dies")

    def test_the_answer_follows_from_what_is_simulated(self) -> None:
        page = self.sent()
        planned = page.context["found"].planned
        (needed,) = planned.day.needed
        self.assertGreater(needed, 1)
        self.assertContains(page, f"It takes {needed} cards like the Gravelock Tide 256: swap at ")
        self.assertContains(page, "With the cards that you take")
        enough = self.sent(cards1=str(needed))
        self.assertContains(enough, f"Take {needed} cards like the Gravelock Tide 256: swap at ")
        self.assertNotContains(enough, "With the cards that you take")
        changes = enough.context["found"].changes
        self.assertTrue(changes.free)
        for one in changes.free:
            self.assertLess(one.missed.middle, planned.day.missed_range.middle)
            self.assertContains(enough, one.brings)
        never = self.sent(periods__0__bursts_an_hour="0", periods__2__bursts_an_hour="1",
                          periods__2__hold_s="0.1", periods__2__long_hold_s="0.2")  # fmt: skip
        self.assertContains(never, "The buffer is never full")

    def test_a_period_is_shot_as_a_plan_with_its_set_up_would_be(self) -> None:
        """Law: what differs may be told by each period or by the sentence."""
        usual = self.sent().context["found"].planned.day
        for key, field, value in (
            ("format", "recording", "jpeg-fine"),
            ("fps", "frame_rate", "12"),
            ("to", "arrangement", "mirror"),
            ("to", "arrangement", "split"),
        ):
            with self.subTest(value):
                files = {"format": "lossless-raw-and-jpeg-fine"} if value == "split" else {}
                base = {**dict(parse_qsl(SETUP)), **files}
                told = {f"periods__{n}__{field}": value for n in (0, 2)}
                by_period = self.sent(setup=urlencode(base), **told)
                in_sentence = self.sent(setup=urlencode(base | {key: value}))
                days = [one.context["found"].planned.day for one in (by_period, in_sentence)]
                self.assertEqual(days[0].periods[0], days[1].periods[0])
                self.assertEqual(days[0].periods[2], days[1].periods[2])
                self.assertEqual(days[0].needed, days[1].needed)
                self.assertNotEqual(usual.periods[0], days[0].periods[0])
                if value == "12":
                    mixed = self.sent(**{f"periods__0__{field}": value})
                    first, _, last = mixed.context["found"].planned.day.periods
                    self.assertEqual(days[0].periods[0], first)
                    self.assertEqual(usual.periods[2].bursts, last.bursts)

    def test_slots_that_some_periods_write_to_have_their_cards(self) -> None:
        told = {"periods__2__arrangement": "mirror", "periods__2__frame_rate": "12",
                "card2": "tarn-30-256"}  # fmt: skip
        planned = self.sent(**told).context["found"].planned
        self.assertEqual([256_000, 256_000], [card.free_mb for (card,) in planned.plan.cards])
        self.assertEqual("Tarn 30 256", str(planned.sides[1].card))
        self.sent(at="outing-keep-plan", status=302, name="Weir", **told)
        at = [Outing.objects.get().pk]
        kept = self.client.get(reverse("outing-plan", args=at)).context["found"].planned
        self.assertEqual(planned.sentences, kept.sentences)
        one, both = self.client.get(reverse("outing-sheet", args=at)).context["situations"]
        self.assertEqual(["single", "mirror"], [o.setup.arranged for o in (one, both)])
        self.assertEqual([20, 12], [o.setup.rate.fps for o in (one, both)])
        for wrong, words in (
            ({"periods__0__arrangement": "split"}, "Split needs a format that writes two files"),
            ({"periods__0__arrangement": "overflow"}, "in turn in all of them, or in none"),
            ({"periods__0__frame_rate": "7"}, "Select a valid choice"),
            ({"card2": "nobody"}, "That card is not in your kit"),
        ):
            with self.subTest(wrong):
                self.assertContains(self.sent(422, **wrong), words, status_code=422)

    def test_bursts_may_be_listed(self) -> None:
        listed = {"periods__0__bursts_an_hour": "", "periods__0__hold_s": "2; 1,5 4"}
        planned = self.sent(**listed).context["found"].planned
        self.assertEqual([2, 1.5, 4], planned.plan.periods[0].listed_s)
        self.assertEqual(Interval(3, 3, 3), planned.day.periods[0].bursts)
        self.sent(at="outing-keep-plan", status=302, name="Weir", **listed)
        at = [Outing.objects.get().pk]
        kept = self.client.get(reverse("outing-plan", args=at))
        self.assertEqual(planned.sentences, kept.context["found"].planned.sentences)
        self.assertContains(kept, 'value="2 1.5 4"')
        for wrong, words in (({}, "Leave this empty, as the hold of each is listed."),
                             ({"periods__0__hold_s": "2 x"}, "not a number of s"),
                             ({"periods__0__hold_s": "1 " * 201}, "200 bursts are")):  # fmt: skip
            page = self.sent(422, **listed | {"periods__0__bursts_an_hour": "9"} | wrong)
            self.assertContains(page, words, status_code=422)

    def test_what_is_wrong_is_said_at_its_field_and_nothing_is_lost(self) -> None:
        for changes, words in (
            ({"periods__0__minutes": ""}, "Say how many minutes it lasts."),
            ({"periods__0__minutes": "5000"}, "Must be from 1 to 2,880 min"),
            ({"periods__0__hold_s": "x"}, "is not a number of s"),
            ({"periods__0__hold_s": "4", "periods__0__long_hold_s": "3"}, "Must not be shorter"),
            ({"periods__0__bursts_an_hour": "0", "periods__2__bursts_an_hour": ""}, "a burst or a"),
            ({"cards1": "51"}, "This is 50 at most."),
            ({"start": "noon"}, "Enter a valid time."),
            ({"copy_mb_s": "0"}, "Must be from 0.001"),
            ({"reader": "nobody"}, "Select a valid choice."),
            ({"periods-TOTAL_FORMS": "x"}, "Enter a whole number."),
        ):  # fmt: skip
            with self.subTest(changes):
                page = self.sent(422, **changes)
                self.assertContains(page, words, status_code=422)
                self.assertIsNone(page.context["found"].planned)

    def test_cards_that_no_reader_takes_are_planned_without_copying(self) -> None:
        page = self.sent(reader="tarn-slip")
        self.assertContains(page, "No reader that is chosen takes the Gravelock Tide 256")
        self.assertContains(page, "The day writes")
        self.assertNotContains(page, "copying takes")
        self.client.post(reverse("outing-keep-plan"), form(reader="tarn-slip", name="Weir"))
        self.assertEqual([False, True, False], [p.copies for p in OutingPeriod.objects.all()])
        self.assertContains(self.sent(reader="tarn-slip", copy_mb_s="200 MB/s"), "copying takes")

    def test_cards_may_be_of_any_room_in_any_order(self) -> None:
        page = self.sent(rooms1="256 60,5; 120")
        planned = page.context["found"].planned
        self.assertEqual([256_000, 60_500, 120_000], [one.free_mb for one in planned.plan.cards[0]])
        self.sent(at="outing-keep-plan", status=302, name="Weir", rooms1="256 60,5")
        kept = self.client.get(reverse("outing-plan", args=[Outing.objects.get().pk]))
        (cards,) = kept.context["found"].planned.plan.cards
        self.assertEqual([256_000, 60_500], [one.free_mb for one in cards])
        for wrong, words in (
            ("x", "not a number of GB"),
            ("-1", "Must be from 0"),
            ("1 " * 51, "50 cards"),
        ):
            with self.subTest(wrong):
                self.assertContains(self.sent(status=422, rooms1=wrong), words, status_code=422)

    def test_cards_of_other_kinds_follow_in_their_order(self) -> None:
        tide, slow = "1/gravelock-tide-256", "1/fennimore-swell-1000"
        twice = self.sent(cards1="3").context["found"].planned.sentences
        rows = {"further__0__card": tide, "further__0__count": "2"}
        self.assertEqual(twice, self.sent(**rows).context["found"].planned.sentences)
        rows = {"rooms1": "120", "further__TOTAL_FORMS": "3", "further__0__card": slow,
                "further__0__rooms": "200", "further__1__card": tide}  # fmt: skip
        page = self.sent(**rows)
        planned = page.context["found"].planned
        self.assertContains(page, "the Gravelock Tide 256, then the Fennimore Swell 1000, then ")
        self.sent(at="outing-keep-plan", status=302, name="Weir", **rows)
        at = [Outing.objects.get().pk]
        kept = self.client.get(reverse("outing-plan", args=at))
        self.assertEqual(planned.sentences, kept.context["found"].planned.sentences)
        self.assertContains(kept, "The Fennimore Swell 1000, formatted")
        after_a_full_one = self.sent(rooms1="0", further__0__card=slow)
        alone = self.sent(setup=SETUP.replace(tide[2:], slow[2:]))
        missed = [page.context["found"].planned.day.missed_range.middle
                  for page in (after_a_full_one, alone)]  # fmt: skip
        self.assertAlmostEqual(1, missed[0] / missed[1], delta=0.1)  # by other draws
        usual = self.sent().context["found"].planned.day.missed_range.middle
        self.assertLess(missed[0], 0.8 * usual)  # its cache is faster than the first one is
        in_turn = SETUP.replace("to=single", "to=overflow")
        both = self.sent(setup=in_turn, rooms1="60 60", further__0__card=tide)
        self.assertContains(both, "in slot 2: swap at ")
        self.assertContains(both, " slot 2 takes over by itself")
        slot_2 = self.sent(further__0__card="2/tarn-30-256")
        self.assertContains(slot_2, "Nothing is written to slot 2")
        for wrong, words in (
            ({"further__0__count": "2"}, "Choose the card"),
            ({"further__0__card": "1/heron"}, "That card is not in your kit"),
            ({"further__0__card": tide, "further__0__count": "51"}, "50 at most"),
            ({"further__0__card": tide, "further__0__count": "50"}, "1 to 50 for each slot"),
            ({"further__0__card": tide, "further__0__rooms": "x"}, "not a number of GB"),
        ):
            with self.subTest(wrong):
                self.assertContains(self.sent(status=422, **wrong), words, status_code=422)

    def test_a_picture_desk_is_told_when_it_has_its_pictures(self) -> None:
        desk = {"desk_frames": "5", "desk_min": "10", "send_mb_s": "0,5"}
        page = self.sent(**desk)
        self.assertContains(page, "The picture desk has 5\xa0frames")
        locked = self.sent(**desk, setup="body=pellow-meridian-61")
        self.assertContains(locked, "shows no picture while the card light is on")
        self.sent(at="outing-keep-plan", status=302, name="Weir", **desk)
        kept = self.client.get(reverse("outing-plan", args=[Outing.objects.get().pk]))
        found, sentences = kept.context["found"].planned, page.context["found"].planned.sentences
        self.assertEqual(sentences, found.sentences)
        page = self.sent(status=422, desk_frames="5", desk_min="0")
        self.assertContains(page, "leave the picture desk out", status_code=422)
        self.assertContains(page, "Must be from 0.1", status_code=422)

    def test_kept_plans_stand_side_by_side(self) -> None:
        other = SETUP.replace("lossless-raw", "jpeg-fine")
        for name, setup in (("RAW", SETUP), ("JPEG", other)):
            self.sent(at="outing-keep-plan", status=302, name=name, setup=setup)
        numbers = [Outing.objects.get(name=name).pk for name in ("RAW", "JPEG")]
        page = self.client.get(reverse("plans-side-by-side"), {"plan": numbers})
        raw, jpeg = page.context["found"]
        self.assertEqual("", raw.brings)
        self.assertIn("saves", jpeg.brings)
        alone = self.client.get(reverse("outing-plan", args=[numbers[1]]))
        self.assertEqual(
            alone.context["found"].planned.day.missed_range, jpeg.planned.day.missed_range
        )
        again = self.client.get(reverse("plans-side-by-side"), {"plan": [numbers[0], "x"]})
        self.assertEqual(["RAW"], [str(one.outing) for one in again.context["found"]])

    def test_what_a_second_copy_costs_is_told(self) -> None:
        page = self.sent()
        found = page.context["found"]
        self.assertContains(page, found.changes.second_copy)
        self.assertTrue(found.changes.second_copy.startswith("A copy of everything, on the "))
        mirrored = self.sent(setup=SETUP.replace("to=single", "to=mirror")).context["found"]
        self.assertEqual("", mirrored.changes.second_copy)
        costs = brings(found.planned.day, mirrored.planned.day)
        self.assertIn("costs", costs)  # by other draws
        self.assertIn("costs", found.changes.second_copy)

    def test_a_row_is_added_on_demand(self) -> None:
        for rows, count in (("periods", 4), ("further", 1)):
            pages = self.sent(), self.sent(more=rows)
            found = [len(getattr(page.context["found"], rows).forms) for page in pages]
            self.assertEqual([count, count + 1], found)

    def test_of_two_tabs_the_second_is_told_before_it_saves_over_the_first(self) -> None:
        self.sent(at="outing-keep-plan", status=302, name="Weir")
        outing = Outing.objects.get()
        at = reverse("outing-save-plan", args=[outing.pk])
        first, second = (form(name="Weir", notes=notes, version="1") for notes in ("rain", "sun"))
        self.assertEqual(302, self.client.post(at, first).status_code)
        told = self.client.post(at, second)
        self.assertContains(told, "changed in another tab", status_code=422)
        self.assertContains(told, 'name="version" value="2"', status_code=422)
        self.assertContains(told, 'value="sun"', status_code=422)
        outing.refresh_from_db()
        self.assertEqual("rain", outing.notes)
        self.assertEqual(302, self.client.post(at, second | {"version": "2"}).status_code)
        outing.refresh_from_db()
        self.assertEqual(("sun", 3), (outing.notes, outing.version))

    def test_a_kept_plan_keeps_its_address_while_it_is_changed(self) -> None:
        self.sent(at="outing-keep-plan", status=302, name="Weir")
        kept = reverse("outing-plan", args=[Outing.objects.get().pk])
        for page, pushed in ((reverse("plan"), True), (kept, False)):
            headers = {"HX-Request": "true", "HX-Current-URL": f"http://testserver{page}"}
            for answer in (
                self.client.post(reverse("plan"), form(), headers=headers),
                self.client.get(f"{reverse('plan')}?{SETUP}", headers=headers),
            ):
                self.assertEqual(pushed, "HX-Push-Url" in answer.headers)

    def test_a_plan_is_kept_changed_deleted_and_brought_back(self) -> None:
        page = self.client.post(reverse("outing-keep-plan"), form(name="Weir"), follow=True)
        self.assertContains(page, "The plan is kept.")
        outing = Outing.objects.get()
        sentences = self.sent().context["found"].planned.sentences
        self.assertEqual(sentences, page.context["found"].planned.sentences)
        changed = form(name="Weir", notes="rain", cards1="3", periods__0__minutes="90")
        page = self.client.post(reverse("outing-save-plan", args=[outing.pk]), changed, follow=True)
        self.assertContains(page, 'value="90"')
        self.assertEqual(
            (3, {"cards1": 3, "cards2": 1}),
            (OutingPeriod.objects.count(), outing.plan.cards | OutingPlan.objects.get().cards),
        )
        listed = self.client.get(reverse("outings"))
        self.assertContains(listed, "rain")
        self.client.post(reverse("outing-delete", args=[outing.pk]))
        gone = self.client.post(reverse("outing-save-plan", args=[outing.pk]), changed)
        self.assertContains(gone, "This outing has been deleted since", status_code=422)
        self.assertContains(gone, 'value="rain"', status_code=422)
        self.client.post(reverse("outing-restore", args=[outing.pk]))
        again = self.client.get(reverse("outing", args=[outing.pk]), follow=True)
        self.assertEqual(
            page.context["found"].planned.sentences, again.context["found"].planned.sentences
        )
        self.sent(422, "outing-keep-plan", name="")
        self.assertEqual(1, Outing.objects.count())

    def test_saving_a_plan_is_undone_once_and_only_the_last_time(self) -> None:
        self.client.post(reverse("outing-keep-plan"), form(name="Weir", notes="rain"))
        outing = Outing.objects.get()
        page = reverse("outing-plan", args=[outing.pk])
        before = self.client.get(page).context["found"].planned.sentences
        undos = []
        for minutes in ("30", "20"):
            changed = form(name="Other", periods__0__minutes=minutes, rooms1="64")
            at = reverse("outing-save-plan", args=[outing.pk])
            saved = self.client.post(at, changed, follow=True).content.decode()
            undos += re.findall(r"/outings/\d+/plan/undo/[^/]+/", saved)
        first, last = undos
        for undo, words, minutes in ((first, "nothing is undone", 20), (last, "as it was", 30),
                                     (last, "nothing is undone", 30)):  # fmt: skip
            self.assertContains(self.client.post(undo, follow=True), words)
            self.assertEqual(minutes, OutingPeriod.objects.first().minutes)
        for seen in ("2", "3"):  # by tabs that were opened before it was undone
            stale = self.client.post(at, form(name="Stale", version=seen))
            self.assertContains(stale, "changed in another tab", status_code=422)
        self.client.post(reverse("outing-save-plan", args=[outing.pk]), form(name="Weir"))
        self.assertEqual(before, self.client.get(page).context["found"].planned.sentences)

    def test_the_checklist_follows_from_the_plan_and_keeps_its_ticks(self) -> None:
        page = self.client.post(reverse("outing-keep-plan"), form(name="Weir"), follow=True)
        self.assertContains(page, "cards like the Gravelock Tide 256, formatted in the camera")
        self.assertContains(page, "Reader, cable and computer with")
        at = reverse("outing-ticks", args=[Outing.objects.get().pk])
        self.client.post(at, {"done": ["batteries", "cards-1", "no such thing"]})
        self.assertEqual({"batteries", "cards-1"}, set(OutingPlan.objects.get().ticked))
        again = self.client.get(reverse("outing-plan", args=[Outing.objects.get().pk]))
        self.assertContains(again, 'value="batteries" checked')
        self.client.post(at, {"done": ["light"]})
        self.assertEqual(["light"], OutingPlan.objects.get().ticked)

    def test_the_field_sheet_says_what_the_desk_says_of_each_format(self) -> None:
        light = form(name="Weir", periods__2__recording="lossy-raw")
        self.client.post(reverse("outing-keep-plan"), light)
        page = self.client.get(reverse("outing-sheet", args=[Outing.objects.get().pk]))
        raw, lossy = page.context["situations"]
        for one, recording in ((raw, "lossless RAW"), (lossy, "lossy RAW")):
            self.assertEqual(recording, str(one.setup.recording))
            desk = self.client.get(f"{reverse('desk')}?{urlencode(one.setup.address)}")
            safe_s = desk.context["prediction"].safe_s
            self.assertTrue(safe_s - 0.1 < one.let_go_s <= safe_s)
            self.assertContains(page, f"{figure(one.let_go_s, 's')}</strong>")
            self.assertLess(one.ready_s, desk.context["prediction"].ranges.clear_s.high + 0.1)
        self.assertContains(page, "swap at")

    def test_the_sheet_of_a_body_has_its_formats_or_what_is_pinned(self) -> None:
        page = self.client.get(f"{reverse('body-sheet')}?{SETUP}")
        reading, found = page.context["reading"], page.context["situations"]
        self.assertEqual(
            {str(one) for one, _ in reading.formats},
            {str(one.setup.recording) for one in found},
        )
        self.assertEqual(20, found[0].setup.rate.fps)
        pins = [f"{SETUP}&to=mirror", "body=pellow-meridian-61"]
        pinned = self.client.get(reverse("body-sheet"), {**dict(parse_qsl(SETUP)), "pin": pins})
        one, both = pinned.context["situations"]  # none of another body
        self.assertEqual(("single", "mirror"), tuple(
            each.setup.arranged for each in (one, both)))  # fmt: skip
        for each in (*found, one, both):
            desk = self.client.get(f"{reverse('desk')}?{urlencode(each.setup.address)}")
            safe_s = desk.context["prediction"].safe_s
            self.assertEqual(safe_s is None, each.let_go_s is None)
            self.assertLess(abs((safe_s or 0) - (each.let_go_s or 0)), 0.1)

    def test_other_cards_are_told_with_how_many_the_day_takes(self) -> None:
        found = self.sent().context["found"]
        cards = {str(card): card for card in found.planned.sides[0].cards}
        self.assertGreater(len(found.changes.cards), 1)
        for one in found.changes.cards:
            with self.subTest(one.name):
                alone = SETUP.replace("gravelock-tide-256", cards[one.name].slug)
                planned = self.sent(setup=alone, cards1=str(one.needed)).context["found"].planned
                self.assertEqual([one.needed], planned.day.needed)
                as_planned = planned.day.missed_range.middle  # by other draws of the card
                self.assertAlmostEqual(as_planned, one.missed.middle, delta=9 + as_planned / 9)
                self.assertAlmostEqual(1, planned.day.lost_range.middle / one.lost.middle, 1)

    def test_changes_of_a_long_day_are_tried_in_the_background(self) -> None:
        long_day = {"periods__0__minutes": "150", "periods__2__minutes": "100"}
        page = self.sent(**long_day)
        self.assertContains(page, "Trying what would change it")
        self.assertContains(page, "The day writes")
        job = ProcrastinateJob.objects.get(task_name="plan")
        self.assertContains(self.sent(at="plan-changes", **long_day), 'hx-trigger="every 1s"')
        self.assertEqual(1, ProcrastinateJob.objects.filter(task_name="plan").count())
        stopped = self.sent(at="plan-changes", **long_day, stop="1")
        self.assertContains(stopped, "Go on")
        self.assertNotContains(stopped, "hx-trigger")
        changes_of_plan(**job.args)
        self.assertContains(self.sent(at="plan-changes", **long_day), 'hx-trigger="every 1s"')
        changes_of_plan(**job.args)
        later = self.sent(at="plan-changes", **long_day)
        self.assertContains(later, "With other cards")
        self.assertContains(later, "A copy of everything")
        self.assertNotContains(later, "hx-trigger")
        again = self.sent(**long_day)
        self.assertNotContains(again, "Trying what would change it")
        self.client.force_login(User.objects.create(email="bob@example.org"))
        self.assertContains(self.sent(at="plan-changes", **long_day), "hx-trigger")

    def test_a_replayed_day_is_the_start_of_the_next_plan(self) -> None:
        sent = self.client.post(reverse("replay"), {"setup": SETUP, "example": "on"})
        table = {"setup": SETUP, "table": sent.context["table"], "name": "Gannets"}
        day = self.client.post(reverse("outing-keep"), table, follow=True).context["found"].kept
        planned = (
            self.client.get(f"{reverse('plan')}?like={day.pk}&{SETUP}").context["found"].planned
        )
        was = sent.context["day"]
        frames = planned.day.frames_range
        self.assertLess(frames.low, was.frames)
        self.assertGreater(frames.high, was.frames)

    def test_the_database_refuses_what_no_period_is(self) -> None:
        self.client.post(reverse("outing-keep-plan"), form(name="Weir"))
        plan = OutingPlan.objects.get()
        good = {"plan": plan, "number": 9, "name": "x", "minutes": 30}
        for wrong in ({"minutes": 0}, {"bursts_an_hour": -1}, {"hold_s": 5, "long_hold_s": 4},
                      {"hold_s": 0}, {"singles_an_hour": 4_000}, {"number": 1},
                      {"frame_rate_fps": 0}, {"arrangement": "both"}):  # fmt: skip
            with self.subTest(wrong), self.assertRaises(IntegrityError), transaction.atomic():
                OutingPeriod.objects.bulk_create([OutingPeriod(**good | wrong)])
