from django.db import migrations

from circuitry.document.versions import STEPS


def upgrade_policies_and_parts(apps, schema_editor):
    """Builds that stand keep their school of drop; duty is said in other words."""
    for row in apps.get_model("builds", "Build").with_deleted.iterator():
        row.policy = STEPS[2]("build", {"policy": row.policy})["policy"]
        row.save(update_fields=["policy"])
    for row in apps.get_model("builds", "Part").objects.iterator():
        figures = STEPS[2]("parts", {"figures": row.figures})["figures"]
        if figures != row.figures:
            row.figures = figures
            row.save(update_fields=["figures"])


class Migration(migrations.Migration):

    dependencies = [
        ('builds', '0004_versions_and_deletion'),
    ]

    operations = [
        migrations.RunPython(upgrade_policies_and_parts, migrations.RunPython.noop),
    ]
