from django.urls import path

from table import views

urlpatterns = [
    path("", views.table, name="table"),
    path("table.csv", views.table_csv, name="table-csv"),
    path("table.json", views.table_json, name="table-json"),
    path("card/<slug:slug>/", views.card_table, name="card-table"),
]
