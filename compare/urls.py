from django.urls import path

from compare import views

urlpatterns = [path("", views.compare, name="compare")]
