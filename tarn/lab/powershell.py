"""PowerShell of a simulated Windows computer: the few cmdlets an inventory asks, answered from its model.

Understands lines of the form `try{$o.NAME=@(CMDLET …|Select-Object …)}catch{…}`, a closing
`$o|ConvertTo-Json`, and two expressions; anything else is answered as PowerShell answers an unknown command.
"""

import json
import re
from collections.abc import Callable
from datetime import datetime, timedelta
from typing import Any

from tarn.lab import acting, powershell_running
from tarn.lab.model import Device, Package
from tarn.lab.parts import digest
from tarn.lab.powershell_running import stamp

Row = dict[str, Any]
_ASSIGN = re.compile(r"^try\{\$o\.(\w+)=@\((.*)\)\}catch\{")
_START = re.compile(r"""^\$p=Start-Process cmd\.exe -ArgumentList '/s /c "(.*)"' -PassThru""")
_UNINSTALL = r"CurrentVersion\Uninstall"
_DENIED = "Access denied "
_ADMIN_ONLY = ("root/SecurityCenter2", "Get-NetTCPConnection", "Win32_GroupUser", "Registry::HKEY_USERS")


def run(device: Device, source: str, now: datetime, user: str = "tarn-reader") -> tuple[str, str, int]:
    """Run a script; return standard output, standard error and the exit code."""
    allowed = user.lower().endswith(acting.HAND)
    held: dict[str, Any] = {}
    out, err = "", ""
    for line in source.splitlines():
        line = line.strip()
        if not line or line.startswith(("$ProgressPreference", "$ErrorActionPreference", "$o=", "if($p.WaitForExit")):
            continue
        administrator = device.fault != "limited"
        if line.startswith("try{$o.administrator="):
            held["administrator"] = [administrator]
        elif found := _ASSIGN.match(line):
            try:
                held[found[1]] = _ask(device, found[2], now)
            except LookupError as error:
                held[f"{found[1]}_error"] = str(error.args[0])
        elif found := _START.match(line):
            held["code"] = acting.command(device, found[1].replace("''", "'"), now, allowed=allowed)
        elif line.startswith("Remove-LocalUser "):
            err += acting.drop_user(device, line, now, allowed=allowed)
        elif line.startswith("$o|ConvertTo-Json"):
            out += json.dumps(held, separators=(",", ":")) + "\r\n"
        elif line == "$env:COMPUTERNAME":
            out += device.name.upper() + "\r\n"
        elif "IsInRole" in line:
            out += f"{administrator}\r\n"
        else:
            err += f"{line.split()[0]} : The term '{line.split()[0]}' is not recognized\r\n"
    return out, err, 1 if err else 0


def _ask(device: Device, question: str, now: datetime) -> list[Row]:
    command, _, selected = question.partition("|Select-Object ")
    if device.fault == "limited" and any(word in command for word in _ADMIN_ONLY):
        raise LookupError(_DENIED)
    words = command.split()
    if words[0] == "Get-CimInstance":
        name = words[1]
    elif words[0] == "Get-ItemProperty":
        name = "HKEY_USERS" if "HKEY_USERS" in command else "WOW" if "WOW6432" in command else "LogonUI"
        name = "HKLM" if _UNINSTALL in command and name == "LogonUI" else name
    elif words[0] == "Get-NetTCPConnection":
        name = words[2]
    else:
        name = command if command in _TABLES else words[0].partition("|")[0]
    if name not in _TABLES:
        raise LookupError(f"The term '{name}' is not recognized or is an invalid class")
    rows = _TABLES[name](device, now)
    reckoned = dict(_RECKONED.findall(selected))
    wanted = [w.strip() for w in _RECKONED.sub(r"\1", selected).split(",")]
    return [{w: _replaced(row.get(w), reckoned.get(w, "")) for w in wanted} for row in rows]


_RECKONED = re.compile(r"@\{n='(\w+)';e=\{(.*?\.*?)\}\}(?=,|$)")
_REPLACE = re.compile(r"-replace '([^']*)','([^']*)'")


def _replaced(value: Any, how: str) -> Any:
    """Return a value after the `-replace` of a property that is reckoned."""
    for pattern, into in _REPLACE.findall(how) if isinstance(value, str) else ():
        value = re.sub(pattern, into.replace("$", "\\"), value, flags=re.IGNORECASE)
    return value


def _computer(d: Device, now: datetime) -> list[Row]:
    return [
        {
            "Name": d.name.upper(),
            "Domain": d.domain,
            "PartOfDomain": True,
            "Manufacturer": d.maker,
            "Model": d.model,
            "TotalPhysicalMemory": d.memory - (200 << 20),
            "UserName": f"SKERRIVANE\\{d.signins[0].account}" if d.signins else None,
        }
    ]


