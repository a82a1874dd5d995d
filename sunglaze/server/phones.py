"""Published effects for phones of the same network, over HTTPS: only so does a phone give its camera to a page. Off by default.

The listener hands out what phones need and takes nothing: pages, packages, the stand-in camera. Its certificate is made on
first use and signed by nobody, so a phone asks once whether to trust it.
"""

from __future__ import annotations

import asyncio
import contextlib
import datetime
import ipaddress
import os
import socket
from dataclasses import dataclass
from pathlib import Path

import uvicorn
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID
from starlette.responses import JSONResponse, RedirectResponse
from starlette.types import ASGIApp, Receive, Scope, Send

from sunglaze.core.errors import GlazeError
from sunglaze.server.visitors import Visitors, open_to_all

PORT = 8766
DAYS = 365
"""How long a certificate holds; phones refuse those that hold for more than 398 days (from memory)."""


@dataclass(frozen=True)
class Certificate:
    """Files of key and certificate, for addresses of this machine; `fingerprint`: SHA-256, pairs of hexadecimal digits."""

    path: Path
    addresses: tuple[str, ...]
    fingerprint: str


def addresses() -> tuple[str, ...]:
    """This machine's addresses that others of the network reach, the likeliest first; its own if there is no network."""
    found: list[str] = []
    with contextlib.suppress(OSError), socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as asking:
        # Nothing is sent: this only asks which address would be used (RFC 5737 names the other as for examples).
        asking.connect(("192.0.2.1", 9))
        found.append(asking.getsockname()[0])
    with contextlib.suppress(OSError):
        found += [str(one[4][0]) for one in socket.getaddrinfo(socket.gethostname(), None, socket.AF_INET)]
    reached = [one for one in dict.fromkeys(found) if not ipaddress.ip_address(one).is_loopback]
    return (*reached, "127.0.0.1")


def certificate(folder: Path, wanted: tuple[str, ...]) -> Certificate:
    """That of the folder; made anew where there is none, where it ran out, or where it lacks one of the addresses."""
    path = folder / "phones.pem"
    if path.is_file():
        known = x509.load_pem_x509_certificate(path.read_bytes())
        names = known.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
        has = {str(one) for one in names.get_values_for_type(x509.IPAddress)}
        if set(wanted) <= has and known.not_valid_after_utc > datetime.datetime.now(datetime.UTC):
            return Certificate(path, wanted, _fingerprint(known))
    key = ec.generate_private_key(ec.SECP256R1())
    own = socket.gethostname().lower()
    words = [x509.DNSName(one) for one in ("localhost", own, f"{own}.local")]
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Sun Glaze on this machine")])
    now = datetime.datetime.now(datetime.UTC)
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - datetime.timedelta(days=1))
        .not_valid_after(now + datetime.timedelta(days=DAYS))
        .add_extension(
            x509.SubjectAlternativeName([*words, *[x509.IPAddress(ipaddress.ip_address(a)) for a in wanted]]),
            critical=False,
        )
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .sign(key, hashes.SHA256())
    )
    secret = key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())
    with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as file:
        file.write(made.public_bytes(serialization.Encoding.PEM) + secret)
    return Certificate(path, wanted, _fingerprint(made))


def _fingerprint(one: x509.Certificate) -> str:
    return one.fingerprint(hashes.SHA256()).hex(":").upper()


class _OnlyWhatPhonesNeed:
    """ASGI: passes on requests for an address of this machine that ask and do not change, as if they came from here."""

    def __init__(self, app: ASGIApp, names: tuple[str, ...], visitors: Visitors) -> None:
        self._app, self._names, self._visitors = app, names, visitors

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            return
        headers = [(name, value) for name, value in scope["headers"] if name not in (b"host", b"origin")]
        host = dict(scope["headers"]).get(b"host", b"").decode("latin-1").rsplit(":", 1)[0]
        if host not in (*self._names, "localhost"):
            await JSONResponse({"message": "phones find nothing under this name"}, 403)(scope, receive, send)
        elif scope["path"] == "/":
            await RedirectResponse("/showcase")(scope, receive, send)
        elif not open_to_all(scope["method"], scope["path"], scope["query_string"]):
            await JSONResponse({"message": "phones see only published effects"}, 403)(scope, receive, send)
        else:
            inside = {**scope, "headers": [*headers, (b"host", b"localhost")]}
            await self._visitors.admit(self._app, inside, receive, send)


class Phones:
    """The listener. All of it runs on the server's event loop; one start or stop at a time."""

    def __init__(self, app: ASGIApp, folder: Path, visitors: Visitors) -> None:
        self._app, self._folder, self._visitors = app, folder, visitors
        self._server: uvicorn.Server | None = None
        self._task: asyncio.Task[None] | None = None
        self._turn = asyncio.Lock()
        self.certificate: Certificate | None = None
        self.port = 0

    @property
    def address(self) -> str | None:
        """Where phones reach it, without a slash at the end; none while it is off."""
        return f"https://{self.certificate.addresses[0]}:{self.port}" if self.certificate else None

    async def start(self) -> None:
        """Raises GlazeError where no port can be had."""
        async with self._turn:
            if self._server is None:
                await self._open()

    async def _open(self) -> None:
        names = addresses()
        known = await asyncio.to_thread(certificate, self._folder, names)
        listening = _listening()
        self.port = listening.getsockname()[1]
        config = uvicorn.Config(
            _OnlyWhatPhonesNeed(self._app, names, self._visitors),
            ssl_certfile=str(known.path),
            lifespan="off",
            log_level="warning",
            timeout_graceful_shutdown=1,
        )
        self._server = _Quiet(config)
        self._task = asyncio.create_task(self._server.serve(sockets=[listening]))
        while not self._server.started and not self._task.done():
            await asyncio.sleep(0.01)
        self.certificate = known

    async def stop(self) -> None:
        async with self._turn:
            if self._server is not None and self._task is not None:
                self._server.should_exit = True
                await self._task
            self._server = self._task = self.certificate = None


class _Quiet(uvicorn.Server):
    """Leaves signals to the server that this one belongs to."""

    @contextlib.contextmanager
    def capture_signals(self):  # type: ignore[no-untyped-def]
        yield


def _listening() -> socket.socket:
    for port in (PORT, 0):
        listening = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
        listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listening.bind(("0.0.0.0", port))
        except OSError:
            listening.close()
        else:
            return listening
    raise GlazeError("no port is free for phones")
