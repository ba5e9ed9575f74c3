"""How the tables of results came to say what they rest on in one column, by name; used by migrations only."""

from django.db import migrations, models


def into_one_column(app: str, columns: dict[str, list[str]]) -> list:
    """Operations that move ``columns`` (of each model their names) into its ``inputs``."""

    def moved(apps, schema_editor):
        for model, names in columns.items():
            rows = apps.get_model(app, model).objects
            for row in rows.only("id", *names).iterator():
                rows.filter(id=row.id).update(inputs={name: getattr(row, name) for name in names})

    part = lambda: models.ForeignKey(on_delete=models.CASCADE, related_name="%(class)s_results", to="parts.part")
    return [
        *(migrations.AddField(model, "inputs", models.JSONField(default=dict)) for model in columns),
        migrations.RunPython(moved, migrations.RunPython.noop),
        *(migrations.RemoveField(model, name) for model, names in columns.items() for name in names),
        *(migrations.AlterField(model, "part", part()) for model in columns),
    ]


def renamed_input(app: str, model: str, before: str, after: str) -> migrations.RunPython:
    """The operation that calls one of a model's inputs otherwise."""

    def renamed(apps, schema_editor):
        rows = apps.get_model(app, model).objects
        for row in rows.only("id", "inputs").iterator():
            inputs = {after if name == before else name: value for name, value in row.inputs.items()}
            rows.filter(id=row.id).update(inputs=inputs)

    return migrations.RunPython(renamed, migrations.RunPython.noop)