def _os(d: Device, now: datetime) -> list[Row]:
    started = (now - timedelta(days=d.up_days)).replace(hour=6, minute=0, second=0, microsecond=0)
    started = max(started, d.restarted or started)
    caption = f"Microsoft {d.os_name} {'2022 Standard' if 'Server' in d.os_name else '11 Pro'}"
    return [
        {
            "Caption": caption,
            "Version": d.os_version,
            "BuildNumber": d.os_version.rsplit(".", 1)[-1],
            "OSArchitecture": "64-bit",
            "LastBootUpTime": stamp(started),
        }
    ]


def _modules(d: Device, now: datetime) -> list[Row]:
    size = d.memory // 2
    return [
        {
            "DeviceLocator": f"DIMM{i}",
            "Capacity": size,
            "Speed": 3200,
            "Manufacturer": d.maker,
            "SerialNumber": f"{digest(d.identity, 'dimm', i) % 16**8:08X}",
        }
        for i in (1, 2)
    ]


def _adapters(d: Device, now: datetime) -> list[Row]:
    return [
        {
            "Index": n,
            "NetConnectionID": i.name,
            "Name": f"{d.maker} network adapter",
            "MACAddress": i.mac.upper(),
            "Speed": i.speed,
            "NetEnabled": i.up,
            "PhysicalAdapter": True,
        }
        for n, i in enumerate(d.interfaces, start=1)
    ]


def _configurations(d: Device, now: datetime) -> list[Row]:
    return [
        {
            "Index": n,
            "IPAddress": [a for a, _ in i.addresses] + ["fe80::1"],
            "IPSubnet": ["255.255.255.0" for _ in i.addresses] + ["64"],
        }
        for n, i in enumerate(d.interfaces, start=1)
        if i.addresses
    ]


def _programs(d: Device, now: datetime, view: str) -> list[Row]:
    rows = []
    for p in sorted(d.packages.values(), key=lambda p: p.name):
        lies = "WOW" if digest(p.name, "view") % 3 == 0 else "HKLM"
        if lies == view:
            rows.append(
                {
                    "DisplayName": listed_name(d, p),
                    "DisplayVersion": p.version,
                    "Publisher": p.publisher + ("", " Ltd.", ", Inc.")[digest(d.identity, p.publisher) % 3],
                    "InstallDate": f"2026{1 + digest(d.identity, p.name, p.version) % 9:02d}12",
                    "UninstallString": acting.removal(p.name),
                    "DisplayIcon": f"C:\\Program Files\\{p.name}\\{_program(p.name)},0",
                    "ProductID": _key(d, p.name) if digest(p.name, "keyed") % 3 == 0 else None,
                    "PSPath": f"Microsoft.PowerShell.Core\\Registry::HKEY_LOCAL_MACHINE\\…\\{p.name}",
                }
            )
    rows += _beside(d, view)
    if view == "WOW":
        rows.append({"DisplayName": "Shared runtime part", "DisplayVersion": "1.0", "SystemComponent": 1})
    return rows


def listed_name(d: Device, package: Package) -> str:
    """Return the name a product enters itself under: plain, with its release and architecture, or with its maker."""
    words = package.name.replace("-", " ").title()
    if words.startswith(package.publisher):
        return words
    return (words, f"{words} {package.version} (x64)", f"{package.publisher} {words}")[digest(d.identity, "listed") % 3]


def _beside(d: Device, view: str) -> list[Row]:
    """What comes beside products: an update, a driver, a run-time, and an entry nobody gave a name."""
    month = 1 + digest(d.identity, "month") % 3
    listed = {
        "HKLM": [(f"Security Update for Quill Office (KB59120{month:02d})", "", "Northquill"),
                 (f"{d.maker} Chipset Driver", f"10.{month}.4", d.maker)],
        "WOW": [("Callow C++ Runtime 14 (x86)", f"14.{month}.0", "Callow Marine")],
    }[view]  # fmt: skip
    if view == "HKLM" and digest(d.identity, "nameless") % 12 == 0:
        listed.append(("{5C1F0E2A-7B44-4C1D-9B0E-0A3D5C7E9F11}", "1.0", ""))
    return [{"DisplayName": n, "DisplayVersion": v, "Publisher": p, "InstallDate": "20260212"} for n, v, p in listed]


def _program(name: str) -> str:
    return f"{name.split()[0].lower()}.exe"


