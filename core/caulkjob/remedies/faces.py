"""Remedies for single faces and their direction: copies, faces without area, wrong-way patches."""

from collections.abc import Collection

import numpy as np
from caulkcore.arrangement.slivers import SLIVER
from caulkcore.diagnose.components import shells_of_faces
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.repair.degenerate import remove_degenerate_faces, remove_duplicate_faces
from caulkcore.repair.orient import orient_outward, orient_patches
from caulkcore.repair.remove_shells import remove_shells

from ..chosen_places import chosen_places, faces_of
from ..findings import closed
from ..operation import OperationResult
from ..text import counted


def drop_duplicates(mesh: Mesh, places: Collection[int] | None = None) -> OperationResult:
    """Leave one face of each group that stands on the same three vertices.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places to mend; all by default.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If a place is not among those of the finding.
    """
    diagnosis = Diagnosis.of(mesh)
    extra = faces_of(chosen_places(closed.duplicates(diagnosis), places))
    outcome = remove_duplicate_faces(diagnosis, extra)
    if outcome.mesh is mesh:
        return OperationResult(mesh)
    cancelled = outcome.numbers["cancelled"]
    done = f"{counted(len(extra), 'duplicate face')} dropped"
    if cancelled:
        done += f", with {counted(cancelled, 'inner wall face')} that cancelled out"
    numbers = {"faces": len(extra) + cancelled, "cancelled": cancelled}
    return OperationResult(outcome.mesh, f"{done}.", numbers)


def drop_zero_area(mesh: Mesh, places: Collection[int] | None = None) -> OperationResult:
    """Take out faces without area and leave the skin closed round them.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places to mend; all by default.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If a place is not among those of the finding.
    """
    diagnosis = Diagnosis.of(mesh)
    chosen = faces_of(chosen_places(closed.zero_area(diagnosis), places))
    outcome = remove_degenerate_faces(diagnosis, chosen)
    stay = min(outcome.numbers.get("slivers_left", 0), len(chosen))
    told = f"{counted(stay, 'face')} without area left: what lies round would cross without."
    left = (told,) if stay else ()
    if outcome.mesh is mesh:
        return OperationResult(mesh, left=left)
    flipped, moved = outcome.numbers["edges_flipped"], outcome.numbers["corners_moved"]
    done = f"{counted(len(chosen) - stay, 'face')} without area taken out"
    done += f", {counted(flipped, 'edge')} turned" if flipped else ""
    done += f", {counted(moved, 'corner')} moved by less than {SLIVER} mm." if moved else "."
    return OperationResult(outcome.mesh, done, outcome.numbers, left)


def turn_patches(mesh: Mesh, places: Collection[int] | None = None) -> OperationResult:
    """Turn faces that run against the majority of their neighbours.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places to mend; all by default.

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
    >>> cube = cuboid()
    >>> turned = [*cube.faces[:1, ::-1].tolist(), *cube.faces[1:].tolist()]
    >>> turn_patches(Mesh(cube.vertices, turned)).done
    '1 face turned.'
    """
    diagnosis = Diagnosis.of(mesh)
    chosen = faces_of(chosen_places(closed.flipped(diagnosis), places))
    outcome = orient_patches(diagnosis, chosen)
    left = tuple(
        f"{counted(one.numbers['faces'], 'face')} of a one-sided surface cannot be made "
        "to agree; it must be cut first."
        for one in outcome.skipped
    )
    if outcome.mesh is mesh:
        return OperationResult(mesh, left=left)
    done = f"{counted(outcome.numbers['faces'], 'face')} turned."
    return OperationResult(outcome.mesh, done, outcome.numbers, left)


def turn_outward(mesh: Mesh, places: Collection[int] | None = None) -> OperationResult:
    """Turn shells that are inside out, together with all that lies inside them.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places to mend; all by default.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If a place is not among those of the finding.
    """
    diagnosis = Diagnosis.of(mesh)
    chosen = chosen_places(closed.inside_out(diagnosis), places)
    shells = shells_of_faces(diagnosis, faces_of(chosen))
    outcome = orient_outward(diagnosis, shells) if len(shells) else None
    if outcome is None or outcome.mesh is mesh:
        return OperationResult(mesh)
    n, inner = outcome.numbers["shells"], outcome.numbers["contents"]
    done = f"{counted(n, 'shell')} turned outward"
    done += f", with {counted(inner, 'shell')} inside." if inner else "."
    return OperationResult(outcome.mesh, done, outcome.numbers)


def drop_scraps(mesh: Mesh) -> OperationResult:
    """Drop open sheets that cannot be meant: very small ones, and those inside a solid.

    Parameters
    ----------
    mesh : Mesh

    Returns
    -------
    OperationResult
    """
    diagnosis = Diagnosis.of(mesh)
    small, enclosed = diagnosis.small_sheets, diagnosis.enclosed_sheets
    outcome = remove_shells(diagnosis, np.flatnonzero(small | enclosed), with_contents=False)
    if outcome.mesh is mesh:
        return OperationResult(mesh)
    kinds = (
        (small, "scrap", "open on all sides"),
        (enclosed, "sheet", "wholly inside a solid"),
    )
    told = [f"{counted(int(k.sum()), noun)} dropped, {why}" for k, noun, why in kinds if k.any()]
    faces = outcome.numbers["faces"]
    numbers = {"sheets": outcome.numbers["shells"], "faces": faces}
    done = f"{'; '.join(told)}: {counted(faces, 'triangle')}."
    return OperationResult(outcome.mesh, done, numbers)
