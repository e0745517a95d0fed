"""What the database refuses, and the questions that its querysets answer."""

from django.contrib.auth import get_user_model
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.test import TestCase

from kit.models import Body, Card, Source
from kit.tests import builders as a
from kit.tests.builders import saved


class Facts(TestCase):
    def test_each_is_guarded_by_the_model_and_by_the_database(self) -> None:
        body = saved(a.body(name="V1"))
        mode = saved(a.shutter_mode(body))
        slot = saved(a.slot(body, number=2))
        recording = saved(a.recording_format(body, number=2, slug="other"))
        saved(a.card(name="Tide 1"))
        saved(a.frame_rate(mode))
        saved(a.accepted_form(slot))
        saved(a.recorded_file(recording))
        saved(a.arrangement(body))
        for fact, row in (
            ("body_is_listed_once", a.body(name="V1")),
            ("body_memory_is_in_range", a.body(memory_mb=0)),
            ("body_memory_is_in_range", a.body(memory_mb=float("nan"))),
            ("body_memory_has_a_source", a.body(memory_source="heard")),
            ("body_resume_has_a_source", a.body(resume_source="heard")),
            ("body_resumes_in_range", a.body(resume_free_frames=0)),
            ("shutter_mode_is_listed_once", a.shutter_mode(body, number=2)),
            ("shutter_mode_has_a_place_of_its_own", a.shutter_mode(body, name="silent")),
            ("frame_rate_is_listed_once", a.frame_rate(mode, number=2)),
            ("frame_rate_has_a_place_of_its_own", a.frame_rate(mode, fps=12)),
            ("frame_rate_is_in_range", a.frame_rate(mode, fps=0, number=2)),
            ("frame_rate_has_a_source", a.frame_rate(mode, fps=12, number=2, source="x")),
            ("slot_is_listed_once", a.slot(body, number=2)),
            ("slot_is_the_first_or_second", a.slot(body, number=3)),
            ("slot_cap_is_in_range", a.slot(body, cap_mb_s=-1, cap_source="printed")),
            ("slot_cap_comes_with_its_source", a.slot(body, cap_mb_s=100)),
            ("slot_cap_comes_with_its_source", a.slot(body, cap_source="printed")),
            ("slot_cap_has_a_known_source", a.slot(body, cap_mb_s=100, cap_source="x")),
            ("slot_overhead_is_in_range", a.slot(body, overhead_s=-0.1)),
            ("slot_overhead_has_a_source", a.slot(body, overhead_source="x")),
            ("arrangement_is_listed_once", a.arrangement(body, number=2)),
            ("arrangement_has_a_place_of_its_own", a.arrangement(body, kind="split")),
            ("arrangement_is_a_known_one", a.arrangement(body, number=2, kind="x")),
            (
                "arrangement_has_a_known_coupling",
                a.arrangement(body, number=2, kind="split", coupling="x"),
            ),
            ("arrangement_has_a_source", a.arrangement(body, number=2, kind="split", source="x")),
            ("format_iso_step_is_in_range", a.recording_format(body, iso_step=-0.1)),
            ("format_detail_step_is_in_range", a.recording_format(body, detail_step=1)),
            ("card_cache_is_in_range", a.card(cache_gb=200_000, cache_write_mb_s=800)),
            ("card_cache_speed_is_in_range", a.card(cache_gb=1, cache_write_mb_s=1e6)),
            (
                "card_cache_is_no_slower_than_the_card",
                a.card(cache_gb=1, cache_write_mb_s=a.card().sustained_write_mb_s - 1),
            ),
            ("card_cache_comes_with_its_speed", a.card(cache_gb=1)),
            ("card_slow_below_is_in_range", a.card(slow_below_free_gb=-1)),
            ("card_slow_factor_is_in_range", a.card(slow_factor=1.1)),
            ("form_is_accepted_once", a.accepted_form(slot, bus="PCIe 4 x2")),
            ("slot_bus_belongs_to_its_form", a.accepted_form(slot, form="SD", bus="XQD 1")),
            ("format_is_listed_once", a.recording_format(body, slug="other")),
            ("format_has_a_place_of_its_own", a.recording_format(body, number=2)),
            ("format_held_size_is_in_range", a.recording_format(body, held_mb=-1)),
            ("format_held_size_has_a_source", a.recording_format(body, held_source="x")),
            ("format_process_rate_comes_with_its_source", a.recording_format(body, process_fps=9)),
            (
                "format_process_rate_is_in_range",
                a.recording_format(body, process_fps=0, process_source="printed"),
            ),
            (
                "format_process_has_a_known_source",
                a.recording_format(body, process_fps=9, process_source="x"),
            ),
            ("file_is_listed_once", a.recorded_file(recording)),
            ("file_is_the_first_or_second", a.recorded_file(recording, number=3)),
            ("file_size_is_in_range", a.recorded_file(recording, number=2, file_mb=0, spread_mb=0)),
            ("file_size_has_a_source", a.recorded_file(recording, number=2, source="x")),
            ("file_spread_is_in_range", a.recorded_file(recording, number=2, spread_mb=-1)),
            ("file_spread_is_below_its_size", a.recorded_file(recording, number=2, spread_mb=51)),
            ("card_is_listed_once", a.card(name="Tide 1")),
            ("card_bus_belongs_to_its_form", a.card(bus="UHS-II")),
            ("card_capacity_is_in_range", a.card(capacity_gb=0)),
            ("card_capacity_is_in_range", a.card(capacity_gb=1_000_000)),
            ("card_read_is_in_range", a.card(printed_read_mb_s=0)),
            ("card_write_is_in_range", a.card(printed_write_mb_s=1e9)),
            ("card_sustained_is_in_range", a.card(sustained_write_mb_s=0)),
            ("card_sustained_has_a_source", a.card(sustained_source="x")),
            ("card_is_measured_in_a_body", a.card(sustained_source="measured_here")),
            ("card_sustains_no_more_than_printed", a.card(printed_write_mb_s=229)),
        ):
            with self.subTest(fact, row=repr(row)):
                with self.assertRaises(ValidationError):
                    row.full_clean()
                with self.assertRaisesRegex(IntegrityError, fact), transaction.atomic():
                    type(row).objects.bulk_create([row])

    def test_valid_rows_pass(self) -> None:
        for row in (a.body(), a.card(), a.card(printed_write_mb_s=230)):
            row.full_clean()
            row.save()


