"""Profiles: limits of where an effect goes, as data. Two ship; others are JSON files of one's own."""

from __future__ import annotations

import json
from collections.abc import Mapping
from functools import cache
from pathlib import Path
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from sunglaze.core.errors import BadFile

FORMAT: Literal["sun-glaze/profile"] = "sun-glaze/profile"


class Profile(BaseModel):
    """Limits of where an effect goes. `bytes`: of its package; `texture_bytes` and `passes`: on a phone; `icon`: pixels of a
    side; `clip_seconds` 0: no clip is wanted."""

    model_config = ConfigDict(extra="forbid")
    format: Literal["sun-glaze/profile"] = FORMAT
    name: str = Field(min_length=1, max_length=40)
    title: str = Field(min_length=1, max_length=60)
    help: str = Field(default="", max_length=400)
    bytes: int = Field(ge=1)
    longest_name: int = Field(ge=1)
    texture_bytes: int = Field(ge=1)
    passes: int = Field(ge=1)
    longest_line: int = Field(default=80, ge=1)
    longest_how: int = Field(default=200, ge=1)
    categories: int = Field(default=4, ge=0)
    keywords: int = Field(default=20, ge=0)
    clip_seconds: float = Field(default=15.0, ge=0)
    icon: int = Field(default=128, ge=1)


@cache
def profiles() -> Mapping[str, Profile]:
    """Those that ship, by name."""
    files = sorted((Path(__file__).parent / "profiles").glob("*.json"))
    found = [Profile.model_validate_json(path.read_bytes()) for path in files]
    return {one.name: one for one in found}


def read_profile(plain: Any) -> Profile:
    """A profile of a JSON document, as bytes or as read. Raises BadFile, which names what is wrong with which field."""
    try:
        return Profile.model_validate(json.loads(plain) if isinstance(plain, str | bytes) else plain)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(one) for one in first["loc"])
        raise BadFile(f"this profile cannot be used: {where}: {first['msg'][:1].lower()}{first['msg'][1:]}") from None
    except (ValueError, RecursionError):
        raise BadFile("this is no JSON that can be read") from None
