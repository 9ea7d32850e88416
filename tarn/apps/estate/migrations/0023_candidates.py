"""The assets an undecided sighting may be of stand in a column of their own; they were sentences among the reasons."""

from django.db import migrations, models

FORTH = """
UPDATE estate_sighting SET
    candidates = (SELECT json_group_array(CAST(substr(value, 11) AS INTEGER)) FROM json_each(reasons)
                  WHERE value GLOB 'candidate [0-9]*'),
    reasons = (SELECT json_group_array(value) FROM json_each(reasons) WHERE value NOT GLOB 'candidate [0-9]*')
WHERE verdict = 'undecided'
"""
BACK = """
UPDATE estate_sighting SET reasons =
    (SELECT json_group_array(value) FROM (
        SELECT value FROM json_each(reasons)
        UNION ALL SELECT 'candidate ' || value FROM json_each(candidates)))
WHERE verdict = 'undecided'
"""


class Migration(migrations.Migration):
    dependencies = [("estate", "0022_kept_views")]

    operations = [
        # In place: the table of all evidence is not made anew for a column most of it leaves empty.
        migrations.RunSQL(
            "ALTER TABLE estate_sighting ADD COLUMN candidates text NOT NULL DEFAULT '[]'",
            "ALTER TABLE estate_sighting DROP COLUMN candidates",
            state_operations=[
                migrations.AddField(
                    "sighting",
                    "candidates",
                    models.TextField(default="[]", help_text="JSON: numbers of the assets an undecided one may be of"),
                )
            ],
        ),
        migrations.RunSQL(
            FORTH,
            BACK,
            state_operations=[
                migrations.AlterField(
                    "sighting",
                    "reasons",
                    models.TextField(help_text="JSON: why it was taken to be this asset, or why nobody can say"),
                )
            ],
        ),
    ]
