"""Tables and columns are called what the screen calls them."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("overhangs", "0002_inputs")]

    operations = [
        migrations.RenameModel("Walk", "OverhangAnalysis"),
        migrations.AlterField(
            "overhanganalysis",
            "part",
            models.ForeignKey(on_delete=models.CASCADE, related_name="%(class)s_results", to="parts.part"),
        ),
    ]
