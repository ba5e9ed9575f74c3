"""Which workers take a piece of work, and since when it is done."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("work", "0003_one_task")]

    operations = [
        migrations.AddField("work", "lane", models.CharField(default="long", max_length=5)),
        migrations.AddField("work", "title", models.CharField(blank=True, default="", max_length=120), preserve_default=False),
        migrations.AddField(
            "work", "note", models.CharField(blank=True, default="", max_length=200), preserve_default=False
        ),
        migrations.AddField("work", "part", models.UUIDField(null=True)),
        migrations.AddField("work", "started", models.DateTimeField(null=True)),
    ]
