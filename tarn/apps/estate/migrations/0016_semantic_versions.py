"""Releases known before get the keys that pre-releases have by Semantic Versioning."""

from django.db import migrations

from tarn.core.versions import version_key


def rekey(apps, schema_editor):
    """Reckon again the keys of versions with a hyphen; no other is reckoned otherwise than before."""
    release = apps.get_model("estate", "Release")
    changed = []
    for one in release.objects.filter(version__contains="-").iterator(5_000):
        if one.version_key != (key := version_key(one.version)):
            one.version_key = key
            changed.append(one)
    release.objects.bulk_update(changed, ["version_key"], batch_size=1_000)


class Migration(migrations.Migration):
    dependencies = [("estate", "0015_ports_bound")]
    operations = [migrations.RunPython(rekey, migrations.RunPython.noop)]
