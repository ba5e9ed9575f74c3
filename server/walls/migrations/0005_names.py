"""Tables and columns are called what the screen calls them."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("walls", "0004_inputs")]

    operations = [
        migrations.RenameModel("Gauging", "WallAnalysis"),
        migrations.RenameField("wallanalysis", "told", "result"),
        migrations.AlterField(
            "wallanalysis",
            "part",
            models.ForeignKey(on_delete=models.CASCADE, related_name="%(class)s_results", to="parts.part"),
        ),
    ]
