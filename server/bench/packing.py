"""Binary forms: a mesh at rest, and a mesh and its marks on the way to the screen.

At rest a mesh is an uncompressed NumPy archive (``.npz``) with ``vertices`` and ``faces`` and, if
its file told parts apart, ``names`` and ``label`` of each face.

For the screen, all little-endian, about 10 bytes a triangle:

- skin: ``IKSK``, uint32 version 2, uint32 vertices, uint32 faces, uint32 shells, uint32 bytes of
  corners, float64 x 3 middle in mm, float64 x 3 low corner from the middle, float64 x 3 step;
  then for each vertex 21 bits a coordinate, as steps from the low corner, in two uint32 (x in the
  low 21 bits of the first, y in the low 21 of the second, z's low 11 above x and high 10 above
  y); then uint32 x (shells + 1), where each shell begins among the faces, and where those that
  belong to none do; then the corners (see `bench._packing_kernels.distances_back`).
- marks: ``IKMK``, uint32 version 1, uint32 places, then for each place uint32 lines and uint32
  faces, then float32 x 6 for each line from the middle of the skin, then uint32 for each face.
- soundings: ``IKSD``, uint32 version 2, uint32 faces, uint32 samples, float64 greatest thickness
  measured, mm; then how each face was divided, see below; then for each sample, face by face,
  uint16 ball and uint16 ray, as 65,535ths of the greatest, and uint8 with 1 where the ball spans
  a wall and 2 where the ray does.
- changes: ``IKCH``, uint32 version 2, uint32 faces, uint32 parts, float64 greatest distance, mm;
  then how each face was divided; then for each part uint16 its distance from the surface before,
  as 65,535ths of the greatest.

How faces are divided (`caulkcore.thickness.sampling.Samples`): for each uint16 n, 0 where nothing
is told of a face, then for each uint16 with `slim` in the low 14 bits and the apex above. Of
version 1, from before slim faces were divided along, only the n are there: `slim` was 1, and the
apex the second corner.

On the screen the faces stand shell by shell and, within a shell, along a curve through space;
marks, soundings and changes name them so, and so do the choices that come back from it.
"""

from collections.abc import Sequence
from typing import IO

import numpy as np
from caulkcore import Mesh
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.diagnose.standing import standing
from caulkcore.io.labels import Labels
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.renumber import number_as_met
from caulkcore.spatial.box_tree import morton_codes
from caulkcore.thickness.sampling import part_counts
from caulkcore.thickness.smallest_feature import smallest_feature
from caulkcore.thickness.thickness_map import ThicknessMap
from caulkjob.change_map import ChangeMap
from caulkjob.findings.finding import Place
from caulkjob.report import Report

from bench._packing_kernels import distances_back

_STEPS = 2**21 - 1
LISTED_PIECES = 2000
"""Shells that the report for the screen names; the largest."""


def save(mesh: Mesh, stream: IO[bytes], labels: Labels | None = None) -> None:
    """Write a mesh as it rests in storage."""
    more = {} if labels is None else {"names": np.array(labels.names), "label": labels.of_face}
    np.savez(stream, vertices=mesh.vertices, faces=mesh.faces, **more)  # type: ignore[arg-type]


def load(stream: IO[bytes]) -> Mesh:
    """Read a mesh that `save` wrote."""
    return load_labelled(stream)[0]


def load_labelled(stream: IO[bytes]) -> tuple[Mesh, Labels | None]:
    """Read a mesh that `save` wrote, and its labels if it has any."""
    with np.load(stream, allow_pickle=False) as archive:
        mesh = Mesh(archive["vertices"], archive["faces"])
        if "label" not in archive:
            return mesh, None
        return mesh, Labels(tuple(archive["names"].tolist()), archive["label"])


def screen_order(mesh: Mesh) -> Array:
    """Faces of a mesh in the order of the screen, shape (m,)."""
    codes = morton_codes(mesh.vertices, mesh.faces)
    # faces of no shell stand last
    return np.lexsort((codes, Diagnosis.of(mesh).shell_of_face.astype(np.uint32)))


def pack_skin(report: Report, order: Array) -> bytes:
    """The mesh for the screen, its faces in the given order."""
    mesh, pieces = report.mesh, report.pieces
    met, corners = number_as_met(mesh.faces[order], len(mesh.vertices))
    packed = distances_back(corners)
    low, high = mesh.bounds
    step = np.maximum(high - low, 1e-300) / _STEPS
    x, y, z = np.rint((mesh.vertices[met] - low) / step).astype(np.uint32).T
    points = np.stack([x | (z & 0x7FF) << 21, y | (z >> 11) << 21], axis=1)
    middle = _middle(mesh)
    shells = report.shells
    starts = np.append(0, np.cumsum(pieces.triangles))
    head = [2, len(met), len(mesh.faces), shells, len(packed)]
    return b"".join(
        [
            b"IKSK",
            np.array(head, dtype="<u4").tobytes(),
            np.concatenate([middle, low - middle, step]).astype("<f8").tobytes(),
            points.astype("<u4").tobytes(),
            starts.astype("<u4").tobytes(),
            packed.tobytes(),
        ]
    )


