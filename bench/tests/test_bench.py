"""The test bench: runs are kept as they were seen, and what they teach is shown."""

import csv
from datetime import datetime
from typing import Any
from urllib.parse import urlencode

from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import IntegrityError, connection, transaction
from django.test import Client, TestCase
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from accounts.models import User
from bench.engine_adapter import assumed, by_hand_of, observed_of
from bench.found_bursts import FoundBurst
from bench.measured import compared
from bench.models import Run
from engine.burst.scenario import File, LoadedSlot, Scenario
from engine.burst.simulate import simulate
from engine.measurement.capture_times import Picture, find_bursts, seconds_of
from engine.measurement.synthetic_camera import (
    picture_files,
    shutter_wav,
    strokes_s,
)
from kit import edit, sample
from kit.models import Body, Card, SlotArrangement, Source
from kit.models.body import WORDS_OF_COUPLING
from pages.tests.jobs import work_off
from setups.engine_adapter import scenario_of, sources_of
from setups.kit import Kit
from setups.prediction import predict
from setups.reader import read_query

BURST = simulate(Scenario(
    frame_rate_fps=10, hold_s=6, memory_mb=0.6, files=(File(name="jpeg", mb=0.03),),
    slots=(LoadedSlot(write_mb_s=0.15),),
))  # fmt: skip
SETUP = "body=pellow-wren-10"
SEEN = {"setup": SETUP, "hold_s": "8", "frames": "40", "clear_s": "6,2 s", "method": "tap"}


