"""Every address of the site."""

from django.urls import include, path

urlpatterns = [
    path("", include("desk.urls")),
    path("", include("kit.urls")),
    path("prices/", include("prices.urls")),
    path("account/", include("accounts.urls")),
]
