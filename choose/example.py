"""The answers of the stories for the sample kit, kept ready: examples of what Choose tells."""

from django.contrib.auth.models import AnonymousUser

from choose import need_address
from choose.evaluating import WORK_S
from choose.page import ChoicePage
from engine.selection.stories import STORIES, Story
from setups.kit import Kit


def example() -> ChoicePage | None:
    """The answer of the first story; None while it is not ready."""
    page = _page(STORIES[0])
    return page if page and page.answer else None


def prepare() -> bool:
    """Works out the first answer that is not ready; whether there was any."""
    for story in STORIES:
        page = _page(story)
        if page and page.worked_on:
            while page.worked_on:
                page = ChoicePage(page.reading, work_s=WORK_S)
            return True
    return False


def _page(story: Story) -> ChoicePage | None:
    reading = need_address.read({"story": story.name}, Kit.of(AnonymousUser()))
    return ChoicePage(reading, work_s=0) if reading else None
