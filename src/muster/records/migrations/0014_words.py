"""The words of the trade for what had names of our own."""

import django.db.models.deletion
from django.db import migrations, models

KINDS = {"gate": "safety_check", "sum": "calculation"}


def rename_in_history(apps, schema_editor):
    """Changes kept before name their rows, and what could change in them, as they are named now."""
    for change in apps.get_model("records", "ChangeRow").objects.filter(of__in=KINDS).iterator():
        change.of = KINDS[change.of]
        for values in (change.before, change.after):
            if values and "reopened_at" in values:
                values["withdrawn_at"] = values.pop("reopened_at")
        change.save(update_fields=["of", "before", "after"])


class Migration(migrations.Migration):

    dependencies = [("records", "0013_step_flags")]

    operations = [
        migrations.RenameModel("GateRow", "SafetyCheckRow"),
        migrations.RenameModel("SumRow", "CalculationRow"),
        migrations.RenameField("SafetyCheckRow", "reopened_at", "withdrawn_at"),
        migrations.RenameField("EntryRow", "voids", "supersedes"),
        migrations.RenameField("ChangeRow", "words", "label"),
        migrations.RenameField("RecordingRow", "beat_at", "polled_at"),
        migrations.AlterField("CalculationRow", "job", models.ForeignKey(
            on_delete=django.db.models.deletion.CASCADE, related_name="calculation_rows", to="records.job")),
        migrations.AlterField("EntryRow", "supersedes", models.OneToOneField(
            blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name="superseded_by", to="records.entryrow")),
        migrations.AlterField("SafetyCheckRow", "source", models.ForeignKey(
            on_delete=django.db.models.deletion.CASCADE, related_name="safety_rows", to="records.sourcerow")),
        migrations.RunPython(rename_in_history, migrations.RunPython.noop),
    ]
