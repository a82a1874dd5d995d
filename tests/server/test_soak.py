"""Twenty minutes in which everybody works at once and things go wrong (tests/soak)."""

from __future__ import annotations

import subprocess
import sys

import pytest


@pytest.mark.slow
@pytest.mark.timeout(2400)
def test_nothing_is_lost_nothing_waits_and_nothing_grows() -> None:
    done = subprocess.run(
        [sys.executable, "-m", "tests.soak", "--minutes", "20", "--alone"], capture_output=True, text=True, timeout=2300
    )
    assert done.returncode == 0, done.stdout[-4000:] + done.stderr[-2000:]
    assert "lost of them: 0" in done.stdout
