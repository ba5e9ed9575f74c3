from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("batch", "0001_initial")]

    operations = [migrations.AddField("preparedfile", "accepted", models.JSONField(default=dict))]
