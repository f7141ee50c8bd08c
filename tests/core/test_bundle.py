"""Several files in one archive: one mesh, each file at its place."""

import io
import zipfile

import numpy as np
import pytest
from caulkcore import RefusedInput
from caulkcore.io.bundle import MAX_FILES
from caulkcore.mesh.concatenate import concatenate
from caulkcore.mesh.simple_solids import cuboid
from caulkjob.examination import examine
from caulkjob.intake import read_bytes
from makers import ascii_stl, binary_stl, box
from test_formats import _TETRA, package


def packed(files: list[tuple[str, bytes]]) -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        for name, content in files:
            archive.writestr(name, content)
    return stream.getvalue()


def test_three_hundred_files_rejoin_bit_for_bit() -> None:
    rng = np.random.default_rng(21)
    parts = [
        box(
            (1.0, 2.0, 3.0),
            at=tuple((rng.random(3) + np.array([5 * (i % 20), 5 * (i // 20), 0])).tolist()),
        )
        for i in range(300)
    ]
    parts = [read_bytes(binary_stl(one), "a.stl").mesh for one in parts]
    data = packed([(f"part {i:03d}.stl", binary_stl(one)) for i, one in enumerate(parts)])
    found = read_bytes(data, "assembly.zip")
    whole = concatenate(parts)
    assert np.array_equal(found.mesh.vertices, whole.vertices)
    assert np.array_equal(found.mesh.faces, whole.faces)
    report = examine(found.mesh_mm(), found.unit)
    assert report.shells == 300
    assert found.labels is not None
    assert found.labels.names == tuple(f"part {i:03d}" for i in range(300))


def test_files_that_meet_share_their_vertices_as_one_file_would() -> None:
    files = [("lower.stl", binary_stl(cuboid())), ("upper.stl", binary_stl(cuboid(at=(0, 0, 10))))]
    found = read_bytes(packed(files), "a.zip")
    assert len(found.mesh.vertices) == 12
    kinds = {one.kind for one in examine(found.mesh_mm(), found.unit).findings}
    assert "over-shared-edges" in kinds


def test_files_that_name_their_unit_bring_the_others_into_it() -> None:
    found = read_bytes(
        packed([("box.stl", binary_stl(cuboid((2.0, 2.0, 2.0)))), _corner("inch")]), "a.zip"
    )
    assert found.unit.unit == "in"
    assert found.unit.source == "file"
    assert any("1 of 2 files name no unit" in note for note in found.notes)
    # the corner of the one has sides of thirty, the box two, which are taken to be inches
    assert found.mesh_mm().volume == pytest.approx((30**3 / 6 + 2**3) * 25.4**3)


def test_files_in_two_units_keep_their_sizes() -> None:
    found = read_bytes(packed([_corner("centimeter"), _corner("inch")]), "a.zip")
    assert found.unit.unit == "cm"
    assert found.mesh_mm().volume == pytest.approx(30**3 / 6 * (10**3 + 25.4**3))


def _corner(unit: str) -> tuple[str, bytes]:
    build = (f'<object id="1">{_TETRA}</object>', '<item objectid="1"/>')
    return f"{unit}.3mf", package(build, unit)


@pytest.mark.parametrize(
    ("names", "called"),
    [
        (["lid.stl", "box.stl"], {"lid", "box"}),
        (["left/lid.stl", "right/lid.stl"], {"left/lid", "right/lid"}),
        (["__MACOSX/._lid.stl", ".hidden.stl", "lid.stl", "Box.STL"], {"lid", "Box"}),
    ],
)
def test_pieces_are_called_as_their_files(names: list[str], called: set[str]) -> None:
    files = [(name, binary_stl(cuboid(at=(20.0 * i, 0.0, 0.0)))) for i, name in enumerate(names)]
    labels = read_bytes(packed(files), "a.zip").labels
    assert labels is not None
    assert set(labels.names) == called


def test_what_is_no_mesh_is_left_out_and_told() -> None:
    others = [(f"{i}.txt", b"read me") for i in range(7)]
    nested = ("more.zip", packed([("lid.stl", binary_stl(cuboid()))]))
    found = read_bytes(packed([*others, nested, ("lid.stl", ascii_stl(cuboid()))]), "a.zip")
    assert len(found.mesh.faces) == 12
    (note,) = (one for one in found.notes if "Left out" in one)
    assert "0.txt" in note
    assert "3 more" in note


def _locked() -> bytes:
    data = bytearray(packed([("lid.stl", binary_stl(cuboid()))]))
    # the flag in the local header and in the directory
    data[6] |= 1
    data[data.index(b"PK\x01\x02") + 8] |= 1
    return bytes(data)


def _swollen() -> bytes:
    """Some kilobytes that say they are three gigabytes."""
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("lid.stl", b"\0" * 1000)
        archive.getinfo("lid.stl").file_size = 3_000_000_000
    return stream.getvalue()


@pytest.mark.parametrize(
    ("data", "word"),
    [
        (packed([]), "no STL"),
        (packed([("a.txt", b"x")]), "no STL"),
        (
            packed([("lid.stl", binary_stl(cuboid())), ("box.stl", b"")]),
            "box.stl: The file is empty",
        ),
        (packed([("lid.stl", b"solid nothing\nendsolid")]), "lid.stl: "),
        (packed([("lid.stl", binary_stl(cuboid()))])[:-40], "damaged"),
        (packed([(f"{i}.stl", b"x") for i in range(MAX_FILES + 1)]), "1,001 files"),
        (_locked(), "password"),
        (_swollen(), "3000 MB"),
        (b"PK", "damaged"),
    ],
)
def test_what_cannot_be_read_whole_is_refused(data: bytes, word: str) -> None:
    with pytest.raises(RefusedInput, match=word):
        read_bytes(data, "a.zip")
