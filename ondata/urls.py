"""Every address of the site."""

from django.urls import include, path

urlpatterns = [path("", include("desk.urls"))]
