"""Tables and columns are called what the screen calls them."""

from django.db import migrations

from stages.moving import renamed_input


class Migration(migrations.Migration):
    dependencies = [("pieces", "0003_inputs")]

    operations = [
        migrations.RenameField("division", "told", "result"),
        renamed_input("pieces", "division", "said", "request"),
    ]