class Bench(TestCase):
    def setUp(self) -> None:
        sample.load()
        self.ann = User.objects.create(email="ann@example.org")
        self.client.force_login(self.ann)

    def save(self, client: Client | None = None, **changes: str):
        return (client or self.client).post(reverse("bench-test"), SEEN | changes)

    def test_a_tapped_depth_that_is_typed_over_is_tapped_no_more(self) -> None:
        tapped = {"frames_at_full_speed": "21", "depth_is_tapped": "on", "taps_s": "[0, 3.4]"}
        self.save(**tapped)
        run = Run.objects.get()
        for typed, is_tapped in (("21", True), ("25", False)):
            seen = SEEN | tapped | {"frames_at_full_speed": typed}
            self.client.post(reverse("run", args=[run.pk]), seen)
            run.refresh_from_db()
            self.assertEqual(is_tapped, observed_of(run).full_speed_tapped)

    def test_a_run_is_kept_as_it_was_seen_and_teaches_in_the_background(self) -> None:
        self.save(frames_at_full_speed="21", depth_is_tapped="on", taps_s="[0, 3.4, 8.02, 14.2]")
        run = Run.objects.get()
        self.assertEqual(
            (21, 40, 6.2, [0, 3.4, 8.02, 14.2], False),
            (run.frames_at_full_speed, run.frames, run.clear_s, run.taps_s, run.did_not_slow),
        )
        self.assertEqual(8, run.reading(Kit.of(self.ann)).setup.hold_s)
        self.assertTrue(observed_of(run).full_speed_tapped)
        address = reverse("bench-body", args=["pellow-wren-10"])
        self.assertContains(self.client.get(address), "Learning from 1 run")
        self.assertEqual(1, work_off())
        page = self.client.get(address)
        self.assertContains(page, "What the camera hides")
        self.assertGreater(page.context["report"].figures[0].ratios.narrowed, 1)
        self.assertEqual(0, work_off())

    def test_what_to_test_for_a_set_up_follows_from_what_is_known_of_it(self) -> None:
        """From what is assumed without a run; afterwards from the runs, once they are learnt."""
        address = f"{reverse('bench-next')}?body=pellow-meridian-61&card1=tarn-narrow-160"
        desk = self.client.get(reverse("desk"), {"body": "pellow-meridian-61"})
        self.assertContains(desk, "which one would tell most?")
        before = self.client.get(address).context["next"]
        best = before.tests[0]
        self.assertGreater(best.narrowing, 0.2)
        self.assertContains(
            self.client.get(f"{reverse('bench-test')}?{best.query}"), "Save the run"
        )
        expected = predict(read_query(best.query, Kit.of(self.ann)).setup).result
        self.save(setup=best.query, frames=str(expected.frames), clear_s=f"{expected.clear_s:.1f}")
        self.assertContains(self.client.get(address), "Learning from 1 run")
        work_off()
        after = self.client.get(address).context["next"]
        self.assertLess(after.known.width, before.known.width)
        self.assertLess(after.tests[0].narrowing if after.tests else 0, best.narrowing)
        for asked in ("", "?hold=x&card1=nobody", "?body=pellow-wren-10&to=mirror"):
            self.assertEqual(200, Client().get(reverse("bench-next") + asked).status_code)

    def test_a_deleted_run_comes_back_as_it_was(self) -> None:
        self.save(notes="in the hide", taps_s="[0, 3.4, 8.02]")
        kept = [field.name for field in Run._meta.fields if field.name != "made_at"]
        run = Run.objects.values(*kept).get()
        page = self.client.post(reverse("run-delete", args=[run["id"]]), follow=True)
        *_, message = page.context["messages"]
        self.assertFalse(Run.objects.exists())
        self.client.post(message.extra_tags)
        self.assertEqual(run, Run.objects.values(*kept).get())
        Run.objects.all().delete()
        self.client.post(message.extra_tags)
        self.assertFalse(Run.objects.exists())

    def test_a_prediction_holds_for_the_hold_that_was_predicted(self) -> None:
        self.save()
        (run,) = Run.objects.all()
        for hold_s, is_predicted in (("8", True), ("9", False)):
            self.client.post(reverse("run", args=[run.pk]), SEEN | {"hold_s": hold_s})
            self.assertEqual(is_predicted, bool(Run.objects.get().predicted))

    def test_a_covered_lens_is_not_held_against_what_was_predicted_of_a_scene(self) -> None:
        for sent, figures in (({}, 2), ({"covered": "on"}, 0)):
            self.save(**sent)
            run = Run.objects.first()
            setup = run.reading(Kit.of(self.ann)).setup
            self.assertEqual(figures, len(compared(run, by_hand_of(run, setup))))

    def test_how_two_slots_share_the_work_is_said_as_on_the_desk(self) -> None:
        SlotArrangement.objects.update(source=Source.ESTIMATED)
        self.save(setup="body=varnholt-vx-3&to=mirror", hold_s="6")
        address = reverse("bench-body", args=["varnholt-vx-3"])
        self.client.get(address)
        work_off()
        page = self.client.get(address)
        for words in WORDS_OF_COUPLING.values():
            self.assertContains(page, f"{words} (")

    def test_a_run_that_changes_or_is_left_out_is_learnt_anew(self) -> None:
        self.save()
        run, address = Run.objects.get(), reverse("bench-body", args=["pellow-wren-10"])
        self.client.get(address)
        work_off()
        self.client.post(reverse("run", args=[run.pk]), SEEN | {"frames": "44"})
        self.assertContains(self.client.get(address), "Learning from 1 run")
        bad = self.client.post(reverse("run", args=[run.pk]), SEEN | {"frames_at_full_speed": "99"})
        self.assertEqual((422, 44), (bad.status_code, Run.objects.get().frames))
        self.client.post(reverse("run-leave-out", args=[run.pk]))
        self.assertContains(self.client.get(address), "No run of this body counts yet")
        self.assertContains(self.client.get(reverse("bench")), "left out")
        self.client.post(reverse("run-delete", args=[run.pk]))
        self.assertFalse(Run.objects.exists())

    def test_bad_input_gets_a_sentence_and_nothing_is_saved(self) -> None:
        for changes, sentence in (
            ({"frames": "0"}, "from 1 to 3,600,000"),
            ({"frames": "1000000000"}, ""),
            ({"frames": "", "clear_s": ""}, "Give one figure at least"),
            ({"frames_at_full_speed": "41"}, ""),
            ({"frames_at_full_speed": "4", "did_not_slow": "on"}, "slowed and not slowed"),
            ({"hold_s": "0"}, "0.1 to 600"),
            ({"hold_s": "x"}, "not a number"),
            ({"clear_s": "-1"}, "0 to 7,200"),
            ({"frames": "400"}, "hold, frames or frame rate is wrong"),
            ({"frame_rate_fps": "20"}, "the set-up shoots at 6"),
            ({"shot_on": "2099-01-01"}, "still to come"),
            ({"battery_percent": "200"}, "0 to 100"),
            ({"method": "guess"}, "valid choice"),
        ):
            with self.subTest(**changes):
                page = self.save(**changes)
                self.assertContains(page, sentence, status_code=422)
                self.assertContains(page, "invalid", status_code=422)
                self.assertFalse(Run.objects.exists())

    def test_the_database_guards_what_the_form_checks(self) -> None:
        body = Body.objects.get(slug="pellow-wren-10")
        for bad in (
            {"frames": 0}, {}, {"frames": 5, "method": "guess"}, {"clear_s": -1.0},
            {"frames": 5, "frames_at_full_speed": 9},
            {"frames_at_full_speed": 5, "did_not_slow": True},
        ):  # fmt: skip
            run = Run(**{"owner": self.ann, "body": body, "setup": SETUP, "method": "tap"} | bad)
            with self.subTest(**bad), self.assertRaises(ValidationError):
                run.full_clean()
            with self.assertRaises(IntegrityError), transaction.atomic():
                Run.objects.bulk_create([run])

    def test_a_run_whose_card_is_gone_says_so_and_teaches_nothing(self) -> None:
        setup = f"{SETUP}&card1=fennimore-skein-128"
        self.save(setup=setup)
        Card.objects.filter(slug="fennimore-skein-128").delete()
        address = reverse("bench-body", args=["pellow-wren-10"])
        self.client.get(address)
        work_off()
        self.assertContains(self.client.get(address), "no longer has its format")
        page = self.client.get(reverse("run", args=[Run.objects.get().pk]))
        self.assertContains(page, "no longer has its format")

    def test_a_guest_keeps_runs_and_takes_them_along(self) -> None:
        guest = Client()
        self.save(guest)
        self.assertTrue(Run.objects.get().owner.is_guest)
        self.ann.set_password("a-long-enough-password")
        self.ann.save()
        guest.post(
            reverse("sign-in"),
            {"username": "ann@example.org", "password": "a-long-enough-password"},
        )
        self.assertEqual(self.ann, Run.objects.get().owner)

    def test_the_first_parts_of_files_become_lines_of_a_table(self) -> None:
        files = list(picture_files(BURST))[:3]
        heads = [SimpleUploadedFile(name, content) for name, content in files]
        heads.append(SimpleUploadedFile("tool.jpg", b"MZ" * 500))
        sizes = [*(len(content) for _, content in files), 1_000]
        told = self.client.post(reverse("bench-heads"), {"head": heads, "size": sizes}).json()
        self.assertEqual(3, len(told["lines"]))
        self.assertEqual(["tool.jpg does not say when it was taken."], told["refused"])
        nothing = self.client.post(reverse("bench-heads"), {"head": heads, "size": ["x"] * 4})
        self.assertEqual([], nothing.json()["lines"])

    def test_bursts_are_found_in_a_table_and_fill_in_a_run(self) -> None:
        table = "".join(f"S{n:04d}.JPG,{n / 10:.2f},{20 + n % 3}\n" for n in range(30))
        page = self.client.post(reverse("bench-files"), {"table": table})
        self.assertContains(page, "It never slowed")
        (found,) = page.context["bursts"]
        filled = {"fill": "1", **found.filled}
        page = self.client.post(reverse("bench-test"), filled)
        form = page.context["run_form"]
        self.assertEqual("files", form["method"].value())
        sent = {name: form[name].value() or "" for name in form.fields} | {
            "setup": page.context["reading"].address
        }
        self.client.post(reverse("bench-test"), sent)
        run = Run.objects.get()
        self.assertEqual((30, True), (run.frames, run.did_not_slow))
        self.assertAlmostEqual(21, run.files_mb, delta=0.1)
        self.assertAlmostEqual(10, run.frame_rate_fps, delta=0.05)
        page = self.client.post(reverse("bench-files"), {"table": "a,b,c"})
        self.assertContains(page, "Line 1: “b” is no time", status_code=422)

    def test_the_frame_rate_that_is_set_is_surer_than_a_typed_count(self) -> None:
        """A count that would be another rate is told of, and teaches nothing, however often."""
        for hold_s, frames, saved in (("6", 36, True), ("6", 52, False), ("20", 150, False)):
            for _ in range(3):
                page = self.save(method="typed", hold_s=hold_s, frames=str(frames))
            with self.subTest(hold_s=hold_s, frames=frames):
                self.assertEqual(3 if saved else 0, Run.objects.filter(frames=frames).count())
                if not saved:
                    words = f"{frames}\xa0frames in {hold_s}\xa0s would be"
                    self.assertContains(page, words, status_code=422)
        slower = {"method": "typed", "hold_s": "6", "frames": "20", "did_not_slow": "on"}
        self.assertContains(self.save(**slower), "did it slow after all", status_code=422)

    def test_nothing_is_learnt_from_runs_that_quarrel_until_somebody_answers(self) -> None:
        """Neither from one among others, nor from two of one set-up; the answer can be any."""
        for depths in ((20, 21, 40), (20, 50)):
            Run.objects.all().delete()
            for depth in depths:
                self.save(
                    method="typed", frames_at_full_speed=str(depth), frames=str(depth + 3),
                    clear_s="",
                )  # fmt: skip
            address = reverse("bench-body", args=["pellow-wren-10"])
            with self.subTest(depths=depths):
                page = self.learnt(address)
                report = page.context["report"]
                quarrels = Run.objects.filter(pk__in=report.against)
                self.assertIn(depths[-1], quarrels.values_list("frames_at_full_speed", flat=True))
                self.assertFalse(report.against.keys() & set(report.used))
                self.assertContains(page, "until you answer")
                for run in quarrels:
                    self.client.post(reverse("run-confirm", args=[run.pk]))
                report = self.learnt(address).context["report"]
                self.assertEqual(({}, len(depths)), (report.against, len(report.used)))
                for run in quarrels:
                    self.client.post(reverse("run-leave-out", args=[run.pk]))
                report = self.learnt(address).context["report"]
                self.assertEqual(len(depths) - len(quarrels), len(report.used if report else ()))

    def learnt(self, address: str) -> Any:
        self.client.get(address)
        work_off()
        return self.client.get(address)

    def filled(self, *endings: str, mb: float, camera: str) -> Any:
        """The form of a run, opened with a burst of such files of 12 May 2026."""
        first_s = seconds_of(datetime(2026, 5, 12, 6, 30), "")
        pictures = [
            Picture(name=f"S{n:04d}.{ending}", mb=mb + n % 3 / 10, taken_s=first_s + n / 20,
                    body=camera)
            for n in range(30) for ending in endings
        ]  # fmt: skip
        (burst,) = find_bursts(pictures).bursts
        told = {"fill": "1", **FoundBurst.of_files(burst).filled}
        return self.client.post(reverse("bench-test"), told)

    def test_what_the_files_say_opens_in_the_form_of_the_run(self) -> None:
        self.client.get(reverse("desk"), {"body": "pellow-wren-10"})
        for endings, mb, camera, body, asks in (
            (["JPG"], 18, "VARNHOLT VX-3", "varnholt-vx-3", "By their size"),
            (["HIF"], 14, "Varnholt VX-3", "varnholt-vx-3", ""),
            (["DNG"], 20, "Varnholt VX-3", "varnholt-vx-3", "By their size"),
            (["JPG"], 9, "Nobody Z1", "pellow-wren-10", "a Nobody Z1 took them"),
        ):
            page = self.filled(*endings, mb=mb, camera=camera)
            setup, form = page.context["setup"], page.context["run_form"]
            with self.subTest(endings=endings, camera=camera):
                self.assertEqual(body, setup.body.slug)
                self.assertEqual("2026-05-12", form["shot_on"].value())
                self.assertIn(asks, " ".join(page.context["questions"]))
                if camera.casefold() == "varnholt vx-3":
                    kinds = {file.name for file in setup.recording.files.all()}
                    expected = {"JPG": "jpeg", "HIF": "heif", "DNG": "raw"}
                    self.assertEqual({expected[one] for one in endings}, kinds)
                    self.assertEqual(20, setup.rate.fps)

    def test_runs_can_be_taken_along_as_a_table(self) -> None:
        self.save(notes="in the rain")
        text = self.client.get(reverse("runs-csv")).getvalue().decode()
        (line,) = csv.DictReader(text.splitlines())
        told = (line["frames"], line["clear_s"], line["notes"])
        self.assertEqual(("40", "6.2", "in the rain"), told)

    def test_a_log_takes_as_many_queries_however_long_it_is(self) -> None:
        body = Body.objects.get(slug="pellow-wren-10")
        usual = {"owner": self.ann, "body": body, "setup": SETUP, "method": "tap"}
        counts = []
        for _ in range(3):
            Run.objects.bulk_create([Run(frames=40, **usual) for _ in range(3)])
            with CaptureQueriesContext(connection) as queries:
                self.client.get(reverse("bench"))
            counts.append(len(queries))
        self.assertEqual(counts[1], counts[2])


