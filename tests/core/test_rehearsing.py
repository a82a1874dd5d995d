"""What is done while someone plays, kept by frame: cases by hand, of which each says what is seen from frame to frame."""

from __future__ import annotations

from dataclasses import replace

import pytest

from sunglaze.core.errors import BadFile
from sunglaze.core.moment import rehearsal
from sunglaze.core.moment.moment import Clock, Moment, Touch
from sunglaze.core.moment.rehearsal import Finger, Recorder, Rehearsal, Step, read_rehearsal, write_rehearsal

DOWN, UP = Finger(down=True, u=0.25, v=0.75), Finger(down=False, u=0.25, v=0.75)


def seen(rehearsal: Rehearsal, frame: int, **dials: float) -> Moment:
    return rehearsal.at(Moment(clock=replace(Clock.at(frame), seed=99), dials=dials))


def test_a_finger_is_where_it_was_put_until_it_is_put_elsewhere() -> None:
    recorder = Recorder()
    recorder.record(3, DOWN)
    recorder.record(5, UP)
    made = recorder.made(40)
    assert [seen(made, n).touch.down for n in range(8)] == [False, False, False, True, True, False, False, False]
    assert [seen(made, n).touch.taps for n in (0, 2, 3, 7)] == [0, 0, 1, 1]
    assert (seen(made, 4).touch.u, seen(made, 4).touch.v) == (0.25, 0.75)
    assert seen(made, 2).touch == Touch()
    assert (made.frames, recorder.made().frames) == (40, 0)


def test_down_and_up_within_a_frame_are_two_frames() -> None:
    recorder = Recorder()
    recorder.record(3, DOWN)
    recorder.record(3, UP)
    assert [(one.frame, one.touch.down) for one in recorder.made().steps if one.touch] == [(3, True), (4, False)]
    # A tap that follows at once comes behind that.
    recorder.record(3, DOWN)
    assert recorder.made().steps[-1].frame == 5
    assert seen(recorder.made(), 6).touch.taps == 2


def test_a_finger_that_only_moves_within_a_frame_is_where_it_came_to() -> None:
    recorder = Recorder()
    recorder.record(3, DOWN)
    recorder.record(3, Finger(down=True, u=0.5, v=0.5))
    recorder.record(2, Finger(down=True, u=0.6, v=0.5))
    (step,) = recorder.made().steps
    assert step.touch is not None
    assert (step.frame, step.touch.u) == (3, 0.6)


def test_what_is_done_within_a_frame_adds_up() -> None:
    recorder = Recorder()
    recorder.record(7, cue="tide", dials={"glow": 0.2})
    recorder.record(7, cue="bell", dials={"glow": 0.4, "haze": 0.1})
    recorder.record(7, DOWN)
    made = recorder.made()
    (step,) = made.steps
    assert (step.frame, step.cues, step.dials, step.touch) == (7, ("tide", "bell"), {"glow": 0.4, "haze": 0.1}, DOWN)
    # What is no touch leaves the finger where it is, though it comes late.
    recorder.record(6, cue="gull")
    (step,) = recorder.made().steps
    assert (step.cues, step.touch) == (("tide", "bell", "gull"), DOWN)
    # Cues are of their frame alone, dials stay, also beside those that stand elsewhere.
    assert [seen(made, n).cues for n in (6, 7, 8)] == [(), ("tide", "bell"), ()]
    assert [seen(made, n, glow=0.9, more=1.0).dials["glow"] for n in (6, 7, 300)] == [0.9, 0.4, 0.4]
    assert seen(made, 300, more=1.0).dials == {"glow": 0.4, "haze": 0.1, "more": 1.0}


def test_a_clock_that_goes_back_forgets_what_was_after_it() -> None:
    recorder = Recorder()
    recorder.rewind(0)
    assert recorder.made() == Rehearsal()
    assert Rehearsal().frames == 0
    for frame in (2, 5, 9):
        recorder.record(frame, cue=f"at-{frame}")
    recorder.rewind(9)
    assert len(recorder.made().steps) == 3
    recorder.rewind(5)
    assert [one.frame for one in recorder.made().steps] == [2, 5]
    recorder.record(6, cue="anew")
    assert [one.cues for one in recorder.made().steps] == [("at-2",), ("at-5",), ("anew",)]
    recorder.rewind(0)
    assert recorder.made().steps == ()


def test_the_dice_are_the_rehearsal_s_own() -> None:
    assert seen(Rehearsal(seed=5), 0).clock.seed == 5


def test_a_finger_is_on_the_screen() -> None:
    for u in (-0.01, 1.01, float("nan"), float("inf")):
        with pytest.raises(ValueError, match="u"):
            Finger(down=True, u=u)
    assert (Finger(down=True).u, Finger(down=True, v=1.0).v, Finger(down=True, u=0.0).u) == (0.5, 1.0, 0.0)
    assert Finger(down=True).scale == 1.0
    with pytest.raises(ValueError, match="scale"):
        Finger(down=True, scale=0.0)


def test_steps_follow_each_other() -> None:
    with pytest.raises(BadFile, match="frame 4"):
        read_rehearsal('{"format": "sun-glaze/rehearsal", "version": 2, "steps": [{"frame": 4}, {"frame": 4}]}')
    made = Rehearsal(steps=(Step(frame=4, touch=DOWN), Step(frame=5)), frames=9, seed=3)
    assert read_rehearsal(write_rehearsal(made)) == made


def test_the_longest_play_keeps_its_last_hundred_thousand_steps(monkeypatch: pytest.MonkeyPatch) -> None:
    """As docs/formats.md has it; a recorder that is full lets the first step go."""
    steps = tuple(Step(frame=n) for n in range(100_001))
    assert len(Rehearsal(steps=steps[1:]).steps) == 100_000
    with pytest.raises(ValueError, match="100000"):
        Rehearsal(steps=steps)
    monkeypatch.setattr(rehearsal, "MOST_STEPS", 3)
    recorder = Recorder()
    for frame in range(5):
        recorder.record(frame, cue=f"at-{frame}")
    assert [one.frame for one in recorder.made().steps] == [2, 3, 4]
