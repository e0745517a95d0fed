"""What slots make of cards; estimates are off by more on one side than on the other."""

from django.db import migrations, models
from django.db.models import F


def _as_far_below(apps, schema_editor):
    apps.get_model('kit', 'EstimatedFigure').objects.update(below=F('above'))


class Migration(migrations.Migration):

    dependencies = [
        ('kit', '0015_figures_laid_over'),
    ]

    operations = [
        migrations.RemoveConstraint(
            model_name='card',
            name='card_spread_is_in_range',
        ),
        migrations.RemoveConstraint(
            model_name='estimatedfigure',
            name='estimate_spread_is_in_range',
        ),
        migrations.RemoveConstraint(
            model_name='estimatedfigure',
            name='estimate_is_of_a_known_kind',
        ),
        migrations.RemoveConstraint(
            model_name='learntfigure',
            name='learnt_figure_is_of_a_known_kind',
        ),
        migrations.RenameField(
            model_name='estimatedfigure',
            old_name='spread',
            new_name='above',
        ),
        migrations.RemoveField(
            model_name='card',
            name='sustained_spread',
        ),
        migrations.AddField(
            model_name='estimatedfigure',
            name='below',
            field=models.FloatField(default=0),
            preserve_default=False,
        ),
        migrations.RunPython(_as_far_below, migrations.RunPython.noop),
        migrations.AddField(
            model_name='estimatedfigure',
            name='tail',
            field=models.FloatField(default=0),
        ),
        migrations.AddField(
            model_name='learntspeed',
            name='own_mb_s',
            field=models.FloatField(blank=True, null=True),
        ),
        migrations.AlterField(
            model_name='estimatedfigure',
            name='kind',
            field=models.CharField(choices=[('memory', 'memory'), ('slot', 'slot'), ('frame rate', 'frame rate'), ('held size', 'held size'), ('encoder', 'encoder'), ('file size', 'file size'), ('slot share', 'slot share'), ('overhead', 'overhead')], max_length=20),
        ),
        migrations.AlterField(
            model_name='learntfigure',
            name='kind',
            field=models.CharField(choices=[('memory', 'memory'), ('slot', 'slot'), ('frame rate', 'frame rate'), ('held size', 'held size'), ('encoder', 'encoder'), ('file size', 'file size'), ('slot share', 'slot share'), ('overhead', 'overhead')], max_length=20),
        ),
        migrations.AddConstraint(
            model_name='estimatedfigure',
            constraint=models.CheckConstraint(condition=models.Q(('kind__in', ['memory', 'slot', 'frame rate', 'held size', 'encoder', 'file size', 'slot share', 'overhead'])), name='estimate_is_of_a_known_kind', violation_error_code='unknown_choice', violation_error_message='Kind must be one of the values offered.'),
        ),
        migrations.AddConstraint(
            model_name='estimatedfigure',
            constraint=models.CheckConstraint(condition=models.Q(('below__gte', 0), ('below__lte', 3)), name='estimate_below_is_in_range', violation_error_code='out_of_range', violation_error_message='Below must be from 0 to 3 as the logarithm of a ratio.'),
        ),
        migrations.AddConstraint(
            model_name='estimatedfigure',
            constraint=models.CheckConstraint(condition=models.Q(('above__gte', 0), ('above__lte', 3)), name='estimate_above_is_in_range', violation_error_code='out_of_range', violation_error_message='Above must be from 0 to 3 as the logarithm of a ratio.'),
        ),
        migrations.AddConstraint(
            model_name='estimatedfigure',
            constraint=models.CheckConstraint(condition=models.Q(('tail__gte', 0), ('tail__lte', 1)), name='estimate_tail_is_in_range', violation_error_code='out_of_range', violation_error_message="Tail must be from 0 to 1 as Tukey's h."),
        ),
        migrations.AddConstraint(
            model_name='learntfigure',
            constraint=models.CheckConstraint(condition=models.Q(('kind__in', ['memory', 'slot', 'frame rate', 'held size', 'encoder', 'file size', 'slot share', 'overhead'])), name='learnt_figure_is_of_a_known_kind', violation_error_code='unknown_choice', violation_error_message='Kind must be one of the values offered.'),
        ),
        migrations.AddConstraint(
            model_name='learntspeed',
            constraint=models.CheckConstraint(condition=models.Q(('own_mb_s__gte', 0.001), ('own_mb_s__lte', 100000)), name='learnt_own_speed_is_in_range', violation_error_code='out_of_range', violation_error_message='Own must be from 0.001 to 100,000 MB/s.'),
        ),
    ]
