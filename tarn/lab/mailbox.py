"""A mailbox: an SMTP server (RFC 5321) on loopback that keeps what it is given as files of a folder."""

import asyncio
import time
from itertools import count
from pathlib import Path
from typing import Any

from aiosmtpd.smtp import SMTP

_numbers = count(1)


class _Keeps:
    def __init__(self, folder: Path) -> None:
        self.folder = folder

    async def handle_DATA(self, server: Any, session: Any, envelope: Any) -> str:
        """Keep one message; its name sorts by time."""
        name = f"{time.time_ns():020d}-{next(_numbers):04d}"
        part = self.folder / f"{name}.part"
        part.write_bytes(envelope.original_content)
        part.rename(self.folder / f"{name}.eml")
        return "250 kept"


async def serve_mailbox(folder: Path, host: str, port: int) -> asyncio.Server:
    """Start the mailbox; returns the server, to be closed."""
    folder.mkdir(parents=True, exist_ok=True)
    keeps = _Keeps(folder)
    loop = asyncio.get_running_loop()
    return await loop.create_server(lambda: SMTP(keeps, enable_SMTPUTF8=True, loop=loop), host, port)
