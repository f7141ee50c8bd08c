"""Remedies for what lies inside or about: voids, buried solids, debris."""

from collections.abc import Callable, Collection

import numpy as np
from caulkcore.diagnose.components import shells_of_faces
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.errors import OperationRefused
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.repair.remove_shells import remove_shells, with_nested_shells

from ..chosen_places import chosen_places, faces_of
from ..findings import inside
from ..findings.finding import Finding
from ..limits import USUAL, Limits
from ..operation import OperationResult
from ..text import counted, volume_text


def fill_voids(
    mesh: Mesh, places: Collection[int] | None = None, *, limits: Limits = USUAL
) -> OperationResult:
    """Fill sealed voids by leaving out their skin, with all that lies in them.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places to fill; all by default.
    limits : Limits
        The shop's.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If a place is not among those of the finding.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> inner = cuboid((2.0, 2.0, 2.0), at=(4.0, 4.0, 4.0))
    >>> void = Mesh(inner.vertices, inner.faces[:, ::-1])
    >>> fill_voids(concatenate([cuboid(), void])).done
    '1 void filled: 8.00 mm³.'
    """
    return _without(mesh, places, inside.sealed_void_finding, limits, ("void", "voids"), "filled")


def drop_buried(
    mesh: Mesh, places: Collection[int] | None = None, *, limits: Limits = USUAL
) -> OperationResult:
    """Leave out the skin of solids that lie inside another, with all that lies in them.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places to drop; all by default.
    limits : Limits
        The shop's.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If a place is not among those of the finding.
    """
    noun = ("buried solid", "buried solids")
    return _without(mesh, places, inside.buried_solid_finding, limits, noun, "left out")


def drop_debris(
    mesh: Mesh, places: Collection[int] | None = None, *, limits: Limits = USUAL
) -> OperationResult:
    """Leave out bits too small to be meant.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places to drop; all by default.
    limits : Limits
        The shop's.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If a place is not among those of the finding.
    """
    noun = ("bit of debris", "bits of debris")
    return _without(mesh, places, inside.debris_finding, limits, noun, "dropped")


def _without(
    mesh: Mesh,
    places: Collection[int] | None,
    find: Callable[[Diagnosis, Limits], Finding | None],
    limits: Limits,
    noun: tuple[str, str],
    done: str,
) -> OperationResult:
    diagnosis = Diagnosis.of(mesh)
    chosen = chosen_places(find(diagnosis, limits), places)
    outcome = remove_shells(diagnosis, shells_of_faces(diagnosis, faces_of(chosen)))
    if outcome.mesh is mesh:
        return OperationResult(mesh)
    shells, more = outcome.numbers["shells"], outcome.numbers["contents"]
    text = f"{counted(shells, *noun)} {done}"
    text += f", with {counted(more, 'shell')} inside" if more else ""
    text += f": {volume_text(outcome.numbers['volume_mm3'])}."
    return OperationResult(outcome.mesh, text, {"shells": shells + more})


def drop_pieces(mesh: Mesh, pieces: Collection[int]) -> OperationResult:
    """Take pieces out, each with all that lies in it.

    Parameters
    ----------
    mesh : Mesh
    pieces : collection of int
        Their numbers, from 1.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there is no such piece, or nothing would be left.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> two = concatenate([cuboid(), cuboid((2.0, 2.0, 2.0), at=(30.0, 0.0, 0.0))])
    >>> drop_pieces(two, [2]).done
    '1 piece taken out: 8.00 mm³.'
    """
    diagnosis = Diagnosis.of(mesh)
    return _left_after(diagnosis, chosen_shells(diagnosis, pieces), "taken out")


def extract(mesh: Mesh, pieces: Collection[int]) -> OperationResult:
    """Leave only some pieces, each with all that lies in it.

    Parameters
    ----------
    mesh : Mesh
    pieces : collection of int
        Their numbers, from 1.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there is no such piece.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> two = concatenate([cuboid(), cuboid((2.0, 2.0, 2.0), at=(30.0, 0.0, 0.0))])
    >>> round(extract(two, [2]).mesh.volume, 6)
    8.0
    """
    diagnosis = Diagnosis.of(mesh)
    return _left_after(diagnosis, ~chosen_shells(diagnosis, pieces), "left out")


def chosen_shells(diagnosis: Diagnosis, pieces: Collection[int]) -> Array:
    """Whether each shell is one of some pieces or lies in one.

    Parameters
    ----------
    diagnosis : Diagnosis
    pieces : collection of int
        Their numbers, from 1.

    Returns
    -------
    ndarray, shape (shells,), bool

    Raises
    ------
    OperationRefused
        If there is no such piece, or none is named.
    """
    count = diagnosis.shells[1]
    wrong = [n for n in pieces if not 1 <= n <= count]
    if wrong or not pieces:
        told = f"There is no piece {wrong[0]}." if wrong else "No piece is named."
        raise OperationRefused(told)
    return with_nested_shells(diagnosis, np.array(sorted(set(pieces))) - 1)


def _left_after(diagnosis: Diagnosis, gone: Array, past: str) -> OperationResult:
    if gone.all():
        raise OperationRefused("Nothing would be left of the model.")
    if not gone.any():
        return OperationResult(diagnosis.mesh, left=("Nothing else is there.",))
    outcome = remove_shells(diagnosis, np.flatnonzero(gone), with_contents=False)
    volume = diagnosis.shell_measures[0][gone].sum()
    done = f"{counted(int(gone.sum()), 'piece')} {past}: {volume_text(abs(float(volume)))}."
    return OperationResult(outcome.mesh, done, outcome.numbers)
