"""What every template may ask."""

from django.conf import settings
from django.http import HttpRequest
from django.urls import reverse

# The screens in the order of the work: the name of the address, the words, the key.
ROOMS = [
    ("desk", "Desk", "1"),
    ("camera", "My camera", "9"),
    ("table", "Table", "0"),
    ("bench", "Bench", "-"),
    ("compare", "Compare", "2"),
    ("choose", "Choose", "3"),
    ("cards", "Cards", "4"),
    ("bodies", "Bodies", "5"),
    ("readers", "Readers", "6"),
    ("fits", "What fits", "7"),
    ("prices", "Prices", "8"),
]


def site(request: HttpRequest) -> dict[str, object]:
    """The screens, the one that the visitor is on, and whether there is a sample account."""
    addresses = {name: reverse(name) for name, _, _ in ROOMS}
    within = (name for name, address in addresses.items() if request.path.startswith(address))
    room = (
        "desk"
        if request.path == addresses["desk"]
        else next((n for n in within if n != "desk"), "")
    )
    return {"rooms": ROOMS, "room": room, "sample_mode": settings.SAMPLE_MODE}
