from django.db import migrations

# Tries are counted in the cache since; these tables were of an app that is not installed any more.
TABLES = (
    "axes_accessattemptexpiration", "axes_accessattempt", "axes_accesslog", "axes_accessfailurelog",
)  # fmt: skip


class Migration(migrations.Migration):
    dependencies = [("accounts", "0002_guests")]

    operations = [
        migrations.RunSQL(
            f"DROP TABLE IF EXISTS {', '.join(TABLES)} CASCADE", migrations.RunSQL.noop
        ),
        migrations.RunSQL(
            "DELETE FROM django_migrations WHERE app = 'axes'", migrations.RunSQL.noop
        ),
    ]
