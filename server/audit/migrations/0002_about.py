from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("audit", "0001_initial")]

    operations = [
        migrations.AddField("entry", "about", models.CharField(default="", max_length=200)),
    ]
