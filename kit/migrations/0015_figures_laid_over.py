"""What was learnt no longer overwrites what was entered: it is laid over it, and what was entered
stands in its place again. Figures have a kind, what they are of, and a file in place of one name.
"""

from django.db import migrations, models

HERE, ESTIMATED = "measured_here", "estimated"
KIND_OF_NAME = {"held_mb": "held size", "process_fps": "encoder"}


def key_of(name):
    """Kind, what it is of, and file of the figure that was called so."""
    first, _, part = name.partition(" ")
    if name == "memory_mb":
        return "memory", "", ""
    if first == "rate":
        return "frame rate", part, ""
    if first == "slot" and part.endswith(" cap_mb_s"):
        return "slot", part.removesuffix(" cap_mb_s"), ""
    if part in KIND_OF_NAME:
        return KIND_OF_NAME[part], first, ""
    return "file size", first, part


def places_of(body, kind, of, file):
    """The rows that have a figure of `body`, and the names of its value and source there."""
    if kind == "memory":
        yield body, "memory_mb", "memory_source"
    elif kind == "slot":
        yield from ((one, "cap_mb_s", "cap_source") for one in body.slots.filter(number=of))
    elif kind == "frame rate":
        for mode in body.shutter_modes.all():
            for rate in mode.frame_rates.all():
                if f"{rate.fps:.10g}" == f"{float(of):.10g}":
                    yield rate, "fps", "source"
    else:
        for recording in body.formats.filter(slug=of):
            if kind == "held size":
                yield recording, "held_mb", "held_source"
            elif kind == "encoder":
                yield recording, "process_fps", "process_source"
            else:
                files = recording.files.filter(name=file)
                yield from ((one, "file_mb", "source") for one in files)


def put_back(row, value_name, source_name, value, source):
    if value_name == "file_mb":  # how far files vary goes with their size
        row.spread_mb = min(float(f"{row.spread_mb * value / row.file_mb:.9g}"), value)
    setattr(row, value_name, value)
    setattr(row, source_name, source)
    row.save()


def lay_over(apps, schema_editor):
    for name in ("EstimatedFigure", "LearntFigure"):
        is_learnt = name == "LearntFigure"
        for row in apps.get_model("kit", name).objects.select_related("body"):
            row.kind, row.of, row.file = key_of(row.figure)
            held = (row.value, HERE if is_learnt else ESTIMATED)
            places = [
                (holder, value, source)
                for holder, value, source in places_of(row.body, row.kind, row.of, row.file)
                if (getattr(holder, value), getattr(holder, source)) == held
            ]
            if not places:
                row.delete()  # the figure was changed by hand since
                continue
            if is_learnt:
                put_back(*places[0], row.assumed_value, row.assumed_source)
            row.save()
    for row in apps.get_model("kit", "LearntCoupling").objects.select_related("body"):
        same = row.body.arrangements.filter(kind=row.kind, coupling=row.coupling, source=HERE)
        if not same.update(coupling=row.assumed_coupling, source=ESTIMATED):
            row.delete()
    for row in apps.get_model("kit", "LearntSpeed").objects.select_related("card"):
        card = row.card
        if (card.sustained_write_mb_s, card.sustained_source) != (row.value, HERE):
            row.delete()
            continue
        row.learnt_in = card.measured_in
        row.save()
        card.sustained_write_mb_s, card.sustained_source = row.assumed_value, row.assumed_source
        card.sustained_spread, card.measured_in = row.assumed_spread, row.assumed_in
        card.save()


