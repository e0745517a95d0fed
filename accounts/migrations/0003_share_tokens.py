from django.db import migrations, models

import accounts.models


def give_each_its_own_token(apps, schema_editor):
    """Links carried the row's number, signed; from here on they carry a random token."""
    for share in apps.get_model("accounts", "Share").objects.all():
        share.token = accounts.models.new_token()
        share.save(update_fields=["token"])


class Migration(migrations.Migration):
    dependencies = [("accounts", "0002_initial")]

    operations = [
        migrations.AddField("share", "with_state", models.BooleanField(default=False)),
        migrations.AddField("share", "token", models.CharField(max_length=43, null=True)),
        migrations.RunPython(give_each_its_own_token, migrations.RunPython.noop),
        migrations.AlterField(
            "share",
            "token",
            models.CharField(
                default=accounts.models.new_token, editable=False, max_length=43, unique=True
            ),
        ),
    ]
