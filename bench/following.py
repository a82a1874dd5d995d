"""Face follow's four figures, over every script, screen and performer of the stand-in, each control as it is by default."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from sunglaze.core.camera.cameras import SCREENS, screen_size
from sunglaze.core.camera.cast import SCRIPTS, Sitting, StandIn
from sunglaze.core.camera.people import PEOPLE
from sunglaze.core.moment.moment import Clock, Reads
from tests.core.test_following import PLACE, SIZE, follower, outside, run, steps


def measure() -> list[str]:
    lines = [
        "| screen | frames | outside | off its place | size | held by the border | largest step |",
        "|---|---|---|---|---|---|---|",
    ]
    program = follower()
    for screen in SCREENS:
        rows_all, away_all, sizes, free, largest, worst = 0, [0.0], [0.0], 0, [0.0], -1.0
        for who in PEOPLE:
            for script in SCRIPTS:
                camera = StandIn(*screen_size(screen, 540), Sitting(who, script))
                count = max(120, camera.length if script != "still" else 0)
                moments = [
                    replace(camera.moment(n % camera.length, Reads(False, (), True)), clock=Clock.at(n)) for n in range(count)
                ]
                rows = run(program, moments)
                tall = camera.height / camera.width
                rows_all += len(rows)
                worst = max(worst, outside(rows))
                largest += [float(one) for one in steps(rows, tall)]
                for row, seen in zip(rows, moments, strict=True):
                    if not seen.faces or row[3] > 0.5 or row[4] < 0.9999:
                        continue
                    free += 1
                    (u, v), zoom = seen.faces[0].place, row[2]
                    away = abs((u - row[0]) * zoom + 0.5 - PLACE[0]) / tall, abs((v - row[1]) * zoom + 0.5 - PLACE[1])
                    away_all.append(max(away))
                    if 1.0001 < zoom < 11.99:
                        sizes.append(abs(seen.faces[0].size * zoom / SIZE - 1))
        lines.append(
            f"| {screen} | {rows_all} | {max(worst, 0.0) * 100:.3f} % | {max(away_all) * 100:.2f} % of the height "
            f"| {max(sizes) * 100:.1f} % | {100 - 100 * free / rows_all:.0f} % | {np.max(largest) * 100:.1f} % of the width |"
        )
    lines += [
        "",
        "Off its place and size: while the border does not hold it. The largest step is of the stand-in's own going near and",
        "far; that of coming and going is held below 4 % by tests/core/test_following.py.",
    ]
    return lines
