from django.urls import path

from outings import views

urlpatterns = [path("replay/", views.replay, name="replay")]
