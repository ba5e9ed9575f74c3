"""Names that look alike are one name; entry that was taken away stays taken; links that set a password."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from accounts.names import name_key


def named(apps, schema_editor):
    """Every name's key; of two that look alike, the later one keeps its own spelling in the key."""
    people = apps.get_model("accounts", "User").objects
    known = set()
    for row in people.order_by("id").iterator():
        key = name_key(row.username)
        key = key if key not in known else f"{row.username} {row.id}"
        known.add(key)
        people.filter(id=row.id).update(name_key=key)


class Migration(migrations.Migration):
    dependencies = [("accounts", "0003_invitation")]

    operations = [
        migrations.AddField("user", "entries", models.IntegerField(default=0)),
        migrations.AddField("user", "name_key", models.CharField(max_length=150, null=True)),
        migrations.RunPython(named, migrations.RunPython.noop),
        migrations.AlterField("user", "name_key", models.CharField(max_length=150, unique=True)),
        migrations.AddField(
            "invitation",
            "resets",
            models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.CASCADE,
                related_name="resets",
                to=settings.AUTH_USER_MODEL,
            ),
        ),
        migrations.AlterField(
            "invitation",
            "joined",
            models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.PROTECT,
                related_name="+",
                to=settings.AUTH_USER_MODEL,
            ),
        ),
    ]
