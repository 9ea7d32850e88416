"""Talk that is noise wherever it is met: administration, time, logs, metering."""

import time

from django.db import migrations

USUAL = (
    (22, "Somebody looks after the device; nothing stands on that."),
    (123, "Clocks are set by it (NTP)."),
    (161, "It is metered (SNMP)."),
    (514, "Its log is kept (syslog)."),
    (5985, "Somebody looks after the device (WinRM)."),
    (5986, "Somebody looks after the device (WinRM)."),
)


def say(apps, schema_editor):
    noise = apps.get_model("services", "Noise")
    for port, why in USUAL:
        noise.objects.create(port=port, why=why, made_at=int(time.time()))


class Migration(migrations.Migration):
    dependencies = [("services", "0001_noise")]
    operations = [migrations.RunPython(say, migrations.RunPython.noop)]