class Assumed(TestCase):
    def test_what_is_assumed_of_a_set_up_is_what_the_desk_predicts_with(self) -> None:
        """But for what nobody has noted, which is there to be learnt."""
        sample.load()
        kit = Kit.of(User.objects.create(email="bob@example.org"))
        for body in Body.objects.all():
            setup = read_query(f"body={body.slug}", kit).setup
            one, scenario, sources = assumed(setup), scenario_of(setup), sources_of(setup)
            self.assertEqual(scenario.memory_mb, one.scenario.memory_mb)
            self.assertEqual(scenario.files, one.scenario.files)
            self.assertEqual(sources.memory_mb, one.sources.memory_mb)
            for before, now in zip(scenario.slots, one.scenario.slots, strict=True):
                self.assertEqual(before.write_mb_s, now.write_mb_s)
            self.assertEqual(set(one.figures), set(one.figures) & set(one.sources.factors))


class Sounds(TestCase):
    def setUp(self) -> None:
        sample.load()

    def test_a_recording_becomes_strokes_and_a_run_at_the_rate_that_is_nearest(self) -> None:
        sound = shutter_wav(strokes_s(BURST), snr_db=10)
        upload = SimpleUploadedFile("burst.wav", sound)
        page = self.client.post(reverse("bench-sound"), {"sound": upload})
        found = page.context["found"]
        self.assertEqual(BURST.frames, len(found.times_s))
        self.assertAlmostEqual(BURST.frames_at_full_speed, found.strokes.wall, delta=1)
        page = self.client.post(reverse("bench-test"), {"fill": "1", **found.filled})
        self.assertIn("fps=12", str(page.context["reading"].address))
        form = page.context["run_form"]
        sent = {name: form[name].value() or "" for name in form.fields}
        self.client.post(reverse("bench-test"), sent | {"setup": "body=pellow-wren-10"})
        self.assertFalse(Run.objects.exists(), "a burst at 10 fps is none at 6")
        self.client.post(reverse("bench-test"), sent | {"setup": page.context["reading"].address})
        run = Run.objects.get()
        self.assertEqual(BURST.frames, len(run.strokes_s))
        page = self.client.get(reverse("run", args=[run.pk]))
        self.assertContains(page, "Against what was predicted before it")

    def test_whatever_a_burst_ends_with_it_is_shown_and_can_be_saved(self) -> None:
        even = [0.1 * place for place in range(10)]
        for last, noted in (([], {"did_not_slow"}), ([1.6], set()), ([1.6, 1.6], {"did_not_slow"}),
                            ([1.6, 2.3, 3.0], {"frames_at_full_speed"})):  # fmt: skip
            lines = [f"A_{n:03}.JPG, {100 + at:.2f}, 12" for n, at in enumerate(even + last)]
            page = self.client.post(reverse("bench-files"), {"table": "\n".join(lines)})
            (found,) = page.context["bursts"]
            of_wall = {"did_not_slow", "frames_at_full_speed"}
            self.assertEqual(noted, of_wall & set(found.filled))

    def test_marks_by_hand_and_what_is_no_sound(self) -> None:
        times = "0.5; 0,6\n0.7 0.8"
        page = self.client.post(reverse("bench-sound"), {"times": times, "loudness": "x"})
        self.assertEqual(4, len(page.context["found"].times_s))
        for sent, words in (
            ({"times": "0.5 noon"}, "“noon” is no moment"),
            ({"times": "0.5"}, "Two strokes are the fewest"),
            ({"times": "0.5 9000"}, "The last one"),
            ({"sound": SimpleUploadedFile("x.wav", b"MZ" * 99)}, "damaged"),
            ({"sound": SimpleUploadedFile("x.wav", b"")}, "empty"),
            ({}, "required"),
        ):
            with self.subTest(words):
                page = self.client.post(reverse("bench-sound"), sent)
                self.assertContains(page, words, status_code=422)


