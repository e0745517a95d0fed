from django.urls import path

from desk import exports, views

urlpatterns = [
    path("", views.desk, name="desk"),
    path("burst.json", exports.burst_json, name="burst-json"),
    path("burst.svg", exports.burst_svg, name="burst-svg"),
    path("frames.csv", exports.frames_csv, name="frames-csv"),
]
