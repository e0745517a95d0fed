"""Every address of the site."""

from django.urls import include, path

from pages.health import health
from pages.offline import manifest, service_worker

handler500 = "pages.errors.server_error"

urlpatterns = [
    path("health/", health, name="health"),
    path("manifest.webmanifest", manifest, name="manifest"),
    path("service-worker.js", service_worker, name="service-worker"),
    path("", include("desk.urls")),
    path("camera/", include("camera.urls")),
    path("table/", include("table.urls")),
    path("bench/", include("bench.urls")),
    path("outings/", include("outings.urls")),
    path("practice/", include("practice.urls")),
    path("compare/", include("compare.urls")),
    path("choose/", include("choose.urls")),
    path("", include("kit.urls")),
    path("prices/", include("prices.urls")),
    path("account/", include("accounts.urls")),
    path("account/", include("sharing.urls")),
]
