"""The command line's promises: forms, exit codes, files whole or not at all, the same answers."""

import json
import struct

import numpy as np
import pytest
from caulkcore import Mesh, RefusedInput
from caulkjob import examine, mend, read, write
from caulkjob.cli import main
from caulkjob.intake import read_bytes
from caulkjob.questions import NOUNS
from harbour import breakers as b
from makers import binary_stl, box, referee, sound, sphere

REPORT_KEYS = {
    "file", "format", "unit", "unit_source", "unit_reason", "triangles", "vertices", "size_mm",
    "volume_mm3", "area_mm2", "shells", "tight", "questions", "unasked", "seconds", "findings",
    "could_miss_mm", "thinnest",
    "notes",
}  # fmt: skip
ACCOUNT_KEYS = {
    "volume_mm3", "triangles", "max_deviation_mm", "touched_area_fraction", "unchanged_faces",
    "deviation_mm", "deviation_bound_mm", "lost_mm", "added_mm", "taken_out",
}  # fmt: skip

MODELS = {
    "sound": (box, 0),
    "holed": (lambda: b.without(sphere(), np.array([3, 70])), 1),
    "torn": (lambda: b.torn(sphere(), 0, 0.01, 0.003), 1),
    "mirrored": (lambda: b.mirrored(sphere()), 1),
    "overlapping": (lambda: b.soup(box(), box(10, (4, 3, 2))), 1),
    "with a void": (lambda: sound("hollow box"), 0),
    "loose": (lambda: b.soup(box(), box(10, (30, 0, 0))), 0),
    "a sheet": (lambda: Mesh(np.eye(3) * 20, np.array([[0, 1, 2]])), 1),
}


def told(capsys) -> list[dict]:
    return [json.loads(line) for line in capsys.readouterr().out.splitlines()]


@pytest.mark.parametrize("what", MODELS)
def test_check_gives_the_form_the_code_and_the_core_s_own_answer(what, tmp_path, capsys) -> None:
    make, code = MODELS[what]
    path = tmp_path / "part.ply"
    write(make(), path)
    assert main(["check", "--json", str(path)]) == code
    (report,) = told(capsys)
    assert set(report) == REPORT_KEYS
    assert report["tight"] == (code == 0)
    source = read(path)
    same = examine(source.mesh_mm(), source.unit).as_json()
    assert {**same, "seconds": 0} == {k: v for k, v in report.items() if k in same} | {"seconds": 0}
    for finding in report["findings"]:
        assert set(finding) == {"kind", "count", "places", "severity", "text"}
        assert finding["kind"] in NOUNS
        assert finding["severity"] in ("leak", "call", "note")
        assert finding["count"] >= 1
        assert finding["places"] >= 1


def test_several_files_make_a_line_each_and_the_worst_code(tmp_path, capsys) -> None:
    write(box(), tmp_path / "ein Kästchen.stl")
    write(b.without(sphere(), np.array([0])), tmp_path / "holed.off")
    (tmp_path / "empty.stl").write_bytes(b"")
    paths = [str(tmp_path / n) for n in ("ein Kästchen.stl", "holed.off", "empty.stl")]
    assert main(["check", "--json", *paths[:1]]) == 0
    assert main(["check", "--json", *paths[:2]]) == 1
    assert main(["check", "--json", *paths]) == 2
    lines = capsys.readouterr()
    assert [json.loads(x)["file"] for x in lines.out.splitlines()] == [
        "ein Kästchen.stl", "ein Kästchen.stl", "holed.off", "ein Kästchen.stl", "holed.off",
    ]  # fmt: skip
    assert lines.err == "empty.stl: The file is empty (0 bytes).\n"


@pytest.mark.parametrize("what", [w for w, (_, code) in MODELS.items() if w != "a sheet"])
@pytest.mark.parametrize("suffix", [".stl", ".3mf"])
def test_mend_gives_the_form_and_the_core_s_own_answer(what, suffix, tmp_path, capsys) -> None:
    make, _ = MODELS[what]
    path, out = tmp_path / "part.obj", tmp_path / f"out{suffix}"
    write(make(), path)
    assert main(["mend", str(path), "-o", str(out), "--json"]) == 0
    (one,) = told(capsys)
    assert set(one) == {"before", "after", "account", "steps", "refused"}
    assert one["refused"] is None
    assert set(one["after"]) == REPORT_KEYS
    assert one["after"]["tight"] is True
    assert set(one["account"]) >= ACCOUNT_KEYS
    assert one["account"]["triangles"]["before"] == one["before"]["triangles"]
    source = read(path)
    outcome = mend(source.mesh_mm(), source.unit)
    assert [s["operation"] for s in one["steps"]] == [s.operation for s in outcome.steps]
    assert one["account"]["volume_mm3"]["after"] == pytest.approx(outcome.mesh.volume, abs=1e-5)
    judged = read(out).mesh
    assert referee(judged).is_watertight
    assert judged.volume == pytest.approx(outcome.mesh.volume, rel=1e-6)
    assert [p.name for p in sorted(tmp_path.iterdir())] == [f"out{suffix}", "part.obj"]


