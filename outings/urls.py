from django.urls import path

from outings.views import field_sheet, kept, kept_plan, plan, replay

urlpatterns = [
    path("", kept.outings, name="outings"),
    path("replay/", replay.replay, name="replay"),
    path("plan/", plan.plan, name="plan"),
    path("plan/keep/", kept_plan.keep_plan, name="outing-keep-plan"),
    path("<int:pk>/plan/", kept_plan.kept_plan, name="outing-plan"),
    path("<int:pk>/plan/save/", kept_plan.save_plan, name="outing-save-plan"),
    path("<int:pk>/sheet/", field_sheet.field_sheet, name="outing-sheet"),
    path("<int:pk>/plan/ticks/", kept_plan.tick, name="outing-ticks"),
    path("keep/", kept.keep, name="outing-keep"),
    path("<int:pk>/", kept.outing, name="outing"),
    path("<int:pk>/edit/", kept.edit, name="outing-edit"),
    path("<int:pk>/set-up/", kept.keep_setup, name="outing-set-up"),
    path("<int:pk>/delete/", kept.delete, name="outing-delete"),
    path("<int:pk>/restore/", kept.restore, name="outing-restore"),
    path("<int:pk>/runs/", kept.make_runs, name="outing-runs"),
    path("<int:pk>/bursts.csv", kept.bursts_csv, name="outing-bursts"),
    path("<int:pk>/replay.json", kept.replay_json, name="outing-replay-file"),
]
