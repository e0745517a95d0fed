from django.urls import path

from practice import views

urlpatterns = [
    path("", views.practice, name="practice"),
    path("begin/", views.begin, name="practice-begin"),
    path("runs.csv", views.runs_csv, name="practice-csv"),
    path("<int:pk>/", views.session, name="practice-session"),
    path("<int:pk>/strokes/", views.strokes, name="practice-strokes"),
    path("<int:pk>/run/", views.keep_run, name="practice-run"),
    path("<int:pk>/delete/", views.delete, name="practice-delete"),
    path("<int:pk>/restore/", views.restore, name="practice-restore"),
]
