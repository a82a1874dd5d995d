"""Opening published effects to phones of the network: the certificate, what is handed out and what is not, and closing it."""

from __future__ import annotations

import os
import ssl
import stat
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import cv2
import httpx
import numpy as np
import pytest

from sunglaze.server.phones import addresses, certificate
from tests.serving import Served, serve


def test_a_certificate_is_made_once_and_anew_for_another_address(tmp_path: Path) -> None:
    first = certificate(tmp_path, ("192.0.2.7", "127.0.0.1"))
    assert stat.S_IMODE(os.stat(first.path).st_mode) == 0o600
    assert certificate(tmp_path, ("127.0.0.1",)).fingerprint == first.fingerprint
    moved = certificate(tmp_path, ("192.0.2.8", "127.0.0.1"))
    assert moved.fingerprint != first.fingerprint
    # OpenSSL reads key and certificate, and they belong together.
    ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER).load_cert_chain(moved.path)


def test_this_machine_is_always_among_the_addresses() -> None:
    assert addresses()[-1] == "127.0.0.1"
    assert len(set(addresses())) == len(addresses())


@pytest.fixture
def opened(tmp_path: Path) -> Iterator[Served]:
    running = serve(tmp_path)
    yield running
    running.stop()


def test_phones_see_published_effects_and_nothing_else(opened: Served) -> None:
    with httpx.Client(base_url=opened.address, timeout=30) as desk:
        assert desk.get("/api/phones").json() == {"address": None, "fingerprint": None}
        assert desk.get("/api/phones/code.png").status_code == 404
        effect = desk.post("/api/effects", json={"name": "Pier lights"}).json()["id"]
        code = desk.post(f"/api/effects/{effect}/publish").json()["code"]
        state = desk.post("/api/phones", json={"open": True}).json()
        assert desk.post("/api/phones", json={"open": True}).json() == state
        picture = desk.get("/api/phones/code.png", params={"path": f"/p/{code}"})
        pixels = cv2.imdecode(np.frombuffer(picture.content, np.uint8), cv2.IMREAD_COLOR)
        # OpenCV's reader of QR codes.
        assert cv2.QRCodeDetector().detectAndDecode(pixels)[0] == f"{state['address']}/p/{code}"
        trust = ssl.create_default_context(cafile=opened.folder / "phones.pem")
        port = int(state["address"].rsplit(":", 1)[1])
        with httpx.Client(base_url=f"https://127.0.0.1:{port}", verify=trust, timeout=30) as phone:
            assert phone.get(f"/api/showcase/{code}").json()["name"] == "Pier lights"
            assert phone.get(f"/api/packages/{code}/files/program.json").json()["format"] == "sun-glaze/program"
            assert phone.get("/api/camera/facts").json()["frames"] == 75
            assert "html" in phone.get(f"/p/{code}").headers["content-type"]
            for path in ("/api/effects", f"/effects/{effect}", "/api/phones", "/api/openapi.json", "/api/assets/x/file"):
                assert (path, phone.get(path).status_code) == (path, 403)
            # Named as it is read: encoded, said twice, or beside what is harmless, it is the same question.
            for query in (
                "own=" + "0" * 64,
                "o%77n=" + "0" * 64,
                "%6fwn=x",
                "who=beekeeper&o%77%6e=x",
                "light=noon&light=dusk",
                "x=1",
            ):
                assert (query, phone.get(f"/api/camera/frames/0.jpg?{query}").status_code) == (query, 403)
            assert phone.get("/api/camera/frames/0.jpg?who=beekeeper&light=noon&screen=1%3A1").status_code == 200
            # What the phone's page asks for when it is turned, or faces the other way.
            turned = "who=lamp-tender&script=talk&light=noon&back=true&tracked=false&screen=16%3A9"
            assert phone.get(f"/api/camera/facts?{turned}").json()["width"] == 960
            assert phone.get("/").headers["location"] == "/showcase"
            assert phone.post(f"/api/effects/{effect}/publish").status_code == 403
            assert phone.delete(f"/api/packages/{code}").status_code == 403
            assert phone.get(f"/p/{code}", headers={"Host": "rebound.example"}).status_code == 403
        assert desk.post("/api/phones", json={"open": False}).json()["address"] is None
        with pytest.raises(httpx.ConnectError):
            httpx.get(f"https://127.0.0.1:{port}/", verify=trust)
        again = desk.post("/api/phones", json={"open": True}).json()
        assert again["fingerprint"] == state["fingerprint"]


def test_opened_many_times_at_once_it_is_opened_once_and_closes(opened: Served) -> None:
    """Six at once had opened listeners of which three went on after "closed"."""

    def listening() -> int:
        """Ports that this server's process holds on all addresses."""
        sockets = {os.readlink(link) for link in Path(f"/proc/{opened.process.pid}/fd").iterdir() if link.is_symlink()}
        rows = [line.split() for line in Path("/proc/net/tcp").read_text().splitlines()[1:]]
        return sum(row[1].startswith("00000000:") and row[3] == "0A" and f"socket:[{row[9]}]" in sockets for row in rows)

    with httpx.Client(base_url=opened.address, timeout=30) as desk:
        for _ in range(2):
            with ThreadPoolExecutor(6) as pool:
                states = list(pool.map(lambda _: desk.post("/api/phones", json={"open": True}).json(), range(6)))
            assert len({state["address"] for state in states}) == 1
            assert listening() == 1
            assert desk.post("/api/phones", json={"open": False}).json()["address"] is None
            assert listening() == 0


def test_the_code_asks_for_a_path(opened: Served) -> None:
    with httpx.Client(base_url=opened.address, timeout=30) as desk:
        desk.post("/api/phones", json={"open": True})
        plain = desk.get("/api/phones/code.png").content
        assert plain.startswith(b"\x89PNG")
        assert plain != desk.get("/api/phones/code.png?path=/showcase").content
