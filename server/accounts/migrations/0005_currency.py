from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("accounts", "0004_beginning")]

    operations = [
        migrations.AddField("workshop", "currency", models.CharField(default="EUR", max_length=8)),
    ]
