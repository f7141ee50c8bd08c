"""Union, difference and intersection of two solids, exact until rounded to float32."""

from typing import Literal

import numpy as np

from ..arrangement.arrange import ArrangementFailed
from ..arrangement.outer_hull import outer_hull, wound_region
from ..arrangement.slivers import take_out_slivers
from ..diagnose.diagnosis import Diagnosis
from ..mesh.changed_faces import changed_faces
from ..mesh.concatenate import concatenate
from ..mesh.triangle_mesh import Mesh
from ..mesh.weld import welded
from ..outcome import Outcome, Skipped
from ..progress import SILENT, Progress

Boolean = Literal["union", "difference", "intersection"]
"""What is asked for: all of both, what of the first is not of the second, what is of both."""


def boolean(a: Mesh, b: Mesh, what: Boolean, *, progress: Progress = SILENT) -> Outcome:
    """Combine two solids.

    Both are arranged together; what is wanted is the space that their surfaces, the second one
    turned inside out for a difference, wind round often enough. Faces that meet nothing stay as
    they are.

    Parameters
    ----------
    a, b : Mesh
        Closed; each may consist of several pieces, with voids in them. Where one crosses itself,
        it counts as what it encloses.
    what : {"union", "difference", "intersection"}
    progress : Progress

    Returns
    -------
    Outcome
        Of `a`. Numbers: ``volume_mm3``. Skipped: ``open`` with ``which``, 1 or 2;
        ``nothing-left``; ``nothing-changes``; ``not-arranged`` with a ``message``.

    Raises
    ------
    Cancelled
        If `progress` asks to stop.

    References
    ----------
    Zhou et al. 2016, *Mesh arrangements for solid geometry*.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> one, two = cuboid(), cuboid((4.0, 4.0, 4.0), at=(3.0, 3.0, 8.0))
    >>> [round(boolean(one, two, what).mesh.volume, 3)
    ...  for what in ("union", "difference", "intersection")]
    [1032.0, 968.0, 32.0]
    """
    try:
        solids = []
        for which, one in enumerate((a, b), 1):
            progress.step("Looking whether each is a solid", 0.1 * which)
            solid = _solid(one)
            if solid is None:
                return Outcome(a, skipped=(Skipped("open", {"which": which}),))
            solids.append(solid)
        first, second = solids
        if what == "difference":
            second = Mesh(second.vertices, second.faces[:, ::-1])
        both = welded(concatenate([first, second]))
        progress.step("Arranging both", 0.3)
        # neither meets itself any more: of each pair one face is of the smaller one
        is_second = np.arange(len(both.faces)) >= len(first.faces)
        fewer = is_second if len(second.faces) < len(first.faces) else ~is_second
        made = wound_region(both, 2 if what == "intersection" else 1, fresh=fewer)
        if made is None:
            return Outcome(a, skipped=(Skipped("nothing-left"),))
        progress.step("Taking slivers out", 0.8)
        fresh = changed_faces(both, made)[1]
        made = take_out_slivers(made, fresh, source=both).mesh
    except ArrangementFailed as problem:
        return Outcome(a, skipped=(Skipped("not-arranged", {"message": str(problem)}),))
    if not any(side.any() for side in changed_faces(a, made)):
        return Outcome(a, skipped=(Skipped("nothing-changes"),))
    return Outcome(made, {"volume_mm3": made.volume})


def _solid(mesh: Mesh) -> Mesh | None:
    """A mesh whose space is wound round once at most; none where it is open."""
    diagnosis = Diagnosis.of(mesh)
    if not len(mesh.faces) or diagnosis.open_shells.any():
        return None
    volume, _ = diagnosis.shell_measures
    depth, _ = diagnosis.nesting
    as_they_lie = ((volume > 0) == (depth % 2 == 0)).all()
    if as_they_lie and not len(diagnosis.intersecting_pairs):
        return mesh
    return outer_hull(mesh).mesh


def bounds_meet(a: Mesh, b: Mesh) -> bool:
    """Whether the boxes round two meshes have a point in common.

    Parameters
    ----------
    a, b : Mesh

    Returns
    -------
    bool
    """
    (low, high), (lowest, highest) = a.bounds, b.bounds
    return bool(np.all(low <= highest) and np.all(lowest <= high))
