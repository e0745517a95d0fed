"""The log goes out and comes in again, and tables that others publish come in."""

import json
from random import Random

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from accounts.models import User
from bench.columns import OBSERVED, column_of
from bench.models import Run
from bench.run_file import RAW
from kit import sample
from kit.models import Card

TABLE = """format;fps;card;hold;full speed;frames;light out
lossless RAW;6;Tarn 90 128;10;28;44;6,1 s
JPEG fine;6;tarn-90-128;30;;180;
"""
SENT = {"body": "pellow-wren-10", "method": "claim", "table": TABLE}


class Log(TestCase):
    def setUp(self) -> None:
        sample.load()
        self.ann = User.objects.create(email="ann@example.org")
        self.client.force_login(self.ann)

    def send(self, **changes):
        return self.client.post(reverse("bench-lines"), SENT | changes, follow=True)

    def told(self) -> list[tuple]:
        names = ("setup", "shot_on", *OBSERVED, *RAW)
        return sorted(repr(one) for one in Run.objects.values_list(*names))

    def test_a_table_that_a_maker_prints_becomes_runs_that_weigh_less(self) -> None:
        self.assertContains(self.send(), "2 runs are saved")
        second, first = Run.objects.order_by("-pk")
        self.assertEqual((28, 44, 6.1, "claim"), (
            first.frames_at_full_speed, first.frames, first.clear_s, first.method,
        ))  # fmt: skip
        self.assertIn("jpeg-fine", second.setup)
        self.assertContains(self.send(), "2 were there already")

    def test_what_went_out_comes_in_again_as_it_was(self) -> None:
        self.send()
        Run.objects.filter(frames=44).update(
            depth_is_tapped=True, taps_s=[0, 3.5], strokes_s=[0, 0.1], left_out=True, covered=True,
            notes="=in the rain; cold", battery_percent=80, predicted={"frames": [40, 44.5, None]},
        )  # fmt: skip
        before = self.told()
        for name, keeps_all in (("runs-json", True), ("runs-csv", False)):
            text = self.client.get(reverse(name)).getvalue().decode()
            Run.objects.all().delete()
            self.send(table=text)
            if not keeps_all:
                Run.objects.filter(frames=44).update(
                    depth_is_tapped=True,
                    taps_s=[0, 3.5],
                    strokes_s=[0, 0.1],
                    predicted={"frames": [40, 44.5, None]},
                )
            self.assertEqual(before, self.told(), name)

    def test_what_makes_no_sense_is_told_line_by_line_and_nothing_is_saved(self) -> None:
        for table, words in (
            ("", "There is no run"),
            ("a,b\n1,2", "No column “a”."),
            ("date,hold\n1,2", "No column “date”; did you mean “day”?"),
            ("fraems,hold\n1,2", "did you mean “frames”?"),
            ("[1, 2]", "list of objects"),
            ("{", "It is no JSON"),
            (json.dumps([{"notes": "\ud800"}]), "half a character"),
            (f'[{{"frames": 1{"0" * 400}}}]', "larger than any number"),
            ('frames;hold\n"9;1', "Line 2 is no line of a table"),
            (f"frames;notes\n9;{'x' * 140_000}", "Line 2 is no line of a table"),
            (f"{'x' * 140_000};notes\n9;", "Line 1 is no line of a table"),
            ("[" * 100_000, "It is nested too deeply"),
            (json.dumps([{"x": 1}]), "no column “x”"),
            (f"{TABLE}raw 9;6;Tarn 90 128;1;1;1;1", "Line 4: “raw 9” is no format of the body"),
            (f"{TABLE}lossless RAW;6;Nothing;1;1;1;1", "Line 4: “Nothing” is no card that fits"),
            (f"{TABLE}lossless RAW;7;Tarn 90 128;1;1;1;1", "Line 4: "),
            (f"{TABLE}lossless RAW;6;Tarn 90 128;1;50;40;1", "Line 4: Frames before it slowed"),
            (f"{TABLE}lossless RAW;6;Tarn 90 128;0;1;1;1", "0.1 to 600"),
            (f"{TABLE}lossless RAW;6;Tarn 90 128;9;;;", "Give one figure at least"),
            (TABLE + "JPEG fine;6;;9;;9;\n" * 400, "300 runs are the most"),
            (json.dumps([{"frames": 9, "hold_s": 5, "strokes_s": "x"}]), ""),
        ):
            with self.subTest(words or table):
                page = self.send(table=table)
                if words:
                    self.assertContains(page, words, status_code=422)
                    self.assertFalse(Run.objects.exists())
        self.assertFalse(Run.objects.get().strokes_s)

    def test_whatever_was_predicted_of_a_run_that_is_accepted_can_be_shown(self) -> None:
        random = Random(1)
        ends = (1e300, 1e-300, -1, 0, 1, 40.5, None, True, "9", [], 10**40)
        told = [{"frames": [1e300, 1e-300, 1]}, {"clear_s": [0, 0, 0]}, [], "x", {"frames": {}}]
        told += [
            {name: random.choices(ends, k=3) for name in ("frames", "clear_s", "other")}
            for _ in range(20)
        ]
        runs = [{"hold_s": 6, "frames": 20 + n, "clear_s": 9, "predicted": one}
                for n, one in enumerate(told)]  # fmt: skip
        self.assertRedirects(self.send(table=json.dumps(runs)), reverse("bench"))
        self.assertEqual(len(runs), Run.objects.count())
        wild = Run.objects.first()
        Run.objects.filter(pk=wild.pk).update(predicted={"frames": [None, "x"], "clear_s": 1})
        shown = [reverse("run", args=[run.pk]) for run in Run.objects.all()]
        shown += [reverse(name, args=[wild.body.slug]) for name in ("bench-body", "bench-results")]
        for page in shown:
            self.assertEqual(200, self.client.get(page).status_code, page)

    def test_any_headings_are_matched_once_and_remembered(self) -> None:
        """Whatever the columns are called, and in whatever order; nothing is saved before."""
        lines = [line.split(";") for line in TABLE.splitlines()]
        order = Random(3).sample(range(len(lines[0])), len(lines[0]))
        lines = [[line[place] for place in order] for line in lines]
        columns = [column_of(heading, {}) for heading in lines[0]]
        table = "\n".join(";".join(line) for line in [[f"X{n} of it" for n in order], *lines[1:]])
        page = self.send(table=f"{table}\n")
        self.assertContains(page, "Which column is which?", status_code=422)
        for cell in ("28", "6,1 s", "tarn-90-128"):
            self.assertContains(page, cell, status_code=422)
        match = page.context["match"]
        said = {f"column-{place}": column for place, column in enumerate(columns)}
        said["headings"] = match.shown_headings
        twice = said | {"column-1": said["column-0"]}
        for sent in (twice, said | {"column-0": ""}, said | {"column-0": "nothing"}):
            self.assertEqual(422, self.send(table=table, **sent).status_code)
        self.assertFalse(Run.objects.exists())
        self.assertContains(self.send(table=table, **said), "2 runs are saved")
        self.assertContains(self.send(table=table), "2 were there already")
        self.assertEqual({28, None}, {run.frames_at_full_speed for run in Run.objects.all()})

    def test_columns_of_no_use_are_left_out_and_a_files_table_is_matched_in_the_field(self) -> None:
        table = "Mode,Shots,Weather\nJPEG fine,50,rain\nJPEG fine,n/a,fog\n"
        file = SimpleUploadedFile("theirs.csv", table.encode())
        page = self.client.post(reverse("bench-lines"), {**SENT, "table": "", "file": file})
        self.assertContains(page, "JPEG fine,n/a,fog", status_code=422)
        said = {"headings": page.context["match"].shown_headings, "column-0": "format",
                "column-1": "frames", "column-2": "-"}  # fmt: skip
        self.assertContains(
            self.send(table=table, **said), "Line 3: It did not slow: Give one", status_code=422
        )
        self.assertContains(self.send(table=table[:-20], **said), "1 run is saved")

    def test_the_log_shows_what_is_asked_for(self) -> None:
        self.send()
        Run.objects.filter(frames=44).update(notes="in the rain")
        for asked, count in (
            ({}, 2), ({"method": "claim"}, 2), ({"method": "tap"}, 0), ({"card": "tarn-90-128"}, 2),
            ({"card": "tarn-90-12"}, 2), ({"words": "RAIN"}, 1), ({"body": "pellow-wren-10"}, 2),
            ({"body": "nothing"}, 2),
        ):  # fmt: skip
            with self.subTest(**asked):
                page = self.client.get(reverse("bench"), asked)
                self.assertEqual(count, len(page.context["runs"]))
                text = self.client.get(reverse("runs-csv"), asked).getvalue().decode()
                self.assertEqual(count + 1, len(text.splitlines()))

    def test_the_choices_name_no_card_of_somebody_else(self) -> None:
        self.send()
        self.assertContains(self.client.get(reverse("bench")), ">Tarn 90 128</option>")
        other = User.objects.create(email="bob@example.org")
        Card.objects.filter(slug="tarn-90-128").update(owner=other, name="Zanzibar")
        self.assertNotContains(self.client.get(reverse("bench")), "Zanzibar")
