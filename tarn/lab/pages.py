"""The page a simulated device serves, and how it has people sign in there (RFC 9110)."""

from tarn.lab.model import Device


def page(device: Device) -> bytes:
    """Return what a device answers whoever asks for its page."""
    body = f"<title>{device.maker} {device.model}</title>"
    status, more = "200 OK", ""
    if device.asks == "form":
        body += '<form method="post"><input name="user"><input name="word" type="password"></form>'
    elif device.asks == "basic":
        status, more = "401 Unauthorized", f'WWW-Authenticate: Basic realm="{device.model}"\r\n'
    return (
        f"HTTP/1.1 {status}\r\nServer: {device.maker} {device.model}\r\n{more}"
        f"Content-Length: {len(body)}\r\nConnection: close\r\n\r\n{body}"
    ).encode()
