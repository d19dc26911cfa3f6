import django.db.models.manager
from django.db import migrations, models
from django.db.migrations.recorder import MigrationRecorder

from circuitry.document.versions import STEPS

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
    done = MigrationRecorder(schema_editor.connection).migration_qs
    second = done.filter(app="builds", name="0002_whole_car").first()
    if second is not None:
        edits = apps.get_model("builds", "Edit").objects
        edits.filter(at__lt=second.applied).update(version=0)


class Migration(migrations.Migration):

    dependencies = [
        ('builds', '0003_recipes_and_units'),
    ]

    operations = [
        migrations.AlterModelOptions(
            name='build',
            options={'base_manager_name': 'with_deleted', 'ordering': ('id',)},
        ),
        migrations.AlterModelManagers(
            name='build',
            managers=[
                ('objects', django.db.models.manager.Manager()),
                ('with_deleted', django.db.models.manager.Manager()),
            ],
        ),
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