def pack_marks(report: Report, order: Array) -> bytes:
    """Lines and faces of the places of all findings, in the order of the report."""
    mesh = report.mesh
    places = [p for f in report.findings for p in f.places]
    counts = [[len(p.lines) + len(p.curves), len(p.faces)] for p in places]
    sizes = np.array(counts, dtype="<u4").reshape(-1, 2)
    parts = [np.concatenate([mesh.vertices[p.lines], p.curves]) for p in places]
    lines = np.concatenate([np.zeros((0, 2, 3)), *parts])
    faces = np.concatenate([p.faces for p in places]) if places else np.zeros(0, dtype=int)
    position = np.empty(len(order), dtype="<u4")
    position[order] = np.arange(len(order))
    return b"".join(
        [
            b"IKMK",
            np.array([1, len(places)], dtype="<u4").tobytes(),
            sizes.tobytes(),
            (lines - _middle(mesh)).astype("<f4").tobytes(),
            position[faces].tobytes(),
        ]
    )


def pack_soundings(walls: ThicknessMap, order: Array) -> bytes:
    """Thickness all over, the faces in the given order."""
    samples, depths = walls.samples, walls.depths
    row = _rows_in_order(samples.division, order)
    steps = [np.rint(np.minimum(x[row] / walls.most, 1) * 65535) for x in (depths.ball, depths.ray)]
    flags = depths.across[row] | depths.facing[row] << 1
    return b"".join(
        [
            b"IKSD",
            np.array([2, len(order), len(row)], dtype="<u4").tobytes(),
            np.array([walls.most], dtype="<f8").tobytes(),
            _packed_division(samples.division[order]),
            *(x.astype("<u2").tobytes() for x in steps),
            flags.astype("u1").tobytes(),
        ]
    )


def pack_changes(changes: ChangeMap, order: Array) -> bytes:
    """Where the skin moved, the faces in the given order."""
    row = _rows_in_order(changes.division, order)
    greatest = float(changes.distance.max(initial=0.0))
    steps = np.rint(changes.distance[row] / max(greatest, 1e-300) * 65535)
    return b"".join(
        [
            b"IKCH",
            np.array([2, len(order), len(row)], dtype="<u4").tobytes(),
            np.array([greatest], dtype="<f8").tobytes(),
            _packed_division(changes.division[order]),
            steps.astype("<u2").tobytes(),
        ]
    )


def _packed_division(division: Array) -> bytes:
    n, slim, apex = division.T
    return n.astype("<u2").tobytes() + (slim | apex << 14).astype("<u2").tobytes()


def _rows_in_order(division: Array, order: Array) -> Array:
    """Numbers of the samples of divided faces, face by face as ordered."""
    counts = part_counts(division)
    begin = np.concatenate([[0], np.cumsum(counts)])
    size = counts[order]
    starts = np.cumsum(size) - size
    return np.arange(int(size.sum())) + np.repeat(begin[order] - starts, size)


def _middle(mesh: Mesh) -> Array:
    return mesh.bounds.mean(axis=0)


def report_for_screen(
    report: Report, labels: Labels | None = None, numbers: Sequence[int] | None = None
) -> dict[str, object]:
    """The report with the places of each finding, and the pieces with their names and numbers."""
    known = range(1, report.shells + 1) if numbers is None else numbers
    told = report.as_json()
    for finding, line in zip(report.findings, told["findings"], strict=True):
        line["spots"] = [_spot(p, known) for p in finding.places]
    told["verdicts"] = [one.as_json() for one in report.verdicts]
    told["smallest_mm"] = smallest_feature(report.mesh)
    told["margin_deg"] = _margin(report)
    told["pieces"] = report.pieces.as_json(LISTED_PIECES)
    names = labels.of_shells(report.pieces.of_face, report.shells) if labels else None
    for line in told["pieces"]:
        line["name"] = names[line["shell"]] if names else ""
        line["number"] = known[line["shell"]]
    return told


def _margin(report: Report) -> float | None:
    """By how much it can be tilted as it lies before it falls over, degrees; none while open."""
    if not report.tight or report.mesh.volume <= 0:
        return None
    return round(standing(report.mesh).margin, 2)


def _spot(place: Place, numbers: Sequence[int]) -> dict[str, object]:
    told = place.as_json()
    if place.naming is not None:
        told["title"] = place.naming([numbers[shell] for shell in place.pieces])
    return told
