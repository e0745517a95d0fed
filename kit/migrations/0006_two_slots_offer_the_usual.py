from django.db import migrations

KINDS = ("single", "overflow", "mirror", "split")


def offer_the_usual(apps, schema_editor):
    """Bodies with two slots and no arrangement get those that nearly every one offers."""
    arrangement = apps.get_model("kit", "SlotArrangement")
    slots = apps.get_model("kit", "Slot").objects.filter(number=2)
    lacking = slots.exclude(body__in=arrangement.objects.values("body"))
    arrangement.objects.bulk_create(
        arrangement(
            body_id=body, number=number, kind=kind, coupling="parallel", source="estimated"
        )
        for body in lacking.values_list("body", flat=True)
        for number, kind in enumerate(KINDS, start=1)
    )


class Migration(migrations.Migration):
    dependencies = [("kit", "0005_prices_on_lists")]

    operations = [migrations.RunPython(offer_the_usual, migrations.RunPython.noop)]
