"""Object code on disk: used by who comes later, never where it is damaged or of another maker."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np
import pytest
from cachetools import LRUCache

from sunglaze.core.disk_cache import CODE
from sunglaze.core.engine import code_cache, kernel
from sunglaze.core.engine.code_cache import code_name, kept_code
from sunglaze.core.engine.machine import Run
from sunglaze.core.language.pictures import CAMERA, near
from sunglaze.core.language.vector import Vec
from sunglaze.core.passes.planning import Sweep
from sunglaze.core.passes.program import Program
from sunglaze.core.targets.memory import blank, memory


@pytest.fixture
def folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """The folder that this process keeps its code in, with none of its kernels in memory."""
    monkeypatch.setenv(CODE, str(tmp_path / "code"))
    monkeypatch.setattr(kernel, "_cache", LRUCache(kernel.KEPT_BYTES, getsizeof=lambda made: made.bytes))
    return tmp_path / "code"


def sweep(factor: float = 0.5) -> Sweep:
    return Program((Vec(*(near(CAMERA, c) * factor for c in range(3))),)).plan.passes[0]


def forget() -> None:
    """As in a process that has just been started."""
    kernel._cache.clear()


def entries(folder: Path) -> list[Path]:
    return sorted(folder.iterdir())


def test_what_was_compiled_once_is_there_at_once_for_the_next_process(folder: Path) -> None:
    kernel.kernel(sweep(), "bytes")
    assert len(entries(folder)) == 1
    forget()
    again = kernel.kernel(sweep(), "bytes", quick=True)
    assert not again.quick
    camera, out = blank(4, 6), memory((4, blank(1, 6).shape[1]), np.uint32)
    camera[:] = 0x00C8_6432
    again.run(Run(again.operands([(camera, 6)], [], out.shape[-1]), out, np.zeros(1, np.int32), (6, 4)))
    assert out.view(np.uint8).reshape(4, -1, 4)[:, :6, 2::-1].reshape(-1, 3).tolist() == [[25, 50, 100]] * 24
    # Another pass, and the same for another format, are others.
    assert kernel.kernel(sweep(0.25), "bytes", quick=True).quick
    assert kernel.kernel(sweep(), "floats", quick=True).quick


def test_code_from_the_optimising_process_is_kept(folder: Path) -> None:
    from sunglaze.core.engine.machine import machine_code

    kernel.put_optimised(sweep(), "bytes", machine_code(kernel.text_to_optimise(sweep(), "bytes")))
    forget()
    assert not kernel.kernel(sweep(), "bytes", quick=True).quick


@pytest.mark.parametrize(
    "damage", [lambda data: data[:-1], lambda data: data[:40] + bytes([data[40] ^ 1]) + data[41:], lambda data: b""]
)
def test_damaged_code_is_not_loaded_and_made_anew(folder: Path, damage: object) -> None:
    kernel.kernel(sweep(), "bytes")
    (entry,) = entries(folder)
    whole = entry.read_bytes()
    entry.write_bytes(damage(whole))  # type: ignore[operator]
    forget()
    assert kernel.kernel(sweep(), "bytes", quick=True).quick
    assert entries(folder) == []
    forget()
    kernel.kernel(sweep(), "bytes")
    assert entry.read_bytes() == whole


def test_code_of_another_processor_or_version_is_another_entry(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    kernel.kernel(sweep(), "bytes")
    monkeypatch.setattr(code_cache, "_maker", lambda: "elsewhere")
    forget()
    assert kernel.kernel(sweep(), "bytes", quick=True).quick


def test_where_nothing_can_be_kept_all_goes_on(folder: Path) -> None:
    """As on a full disk: here the folder is gone."""
    kernel.kernel(sweep(), "bytes")
    shutil.rmtree(folder)
    folder.write_text("no folder")
    forget()
    assert not kernel.kernel(sweep(), "bytes").quick
    assert kept_code(code_name("something"), lambda: b"made") == b"made"
