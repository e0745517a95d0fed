from django.urls import path

from sharing import views

urlpatterns = [
    path("shares/", views.shares, name="shares"),
    path("share/set-up/", views.share_setup, name="share-setup"),
    path("share/table/", views.share_table, name="share-table"),
    path("share/results/<slug:slug>/", views.share_results, name="share-results"),
    path("share/card/<slug:slug>/", views.share_card, name="share-card"),
    path("share/sheet/", views.share_body_sheet, name="share-body-sheet"),
    path("share/sheet/<int:pk>/", views.share_sheet, name="share-sheet"),
    path("share/<int:pk>/revoke/", views.revoke, name="revoke"),
    path("shared/<str:token>/", views.shared, name="shared"),
]
