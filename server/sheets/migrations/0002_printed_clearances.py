"""Clearances of fits in capability records are as printed from now on: those that stand there were drawn ones."""

from django.db import migrations

FITS = ("fit_press", "fit_location", "fit_sliding", "fit_free")
USUAL_LOSS = 0.15
"""mm that an upright bore loses of its diameter where a record did not say it."""


def _printed(record: dict) -> None:
    values = record["values"]
    half = float(values.get("bore_upright", {}).get("value", USUAL_LOSS)) / 2
    for name in FITS:
        for key in ("value", "low", "high"):
            if name in values and values[name].get(key) is not None:
                values[name][key] = round(float(values[name][key]) - half, 4)
        if name in values and values[name].get("typed"):
            values[name]["typed"] = f"{values[name]['value']:g} mm"


def printed(apps, schema_editor) -> None:
    """Of every record, and of its editions, which an undo brings back."""
    sheets = apps.get_model("sheets", "Sheet").objects.filter(kind="farm-capability")
    editions = apps.get_model("sheets", "Edition").objects.filter(sheet__kind="farm-capability")
    for row in (*sheets, *editions):
        if "record" in row.content:
            _printed(row.content["record"])
            row.save(update_fields=["content"])


class Migration(migrations.Migration):
    dependencies = [("sheets", "0001_initial")]
    operations = [migrations.RunPython(printed, migrations.RunPython.noop)]
