"""Is it the size the customer meant, and one that can be made and sent?"""

import numpy as np
from caulkcore.diagnose.components import part_sizes
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.io.stl import stl_bytes
from caulkcore.mesh.triangle_mesh import Mesh

from ..limits import Limits, worst_fit
from ..text import counted
from ..unit_guess import UnitGuess
from .finding import Finding, Place


def find(mesh: Mesh, unit: UnitGuess, limits: Limits) -> list[Finding]:
    """The findings of *Size*. While the unit is in doubt, nothing is said about the size itself.

    Parameters
    ----------
    mesh : Mesh
        In millimetres.
    unit : UnitGuess
    limits : Limits
        The shop's.

    Returns
    -------
    list of Finding

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkjob.unit_guess import GIVEN
    >>> [one.kind for one in find(cuboid((900.0, 5.0, 5.0)), GIVEN, Limits())]
    ['too-large']
    """
    found = [_file(mesh, limits)]
    if unit.doubtful:
        found.append(_whole(mesh, "unit-suspect", "call", unit.reason))
    else:
        found += [_large(mesh, limits), _small(mesh, limits)]
    return [f for f in found if f is not None]


def _whole(mesh: Mesh, kind: str, severity: str, text: str) -> Finding:
    low, high = mesh.bounds
    middle = (low + high) / 2
    measure = f"{float(mesh.size.max()):,.1f} mm long"
    longest = float(mesh.size.max())
    place = Place("The whole model", measure, 1, low, high, middle, np.zeros(3), value=longest)
    return Finding(kind, severity, 1, text, (place,))  # type: ignore[arg-type]


def _large(mesh: Mesh, limits: Limits) -> Finding | None:
    """A part that fits no machine of its process, however its sides are laid."""
    rooms = (limits.build_volume, limits.machines, limits.process)
    size, room, _ = worst_fit(mesh.size[None], *rooms)
    if (size <= room).all():
        return None  # what all of it fits, each part fits
    sizes = part_sizes(Diagnosis.of(mesh), limits.debris)
    size, room, machine = worst_fit(sizes, *rooms)
    if (size <= room).all():
        return None
    if machine is None:
        sides = limits.build_volume
        by = "the material takes" if limits.process else "the largest machine takes"
    else:
        sides = machine.sides
        by = f"“{machine.name}” takes, the machine it would fit best"
    told = " × ".join(f"{x:g}" for x in sides)
    over = float((size - np.sort(sides)).max())
    what = f"The largest of its {len(sizes):,} parts" if len(sizes) > 1 else "It"
    return _whole(
        mesh,
        "too-large",
        "call",
        f"{what} is {over:,.1f} mm longer than {by} ({told} mm). It must be scaled down, or cut "
        "into parts.",
    )


def _small(mesh: Mesh, limits: Limits) -> Finding | None:
    longest = float(mesh.size.max())
    if longest >= limits.smallest_part:
        return None
    return _whole(
        mesh,
        "too-small",
        "call",
        f"Its longest side is {longest:.2f} mm; below {limits.smallest_part:g} mm a part is lost "
        "in cleaning. Is it meant to be so small?",
    )


def _file(mesh: Mesh, limits: Limits) -> Finding | None:
    size = stl_bytes(len(mesh.faces))
    if size <= limits.file_bytes:
        return None
    return _whole(
        mesh,
        "file-too-big",
        "note",
        f"{counted(len(mesh.faces), 'triangle')} make {size / 1e6:,.0f} MB as binary STL; more "
        f"than {limits.file_bytes / 1e6:,.0f} MB is hard to send on.",
    )
