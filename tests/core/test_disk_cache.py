"""What is kept on disk: bounded, this user's alone."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from sunglaze.core.disk_cache import DiskCache


def test_a_full_folder_lets_go_of_what_was_not_used_for_longest(tmp_path: Path) -> None:
    cache = DiskCache(tmp_path, 10_000)
    for number in range(9):
        cache.write(f"k{number}", bytes([number]) * 1000)
        os.utime(cache.path(f"k{number}"), (1_000_000 + number,) * 2)
    assert cache.read("k0") == bytes(1000)  # noted as used now
    cache.write("k9", bytes([9]) * 1000)
    left = {number for number in range(10) if cache.path(f"k{number}").exists()}
    assert {0, 9} <= left
    assert left == {0, *range(10 - len(left) + 1, 10)}
    assert sum(one.stat().st_size for one in tmp_path.iterdir()) <= 8000


def test_the_folder_is_this_users_alone(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "open").mkdir(mode=0o755)
    DiskCache(tmp_path / "open", 100)
    DiskCache(tmp_path / "new" / "code", 100)
    assert [(tmp_path / name).stat().st_mode & 0o777 for name in ("open", "new/code")] == [0o700, 0o700]
    monkeypatch.setattr(os, "geteuid", lambda: os.getuid() + 1)
    with pytest.raises(PermissionError):
        DiskCache(tmp_path / "open", 100)
