from django.urls import path

from kit.views import acts, bodies, cards, exchange, fits, readers

urlpatterns = [
    path("cards/", cards.cards, name="cards"),
    path("cards/new/", cards.card_new, name="card-new"),
    path("cards/<slug:slug>/", cards.card, name="card"),
    path("cards/<slug:slug>/edit/", cards.card_edit, name="card-edit"),
    path("cards/<slug:slug>/log/", cards.card_log, name="card-log"),
    path("bodies/", bodies.bodies, name="bodies"),
    path("bodies/new/", bodies.body_new, name="body-new"),
    path("bodies/<slug:slug>/", bodies.body, name="body"),
    path("bodies/<slug:slug>/edit/", bodies.body_edit, name="body-edit"),
    path("readers/", readers.readers, name="readers"),
    path("readers/new/", readers.reader_new, name="reader-new"),
    path("readers/<slug:slug>/", readers.reader, name="reader"),
    path("readers/<slug:slug>/edit/", readers.reader_edit, name="reader-edit"),
    path("fits/", fits.fits, name="fits"),
    path("kit/", exchange.exchange, name="exchange"),
    path("kit/export/<slug:form>/", exchange.export, name="export"),
    path("kit/import/", exchange.receive, name="receive"),
    path("kit/import/<int:pk>/", exchange.preview, name="import"),
    path("kit/import/<int:pk>/save/", exchange.save, name="import-save"),
    path("kit/import/<int:pk>/forget/", exchange.forget, name="import-forget"),
    path("kit/<slug:kind>/<slug:slug>/duplicate/", acts.duplicate, name="duplicate"),
    path("kit/<slug:kind>/<slug:slug>/archive/", acts.archive, name="archive"),
    path("kit/<slug:kind>/<slug:slug>/bring-back/", acts.bring_back, name="bring-back"),
    path("kit/undo/<int:pk>/", acts.undo, name="undo"),
]
