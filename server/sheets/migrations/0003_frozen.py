from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("sheets", "0002_printed_clearances")]

    operations = [
        migrations.AddField("sheet", "frozen", models.DateTimeField(null=True)),
    ]
