"""The HTTP interface on a running server, its guard, and the stream's manners."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path

import cv2
import httpx
import numpy as np
import pytest
from websockets.exceptions import InvalidStatus
from websockets.sync.client import connect

from sunglaze.core.colour.cube_file import write_cube
from sunglaze.core.colour.open_lut import open_lut
from tests.grades import random_cube
from tests.server.streaming import FILL
from tests.serving import Served


def made(http: httpx.Client, layers: list[dict[str, object]] | None = None) -> dict[str, object]:
    created = http.post("/api/effects", json={"name": "Test"})
    assert created.status_code == 201
    state = created.json()
    if layers is not None:
        state["effect"]["layers"] = layers
        change = {"base": state["revision"], "gesture": "set up", "effect": state["effect"]}
        saved = http.post(f"/api/effects/{state['id']}/revisions", json=change)
        assert saved.status_code == 201
        state = saved.json()["state"]
    return dict(state)


def test_list_rename_duplicate_delete_restore(http: httpx.Client) -> None:
    one = made(http, [FILL])
    address = f"/api/effects/{one['id']}"
    assert http.post(f"{address}/name", json={"name": "Ferry"}).json()["effect"]["name"] == "Ferry"
    doubled = http.post(f"{address}/duplicate")
    assert doubled.status_code == 201
    copy = doubled.json()
    assert copy["effect"]["name"] == "Ferry copy"
    assert copy["effect"]["layers"][0]["values"]["colour"] == "#ff0000"
    assert http.delete(address).status_code == 204
    assert one["id"] not in [e["id"] for e in http.get("/api/effects").json()]
    assert http.get(address).status_code == 404
    assert http.post(f"{address}/restore").json()["effect"]["name"] == "Ferry"
    assert http.post(f"{address}/undo").json()["effect"]["name"] == "Test"


def test_bad_requests_are_answered_in_words(http: httpx.Client) -> None:
    state = made(http)
    state["effect"]["layers"] = [{**FILL, "opacity": 7}]  # type: ignore[index]
    change = {"base": state["revision"], "gesture": "x", "effect": state["effect"]}
    answer = http.post(f"/api/effects/{state['id']}/revisions", json=change)
    assert answer.status_code == 422
    assert "opacity" in answer.json()["message"]
    assert http.get("/api/effects/none").json()["message"].startswith("there is no effect")
    assert http.get("/api/nothing").status_code == 404
    assert http.get("/api/neutral?size=500&layout=strip").status_code == 422
    assert http.get("/api/neutral?size=17&layout=hald").json()["message"].startswith("the hald layout takes")


@pytest.mark.parametrize(("layout", "bits"), [("strip", 8), ("grid", 16), ("hald", 16), ("cube", 16)])
def test_neutral_lookups_are_handed_out(http: httpx.Client, layout: str, bits: int) -> None:
    answer = http.get(f"/api/neutral?size=16&layout={layout}&bits={bits}")
    found = open_lut(answer.content)
    assert found.inspection.largest_shift < 0.5 / 255 + 1e-6
    assert "attachment" in answer.headers["content-disposition"]


def test_lookups_are_inspected_and_given_back(http: httpx.Client) -> None:
    data = write_cube(random_cube(0, 9))
    asset = http.post("/api/lookups", files={"file": ("tide.cube", data)}).json()
    assert (asset["name"], asset["lookup"]["size"], asset["lookup"]["damaged"]) == ("tide.cube", 9, True)
    assert http.get(f"/api/assets/{asset['hash']}/file").content == data
    values = {"lookup": {"asset": asset["hash"]}, "strength": 0}
    layer = {"id": "g", "name": "Grade", "kind": "lookup-grade", "values": values}
    judged = http.post("/api/layers/judging", json=layer).json()
    assert max(tone["difference"] for tone in judged["tones"]) < 0.01
    assert len(judged["cloud"]) == 216
    assert http.post("/api/layers/judging", json={**layer, "kind": "blur", "values": {}}).json() is None
    lost = {**layer, "values": {"lookup": {"asset": "0" * 64}}}
    assert http.post("/api/layers/judging", json=lost).status_code == 404


def test_publishing_weighs_and_unpacks(http: httpx.Client) -> None:
    package = http.post(f"/api/effects/{made(http, [FILL])['id']}/publish").json()
    data = http.get(f"/api/packages/{package['code']}/download").content
    assert package["weight"] == len(data) == sum(piece["bytes"] for piece in package["pieces"])
    names = zipfile.ZipFile(io.BytesIO(data)).namelist()
    assert {"manifest.json", "program.json", "effect.json", "icon.png"} <= set(names)
    program = http.get(f"/api/packages/{package['code']}/files/program.json").json()
    assert program["format"] == "sun-glaze/program"
    assert http.get(f"/api/packages/{package['code']}/files/../../x").status_code in (404, 422)
    assert http.delete(f"/api/packages/{package['code']}").status_code == 204
    assert http.get(f"/api/packages/{package['code']}").status_code == 404
    # Nor are its versions seen by their numbers.
    assert http.get(f"/api/packages/{package['code']}/files/program.json?number=1").status_code == 404
    assert http.get(f"/api/packages/{package['code']}/download?number=1").status_code == 404


def test_other_origins_and_foreign_hosts_are_refused(http: httpx.Client, served: Served) -> None:
    assert http.get("/api/effects", headers={"Host": "evil.example"}).status_code == 403
    assert http.post("/api/effects", json={}, headers={"Origin": "http://evil.example"}).status_code == 403
    assert http.get("/api/effects", headers={"Origin": "null"}).status_code == 403
    assert http.get("/api/effects", headers={"Origin": served.address}).status_code == 200
    with pytest.raises(InvalidStatus):
        connect(served.address.replace("http", "ws") + "/api/stream", origin="http://evil.example")  # type: ignore[arg-type]


def test_it_listens_on_this_machine_only(served: Served) -> None:
    port = int(served.address.rsplit(":", 1)[1])
    listening = Path("/proc/net/tcp").read_text() + Path("/proc/net/tcp6").read_text()
    hosts = {row.split()[1].split(":")[0] for row in listening.splitlines() if f":{port:04X} " in row and " 0A " in row}
    assert hosts == {"0100007F"}


def test_the_catalogue_icons_and_checks(http: httpx.Client) -> None:
    catalogue = http.get("/api/catalogue").json()
    assert len(catalogue["nodes"]) > 150
    vignette = next(kind for kind in catalogue["layers"] if kind["kind"] == "vignette")
    assert [c["title"] for c in vignette["controls"]] == ["Amount", "Starts at", "Full strength at", "Middle", "Colour"]
    for path in ("layers/vignette", "layers/trails", "nodes/circle", "nodes/polar", "nodes/region", "nodes/count"):
        icon = cv2.imdecode(np.frombuffer(http.get(f"/api/{path}/icon").content, np.uint8), cv2.IMREAD_COLOR)
        assert icon is not None
        assert icon.shape == (90, 90, 3)
    assert http.get("/api/layers/sunbeams/icon").status_code == 404
    faulty = {"nodes": [{"id": "a", "kind": "add"}], "wires": [{"from": "a.out", "to": "a.a"}], "result": "a.out"}
    assert "wait for each other" in http.post("/api/recipes/check", json=faulty).json()[0]["message"]


def test_a_program_for_the_gpu(http: httpx.Client) -> None:
    layer = {"id": "v", "name": "v", "kind": "vignette", "blend": "multiply"}
    effect = {"format": "sun-glaze/effect", "version": 2, "name": "t", "layers": [layer]}
    one = http.post("/api/programs", json=effect).json()
    other = http.post("/api/programs", json={**effect, "layers": [{**layer, "values": {"amount": 0.2}}]}).json()
    assert one["key"] == other["key"]
    assert (one["program"]["uniforms"]["v.amount"], other["program"]["uniforms"]["v.amount"]) == (0.6, 0.2)
    broken = {**layer, "kind": "own", "recipe": {"nodes": [], "result": None}}
    refused = http.post("/api/programs", json={**effect, "layers": [broken]})
    assert refused.status_code == 422
    assert "no result" in refused.json()["message"]
