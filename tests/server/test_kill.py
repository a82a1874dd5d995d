"""The server is killed in the middle of saves: nothing that it had acknowledged may be lost."""

from __future__ import annotations

import threading
import time
from pathlib import Path

import httpx
import pytest

from tests.serving import serve


def test_ending_it_while_it_still_starts_says_nothing(tmp_path: Path) -> None:
    """The processes that read files were being started: ending them then left fifty lines of traceback."""
    with (tmp_path / "log").open("w") as log:
        running = serve(tmp_path / "data", log=log)
        running.stop()
    assert running.process.returncode in (0, -15)
    assert (tmp_path / "log").read_text() == ""


@pytest.mark.parametrize("attempts", [1, pytest.param(3, marks=pytest.mark.slow)])
def test_kill_in_the_middle_of_saves(tmp_path: Path, attempts: int) -> None:
    for attempt in range(attempts):
        running = serve(tmp_path)
        acknowledged: list[tuple[str, int, str]] = []

        def save(address: str, log: list[tuple[str, int, str]]) -> None:
            try:
                with httpx.Client(base_url=address, timeout=30) as http:
                    state = http.post("/api/effects", json={}).json()
                    for n in range(10_000):
                        state["effect"]["name"] = f"save {n}"
                        change = {"base": state["revision"], "gesture": f"{n}", "effect": state["effect"]}
                        state = http.post(f"/api/effects/{state['id']}/revisions", json=change).json()["state"]
                        log.append((state["id"], state["revision"], state["effect"]["name"]))
            except (httpx.TransportError, KeyError):
                return

        threads = [threading.Thread(target=save, args=(running.address, acknowledged)) for _ in range(3)]
        for thread in threads:
            thread.start()
        deadline = time.monotonic() + 20
        while len(acknowledged) < 30 * (attempt + 1) and time.monotonic() < deadline:
            time.sleep(0.002)
        running.process.kill()
        running.process.wait()
        for thread in threads:
            thread.join()

        assert len(acknowledged) >= 10
        again = serve(tmp_path)
        try:
            with httpx.Client(base_url=again.address, timeout=60) as http:
                last = {effect: (revision, name) for effect, revision, name in acknowledged}
                for effect, (revision, name) in last.items():
                    found = http.get(f"/api/effects/{effect}").json()
                    # A save may have been kept whose answer never arrived; never the other way round.
                    assert found["revision"] >= revision
                    assert int(found["effect"]["name"].split()[1]) >= int(name.split()[1])
        finally:
            again.stop()
