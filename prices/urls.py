from django.urls import path

from prices import views

urlpatterns = [
    path("", views.prices, name="prices"),
    path("list/", views.receive, name="prices-receive"),
    path("prices.csv", views.export, name="prices-export"),
    path("list/good/", views.receive_good, name="prices-receive-good"),
    path("list/fetch/", views.fetch_list, name="prices-fetch"),
    path("list/<int:pk>/drop/", views.drop, name="prices-drop"),
    path("note/", views.note, name="price-note"),
    path("rate/", views.rate, name="rate"),
    path("rate/<int:pk>/drop/", views.drop_rate, name="rate-drop"),
]
