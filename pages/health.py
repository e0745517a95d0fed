"""Whether the site can answer."""

from django.db import connection
from django.http import HttpRequest, HttpResponse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_safe


@never_cache
@require_safe
def health(request: HttpRequest) -> HttpResponse:
    """200 while the database answers, for whoever watches the site; else 503, as everywhere."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1")
    return HttpResponse("ok", content_type="text/plain")
