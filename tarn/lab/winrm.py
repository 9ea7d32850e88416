"""WS-Management (DMTF DSP0226, with the remote shell of MS-WSMV) of a simulated Windows computer.

Signs in by NTLM (MS-NLMP) or Basic (RFC 7617); over plain HTTP messages are sealed as MS-WSMV 2.2.9.1 says.
"""

import base64
import uuid
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import Any
from weakref import WeakKeyDictionary
from xml.etree import ElementTree

import spnego
from aiohttp import web
from pypsrp.encryption import WinRMEncryption
from spnego.exceptions import SpnegoError

from tarn.lab.acting import Ledger
from tarn.lab.model import Device
from tarn.lab.powershell import run

_ENVELOPE = "http://www.w3.org/2003/05/soap-envelope"
_ADDRESSING = "http://schemas.xmlsoap.org/ws/2004/08/addressing"
_WSMAN = "http://schemas.dmtf.org/wbem/wsman/1/wsman.xsd"
_SHELL = "http://schemas.microsoft.com/wbem/wsman/1/windows/shell"
_TRANSFER = "http://schemas.xmlsoap.org/ws/2004/09/transfer"
_CMD = f"{_SHELL}/cmd"
_SEALED = "multipart/encrypted"


def write_accounts(path: Path, accounts: dict[str, str]) -> None:
    """Write the file of accounts that the NTLM acceptor reads: a line `domain:user:password` an account."""
    path.write_text("".join(f"{who.replace(chr(92), ':')}:{password}\n" for who, password in accounts.items()))


