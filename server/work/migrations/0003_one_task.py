"""One task for every kind of work. What was queued under the old names is queued under the new one."""

from django.db import migrations

OLD = [
    "parts.intake", "studies.directions", "studies.direction", "walls.gauge", "overhangs.walk", "remedies.work_out",
    "remedies.afterwards", "pieces.work_out", "strength.check", "strength.stand", "strength.explore", "strength.field",
]


def renamed(apps, schema_editor):
    with schema_editor.connection.cursor() as cursor:
        cursor.execute(
            "UPDATE procrastinate_jobs SET task_name = 'work.compute' WHERE task_name = ANY(%s) AND status = 'todo'", [OLD]
        )


class Migration(migrations.Migration):
    dependencies = [("work", "0002_taken_up_again"), ("procrastinate", "0001_initial")]

    operations = [
        migrations.RenameField("work", "order", "arguments"),
        migrations.RemoveField("work", "task"),
        migrations.RunPython(renamed, migrations.RunPython.noop),
    ]
