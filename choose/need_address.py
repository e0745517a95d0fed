"""The address of Choose: a body and its shooting modes as on the Desk, and the need.

| key | meaning |
|---|---|
| body, fps, over, iso, isorule, detailrule | as on the Desk; `fps` may be `any` |
| format | a slug of the body's, `raw` for any RAW format, `any` |
| story | a story of `engine`, whose numbers hold for every key of the need left out |
| all others | the fields of `choose.need_form.NeedForm` |
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from urllib.parse import urlencode

from choose.need_form import RARE_FIELDS, USUAL_DATA, NeedForm, data_of
from engine.formats import exact, figure
from engine.selection.requirements import Need
from engine.selection.stories import STORIES, STORY_OF_NAME, Story
from prices.money import USUAL_CURRENCY
from setups import keys
from setups.kit import Kit
from setups.reader import Reading, read_address
from setups.setup import Setup

ANY, ANY_RAW = "any", "raw"
ANY_FORMATS = [(ANY_RAW, "any RAW format"), (ANY, "any format")]
_OF_SETUP = (keys.BODY, keys.SCENE, keys.ISO, keys.ISO_RULE, keys.DETAIL_RULE)
_MODE = (keys.FORMAT, keys.FRAME_RATE)
_KEPT_BY_STORIES = ("money", "form", "least", "among", "plain")


@dataclass(frozen=True, kw_only=True)
class NeedReading:
    """What came of an address.

    `kit` is what is chosen from, `setups` are the shooting modes, without cards; `need` is None
    where `faults`, by key, say why. `shown` has what stands in each field, as typed.
    """

    kit: Kit = field(compare=False)
    desk: Reading
    setups: tuple[Setup, ...]
    form: NeedForm
    shown: Mapping[str, str]
    story: Story | None

    @property
    def need(self) -> Need | None:
        """What is asked for; None where something is wrong."""
        return None if self.form.errors else self.form.need

    @property
    def faults(self) -> Mapping[str, str]:
        """What is wrong, by key."""
        return self.form.faults

    @property
    def money(self) -> str:
        """The currency that everything is added up in."""
        return self.shown["money"]

    @property
    def plain(self) -> bool:
        """Whether cards go without makers and names."""
        return self.shown["plain"] == "1"

    @property
    def summary(self) -> str:
        """What is asked for, in a line."""
        asked = self.form.cleaned_data
        parts = (("lasts", "lasts {} s"), ("every", "every {} s"), ("full", "full speed for {} s"))
        said = [words.format(exact(asked[key])) for key, words in parts if asked.get(key)]
        return " · ".join([str(self.desk.setup.body), *said]) if self.desk.setup else ""

    @property
    def least_gb(self) -> float:
        """The smallest card that counts."""
        return self.form.cleaned_data.get("least") or 0.0

    @property
    def wishes_more(self) -> bool:
        """Whether anything is asked, or wrong, of what most needs leave open."""
        return any(
            self.shown[key] != USUAL_DATA[key] or key in self.faults for key in RARE_FIELDS
        ) or any(key in self.desk.setup.address for key in (keys.SCENE, keys.ISO))

    @property
    def day_words(self) -> str:
        """How many frames a day the series comes to, where it has an end."""
        days = [self.need.day_frames(one.rate.fps) or 0 for one in self.setups] if self.need else []
        if not any(days):
            return ""
        least, most = min(days), max(days)
        return figure(most) if least == most else f"{figure(least)} to {figure(most)}"

    @cached_property
    def address(self) -> str:
        """The query that gives this view again."""
        return urlencode(self._of_setup | dict(self.shown))

    @property
    def address_without_need(self) -> str:
        """The query without the need, for a story to be added to."""
        kept = {key: self.shown[key] for key in _KEPT_BY_STORIES if self.shown[key]}
        return urlencode(self._of_setup | kept)

    @property
    def _of_setup(self) -> dict[str, str]:
        setup = self.desk.setup.address
        of_setup = {key: setup[key] for key in _OF_SETUP if key in setup}
        return of_setup | {key: self.shown[key] for key in _MODE}


def read(asked: Mapping[str, str], kit: Kit) -> NeedReading | None:
    """What `asked`, an address, stands for; None while the kit has no body to shoot with."""
    asked = {key: value.replace("\0", "").strip() for key, value in asked.items()}
    of_desk = {key: value for key, value in asked.items() if value not in (ANY, ANY_RAW)}
    desk = read_address(of_desk, kit)
    if desk is None:
        return None
    story = STORY_OF_NAME.get(asked.get("story", ""))
    if story is None and "lasts" not in asked:
        story = STORIES[0]
    shown = _shown(asked, story, desk.setup)
    form = NeedForm(shown)
    setups = tuple(_setups(desk.setup, shown))
    if form.is_valid() and form.need and form.need.frames:
        need, frames = form.need, form.need.frames
        most = max(need.most_frames(setup.rate.fps) for setup in setups)
        if frames > most:
            said = (
                f"{exact(need.counted_in_s)} s give {most} frames at most at this frame rate; "
                f"{frames} can't be had with any card."
            )
            form.add_error("frames", said)
    return NeedReading(kit=kit, desk=desk, setups=setups, form=form, shown=shown, story=story)


def _shown(asked: Mapping[str, str], story: Story | None, setup: Setup) -> dict[str, str]:
    """What stands in each field: as asked, else as the story has it, else the usual."""
    usual = USUAL_DATA | (data_of(story.need) if story else {})
    shown = {key: asked.get(key, usual[key]) for key in usual}
    shown["money"] = shown["money"].upper()[:3] or USUAL_CURRENCY
    for key in ("sure", "which", "copies"):
        shown[key] = shown[key] or USUAL_DATA[key]
    recording = asked.get(keys.FORMAT, "")
    shown[keys.FORMAT] = recording if recording in (ANY, ANY_RAW) else setup.recording.slug
    shown[keys.FRAME_RATE] = ANY if asked.get(keys.FRAME_RATE) == ANY else exact(setup.rate.fps)
    return shown


def _setups(setup: Setup, shown: Mapping[str, str]) -> list[Setup]:
    body, recording = setup.body, shown[keys.FORMAT]
    formats = [setup.recording]
    if recording in (ANY, ANY_RAW):
        formats = [one for one in body.formats.all() if recording == ANY or one.is_raw]
    rates = {setup.rate.fps: setup.rate}
    if shown[keys.FRAME_RATE] == ANY:
        rates = body.rate_of_fps
    return [
        replace(setup, recording=recording, rate=rate)
        for recording in formats or [setup.recording]
        for rate in rates.values()
    ]
