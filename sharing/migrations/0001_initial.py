import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

import sharing.models

TABLE_BEFORE = "accounts_share"


def take_over_or_create(apps, schema_editor):
    """The table that `accounts` had until links moved here, with all links in it; or a new one."""
    share = apps.get_model("sharing", "Share")
    connection = schema_editor.connection
    if TABLE_BEFORE in connection.introspection.table_names():
        schema_editor.alter_db_table(share, TABLE_BEFORE, share._meta.db_table)
    else:
        schema_editor.create_model(share)


def drop(apps, schema_editor):
    schema_editor.delete_model(apps.get_model("sharing", "Share"))


class Migration(migrations.Migration):
    initial = True

    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("kit", "0001_initial"),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name="Share",
                    fields=[
                        ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                        ("setup", models.CharField(blank=True, max_length=1000)),
                        ("token", models.CharField(default=sharing.models.new_token, editable=False, max_length=43, unique=True)),
                        ("with_state", models.BooleanField(default=False)),
                        ("made_at", models.DateTimeField(auto_now_add=True)),
                        ("revoked_at", models.DateTimeField(blank=True, null=True)),
                        ("card", models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.CASCADE, related_name="+", to="kit.card")),
                        ("owner", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="shares", to=settings.AUTH_USER_MODEL)),
                    ],
                    options={
                        "ordering": ["-pk"],
                        "constraints": [models.CheckConstraint(condition=models.Q(("card", None), ("setup", ""), _connector="XOR"), name="share_is_of_a_card_or_of_a_setup")],
                    },
                ),
            ],
        ),
        migrations.RunPython(take_over_or_create, drop),
    ]
