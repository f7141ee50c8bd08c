"""What a file calls the parts of its mesh: groups and objects, kept through mending."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ..mesh.arrays import Array
from ..mesh.groups import Groups
from ..mesh.triangle_mesh import Mesh
from ..spatial.box_tree import Tree

LONGEST = 80
"""Characters of a name that are kept."""
_NAMES_TOLD = 2
"""Names of a shell that are told; of more, only how many."""


@dataclass(frozen=True, eq=False)
class Labels:
    """The name that each face of a mesh goes by.

    Attributes
    ----------
    names : tuple of str
    of_face : ndarray, shape (m,), int32
        Index of each face's name.
    """

    names: tuple[str, ...]
    of_face: Array

    @classmethod
    def of(cls, names: list[str], of_face: Array) -> "Labels | None":
        """Labels with equal names put together; None unless there are two that differ.

        Parameters
        ----------
        names : list of str
        of_face : ndarray, shape (m,)
            Index of each face's name.

        Returns
        -------
        Labels or None

        Examples
        --------
        >>> labels = Labels.of(["lid", "box"], np.array([0, 1, 1]))
        >>> labels.names, labels.of_face.tolist()
        (('box', 'lid'), [1, 0, 0])
        """
        plain = ["".join(c for c in n.strip() if c.isprintable())[:LONGEST] for n in names]
        used = np.unique(of_face)
        different = sorted({plain[i] for i in used.tolist()})
        if len(different) < 2:
            return None
        renumber = np.array([different.index(n) if n in different else 0 for n in plain])
        return cls(tuple(different), renumber[of_face].astype(np.int32))

    @classmethod
    def joined(cls, parts: "Sequence[tuple[str, Labels | None, int]]") -> "Labels | None":
        """The labels of several meshes put together.

        Parameters
        ----------
        parts : sequence of (str, Labels or None, int)
            Of each mesh what it is called, the labels within it, and how many faces it has.

        Returns
        -------
        Labels or None

        Examples
        --------
        >>> Labels.joined([("box", None, 2), ("lid", None, 1)]).of_face.tolist()
        [0, 0, 1]
        """
        names: list[str] = []
        of_face = []
        for name, labels, faces in parts:
            own = np.zeros(faces, dtype=np.int64) if labels is None else labels.of_face
            of_face.append(own + len(names))
            names.extend([name] if labels is None else labels.names)
        return cls.of(names, np.concatenate(of_face))

    @classmethod
    def renamed(
        cls, labels: "Labels | None", shell: Array, names: Mapping[int, str]
    ) -> "Labels | None":
        """The labels with some shells called otherwise.

        Parameters
        ----------
        labels : Labels or None
        shell : ndarray, shape (m,)
            Shell of each face; -1 for faces of none.
        names : mapping of int to str
            What some shells are called.

        Returns
        -------
        Labels or None

        Examples
        --------
        >>> shell = np.array([0, 0, 1])
        >>> made = Labels.renamed(None, shell, {1: "lid"})
        >>> made.names, made.of_face.tolist()
        (('', 'lid'), [0, 0, 1])
        """
        known = ("",) if labels is None else labels.names
        of_face = np.zeros(len(shell), dtype=np.int32) if labels is None else labels.of_face.copy()
        for i, which in enumerate(names):
            of_face[shell == which] = len(known) + i
        return cls.of([*known, *names.values()], of_face)

    def carried(self, before: Mesh, after: Mesh) -> "Labels":
        """The labels of a mesh that was made from another.

        Faces on the same vertices keep theirs, wherever those are now; else each has that of the
        nearest face.

        Parameters
        ----------
        before : Mesh
            The mesh that the labels belong to.
        after : Mesh

        Returns
        -------
        Labels
        """
        if np.array_equal(after.faces, before.faces) or not len(after.faces):
            return self
        middles = after.vertices[after.faces].mean(axis=1)
        _, nearest = Tree.of(before.vertices, before.faces).nearest(middles)
        return Labels(self.names, self.of_face[nearest])

    def of_shells(self, shell: Array, count: int) -> list[str]:
        """What to call each shell: the names of its faces, the commonest first.

        Parameters
        ----------
        shell : ndarray, shape (m,)
            Shell of each face; -1 for faces of none.
        count : int
            Number of shells.

        Returns
        -------
        list of str
            Empty for shells without a name.
        """
        told = [""] * count
        counts = shell[shell >= 0] * np.int64(len(self.names)) + self.of_face[shell >= 0]
        key, times = np.unique(counts, return_counts=True)
        by_shell = Groups.by_label(key // len(self.names))
        for rows in (by_shell[i] for i in range(len(by_shell))):
            best = rows[np.argsort(-times[rows], kind="stable")]
            names = [self.names[k] for k in (key[best] % len(self.names)).tolist()]
            named = [n for n in names if n]
            more = len(named) - _NAMES_TOLD
            text = ", ".join(named[:_NAMES_TOLD]) + (f" and {more} more" if more > 0 else "")
            told[int(key[rows[0]] // len(self.names))] = text
        return told


@dataclass(frozen=True, eq=False)
class NamedFaces:
    """Some faces of a mesh that go by a name.

    Attributes
    ----------
    name : str
    faces : ndarray, shape (k,)
        Their numbers, ascending.
    """

    name: str
    faces: Array
