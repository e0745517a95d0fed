"""Forms of a sound: the recording, and its strokes as somebody corrects them."""

import re
from functools import cached_property
from typing import Any

from django import forms

from bench.models import MOST_STROKES
from bench.strokes_drawing import FoundBurst, SoundDrawing, loudness_digits
from engine.formats import figure
from engine.measurement.shutter_sounds import LONGEST_S, Heard, NothingHeard, hear
from engine.measurement.sound_files import LARGEST_BYTES, NoSound, read_sound
from engine.measurement.strokes import counted

RESOLUTION_S = 0.002
LONGEST_LOUDNESS = 100_000
FEWEST = 2
ACCEPTED = "audio/*,.wav,.flac,.ogg,.mp3,.webm,.m4a"


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
        if len(moments) < FEWEST:
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
