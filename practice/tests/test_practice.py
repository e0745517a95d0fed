"""Sessions of practice: played, scored, raced, kept and shown."""

import json
from typing import Any

from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.test import TestCase
from django.urls import reverse

from accounts import sample_account
from accounts.guests import move_in
from accounts.models import User
from engine.practice.presses import holds_of_presses
from engine.practice.score import Score
from engine.practice.shot_run import PlayedRun, ShotRun, never_full
from engine.practice.staircase import FIRST_LEVEL
from engine.practice.subject_run import RUNS, RUNS_WITH_MOMENT
from engine.practice.subjects import StageKind
from engine.quantities import NS_IN_S
from engine.tests.builders import scenario
from engine.tests.practice.test_score import DIVE, a_run
from kit import edit, sample
from kit.models import Body
from practice.answer import Answer
from practice.models import PracticeRun, PracticeSession
from practice.playing import Playing
from practice.trend import Trend

SETUP = "body=quillon-swift-7&format=lossless-raw&fps=30"


class PracticeTestCase(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()

    def begin(self, **more: Any) -> PracticeSession:
        sent = {"setup": SETUP, "subject": "gannet"} | more
        answer = self.client.post(reverse("practice-begin"), sent)
        self.assertEqual(answer.status_code, 302, answer.content)
        return PracticeSession.objects.latest("pk")

    def send(self, session: PracticeSession, presses: list[Any] | str, **more: Any) -> Any:
        playing = Playing(session)
        number = playing.next_number or RUNS
        said = presses if isinstance(presses, str) else json.dumps(presses)
        sent = {"number": number, "presses": said, "lasted_s": playing.subject_run(number).ends_s}
        return self.client.post(reverse("practice-run", args=[session.pk]), sent | more)

    def play_out(self, session: PracticeSession) -> None:
        """Presses as the moment begins, until it is over."""
        while (number := Playing(session).next_number) is not None:
            moment = Playing(session).subject_run(number).moment_s
            self.send(session, [[round(one, 3) for one in moment]] if moment else [])


class PlayingASession(PracticeTestCase):
    def test_ten_runs_are_played_and_difficulty_follows_skill(self) -> None:
        session = self.begin()
        self.assertTrue(session.owner.is_guest)
        self.play_out(session)
        rows = list(session.runs.all())
        scored = [row for row in rows if row.possible]
        self.assertEqual((len(rows), len(scored)), (RUNS, RUNS_WITH_MOMENT))
        self.assertEqual([row.kept for row in scored], [row.possible for row in scored])
        self.assertEqual(rows[0].level, FIRST_LEVEL)
        self.assertEqual(Playing(session).next_level, FIRST_LEVEL + RUNS_WITH_MOMENT)
        page = self.client.get(session.get_absolute_url())
        kept = sum(row.kept for row in rows)
        self.assertContains(page, f"{kept} of {kept} frames of the moments")
        self.assertEqual(self.begin().first_level, FIRST_LEVEL + RUNS_WITH_MOMENT)

    def test_a_run_that_is_sent_twice_counts_once(self) -> None:
        session = self.begin()
        self.send(session, [[0.5, 0.7]])
        again = self.send(session, [[0.5, 3.0]], number=1)
        self.assertContains(again, "Run 1 was played already", status_code=422)
        self.assertEqual([row.presses for row in session.runs.all()], [[[0.5, 0.7 - 0.5]]])

    def test_what_nobody_can_have_pressed_is_told_and_nothing_is_kept(self) -> None:
        session = self.begin()
        for presses, words in (
            ([[n / 100, n / 100] for n in range(96)], "A run has at most 95 presses"),
            ([[n / 1000, n / 1000] for n in range(50)], "Nobody presses more than 20 times"),
            ([[2, 1]], "must not end before it begins"),
            ([[1, 1e9]], "after the end of the run"),
            ([["x", 1]], "These are no moments."),
            ("{", "It is no JSON"),
            ("[1, 2]", "These are no presses."),
        ):
            with self.subTest(words):
                self.assertContains(self.send(session, presses), words, status_code=422)
        jumped = self.send(session, [], lasted_s=99)
        self.assertContains(jumped, "The clock of this device jumped", status_code=422)
        for lasted_s in ("nan", "inf", ""):
            self.assertEqual(self.send(session, [], lasted_s=lasted_s).status_code, 422)
        self.assertFalse(session.runs.exists())

    def test_strokes_are_those_of_the_engine_with_the_finger_still_down(self) -> None:
        session = self.begin()
        ends_s = Playing(session).subject_run(1).ends_s
        self.send(session, [[ends_s - 3, ends_s]])
        at = reverse("practice-strokes", args=[session.pk])
        told = self.client.get(at, {"presses": "0.512-1.25,2.0-"}).json()
        playing = Playing(session)
        ends_s = playing.subject_run(2).ends_s
        presses = holds_of_presses([(0.512, 1.25), (2.0, ends_s)], ends_s)
        shot = playing.shot(2, presses)
        self.assertEqual(told["taken_s"], (shot.taken_ns / NS_IN_S).tolist())
        self.assertGreater(told["memory"][0][1], 0)  # of the run before
        self.assertEqual(told["ends_s"], ends_s)
        for wrong in ("x", "1-0.5", "1-2,1.5-"):
            self.assertEqual(self.client.get(at, {"presses": wrong}).status_code, 422)
        self.play_out(session)
        self.assertEqual(self.client.get(at).status_code, 409)

    def test_a_session_stays_as_it_was_when_the_kit_changes(self) -> None:
        body = Body.objects.get(slug="quillon-swift-7", owner=None)
        owner = User.objects.create(email="ann@example.org")
        self.client.force_login(owner)
        own = edit.duplicate(body, owner).changed
        session = self.begin(setup=SETUP.replace("quillon-swift-7", own.slug))
        self.send(session, [[0.5, 4]])
        before = Playing(session).shot(1).taken_ns.tolist()
        Body.objects.filter(pk=own.pk).update(memory_mb=9_000)
        self.assertEqual(Playing(session).shot(1).taken_ns.tolist(), before)
        edit.archive(own)
        self.assertEqual(self.client.get(session.get_absolute_url()).status_code, 200)

    def test_a_set_up_that_cannot_shoot_is_told(self) -> None:
        sent = {"setup": "body=nobody", "subject": "gannet"}
        answer = self.client.post(reverse("practice-begin"), sent)
        self.assertContains(answer, "nobody", status_code=422)
        sent = {"setup": SETUP, "subject": "unicorn", "level": "3"}
        self.assertEqual(self.client.post(reverse("practice-begin"), sent).status_code, 422)
        Body.objects.filter(slug="quillon-swift-7").update(memory_mb=1)
        sent = {"setup": SETUP, "subject": "gannet"}
        answer = self.client.post(reverse("practice-begin"), sent)
        self.assertContains(answer, "The buffer of the body must hold one frame", status_code=422)
        self.assertFalse(User.objects.exists())


class RacingAndSharing(PracticeTestCase):
    def test_a_race_has_the_same_runs_at_the_same_levels_and_shows_the_strokes_of_then(
        self,
    ) -> None:
        session = self.begin()
        self.play_out(session)
        race = self.begin(race=session.pk)
        self.assertEqual((race.raced, race.is_adaptive), (session, False))
        then, now = Playing(session), Playing(race)
        told = self.client.get(reverse("practice-strokes", args=[race.pk])).json()
        self.assertEqual(told["raced_s"], (then.shot(1).taken_ns / NS_IN_S).tolist())
        for number in range(1, RUNS + 1):
            self.assertEqual(now.subject_run(1), then.subject_run(1))
            self.send(race, [])
            now = Playing(race)
            self.assertEqual(now.rows[-1].level, then.rows[number - 1].level)
        self.assertContains(self.client.get(race.get_absolute_url()), f"of {then.possible} then")

    def test_only_a_finished_session_of_ones_own_is_raced(self) -> None:
        session = self.begin()
        for pk in (session.pk, 10**9):
            sent = {"subject": "gannet", "race": pk}
            answer = self.client.post(reverse("practice-begin"), sent)
            self.assertContains(answer, "The session that you want to race", status_code=422)

    def test_a_link_gives_a_friend_the_same_runs(self) -> None:
        session = self.begin()
        self.play_out(session)
        link = f"{reverse('practice')}?{session.setup}&subject=gannet&seed={session.seed}&level=4"
        self.assertContains(self.client.get(session.get_absolute_url()), link.replace("&", "&amp;"))
        self.client.logout()
        self.client.cookies.clear()
        page = self.client.get(link)
        self.assertContains(page, f"number {session.seed}, all at level 4")
        friends = self.begin(seed=session.seed, level=4)
        self.assertNotEqual(friends.owner, session.owner)
        self.assertEqual(Playing(friends).subject_run(1), Playing(session).subject_run(1))
        self.send(friends, [])
        self.assertEqual(Playing(friends).next_level, 4)

    def test_reaction_times_are_measured_once_and_taken_out_from_then_on(self) -> None:
        session = self.begin(tries="[0.21, 0.05, 0.3, 0.25, 2.0]")
        self.assertEqual(session.reaction_s, 0.25)
        self.assertEqual(self.begin().reaction_s, 0.25)
        sent = {"setup": SETUP, "subject": "gannet", "tries": "[0.01, 0.2, 0.3]"}
        answer = self.client.post(reverse("practice-begin"), sent)
        self.assertContains(answer, "measure again", status_code=422)

    def test_a_guests_sessions_move_into_an_account(self) -> None:
        session = self.begin()
        account = User.objects.create(email="ann@example.org")
        edit.duplicate(Body.objects.get(slug="quillon-swift-7", owner=None), account)
        edit.duplicate(Body.objects.get(slug="quillon-swift-7", owner=None), session.owner)
        PracticeSession.objects.update(setup="body=quillon-swift-7-1&fps=30")
        move_in(session.owner, account)
        session.refresh_from_db()
        self.assertEqual(session.owner, account)

    def test_a_deleted_session_comes_back_with_its_runs(self) -> None:
        session = self.begin()
        self.send(session, [[0.5, 0.7]])
        self.client.post(reverse("practice-delete", args=[session.pk]))
        self.assertFalse(PracticeSession.objects.exists())
        self.client.post(reverse("practice-restore", args=[session.pk]))
        self.assertEqual(PracticeRun.objects.get().presses, [[0.5, 0.7 - 0.5]])

    def test_the_table_has_a_line_for_each_run(self) -> None:
        session = self.begin()
        self.send(session, [[0.5, 0.7]])
        answer = self.client.get(reverse("practice-csv"))
        lines = b"".join(answer).decode().splitlines()
        self.assertEqual(len(lines), 2)
        self.assertIn(f",{session.seed},1,{FIRST_LEVEL},1,", lines[1])


class Facts(PracticeTestCase):
    def test_the_database_refuses_what_the_forms_refuse(self) -> None:
        session = self.begin()
        good = {"session": session, "number": 1, "level": 4, "frames": 9, "kept": 3, "possible": 9}
        PracticeRun.objects.create(**good)
        for wrong in ({}, {"number": 11}, {"level": 0, "number": 2}, {"kept": 10, "number": 2}):
            row = PracticeRun(**good | wrong)
            with self.subTest(wrong), self.assertRaises(ValidationError):
                row.full_clean()
            with self.subTest(wrong), self.assertRaises(IntegrityError), transaction.atomic():
                PracticeRun.objects.bulk_create([row])
        for wrong in ({"subject": "x"}, {"seed": 0}, {"first_level": 21}, {"reaction_s": 0.01},
                      {"raced_id": session.pk}):  # fmt: skip
            with self.subTest(wrong), self.assertRaises(IntegrityError), transaction.atomic():
                PracticeSession.objects.filter(pk=session.pk).update(**wrong)


class Answers(TestCase):
    def answer(self, *presses: tuple[float, float], run: Any = DIVE, **changes: Any) -> Answer:
        burst = never_full(scenario(**{"write_mb_s": 100, "memory_mb": 500} | changes))
        shot = ShotRun(burst, [], PlayedRun(run, holds_of_presses(presses, run.ends_s)))
        return Answer(1, "gannet", Score(shot, 0.25), None)

    def test_what_happened_is_said_first_and_then_what_would_have_kept_more(self) -> None:
        nothing = a_run((StageKind.WAITING, 0), (StageKind.BUILD_UP, 1), (StageKind.WAITING, 2))
        for answer, words, rhythm in (
            (self.answer((3.4, 4.5)),
             "You pressed 0.6 s early, met the wall as the entry began: 1 of 9 frames of the "
             "moment.", "Pressing only as the entry began would have given 9."),
            (self.answer((2.9, 4.5), memory_mb=850, write_mb_s=150),
             "You pressed 1.1 s early, met the wall", "Letting go for 0.5 s while it dived would"),
            (self.answer((4.0, 4.5)), "All 9 frames of the moment.", ""),
            (self.answer((4.2, 4.5)), "You pressed 0.2 s after the entry began: 5 of 9",
             "Pressing as the entry began would have given 9."),
            (self.answer((4.0, 4.15)), "You let go 0.3 s before it was over: 3 of 9",
             "Holding on until the entry was over would have given 9."),
            (self.answer(), "You took no frame: 0 of 9 frames of the moment.",
             "Pressing as the entry began would have given 9."),
            (self.answer((1.2, 2.0), run=nothing), "It never came: 11 frames for nothing.", ""),
            (self.answer(run=nothing), "It never came, and you kept the buffer empty", ""),
        ):  # fmt: skip
            with self.subTest(words):
                self.assertIn(words, answer.words.replace("\N{NO-BREAK SPACE}", " "))
                said = answer.rhythm_words.replace("\N{NO-BREAK SPACE}", " ")
                self.assertTrue(said.startswith(rhythm) if rhythm else not said, said)

    def test_an_example_with_the_set_up_in_hand_meets_the_wall(self) -> None:
        sample.load()
        page = self.client.get(reverse("practice"), {"body": "varnholt-vx-3", "subject": "kayak"})
        self.assertContains(page, "met the wall")
        self.assertContains(page, "An example of an answer")


class Trends(PracticeTestCase):
    def test_the_sample_account_shows_sessions_of_weeks_with_their_trend(self) -> None:
        account = sample_account.ready()
        made = PracticeSession.objects.made_by(account)
        self.assertEqual(made.count(), 7)
        trend = Trend.of(list(made.values_list("pk", flat=True)))
        self.assertEqual(len(trend.points), 7)
        self.assertTrue(trend.progress.is_sure, trend.change_words)
        self.client.force_login(account)
        page = self.client.get(reverse("practice"), {"body": "quillon-swift-7"})
        self.assertContains(page, trend.change_words)

    def test_one_day_is_no_change(self) -> None:
        session = self.begin()
        self.play_out(session)
        trend = Trend.of([session.pk])
        self.assertIn("so far 1", trend.change_words)

    def test_races_and_given_runs_tell_nothing_of_skill(self) -> None:
        session = self.begin()
        self.play_out(session)
        self.play_out(self.begin(race=session.pk))
        page = self.client.get(
            reverse("practice"), dict([one.split("=") for one in SETUP.split("&")])
        )
        self.assertEqual(len(page.context["page"].trend.points), 1)
        self.assertEqual(len(page.context["page"].sessions), 2)
