from django.db import migrations, models


def write_cards(apps, schema):
    """What lists say of the parts that are there."""
    Part = apps.get_model("parts", "Part")
    for part in Part.objects.select_related("sheet").iterator(chunk_size=200):
        content, (low, high) = part.sheet.content, part.facts["bbox_mm"]
        choice = content.get("choice")
        part.card = {
            "name": content["title"]["name"],
            "note": content["title"].get("note", ""),
            "labels": [],
            "material": content.get("process", {}).get("material", "petg"),
            "settled": choice is not None,
            "up": choice and choice["up"],
            "size_mm": [b - a for a, b in zip(low, high, strict=True)],
        }
        part.save(update_fields=["card"])


class Migration(migrations.Migration):
    dependencies = [("parts", "0004_part_exact_part_uncarried")]

    operations = [
        migrations.AddField("part", "card", models.JSONField(default=dict)),
        migrations.AddField("part", "standing", models.JSONField(default=dict)),
        migrations.RunPython(write_cards, migrations.RunPython.noop),
    ]
