"""What a source that is asked about devices is asked about."""

from tarn.apps.discovery.models import Source, SourceDevice
from tarn.apps.discovery.sources.asking import kind_of
from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.register.rows import rows_of
from tarn.apps.people.scope import asking_for
from tarn.collect.sources.known import KnownDevice, KnownDevices


def known_to(source: Source) -> KnownDevices:
    """Return the devices that a source is asked about; of one that is asked for devices, none."""
    if not kind_of(source.kind).about:
        return KnownDevices()
    with asking_for(source.organisation):
        rows = rows_of("asset", ["number", "serial", "manufacturer", "name"], question(""), "", [])
        devices = tuple(
            KnownDevice(r["number"], r["serial"] or "", r["manufacturer"] or "", r["name"] or "") for r in rows
        )
    before = SourceDevice.objects.filter(source=source).values_list("key", flat=True) if source.pk else ()
    return KnownDevices(devices, frozenset(before))
