"""The command line as a shell user meets it."""

from __future__ import annotations

import json
import shutil
import subprocess
import sys
from pathlib import Path
from typing import get_type_hints

import cv2
import numpy as np
import pytest

from sunglaze.cli.proof import proof
from sunglaze.core.colour.cube_file import read_cube, write_cube
from sunglaze.core.colour.lut_picture import read_lut_picture, write_lut_picture
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.references import LookupRef
from sunglaze.core.engine.grade import apply_lut
from sunglaze.core.material.files import encode_png
from sunglaze.core.package.archive import write_package
from sunglaze.core.proof.sheet import PRESETS
from tests.grades import sample_picture, smooth_grade
from tests.layers import grade
from tests.shell import sunglaze

GRADE = smooth_grade(np.random.default_rng(12), 16)


def help_of_preset() -> list[str]:
    """The presets that `sunglaze proof --help` names."""
    told = get_type_hints(proof, include_extras=True)["preset"].__metadata__[0].help
    return str(told).removeprefix("What to begin with: ").removesuffix(".").split(", ")


def picture(path: Path) -> np.ndarray:
    return cv2.cvtColor(cv2.imread(str(path), cv2.IMREAD_UNCHANGED), cv2.COLOR_BGR2RGB)


def test_identity_convert_inspect_apply(tmp_path: Path) -> None:
    assert sunglaze("lut", "identity", "--size", 16, "--layout", "hald", "--out", "n.png", cwd=tmp_path).returncode == 0
    assert read_lut_picture((tmp_path / "n.png").read_bytes()).layout == "hald"
    (tmp_path / "g.png").write_bytes(write_lut_picture(GRADE, "strip"))
    assert sunglaze("lut", "convert", "g.png", "g.cube", cwd=tmp_path).returncode == 0
    assert np.abs(read_cube((tmp_path / "g.cube").read_bytes()).table - GRADE.table).max() < 1e-5
    assert sunglaze("lut", "convert", "g.cube", "h.png", "--layout", "hald", "--size", 25, cwd=tmp_path).returncode == 0
    facts = json.loads(sunglaze("lut", "inspect", "h.png", "--json", cwd=tmp_path).stdout)
    assert (facts["found"], facts["size"], facts["bits"], facts["damaged"]) == ("hald", 25, 16, False)
    (tmp_path / "in.png").write_bytes(encode_png(sample_picture(30, 40)))
    options = ("--image", "in.png", "--out", "out.png", "--strength", 0.5, "--interpolation", "trilinear")
    assert sunglaze("lut", "apply", "g.cube", *options, cwd=tmp_path).returncode == 0
    want = np.rint(np.clip(apply_lut(GRADE, sample_picture(30, 40) / np.float32(255), 0.5, "trilinear"), 0, 1) * 255)
    assert np.abs(picture(tmp_path / "out.png").astype(int) - want).max() <= 1


def test_the_command_itself_in_a_process_of_its_own(tmp_path: Path) -> None:
    """What a shell starts; all other tests run the same in this process."""

    def started(*arguments: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run([sys.executable, "-m", "sunglaze", *arguments], capture_output=True, text=True, cwd=tmp_path)

    good = started("lut", "identity", "--size", "9", "--layout", "strip", "--out", "n.png")
    assert (good.returncode, good.stderr) == (0, "")
    assert read_lut_picture((tmp_path / "n.png").read_bytes()).lut.table.shape == (9, 9, 9, 3)
    bad = started("lut", "inspect", "missing.cube")
    assert (bad.returncode, bad.stdout) == (2, "")
    assert bad.stderr.splitlines() == ["sunglaze: missing.cube: No such file or directory"]


def test_help_and_errors_wait_for_nothing_heavy(tmp_path: Path) -> None:
    """Numba, SciPy and the server took 2.8 s of processor before `--help` said a word."""
    code = "import sys, sunglaze.cli; print(*sorted({name.split('.')[0] for name in sys.modules}))"
    loaded = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, cwd=tmp_path, check=True).stdout.split()
    heavy = {"numpy", "numba", "llvmlite", "scipy", "cv2", "PIL", "av", "pydantic", "fastapi", "sqlalchemy", "distributed"}
    assert not heavy & set(loaded)
    own = subprocess.run(
        [sys.executable, "-c", "import sys, sunglaze.cli; print(*(n for n in sys.modules if n.startswith('sunglaze')))"],
        capture_output=True, text=True, cwd=tmp_path, check=True,
    ).stdout.split()  # fmt: skip
    outside = {name for name in own if not name.startswith("sunglaze.cli")}
    assert outside == {
        "sunglaze",
        "sunglaze.core",
        "sunglaze.core.errors",
        "sunglaze.core.colour",
        "sunglaze.core.colour.layouts",
    }


