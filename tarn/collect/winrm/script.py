"""What is asked of a Windows computer: one script, a line a question, one JSON document as the answer.

Only reads. A question that fails leaves its error in the answer and the rest goes on. Classes are those of
CIM (DMTF) as Windows has them; programs come from the uninstall keys of both registry views and of each user.
"""

from tarn.core.secrets import by_powershell

_UNINSTALL = r"Software\Microsoft\Windows\CurrentVersion\Uninstall\*"
_WOW = r"Software\WOW6432Node\Microsoft\Windows\CurrentVersion\Uninstall\*"
_PROGRAM = (
    "DisplayName,DisplayVersion,Publisher,InstallDate,UninstallString,SystemComponent,DisplayIcon,ProductID,PSPath"
)


def _cim(name: str, properties: str, space: str = "") -> str:
    where = f" -Namespace {space}" if space else ""
    return f"Get-CimInstance {name}{where}|Select-Object {properties}"


SYSTEM = {
    "computer": _cim(
        "Win32_ComputerSystem", "Name,Domain,Manufacturer,Model,TotalPhysicalMemory,UserName,PartOfDomain"
    ),
    "product": _cim("Win32_ComputerSystemProduct", "UUID"),
    "bios": _cim("Win32_BIOS", "SerialNumber,SMBIOSBIOSVersion"),
    "board": _cim("Win32_BaseBoard", "SerialNumber,Manufacturer,Product"),
    "os": _cim("Win32_OperatingSystem", "Caption,Version,BuildNumber,OSArchitecture,LastBootUpTime"),
    "processors": _cim("Win32_Processor", "Name,NumberOfCores"),
    "modules": _cim("Win32_PhysicalMemory", "DeviceLocator,Capacity,Speed,Manufacturer,SerialNumber"),
    "disks": _cim("Win32_DiskDrive", "DeviceID,Model,SerialNumber,Size"),
    "volumes": _cim("Win32_LogicalDisk", "DeviceID,FileSystem,Size,FreeSpace,DriveType"),
    "adapters": _cim("Win32_NetworkAdapter", "Index,NetConnectionID,Name,MACAddress,Speed,NetEnabled,PhysicalAdapter"),
    "configurations": _cim("Win32_NetworkAdapterConfiguration", "Index,IPAddress,IPSubnet"),
    "administrator": "([Security.Principal.WindowsPrincipal][Security.Principal.WindowsIdentity]::GetCurrent())"
    ".IsInRole([Security.Principal.WindowsBuiltInRole]::Administrator)",
    "signed_in": r"Get-ItemProperty HKLM:\SOFTWARE\Microsoft\Windows\CurrentVersion\Authentication\LogonUI"
    "|Select-Object LastLoggedOnUser",
}
"""Questions of the third stage."""

SOFTWARE = {
    "programs": rf"Get-ItemProperty HKLM:\{_UNINSTALL}|Select-Object {_PROGRAM}",
    "programs32": rf"Get-ItemProperty HKLM:\{_WOW}|Select-Object {_PROGRAM}",
    "programs_users": rf"Get-ItemProperty Registry::HKEY_USERS\*\{_UNINSTALL}|Select-Object {_PROGRAM}",
    "prefetch": r"Get-ChildItem $env:SystemRoot\Prefetch\*.pf|Select-Object Name,LastWriteTime",
    "keys": "Get-CimInstance SoftwareLicensingProduct -Filter 'PartialProductKey IS NOT NULL'"
    "|Select-Object Name,PartialProductKey,LicenseStatus",
    "firmware_key": _cim("SoftwareLicensingService", "OA3xOriginalProductKey"),
    "features": "Get-CimInstance Win32_OptionalFeature -Filter 'InstallState=1'|Select-Object Name,Caption",
    "tasks": r"Get-ScheduledTask|Where-Object TaskPath -notlike '\Microsoft\*'"
    "|Select-Object TaskName,TaskPath,State,Actions,Principal",
    "services": _cim("Win32_Service", "Name,DisplayName,StartMode,State,StartName"),
    "users": _cim("Win32_UserAccount", "Name,FullName,Disabled,SID,LocalAccount"),
    "memberships": _cim("Win32_GroupUser", "GroupComponent,PartComponent"),
    "protections": _cim("AntiVirusProduct", "displayName,productState", "root/SecurityCenter2"),
    "updates": _cim("Win32_QuickFixEngineering", "HotFixID,Description,InstalledOn"),
    "shares": _cim("Win32_Share", "Name,Path,Type,Description"),
    "share_users": _cim("Win32_ServerConnection", "ShareName,ComputerName,UserName"),
    "printers": _cim("Win32_Printer", "Name,DriverName,PortName"),
    "listeners": "Get-NetTCPConnection -State Listen|Select-Object LocalAddress,LocalPort,OwningProcess",
    "connections": "Get-NetTCPConnection -State Established|"
    "Select-Object LocalPort,RemoteAddress,RemotePort,OwningProcess",
    "processes": "Get-Process|Select-Object Id,ProcessName",
    "commands": "Get-CimInstance Win32_Process|Select-Object ProcessId,ParentProcessId,Name,CreationDate,"
    f"@{{n='CommandLine';e={{{by_powershell('$_.CommandLine')}}}}}",
    "owners": "Get-Process -IncludeUserName|Select-Object Id,UserName",
    "guests": "Get-VM|Select-Object VMId,VMName,State,ProcessorCount,MemoryAssigned",
}
"""Questions of the fourth stage. `guests` fails where the computer is no virtual host."""


def script(questions: dict[str, str]) -> str:
    """Return the script that asks these questions, a line each, and prints one JSON object."""
    lines = ["$ProgressPreference='SilentlyContinue'", "$ErrorActionPreference='Stop'", "$o=[ordered]@{}"]
    for name, question in questions.items():
        lines.append(f'try{{$o.{name}=@({question})}}catch{{$o.{name}_error="$_"}}')
    return "\r\n".join([*lines, "$o|ConvertTo-Json -Depth 4 -Compress"])


RIGHTS = SYSTEM["administrator"]
"""Prints True where the account may act as administrator."""
