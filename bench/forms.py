"""The forms of a run, of a sound and its strokes, and of a new card's check."""

import json
import re
from collections.abc import Mapping
from datetime import date, timedelta
from functools import cached_property
from typing import Any

from django import forms
from django.utils.timezone import localdate

from bench.found_bursts import FoundBurst
from bench.models import MOST_STROKES, Run
from bench.sound_drawing import SoundDrawing, loudness_digits
from engine.burst.scenario import FRAME_RATE_FPS
from engine.cards.label.parser import read_marks
from engine.cards.new_card import CardCheck, InvalidCheck
from engine.formats import figure
from engine.measurement.runs import ACCURACY, CLEAR_S, fewest_frames, is_other_rate, most_frames
from engine.measurement.shutter_sounds import LONGEST_S, Heard, NothingHeard, hear
from engine.measurement.sound_files import LARGEST_BYTES, NoSound, read_sound
from engine.measurement.strokes import counted
from kit.form_fields import QuantityField, form_field
from kit.models import Card
from kit.versioned_form import VersionedForm
from pages.boundary import NoJson, read_json
from setups.setup import HOLD_S

MOST_TAPS = 10
FOLDED = ("battery_percent", "notes", "frame_rate_fps", "files_mb")
RESOLUTION_S = 0.002
LONGEST_LOUDNESS = 100_000
FEWEST_STROKES = 2
ACCEPTED = "audio/*,.wav,.flac,.ogg,.mp3,.webm,.m4a"
GIB_HELP = "type GiB behind it where the computer counts so"


class MomentsField(forms.CharField):
    """Moments in seconds, as a script or a burst that was found sends them; nobody types them.

    What is none of the longest burst is left out.
    """

    widget = forms.HiddenInput

    def __init__(self, most: int) -> None:
        super().__init__(required=False)
        self.most = most

    def clean(self, value: Any) -> list[float]:
        """The first `most` numbers of a list."""
        try:
            told = read_json(super().clean(value) or "[]")
        except NoJson:
            return []
        found = told[: self.most] if isinstance(told, list) else []
        return [one for one in found if isinstance(one, int | float) and CLEAR_S.fault(one) is None]

    def prepare_value(self, value: Any) -> Any:
        """A list as it is sent again."""
        return json.dumps(value) if isinstance(value, list) else value