def test_help_names_every_preset_of_proof_sheets() -> None:
    assert help_of_preset() == list(PRESETS)


def test_curves_become_a_picture(tmp_path: Path) -> None:
    (tmp_path / "c.cube").write_text("LUT_1D_SIZE 3\n0 0 0\n.5 .7 .5\n1 1 1\n")
    assert sunglaze("lut", "convert", "c.cube", "c.png", cwd=tmp_path).returncode == 0
    table = read_lut_picture((tmp_path / "c.png").read_bytes()).lut.table
    assert table.shape == (33, 33, 33, 3)
    assert table[16, 16, 16].tolist() == pytest.approx([0.5, 0.7, 0.5], abs=1e-4)


def test_render_from_a_file_without_a_database(tmp_path: Path) -> None:
    ref = LookupRef(asset="1" * 64)
    effect = Effect(name="t", layers=[grade("grade", ref, "Grade")])
    (tmp_path / "e.glaze").write_bytes(write_package(effect, Material({ref: GRADE})))
    (tmp_path / "in.png").write_bytes(encode_png(sample_picture(64, 48)))
    done = sunglaze("render", "e.glaze", "--image", "in.png", "--out", "o.png", "--set", "grade.strength=0.25", cwd=tmp_path)
    assert done.returncode == 0, done.stderr
    want = np.rint(np.clip(apply_lut(GRADE, sample_picture(64, 48) / np.float32(255), 0.25), 0, 1) * 255)
    assert np.abs(picture(tmp_path / "o.png").astype(int) - want).max() <= 1
    sunglaze("render", "e.glaze", "--image", "in.png", "--out", "s.png", "--size", "90x160", cwd=tmp_path)
    assert picture(tmp_path / "s.png").shape == (160, 90, 3)
    assert sorted(p.name for p in tmp_path.iterdir()) == ["e.glaze", "in.png", "o.png", "s.png"]


def test_render_by_id_and_in_time(tmp_path: Path, seeded: Path) -> None:
    shutil.copytree(seeded, tmp_path, dirs_exist_ok=True)
    # On a still picture, so that what differs is the effect's own time: a ramp of the opacity over two seconds, from its formula.
    still = np.full((64, 48, 3), 40, np.uint8)
    (tmp_path / "in.png").write_bytes(encode_png(still))
    drive = {"kind": "time-ramp", "values": {"start": 0.0, "end": 1.0, "seconds": 2.0, "easing": "linear"}}
    layer = Layer(id="f", name="f", kind="fill", values={"colour": "#ffffff"}, drives={"layer:opacity": drive})
    (tmp_path / "ramp.json").write_text(Effect(name="t", layers=[layer]).model_dump_json(by_alias=True))
    for time in (0, 0.5, 1.5):
        done = sunglaze("render", "ramp.json", "--image", "in.png", "--time", time, "--out", f"{time}.png", cwd=tmp_path)
        assert done.returncode == 0, done.stderr
        assert np.abs(picture(tmp_path / f"{time}.png").astype(int) - (40 + 215 * time / 2)).max() <= 4
    assert sunglaze("render", "demo-low-tide", "--data", ".", "--out", "by-id.png", cwd=tmp_path).returncode == 0
    assert picture(tmp_path / "by-id.png").shape == (960, 540, 3)