class Guides(TestCase):
    def setUp(self) -> None:
        sample.load()
        self.ann = User.objects.create(email="ann@example.org")
        self.client.force_login(self.ann)

    def test_three_minutes_lead_from_burst_to_burst(self) -> None:
        address = reverse("three-minutes")
        asked = {"body": "pellow-wren-10", "card1": "fennimore-skein-128"}
        for done in range(3):
            page = self.client.get(address, asked)
            steps = page.context["steps"]
            self.assertEqual(done, sum(step.done for step in steps))
            self.assertTrue(all(4 <= step.setup.hold_s <= 15 for step in steps))
            wanted = next(step for step in steps if not step.done)
            self.assertContains(page, "guide=body%3Dpellow-wren-10")
            sent = {"setup": wanted.query, "hold_s": "8", "frames": "20", "method": "tap"}
            saved = self.client.post(reverse("bench-test"), sent | {"guide": urlencode(asked)})
            self.assertRedirects(saved, f"{address}?{urlencode(asked)}")
        self.assertContains(self.client.get(address, asked), "What the runs teach")
        self.assertContains(self.client.get(address, asked | {"covered": "on"}), "covered=on")

    def test_a_new_card_is_checked_and_its_log_says_so(self) -> None:
        card = edit.duplicate(Card.objects.get(slug="fennimore-skein-128"), self.ann).changed
        address = reverse("card-check", args=[card.slug])
        for sent, words in (
            ({}, "one step"), ({"shown_gb": "x"}, "not a number"),
            ({"copied_gb": "9"}, "goes together"), ({"shown_gb": "0"}, "0.001"),
        ):  # fmt: skip
            self.assertContains(self.client.post(address, sent), words, status_code=422)
        page = self.client.post(address, {"shown_gb": "119 GiB", "read_back_gb": "30 GB"})
        self.assertContains(page, "Only 30")
        self.client.post(reverse("card-log", args=[card.slug]), page.context["entry"])
        card.refresh_from_db()
        self.assertEqual(("suspect", "failure"), (card.state, card.log.get().event))
