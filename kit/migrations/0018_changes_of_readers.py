from importlib import import_module

from django.db import migrations

triggers_on = import_module("kit.migrations.0008_changes").triggers_on


class Migration(migrations.Migration):
    dependencies = [("kit", "0017_cards_of_a_class")]
    operations = [migrations.RunSQL(*triggers_on("kit_reader", "note_change"))]
