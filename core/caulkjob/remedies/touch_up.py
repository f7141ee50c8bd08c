"""Remedies for chosen faces: taken out, erased, turned, pushed, flattened, made a piece; a half
mirrored."""

from collections.abc import Callable, Sequence

import numpy as np
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.errors import OperationRefused
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.face_runs import faces_of_runs
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.outcome import Outcome, Skipped
from caulkcore.progress import SILENT, Progress
from caulkcore.remesh.displace_faces import Direction, Plane, flatten_faces, push_faces
from caulkcore.repair.erase_faces import delete_faces, erase_faces
from caulkcore.repair.fairing import FillShape
from caulkcore.repair.mirror_half import mirror_half
from caulkcore.repair.separate_faces import separate_faces

from ..operation import OperationResult
from ..text import counted, length_text
from .openings import filled

Faces = Sequence[int] | Array
"""Chosen faces: by runs (first, count, first, count, …), or whether each is chosen."""

_WHY: dict[str, Callable[[Skipped], str]] = {
    "nothing-chosen": lambda _: "No face is chosen.",
    "everything-chosen": lambda _: "Every face is chosen; nothing would be left.",
    "at-open-rim": lambda one: (
        f"{counted(one.numbers['rims'], 'rim')} ran along an open edge and stayed open."
    ),
    "piece-already": lambda _: "What is chosen is a piece of its own already.",
    "no-lid": lambda _: "No lid fits the rim of what is chosen.",
    "no-direction": lambda _: "What is chosen looks to all sides; it has no direction.",
    "no-rim": lambda _: "What is chosen has no rim that could give the plane.",
    "flat-already": lambda _: "It is flat already.",
    "would-intersect": lambda one: (
        "Faces would cross; "
        + (
            f"{length_text(one.numbers['reached_mm'])} is what could be reached."
            if one.numbers["reached_mm"] > 0
            else "however little it is moved."
        )
    ),
    "no-plane": lambda _: (
        "No open rim lies in a plane with all of the model on one side: it is no half."
    ),
}
"""What is said of each reason why faces were left as they were."""


def chosen_faces(mesh: Mesh, faces: Faces) -> Array:
    """Whether each face of a mesh is among the chosen ones, shape (m,).

    Parameters
    ----------
    mesh : Mesh
    faces : sequence of int, or ndarray, shape (m,), bool
        By runs, or one by one.

    Returns
    -------
    ndarray, shape (m,), bool

    Raises
    ------
    OperationRefused
        If there are no such faces.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> int(chosen_faces(cuboid(), [2, 4]).sum())
    4
    """
    if isinstance(faces, np.ndarray):
        return faces
    try:
        return faces_of_runs(faces, len(mesh.faces))
    except ValueError:
        raise OperationRefused("What was chosen are no faces of this revision.") from None


def _told(outcome: Outcome, mesh: Mesh, done: Callable[[], str]) -> OperationResult:
    left = tuple(_WHY[one.reason](one) for one in outcome.skipped)
    if outcome.mesh is mesh:
        return OperationResult(mesh, left=left)
    return OperationResult(outcome.mesh, done(), outcome.numbers, left)


def delete(mesh: Mesh, faces: Faces) -> OperationResult:
    """Take the chosen faces out; their rim stays open.

    Parameters
    ----------
    mesh : Mesh
    faces : sequence of int, or ndarray of bool

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there are no such faces.
    """
    outcome = delete_faces(mesh, chosen_faces(mesh, faces))
    return _told(
        outcome, mesh, lambda: f"{counted(outcome.numbers['faces'], 'triangle')} taken out."
    )


def erase(mesh: Mesh, faces: Faces, *, shape: FillShape = "fitting") -> OperationResult:
    """Take the chosen faces out and go on with the surface where they were.

    Parameters
    ----------
    mesh : Mesh
    faces : sequence of int, or ndarray of bool
    shape : {"fitting", "flat", "following"}
        See `caulkcore.repair.erase_faces.erase_faces`.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there are no such faces.
    """
    outcome = erase_faces(mesh, chosen_faces(mesh, faces), shape=shape)

    def done() -> str:
        taken, holes, added = (outcome.numbers[key] for key in ("faces", "holes", "added"))
        closed = f", {counted(holes, 'hole')} closed with {counted(added, 'triangle')}"
        return f"{counted(taken, 'triangle')} erased{closed if holes else ''}."

    return _told(outcome, mesh, done)


