"""3MF, core specification: objects, components, build items with transforms, units.

The package is never unpacked to disk, each part is read up to a limit, and the XML parser knows
neither entities nor the network.
"""

import io
import lzma
import posixpath
import struct
import zipfile
import zlib
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import IO
from xml.sax.saxutils import quoteattr

import numpy as np
from lxml import etree

from ..errors import RefusedInput
from ..mesh.arrays import Array
from ..mesh.triangle_mesh import Mesh
from .document import MAX_TRIANGLES, MeshDocument, make_document
from .labels import NamedFaces

_CORE = "{http://schemas.microsoft.com/3dmanufacturing/core/2015/02}"
"""Name space of the core specification."""
_MODEL_TYPE = "http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"
"""Type of the relation to the model part."""
_RELATIONS = "{http://schemas.openxmlformats.org/package/2006/relationships}"
"""Name space of the list of relations."""
_UNITS = {
    "millimeter": ("mm", 1.0),
    "centimeter": ("cm", 1.0),
    "meter": ("m", 1.0),
    "inch": ("in", 1.0),
    "foot": ("ft", 1.0),
    "micron": ("mm", 1e-3),
}
"""The format's units: ours, and the factor to it."""
_MOST_BYTES = 3_000_000_000
"""Largest model part that is unpacked."""
_DEEPEST = 32
"""Components within components, at most: deeper ones contain themselves."""
_MOST_PARTS = 100_000
"""Objects and components that a build may place."""
_BROKEN_ZIP = (
    zipfile.BadZipFile, zlib.error, lzma.LZMAError, struct.error, NotImplementedError, EOFError,
    RuntimeError, OSError, ValueError,
)  # fmt: skip
"""What reading a damaged archive may raise."""


@dataclass
class _Object:
    vertices: list[tuple[float, float, float]] = field(default_factory=list)
    triangles: list[tuple[int, int, int]] = field(default_factory=list)
    components: list[tuple[str, Array]] = field(default_factory=list)
    kind: str = "model"
    name: str = ""


