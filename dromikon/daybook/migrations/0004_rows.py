"""Rows are called rows, apart from the core's values of the same name. The tables keep their names."""

from django.db import migrations

NAMES = ("Event", "Verdict", "Run", "Line", "Act", "Checkpoint")


class Migration(migrations.Migration):
    dependencies = [("daybook", "0003_expired_and_lanes")]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                operation
                for name in NAMES
                for operation in (
                    migrations.RenameModel(name, f"{name}Row"),
                    migrations.AlterModelTable(f"{name}Row", f"daybook_{name.lower()}"),
                )
            ]
        )
    ]
