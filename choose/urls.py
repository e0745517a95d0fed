from django.urls import path

from choose import views

urlpatterns = [
    path("", views.choose, name="choose"),
    path("choice.csv", views.choice_csv, name="choice-csv"),
]
