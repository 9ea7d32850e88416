"""Sorts of programs by the ports their protocols are spoken on (IANA's registry of service names and ports)."""

import time

from django.db import migrations

USUAL = (
    ("Web server", r"listens ~ /\b(80|443|8080|8443)\b/", "It is spoken to over HTTP."),
    ("Database", r"listens ~ /\b(1433|1521|3306|5432|27017)\b/", "It is spoken to as databases are."),
    ("Message broker", r"listens ~ /\b(1883|5671|5672|8883|61613|61616)\b/", "It passes messages on (MQTT, AMQP, STOMP)."),
    ("Directory", r"listens ~ /\b(389|636|88)\b/", "It knows people and computers (LDAP, Kerberos)."),
    ("Mail server", r"listens ~ /\b(25|110|143|465|587|993|995)\b/", "It takes and keeps mail (SMTP, IMAP, POP3)."),
    ("File service", r"listens ~ /\b(445|139|2049|21)\b/", "It shares files (SMB, NFS, FTP)."),
)


def make(apps, schema_editor):
    recognisers = apps.get_model("services", "Recogniser")
    for name, rule, note in USUAL:
        recognisers.objects.create(
            name=name, rule=rule, note=note, instance="a device and port", general=True, made_at=int(time.time())
        )


class Migration(migrations.Migration):
    dependencies = [("services", "0004_recognisers")]
    operations = [migrations.RunPython(make, migrations.RunPython.noop)]
