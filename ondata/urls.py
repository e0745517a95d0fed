"""Every address of the site."""

from django.urls import URLPattern

urlpatterns: list[URLPattern] = []
