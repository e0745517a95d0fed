from django.db import migrations, models

COUNT = "UPDATE kit_pendingimport SET entry_count = jsonb_array_length(entries), row_count = jsonb_array_length(entries), checked_count = jsonb_array_length(plan)"


class Migration(migrations.Migration):
    dependencies = [("kit", "0008_changes")]
    operations = [
        migrations.AddField(
            "pendingimport", "entry_count", models.PositiveIntegerField(default=0), False
        ),
        migrations.AddField("pendingimport", "checked_count", models.PositiveIntegerField(default=0)),
        migrations.AddField(
            "pendingimport", "row_count", models.PositiveIntegerField(default=0), False
        ),
        migrations.AddField(
            "pendingimport",
            "state",
            models.CharField(
                choices=[
                    ("received", "Received"),
                    ("saving", "Saving"),
                    ("saved", "Saved"),
                    ("failed", "Failed"),
                ],
                default="received",
                max_length=10,
            ),
        ),
        migrations.AddField(
            "pendingimport", "words", models.CharField(blank=True, default="", max_length=200), False
        ),
        migrations.RunSQL(COUNT, migrations.RunSQL.noop),
        migrations.AddConstraint(
            "pendingimport",
            models.CheckConstraint(
                condition=models.Q(("state__in", ["received", "saving", "saved", "failed"])),
                name="import_is_in_a_known_state",
                violation_error_code="unknown_choice",
                violation_error_message="State must be one of the values offered.",
            ),
        ),
        migrations.AddConstraint(
            "pendingimport",
            models.CheckConstraint(
                condition=models.Q(("checked_count__lte", models.F("entry_count"))),
                name="import_has_what_is_checked",
                violation_error_code="too_large",
                violation_error_message="Checked count must not be above entry count.",
            ),
        ),
    ]
