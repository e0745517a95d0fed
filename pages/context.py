"""What every template may ask."""

from typing import NamedTuple

from django.conf import settings
from django.http import HttpRequest

from pages.template_functions import url


class Screen(NamedTuple):
    """A place in the menu: the name of its address, its words, its key."""

    name: str
    words: str
    key: str


# In the order of the work: what a set-up does, which card to get, what one's own gear really does.
MENU = (
    (Screen("desk", "Desk", "1"), Screen("table", "Table", "0"), Screen("compare", "Compare", "2")),
    (Screen("choose", "Choose", "3"),),
    (
        Screen("bench", "Bench", "-"),
        Screen("outings", "Outings", "="),
        Screen("practice", "Practice", "y"),
    ),
)
KIT = (
    Screen("camera", "My camera", "9"),
    Screen("bodies", "Bodies", "5"),
    Screen("cards", "Cards", "4"),
    Screen("readers", "Readers", "6"),
    Screen("fits", "What fits", "7"),
    Screen("prices", "Prices", "8"),
)
KEPT_OFFLINE = ("desk", "table", "bench")
SCREENS = (*(screen for group in MENU for screen in group), *KIT)


def site(request: HttpRequest) -> dict[str, object]:
    """The menu, the screen that the visitor is on, and whether there is a sample account."""
    addresses = {screen.name: url(screen.name) for screen in SCREENS}
    desk = addresses.pop("desk")
    within = (name for name, address in addresses.items() if request.path.startswith(address))
    here = "desk" if request.path == desk else next(within, "")
    return {
        "menu": MENU,
        "kit_pages": KIT,
        "screens": SCREENS,
        "here": here,
        "here_is_kept_offline": here in KEPT_OFFLINE,
        "in_kit": any(screen.name == here for screen in KIT),
        "sample_mode": settings.SAMPLE_MODE,
    }
