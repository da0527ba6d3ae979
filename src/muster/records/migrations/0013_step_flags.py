"""Steps planned before say in fields what their labels said."""

from django.db import migrations

from muster.formats.upgrades import flag_steps


def say_it(apps, schema_editor):
    for row in apps.get_model("records", "SessionRow").objects.all().iterator():
        before = str(row.data.get("steps"))
        flag_steps(row.data.get("steps"))
        if str(row.data.get("steps")) != before:
            row.save(update_fields=["data"])


class Migration(migrations.Migration):

    dependencies = [("records", "0012_each_press_once")]

    operations = [migrations.RunPython(say_it, migrations.RunPython.noop)]
