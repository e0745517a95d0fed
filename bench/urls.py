from django.urls import path

from bench.views import bodies, log, measuring, runs, stand_in

urlpatterns = [
    path("", log.bench, name="bench"),
    path("test/", runs.bench_test, name="bench-test"),
    path("three-minutes/", runs.three_minutes, name="three-minutes"),
    path("next/", bodies.bench_next, name="bench-next"),
    path("files/", measuring.bench_files, name="bench-files"),
    path("sound/", measuring.bench_sound, name="bench-sound"),
    path("stand-in/", stand_in.stand_in, name="bench-stand-in"),
    path("stand-in/press/", stand_in.stand_in_press, name="stand-in-press"),
    path("stand-in/<str:name>", stand_in.stand_in_file, name="stand-in-file"),
    path("heads/", measuring.bench_heads, name="bench-heads"),
    path("runs.csv", log.runs_csv, name="runs-csv"),
    path("runs.json", log.runs_json, name="runs-json"),
    path("cards/<slug:slug>/", measuring.card_check, name="card-check"),
    path("example/copy/", log.example_copy, name="example-copy"),
    path("lines/", log.bench_lines, name="bench-lines"),
    path("runs/<int:pk>/", runs.run_edit, name="run"),
    path("runs/<int:pk>/leave-out/", runs.leave_out, name="run-leave-out"),
    path("runs/<int:pk>/confirm/", runs.confirm, name="run-confirm"),
    path("runs/<int:pk>/delete/", runs.delete, name="run-delete"),
    path("runs/<int:pk>/restore/", runs.restore, name="run-restore"),
    path("bodies/<slug:slug>/keep/", bodies.keep, name="bench-keep"),
    path("bodies/<slug:slug>/take-back/", bodies.take_back, name="bench-take-back"),
    path("bodies/<slug:slug>/copy/", bodies.copy_body, name="bench-copy"),
    path("bodies/<slug:slug>/results/", bodies.results, name="bench-results"),
    path("bodies/<slug:slug>/", bodies.bench_body, name="bench-body"),
]
