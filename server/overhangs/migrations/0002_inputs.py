from django.db import migrations

from stages.moving import into_one_column


class Migration(migrations.Migration):
    dependencies = [("overhangs", "0001_initial"), ("parts", "0004_part_exact_part_uncarried")]

    operations = into_one_column("overhangs", {"walk": ["up"]})
