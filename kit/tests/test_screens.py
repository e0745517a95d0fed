"""The screens of the kit: what they answer, and that bad input loses nothing."""

from typing import Any

from django.contrib.auth import get_user_model
from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from kit import edit, sample
from kit.document import document_of
from kit.engine_adapter import kept_writing
from kit.models import Body, Card, CardState, Reader, Revision, SlotArrangement
from kit.tests import builders

FACE = "Gravelock Tide Pro 128 GB SDXC II U3 V60 280MB/s R 150MB/s W"
RATES = "shutter_modes-0-frame_rates"
CARD = {
    "save": "1", "marks": FACE, "maker": "Gravelock", "name": "Tide Pro", "form": "SD",
    "bus": "UHS-II", "capacity_gb": "128", "sustained_write_mb_s": "95",
    "sustained_source": "estimated", "state": "in_use",
}  # fmt: skip


class Screens(TestCase):
    def setUp(self) -> None:
        self.ann = get_user_model().objects.create(email="ann@example.org", shows_sample=True)
        self.client.force_login(self.ann)

    def add(self, **changes: str) -> Any:
        return self.client.post(reverse("card-new"), CARD | changes)


class AddingACard(Screens):
    def test_a_pasted_text_fills_the_form_and_corrections_stay_while_typing_goes_on(self) -> None:
        page = self.client.get(reverse("card-new"), {"marks": FACE})
        self.assertContains(page, "Made for 60 MB/s without a break, as video needs.")
        self.assertContains(page, 'name="maker" value="Gravelock"')
        self.assertContains(page, 'name="sustained_write_mb_s" value="110"')
        typed = CARD | {"read_before": FACE, "marks": FACE.replace("128", "256"), "name": "Mine"}
        del typed["save"]
        again = self.client.post(reverse("card-new"), typed, headers={"HX-Request": "true"})
        self.assertContains(again, 'name="name" value="Mine"')
        self.assertContains(again, 'name="capacity_gb" value="256"')
        self.assertNotContains(again, "<html")

    def test_a_card_is_kept_as_sure_as_its_estimate_and_taken_back(self) -> None:
        self.add()
        card = Card.objects.get()
        self.assertEqual(("gravelock-tide-pro", self.ann), (card.slug, card.owner))
        kept = kept_writing(card)
        self.assertTrue(kept and kept.low_mb_s < card.sustained_write_mb_s < kept.high_mb_s)
        self.client.post(reverse("undo", args=[Revision.objects.get().pk]))
        self.assertFalse(Card.objects.exists())

    def test_bad_input_gets_a_sentence_at_its_field_and_is_kept_as_typed(self) -> None:
        self.add(name="Twice")
        for changes, sentence in (
            ({"capacity_gb": "0"}, "Capacity must be from 0.001 to 128,000 GB."),
            ({"capacity_gb": "a lot"}, "“a lot” is not a number of GB."),
            ({"sustained_write_mb_s": "1e9"}, "Sustained write must be from 0.001"),
            ({"sustained_write_mb_s": "nan"}, "“nan” is not a number of MB/s."),
            ({"sustained_write_mb_s": "1.095"}, "may mean 1095 or 1.0950"),
            ({"bus": "UDMA 7"}, "This form has no such bus."),
            ({"printed_write_mb_s": "90"}, "must not be above printed write"),
            ({"name": ""}, "This field is required."),
            ({"name": "Twice"}, "already exists"),
        ):
            with self.subTest(sentence, **changes):
                page = self.add(**changes)
                self.assertContains(page, sentence, status_code=422)
                for name, value in changes.items():
                    self.assertEqual(value, page.context["form"][name].value())
        self.assertEqual(1, Card.objects.count())

    def test_odd_texts_are_read_and_said_to_be_odd(self) -> None:
        for text, sentence in (
            ("SDXC UHS-I V90 128GB", "V90 needs UHS-II or better, not UHS-I"),
            ("\U0001f600", "Nothing here reads as a mark"),
            ("SDXC " + "x" * 1_000_000, "Only the first 2,000 characters were read."),
        ):
            with self.subTest(sentence):
                page = self.client.post(reverse("card-new"), {"marks": text})
                self.assertContains(page, sentence)


