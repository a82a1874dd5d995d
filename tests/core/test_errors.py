"""Errors that go from process to process. The outside is Python's pickle, by which all of them travel."""

from __future__ import annotations

import pickle

import pytest

from sunglaze.core.effect.recipe import BadRecipe, Fault
from sunglaze.core.errors import BadEffect, BadFile, GlazeError, Unfit

ERRORS = [
    GlazeError("it does not fit"),
    BadFile("no number", 7),
    BadEffect("no such layer", "l"),
    Unfit("it cannot be computed", "m"),
    BadRecipe([Fault(node="b", message="no such kind"), Fault(node="c", message="no wire")], "l", "Fog"),
]


@pytest.mark.parametrize("error", ERRORS, ids=lambda one: type(one).__name__)
def test_an_error_arrives_as_it_left(error: GlazeError) -> None:
    again = pickle.loads(pickle.dumps(error))
    assert (type(again), str(again), again.args, vars(again)) == (type(error), str(error), error.args, vars(error))
