from importlib import import_module

from django.db import migrations

triggers_on = import_module("kit.migrations.0008_changes").triggers_on

FUNCTION = """
CREATE FUNCTION note_change_of_price() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    INSERT INTO kit_change (owner_pk)
    SELECT DISTINCT prices_pricelist.owner_id
    FROM changed JOIN prices_pricelist ON prices_pricelist.id = changed.price_list_id;
    RETURN NULL;
END $$;
"""


class Migration(migrations.Migration):
    dependencies = [
        ("kit", "0008_changes"),
        ("prices", "0002_prices_have_one_home"),
    ]
    operations = [
        migrations.RunSQL(FUNCTION, "DROP FUNCTION note_change_of_price();"),
        migrations.RunSQL(*triggers_on("prices_offer", "note_change_of_price")),
        migrations.RunSQL(*triggers_on("prices_pricelist", "note_change")),
        migrations.RunSQL(*triggers_on("prices_exchangerate", "note_change")),
    ]
