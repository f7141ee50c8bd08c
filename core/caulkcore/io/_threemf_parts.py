"""The parts of a 3MF package: found by its relations, and each model parsed as it is unpacked.

The package is never unpacked to disk, each part is read up to a limit, and the XML parser knows
neither entities nor the network.
"""

import posixpath
import zipfile
from array import array
from dataclasses import dataclass, field
from typing import IO

import numpy as np
from lxml import etree

from ..errors import RefusedInput
from ..mesh.arrays import Array
from .document import MAX_TRIANGLES

_SPACES = "http://schemas.microsoft.com/3dmanufacturing/"
"""What the name spaces of the format begin with."""
CORE = f"{{{_SPACES}core/2015/02}}"
"""Name space of the core specification."""
_PRODUCTION = f"{{{_SPACES}production/2015/06}}"
"""Of the production extension: objects in other model parts of the package."""
_MATERIALS = f"{{{_SPACES}material/2015/02}}"
"""Of the materials extension: colours, textures, mixtures."""
_EXTENSIONS = {
    _PRODUCTION[1:-1]: "production",
    _MATERIALS[1:-1]: "materials and colours",
    f"{_SPACES}beamlattice/2017/02": "beam lattices",
    f"{_SPACES}slice/2015/07": "slices",
    f"{_SPACES}securecontent/2019/04": "encrypted content",
    f"{_SPACES}volumetric/2022/01": "volumes",
    f"{_SPACES}implicit/2023/12": "implicit shapes",
    f"{_SPACES}displacement/2022/07": "displaced surfaces",
    f"{_SPACES}booleanoperations/2023/07": "unions of objects",
    f"{_SPACES}trianglesets/2021/07": "sets of triangles",
}
"""What the extensions of the format are called, by their name spaces."""
_UNDERSTOOD = {"production", "materials and colours", "sets of triangles"}
"""Those without which the shape is the same, or that are followed."""
_COLOURED = {
    "basematerials": "materials",
    "colorgroup": "colours",
    "texture2dgroup": "textures",
    "compositematerials": "materials",
}
"""Elements that tell of what a mesh does not carry."""
MODEL_TYPE = "http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"
"""Type of the relation to the model part."""
RELATIONS = "{http://schemas.openxmlformats.org/package/2006/relationships}"
"""Name space of the list of relations."""
UNITS = {
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
_MOST_RELATIONS = 1_000_000
"""Bytes of the list of relations, at most."""

Reference = tuple[str, str]
"""An object: the part of the package that it stands in, and its number there."""


@dataclass
class ModelObject:
    """An object of a model part: a mesh, or components."""

    points: array = field(default_factory=lambda: array("d"))
    corners: array = field(default_factory=lambda: array("q"))
    components: list[tuple[Reference, Array]] = field(default_factory=list)
    kind: str = "model"
    name: str = ""

    @property
    def triangles(self) -> int:
        return len(self.corners) // 3


@dataclass
class Model:
    """One model part."""

    unit: str = "millimeter"
    objects: dict[str, ModelObject] = field(default_factory=dict)
    items: list[tuple[Reference, Array]] = field(default_factory=list)
    carries: set[str] = field(default_factory=set)
    beams: int = 0


class _Limited:
    """A stream that is read up to a limit."""

    def __init__(self, stream: IO[bytes]) -> None:
        self._stream, self._left = stream, _MOST_BYTES

    def read(self, size: int = -1) -> bytes:
        data = self._stream.read(size)
        self._left -= len(data)
        if self._left < 0:
            raise RefusedInput("The package unpacks to more than 3 GB.")
        return data


class Package:
    """The model parts of a package, each parsed once, when it is asked for."""

    def __init__(self, package: zipfile.ZipFile) -> None:
        self._package = package
        self._names = {_normal(name): name for name in package.namelist()}
        self._models: dict[str, Model] = {}
        self.root = self._root()

    @property
    def models(self) -> list[Model]:
        """Those parsed so far."""
        return list(self._models.values())

    def model(self, part: str) -> Model:
        """A model part by its name in the package."""
        if part not in self._models:
            if part not in self._names:
                raise RefusedInput(f"The package has no part “{part[:60]}”.")
            with self._package.open(self._names[part]) as stream:
                self._models[part] = _parsed(_Limited(stream), part)
        return self._models[part]

    def object(self, reference: Reference) -> ModelObject:
        """An object by the part that it stands in and its number there."""
        part, number = reference
        found = self.model(part).objects.get(number)
        if found is None:
            where = "" if part == self.root else f" of “{part[:60]}”"
            raise RefusedInput(
                f"The build refers to object {number[:40]}{where}, which is not there."
            )
        return found

    def _root(self) -> str:
        relations = self._names.get("_rels/.rels")
        if relations and self._package.getinfo(relations).file_size < _MOST_RELATIONS:
            with self._package.open(relations) as stream:
                text = stream.read(_MOST_RELATIONS)
            try:
                root = etree.fromstring(text, _parser())
            except etree.XMLSyntaxError:
                raise RefusedInput("The package's list of parts is not valid XML.") from None
            for one in root.iter(f"{RELATIONS}Relationship"):
                if one.get("Type") == MODEL_TYPE:
                    return _normal(str(one.get("Target", "")))
        for name in self._names:
            if name.endswith(".model"):
                return name
        raise RefusedInput("The package holds no 3D model part.")


def _normal(name: str) -> str:
    """A part's name as all of a package are compared: from its root, in small letters."""
    return posixpath.normpath("/" + name).lstrip("/").lower()


def _parser() -> etree.XMLParser:
    return etree.XMLParser(
        resolve_entities=False, no_network=True, load_dtd=False, dtd_validation=False,
        huge_tree=False,
    )  # fmt: skip


def _transform(text: str | None) -> Array:
    matrix = np.eye(4)
    if text:
        values = [float(x) for x in text.split()]
        if len(values) != 12:
            raise ValueError
        matrix[:, :3] = np.array(values).reshape(4, 3)
    return matrix


def _parsed(stream: _Limited, part: str) -> Model:
    """Parse a model part while it is unpacked."""
    model = Model()
    current = ModelObject()
    events = etree.iterparse(
        stream, events=("start", "end"), resolve_entities=False, no_network=True,  # type: ignore[arg-type]
        load_dtd=False, huge_tree=False,
    )  # fmt: skip
    element = None
    try:
        for event, element in events:
            tag = element.tag if isinstance(element.tag, str) else ""
            space, _, name = tag.rpartition("}")
            if event == "start":
                if tag == f"{CORE}model":
                    _begin(model, element)
                elif tag == f"{CORE}object":
                    current = ModelObject(
                        kind=element.get("type", "model"), name=element.get("name", "")
                    )
                    model.objects[str(element.get("id"))] = current
                elif name in _COLOURED and f"{space}}}" in (CORE, _MATERIALS):
                    model.carries.add(_COLOURED[name])
                continue
            get = element.get
            if tag == f"{CORE}vertex":
                current.points.extend((float(get("x")), float(get("y")), float(get("z"))))
            elif tag == f"{CORE}triangle":
                current.corners.extend((int(get("v1")), int(get("v2")), int(get("v3"))))
                if current.triangles > MAX_TRIANGLES:
                    raise RefusedInput(f"More than {MAX_TRIANGLES:,} triangles.")
            elif tag == f"{CORE}component":
                current.components.append((_reference(element, part), _transform(get("transform"))))
            elif tag == f"{CORE}item":
                model.items.append((_reference(element, part), _transform(get("transform"))))
            elif name == "beam":
                model.beams += 1
            _let_go(element, name)
    except etree.XMLSyntaxError as problem:
        raise RefusedInput(f"The model is not valid XML at line {problem.lineno}.") from None
    except (TypeError, ValueError, OverflowError):
        line = element.sourceline if element is not None else 1
        raise RefusedInput(f"A number is missing or wrong at line {line} of the model.") from None
    return model


def _begin(model: Model, element: etree._Element) -> None:
    """Look at the element that all others stand in."""
    if element.getroottree().docinfo.internalDTD is not None:
        raise RefusedInput("The model declares entities; that is not allowed in 3MF.")
    model.unit = element.get("unit", model.unit)
    if model.unit not in UNITS:
        raise RefusedInput(f"The file's unit “{model.unit[:40]}” is not known.")
    for prefix in element.get("requiredextensions", "").split():
        space = element.nsmap.get(prefix, prefix)
        name = _EXTENSIONS.get(space, space)
        if name not in _UNDERSTOOD:
            raise RefusedInput(
                f"The file asks for an extension of 3MF that is not understood here: {name[:80]}. "
                "Its shape cannot be told without."
            )


def _reference(element: etree._Element, part: str) -> Reference:
    path = element.get(f"{_PRODUCTION}path")
    return _normal(path) if path else part, str(element.get("objectid"))


def _let_go(element: etree._Element, name: str) -> None:
    """Forget what has been read; of long lists every line before."""
    if name in ("vertex", "triangle", "object", "beam", "ref"):
        element.clear()
        while name != "object" and element.getprevious() is not None:
            del element.getparent()[0]  # type: ignore[union-attr]