def test_a_sound_file_is_written_as_it_was(tmp_path) -> None:
    data = binary_stl(sphere())
    (tmp_path / "a.stl").write_bytes(data)
    assert main(["mend", str(tmp_path / "a.stl"), "-o", str(tmp_path / "b.stl")]) == 0
    one, other = (read(tmp_path / n).mesh for n in ("a.stl", "b.stl"))
    assert np.array_equal(one.vertices[one.faces], other.vertices[other.faces])


@pytest.mark.parametrize("before", [b"", b"what stood there"])
def test_a_refusal_leaves_out_as_it_was(before: bytes, tmp_path, capsys) -> None:
    make, _ = MODELS["a sheet"]
    write(make(), tmp_path / "sheet.stl")
    out = tmp_path / "out.stl"
    if before:
        out.write_bytes(before)
    assert main(["mend", str(tmp_path / "sheet.stl"), "-o", str(out)]) == 3
    assert (out.read_bytes() if out.exists() else b"") == before
    lines = capsys.readouterr()
    assert lines.out == ""
    assert len(lines.err.splitlines()) == 1
    assert lines.err.startswith("sheet.stl: Refused: ")


@pytest.mark.parametrize(
    ("arguments", "code", "words"),
    [
        (["--unite", "none"], 3, "overlap"),
        (["--unite", "all"], 0, ""),
        (["--sheet", "2"], 0, ""),
        (["--recast", "0.5"], 0, ""),
        (["--unite", "none", "--recast", "0.5"], 0, ""),
    ],
)
def test_choices_of_mend(arguments, code: int, words: str, tmp_path, capsys) -> None:
    write(b.soup(box(), box(10, (4, 3, 2))), tmp_path / "a.stl")
    out = tmp_path / "b.stl"
    assert main(["mend", str(tmp_path / "a.stl"), "-o", str(out), *arguments]) == code
    assert out.exists() == (code == 0)
    assert words in capsys.readouterr().err


@pytest.mark.parametrize("out", ["no/such/folder/b.stl", "b.txt", "b", "b.off.gz"])
def test_where_it_cannot_be_written_is_said_before_the_work(out, tmp_path, capsys) -> None:
    write(box(), tmp_path / "a.stl")
    assert main(["mend", str(tmp_path / "a.stl"), "-o", str(tmp_path / out)]) == 2
    assert len(capsys.readouterr().err.splitlines()) == 1


@pytest.mark.parametrize("count", [0, 1, 11, 13, 2**31, 2**32 - 1])
def test_a_binary_stl_whose_count_lies(count: int) -> None:
    data = bytearray(binary_stl(box()))
    data[80:84] = struct.pack("<I", count)
    if count <= 12:
        source = read_bytes(bytes(data), "a.stl")
        assert len(source.mesh.faces) == 12
        assert source.notes
    else:
        with pytest.raises(RefusedInput, match=r"cut off|count"):
            read_bytes(bytes(data), "a.stl")


@pytest.mark.parametrize("form", ["stl", "ply", "3mf"])
def test_binary_files_cut_anywhere_are_read_or_refused(form: str, tmp_path) -> None:
    path = tmp_path / f"a.{form}"
    write(sphere(20, 1), path)
    whole = path.read_bytes()
    refusals = []
    for length in np.linspace(0, len(whole) - 1, 150).astype(int).tolist():
        try:
            source = read_bytes(whole[:length], path.name)
        except RefusedInput as problem:
            refusals.append(str(problem))
        else:
            assert 0 < len(source.mesh.faces) <= 80
    assert len(refusals) >= 140, "half a file is not passed off as a whole one"
    assert all(line.endswith(".") and "\n" not in line for line in refusals)
