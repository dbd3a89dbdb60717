from django.db import migrations, models

COUNT = """
INSERT INTO daybook_tally (site, point, kind, day, count, last_at)
SELECT site, point, kind, occurred_at / 86400000, COUNT(*), MAX(occurred_at) FROM daybook_event
WHERE NOT initial AND occurred_at >= 0 GROUP BY site, point, kind, occurred_at / 86400000
"""


class Migration(migrations.Migration):
    dependencies = [("daybook", "0005_deliveries")]

    operations = [
        migrations.CreateModel(
            name="TallyRow",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("site", models.CharField(max_length=40)),
                ("point", models.CharField(max_length=40)),
                ("kind", models.CharField(max_length=60)),
                ("day", models.PositiveIntegerField()),
                ("count", models.PositiveIntegerField()),
                ("last_at", models.BigIntegerField()),
            ],
            options={
                "db_table": "daybook_tally",
                "constraints": [
                    models.UniqueConstraint(fields=("site", "point", "kind", "day"), name="one_tally_a_day")
                ],
            },
        ),
        migrations.RunSQL(COUNT, migrations.RunSQL.noop),
    ]