class Questions(TestCase):
    def test_a_card_is_measured_in_the_body_that_somebody_named_and_in_no_copy_of_it(self) -> None:
        ann, ben = (get_user_model().objects.create(email=f"{n}@example.org") for n in "ab")
        here, elsewhere = Source.MEASURED_HERE, Source.MEASURED_ELSEWHERE
        body = saved(a.body(owner=ann, name="V1", firmware="1.0"))
        card = a.card(owner=ann, sustained_source=here, measured_in=str(body))
        for other, source in (
            (body, here),
            (a.body(owner=ann, name="V1", firmware="1.1"), elsewhere),
            (a.body(owner=ann, name="V2", firmware="1.0"), elsewhere),
            (a.body(owner=ben, name="V1", firmware="1.0"), elsewhere),
            (a.body(name="V1", firmware="1.0"), elsewhere),
        ):
            self.assertEqual(source, card.source_in(other))
        self.assertEqual(f"measured in the {body}", card.source_words)
        card.sustained_source = Source.MEASURED_ELSEWHERE  # of another piece, as copies have it
        self.assertEqual(elsewhere, card.source_in(body))
        self.assertEqual(f"measured in another body ({body})", card.source_words)
        card.sustained_source = Source.PRINTED
        self.assertEqual(Source.PRINTED, card.source_in(body))

    def test_cards_that_fit_a_slot_include_microsd_by_adapter(self) -> None:
        slot = saved(a.slot(saved(a.body())))
        saved(a.accepted_form(slot, form="SD", bus="UHS-I"))
        sd = saved(a.card(form="SD", bus="UHS-II"))
        micro_sd = saved(a.card(form="microSD", bus="UHS-I"))
        saved(a.card())
        self.assertEqual({sd, micro_sd}, set(Card.objects.fitting(slot)))

    def test_only_complete_bodies_are_ready_to_shoot(self) -> None:
        ready = a.ready_body()
        a.ready_body().slots.all().delete()
        a.ready_body().shutter_modes.all().delete()
        a.ready_body().formats.all().delete()
        self.assertEqual([ready], list(Body.objects.ready_to_shoot()))
