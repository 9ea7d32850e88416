"""What a shell of the lab says of shares and databases: `exportfs`, `testparm`, `smbstatus`, `psql`, `mysql`, `getent`,
`cibadmin`."""

from collections.abc import Callable
from datetime import datetime

from tarn.lab import workings
from tarn.lab.model import Answer, Device


def _exportfs(device: Device, words: list[str], now: datetime) -> Answer:
    if device.name != workings.FILES:
        return "", "sh: exportfs: not found\n", 127
    return "/srv/files  10.60.4.0/24(sync,wdelay,hide,no_subtree_check,sec=sys,rw,secure,root_squash)\n", "", 0


def _testparm(device: Device, words: list[str], now: datetime) -> Answer:
    if device.name != workings.FILES:
        return "", "sh: testparm: not found\n", 127
    return (
        (
            "# Global parameters\n[global]\n\tworkgroup = SKERRIVANE\n\n[crew-papers]\n\tpath = /srv/files/crew\n"
            "\tvalid users = @crewing\n\n[printers]\n\tpath = /var/spool/samba\n\tprintable = Yes\n"
        ),
        "",
        0,
    )


def _smbstatus(device: Device, words: list[str], now: datetime) -> Answer:
    """`smbstatus -S`: who has which share open."""
    if device.name != workings.FILES:
        return "", "sh: smbstatus: not found\n", 127
    head = f"{'Service':<12} {'pid':<7} {'Machine':<13} {'Connected at':<32} {'Encryption':<12} {'Signing':<12}"
    rows = [
        f"{share:<12} {2100 + n:<7} {client:<13} {f'{now:%a %b %e} 08:{n % 60:02}:11 {now:%Y} UTC':<32} {'-':<12} {'-':<12}"
        for n, (share, client) in enumerate([("IPC$", "10.60.4.31"), *workings.shares_open(device)])
    ]
    return "\n".join(["", head, "-" * 93, *rows, "", ""]), "", 0


def _mysql(device: Device, words: list[str], now: datetime) -> Answer:
    """`mysql -NBe …`: databases of the information schema."""
    if device.name != "salt-mon-01":
        return "", "sh: mysql: not found\n", 127
    return "heron|3221225472|10.11.6-MariaDB-0+deb12u1\n", "", 0


def _getent(device: Device, words: list[str], now: datetime) -> Answer:
    """`getent passwd NAME`: an account, where there is one."""
    there = {"postgres": "grebe-database" in device.packages, "mysql": device.name == "salt-mon-01"}
    name = words[-1]
    return (f"{name}:x:114:120::/nonexistent:/bin/false\n", "", 0) if there.get(name) else ("", "", 2)


def _cibadmin(device: Device, words: list[str], now: datetime) -> Answer:
    """`cibadmin -Q`: the cluster a virtual host is of."""
    if device.name not in workings.CLUSTER:
        return "", "sh: cibadmin: not found\n", 127
    return workings.cluster_xml(), "", 0


def _runuser(device: Device, words: list[str], now: datetime) -> Answer:
    """`runuser -u postgres -- psql …`: databases of the catalogue."""
    if "grebe-database" not in device.packages:
        return "", "runuser: user postgres does not exist\n", 1
    return "".join(f"{name}|{size}|15.6\n" for name, size in workings.databases(device)), "", 0


COMMANDS: dict[str, Callable[[Device, list[str], datetime], Answer]] = {
    "exportfs": _exportfs,
    "testparm": _testparm,
    "runuser": _runuser,
    "smbstatus": _smbstatus,
    "mysql": _mysql,
    "getent": _getent,
    "cibadmin": _cibadmin,
}
