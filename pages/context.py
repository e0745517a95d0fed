"""What every template may ask."""

from django.conf import settings
from django.http import HttpRequest


def sample_mode(request: HttpRequest) -> dict[str, bool]:
    """Whether there is a sample account to try."""
    return {"sample_mode": settings.SAMPLE_MODE}
