"""The site as an application that a phone installs: its manifest, and the service worker, which has
the last pages when there is no network.
"""

from django.contrib.staticfiles.storage import staticfiles_storage
from django.http import FileResponse, HttpRequest, JsonResponse
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_safe

SCRIPT = "service-worker.js"


@cache_control(no_cache=True)
@require_safe
def service_worker(request: HttpRequest) -> FileResponse:
    """From the root, as a service worker serves what is below its own address only."""
    return FileResponse(staticfiles_storage.open(SCRIPT), content_type="text/javascript")


@cache_control(no_cache=True)
@require_safe
def manifest(request: HttpRequest) -> JsonResponse:
    """What a browser asks before it installs the site (W3C, Web Application Manifest)."""
    icon = {"src": staticfiles_storage.url("mark.svg"), "type": "image/svg+xml", "sizes": "any"}
    told = {
        "name": "Ondata", "short_name": "Ondata", "start_url": "/", "scope": "/",
        "display": "standalone", "icons": [icon],
    }  # fmt: skip
    return JsonResponse(told, content_type="application/manifest+json")
