"""Who asks without a key: how much of what is open to all, and what is counted of it."""

from __future__ import annotations

import asyncio
import ssl
import threading
import time
from pathlib import Path
from typing import Any

import httpx
import pytest
import uvicorn

from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.literals import Material
from sunglaze.core.package.archive import write_package
from sunglaze.server.app import create_app
from sunglaze.server.counting import Counts
from sunglaze.server.keys import COOKIE
from sunglaze.server.phones import certificate
from sunglaze.server.serving import bound, configured
from sunglaze.server.visitors import MOST_AT_ONCE, MOST_COUNTS, MOST_WAITING, Visitors
from sunglaze.store import effects, publishing
from sunglaze.store.database import open_database, writing
from tests.coroutines import finished
from tests.layers import fill


def asked(path: str, method: str = "GET", client: str = "192.168.1.9") -> dict[str, Any]:
    return {"type": "http", "method": method, "path": path, "query_string": b"", "headers": [], "client": (client, 4000)}


def statuses(requests: list[dict[str, Any]]) -> tuple[list[int], int]:
    """What a server that takes a moment for each answers to requests that come at once, and how many it had at a time."""

    async def all_of_them() -> tuple[list[int], int]:
        at_once, most, answered = 0, 0, list[int]()

        async def slow(scope: Any, receive: Any, send: Any) -> None:
            nonlocal at_once, most
            at_once += 1
            most = max(most, at_once)
            await asyncio.sleep(0.01)
            at_once -= 1
            await send({"type": "http.response.start", "status": 200, "headers": []})

        async def receive() -> dict[str, Any]:
            return {"type": "http.request"}

        async def send(message: Any) -> None:
            if message["type"] == "http.response.start":
                answered.append(message["status"])

        visitors = Visitors()
        await asyncio.gather(*[visitors.admit(slow, one, receive, send) for one in requests])
        return answered, most

    return finished(all_of_them())


def test_a_few_pictures_of_the_camera_are_made_at_once_and_too_many_are_refused() -> None:
    """Sixty requests had taken the processors for half a minute."""
    answered, most = statuses([asked(f"/api/camera/frames/{n}.jpg") for n in range(60)])
    assert most == MOST_AT_ONCE
    assert (answered.count(200), answered.count(503)) == (MOST_AT_ONCE + MOST_WAITING, 60 - MOST_AT_ONCE - MOST_WAITING)
    # What costs nothing waits for none of them.
    assert statuses([asked("/api/showcase") for _ in range(60)]) == ([200] * 60, 60)


def test_who_comes_by_the_phones_listener_waits_once() -> None:
    """An application that is bound to a network asks for the key behind it: both had taken one of four places each."""

    async def all_of_them() -> list[int]:
        visitors, answered = Visitors(), list[int]()

        async def page(scope: Any, receive: Any, send: Any) -> None:
            await asyncio.sleep(0.01)
            answered.append(200)

        async def keyed(scope: Any, receive: Any, send: Any) -> None:
            await visitors.admit(page, scope, receive, send)

        async def nothing(*_: Any) -> dict[str, Any]:
            return {}

        one_by_one = [visitors.admit(keyed, asked(f"/api/camera/frames/{n}.jpg"), nothing, nothing) for n in range(12)]
        await asyncio.wait_for(asyncio.gather(*one_by_one), 60)
        return answered

    assert finished(all_of_them()) == [200] * 12


def test_one_address_counts_so_often_and_others_go_on() -> None:
    path = "/api/packages/abcde/count/opens"
    one = [asked(path, "POST") for _ in range(MOST_COUNTS + 5)]
    other = [asked(path, "POST", "192.168.1.10") for _ in range(3)]
    answered, _ = statuses(one + other)
    assert (answered.count(200), answered.count(429)) == (MOST_COUNTS + 3, 5)


def test_counts_are_written_together_and_none_is_lost(tmp_path: Path) -> None:
    sessions = open_database(tmp_path)
    with writing(sessions).begin() as session:
        kept = effects.create(session, Effect(name="Pier", layers=[fill("a")]))
        code = publishing.publish(session, kept, write_package(kept.effect, Material()), None).code
    begun = 0

    class Watched:
        def begin(self) -> Any:
            nonlocal begun
            begun += 1
            return writing(sessions).begin()

    async def count() -> None:
        counts = Counts(Watched())  # type: ignore[arg-type]
        for _ in range(200):
            counts.add(code, "opens")
            counts.add("gone1", "tries")
        await counts.shut()

    finished(count())
    with sessions() as session:
        row = publishing.publication(session, code)
        assert (row.opens, row.tries, begun) == (200, 0, 1)


def test_a_network_is_answered_by_https_alone_and_its_cookies_go_no_other_way(tmp_path: Path) -> None:
    app = create_app(tmp_path, "0.0.0.0")
    known = certificate(tmp_path, ("127.0.0.1",))
    listening = bound("127.0.0.1", 0)
    server = uvicorn.Server(configured(app, known.path))
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listening]}, daemon=True)
    thread.start()
    address = f"127.0.0.1:{listening.getsockname()[1]}"
    try:
        until = time.monotonic() + 60
        while not server.started:
            assert time.monotonic() < until
            time.sleep(0.02)
        trust = ssl.create_default_context(cafile=known.path)
        with httpx.Client(base_url=f"https://{address}", verify=trust, timeout=60) as http:
            let_in = http.get(f"/?key={app.state.keys.key}")
            assert let_in.status_code == 303
            assert "Secure" in let_in.headers["set-cookie"]
            assert http.cookies[COOKIE]
            assert http.get("/api/effects").json() == []
        with pytest.raises(httpx.TransportError):
            httpx.get(f"http://{address}/showcase", timeout=60)
    finally:
        server.should_exit = True
        thread.join(60)
    assert not thread.is_alive()
