"""What a simulated Windows computer runs, and whom it talks to, as its cmdlets tell of it."""

from datetime import datetime, timedelta
from typing import Any

from tarn.lab.model import Device

Row = dict[str, Any]


def stamp(at: datetime) -> str:
    """Return a moment as PowerShell writes it into JSON."""
    return f"/Date({int(at.timestamp()) * 1000})/"


def processes(d: Device, now: datetime) -> list[Row]:
    """Return processes as Get-Process lists them."""
    return [
        {"Id": 4, "ProcessName": "System"},
        {"Id": 880, "ProcessName": "svchost"},
        {"Id": 2210, "ProcessName": "berthwright"},
        {"Id": 3110, "ProcessName": "quill"},
    ]


def commands(d: Device, now: datetime) -> list[Row]:
    """Return processes as Win32_Process tells of them."""
    started = stamp((now - timedelta(days=d.up_days)).replace(hour=6, minute=1, second=0, microsecond=0))
    rows = [
        (4, 0, "System", None),
        (880, 640, "svchost.exe", r"C:\Windows\system32\svchost.exe -k RPCSS -p"),
        (
            2210,
            4012,
            "berthwright.exe",
            r'"C:\Program Files\Berthwright\berthwright.exe" /server:10.60.4.23 /password:flotsam',
        ),
        (3110, 4012, "quill.exe", r'"C:\Program Files\Quill\quill.exe" /background'),
    ]
    held = {"berthwright.exe": "berthwright-planner", "quill.exe": "quill-office"}
    return [
        {"ProcessId": n, "ParentProcessId": parent, "Name": name, "CommandLine": command, "CreationDate": started}
        for n, parent, name, command in rows
        if held.get(name, name) in d.packages or name not in held
    ]


def owners(d: Device, now: datetime) -> list[Row]:
    """Return whose each process is."""
    person = f"SKERRIVANE\\{d.signins[0].account}" if d.signins else "SYSTEM"
    system = r"NT AUTHORITY\SYSTEM"
    return [{"Id": r["Id"], "UserName": person if r["Id"] > 2000 else system} for r in processes(d, now)]


def listeners(d: Device, now: datetime) -> list[Row]:
    """Return the sockets that listen."""
    rows = [(135, 880), (445, 4), (3389, 880), (5986, 4)]
    return [{"LocalAddress": "0.0.0.0", "LocalPort": p, "OwningProcess": o} for p, o in rows]


def established(d: Device, now: datetime) -> list[Row]:
    """Return the connections that are established."""
    rows = [("10.60.4.26", 143, 3110), ("10.60.4.27", 445, 4)]
    if any("Berthwright" in n for n in d.packages):
        rows.append(("10.60.4.23", 80, 2210))
    return [{"RemoteAddress": a, "RemotePort": p, "OwningProcess": o} for a, p, o in rows]
