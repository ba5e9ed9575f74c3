"""Tables and columns are called what the screen calls them."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("remedies", "0004_inputs")]

    operations = [
        migrations.RenameModel("Afterwards", "AfterRemedies"),
        migrations.RenameField("proposal", "told", "result"),
        migrations.AlterField(
            "afterremedies",
            "part",
            models.ForeignKey(on_delete=models.CASCADE, related_name="%(class)s_results", to="parts.part"),
        ),
    ]
