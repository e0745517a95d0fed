"""The address of Choose: body and shooting mode as on the Desk, and the need.

| key | meaning |
|---|---|
| body, fps, over, iso, isorule, detailrule | as on the Desk |
| format | a slug of the body's, `raw` for any RAW format, `any` |
| story | a story of `engine`, whose numbers hold for every key of the need left out |
| lasts, every, minutes | how long the action lasts, how often it comes, for how many minutes |
| full, frames, within | full rate for s, frames at least in s; left empty: not asked for |
| picture, which, light | the `first` or the `last` picture to look at after s, light out after s |
| day, free, copied, budget | the same |
| copies | 1 or 2 |
| money | the currency that everything is added up in |
| sure | per cent of the bursts in which each is to be met |
| form, least, among | only cards of that form, of at least so many GB, or `own` ones |
| plain | 1: cards by what they are, without makers and names |
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any
from urllib.parse import urlencode

from engine.cards.standards import Form
from engine.formats import exact
from engine.selection.requirements import InvalidNeed, Need
from engine.selection.stories import STORIES, STORY_OF_NAME, Story
from engine.typed_numbers import NotANumber, quantity_in
from prices.amounts import CENTS
from prices.money import USUAL_CURRENCY
from setups import address, keys
from setups.setup import HOLD_S, Setup

ANY, ANY_RAW = "any", "raw"
ANY_FORMATS = [(ANY_RAW, "any RAW format"), (ANY, "any format")]
OWN = "own"
UNITS = {
    "lasts": "s", "every": "s", "minutes": "min", "full": "s", "within": "s", "picture": "s",
    "light": "s", "copied": "min", "sure": "%", "frames": "frames", "day": "frames", "free": "GB",
    "least": "GB",
}  # fmt: skip
_FIELD_OF_KEY = {
    "lasts": "lasts_s", "every": "every_s", "minutes": "goes_on_min", "full": "full_rate_s",
    "frames": "frames", "within": "frames_in_s", "picture": "picture_s", "light": "light_out_s",
    "day": "frames_a_day", "free": "free_gb", "copied": "copied_min", "budget": "budget_cents",
}  # fmt: skip
_KEY_OF_FIELD = {field: key for key, field in _FIELD_OF_KEY.items()} | {
    "copies": "copies",
    "sure": "sure",
}
_KEYS = (*_FIELD_OF_KEY, "which", "copies", "money", "sure", "form", "least", "among", "plain")
_OF_SETUP = (keys.BODY, keys.SCENE, keys.ISO, keys.ISO_RULE, keys.DETAIL_RULE)
_SHOOTING_MODE = (keys.FORMAT, keys.FRAME_RATE)
_WHOLE = ("frames", "day")
_DECIMALS = {"s": 3, "min": 2, "GB": 3, "%": 1}  # further ones change no answer
_LEFT_OPEN = {
    "frames": "", "within": "", "which": "first", "picture": "", "light": "", "free": "",
    "copied": "", "sure": "80", "among": "", "form": "", "least": "", "plain": "",
}  # fmt: skip
LONGEST_QUOTED = 30
MOST = 1e12  # nobody needs more of anything


@dataclass(frozen=True, kw_only=True)
class NeedReading:
    """What came of an address.

    `setups` are the shooting modes, without cards; `need` is None where `faults`, by key, say why.
    `shown` has what stands in each field, as typed.
    """

    desk: address.Reading
    setups: tuple[Setup, ...]
    need: Need | None
    shown: Mapping[str, str]
    faults: Mapping[str, str]
    story: Story | None

    @property
    def money(self) -> str:
        """The currency that everything is added up in."""
        return self.shown["money"]

    @property
    def plain(self) -> bool:
        """Whether cards go without makers and names."""
        return self.shown["plain"] == "1"

    @property
    def least_gb(self) -> float:
        """The smallest card that counts."""
        return _number(self.shown, "least", {}) or 0.0

    @property
    def wishes_more(self) -> bool:
        """Whether anything is asked, or wrong, of what most needs leave open."""
        return any(
            self.shown[key] not in ("", usual) or key in self.faults
            for key, usual in _LEFT_OPEN.items()
        )

    @cached_property
    def address(self) -> str:
        """The query that gives this view again."""
        return urlencode(self._of_desk | dict(self.shown))

    @property
    def address_of_way(self) -> str:
        """The query with the cards and the shooting mode alone, for a story to be added to."""
        kept = ("money", "form", "least", "among", "plain")
        return urlencode(self._of_desk | {key: self.shown[key] for key in kept if self.shown[key]})

    @property
    def _of_desk(self) -> dict[str, str]:
        setup = self.desk.setup.address
        of_desk = {key: setup[key] for key in _OF_SETUP if key in setup}
        return of_desk | {key: self.shown[key] for key in _SHOOTING_MODE}


def read(asked: Mapping[str, str], kit: address.Kit) -> NeedReading | None:
    """What `asked`, an address, stands for; None while the kit has no body to shoot with."""
    asked = {key: value.replace("\0", "").strip() for key, value in asked.items()}
    of_desk = {key: value for key, value in asked.items() if value not in (ANY, ANY_RAW)}
    desk = address.read(of_desk, kit)
    if desk is None:
        return None
    story = _story(asked)
    shown = _shown(asked, story, desk.setup)
    faults: dict[str, str] = {}
    need = _need(shown, faults)
    setups = tuple(_setups(desk.setup, shown))
    if need and need.frames:
        most = max(need.most_frames(setup.rate.fps) for setup in setups)
        if need.frames > most:
            faults["frames"] = (
                f"{exact(need.counted_in_s)} s give {most} frames at most at this frame rate; "
                f"{need.frames} can't be had with any card."
            )
            need = None
    return NeedReading(desk=desk, setups=setups, need=need, shown=shown, faults=faults, story=story)


def _story(asked: Mapping[str, str]) -> Story | None:
    story = STORY_OF_NAME.get(asked.get("story", ""))
    return story or (None if "lasts" in asked else STORIES[0])


def _shown(asked: Mapping[str, str], story: Story | None, setup: Setup) -> dict[str, str]:
    of_story = shown_need(story.need) if story else {}
    usual = of_story | {"money": USUAL_CURRENCY, "sure": of_story.get("sure", "80")}
    shown = {key: asked.get(key, usual.get(key, "")) for key in _KEYS}
    shown["money"] = shown["money"].upper()[:3] or USUAL_CURRENCY
    shown["sure"] = shown["sure"] or "80"
    shown["form"] = shown["form"] if shown["form"] in set(Form) else ""
    recording = asked.get(keys.FORMAT, "")
    shown[keys.FORMAT] = recording if recording in (ANY, ANY_RAW) else setup.recording.slug
    shown[keys.FRAME_RATE] = ANY if asked.get(keys.FRAME_RATE) == ANY else exact(setup.rate.fps)
    return shown


def shown_need(need: Need) -> dict[str, str]:
    """The fields of the sentence as `need` fills them."""
    shown = {
        key: "" if (value := getattr(need, field)) is None else exact(value)
        for key, field in _FIELD_OF_KEY.items()
    }
    return shown | {
        "budget": "" if need.budget_cents is None else exact(need.budget_cents / CENTS),
        "which": need.picture,
        "copies": str(need.copies),
        "sure": exact(100 * need.sure),
    }


def _need(shown: Mapping[str, str], faults: dict[str, str]) -> Need | None:
    values = {key: _number(shown, key, faults) for key in (*_FIELD_OF_KEY, "sure", "least")}
    if not shown["lasts"]:
        faults["lasts"] = "Say how long the action lasts, in seconds."
    elif values["lasts"] is not None and HOLD_S.fault(values["lasts"]):
        faults["lasts"] = f"The action lasts {HOLD_S.lowest:g} to {HOLD_S.highest:g} s."
    asked: dict[str, Any] = {
        field: int(value) if key in _WHOLE else value
        for key, field in _FIELD_OF_KEY.items()
        if (value := values[key]) is not None
    }
    if "budget_cents" in asked:
        asked["budget_cents"] = round(asked["budget_cents"] * CENTS)
    try:
        need = Need(
            **{"lasts_s": HOLD_S.highest} | asked,  # what is wrong elsewhere is told all the same
            sure=(values["sure"] or 80) / 100,
            copies=2 if shown["copies"] == "2" else 1,
            picture="last" if shown["which"] == "last" else "first",
        )
    except InvalidNeed as error:
        for field, fault in error.faults.items():
            if field == "every_s" and "lasts" in faults:
                continue  # it was held against a length that nobody gave
            faults.setdefault(_KEY_OF_FIELD[field], _in_words(_KEY_OF_FIELD[field], fault))
    return None if faults else need


_NAMES = {
    "lasts": "The action", "every": "How often it comes", "minutes": "How long it goes on",
    "full": "Full speed", "frames": "The frames", "within": "Their time", "picture": "The picture",
    "light": "The light", "day": "A day", "free": "Room on the cards", "copies": "Copies",
    "copied": "Copying", "budget": "The budget", "sure": "How sure",
}  # fmt: skip


def _in_words(key: str, fault: str) -> str:
    return f"{_NAMES[key]} {fault}."


def _number(shown: Mapping[str, str], key: str, faults: dict[str, str]) -> float | None:
    """The number that stands at `key`; None, and a fault unless the field is empty."""
    typed = shown[key]
    if not typed:
        return None
    unit = UNITS.get(key, shown["money"])
    try:
        number = quantity_in(typed, unit)
    except NotANumber as error:
        faults[key] = str(error)
        return None
    if abs(number) < MOST and (key not in _WHOLE or number == int(number)):
        return round(number, _DECIMALS.get(unit, 2))
    kind = "a whole number" if key in _WHOLE else "a number"
    faults[key] = f"“{typed[:LONGEST_QUOTED]}” is not {kind} of {unit}."
    return None


def _setups(setup: Setup, shown: Mapping[str, str]) -> "list[Setup]":
    body = setup.body
    formats = [setup.recording]
    recording = shown[keys.FORMAT]
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
