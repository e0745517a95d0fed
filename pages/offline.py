"""The service worker, which has the last pages when there is no network."""

from django.contrib.staticfiles.storage import staticfiles_storage
from django.http import FileResponse, HttpRequest
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_safe

SCRIPT = "service-worker.js"


@cache_control(no_cache=True)
@require_safe
def service_worker(request: HttpRequest) -> FileResponse:
    """From the root, as a service worker serves what is below its own address only."""
    return FileResponse(staticfiles_storage.open(SCRIPT), content_type="text/javascript")
