"""What the company's DHCP server would have in its lease file (ISC dhcpd, dhcpd.leases(5))."""

import datetime as dt

from tarn.lab.model import Device
from tarn.lab.parts import digest


def leases(devices: list[Device], now: dt.datetime) -> str:
    """Return leases of laptops and of what people carry: active ones, and some that ran out."""
    out = ["# The format of this file is documented in the dhcpd.leases(5) manual page.\n"]
    for device in devices:
        if device.kind not in ("laptop", "phone", "tablet", "scanner") or not device.interfaces:
            continue
        hours = digest(device.identity, "lease") % 40
        begins = now - dt.timedelta(hours=hours)
        ends = begins + dt.timedelta(hours=24)
        state = "active" if ends > now else "free"
        out.append(
            f"lease {device.address} {{\n  starts {begins:%w %Y/%m/%d %H:%M:%S};\n  ends {ends:%w %Y/%m/%d %H:%M:%S};\n"
            f"  binding state {state};\n  hardware ethernet {device.interfaces[0].mac};\n"
            f'  client-hostname "{device.name}";\n}}\n'
        )
    return "".join(out)
