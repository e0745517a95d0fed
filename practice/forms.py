"""What the page of practice sends: how a session begins, and the presses of a run."""

from typing import Any

from django import forms

from engine.burst.scenario import Hold
from engine.practice.presses import ImpossiblePresses, holds_of_presses
from engine.practice.reaction import TRIES, TooFewTries, reaction_s
from engine.practice.subject_run import LEVEL, RUNS, SEED, SubjectRun
from engine.practice.subjects import SUBJECTS
from kit.form_fields import WholeField
from pages.boundary import read_json
from pages.refusals import Refused
from practice.subject_words import WORDS_OF_SUBJECT

LONGEST_JSON = 100_000  # characters; of more presses than a run can have, too
CLOCK_OFF_S = 1.0  # by which the clock of a page may differ from the length of the run
FIRST = "gannet"


class BeginForm(forms.Form):
    """A session to begin: the subject, and for somebody else's runs their number and level."""

    subject = forms.ChoiceField(
        choices=[(key, WORDS_OF_SUBJECT[key].name) for key in SUBJECTS], initial=FIRST
    )
    seed = WholeField(required=False, min_value=int(SEED.lowest), max_value=int(SEED.highest))
    level = WholeField(required=False, min_value=int(LEVEL.lowest), max_value=int(LEVEL.highest))
    race = WholeField(required=False, min_value=1)
    tries = forms.CharField(required=False, max_length=LONGEST_JSON)

    def clean_tries(self) -> float | None:
        """The reaction time that tries tell; None without any."""
        said = self.cleaned_data["tries"]
        if not said:
            return None
        try:
            return reaction_s(_numbers(said)[:TRIES])
        except TooFewTries as error:
            sentence = "Too few of the presses were reactions: measure again."
            raise forms.ValidationError(sentence) from error

    def clean(self) -> dict[str, Any]:
        """With a level wherever there is a number of runs."""
        told = super().clean() or {}
        if (told.get("seed") is None) != (told.get("level") is None):
            raise forms.ValidationError("A number of runs goes with a level.")
        return told


class PlayedForm(forms.Form):
    """The presses of `run`, as moments of finger down and finger up, and how long it lasted.

    `number` is that of the run that comes next in its session, None once all were played.
    """

    number = WholeField(min_value=1, max_value=RUNS)
    presses = forms.CharField(
        max_length=LONGEST_JSON, error_messages={"max_length": "Nobody presses as often in a run."}
    )
    lasted_s = forms.FloatField()

    def __init__(self, sent: Any, *, run: SubjectRun, number: int | None) -> None:
        super().__init__(sent)
        self.run, self.next_number = run, number

    def clean_number(self) -> int:
        """That of the run that comes next."""
        number: int = self.cleaned_data["number"]
        if number != self.next_number:
            raise forms.ValidationError(
                f"Run {number} was played already: what you pressed just now doesn't count."
            )
        return number

    def clean_presses(self) -> tuple[Hold, ...]:
        """The presses."""
        said = _json(self.cleaned_data["presses"])
        if not isinstance(said, list) or not all(isinstance(one, list) for one in said):
            raise forms.ValidationError("These are no presses.")
        try:
            return holds_of_presses([_all_numbers(one) for one in said], self.run.ends_s)
        except ImpossiblePresses as error:
            raise forms.ValidationError(f"{error.fault} The run doesn't count.") from error

    def clean_lasted_s(self) -> float:
        """The length of the run by the clock of the page."""
        lasted_s: float = self.cleaned_data["lasted_s"]
        if not abs(lasted_s - self.run.ends_s) <= CLOCK_OFF_S:
            raise forms.ValidationError(
                "The clock of this device jumped, or the page stood still: the run doesn't count."
            )
        return lasted_s


def presses_so_far(text: str, ends_s: float) -> tuple[Hold, ...]:
    """The presses in an address, "0.512-1.2,2.0-": one without an end is still down.

    Raises ImpossiblePresses.
    """
    pairs = [one.partition("-") for one in text.split(",") if one] if text else []
    try:
        moments = [(float(down), float(up) if up else ends_s) for down, _, up in pairs]
    except ValueError:
        raise ImpossiblePresses("These are no presses.") from None
    return holds_of_presses(moments, ends_s)


def _json(text: str) -> Any:
    try:
        return read_json(text)
    except Refused as error:
        raise forms.ValidationError(list(error.sentences)) from error


def _numbers(text: str) -> list[float]:
    said = _json(text)
    return _all_numbers(said if isinstance(said, list) else [None])


def _all_numbers(values: list[Any]) -> list[float]:
    if not all(isinstance(one, int | float) and not isinstance(one, bool) for one in values):
        raise forms.ValidationError("These are no moments.")
    return [float(one) for one in values]
