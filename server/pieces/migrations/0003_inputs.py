from django.db import migrations

from stages.moving import into_one_column


class Migration(migrations.Migration):
    dependencies = [("pieces", "0002_piecefile_exact"), ("parts", "0004_part_exact_part_uncarried")]

    operations = into_one_column("pieces", {"division": ["said", "clearance", "up"]})
