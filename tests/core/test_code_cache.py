"""Object code on disk: used by who comes later, never where it is damaged or of another maker, bounded, this user's alone."""

from __future__ import annotations

import os
import shutil
from pathlib import Path

import numpy as np
import pytest
from cachetools import LRUCache

from sunglaze.core.engine import code_cache, kernel
from sunglaze.core.engine.code_cache import CodeCache, kept_code
from sunglaze.core.language.pictures import CAMERA, near
from sunglaze.core.language.vector import Vec
from sunglaze.core.passes.planning import Sweep
from sunglaze.core.passes.program import Program
from sunglaze.core.targets.memory import blank, memory


@pytest.fixture
def folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """The folder that this process keeps its code in, with none of its kernels in memory."""
    monkeypatch.setenv(code_cache.VARIABLE, str(tmp_path / "code"))
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
    again.run([(camera, 6)], out, (6, 4), np.zeros(1, np.int32), [])
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
    monkeypatch.setattr(code_cache, "_maker", lambda: b"elsewhere")
    forget()
    assert kernel.kernel(sweep(), "bytes", quick=True).quick


def test_a_full_folder_lets_go_of_what_was_not_used_for_longest(tmp_path: Path) -> None:
    cache = CodeCache(tmp_path, most_bytes=10_000)
    for number in range(9):
        cache.write(f"k{number}", bytes([number]) * 1000)
        os.utime(cache.path(f"k{number}"), (1_000_000 + number,) * 2)
    assert cache.read("k0") == bytes(1000)  # noted as used now
    cache.write("k9", bytes([9]) * 1000)
    left = {number for number in range(10) if cache.path(f"k{number}").exists()}
    assert {0, 9} <= left
    assert left == {0, *range(10 - len(left) + 1, 10)}
    assert sum(one.stat().st_size for one in entries(tmp_path)) <= 8000


def test_the_folder_is_this_users_alone(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "open").mkdir(mode=0o755)
    CodeCache(tmp_path / "open")
    CodeCache(tmp_path / "new" / "code")
    assert [(tmp_path / name).stat().st_mode & 0o777 for name in ("open", "new/code")] == [0o700, 0o700]
    monkeypatch.setattr(os, "geteuid", lambda: os.getuid() + 1)
    with pytest.raises(PermissionError):
        CodeCache(tmp_path / "open")


def test_where_nothing_can_be_kept_all_goes_on(folder: Path) -> None:
    """As on a full disk: here the folder is gone."""
    kernel.kernel(sweep(), "bytes")
    shutil.rmtree(folder)
    folder.write_text("no folder")
    forget()
    assert not kernel.kernel(sweep(), "bytes").quick
    assert kept_code("name", lambda: b"made") == b"made"
