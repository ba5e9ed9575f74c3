from django.db import migrations

from stages.moving import into_one_column


class Migration(migrations.Migration):
    dependencies = [("studies", "0002_choice_rests_on"), ("parts", "0004_part_exact_part_uncarried")]

    operations = [
        *into_one_column("studies", {"study": []}),
        migrations.AlterModelOptions("study", {"ordering": ["-created"]}),
    ]