class Computer:
    """The listener of one computer. `accounts`: DOMAIN\\user to password; what is done goes to the ledger."""

    def __init__(self, device: Device, accounts: dict[str, str], now: Callable[[], datetime], ledger: Ledger) -> None:
        self.device, self.accounts, self.now, self.ledger = device, accounts, now, ledger
        self._contexts: WeakKeyDictionary[Any, Any] = WeakKeyDictionary()
        self._scripts: dict[str, bytes] = {}

    def app(self) -> web.Application:
        """Return the web application that answers for it."""
        app = web.Application(client_max_size=4 << 20)
        app.router.add_post("/wsman", self._post)
        return app

    async def _post(self, request: web.Request) -> web.Response:
        refused = web.Response(
            status=401, headers=[("WWW-Authenticate", "Negotiate"), ("WWW-Authenticate", "Basic realm=WSMAN")]
        )
        said = request.headers.get("Authorization", "")
        headers: dict[str, str] = {}
        if said.startswith("Basic "):
            user, _, password = base64.b64decode(said[6:]).decode().partition(":")
            if self.accounts.get(user) != password:
                return refused
            context, who = None, user
        elif said.startswith("Negotiate "):
            context = self._contexts.get(request.transport)
            if context is None or context.complete:
                context = spnego.server(protocol="negotiate", options=spnego.NegotiateOptions.use_negotiate)
                self._contexts[request.transport] = context
            try:
                token = context.step(base64.b64decode(said[10:]))
            except SpnegoError:
                self._contexts.pop(request.transport, None)
                return refused
            if token:
                headers["WWW-Authenticate"] = "Negotiate " + base64.b64encode(token).decode()
            if not context.complete:
                return web.Response(status=401, headers=headers)
            if not any(context.client_principal.lower() == who.lower() for who in self.accounts):
                self._contexts.pop(request.transport, None)
                return refused
        else:
            context = self._contexts.get(request.transport)
            if context is None or not context.complete:
                return refused
        if context is not None:
            who = context.client_principal
        body = await request.read()
        sealed = request.content_type == _SEALED
        if sealed:
            body = WinRMEncryption(context, WinRMEncryption.SPNEGO).unwrap_message(body, "Encrypted Boundary")
        if not body:
            return web.Response(status=200, headers=headers)
        answer = self._answer(body, who).encode()
        kind = "application/soap+xml;charset=UTF-8"
        if sealed:
            _, answer = WinRMEncryption(context, WinRMEncryption.SPNEGO).wrap_message(answer)
            kind = f'{_SEALED};protocol="{WinRMEncryption.SPNEGO}";boundary="Encrypted Boundary"'
        return web.Response(body=answer, headers={**headers, "Content-Type": kind})

    def _answer(self, body: bytes, who: str) -> str:
        root = ElementTree.fromstring(body)
        action = root.findtext(f".//{{{_ADDRESSING}}}Action") or ""
        message = root.findtext(f".//{{{_ADDRESSING}}}MessageID") or ""
        verb = action.rsplit("/", 1)[-1]
        do = {"Create": self._create, "Command": self._command, "Send": self._send,
              "Signal": self._signal, "Delete": self._delete}.get(verb)  # fmt: skip
        content = self._receive(root, who) if verb == "Receive" else do(root) if do else ""
        return (
            f'<s:Envelope xmlns:s="{_ENVELOPE}" xmlns:a="{_ADDRESSING}" xmlns:w="{_WSMAN}" xmlns:rsp="{_SHELL}" '
            f'xmlns:x="{_TRANSFER}"><s:Header><a:Action>{action}Response</a:Action>'
            f"<a:MessageID>uuid:{uuid.uuid4()}</a:MessageID><a:RelatesTo>{message}</a:RelatesTo></s:Header>"
            f"<s:Body>{content}</s:Body></s:Envelope>"
        )

    def _create(self, root: ElementTree.Element) -> str:
        shell = str(uuid.uuid4()).upper()
        return (
            f"<x:ResourceCreated><a:Address>http://host/wsman</a:Address><a:ReferenceParameters>"
            f'<w:ResourceURI>{_CMD}</w:ResourceURI><w:SelectorSet><w:Selector Name="ShellId">{shell}</w:Selector>'
            f"</w:SelectorSet></a:ReferenceParameters></x:ResourceCreated>"
            f"<rsp:Shell><rsp:ShellId>{shell}</rsp:ShellId><rsp:ResourceUri>{_CMD}</rsp:ResourceUri>"
            "<rsp:InputStreams>stdin</rsp:InputStreams><rsp:OutputStreams>stdout stderr</rsp:OutputStreams></rsp:Shell>"
        )

    def _command(self, root: ElementTree.Element) -> str:
        command = str(uuid.uuid4()).upper()
        self._scripts[command] = b""
        return f"<rsp:CommandResponse><rsp:CommandId>{command}</rsp:CommandId></rsp:CommandResponse>"

    def _send(self, root: ElementTree.Element) -> str:
        stream = root.find(f".//{{{_SHELL}}}Stream")
        if stream is not None and stream.text:
            self._scripts[stream.get("CommandId", "")] += base64.b64decode(stream.text)
        return "<rsp:SendResponse/>"

    def _receive(self, root: ElementTree.Element, who: str) -> str:
        desired = root.find(f".//{{{_SHELL}}}DesiredStream")
        command = desired.get("CommandId", "") if desired is not None else ""
        out, err, code = run(self.device, self._scripts.pop(command, b"").decode(), self.now(), who)
        self.ledger.keep(self.device)
        streams = "".join(
            f'<rsp:Stream Name="{name}" CommandId="{command}">{base64.b64encode(data.encode()).decode()}</rsp:Stream>'
            for name, data in (("stdout", out), ("stderr", err))
            if data
        )
        done = f"{_SHELL}/CommandState/Done"
        return (
            f'<rsp:ReceiveResponse>{streams}<rsp:CommandState CommandId="{command}" State="{done}">'
            f"<rsp:ExitCode>{code}</rsp:ExitCode></rsp:CommandState></rsp:ReceiveResponse>"
        )

    def _signal(self, root: ElementTree.Element) -> str:
        return "<rsp:SignalResponse/>"

    def _delete(self, root: ElementTree.Element) -> str:
        return ""
