"""The number by which people know a piece, kept through changes while others come or go."""

from collections.abc import Mapping
from itertools import count as count_from

import numpy as np
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.io.labels import Labels
from caulkcore.mesh.triangle_mesh import Mesh, face_areas


def numbers_after(
    before: Mesh,
    numbers: Mapping[int, int],
    after: Mesh,
    first_free: int,
    *,
    unmoved: Mesh | None = None,
) -> list[int]:
    """The number of each shell of a changed mesh.

    A shell keeps the number of the one that most of its surface comes from. Where two come from
    the same, the one with more of it keeps the number and the other is a new piece.

    Parameters
    ----------
    before : Mesh
    numbers : mapping of int to int
        Number of each shell of it; shells that are not in it have none.
    after : Mesh
        What was made of it.
    first_free : int
        The least number that no piece has had so far.
    unmoved : Mesh, optional
        `after` with every piece where it was before it was moved, if any was.

    Returns
    -------
    list of int
        One for each shell of `after`, in order.

    Examples
    --------
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> here, there = cuboid(), cuboid(at=(50.0, 0.0, 0.0))
    >>> numbers_after(concatenate([here, there]), {0: 1, 1: 2}, there, 3)
    [2]
    """
    shell_before, count_before = Diagnosis.of(before).shell_of_face, Diagnosis.of(before).shells[1]
    shell, count = Diagnosis.of(after).shell_of_face, Diagnosis.of(after).shells[1]
    if not len(after.faces) or not len(before.faces):
        return [first_free + i for i in range(count)]
    if count == count_before == 1:
        return [numbers.get(0, first_free)]
    known = np.array([numbers.get(s, 0) for s in range(count_before)] + [0])
    # the last label stands for faces of no shell
    of_face = known[Labels((), shell_before).carried(before, unmoved or after).of_face]
    counted = shell >= 0
    pairs, row_of = np.unique(
        np.stack([shell[counted], of_face[counted]], axis=1), axis=0, return_inverse=True
    )
    area = np.bincount(row_of.ravel(), face_areas(after.vertices, after.faces)[counted])
    told = [0] * count
    taken = {0}
    for row in np.argsort(-area, kind="stable").tolist():
        s, number = pairs[row].tolist()
        if not told[s] and number not in taken:
            told[s] = number
            taken.add(number)
    new = count_from(first_free)
    return [number or next(new) for number in told]
