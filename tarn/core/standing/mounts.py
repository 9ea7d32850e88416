"""What a mounted file system says of where it comes from."""


def exported(device: str) -> tuple[str, str]:
    """Return the server and the path or share of a mounted device: `salt-file-01:/srv` (NFS, RFC 7530), `//host/share`
    (SMB, as mount.cifs(8) has it); an IPv6 address stands in brackets. Both empty where it is a device of its own."""
    if device.startswith("//"):
        server, _, share = device[2:].partition("/")
        return (server, f"/{share}") if server and share else ("", "")
    if device.startswith("["):
        server, closed, rest = device[1:].partition("]:")
        return (server, rest) if closed and rest.startswith("/") else ("", "")
    server, colon, path = device.partition(":")
    return (server, path) if colon and server and "/" not in server and path.startswith("/") else ("", "")
