from django.urls import path

from desk import views

urlpatterns = [path("", views.desk, name="desk")]
