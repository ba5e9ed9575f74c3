from django.db import migrations

from stages.moving import into_one_column


class Migration(migrations.Migration):
    dependencies = [("remedies", "0003_proposal_exact"), ("parts", "0004_part_exact_part_uncarried")]

    operations = into_one_column("remedies", {"proposal": ["up", "steps"], "afterwards": ["ups"]})
