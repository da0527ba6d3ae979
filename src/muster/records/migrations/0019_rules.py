from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('records', '0018_photos'),
    ]

    operations = [
        migrations.AddField(
            model_name='sourcerow',
            name='rules',
            field=models.JSONField(default=list),
        ),
    ]
