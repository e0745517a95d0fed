"""What a change brings, in words: in the list of changes, and of the one that is tried."""

from collections.abc import Iterator

from django.template.defaultfilters import pluralize

from engine.formats import figure, signed
from engine.uncertainty.what_if import WhatIf
from setups.words import light_words


def headline(gain: WhatIf) -> str:
    """The most that it brings; of what is no gain, the frames."""
    if not gain.gains or (gain.gained_frames > 0 and not gain.ends_wall):
        return frames_words(gain)
    if gain.ends_wall:
        return "no wall"
    if gain.prolongs_full_speed:
        return f"{figure(gain.longer_full_speed_s, 's')} longer"
    return f"{figure(gain.sooner_s, 's')} sooner"


def details(gain: WhatIf) -> Iterator[str]:
    """What else is mentioned."""
    if gain.ends_wall and not gain.gains:
        yield "no wall"
    if gain.moves_light:
        yield light_words(gain.sooner_s)
    if gain.prolongs_full_speed and gain.wall_s:
        yield f"full speed lasts {figure(gain.wall_s, 's')}"
    same_is_news = gain.gained_frames == 0 and not gain.ends_wall
    if gain.gains and (gain.gained_frames < 0 or same_is_news):
        yield frames_words(gain)


def tried_words(gain: WhatIf) -> str:
    """All of it, in one sentence."""
    said = [f"{frames_words(gain)} in the hold"]
    if gain.moves_light:
        said.append(light_words(gain.sooner_s))
    if gain.prolongs_full_speed:
        said.append(f"{figure(gain.longer_full_speed_s, 's')} longer at full speed")
    return f"{', '.join(said)}."


def frames_words(gain: WhatIf) -> str:
    """Frames more or fewer."""
    frames = gain.gained_frames
    return f"{signed(frames)} frame{pluralize(abs(frames))}" if frames else "same frames"