def _key(d: Device, name: str) -> str:
    """Return a made-up key; one in six devices has that of a neighbour, as happens where keys are shared."""
    whose = "shared" if digest(d.identity, name, "shared") % 6 == 0 else d.identity
    number = digest(whose, name, "key")
    letters = "BCDFGHJKMPQRTVWXY2346789"
    return "-".join("".join(letters[(number >> (5 * i + 3 * j)) % 24] for i in range(5)) for j in range(4))


def _prefetch(d: Device, now: datetime) -> list[Row]:
    rows = []
    for p in sorted(d.packages.values(), key=lambda p: p.name):
        habit = digest(d.identity, p.name, "habit") % 5
        if habit > 3:
            continue  # never started, or so long ago that its trace is gone
        rest = (0, (now.toordinal() + habit) % 9, 40 + now.toordinal() % 30, 130)[habit]
        seen = stamp((now - timedelta(days=rest)).replace(hour=8, minute=5, second=0, microsecond=0))
        rows.append({"Name": f"{_program(p.name).upper()}-{digest(p.name) % 16**8:08X}.pf", "LastWriteTime": seen})
    return rows


def _keys(d: Device, now: datetime) -> list[Row]:
    name = "Windows(R), Server Standard edition" if "Server" in d.os_name else "Windows(R), Professional edition"
    return [{"Name": name, "PartialProductKey": _key(d, name)[-5:], "LicenseStatus": 1}]


def _features(d: Device, now: datetime) -> list[Row]:
    listed = [("Printing-Foundation-Features", "Print and document services"), ("NetFx4-AdvSrvs", "Run-time services")]
    if d.guests:
        listed.append(("Hypervisor", "Virtual machine host"))
    if digest(d.identity, "old protocol") % 11 == 0:
        listed.append(("SMB1Protocol", "File sharing, first version"))
    return [{"Name": n, "Caption": c} for n, c in listed]


def _tasks(d: Device, now: datetime) -> list[Row]:
    rows = [("\\", "Berth plan refresh", "C:\\Program Files\\Berthwright\\refresh.exe", "/quiet", "SYSTEM", 3)]
    if digest(d.identity, "copy") % 4 == 0:
        rows.append(("\\Harbour\\", "Nightly copy", "robocopy.exe", "D:\\ \\\\salt-store-01\\copy", "harbour-admin", 1))
    return [
        {
            "TaskPath": path,
            "TaskName": name,
            "State": state,
            "Actions": [{"Execute": run, "Arguments": with_}],
            "Principal": {"UserId": who},
        }
        for path, name, run, with_, who, state in rows
    ]


def _services(d: Device, now: datetime) -> list[Row]:
    listed = [
        ("CorvidProtect", "Corvid Protect", "Auto", "Running", "LocalSystem"),
        ("Spooler", "Print spooler", "Auto", "Running", "LocalSystem"),
        ("RemoteRegistry", "Remote registry", "Disabled", "Stopped", "LocalService"),
        ("BerthSync", "Berth synchronisation", "Manual", "Stopped", "SKERRIVANE\\svc-berth"),
    ]
    if "Server" in d.os_name:
        listed.append(("HeronAgent", "Heron monitor agent", "Auto", "Running", "LocalSystem"))
    names = ("Name", "DisplayName", "StartMode", "State", "StartName")
    return [dict(zip(names, row, strict=True)) for row in listed]


def _users(d: Device, now: datetime) -> list[Row]:
    made = [("Administrator", "", True, 500), ("Guest", "", True, 501), ("harbour-admin", "Harbour IT", False, 1001)]
    sid = f"S-1-5-21-{digest(d.identity) % 10**9}"
    return [
        {"Name": n, "FullName": f, "Disabled": off, "SID": f"{sid}-{rid}", "LocalAccount": True}
        for n, f, off, rid in made
        if n not in d.dropped
    ]


def _memberships(d: Device, now: datetime) -> list[Row]:
    here = d.name.upper()
    pairs = [(here, "Administrator"), (here, "harbour-admin"), ("SKERRIVANE", "Domain Admins")]
    if d.person and digest(d.identity, "admin") % 6 == 0 and d.signins:
        pairs.append(("SKERRIVANE", d.signins[0].account))
    return [
        {
            "GroupComponent": f'Win32_Group (Name = "Administrators", Domain = "{here}")',
            "PartComponent": f'Win32_UserAccount (Name = "{name}", Domain = "{domain}")',
        }
        for domain, name in pairs
    ]


def _protections(d: Device, now: datetime) -> list[Row]:
    if "Server" in d.os_name:
        raise LookupError("Invalid namespace")
    off, old = digest(d.identity, "off") % 17 == 0, digest(d.identity, "old") % 9 == 0
    return [{"displayName": "Corvid Protect", "productState": (0 if off else 0x1000) | (0x10 if old else 0) | 0x60000}]


