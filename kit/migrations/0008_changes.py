from django.db import migrations, models

TABLES = ("kit_body", "kit_card")
FUNCTION = """
CREATE FUNCTION note_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    INSERT INTO kit_change (owner_pk) SELECT DISTINCT owner_id FROM changed;
    RETURN NULL;
END $$;
"""


def triggers_on(table: str, function: str) -> tuple[str, str]:
    """The statements that make, and those that drop, the triggers of `table`."""
    made = "".join(
        f"CREATE TRIGGER note_{event} AFTER {event} ON {table} "
        f"REFERENCING {'OLD' if event == 'delete' else 'NEW'} TABLE AS changed "
        f"FOR EACH STATEMENT EXECUTE FUNCTION {function}();"
        for event in ("insert", "update", "delete")
    )
    gone = "".join(
        f"DROP TRIGGER note_{event} ON {table};" for event in ("insert", "update", "delete")
    )
    return made, gone


class Migration(migrations.Migration):
    dependencies = [("kit", "0007_measured_in_a_body")]
    operations = [
        migrations.CreateModel(
            name="Change",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("owner_pk", models.BigIntegerField(db_index=True, null=True)),
            ],
        ),
        migrations.RunSQL(FUNCTION, "DROP FUNCTION note_change();"),
        *(migrations.RunSQL(*triggers_on(table, "note_change")) for table in TABLES),
    ]
