"""The form of a run: what was seen of a burst, by tapping or from a table."""

import json
import math
from datetime import date, timedelta
from typing import Any, ClassVar

from django import forms
from django.utils.timezone import localdate

from bench.models import MOST_RUNS, MOST_STROKES, Run
from engine.burst.scenario import FRAME_RATE_FPS
from engine.formats import figure
from engine.measurement.runs import CLEAR_S
from kit.form_fields import QuantityField
from setups.setup import HOLD_S

MOST_TAPS = 10
OTHER_RATE = 0.2  # on the scale of logarithms: more is another rate than that of the set-up
LATE_FINGER_S = 0.5
FOLDED = ("battery_percent", "notes", "frame_rate_fps", "files_mb")
MOST_KEPT = 10 * MOST_RUNS  # runs of one owner


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
            told = json.loads(super().clean(value) or "[]")
        except (ValueError, RecursionError):
            return []
        found = told[: self.most] if isinstance(told, list) else []
        return [one for one in found if isinstance(one, int | float) and CLEAR_S.fault(one) is None]

    def prepare_value(self, value: Any) -> Any:
        """A list as it is sent again."""
        return json.dumps(value) if isinstance(value, list) else value


class RunForm(forms.ModelForm):
    """What was seen; the set-up, at `fps`, comes with it in the address."""

    hold_s = QuantityField(unit="s", label="Held down for, s")
    clear_s = QuantityField(unit="s", label="Card light out after finger up, s", required=False)
    frame_rate_fps = QuantityField(
        unit="fps", label="Frame rate at full speed, fps", required=False
    )
    files_mb = QuantityField(unit="MB", label="Files of a frame, MB", required=False)
    taps_s = MomentsField(MOST_TAPS)
    strokes_s = MomentsField(MOST_STROKES)

    class Meta:
        model = Run
        fields = [
            "hold_s", "frames_at_full_speed", "did_not_slow", "frames", "clear_s", "covered",
            "settings_checked", "battery_percent", "shot_on", "method", "notes", "frame_rate_fps",
            "files_mb", "taps_s", "strokes_s",
        ]  # fmt: skip
        widgets: ClassVar = {"shot_on": forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")}
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
        if abs(math.log(rate / self.fps)) > OTHER_RATE:
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
        """There is room for it, and for its frames in the hold."""
        cleaned = super().clean() or {}
        due = self.fps * math.exp(OTHER_RATE) * (cleaned.get("hold_s", math.inf) + LATE_FINGER_S)
        for name in ("frames_at_full_speed", "frames"):
            if (cleaned.get(name) or 0) > due + 1:
                hold = figure(cleaned["hold_s"], "s")
                self.add_error(
                    name, f"In {hold} at {figure(self.fps, 'fps')} no more than {due:.0f} fit."
                )
        if self.instance.pk is None and self.instance.owner_id and self._is_full():
            raise forms.ValidationError(
                f"{MOST_KEPT} runs are as many as are kept: delete some first."
            )
        return cleaned

    def _is_full(self) -> bool:
        return Run.objects.filter(owner_id=self.instance.owner_id).count() >= MOST_KEPT
