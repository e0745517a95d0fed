"""Choose: the need in the address, what it is evaluated with, and what is said of it."""

import csv
import io
from collections.abc import Mapping
from datetime import date
from itertools import product
from random import Random
from typing import Any, ClassVar
from unittest import mock
from urllib.parse import parse_qsl

from django.contrib.auth import get_user_model
from django.contrib.auth.models import AnonymousUser
from django.db import connection
from django.test import Client, TestCase
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from procrastinate.contrib.django.models import ProcrastinateJob

from choose import evaluating, need_address
from choose.need_address import NeedReading
from choose.page import ChoicePage
from choose.tests.builders import forget_results
from engine.selection.evaluate import evaluate
from engine.selection.stories import STORIES
from kit import edit, sample
from kit.models import Body, Card, CardState, Change, Visitor
from kit.tests.builders import card, saved
from pages.background import results
from pages.tests.jobs import work_off
from prices.models import ExchangeRate, Offer
from prices.tests.builders import no_prices, usual_list
from setups.engine_adapter import scenario_of, sources_of
from setups.kit import Kit
from setups.reader import read_address

NOBODY = AnonymousUser()
VX_3 = "varnholt-vx-3"
A_STEP_S = 1e-9  # of work
HERON = "quillon-heron-4-firmware-2-0"


