"""Records of a workshop's inserts are sizes of hardware from now on: one kind for every item of the table."""

from django.db import migrations

KEYS = {"outer": "outer_diameter", "length": "length", "hole": "hole_diameter"}


def sizes(apps, schema_editor) -> None:
    """Every record, and its editions, which an undo brings back."""
    sheets = apps.get_model("sheets", "Sheet").objects.filter(kind="farm-insert")
    editions = apps.get_model("sheets", "Edition").objects.filter(sheet__kind="farm-insert")
    for row in (*editions, *sheets):
        if "record" not in row.content:
            continue
        record = row.content["record"]
        record |= {"item": "heat_set_insert", "size": record["name"]}
        record["values"] = {KEYS[name]: reading for name, reading in record["values"].items()}
        row.save(update_fields=["content"])
    sheets.update(kind="farm-size")


class Migration(migrations.Migration):
    dependencies = [("sheets", "0003_frozen")]
    operations = [migrations.RunPython(sizes, migrations.RunPython.noop)]
