"""Binary forms: a mesh at rest, and a mesh and its marks on the way to the screen.

At rest a mesh is an uncompressed NumPy archive (``.npz``) with ``vertices`` and ``faces``.

For the screen, all little-endian:

- skin: ``IKSK``, uint32 version 1, uint32 vertices, uint32 faces, float64 x 3 middle, then
  float32 x 3 for each vertex from the middle, then the corners, uint16 if there are at most
  65,536 vertices (padded to a multiple of 4 bytes), else uint32.
- marks: ``IKMK``, uint32 version 1, uint32 places, then for each place uint32 lines and uint32
  faces, then float32 x 6 for each line from the middle of the skin, then uint32 for each face.
"""

import io
from typing import IO

import numpy as np

from .examine import Report
from .mesh import Array, Mesh


def save(mesh: Mesh, stream: IO[bytes]) -> None:
    """Write a mesh as it rests in storage."""
    np.savez(stream, vertices=mesh.vertices, faces=mesh.faces)


def load(stream: IO[bytes]) -> Mesh:
    """Read a mesh that `save` wrote."""
    with np.load(stream, allow_pickle=False) as archive:
        return Mesh(archive["vertices"], archive["faces"])


def _middle(mesh: Mesh) -> Array:
    return mesh.bounds.mean(axis=0)


def pack_skin(mesh: Mesh) -> bytes:
    """The mesh for the screen."""
    out = io.BytesIO()
    small = len(mesh.vertices) <= 65536
    out.write(b"IKSK")
    out.write(np.array([1, len(mesh.vertices), len(mesh.faces)], dtype="<u4").tobytes())
    out.write(_middle(mesh).astype("<f8").tobytes())
    out.write((mesh.vertices - _middle(mesh)).astype("<f4").tobytes())
    corners = mesh.faces.astype("<u2" if small else "<u4").tobytes()
    out.write(corners + b"\0" * (-len(corners) % 4))
    return out.getvalue()


def pack_marks(report: Report) -> bytes:
    """Lines and faces of the places of all findings, in the order of the report."""
    mesh = report.mesh
    places = [p for f in report.findings for p in f.places]
    counts = [[len(p.lines) + len(p.curves), len(p.faces)] for p in places]
    sizes = np.array(counts, dtype="<u4").reshape(-1, 2)
    middle = _middle(mesh)
    parts = [np.concatenate([mesh.vertices[p.lines], p.curves]) for p in places]
    lines = np.concatenate([np.zeros((0, 2, 3)), *parts])
    faces = np.concatenate([p.faces for p in places]) if places else np.zeros(0, dtype=int)
    return b"".join(
        [
            b"IKMK",
            np.array([1, len(places)], dtype="<u4").tobytes(),
            sizes.tobytes(),
            (lines - middle).astype("<f4").tobytes(),
            faces.astype("<u4").tobytes(),
        ]
    )


def report_for_screen(report: Report) -> dict[str, object]:
    """The report with the places of each finding."""
    told = report.as_json()
    for finding, line in zip(report.findings, told["findings"], strict=True):
        line["spots"] = [p.as_json() for p in finding.places]
    return told
