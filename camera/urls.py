from django.urls import path

from camera import views

urlpatterns = [
    path("", views.camera, name="camera"),
    path("read/", views.read_page, name="camera-read"),
]
