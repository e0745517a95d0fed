"""The form of a run: what was seen of a burst, by tapping or from a table."""

import json
from typing import Any

from django import forms

from bench.models import MOST_RUNS, Run
from kit.form_fields import QuantityField
from setups.setup import HOLD_S

MOST_TAPS = 10
MOST_KEPT = 10 * MOST_RUNS  # runs of one owner


class RunForm(forms.ModelForm):
    """What was seen; the set-up comes with it in the address."""

    hold_s = QuantityField(unit="s", label="Held down for, s")
    clear_s = QuantityField(unit="s", label="Card light out after finger up, s", required=False)
    frame_rate_fps = QuantityField(unit="fps", label="Frame rate by the files, fps", required=False)
    files_mb = QuantityField(unit="MB", label="Files of a frame, MB", required=False)
    taps_s = forms.CharField(widget=forms.HiddenInput, required=False)

    class Meta:
        model = Run
        fields = [
            "hold_s", "frames_at_full_speed", "did_not_slow", "frames", "clear_s", "covered",
            "method", "notes", "frame_rate_fps", "files_mb", "taps_s",
        ]  # fmt: skip
        labels = {
            "frames_at_full_speed": "Frames before it slowed",
            "did_not_slow": "It did not slow",
            "frames": "Frames in all, by the counter",
            "covered": "The lens was covered",
            "method": "Measured",
        }

    def clean_hold_s(self) -> float:
        """A hold that the Desk could show, too."""
        hold_s: float = self.cleaned_data["hold_s"]
        if fault := HOLD_S.fault(hold_s):
            raise forms.ValidationError(f"{fault.capitalize()}.")
        return hold_s

    def clean_taps_s(self) -> list[float]:
        """The moments of the taps; what is none is left out, as nobody typed it."""
        try:
            taps = json.loads(self.cleaned_data["taps_s"] or "[]")
        except (ValueError, RecursionError):
            return []
        found = taps[:MOST_TAPS] if isinstance(taps, list) else []
        return [tap for tap in found if isinstance(tap, int | float)]

    def clean(self) -> dict[str, Any]:
        """There is room for it."""
        cleaned = super().clean() or {}
        if self.instance.pk is None and self.instance.owner_id and self._is_full():
            raise forms.ValidationError(
                f"{MOST_KEPT} runs are as many as are kept: delete some first."
            )
        return cleaned

    def _is_full(self) -> bool:
        return Run.objects.filter(owner_id=self.instance.owner_id).count() >= MOST_KEPT
