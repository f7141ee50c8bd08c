"""3MF: objects, components, build items with transforms, units; objects in other model parts."""

import io
import lzma
import struct
import zipfile
import zlib
from collections.abc import Sequence
from typing import IO
from xml.sax.saxutils import quoteattr

import numpy as np

from ..errors import RefusedInput
from ..mesh.arrays import Array
from ..mesh.triangle_mesh import Mesh
from ._threemf_parts import CORE, MODEL_TYPE, RELATIONS, UNITS, Package, Reference
from .document import MAX_TRIANGLES, MeshDocument, left_out, make_document
from .labels import NamedFaces
from .units import MILLIMETRES

_DEEPEST = 32
"""Components within components, at most: deeper ones contain themselves."""
_MOST_PARTS = 100_000
"""Objects and components that a build may place."""
BROKEN_ZIP = (
    zipfile.BadZipFile, zlib.error, lzma.LZMAError, struct.error, NotImplementedError, EOFError,
    RuntimeError, OSError, ValueError,
)  # fmt: skip
"""What reading a damaged archive may raise."""


def read(data: bytes) -> MeshDocument:
    """Read a 3MF package: everything on its build plate, in place, as one mesh.

    Objects that stand in other model parts of the package (production extension) are read at
    their places. A package that asks for an extension which is not understood is refused.

    Parameters
    ----------
    data : bytes
        Of the file.

    Returns
    -------
    MeshDocument

    Raises
    ------
    RefusedInput
        If it is no package, holds no mesh, refers to what is not there, asks for what is not
        understood, or is beyond a limit.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            return _read(Package(archive))
    except BROKEN_ZIP:
        raise RefusedInput("This is not a 3MF package, or it was cut off.") from None


def _read(package: Package) -> MeshDocument:
    root = package.model(package.root)
    notes = []
    items = root.items
    if not items:
        items = [
            ((package.root, name), np.eye(4)) for name, one in root.objects.items() if one.triangles
        ]
        if items:
            notes.append("Nothing is placed for building; all objects were read.")
    _must_be_bounded(package, [reference for reference, _ in items])
    build = _Build(package)
    for number, (reference, transform) in enumerate(items, 1):
        first = len(build.names)
        build.place(reference, transform)
        # what the package does not name is told by its number on the plate
        build.names[first:] = [n or f"Object {number}" for n in build.names[first:]]
    beams = sum(model.beams for model in package.models)
    if not build.faces:
        only = " but beams" if beams else ""
        raise RefusedInput(f"The package holds no triangles{only}.")
    if beams:
        plural = "s" if beams > 1 else ""
        notes.append(f"{beams:,} beam{plural} left out: only triangles are read.")
    carries = sorted(set().union(*(model.carries for model in package.models)))
    if carries:
        notes.append(left_out(carries))
    if len(items) > 1:
        notes.append(f"{len(items)} objects were read together, at their places.")
    starts = np.cumsum([0, *(len(p) for p in build.points[:-1])])
    corners = np.concatenate([f + s for f, s in zip(build.faces, starts, strict=True)])
    of_face = np.repeat(np.arange(len(build.faces)), [len(f) for f in build.faces])
    key, scale = UNITS[root.unit]
    whole = np.concatenate(build.points) * scale
    return make_document(
        whole, corners, "3mf", notes, (key, root.unit), labels=(build.names, of_face)
    )


def _must_be_bounded(package: Package, items: list[Reference]) -> None:
    """Refuse what would unfold into too much, before anything is unfolded.

    Each object is counted once, however often it is placed.
    """
    known: dict[Reference, tuple[int, int]] = {}

    def count(reference: Reference, depth: int) -> tuple[int, int]:
        if depth > _DEEPEST:
            raise RefusedInput("Objects are nested too deeply, or contain themselves.")
        if reference not in known:
            one = package.object(reference)
            triangles, parts = one.triangles, 1
            for component, _ in one.components:
                more, inner = count(component, depth + 1)
                triangles += more
                parts += inner
            known[reference] = triangles, parts
        return known[reference]

    counts = [count(reference, 0) for reference in items]
    if sum(parts for _, parts in counts) > _MOST_PARTS:
        raise RefusedInput(f"The build places more than {_MOST_PARTS:,} objects and components.")
    if sum(triangles for triangles, _ in counts) > MAX_TRIANGLES:
        raise RefusedInput(f"The build holds more than {MAX_TRIANGLES:,} triangles.")


class _Build:
    """What has been placed so far: for each mesh its points, faces and name."""

    def __init__(self, package: Package) -> None:
        self.package = package
        self.points: list[Array] = []
        self.faces: list[Array] = []
        self.names: list[str] = []
        self._unit = _millimetres(package.model(package.root).unit)

    def place(self, reference: Reference, transform: Array) -> None:
        """Append an object and its components, transformed."""
        one = self.package.object(reference)
        if one.kind in ("support", "other"):
            return
        if one.triangles:
            corners = np.frombuffer(one.corners, dtype=np.int64).reshape(-1, 3)
            points = np.frombuffer(one.points).reshape(-1, 3)
            if corners.min() < 0 or corners.max() >= len(points):
                raise RefusedInput(f"Object {reference[1][:40]} names a vertex that is not there.")
            # another part may count in another unit
            scale = _millimetres(self.package.model(reference[0]).unit) / self._unit
            points = points if scale == 1.0 else points * scale
            self.points.append(points @ transform[:3, :3] + transform[3, :3])
            self.names.append(one.name)
            mirrored = np.linalg.det(transform[:3, :3]) < 0
            self.faces.append(corners[:, ::-1] if mirrored else corners)
        for component, inner in one.components:
            self.place(component, inner @ transform)


def _millimetres(unit: str) -> float:
    key, factor = UNITS[unit]
    return MILLIMETRES[key] * factor


_TYPES = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    '<Default Extension="rels" '
    'ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Default Extension="model" '
    'ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>'
)
"""Content types of a package as we write it."""
_RELS = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    f'<Relationships xmlns="{RELATIONS[1:-1]}"><Relationship Target="/3D/3dmodel.model" '
    f'Id="rel0" Type="{MODEL_TYPE}"/></Relationships>'
)
"""Relations of a package as we write it."""


def _opened(number: int, name: str) -> str:
    safe = "".join(c for c in name if c.isprintable())
    return f'<object id="{number}" type="model" name={quoteattr(safe)}>'


def _mesh_lines(mesh: Mesh) -> list[str]:
    lines = ["<mesh><vertices>"]
    lines += [f'<vertex x="{x!r}" y="{y!r}" z="{z!r}"/>' for x, y, z in mesh.vertices.tolist()]
    lines.append("</vertices><triangles>")
    lines += [f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in mesh.faces.tolist()]
    lines.append("</triangles></mesh>")
    return lines


_DATE = (1980, 1, 1, 0, 0, 0)
"""Time stamp of all parts, so that the same mesh gives the same bytes."""


def write(
    mesh: Mesh, stream: IO[bytes], name: str = "part", *, objects: Sequence[NamedFaces] = ()
) -> None:
    """Write a 3MF package with one item to build, unit millimetre; full double precision.

    Parameters
    ----------
    mesh : Mesh
        In millimetres.
    stream : binary file
    name : str
        Written as the object's name.
    objects : sequence of Part, optional
        Written as objects of their own, the item's components, at their places.

    Examples
    --------
    >>> import io
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> package = io.BytesIO()
    >>> write(cuboid(), package, "cube")
    >>> read(package.getvalue()).unit
    'mm'
    """
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<model unit="millimeter" xml:lang="en" xmlns="{CORE[1:-1]}"><resources>',
    ]
    last = len(objects) + 1
    for number, one in enumerate(objects, 1):
        named = Mesh(mesh.vertices, mesh.faces[one.faces]).compact()
        lines += [_opened(number, one.name), *_mesh_lines(named), "</object>"]
    lines.append(_opened(last, name))
    if objects:
        lines.append("<components>")
        lines += [f'<component objectid="{number}"/>' for number in range(1, last)]
        lines.append("</components>")
    else:
        lines += _mesh_lines(mesh)
    lines.append("</object></resources>")
    lines.append(f'<build><item objectid="{last}"/></build></model>')
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED, compresslevel=6) as package:
        for file, text in (
            ("[Content_Types].xml", _TYPES),
            ("_rels/.rels", _RELS),
            ("3D/3dmodel.model", "\n".join(lines)),
        ):
            # the same mesh gives the same bytes
            info = zipfile.ZipInfo(file, _DATE)
            info.compress_type = zipfile.ZIP_DEFLATED
            package.writestr(info, text)