class RunForm(VersionedForm):
    """What was seen; the set-up, at `fps`, comes with it in the address."""

    hold_s = QuantityField(unit="s", label="Held down for, s")
    clear_s = QuantityField(unit="s", label="Card light out after finger up, s", required=False)
    frame_rate_fps = QuantityField(
        unit="fps", label="Frame rate at full speed, fps", required=False
    )
    files_mb = QuantityField(unit="MB", label="File size, MB a frame", required=False)
    depth_is_tapped = forms.BooleanField(required=False, widget=forms.HiddenInput)
    taps_s = MomentsField(MOST_TAPS)
    strokes_s = MomentsField(MOST_STROKES)
    what = "The run"

    class Meta:
        model = Run
        fields = [
            "hold_s", "frames_at_full_speed", "did_not_slow", "frames", "clear_s", "covered",
            "settings_checked", "battery_percent", "shot_on", "method", "notes", "frame_rate_fps",
            "files_mb", "depth_is_tapped", "taps_s", "strokes_s",
        ]  # fmt: skip
        formfield_callback = form_field
        labels = {
            "frames_at_full_speed": "Frames before it slowed",
            "did_not_slow": "It did not slow",
            "frames": "Frames in all, by the counter",
            "covered": "The lens was covered",
            "settings_checked": "The settings were as in the list above",
            "battery_percent": "Battery, %",
            "shot_on": "Day",
            "method": "Measured",
        }

    def __init__(self, *args: Any, fps: float, **options: Any) -> None:
        super().__init__(*args, **options)
        self.fps = fps

    @property
    def has_more(self) -> bool:
        """Whether something stands in the fields that are folded away, or is wrong there."""
        return any(name in self.errors or self[name].value() for name in FOLDED)

    def clean_frame_rate_fps(self) -> float | None:
        """A rate that the set-up can have had."""
        rate: float | None = self.cleaned_data["frame_rate_fps"]
        if rate is None or FRAME_RATE_FPS.fault(rate):
            return rate
        if is_other_rate(rate, self.fps):
            raise forms.ValidationError(
                f"The burst ran at {figure(rate, 'fps')}, the set-up shoots at "
                f"{figure(self.fps, 'fps')}: choose the rate that the camera was set to."
            )
        return rate

    def clean_shot_on(self) -> date:
        """A day that has been, wherever that is."""
        day: date = self.cleaned_data["shot_on"] or localdate()
        if day > localdate() + timedelta(days=1):
            raise forms.ValidationError("This day is still to come.")
        return day

    def clean_hold_s(self) -> float:
        """A hold that the Desk could show, too."""
        hold_s: float = self.cleaned_data["hold_s"]
        if fault := HOLD_S.fault(hold_s):
            raise forms.ValidationError(f"{fault.capitalize()}.")
        return hold_s

    def clean_strokes_s(self) -> list[float]:
        """In order, from the first one on."""
        moments = sorted(self.cleaned_data["strokes_s"])
        return [moment - moments[0] for moment in moments] if len(moments) > 1 else []

    def clean(self) -> dict[str, Any]:
        """There is room for it, and for its frames in the hold; a typed depth is not the tapped."""
        cleaned = super().clean() or {}
        if self.instance.pk and "frames_at_full_speed" in self.changed_data:
            cleaned["depth_is_tapped"] = False
        if self.has_changed():
            self.instance.is_confirmed = False
        self._tell_quarrel(cleaned)
        if self.instance.pk is None and self.instance.owner_id:
            kept, strokes = (
                Run.objects.filter(owner_id=self.instance.owner_id),
                cleaned["strokes_s"],
            )
            if words := kept.no_room_words(1, len(strokes)):
                raise forms.ValidationError(words)
        return cleaned

    def _tell_quarrel(self, cleaned: Mapping[str, Any]) -> None:
        """Tells of a count that hold and frame rate have no room for, before anything is learnt."""
        hold_s, rate = cleaned.get("hold_s"), cleaned.get("frame_rate_fps") or self.fps
        method = cleaned.get("method")
        if hold_s is None or method not in ACCURACY or FRAME_RATE_FPS.fault(rate):
            return
        accuracy = ACCURACY[method]
        most, fewest = (of(rate, hold_s, accuracy) for of in (most_frames, fewest_frames))
        for name in ("frames_at_full_speed", "frames"):
            frames = cleaned.get(name)
            if frames is None or self.has_error(name):
                continue
            would_be = (
                f"{figure(frames, 'frames')} in {figure(hold_s, 's')} would be "
                f"{figure(frames / hold_s, 'fps')}, and the camera shoots {figure(rate, 'fps')}, "
                "which is"
            )
            if frames > most:
                self.add_error(
                    name, f"{would_be} {most} at most: hold, frames or frame rate is wrong."
                )
            elif name == "frames" and cleaned.get("did_not_slow") and frames < fewest:
                self.add_error(
                    name,
                    f"{would_be} {fewest} at least: did it slow after all, or is one of hold, "
                    "frames and frame rate wrong?",
                )


class SoundForm(forms.Form):
    """A recording, which is cleaned to what is heard in it."""

    sound = forms.FileField(
        label="WAV, FLAC, OGG, MP3, or what a phone records",
        help_text=f"{LARGEST_BYTES // 1_000_000} MB and {LONGEST_S / 60:g} minutes at most",
        widget=forms.FileInput(attrs={"accept": ACCEPTED, "data-most": LARGEST_BYTES}),
    )

    def clean_sound(self) -> Heard:
        """What is heard."""
        file = self.cleaned_data["sound"]
        try:
            sound = read_sound(file.read(LARGEST_BYTES + 1))
            return hear(sound.pieces, sound.rate_hz)
        except (NoSound, NothingHeard) as error:
            raise forms.ValidationError(str(error)) from error