class ChooseCase(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()
        usual_list()
        cls.user = get_user_model().objects.create(email="a@skerry.example", shows_sample=True)

    def setUp(self) -> None:
        forget_results()
        patient = mock.patch.object(evaluating, "WORK_S", float("inf"))
        patient.start()
        self.addCleanup(patient.stop)

    def reading(self, visitor: Visitor = NOBODY, **asked: str) -> NeedReading:
        reading = need_address.read(asked, Kit(visitor))
        assert reading is not None
        return reading

    def page(self, visitor: Visitor = NOBODY, **asked: str) -> ChoicePage:
        return ChoicePage(self.reading(visitor, **asked), work_s=evaluating.WORK_S)

    def answer(self, visitor: Visitor = NOBODY, **asked: str) -> str:
        answer = self.page(visitor, **asked).answer
        return f"{answer.cards}: {answer.price}" if answer else "none"

    def get(self, **asked: Any) -> Any:
        return self.client.get(reverse("choose"), asked, follow=True)


class NeedAddressTests(ChooseCase):
    def test_a_story_fills_the_need_and_each_of_its_numbers_can_be_changed(self) -> None:
        for story in STORIES:
            self.assertEqual(story.need, self.reading(story=story.name).need)
        changed = self.reading(story="start", full="1,5 s").need
        self.assertEqual((1.5, 4, 2), (changed.full_rate_s, changed.lasts_s, changed.copies))

    def test_the_day_follows_from_the_series_unless_somebody_typed_it(self) -> None:
        series = {"lasts": "3", "every": "20", "minutes": "60", "fps": "20"}
        for story in STORIES:
            asked = series | {"story": story.name, "full": "", "frames": "", "within": ""}
            reading = self.reading(**asked)
            self.assertEqual(180 * 60, reading.need.day_frames(20))
            self.assertContains(self.get(**asked), 'placeholder="10,800"')
            self.assertEqual(500, self.reading(**asked | {"day": "500"}).need.day_frames(20))
            self.assertEqual("", self.reading(**asked | {"minutes": ""}).day_words)
            several = self.reading(**asked | {"fps": "any"}).day_words
            self.assertRegex(several, r"^[\d,]+ to [\d,]+$")

    def test_a_wish_that_is_asked_for_is_never_folded_away(self) -> None:
        self.assertFalse(self.reading(story="plunge-dive").wishes_more)
        for asked in ({"light": "3"}, {"which": "last"}, {"sure": "95"}, {"copied": "soon"},
                      {"iso": "6400"}, {"story": "start"}):  # fmt: skip
            self.assertTrue(self.reading(**{"story": "plunge-dive"} | asked).wishes_more, asked)

    def test_the_address_gives_the_same_view_again(self) -> None:
        for asked in (
            {"story": "sprint-finish", "budget": "99,50", "money": "gbp", "format": "raw"},
            {"lasts": "4", "fps": "any", "over": "open water", "iso": "6400", "plain": "1"},
            {"lasts": "", "full": "x", "form": "XQD", "least": "64 GB", "among": "own"},
        ):
            reading = self.reading(**asked)
            again = self.reading(**dict(parse_qsl(reading.address, keep_blank_values=True)))
            self.assertEqual(reading.address, again.address)
            self.assertEqual((reading.need, reading.faults), (again.need, again.faults))

    def test_what_is_wrong_is_told_at_its_field_and_stays_there(self) -> None:
        for key, typed in {
            "lasts": "", "every": "1", "minutes": "-1", "full": "long", "within": "9",
            "picture": "-1", "light": "soon", "day": "2,5", "free": "-2", "sure": "100",
            "frames": "1e99", "copied": "nan", "budget": "-3", "least": "big",
        }.items():  # fmt: skip
            with self.subTest(key):
                reading = self.reading(story="rebound", **{key: typed})
                self.assertEqual([key], list(reading.faults))
                self.assertEqual((None, typed), (reading.need, reading.shown[key]))
                self.assertContains(self.get(story="rebound", **{key: typed}), f"fault-{key}")

    def test_all_that_is_wrong_is_told_at_once(self) -> None:
        faults = self.reading(lasts="5", full="7", budget="x", day="0").faults
        self.assertEqual({"full", "budget", "day"}, set(faults))

    def test_frames_that_no_rate_gives_are_no_matter_of_cards(self) -> None:
        self.assertIn("at most", self.reading(lasts="2", frames="41").faults["frames"])
        self.assertEqual({}, self.reading(lasts="2", frames="41", fps="any").faults)

    def test_ways_to_shoot_are_one_or_all_of_a_kind(self) -> None:
        def formats(**asked: str) -> int:
            return len(self.reading(body=VX_3, **asked).setups)

        self.assertEqual((1, 4, 7), (formats(), formats(format="raw"), formats(format="any")))
        self.assertEqual(5, formats(fps="any"))


class AdapterTests(ChooseCase):
    def test_an_option_is_the_very_set_up_that_opens_on_the_desk(self) -> None:
        for body in Body.objects.all():
            page = self.page(body=body.slug, lasts="2", format="any", iso="3200")
            choice = page.choice
            for place in range(0, len(choice.options), 7):
                query = dict(parse_qsl(page.names.shown(place).query))
                setup = read_address(query, Kit(NOBODY)).setup
                option = choice.option(place)
                self.assertEqual(scenario_of(setup), option.scenario(2))
                self.assertEqual(sources_of(setup), option.sources)


class ChoosingTests(ChooseCase):
    def test_work_goes_on_where_it_stopped_and_is_never_done_twice(self) -> None:
        reading = self.reading(format="any")
        evaluated = evaluating.cards_for(reading)
        evaluation = evaluating.evaluation_of(reading.setups, evaluated, reading.need)
        self.assertEqual(0, evaluating.continue_evaluation(evaluation, 0).share)
        shares = []
        with mock.patch("engine.selection.steps.evaluate", side_effect=evaluate) as shot:
            while (progress := evaluating.continue_evaluation(evaluation, A_STEP_S)).choice is None:
                shares.append(progress.share)
            self.assertIsNotNone(evaluating.continue_evaluation(evaluation, 0).choice)
            entries = [evaluation.numbers(call.args[1]) for call in shot.call_args_list]
            self.assertEqual(evaluation.total, sum(map(len, entries)))
        self.assertGreater(len(shares), 5)
        self.assertEqual(sorted(set(shares)), shares)
        other = evaluating.evaluation_of(reading.setups, evaluated[1:], reading.need)
        self.assertEqual(0, evaluating.continue_evaluation(other, 0).share)

    def test_what_would_help_is_tried_in_steps_and_comes_to_the_same(self) -> None:
        asked = {"body": VX_3, "story": "start", "full": "4"}
        at_once = [way.words for way in self.page(**asked).suggestions.found]
        forget_results()
        rounds, page = 1, None
        with mock.patch.object(evaluating, "WORK_S", A_STEP_S):
            while page is None or page.unfinished:
                page, rounds = self.page(**asked), rounds + 1
        self.assertGreater(rounds, 5)
        self.assertTrue(at_once)
        self.assertEqual(at_once, [way.words for way in page.suggestions.found])


class BackgroundTests(ChooseCase):
    """What a request does not finish; here the first request does one step only."""

    LONG: ClassVar = {"body": VX_3, "format": "any", "lasts": "3"}

    def setUp(self) -> None:
        super().setUp()
        evaluating.WORK_S = A_STEP_S

    def test_what_is_long_is_worked_out_while_somebody_waits_and_comes_to_the_same(self) -> None:
        at_once = ChoicePage(self.reading(**self.LONG), work_s=float("inf")).answer
        forget_results()
        self.assertContains(self.get(**self.LONG), "go=on")
        self.assertEqual(1, ProcrastinateJob.objects.count())
        self.assertContains(self.get(**self.LONG, go="on"), "progress")
        self.assertEqual(1, work_off())
        self.assertContains(self.get(**self.LONG, go="on"), at_once.cards)
        self.assertEqual(0, work_off())

    def test_it_stops_when_it_is_stopped_or_nobody_waits(self) -> None:
        for leave in (
            lambda: self.assertContains(self.get(**self.LONG, stop="1"), "Stopped"),
            lambda: results.delete_many([waited_for(job) for job in jobs()]),
        ):
            self.assertNotContains(self.get(**self.LONG), "Stopped")
            leave()
            before = ChoicePage(self.reading(**self.LONG), work_s=0).progress
            work_off()
            after = ChoicePage(self.reading(**self.LONG), work_s=0).progress
            self.assertEqual(before, after)

    def test_one_visitor_has_one_at_a_time_and_is_told_what_comes_first(self) -> None:
        self.get(**self.LONG)
        after = self.LONG | {"lasts": "4"}
        self.assertContains(self.get(**after), "nothing works on it just now")
        with mock.patch("pages.background.has_worker", return_value=True):
            self.assertContains(self.get(**after), "1 job comes first")
        self.assertEqual(1, len({job.lock for job in jobs()}))
        self.client.force_login(self.user)
        self.get(**self.LONG | {"lasts": "5"})
        self.assertEqual(2, len({job.lock for job in jobs()}))

    def test_what_would_take_too_long_is_given_up_and_not_begun_again(self) -> None:
        self.get(**self.LONG)
        with mock.patch.multiple("choose.tasks", MOST_S=-1, WORK_S=A_STEP_S):
            work_off()
        self.assertContains(self.get(**self.LONG), "Too many cards")
        self.assertEqual(0, work_off())

    def test_so_many_an_hour_and_no_more(self) -> None:
        with mock.patch("pages.background.AN_HOUR", 1):
            self.get(**self.LONG)
            self.assertContains(self.get(**self.LONG | {"lasts": "4"}), "very much longer work")
        self.assertEqual(1, work_off())

    def test_digits_that_change_nothing_make_no_new_evaluation(self) -> None:
        def cache_key(**asked: str) -> str:
            return evaluating.cache_key(self.page(**self.LONG | asked).evaluation)

        asked = {"full": "1.5", "picture": "2", "light": "3", "sure": "80", "copied": "20"}
        for key in asked:
            more = asked | {key: asked[key] + ("" if "." in asked[key] else ".") + "0000001"}
            self.assertEqual(cache_key(**asked), cache_key(**more), key)
        self.assertNotEqual(cache_key(**asked), cache_key(**asked | {"full": "1.6"}))


def jobs() -> list[ProcrastinateJob]:
    return list(ProcrastinateJob.objects.all())


def waited_for(job: ProcrastinateJob) -> str:
    return f"waited-for:{job.queueing_lock}"


class MeasureFirst(ChooseCase):
    def test_a_card_known_by_its_label_that_may_do_it_is_to_be_tested_before_one_is_bought(
        self,
    ) -> None:
        label = "CFexpress Type B 512GB R1700 W1500"
        body = edit.duplicate(Body.objects.get(slug=VX_3), self.user).changed
        mine = saved(
            card(
                name="Reach 512",
                slug="reach",
                marks=label,
                bus="PCIe 3 x2",
                form="CFexpress B",
                capacity_gb=512,
                printed_write_mb_s=1_500,
                sustained_write_mb_s=700,
                sustained_source="estimated",
                owner=self.user,
            )
        )
        self.client.force_login(self.user)
        need = {"body": body.slug, "lasts": "4", "full": "4", "among": "all"}
        page = self.client.get(reverse("choose"), need)
        self.assertContains(page, "Measure first:")
        self.assertContains(page, f"card1={mine.slug}")
        measured = {"sustained_source": "measured_here", "measured_in": str(body)}
        Card.objects.filter(pk=mine.pk).update(**measured)
        self.assertNotContains(self.client.get(reverse("choose"), need), "Measure first:")


class AnswerTests(ChooseCase):
    def test_a_dear_card_that_nobody_could_tell_is_said_to_be_one(self) -> None:
        page = self.page(body=HERON, story="take-off")
        self.assertEqual("Gravelock Tide 256", page.answer.cards)
        self.assertIn("Gravelock Breaker 1000", [one.cards for one in page.first_group.shown])
        self.assertContains(self.get(body=HERON, story="take-off"), "no practical difference")

    def test_where_no_card_does_it_what_to_change_comes_first(self) -> None:
        page = self.page(body="quillon-swift-7", story="plunge-dive")
        self.assertIsNone(page.answer)
        self.assertEqual(
            [
                "shoot 8 fps",
                "shoot 15 fps",
                "record JPEG normal",
                "record JPEG fine",
            ],
            [words for words, _, _ in page.found],
        )  # the smallest sacrifice first, then the cheapest
        self.assertContains(self.get(body="quillon-swift-7", story="plunge-dive"), "he closest is")

    def test_a_budget_and_two_copies_can_be_what_to_change(self) -> None:
        page = self.page(body=VX_3, lasts="2", copies="2", budget="5")
        self.assertIn("spend more", [words for words, _, _ in page.found])
        page = self.page(body=HERON, format="lossless-raw", lasts="15", full="15", iso="51200")
        self.assertIn("shoot at ISO 400", [words for words, _, _ in page.found])
        page = self.page(body=VX_3, lasts="4", full="4", copies="2")
        self.assertIn("keep one copy", [words for words, _, _ in page.found])

    def test_what_is_owned_is_kept_and_what_is_suspect_or_wanted_is_not(self) -> None:
        original = Card.objects.get(slug="gravelock-tide-256")
        for state, said in ((CardState.IN_USE, "yours"), (CardState.WANTED, "119\xa0EUR")):
            mine = edit.copy(original, self.user, state=state).changed
            self.assertEqual(
                f"{mine}: {said}", self.answer(self.user, body=HERON, story="take-off", among="own")
            )
            mine.delete()
        edit.copy(original, self.user, state=CardState.SUSPECT)
        page = self.page(self.user, body=HERON, story="take-off", among="own")
        self.assertEqual(["left out"], [row.verdict for row in page.rows])
        self.client.force_login(self.user)
        self.assertContains(self.get(body=HERON, story="take-off", among="own"), "No card fits")

    def test_a_card_that_may_not_mount_is_never_an_answer_without_a_word(self) -> None:
        Card.objects.filter(maker="Gravelock").delete()
        self.assertContains(
            self.get(body=HERON, form="CFexpress B", lasts="4", full="4"),
            "Fennimore Swell 1000 in slot 1: may not mount: test first.",
        )

    def test_one_verdict_is_told_everywhere(self) -> None:
        for number, original in enumerate(Card.objects.of_sample_kit()):
            if number % 2:
                edit.copy(original, self.user)
        wishes = ({}, {"full": "", "frames": "", "every": ""}, {"copies": "2"})
        needs = list(product(Body.objects.all(), STORIES, wishes))
        for body, story, asked in Random(5).sample(needs, 30):
            page = self.page(self.user, body=body.slug, story=story.name, **asked)
            if (choice := page.choice) is None or choice.answer is None:
                continue
            with self.subTest(body.slug, story=story.name, **asked):
                _, _, *cards = choice.options.which(choice.answer)
                chosen = [row for row in page.rows if row.number in cards]
                self.assertEqual({"passes"}, {row.verdict for row in chosen})
                full = choice.options.full_speed
                for place in choice.ties[0]:
                    most = max(int(full[place]), int(full[choice.ties[0][0]]))
                    more = abs(int(full[place]) - int(full[choice.ties[0][0]]))
                    self.assertLessEqual(more, max(1, most / 10))

    def test_a_short_burst_needs_no_fast_card(self) -> None:
        self.assertContains(self.get(body=HERON, lasts="1"), "You never fill the buffer")

    def test_the_second_copy_is_never_free_of_charge_unseen(self) -> None:
        page = self.page(body=VX_3, format="lossy-raw", lasts="6", full="1.4", copies="2")
        self.assertRegex(page.price_of_safety, r"costs \d+ of 120\sframes at full speed and \d")

    def test_cards_go_without_their_names_where_no_brand_is_to_count(self) -> None:
        page = self.get(body=HERON, plain="1")
        self.assertContains(page, "CFexpress B 256 GB, 430 MB/s")
        self.assertNotContains(page, "Gravelock Tide")

    def test_every_card_is_there_with_why(self) -> None:
        page = self.page(body=VX_3)
        self.assertEqual(Card.objects.of_sample_kit().count(), len(page.rows))
        self.assertTrue(all(row.why or row.verdict == "passes" for row in page.rows))
        why: Mapping[str, str] = {row.evaluated.card.slug: row.why for row in page.rows}
        self.assertEqual(
            "full speed lasts 2 s of the 3 s you want in the worst burst",
            why["gravelock-tide-256"].replace("\xa0", " "),
        )
        self.assertIn("slot 1 takes CFexpress B, slot 2 takes SD", why["tarn-lode-64"])


class PriceTests(ChooseCase):
    def test_two_currencies_are_never_added_up_without_a_rate(self) -> None:
        Offer.objects.filter(name="Tide 256").update(currency="GBP")
        page = self.page(body=HERON, story="take-off")
        self.assertEqual(["GBP"], page.without_rate)
        self.assertNotIn("Tide 256", page.answer.cards)
        self.assertContains(self.get(body=HERON, story="take-off"), "no rate to EUR is noted")
        ExchangeRate.objects.create(currency="GBP", against="EUR", rate=1.1, on=date(2026, 11, 1))
        self.assertEqual(
            "Gravelock Tide 256: 130.90\xa0EUR", self.answer(body=HERON, story="take-off")
        )
        self.assertContains(
            self.get(body=HERON, story="take-off"), "Prices in GBP count at 1 GBP = 1.1 EUR"
        )

    def test_without_any_price_the_cards_are_still_compared(self) -> None:
        no_prices()
        page = self.page(body=HERON, story="take-off")
        self.assertEqual((None, "price not known"), (page.money.drawing, page.answer.price))
        self.assertGreater(page.without_price, 3)
        shown = self.get(body=HERON, story="take-off")
        self.assertContains(shown, "no price yet")
        self.assertContains(shown, "which is the cheapest is unknown")
        self.assertNotContains(shown, "the cheapest that works")


class ScreenTests(ChooseCase):
    def test_nonsense_is_answered(self) -> None:
        for asked in (
            {"body": "nobody"}, {"story": "none"}, {"sure": "0"}, {"money": "€"}, {"form": "tape"},
            {"lasts": "9" * 400}, {"copies": "3"}, {"plain": "x"}, {"fps": "any", "format": "\0"},
            {"pin": "x=1"}, {"lasts": "3", "full": "3", "stop": "1"}, {"budget": "0"},
        ):  # fmt: skip
            with self.subTest(asked):
                self.assertEqual(200, self.get(**asked).status_code)

    def test_a_choice_is_taken_along_a_line_a_card(self) -> None:
        told = (
            self.client.get(reverse("choice-csv"), {"body": HERON, "story": "take-off"})
            .getvalue()
            .decode()
        )
        lines = list(csv.DictReader(io.StringIO(told)))
        self.assertEqual(Card.objects.of_sample_kit().count(), len(lines))
        best = lines[0]
        self.assertEqual(("Gravelock Tide 256", "passes"), (best["card"], best["verdict"]))
        self.assertEqual(200, self.client.get(best["desk"]).status_code)
        refused = self.client.get(reverse("choice-csv"), {"lasts": "x"})
        self.assertEqual(404, refused.status_code)

    def test_a_kit_without_a_body_says_what_to_do(self) -> None:
        Body.objects.all().delete()
        self.assertContains(self.get(), "There is no body to choose for")

    def test_a_thousand_cards_are_evaluated_and_a_million_pairs_narrowed_down(self) -> None:
        Card.objects.bulk_create(
            card(slug=f"shoal-{n}", maker="Tarn", name=f"Shoal {n}", form="SD", bus="UHS-II",
                 capacity_gb=128, sustained_write_mb_s=20 + n / 5)
            for n in range(1_000)
        )  # fmt: skip
        self.assertContains(self.get(body="pellow-wren-10", format="jpeg-fine"), "Works")
        with mock.patch("choose.page.MOST_ENTRIES", 10):
            response = self.get(body="pellow-meridian-61", story="start")
        self.assertContains(response, "Too many cards")

    def test_the_number_of_queries_does_not_grow_with_the_cards(self) -> None:
        def queries() -> int:
            Change.objects.create()  # so that the kit is fetched anew
            with CaptureQueriesContext(connection) as counted:
                Client().get(reverse("choose"), {"body": "pellow-wren-10"})
            return len(counted)

        few = queries()
        for number in range(5):
            saved(card(form="SD", bus="UHS-I", slug=f"more-{number}"))
        self.assertEqual(few, queries())
