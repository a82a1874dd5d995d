"""The interface against its own description: schemathesis makes requests from it, good and odd. None may end in a server error,
or in an answer that the description does not name."""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from tests.serving import serve

CONFIG = """
# Other tests run beside this one; what hangs ends in an error all the same.
request-timeout = 90

[parameters]
"path.effect_id" = ["demo-low-tide", "demo-storm-warning"]
"path.revision" = [1, 2, 3]
"path.kind" = ["vignette", "blur", "mix"]
"path.who" = ["beekeeper", "nobody"]
"path.region" = ["person", "hair"]
"path.number" = [0, 7]

# 503 is described: a preview that takes too long on a busy machine is left out, in words.
[checks.not_a_server_error]
expected-statuses = ["2xx", "3xx", "4xx", 503]
"""


@pytest.mark.timeout(900)
@pytest.mark.parametrize(("examples", "seconds"), [(1, 5), pytest.param(6, 20, marks=pytest.mark.slow)])
def test_no_request_ends_in_a_server_error_or_an_undescribed_answer(
    tmp_path: Path, seeded: Path, examples: int, seconds: int
) -> None:
    """`examples`: requests to each operation. `seconds`: for odd ones at the edges of what is described: there are tens of
    thousands."""
    shutil.copytree(seeded, tmp_path / "data")
    running = serve(tmp_path / "data")
    (tmp_path / "schemathesis.toml").write_text(CONFIG)
    command = [Path(sys.executable).parent / "schemathesis", "--config-file", tmp_path / "schemathesis.toml", "run"]
    command += [f"{running.address}/api/openapi.json", "--seed", "5", "--no-color", "--suppress-health-check", "all"]
    command += ["--checks", "not_a_server_error,status_code_conformance,content_type_conformance", "--warnings", "off"]
    # Opening to the network is tried in test_phones.py; here it would listen on all addresses.
    command += ["--exclude-path", "/api/phones"]
    phases = [
        ["--phases", "fuzzing,stateful" if examples > 1 else "fuzzing", "--max-examples", str(examples)],
        ["--phases", "coverage", "--max-time", str(seconds)],
    ]
    try:
        each, odd = (
            subprocess.run([*command, *phase], capture_output=True, text=True, cwd=tmp_path, timeout=400) for phase in phases
        )
    finally:
        running.stop()
    assert each.returncode == 0, each.stdout[-4000:]
    assert odd.returncode == 0, odd.stdout[-4000:]
    numbers = {name: int(count) for name, count in re.findall(r"^ *(Selected|Tested): +(\d+)", each.stdout, re.MULTILINE)}
    generated = re.search(r"(\d+) generated", each.stdout)
    assert numbers["Tested"] == numbers["Selected"] > 90, each.stdout[-4000:]
    assert generated is not None
    assert int(generated[1]) > examples / 2 * numbers["Tested"], "some have few requests that differ"
