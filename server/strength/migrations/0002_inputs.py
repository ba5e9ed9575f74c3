"""What a result rests on stands in one column, by name."""

import django.db.models.deletion
from django.db import migrations, models

MOVED = {'check': ['loads', 'movements', 'bond']}


def moved(apps, schema_editor):
    for model, names in MOVED.items():
        rows = apps.get_model("strength", model).objects
        for row in rows.only("id", *names).iterator():
            rows.filter(id=row.id).update(inputs={name: getattr(row, name) for name in names})


def _part():
    return models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="%(class)s_results", to="parts.part")


class Migration(migrations.Migration):
    dependencies = [("strength", "0001_initial"), ("parts", "0004_part_exact_part_uncarried")]

    operations = [
        *(migrations.AddField(m, "inputs", models.JSONField(default=dict)) for m in MOVED),
        migrations.RunPython(moved, migrations.RunPython.noop),
        *(migrations.RemoveField(m, name) for m, names in MOVED.items() for name in names),
        *(migrations.AlterField(m, "part", _part()) for m in MOVED),
    ]
