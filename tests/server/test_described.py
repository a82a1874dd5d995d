"""The interface against its own description: schemathesis makes requests from it, good and odd. None may end in a server error,
or in an answer that the description does not name."""

from __future__ import annotations

import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from tests.serving import serve

SECONDS = 40
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


@pytest.mark.timeout(300)
def test_no_request_ends_in_a_server_error_or_an_undescribed_answer(tmp_path: Path, seeded: Path) -> None:
    shutil.copytree(seeded, tmp_path / "data")
    running = serve(tmp_path / "data")
    (tmp_path / "schemathesis.toml").write_text(CONFIG)
    try:
        command = [Path(sys.executable).parent / "schemathesis", "--config-file", tmp_path / "schemathesis.toml", "run"]
        command += [f"{running.address}/api/openapi.json", "--max-time", str(SECONDS), "--max-examples", "25", "--seed", "5"]
        command += ["--checks", "not_a_server_error,status_code_conformance,content_type_conformance"]
        # Opening to the network is tried in test_phones.py; here it would listen on all addresses.
        command += ["--exclude-path", "/api/phones", "--no-color", "--suppress-health-check", "all", "--warnings", "off"]
        ended = subprocess.run(command, capture_output=True, text=True, cwd=tmp_path, timeout=240)
    finally:
        running.stop()
    assert ended.returncode == 0, ended.stdout[-4000:]
    tried = [line for line in ended.stdout.splitlines() if "generated" in line]
    assert tried, ended.stdout
    assert int(tried[0].split()[0]) > 500, tried