def read(data: bytes) -> MeshDocument:
    """Read a 3MF package: everything on its build plate, in place, as one mesh.

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
        If it is no package, holds no mesh, refers to what is not there, or is beyond a limit.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as package:
            model = _part(package, _model_name(package))
    except _BROKEN_ZIP:
        raise RefusedInput("This is not a 3MF package, or it was cut off.") from None
    unit, objects, items = _parse(model)
    notes = []
    if not items:
        items = [(name, np.eye(4)) for name, one in objects.items() if one.triangles]
        if items:
            notes.append("Nothing is placed for building; all objects were read.")
    points: list[Array] = []
    faces: list[Array] = []
    names: list[str] = []
    _must_be_bounded(objects, [name for name, _ in items])
    for number, (name, transform) in enumerate(items, 1):
        first = len(faces)
        _place(objects, name, transform, points, faces, names)
        # what the package does not name is told by its number on the plate
        names[first:] = [n or f"Object {number}" for n in names[first:]]
    if not faces:
        raise RefusedInput("The package holds no triangles.")
    starts = np.cumsum([0, *(len(p) for p in points[:-1])])
    corners = np.concatenate([f + s for f, s in zip(faces, starts, strict=True)])
    if len(items) > 1:
        notes.append(f"{len(items)} objects were read together, at their places.")
    key, scale = _UNITS[unit]
    of_face = np.repeat(np.arange(len(faces)), [len(f) for f in faces])
    whole = np.concatenate(points) * scale
    return make_document(whole, corners, "3mf", notes, (key, unit), labels=(names, of_face))


def _part(package: zipfile.ZipFile, name: str) -> bytes:
    try:
        with package.open(name) as stream:
            data = stream.read(_MOST_BYTES + 1)
    except KeyError:
        raise RefusedInput(f"The package has no part “{name[:60]}”.") from None
    if len(data) > _MOST_BYTES:
        raise RefusedInput("The package unpacks to more than 3 GB.")
    return data


def _parser() -> etree.XMLParser:
    return etree.XMLParser(
        resolve_entities=False, no_network=True, load_dtd=False, dtd_validation=False,
        huge_tree=False,
    )  # fmt: skip


def _model_name(package: zipfile.ZipFile) -> str:
    names = {n.lower(): n for n in package.namelist()}
    if "_rels/.rels" in names:
        info = package.getinfo(names["_rels/.rels"])
        if info.file_size < 1_000_000:
            try:
                root = etree.fromstring(_part(package, info.filename), _parser())
            except etree.XMLSyntaxError:
                raise RefusedInput("The package's list of parts is not valid XML.") from None
            for one in root.iter(f"{_RELATIONS}Relationship"):
                if one.get("Type") == _MODEL_TYPE:
                    target = posixpath.normpath("/" + str(one.get("Target", ""))).lstrip("/")
                    return names.get(target.lower(), target)
    for lower, name in names.items():
        if lower.endswith(".model"):
            return name
    raise RefusedInput("The package holds no 3D model part.")


def _numbers(text: str | None, count: int) -> list[float]:
    values = [float(x) for x in (text or "").split()]
    if len(values) != count:
        raise ValueError
    return values


def _transform(text: str | None) -> Array:
    matrix = np.eye(4)
    if text:
        matrix[:, :3] = np.array(_numbers(text, 12)).reshape(4, 3)
    return matrix


def _parse(model: bytes) -> tuple[str, dict[str, _Object], list[tuple[str, Array]]]:
    unit = "millimeter"
    objects: dict[str, _Object] = {}
    items: list[tuple[str, Array]] = []
    current = _Object()
    prolog = model[: max(model.find(b"<model"), 4096)]
    if b"<!DOCTYPE" in prolog or b"<!ENTITY" in prolog:
        raise RefusedInput("The model declares entities; that is not allowed in 3MF.")
    events = etree.iterparse(
        io.BytesIO(model), events=("start", "end"), resolve_entities=False, no_network=True,
        load_dtd=False, huge_tree=False,
    )  # fmt: skip
    try:
        for event, element in events:
            tag = element.tag.removeprefix(_CORE) if isinstance(element.tag, str) else ""
            if event == "start":
                if tag == "model":
                    unit = element.get("unit", unit)
                    if unit not in _UNITS:
                        raise RefusedInput(f"The file's unit “{unit[:40]}” is not known.")
                elif tag == "object":
                    current = _Object(
                        kind=element.get("type", "model"), name=element.get("name", "")
                    )
                    objects[str(element.get("id"))] = current
                continue
            get = element.get
            if tag == "vertex":
                current.vertices.append((float(get("x")), float(get("y")), float(get("z"))))
            elif tag == "triangle":
                current.triangles.append((int(get("v1")), int(get("v2")), int(get("v3"))))
                if len(current.triangles) > MAX_TRIANGLES:
                    raise RefusedInput(f"More than {MAX_TRIANGLES:,} triangles.")
            elif tag == "component":
                component = (str(get("objectid")), _transform(get("transform")))
                current.components.append(component)
            elif tag == "item":
                items.append((str(get("objectid")), _transform(get("transform"))))
            if tag in ("vertex", "triangle", "object"):
                element.clear()
                while tag != "object" and element.getprevious() is not None:
                    del element.getparent()[0]
    except etree.XMLSyntaxError as problem:
        raise RefusedInput(f"The model is not valid XML at line {problem.lineno}.") from None
    except (TypeError, ValueError, OverflowError):
        line = element.sourceline
        raise RefusedInput(f"A number is missing or wrong at line {line} of the model.") from None
    return unit, objects, items


def _must_be_bounded(objects: dict[str, _Object], items: list[str]) -> None:
    """Refuse what would unfold into too much, before anything is unfolded.

    Each object is counted once, however often it is placed.
    """
    known: dict[str, tuple[int, int]] = {}

    def count(name: str, depth: int) -> tuple[int, int]:
        if name not in objects:
            raise RefusedInput(f"The build refers to object {name[:40]}, which is not there.")
        if depth > _DEEPEST:
            raise RefusedInput("Objects are nested too deeply, or contain themselves.")
        if name not in known:
            one = objects[name]
            triangles, parts = len(one.triangles), 1
            for component, _ in one.components:
                more, inner = count(component, depth + 1)
                triangles += more
                parts += inner
            known[name] = triangles, parts
        return known[name]

    counts = [count(name, 0) for name in items]
    if sum(parts for _, parts in counts) > _MOST_PARTS:
        raise RefusedInput(f"The build places more than {_MOST_PARTS:,} objects and components.")
    if sum(triangles for triangles, _ in counts) > MAX_TRIANGLES:
        raise RefusedInput(f"The build holds more than {MAX_TRIANGLES:,} triangles.")


def _place(
    objects: dict[str, _Object],
    name: str,
    transform: Array,
    points: list[Array],
    faces: list[Array],
    names: list[str],
) -> None:
    """Append an object and its components, transformed."""
    one = objects[name]
    if one.kind in ("support", "other"):
        return
    if one.triangles:
        corners = np.array(one.triangles, dtype=np.int64)
        if corners.min() < 0 or corners.max() >= len(one.vertices):
            raise RefusedInput(f"Object {name[:40]} names a vertex that is not there.")
        placed = np.array(one.vertices) @ transform[:3, :3] + transform[3, :3]
        points.append(placed)
        names.append(one.name)
        mirrored = np.linalg.det(transform[:3, :3]) < 0
        faces.append(corners[:, ::-1] if mirrored else corners)
    for component, inner in one.components:
        _place(objects, component, inner @ transform, points, faces, names)


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
    f'<Relationships xmlns="{_RELATIONS[1:-1]}"><Relationship Target="/3D/3dmodel.model" '
    f'Id="rel0" Type="{_MODEL_TYPE}"/></Relationships>'
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
        f'<model unit="millimeter" xml:lang="en" xmlns="{_CORE[1:-1]}"><resources>',
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
