import uuid

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    initial = True
    dependencies = [
        ("parts", "0005_card"),
        ("store", "0001_initial"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="Release",
            fields=[
                ("id", models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                (
                    "kind",
                    models.CharField(choices=[("portable", "Portable"), ("locked", "Locked")], max_length=10),
                ),
                (
                    "state",
                    models.CharField(
                        choices=[("asked", "Asked"), ("released", "Released"), ("refused", "Refused")], max_length=10
                    ),
                ),
                ("version", models.IntegerField()),
                ("waiver", models.TextField(blank=True)),
                ("note", models.TextField(blank=True)),
                ("told", models.JSONField()),
                ("at", models.DateTimeField()),
                ("reviewed", models.DateTimeField(null=True)),
                ("review", models.TextField(blank=True)),
                (
                    "by",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT, related_name="+", to=settings.AUTH_USER_MODEL
                    ),
                ),
                (
                    "packet",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT, related_name="+", to="store.blob"
                    ),
                ),
                (
                    "part",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="releases", to="parts.part"
                    ),
                ),
                (
                    "reviewer",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
            options={"ordering": ["-at"]},
        ),
    ]