def test_an_effect_as_json_finds_its_lookup_beside_it(tmp_path: Path) -> None:
    import hashlib

    cube = write_cube(GRADE)
    (tmp_path / "any-name.cube").write_bytes(cube)
    ref = LookupRef(asset=hashlib.sha256(cube).hexdigest())
    effect = Effect(name="t", layers=[grade("grade", ref, "Grade")])
    (tmp_path / "e.json").write_text(effect.model_dump_json())
    assert sunglaze("render", "e.json", "--out", "o.png", "--size", "90x160", cwd=tmp_path).returncode == 0


@pytest.mark.parametrize(
    "arguments",
    [
        ("lut", "inspect", "missing.cube"),
        ("lut", "inspect", "bad.cube"),
        ("lut", "identity", "--size", "17", "--layout", "grid", "--out", "x.png"),
        ("lut", "identity", "--size", "1", "--layout", "grid", "--out", "x.png"),
        ("lut", "identity", "--size", "16", "--out", "x.jpg"),
        ("lut", "apply", "bad.cube", "--image", "bad.cube", "--out", "x.png"),
        ("lut", "apply", "bad.cube", "--image", "bad.cube", "--out", "x.png", "--strength", "2"),
        ("lut", "nothing"),
        ("lut", "convert", "bad.cube"),
        ("render", "nothing", "--out", "x.png"),
        ("render", "bad.json", "--out", "x.png"),
        ("render", "bad.json", "--out", "x.png", "--size", "huge"),
    ],
)
def test_errors_are_one_plain_line_and_code_two(tmp_path: Path, arguments: tuple[str, ...]) -> None:
    (tmp_path / "bad.cube").write_text("LUT_3D_SIZE 2\n1 2\n")
    (tmp_path / "bad.json").write_text('{"format": "sun-glaze/effect", "version": 1}')
    done = sunglaze(*arguments, cwd=tmp_path)
    assert done.returncode == 2
    assert done.stdout == ""
    assert "Traceback" not in done.stderr
    assert not (tmp_path / "x.png").exists()
    assert len(done.stderr.strip().splitlines()) == 1


def test_recipes_are_checked_and_converted(tmp_path: Path) -> None:
    recipe = {
        "format": "sun-glaze/recipe", "version": 1, "result": "m.out",
        "nodes": [{"id": "b", "kind": "colour"}, {"id": "m", "kind": "multiply", "set": {"b": 0.5}}, {"id": "g", "kind": "blur"}],
        "wires": [{"from": "b.out", "to": "m.a"}],
    }  # fmt: skip
    (tmp_path / "r.json").write_text(json.dumps(recipe))
    assert sunglaze("recipe", "check", "r.json", cwd=tmp_path).returncode == 0
    there = sunglaze("recipe", "convert", "r.json", "r.mtlx", cwd=tmp_path)
    assert "Blur" in there.stdout
    assert sunglaze("recipe", "convert", "r.mtlx", "back.json", cwd=tmp_path).returncode == 0
    back = json.loads((tmp_path / "back.json").read_text())
    assert [n["kind"] for n in back["nodes"]] == ["colour", "multiply"]
    recipe["wires"].append({"from": "b.out", "to": "g.amount"})  # type: ignore[attr-defined]
    (tmp_path / "r.json").write_text(json.dumps(recipe))
    wrong = sunglaze("recipe", "check", "r.json", "--json", cwd=tmp_path)
    assert wrong.returncode == 1
    assert json.loads(wrong.stdout)[0]["node"] == "g"
    assert sunglaze("recipe", "convert", "r.json", "r.txt", cwd=tmp_path).returncode == 2
