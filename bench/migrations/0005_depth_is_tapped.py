from urllib.parse import parse_qs

from django.apps.registry import Apps
from django.db import migrations, models
from django.db.backends.base.schema import BaseDatabaseSchemaEditor

TAPPED_FRAMES = 1.5


def tell_tapped_depths(apps: Apps, schema_editor: BaseDatabaseSchemaEditor) -> None:
    """So far a depth counted as tapped where it was near the tap when the camera slowed."""
    runs = apps.get_model("bench", "Run").objects
    for run in runs.filter(frames_at_full_speed__isnull=False).exclude(taps_s=[]):
        fps = parse_qs(run.setup).get("fps")
        if fps and len(run.taps_s) > 1:
            due = float(fps[0]) * run.taps_s[1]
            if abs(run.frames_at_full_speed - due) <= TAPPED_FRAMES:
                runs.filter(pk=run.pk).update(depth_is_tapped=True)


class Migration(migrations.Migration):
    dependencies = [("bench", "0004_keep_tested_bodies")]

    operations = [
        migrations.AddField("run", "depth_is_tapped", models.BooleanField(default=False)),
        migrations.RunPython(tell_tapped_depths, migrations.RunPython.noop),
    ]
