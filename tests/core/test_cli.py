import json

import numpy as np
import pytest
import trimesh
from caulkjob import write
from caulkjob.cli import main
from harbour import breakers as b
from harbour import shapes
from makers import box, hostile_files, sphere


@pytest.fixture
def holed(tmp_path):
    path = tmp_path / "holed.stl"
    write(b.without(sphere(), np.array([0, 100])), path)
    return path


def test_check_reports_in_the_agreed_form(holed, capsys) -> None:
    assert main(["check", "--json", str(holed)]) == 1
    report = json.loads(capsys.readouterr().out)
    assert report["file"] == "holed.stl"
    assert report["format"] == "stl-binary"
    assert (report["unit"], report["unit_source"]) == ("mm", "guessed")
    assert report["triangles"] == 1278
    assert report["shells"] == 1
    assert report["tight"] is False
    assert report["findings"] == [
        {
            "kind": "open-edges",
            "count": 6,
            "places": 2,
            "severity": "leak",
            "text": report["findings"][0]["text"],
        }
    ]
    assert report["size_mm"] == pytest.approx([40, 40, 40], rel=1e-2)


def test_check_of_a_sound_file_and_in_words(tmp_path, capsys) -> None:
    write(box(), tmp_path / "a.obj")
    assert main(["check", str(tmp_path / "a.obj")]) == 0
    assert "tight" in capsys.readouterr().out


@pytest.mark.parametrize(("unit", "size"), [("in", 254), ("cm", 100), ("m", 10000), ("mm", 10)])
def test_the_unit_can_be_given(unit: str, size: float, tmp_path, capsys) -> None:
    write(box(), tmp_path / "a.stl")
    main(["check", "--json", "--unit", unit, str(tmp_path / "a.stl")])
    assert json.loads(capsys.readouterr().out)["size_mm"] == pytest.approx([size] * 3)


@pytest.mark.parametrize(
    ("scale", "unit", "doubt"),
    [(1, "mm", False), (0.01, "m", True), (0.12, "mm", True), (60, "mm", True)],
)
def test_the_unit_is_guessed_and_doubted(scale, unit, doubt, tmp_path, capsys) -> None:
    write(box(20).scaled(scale), tmp_path / "a.stl")
    main(["check", "--json", str(tmp_path / "a.stl")])
    report = json.loads(capsys.readouterr().out)
    assert report["unit"] == unit
    assert ("unit-suspect" in [f["kind"] for f in report["findings"]]) is doubt


@pytest.mark.parametrize("suffix", ["stl", "obj"])
def test_mend_writes_a_tight_file(holed, suffix: str, tmp_path, capsys) -> None:
    out = tmp_path / f"out.{suffix}"
    assert main(["mend", str(holed), "-o", str(out), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert set(told) == {"before", "after", "account", "steps", "refused"}
    assert told["refused"] is None
    assert told["after"]["tight"] is True
    assert told["account"]["unchanged_faces"] == 1278
    assert trimesh.load(out).is_watertight


def test_mend_refuses_a_sheet_and_writes_nothing(tmp_path, capsys) -> None:
    write(shapes.pennant(), tmp_path / "a.stl")
    assert main(["mend", str(tmp_path / "a.stl"), "-o", str(tmp_path / "b.stl")]) == 3
    assert not (tmp_path / "b.stl").exists()
    assert "open sheet" in capsys.readouterr().err


@pytest.mark.parametrize(
    "option", [["--recast", "0"], ["--recast", "99"], ["--sheet", "-1"], ["--sheet", "1e9"]]
)
def test_measures_out_of_their_limits_are_said_before_the_work(
    option, holed, tmp_path, capsys
) -> None:
    assert main(["mend", str(holed), "-o", str(tmp_path / "b.stl"), *option]) == 2
    assert "must be from" in capsys.readouterr().err
    assert not (tmp_path / "b.stl").exists()


def test_hostile_files_one_line_each_and_exit_2(tmp_path, capsys) -> None:
    for what, (path, word) in hostile_files(tmp_path).items():
        for command in (["check", str(path)], ["mend", str(path), "-o", str(tmp_path / "o.stl")]):
            assert main(command) == 2, what
            told = capsys.readouterr()
            assert word in told.err
            assert told.err.count("\n") == 1
            assert told.out == ""
    assert not (tmp_path / "o.stl").exists()


def test_a_file_that_is_not_there_and_a_format_not_written(holed, tmp_path, capsys) -> None:
    assert main(["check", str(tmp_path / "none.stl")]) == 2
    assert main(["mend", str(holed), "-o", str(tmp_path / "o.xyz")]) == 2
    assert main(["mend", str(holed), "-o", str(tmp_path / "no" / "o.stl")]) == 2
    assert capsys.readouterr().err.count("\n") == 3
