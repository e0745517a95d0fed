"""What every template may ask of the kit."""

from django.http import HttpRequest
from django.utils.functional import SimpleLazyObject

from kit.models.shared import owns_anything


def sample_kit(request: HttpRequest) -> dict[str, object]:
    """Whether the visitor owns anything, asked only where a template wants to know."""
    if not hasattr(request, "user"):  # it is answered before anybody knows who asks
        return {}
    return {"owns_anything": SimpleLazyObject(lambda: owns_anything(request.user))}
