from django.db import migrations, models

from circuitry.build.versions import STEPS

TABLES = {
    "Place": "places",
    "Run": "runs",
    "Part": "parts",
    "Wire": "wires",
    "Circuit": "circuits",
    "FoundCircuit": "found_circuits",
    "PinPair": "pin_pairs",
    "HarnessCircuit": "harness_circuits",
}
OWN = ("id", "build", "identity", "position")


def upgrade_things(apps, schema_editor):
    """Bring what version 1 could store, and no document may hold, within its range."""
    for model, collection in TABLES.items():
        table = apps.get_model("builds", model)
        columns = [field.name for field in table._meta.fields if field.name not in OWN]
        for row in table.objects.iterator():
            before = {name: getattr(row, name) for name in columns}
            after = STEPS[1](collection, before)
            if after != before:
                for name in columns:
                    setattr(row, name, after[name])
                row.save(update_fields=columns)


def mark_first_edits(apps, schema_editor):
    """Changes from before the second migration are of the format before version 1."""
    Edit = apps.get_model("builds", "Edit")
    with schema_editor.connection.cursor() as cursor:
        cursor.execute(
            "SELECT applied FROM django_migrations WHERE app = 'builds' AND name = %s",
            ["0002_whole_car"],
        )
        row = cursor.fetchone()
    if row is not None:
        Edit.objects.filter(at__lt=row[0]).update(version=0)


class Migration(migrations.Migration):

    dependencies = [
        ('builds', '0003_recipes_and_units'),
    ]

    operations = [
        migrations.AddField(
            model_name='build',
            name='deleted',
            field=models.DateTimeField(null=True),
        ),
        migrations.AddField(
            model_name='edit',
            name='version',
            field=models.PositiveIntegerField(default=1),
        ),
        migrations.RunPython(upgrade_things, migrations.RunPython.noop),
        migrations.RunPython(mark_first_edits, migrations.RunPython.noop),
    ]
