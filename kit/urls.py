from django.urls import URLPattern

urlpatterns: list[URLPattern] = []
