"""Whether a process hangs: no sign of work while it had the processor. Time that it was not given, or in which whoever watches it
did not run either, does not count: a machine that stands still for ten seconds, or is starved, hangs as a whole.
"""

from __future__ import annotations

import os
from dataclasses import dataclass, field
from pathlib import Path

TICKS_A_SECOND = os.sysconf("SC_CLK_TCK")


@dataclass(frozen=True)
class Sign:
    """What is seen of a process at a time (seconds). `processor`: seconds that it has had. `wants_it`: a thread of it would run;
    `counts`: of each kind of work how far it is; none where nothing of it is to be done."""

    at: float
    processor: float
    wants_it: bool
    counts: tuple[int | None, ...]


@dataclass
class Pulse:
    """Looks at a process now and again. `patience`: seconds for each kind of work; `beat`: between two looks."""

    patience: tuple[float, ...]
    beat: float
    _last: Sign | None = None
    _silent: list[float] = field(default_factory=list)

    def hangs(self, sign: Sign) -> bool:
        """Whether some kind of work has not gone on for as long as there is patience."""
        last, self._last = self._last, sign
        if last is None:
            self._silent = [0.0] * len(self.patience)
            return False
        passed = sign.at - last.at
        share = min(1.0, (sign.processor - last.processor) / max(passed, 1e-6)) if sign.wants_it else 1.0
        # Who looks again much too late has not run meanwhile.
        counted = min(passed, 1.5 * self.beat) * share
        for n, (before, now) in enumerate(zip(last.counts, sign.counts, strict=True)):
            self._silent[n] = self._silent[n] + counted if now is not None and now == before else 0.0
        return any(silent >= most for silent, most in zip(self._silent, self.patience, strict=True))


def processor(pid: int) -> tuple[float, bool]:
    """Seconds of processor that a process has had, and whether a thread of it wants more (proc(5)). Where a system does not tell,
    it had all that it wanted."""
    try:
        threads = [_fields(one / "stat") for one in Path(f"/proc/{pid}/task").iterdir()]
        own = _fields(Path(f"/proc/{pid}/stat"))
    except (OSError, IndexError):
        return 0.0, False
    return (int(own[11]) + int(own[12])) / TICKS_A_SECOND, any(one[0] == "R" for one in threads)


def _fields(stat: Path) -> list[str]:
    """From the state on: what stands before it is a name that may hold anything."""
    return stat.read_text().rpartition(")")[2].split()
