"""What `sunglaze realism` says of frames, of errors that are known (by construction)."""

from __future__ import annotations

from typing import Any

from sunglaze.realism import Seen, report


def seen(turned: float, eyes: float | None, **more: Any) -> Seen:
    usual: dict[str, Any] = {"who": "lamp-tender", "light": "noon", "script": "talk", "number": 0, "overlap": 0.9}
    return Seen(turned=turned, eyes=eyes, points=eyes, **(usual | more))


def rows(*frames: Seen) -> dict[str, list[str]]:
    table = [[cell.strip() for cell in line.strip("|").split("|")] for line in report(list(frames)).splitlines()]
    return {row[0]: row[1:] for row in table}


def test_medians_are_told_over_all_by_who_by_light_and_by_how_far_heads_are_turned() -> None:
    found = rows(seen(3, 0.01), seen(12, 0.02), seen(30, 0.04, light="dusk"), seen(24, 0.06, who="ferry-pilot", overlap=0.7))
    assert found["all"] == ["4", "100 %", "3.0 %", "3.0 %", "0.900"]
    assert found["Lamp tender"][2] == "2.0 %"
    assert found["Ferry pilot"] == ["1", "100 %", "6.0 %", "6.0 %", "0.700"]
    assert found["Dusk"][2] == "4.0 %"
    assert found["Turned by up to 18 degrees"][:3] == ["2", "100 %", "1.5 %"]
    assert found["Farther"][:3] == ["2", "100 %", "5.0 %"]


def test_what_is_not_found_counts_where_a_face_is_to_be_seen_and_nowhere_else() -> None:
    found = rows(seen(5, 0.02), seen(5, None), seen(50, None))
    assert found["all"][:3] == ["3", "50 %", "2.0 %"]
    assert "Ferry pilot" not in found
    assert found["Farther"][1:4] == ["0 %", "none", "none"]
