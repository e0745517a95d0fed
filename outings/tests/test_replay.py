"""A day's files are replayed on the page; what can't be told from them is said."""

from urllib.parse import urlencode

from django.contrib.auth.models import AnonymousUser
from django.http import HttpResponse
from django.test import TestCase
from django.urls import reverse

from bench.from_files import SetupOfFiles
from engine.burst.scenario import Hold
from engine.burst.simulate import simulate
from engine.day.presses import Presses, shoot
from engine.measurement.picture_table import read_pictures
from engine.quantities import NS_IN_S
from engine.tests.builders import scenario
from kit import sample
from outings.replays.day import DayReplay, scenario_of_day
from outings.replays.example import ENDING_OF_FILE
from outings.replays.pictures import BodyPictures
from setups.kit import Kit
from setups.pins import Pins
from setups.reader import read_address, read_query

SETUP = (
    "body=varnholt-vx-3&format=lossless-raw&fps=20&to=mirror"
    "&card1=gravelock-tide-512&card2=tarn-90-128"
)
HOLDS = [
    Hold(press_s=20 * number, hold_s=(0.05, 0.8, 3 + number / 24)[number % 3])
    for number in range(48)
]


class ReplayingADay(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()

    def table(self, body: str = "Varnholt VX-3", setup: str = SETUP) -> str:
        """A line for each frame that a set-up takes of the holds."""
        reading = read_query(setup, Kit.of(AnonymousUser()))
        assert reading
        self.scenario = scenario_of_day(reading.setup).scenario
        self.shot = shoot(self.scenario, Presses.of(HOLDS))
        return "".join(
            f"SKR_{number:04d}.{ENDING_OF_FILE[file.name]},"
            f"{moment / NS_IN_S:.2f},{file.mb:.3f},{body}\n"
            for number, moment in enumerate(self.shot.taken_ns.tolist())
            for file in self.scenario.files
        )

    def replayed(self, table: str, status: int = 200, **more: object) -> HttpResponse:
        sent = {"setup": SETUP, "table": table} | more
        page = self.client.post(reverse("replay"), sent)
        self.assertEqual(status, page.status_code)
        return page

    def test_told_when_the_finger_was_up_it_misses_what_was_missed(self) -> None:
        """The moment of the press is right to some hundredths, as is what is missed to a frame."""
        day = self.replayed(self.table()).context["day"]
        first_s = float(day.pictures.taken.times_s[0])
        true = {round(hold.press_s, 1): (hold.hold_s, missed)
                for hold, missed in zip(HOLDS, self.shot.missed.tolist(), strict=True)}  # fmt: skip
        filled = [burst for burst in day.was.bursts if burst.longest_s is not None]
        asked = [one for one in day.worst if one.may_be_told]
        self.assertTrue(asked)
        told = {"held_at": [f"{burst.press_s - first_s:.2f}" for burst in filled],
                "held_s": [str(true[round(burst.press_s, 1)][0]) for burst in filled]}  # fmt: skip
        again = self.replayed(self.table(), **told).context["day"]
        self.assertEqual(len(filled), len(again.told_s))
        for burst in again.was.bursts:
            if burst.longest_s is not None:
                missed = true[round(burst.press_s, 1)][1]
                self.assertAlmostEqual(missed, burst.missed, delta=1)
        self.assertEqual(
            {one.after_s for one in again.worst if one.may_be_told} - again.told_s.keys(), set()
        )
        page = self.replayed(self.table(), held_at=[asked[0].after_s], held_s=["5 or 6"])
        self.assertContains(page, "is not a number of s")
        self.assertContains(page, 'value="5 or 6"')

    def test_what_was_comes_back_and_is_what_is_predicted_of_it(self) -> None:
        page = self.replayed(self.table())
        day: DayReplay = page.context["day"]
        self.assertEqual((32, 16), (day.bursts, day.singles))
        self.assertEqual(16, len(day.filled))
        self.assertEqual(int(self.shot.frames.sum()), day.frames)
        self.assertEqual(day.missed, day.predicted.day.missed)
        self.assertContains(page, "The buffer was full in 16 of 32 bursts")
        self.assertContains(page, f"cost {day.missed} frames")

    def test_a_day_of_any_set_up_is_told_from_its_files_alone(self) -> None:
        """Law: over bodies and formats of the kit, files tell set-up, rate and misses."""
        kit = Kit.of(AnonymousUser())
        for body in kit.bodies:
            for recording in kit.with_choices(body).formats.all():
                asked = {"body": body.slug, "format": recording.slug}
                reading = read_address(asked, kit)
                assert reading
                if not reading.setup.complete:
                    continue
                setup = reading.setup
                table = self.table(body.maker_and_name, urlencode(setup.address))
                pictures = BodyPictures.of(read_pictures(table)).of_day
                told = SetupOfFiles(pictures.told, reading, kit).reading().setup
                day = DayReplay(reading, pictures, Pins.of([], kit))
                missed = int(self.shot.missed.sum())
                with self.subTest(body=body.slug, format=recording.slug):
                    self.assertEqual((setup.recording, setup.rate), (told.recording, told.rate))
                    fps = pictures.taken.frame_rate_fps or 0
                    self.assertAlmostEqual(1, fps / self.scenario.frame_rate_fps, delta=0.01)
                    self.assertAlmostEqual(missed, day.missed, delta=2 + 0.05 * missed)
                    self.assertAlmostEqual(missed, day.predicted.day.missed, delta=2 + missed / 20)

    def test_changes_that_give_more_frames_are_told_the_best_first(self) -> None:
        page = self.replayed(self.table())
        day, others = page.context["day"], page.context["day"].others
        self.assertTrue(others)
        self.assertEqual(others, sorted(others, key=lambda one: one.order))
        for one in others:
            self.assertGreater(one.day.frames, day.predicted.day.frames)
        self.assertContains(page, day.advice[0])
        self.assertTrue(any(one.difference.missed.noticed for one in others))
        pin = SETUP.replace("lossless-raw", "jpeg-normal")
        pinned = self.replayed(self.table(), pin=[pin]).context["day"].others
        self.assertIn("Pinned: Varnholt VX-3 · JPEG normal", str([o.change.words for o in pinned]))

    def test_the_set_up_is_what_the_files_say_until_another_is_chosen(self) -> None:
        wren = "body=pellow-wren-10"
        table = self.table()
        page = self.replayed(table, setup=wren, of_files="on")
        setup = page.context["setup"]
        self.assertEqual(("varnholt-vx-3", 20), (setup.body.slug, setup.rate.fps))
        chosen = self.replayed(table, setup=SETUP.replace("fps=20", "fps=12"))
        self.assertContains(
            chosen, "The files show 20\N{NO-BREAK SPACE}fps, the set-up shoots 12 fps"
        )
        right = self.replayed(table)  # at the rate of the files
        self.assertEqual(right.context["day"].missed, chosen.context["day"].missed)

    def test_a_made_up_day_of_the_set_up_in_view_is_replayed_and_marked_as_one(self) -> None:
        page = self.replayed("", example="on")
        self.assertContains(page, "An example: a made-up day")
        self.assertEqual("lossless RAW", page.context["setup"].recording.name)
        self.assertTrue(page.context["day"].filled)
        again = self.replayed(page.context["table"])
        self.assertEqual(page.context["day"].missed, again.context["day"].missed)

    def test_an_answer_goes_when_the_set_up_is_another(self) -> None:
        htmx = {"headers": {"HX-Request": "true"}}
        asked = {"body": "pellow-wren-10"}
        part = self.client.get(reverse("replay"), asked | {"shown": "day"}, **htmx)
        self.assertContains(part, "Replay with this set-up")
        self.assertNotContains(self.client.get(reverse("replay"), asked, **htmx), "hx-swap-oob")

    def test_files_that_the_set_up_does_not_explain_are_told_of(self) -> None:
        shot = simulate(scenario(memory_mb=300, hold_s=5, write_mb_s=200))
        table = "".join(
            f"SKR_{number:04d}.RAW,{moment / NS_IN_S:.2f},50,Varnholt VX-3\n"
            for number, moment in enumerate(shot.taken_ns.tolist())
        )
        page = self.replayed(table)
        self.assertContains(page, "The buffer was full in 1 of 1 burst, and cost")
        self.assertContains(page, "In 1 burst the buffer was full sooner than this set-up lets")

    def test_what_was_never_full_needs_no_card(self) -> None:
        table = "".join(
            f"A{n:03}.RAW,{10 * n + k / 20:.2f},30\n" for n in range(9) for k in range(4)
        )
        page = self.replayed(table)
        self.assertContains(page, "The buffer was never full: no card would have saved a frame.")
        self.assertEqual([], page.context["day"].others)

    def test_whole_seconds_are_counted_and_told_of(self) -> None:
        table = "".join(f"A{n:04}.RAW,{20 * (n // 30) + n % 30 // 12},30\n" for n in range(65))
        page = self.replayed(table)
        self.assertContains(page, "3 bursts and 0 frames in no burst.")
        self.assertContains(page, "neither a full buffer nor what another card would have saved")
        self.assertIsNone(page.context["day"])

    def test_what_can_not_be_replayed_is_said(self) -> None:
        for table, sentence in (
            ("", "There is no line with a name, a time and a size."),
            ("A.RAW,yesterday,30", "“yesterday” is no time"),
            ("A.RAW,0.01,30\nB.RAW,99999999.02,30", "days"),
        ):
            with self.subTest(table):
                page = self.replayed(table, 422)
                self.assertContains(page, sentence, status_code=422)
                self.assertContains(page, table.partition(",")[2][:9], status_code=422)
        many = "".join(f"A{n}.RAW,{9 * n}.25,30\n" for n in range(20_005))
        self.assertContains(self.replayed(many), "files the first 20,000 were looked at")
        one = self.replayed("A.RAW,1.25,30")
        self.assertContains(one, "There is no burst of three frames or more in it.")
        both = self.table() + "B.RAW,5.00,30,Pellow Wren 10"
        two = self.replayed(both)
        self.assertContains(two, "Only those of the Varnholt VX-3 are replayed here.")
        self.assertContains(two, "Replay those of the Pellow Wren 10")
        wren = self.replayed(both, camera="Pellow Wren 10")
        self.assertEqual("pellow-wren-10", wren.context["setup"].body.slug)
        self.assertEqual(1, wren.context["day"].frames)
