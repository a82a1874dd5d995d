"""What tests of the server share."""

from __future__ import annotations

import httpx
import pytest

from tests.serving import Served


@pytest.fixture
def http(served: Served) -> httpx.Client:
    return httpx.Client(base_url=served.address, timeout=120)