class KeepingTheKit(Screens):
    def test_of_two_tabs_the_second_is_told_and_loses_nothing(self) -> None:
        self.add()
        edit = reverse("card-edit", args=["gravelock-tide-pro"])
        tabs = [CARD | {"version": self.client.get(edit).context["form"]["version"].value()}] * 2
        self.client.post(edit, tabs[0] | {"capacity_gb": "256"})
        second = self.client.post(edit, tabs[1] | {"capacity_gb": "64"})
        self.assertContains(second, "nothing of this has been saved", status_code=422)
        self.assertContains(second, 'name="capacity_gb" value="64"', status_code=422)
        self.assertEqual(256, Card.objects.get().capacity_gb)
        self.client.post(edit, {name: f.value() or "" for name, f in
                                ((f.name, f) for f in second.context["form"])})  # fmt: skip
        self.assertEqual(64, Card.objects.get().capacity_gb)

    def test_a_failure_in_the_log_makes_a_card_suspect_until_that_is_undone(self) -> None:
        self.add()
        log = reverse("card-log", args=["gravelock-tide-pro"])
        bad = self.client.post(log, {"on": "31 February", "event": "failure"})
        self.assertContains(bad, "Enter a valid date.", status_code=422)
        self.client.post(log, {"on": "2026-11-01", "event": "failure", "words": "3 frames lost"})
        self.assertEqual(CardState.SUSPECT, Card.objects.get().state)
        self.client.post(reverse("undo", args=[Revision.objects.latest("pk").pk]))
        card = Card.objects.get()
        self.assertEqual((CardState.IN_USE, 0), (card.state, card.log.count()))
        page = self.client.get(reverse("card", args=[card.slug]))
        self.assertContains(page, "Undone: Log of Gravelock Tide Pro: it counts as suspect now")
        self.client.post(reverse("undo", args=[Revision.objects.earliest("pk").pk]))
        page = self.client.get(reverse("card", args=[card.slug]))
        self.assertContains(page, "This can&#39;t be undone any more")

    def test_archived_things_leave_the_choices_and_come_back(self) -> None:
        sample.load()
        self.add()
        act = {"kind": "cards", "slug": "gravelock-tide-pro"}
        self.client.post(reverse("archive", kwargs=act))
        self.assertContains(self.client.get(reverse("cards")), "Gravelock Tide Pro archived.")
        self.assertNotContains(self.client.get(reverse("cards")), "Tide Pro")
        self.assertContains(self.client.get(reverse("cards") + "?whose=archived"), "Tide Pro")
        desk = self.client.get(reverse("desk"), {"card2": "gravelock-tide-pro", "to": "mirror"})
        self.assertContains(desk, "The Gravelock Tide Pro is archived")
        self.client.post(reverse("bring-back", kwargs=act))
        desk = self.client.get(reverse("desk"), {"card2": "gravelock-tide-pro", "to": "mirror"})
        self.assertContains(desk, '<option value="gravelock-tide-pro" selected>')
        self.assertContains(desk, '<optgroup label="Yours">')

    def test_a_sample_body_is_copied_and_becomes_the_same_with_newer_firmware(self) -> None:
        sample.load()
        original = Body.objects.get(slug="quillon-heron-4-firmware-1-3")
        for _ in range(2):
            self.client.post(reverse("duplicate", args=["bodies", original.slug]))
        mine = Body.objects.owned_by(self.ann)
        self.assertEqual({"1.3", "1.3 2"}, {body.firmware for body in mine})
        body = mine.get(firmware="1.3 2")
        edit = reverse("body-edit", args=[body.slug])
        SlotArrangement.objects.filter(body=body, kind="single").update(number=9)
        before = document_of(body)
        self.client.post(edit, _as_sent(self.client.get(edit).context["form"]))
        self.assertEqual(before, document_of(Body.objects.get(pk=body.pk)))
        self.client.post(edit, _as_sent(self.client.get(edit).context["form"])
                         | {"firmware": "2.0", "memory_frames": "20"})  # fmt: skip
        body.refresh_from_db()
        self.assertEqual(("2.0", 20 * 60), (body.firmware, body.memory_mb))

    def test_a_bad_row_of_a_body_is_told_at_its_field(self) -> None:
        body = builders.ready_body(owner=self.ann)
        edit = reverse("body-edit", args=[body.slug])
        for changes, sentence in (
            ({f"{RATES}-0-fps": "-3"}, "Fps must be from 0.001"),
            ({f"{RATES}-1-fps": "20"}, "This is listed twice."),
            ({f"{RATES}-0-DELETE": "on"}, "Give a frame rate."),
            ({"formats-0-files-0-file_mb": "0"}, "File must be from 0.001"),
            ({"formats-0-files-0-spread_mb": "60"}, "must not be above file"),
            ({"slots-0-cap_mb_s": "900"}, "Cap and cap source go together."),
            ({"memory_mb": ""}, "Give the buffer in MB, or in frames"),
            (
                {
                    "slots-0-accepted_forms-0-takes": "",
                    "slots-1-accepted_forms-0-takes": "SD|UHS-II",
                },
                "Say what slot 1 takes before",
            ),
        ):
            with self.subTest(sentence):
                sent = _as_sent(self.client.get(edit).context["form"]) | changes
                page = self.client.post(edit, sent)
                self.assertContains(page, sentence, status_code=422)
        self.assertEqual(1, Body.objects.get().version)

    def test_a_reader_tells_the_minutes_for_each_card(self) -> None:
        builders.saved(builders.card(owner=self.ann, printed_read_mb_s=1000))
        entry = {"maker": "Tarn", "name": "Slip", "port": "USB 5 Gb/s",
                 "accepted_forms-TOTAL_FORMS": "1", "accepted_forms-INITIAL_FORMS": "0",
                 "accepted_forms-0-takes": "CFexpress B|PCIe 3 x2"}  # fmt: skip
        self.client.post(reverse("reader-new"), entry)
        page = self.client.get(reverse("reader", args=[Reader.objects.get().slug]))
        self.assertContains(page, "20 to 25\xa0min, at best")
        self.assertContains(page, "up to 500\xa0MB/s, about 430\xa0MB/s in practice")
        self.assertContains(page, "limited by the port, USB 5 Gb/s")