def _updates(d: Device, now: datetime) -> list[Row]:
    build = digest(d.identity, "updates") % 3
    return [
        {
            "HotFixID": f"KB59{n:05d}",
            "Description": "Security update",
            "InstalledOn": stamp(datetime(2026, 3 + n % 7, 11, tzinfo=now.tzinfo)),
        }
        for n in range(1040 + build, 1046)
    ]


def _shares(d: Device, now: datetime) -> list[Row]:
    own: list[Row] = [{"Name": "C$", "Path": "C:\\", "Type": 2_147_483_648, "Description": "Default share"}]
    if d.kind == "server":
        own.append({"Name": "berth-plans", "Path": "D:\\Plans", "Type": 0, "Description": "Plans of berths"})
    return own


def _printers(d: Device, now: datetime) -> list[Row]:
    if "Server" in d.os_name:
        return []
    number = digest(d.identity, "printer") % 4 + 1
    return [{"Name": f"Folio on floor {number}", "DriverName": "Quarto Folio", "PortName": f"10.60.5.{10 + number}"}]


def _guests(d: Device, now: datetime) -> list[Row]:
    if not d.guests:
        raise LookupError("The term 'Get-VM' is not recognized")
    return [
        {"VMId": g.uuid, "VMName": g.name, "State": 2, "ProcessorCount": g.cores, "MemoryAssigned": g.memory}
        for g in d.guests
    ]


_TABLES: dict[str, Callable[[Device, datetime], list[Row]]] = {
    "Win32_ComputerSystem": _computer,
    "Win32_ComputerSystemProduct": lambda d, _: [{"UUID": d.uuid.upper()}],
    "Win32_BIOS": lambda d, _: [{"SerialNumber": d.serial, "SMBIOSBIOSVersion": "2.11"}],
    "Win32_BaseBoard": lambda d, _: [{"SerialNumber": d.board_serial, "Manufacturer": d.maker, "Product": d.model}],
    "Win32_OperatingSystem": _os,
    "Win32_Processor": lambda d, _: [
        {"Name": d.processor, "NumberOfCores": d.cores // d.sockets} for _ in range(d.sockets)
    ],
    "Win32_PhysicalMemory": _modules,
    "Win32_DiskDrive": lambda d, _: [
        {"DeviceID": f"\\\\.\\PHYSICALDRIVE{n}", "Model": k.model, "SerialNumber": k.serial, "Size": k.size}
        for n, k in enumerate(d.disks)
    ],
    "Win32_LogicalDisk": lambda d, _: [
        {
            "DeviceID": f.mount.rstrip("\\"),
            "FileSystem": f.type.upper(),
            "Size": f.size,
            "FreeSpace": f.size - f.used,
            "DriveType": 3,
        }
        for f in d.filesystems
    ],
    "Win32_NetworkAdapter": _adapters,
    "Win32_NetworkAdapterConfiguration": _configurations,
    "LogonUI": lambda d, _: [{"LastLoggedOnUser": f"SKERRIVANE\\{d.signins[0].account}"}] if d.signins else [],
    "HKLM": lambda d, now: _programs(d, now, "HKLM"),
    "WOW": lambda d, now: _programs(d, now, "WOW"),
    "HKEY_USERS": lambda d, _: (
        [
            {
                "DisplayName": "Tern Notes",
                "DisplayVersion": "4.1.2",
                "Publisher": "Ternwork",
                "InstallDate": "20260318",
                "UninstallString": '"%LOCALAPPDATA%\\TernNotes\\remove.exe"',
                "PSPath": f"Microsoft.PowerShell.Core\\Registry::HKEY_USERS\\S-1-5-21-{digest(d.person)}-1105\\Software",
            }
        ]
        if d.person
        else []
    ),
    "Get-ChildItem": _prefetch,
    "SoftwareLicensingProduct": _keys,
    "SoftwareLicensingService": lambda d, _: [
        {"OA3xOriginalProductKey": "" if "Server" in d.os_name else _key(d, "os")}
    ],
    "Win32_OptionalFeature": _features,
    "Get-ScheduledTask": _tasks,
    "Win32_Service": _services,
    "Win32_UserAccount": _users,
    "Win32_GroupUser": _memberships,
    "AntiVirusProduct": _protections,
    "Win32_QuickFixEngineering": _updates,
    "Win32_Printer": _printers,
    "Win32_Share": _shares,
    "Win32_ServerConnection": lambda d, now: [],
    "Listen": powershell_running.listeners,
    "Established": powershell_running.established,
    "Get-Process": powershell_running.processes,
    "Get-Process -IncludeUserName": powershell_running.owners,
    "Win32_Process": powershell_running.commands,
    "Get-VM": _guests,
}
