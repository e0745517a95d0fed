from django.urls import path

from bench import views

urlpatterns = [
    path("", views.bench, name="bench"),
    path("test/", views.bench_test, name="bench-test"),
    path("files/", views.bench_files, name="bench-files"),
    path("heads/", views.bench_heads, name="bench-heads"),
    path("runs.csv", views.runs_csv, name="runs-csv"),
    path("runs/<int:pk>/", views.run_edit, name="run"),
    path("runs/<int:pk>/leave-out/", views.leave_out, name="run-leave-out"),
    path("runs/<int:pk>/delete/", views.delete, name="run-delete"),
    path("bodies/<slug:slug>/", views.bench_body, name="bench-body"),
]
