"""Tables and columns are called what the screen calls them."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("strength", "0002_inputs")]

    operations = [
        migrations.RenameModel("Check", "StrengthAnalysis"),
        migrations.RenameModel("Stand", "DirectionAnalysis"),
        migrations.AlterField(
            "strengthanalysis",
            "part",
            models.ForeignKey(on_delete=models.CASCADE, related_name="%(class)s_results", to="parts.part"),
        ),
        migrations.AlterField(
            "directionanalysis",
            "of",
            models.ForeignKey(
                on_delete=models.CASCADE, related_name="directions", to="strength.strengthanalysis"
            ),
        ),
    ]
