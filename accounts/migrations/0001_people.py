import django.db.models.functions.text
from django.db import migrations, models


class Migration(migrations.Migration):
    # Links that people share were made here once; `sharing` takes over their table.
    replaces = [
        ("accounts", "0001_initial"),
        ("accounts", "0002_initial"),
        ("accounts", "0003_share_tokens"),
    ]

    initial = True

    dependencies = []

    operations = [
        migrations.CreateModel(
            name="User",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("password", models.CharField(max_length=128, verbose_name="password")),
                ("last_login", models.DateTimeField(blank=True, null=True, verbose_name="last login")),
                ("email", models.EmailField(error_messages={"unique": "There is an account with this address already."}, max_length=254, unique=True, verbose_name="e-mail")),
                ("is_active", models.BooleanField(default=True)),
                ("joined_at", models.DateTimeField(auto_now_add=True)),
            ],
            options={
                "constraints": [models.CheckConstraint(condition=models.Q(("email", django.db.models.functions.text.Lower("email"))), name="email_is_in_small_letters")],
            },
        ),
    ]
