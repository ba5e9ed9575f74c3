from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('walls', '0002_how_it_stands'),
    ]

    operations = [
        migrations.AddField(
            model_name='gauging',
            name='loads',
            field=models.JSONField(null=True),
        ),
        migrations.AddField(
            model_name='gauging',
            name='service',
            field=models.JSONField(default=dict),
        ),
    ]
