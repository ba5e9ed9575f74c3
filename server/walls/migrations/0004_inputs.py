from django.db import migrations

from stages.moving import into_one_column


class Migration(migrations.Migration):
    dependencies = [("walls", "0003_what_it_carries"), ("parts", "0004_part_exact_part_uncarried")]

    operations = into_one_column("walls", {"gauging": ["up", "loads", "service"]})
