"""Sessions of practice: the runs that somebody pressed in, and what they kept."""

from django.conf import settings
from django.db import models
from django.db.models import F, Q
from django.urls import reverse
from django.utils.timezone import localdate

from engine.burst.scenario import Hold
from engine.formats import figure
from engine.practice.reaction import REACTION_S, USUAL_S
from engine.practice.score import has_succeeded, share_kept
from engine.practice.subject_run import LEVEL, RUNS, SEED
from engine.practice.subjects import SUBJECTS
from engine.quantities import Range
from kit.constraints import Fact, one_of, within
from kit.models import Visitor
from practice.subject_words import WORDS_OF_SUBJECT
from setups import keys

MOST_SESSIONS = 500  # of one owner
LONGEST_SETUP_NAME = 500
NUMBER = Range(1, RUNS, "of a session")


class PracticeSessionQuerySet(models.QuerySet["PracticeSession"]):
    """Sessions of one owner."""

    def made_by(self, visitor: Visitor) -> "PracticeSessionQuerySet":
        """The visitor's, the latest first; none without an account or a guest's cookie."""
        return self.filter(owner_id=visitor.pk, owner__isnull=False)

    def alike(self, subject: str, setup: str) -> "PracticeSessionQuerySet":
        """Those of one subject on one set-up."""
        return self.filter(subject=subject, setup=setup)

    def adaptive(self) -> "PracticeSessionQuerySet":
        """Those whose difficulty followed skill, on runs that nobody had seen before."""
        return self.filter(is_adaptive=True)

    def finished(self) -> "PracticeSessionQuerySet":
        """Those that were played to the end."""
        return self.annotate(played=models.Count("runs")).filter(played=RUNS)

    def no_room_words(self, sessions: int = 1) -> str:
        """Why so many more can't be kept beside these; empty: they can."""
        if self.count() + sessions <= MOST_SESSIONS:
            return ""
        return f"{figure(MOST_SESSIONS)} sessions are as many as are kept: delete some first."


class PracticeSession(models.Model):
    """Ten runs of a subject, which follow from `seed`, pressed in with one set-up.

    `setup` is the set-up's query and `name` what it was called; `scenario` is what the camera did
    by the kit of that day, in the open format (docs/formats.md), so that a session stays as it was.
    Unless it `is_adaptive`, every run has `first_level`, or that of the session that is `raced`.
    `reaction_s` is that of the player, None where it was not measured.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="practice")
    subject = models.CharField(
        max_length=10, choices=[(key, WORDS_OF_SUBJECT[key].name) for key in SUBJECTS]
    )
    seed = models.PositiveIntegerField()
    setup = models.CharField(max_length=keys.LONGEST_SETUP)
    name = models.CharField(max_length=LONGEST_SETUP_NAME)
    scenario = models.TextField()
    first_level = models.PositiveSmallIntegerField()
    is_adaptive = models.BooleanField(default=True)
    raced = models.ForeignKey("self", models.SET_NULL, null=True, blank=True, related_name="+")
    reaction_s = models.FloatField(null=True, blank=True)
    made_at = models.DateTimeField(auto_now_add=True)

    objects = PracticeSessionQuerySet.as_manager()

    class Meta:
        ordering = ["-made_at", "-pk"]
        constraints = [
            one_of("subject", list(SUBJECTS), name="practice_is_of_a_known_subject"),
            within("seed", SEED, name="practice_seed_is_in_range", words="The number of the runs"),
            within("first_level", LEVEL, name="practice_level_is_in_range", words="The level"),
            within(
                "reaction_s", REACTION_S, name="practice_reaction_is_in_range",
                words="The reaction time",
            ),
            Fact(
                condition=~Q(is_adaptive=True) | Q(raced=None),
                name="practice_race_has_the_levels_of_what_is_raced",
                violation_error_code="both",
                violation_error_message="A race has the levels of the session that is raced.",
            ),
        ]  # fmt: skip
        indexes = [models.Index(F("owner"), F("subject"), name="practice_of_an_owner")]

    def __str__(self) -> str:
        return f"{self.get_subject_display()} · {self.name}"

    def get_absolute_url(self) -> str:
        """Its page."""
        return reverse("practice-session", args=[self.pk])

    @property
    def reacts_in_s(self) -> float:
        """The reaction time that is taken out of its scores."""
        return USUAL_S if self.reaction_s is None else self.reaction_s

    @property
    def on(self) -> int:
        """The day that it was made on, as a number."""
        return localdate(self.made_at).toordinal()


class PracticeRun(models.Model):
    """One run of a session: its presses, in seconds from its start, and what came of them.

    `possible` frames of the moment could be kept with the player's reaction time, `kept` were; both
    are 0 where the moment never came. `frames` counts all that were taken.
    """

    session = models.ForeignKey(PracticeSession, models.CASCADE, related_name="runs")
    number = models.PositiveSmallIntegerField()
    level = models.PositiveSmallIntegerField()
    presses = models.JSONField(default=list, blank=True)
    frames = models.PositiveIntegerField()
    kept = models.PositiveIntegerField()
    possible = models.PositiveIntegerField()

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["session", "number"], name="practice_run_counts_once"),
            within("number", NUMBER, name="practice_run_is_of_its_session", words="The run"),
            within("level", LEVEL, name="practice_run_level_is_in_range", words="The level"),
            Fact(
                condition=Q(kept__lte=F("frames")),
                name="practice_run_keeps_what_it_took",
                violation_error_code="too_large",
                violation_error_message="A run keeps no more frames than it took.",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.session}, run {self.number}"

    @property
    def holds(self) -> tuple[Hold, ...]:
        """Its presses."""
        return tuple(Hold(press_s=press_s, hold_s=hold_s) for press_s, hold_s in self.presses)

    @property
    def share(self) -> float | None:
        """What was kept of the possible frames; None where there was nothing to keep."""
        return share_kept(self.kept, self.possible)

    @property
    def succeeded(self) -> bool | None:
        """Whether that is enough; None likewise."""
        return has_succeeded(self.kept, self.possible)