def close_here(mesh: Mesh, faces: Faces, *, shape: FillShape = "fitting") -> OperationResult:
    """Close the open rims that the chosen faces touch.

    Parameters
    ----------
    mesh : Mesh
    faces : sequence of int, or ndarray of bool
    shape : {"fitting", "flat", "following"}
        See `caulkcore.repair.holes.fill_holes`.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there are no such faces.
    """
    chosen = chosen_faces(mesh, faces)
    diagnosis = Diagnosis.of(mesh)
    touched = np.zeros(len(mesh.vertices), dtype=bool)
    touched[mesh.faces[chosen]] = True
    found = diagnosis.boundary_loops
    loops = [i for i in range(len(found)) if touched[found[i].vertices].any() and found.closed[i]]
    if not loops:
        return OperationResult(mesh, left=("What is chosen touches no open rim.",))
    return filled(diagnosis, np.array(loops), shape, open_sheets=True)


def turn_over(mesh: Mesh, faces: Faces) -> OperationResult:
    """Turn the chosen faces over.

    Parameters
    ----------
    mesh : Mesh
    faces : sequence of int, or ndarray of bool

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there are no such faces.
    """
    chosen = chosen_faces(mesh, faces)
    if not chosen.any():
        return OperationResult(mesh, left=(_WHY["nothing-chosen"](Skipped("nothing-chosen")),))
    turned = np.where(chosen[:, None], mesh.faces[:, ::-1], mesh.faces)
    done = f"{counted(int(chosen.sum()), 'triangle')} turned over."
    return OperationResult(Mesh(mesh.vertices, turned), done)


def push(
    mesh: Mesh,
    faces: Faces,
    *,
    distance: float,
    falloff: float = 0.0,
    direction: Direction = "together",
    progress: Progress = SILENT,
) -> OperationResult:
    """Move the chosen faces out or in; the surface around follows less and less.

    Parameters
    ----------
    mesh : Mesh
    faces : sequence of int, or ndarray of bool
    distance : float
        mm; below zero into the material.
    falloff : float
        How far around the surface follows, mm.
    direction : {"together", "outward"}
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there are no such faces, or the fall-off would take too many triangles.
    Cancelled
        If `progress` asks to stop.
    """
    if distance == 0:
        return OperationResult(mesh, left=("By nothing at all, it stays where it is.",))
    chosen = chosen_faces(mesh, faces)
    outcome = push_faces(
        mesh, chosen, distance, falloff=falloff, direction=direction, progress=progress
    )
    way = "out" if distance > 0 else "in"

    def done() -> str:
        moved = counted(outcome.numbers["moved"], "vertex", "vertices")
        return f"{moved} pushed {way} by {length_text(outcome.numbers['furthest_mm'])} at most."

    return _told(outcome, mesh, done)


def flatten(
    mesh: Mesh, faces: Faces, *, plane: Plane = "middle", progress: Progress = SILENT
) -> OperationResult:
    """Lay the chosen faces into a plane.

    Parameters
    ----------
    mesh : Mesh
    faces : sequence of int, or ndarray of bool
    plane : {"middle", "rim"}
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there are no such faces.
    Cancelled
        If `progress` asks to stop.
    """
    outcome = flatten_faces(mesh, chosen_faces(mesh, faces), plane=plane, progress=progress)

    def done() -> str:
        moved = counted(outcome.numbers["moved"], "vertex", "vertices")
        return f"{moved} laid flat, moved by {length_text(outcome.numbers['furthest_mm'])} at most."

    return _told(outcome, mesh, done)


def separate(mesh: Mesh, faces: Faces, *, gap: float) -> OperationResult:
    """Make a piece of its own of the chosen faces, both sides closed.

    Parameters
    ----------
    mesh : Mesh
    faces : sequence of int, or ndarray of bool
    gap : float
        Between the two, mm.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there are no such faces.
    """
    outcome = separate_faces(mesh, chosen_faces(mesh, faces), gap=gap)

    def done() -> str:
        rims = counted(outcome.numbers["rims"], "rim")
        return f"A piece made of {counted(outcome.numbers['faces'], 'triangle')}, {rims} closed."

    return _told(outcome, mesh, done)


def mirror(mesh: Mesh) -> OperationResult:
    """Complete a half by its mirror image about the plane of its open rim.

    Parameters
    ----------
    mesh : Mesh

    Returns
    -------
    OperationResult
    """
    outcome = mirror_half(Diagnosis.of(mesh))

    def done() -> str:
        moved = outcome.numbers["furthest_mm"]
        rim = f"; its rim moved by {length_text(moved)} at most" if moved >= 0.001 else ""
        return f"{counted(outcome.numbers['faces'], 'triangle')} mirrored{rim}."

    return _told(outcome, mesh, done)