class Migration(migrations.Migration):
    dependencies = [
        ('kit', '0014_learnt_together'),
    ]

    operations = [
        migrations.RemoveConstraint(
            model_name='estimatedfigure',
            name='figure_is_estimated_once',
        ),
        migrations.RemoveConstraint(
            model_name='estimatedfigure',
            name='estimate_is_in_range',
        ),
        migrations.RemoveConstraint(
            model_name='learntcoupling',
            name='assumed_coupling_is_a_known_one',
        ),
        migrations.RemoveConstraint(
            model_name='learntfigure',
            name='figure_is_learnt_once',
        ),
        migrations.RemoveConstraint(
            model_name='learntfigure',
            name='assumed_figure_is_in_range',
        ),
        migrations.RemoveConstraint(
            model_name='learntfigure',
            name='assumed_figure_comes_with_its_source',
        ),
        migrations.RemoveConstraint(
            model_name='learntfigure',
            name='assumed_source_is_a_known_one',
        ),
        migrations.RemoveConstraint(
            model_name='learntspeed',
            name='assumed_speed_is_in_range',
        ),
        migrations.RemoveConstraint(
            model_name='learntspeed',
            name='assumed_spread_is_in_range',
        ),
        migrations.RemoveConstraint(
            model_name='learntspeed',
            name='assumed_speed_has_a_known_source',
        ),
        migrations.AddField(
            model_name='estimatedfigure',
            name='file',
            field=models.CharField(blank=True, default='', max_length=20),
        ),
        migrations.AddField(
            model_name='estimatedfigure',
            name='kind',
            field=models.CharField(choices=[('memory', 'memory'), ('slot', 'slot'), ('frame rate', 'frame rate'), ('held size', 'held size'), ('encoder', 'encoder'), ('file size', 'file size')], default='memory', max_length=20),
            preserve_default=False,
        ),
        migrations.AddField(
            model_name='estimatedfigure',
            name='of',
            field=models.CharField(blank=True, default='', max_length=50),
        ),
        migrations.AddField(
            model_name='learntfigure',
            name='file',
            field=models.CharField(blank=True, default='', max_length=20),
        ),
        migrations.AddField(
            model_name='learntfigure',
            name='kind',
            field=models.CharField(choices=[('memory', 'memory'), ('slot', 'slot'), ('frame rate', 'frame rate'), ('held size', 'held size'), ('encoder', 'encoder'), ('file size', 'file size')], default='memory', max_length=20),
            preserve_default=False,
        ),
        migrations.AddField(
            model_name='learntfigure',
            name='of',
            field=models.CharField(blank=True, default='', max_length=50),
        ),
        migrations.AddField(
            model_name='learntspeed',
            name='learnt_in',
            field=models.CharField(default='', max_length=110),
            preserve_default=False,
        ),
        migrations.RunPython(lay_over, migrations.RunPython.noop),
        migrations.RemoveField(
            model_name='estimatedfigure',
            name='figure',
        ),
        migrations.RemoveField(
            model_name='estimatedfigure',
            name='value',
        ),
        migrations.RemoveField(
            model_name='learntcoupling',
            name='assumed_coupling',
        ),
        migrations.RemoveField(
            model_name='learntfigure',
            name='assumed_source',
        ),
        migrations.RemoveField(
            model_name='learntfigure',
            name='assumed_value',
        ),
        migrations.RemoveField(
            model_name='learntfigure',
            name='figure',
        ),
        migrations.RemoveField(
            model_name='learntspeed',
            name='assumed_in',
        ),
        migrations.RemoveField(
            model_name='learntspeed',
            name='assumed_source',
        ),
        migrations.RemoveField(
            model_name='learntspeed',
            name='assumed_spread',
        ),
        migrations.RemoveField(
            model_name='learntspeed',
            name='assumed_value',
        ),
        migrations.AddConstraint(
            model_name='estimatedfigure',
            constraint=models.UniqueConstraint(fields=('body', 'kind', 'of', 'file'), name='figure_is_estimated_once'),
        ),
        migrations.AddConstraint(
            model_name='estimatedfigure',
            constraint=models.CheckConstraint(condition=models.Q(('kind__in', ['memory', 'slot', 'frame rate', 'held size', 'encoder', 'file size'])), name='estimate_is_of_a_known_kind', violation_error_code='unknown_choice', violation_error_message='Kind must be one of the values offered.'),
        ),
        migrations.AddConstraint(
            model_name='learntfigure',
            constraint=models.UniqueConstraint(fields=('body', 'kind', 'of', 'file'), name='figure_is_learnt_once'),
        ),
        migrations.AddConstraint(
            model_name='learntfigure',
            constraint=models.CheckConstraint(condition=models.Q(('kind__in', ['memory', 'slot', 'frame rate', 'held size', 'encoder', 'file size'])), name='learnt_figure_is_of_a_known_kind', violation_error_code='unknown_choice', violation_error_message='Kind must be one of the values offered.'),
        ),
    ]
