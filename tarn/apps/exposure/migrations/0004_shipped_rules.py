"""The rules that ship, in force."""

import time

from django.db import migrations

from tarn.core.exposure.own_rules import SHIPPED


def ship(apps, schema_editor):
    rules = apps.get_model("exposure", "OwnRule")
    now = int(time.time())
    for told in SHIPPED:
        rules.objects.create(
            key=told.key,
            name=told.name,
            filter=told.filter,
            grade=told.grade,
            verb=told.verb,
            what=told.what,
            todo=told.todo,
            made_at=now,
        )


def leave(apps, schema_editor):
    apps.get_model("exposure", "OwnRule").objects.exclude(key="").delete()


class Migration(migrations.Migration):
    dependencies = [("exposure", "0003_our_own")]
    operations = [migrations.RunPython(ship, leave)]