class Lists(Screens):
    def test_cards_are_found_by_owner_form_state_and_words(self) -> None:
        sample.load()
        self.add()
        for query, first, count in (
            ("", "Gravelock Tide Pro", 17),
            ("whose=mine", "Gravelock Tide Pro", 1),
            ("form=XQD", "Gravelock Ebb 120", 2),
            ("named=fennimore+256", None, 0),
            ("state=retired&whose=nonsense", None, 0),
        ):
            with self.subTest(query):
                page = self.client.get(f"{reverse('cards')}?{query}").context["page"]
                self.assertEqual(count, page.paginator.count)
                self.assertEqual(first, str(page[0]) if first else None)

    def test_lists_and_matrix_take_as_many_queries_for_five_cards_as_for_five_hundred(self) -> None:
        body = builders.ready_body(owner=self.ann)
        self.assertTrue(body.slots.exists())
        counts = []
        for size in (5, 500):
            Card.objects.bulk_create(
                builders.card(owner=self.ann) for _ in range(size - Card.objects.count())
            )
            counts.append([self.queries(name) for name in ("cards", "bodies", "readers", "fits")])
        self.assertEqual(counts[0], counts[1])

    def queries(self, name: str) -> int:
        with CaptureQueriesContext(connection) as queries:
            self.client.get(reverse(name))
        return len(queries)

    def test_a_card_tells_the_minutes_for_some_frames_of_some_size(self) -> None:
        sample.load()
        for query, minutes in (("", "9 to 9.9"), ("?frames=1140&frame_mb=50,0 MB", "1 to 1.1"),
                               ("?frames=-1&frame_mb=x", "9 to 9.9")):  # fmt: skip
            page = self.client.get(reverse("card", args=["gravelock-tide-512"]) + query)
            self.assertContains(page, f"<strong>{minutes}\xa0min</strong>")

    def test_a_card_tells_what_it_does_worn_and_nearly_full(self) -> None:
        sample.load()
        for page in (self.client.get(reverse("card", args=["fennimore-swell-1000"])),
                     self.client.get(reverse("cards"))):  # fmt: skip
            self.assertContains(page, "all of the cache is back after 38 s of rest")
            self.assertContains(page, "ith less than 100 GB free it writes 147 MB/s")

    def test_a_card_tells_what_part_of_its_speed_each_slot_wastes(self) -> None:
        sample.load()
        page = self.client.get(reverse("card", args=["gravelock-breaker-1000"]))
        self.assertContains(page, "writes 880\xa0MB/s here, 28 % of its speed unused", 1)

    def test_the_matrix_leads_to_the_desk_where_a_card_mounts(self) -> None:
        sample.load()
        heron = Body.objects.get(slug="quillon-heron-4-firmware-1-3")
        edit.copy(heron, self.ann)
        for slug in ("gravelock-tide-512", "gravelock-ebb-120"):
            edit.copy(Card.objects.get(slug=slug), self.ann)
        page = self.client.get(reverse("fits"))
        self.assertContains(page, "/?body=quillon-heron-4-1-3&amp;card1=gravelock-ebb-120-2")
        self.assertNotContains(page, "card1=gravelock-tide-512")
        self.assertContains(page, "after firmware")


def _as_sent(form: Any) -> dict[str, str]:
    """What a browser sends of a form, and of the forms in it, as they are shown."""
    sent: dict[str, str] = {}
    for field in form:
        value = field.value()
        if value is True:
            sent[field.html_name] = "on"
        elif value is not None and value is not False:
            sent[field.html_name] = str(value)
    for part in getattr(form, "parts", {}).values():
        for inner in (part.management_form, *part):
            sent |= _as_sent(inner)
    return sent
