"""The set-up that a burst's own files tell of: what they say opens in the form of the run.

Where they and the kit disagree, the page asks: the set-up stays as it was there, and a sentence
says what the files say.
"""

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from engine.formats import exact
from engine.typed_numbers import NotANumber, quantity_in
from kit.models import Body, RecordingFormat
from setups import keys
from setups.kit import Kit
from setups.reader import Reading, read_address

CAMERA, ENDINGS = "camera", "endings"  # of a burst that was found, beside the fields of a run
LONGEST_SAID = 80
SMALLEST_MB = 0.001
_KIND_OF_ENDING = {"JPG": "jpeg", "JPEG": "jpeg", "HIF": "heif", "HEIC": "heif", "HEIF": "heif"}


@dataclass
class SetupOfFiles:
    """`told` is what a found burst says, `before` the set-up in view; `questions` are what is left
    to be chosen.
    """

    told: Mapping[str, str]
    before: Reading
    kit: Kit
    questions: list[str] = field(default_factory=list)

    def reading(self) -> Reading:
        """The set-up with what the files say in place of its own."""
        body = self._body()
        asked = keys.for_body(self.before.setup.address, body.slug)
        asked |= self._format(body) | self._rate(body)
        return read_address(asked, self.kit) or self.before

    def _body(self) -> Body:
        before, said = self.before.setup.body, self.told.get(CAMERA, "")[:LONGEST_SAID]
        words = _words(said)
        if not words or _words(before.maker_and_name) <= words:
            return before
        same = [one for one in self.kit.bodies if _words(one.maker_and_name) <= words]
        if not same:
            self.questions.append(
                f"The files say that a {said} took them, which your kit does not have by that "
                f"name: is it the {before}? Else choose its body, or add it."
            )
            return before
        # The longest name says most: a VX-3 is no VX.
        return self.kit.with_choices(max(same, key=lambda one: len(one.maker_and_name)))

    def _format(self, body: Body) -> dict[str, str]:
        endings = [one for one in self.told.get(ENDINGS, "")[:LONGEST_SAID].split(",") if one]
        if not endings:
            return {}
        kinds = {_KIND_OF_ENDING.get(one, "raw") for one in endings}
        alike = [one for one in body.formats.all() if _kinds(one) == kinds]
        if not alike:
            self.questions.append(
                f"The files are {' and '.join(endings)}, and the {body} has no such format in your "
                "kit: choose the one that they were shot in, or add it."
            )
            return {}
        return {keys.FORMAT: self._nearest(alike).slug}

    def _nearest(self, alike: list[RecordingFormat]) -> RecordingFormat:
        """Of several formats of such files the one of the nearest size, which is asked about."""
        try:
            mb = max(quantity_in(self.told.get("files_mb", ""), "MB"), SMALLEST_MB)
        except NotANumber:
            return next((one for one in alike if one == self.before.setup.recording), alike[0])
        nearest = min(alike, key=lambda one: abs(math.log(one.files_mb / mb)))
        if len(alike) > 1:
            self.questions.append(
                f"By their size the files are {nearest}; they don't say so themselves. Was it that?"
            )
        return nearest

    def _rate(self, body: Body) -> dict[str, str]:
        """The rate of the body that is nearest to the one that the burst was found at."""
        try:
            fps = quantity_in(self.told.get("frame_rate_fps", ""), "fps")
        except NotANumber:
            return {}
        nearest = min(body.rate_of_fps, key=lambda one: abs(one - fps))
        return {keys.FRAME_RATE: exact(nearest)}


def _words(name: str) -> set[str]:
    return set(re.findall(r"\w+", name.casefold()))


def _kinds(recording: RecordingFormat) -> set[str]:
    return {file.name for file in recording.all_files}