class MarksForm(forms.Form):
    """The moments of strokes in seconds of the recording, and how loud that was."""

    times = forms.CharField(
        label="Strokes, in seconds of the recording",
        widget=forms.Textarea(attrs={"rows": 6, "spellcheck": "false"}),
        max_length=10 * MOST_STROKES,
    )
    loudness = forms.CharField(
        widget=forms.HiddenInput, required=False, max_length=LONGEST_LOUDNESS
    )

    @classmethod
    def of(cls, heard: Heard) -> "MarksForm":
        """What is heard, to be corrected."""
        return cls({
            "times": " ".join(f"{moment:.3f}" for moment in heard.strokes_s),
            "loudness": loudness_digits(heard),
        })  # fmt: skip

    def clean_times(self) -> list[float]:
        """The moments, in order and each once."""
        found = []
        for word in re.split(r"[\s;]+", self.cleaned_data["times"].strip()):
            if not re.fullmatch(r"\d{1,4}([.,]\d{1,6})?", word):
                raise forms.ValidationError(f"“{word[:20]}” is no moment in seconds, as 1.25 is.")
            found.append(float(word.replace(",", ".")))
        moments = sorted(set(found))
        if len(moments) < FEWEST_STROKES:
            raise forms.ValidationError("Two strokes are the fewest that tell something.")
        if moments[-1] > LONGEST_S:
            raise forms.ValidationError(f"The last one is after {figure(LONGEST_S, 's')}.")
        return moments

    def clean_loudness(self) -> str:
        """Digits; without them there is no hill behind the strokes."""
        digits: str = self.cleaned_data["loudness"]
        return digits if re.fullmatch(r"[0-9]*", digits) else ""

    @cached_property
    def drawing(self) -> SoundDrawing:
        """The strokes, and the sound behind them."""
        told: dict[str, Any] = self.cleaned_data if self.is_valid() else {}
        return SoundDrawing(told.get("times", ()), told.get("loudness", ""))

    @cached_property
    def burst(self) -> FoundBurst | None:
        """What the strokes tell; None where they are none."""
        if not self.is_valid():
            return None
        moments = self.cleaned_data["times"]
        strokes = counted(moments, RESOLUTION_S)
        return FoundBurst("sound", "The recording", strokes.times_s, strokes)


class CardCheckForm(forms.Form):
    """What was seen of a card; each step may be left out."""

    shown_gb = QuantityField(
        unit="GB", label="Capacity that the computer shows, GB", required=False, help_text=GIB_HELP
    )
    copied_gb = QuantityField(unit="GB", label="Copied to it, GB", required=False)
    copied_s = QuantityField(unit="s", label="in how many seconds", required=False)
    read_back_gb = QuantityField(
        unit="GB", label="Read back from the full card, GB", required=False, help_text=GIB_HELP
    )

    def __init__(self, *args: Any, card: Card) -> None:
        super().__init__(*args)
        self.card = card
        self.check: CardCheck | None = None

    def clean(self) -> dict[str, Any]:
        """The check of the card."""
        cleaned = super().clean() or {}
        if self.errors:
            return cleaned
        if not any(value is not None for value in cleaned.values()):
            raise forms.ValidationError("Give what one step has shown at least.")
        face = read_marks(self.card.marks).face
        try:
            self.check = CardCheck(
                printed_gb=self.card.capacity_gb, guaranteed_mb_s=face.guaranteed_mb_s, **cleaned
            )
        except InvalidCheck as error:
            for name, fault in error.faults.items():
                self.add_error(name, f"It {fault}.")
        return cleaned
