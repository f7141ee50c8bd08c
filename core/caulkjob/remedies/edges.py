"""Remedies for edges and vertices: cracks, over-shared edges, pinched vertices."""

from collections.abc import Collection

from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.repair.nonmanifold import split_nonmanifold_edges, split_nonmanifold_vertices
from caulkcore.repair.stitch import stitch_cracks as stitch

from ..chosen_places import chosen_places, lines_of
from ..findings import closed
from ..operation import OperationResult
from ..text import counted, length_text


def stitch_cracks(mesh: Mesh, places: Collection[int] | None = None) -> OperationResult:
    """Join the two sides of cracks, vertex to vertex.

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
    >>> torn = Mesh([[0, 0, 0], [1, 0, 0], [0, 1, 0], [1, 1e-4, 0], [0, 1.0001, 0], [1, 1, 0]],
    ...           [[0, 1, 2], [3, 5, 4]])
    >>> stitch_cracks(torn).done
    '2 crack edges stitched, by moving 2 vertices at most under 0.001 mm.'
    """
    diagnosis = Diagnosis.of(mesh)
    lines = lines_of(chosen_places(closed.cracks(diagnosis), places))
    outcome = stitch(diagnosis, lines.ravel())
    if outcome.mesh is mesh:
        return OperationResult(mesh)
    numbers = {"edges": len(lines), **outcome.numbers}
    done = f"{counted(len(lines), 'crack edge')} stitched, by moving "
    done += f"{counted(numbers['vertices_moved'], 'vertex', 'vertices')} at most "
    done += length_text(numbers["farthest_mm"])
    if numbers["faces_divided"]:
        done += f" and dividing {counted(numbers['faces_divided'], 'face')}"
    return OperationResult(outcome.mesh, f"{done}.", numbers)


def split_over_shared(mesh: Mesh, places: Collection[int] | None = None) -> OperationResult:
    """Divide edges with three or more faces into edges with two.

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
    lines = lines_of(chosen_places(closed.over_shared(diagnosis), places))
    outcome = split_nonmanifold_edges(diagnosis, lines)
    if outcome.mesh is mesh:
        return OperationResult(mesh)
    numbers = outcome.numbers
    apart = length_text(numbers["separation_mm"])
    done = f"{counted(numbers['edges'], 'over-shared edge')} split"
    if numbers["copies"]:
        done += f" by setting {counted(numbers['copies'], 'vertex', 'vertices')} apart {apart}"
    if numbers["bends"]:
        done += f"; {counted(numbers['bends'], 'edge')} bent away from another by as much"
    if numbers["wall_faces"]:
        done += f"; {counted(numbers['wall_faces'], 'face')} of inner walls or flaps dropped, all"
        done += " skin and no thickness"
    return OperationResult(outcome.mesh, f"{done}.", numbers)


def part_pinched(mesh: Mesh, places: Collection[int] | None = None) -> OperationResult:
    """Give each fan of faces at a pinched vertex a vertex of its own.

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
    if not chosen_places(closed.pinched(diagnosis), places):
        return OperationResult(mesh)
    vertices = diagnosis.nonmanifold_vertices
    if places is not None:
        vertices = vertices[[n - 1 for n in sorted(set(places))]]
    outcome = split_nonmanifold_vertices(diagnosis, vertices)
    numbers = outcome.numbers
    done = (
        f"{counted(numbers['vertices'], 'pinched vertex', 'pinched vertices')} parted, copies set "
        f"{length_text(numbers['separation_mm'])} apart."
    )
    return OperationResult(outcome.mesh, done, numbers)
