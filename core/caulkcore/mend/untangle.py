"""Pieces that cross themselves, or each other, made into clean ones."""

from collections.abc import Collection
from dataclasses import dataclass, replace

import numpy as np

from ..arrange import NotArranged
from ..examine import solid as check
from ..examine.finding import Place, counted, volume_text
from ..examine.skin import Skin
from ..kernels import edges as kernel
from ..mesh import Array, Mesh
from .one_skin import Inverted, MustChoose, OneSkin, one_skin
from .outcome import Outcome
from .places import chosen_places, faces_of
from .together import together

_VOLUME_SLACK = 1e-6
_FOLD = 1e-6
# Of all volume: nobody is asked about less that is inside out.


def untangle(
    mesh: Mesh, places: Collection[int] | None = None, inverted: Inverted = "ask"
) -> Outcome:
    """Make pieces that pass through themselves into clean ones, dividing only what crosses.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the self-intersections; a shell is untangled whole. All by default.
    inverted : {"ask", "drop", "keep"}
        What becomes of space that the skin runs round the wrong way; see `one_skin`.
    """
    skin = Skin(mesh)
    chosen = _chosen(skin, "self-intersections", places)
    if not chosen:
        return Outcome(mesh)
    shell, _ = skin.shells
    picked = np.unique(shell[np.isin(skin.kept, faces_of(chosen))])
    done = _Done(skin, inverted)
    for s in picked.tolist():
        done.make_one([s], f"Piece {s + 1}, which crosses itself, is left")
    made = done.made
    text = (
        f"{counted(len(made), 'piece')} untangled where "
        f"{counted(sum(m.pairs for m in made), 'pair')} of faces met"
    )
    return done.outcome(text)


def unite(
    mesh: Mesh,
    places: Collection[int] | None = None,
    inverted: Inverted = "ask",
    apart: Collection[int] = (),
) -> Outcome:
    """Make one skin of pieces that overlap, dividing only the faces that cross.

    Voids go with the solid around them. A union is kept only if its volume lies between that of
    its largest piece and their sum, if it reaches as far as the pieces did, and if of each piece
    something is left, or it lay inside the others.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the overlaps to unite; all by default.
    inverted : {"ask", "drop", "keep"}
        As in `untangle`, where pieces cross themselves as well.
    apart : collection of int
        Numbers of the pieces, from 1, that stay as they are.
    """
    skin = Skin(mesh)
    chosen = _chosen(skin, "overlapping-shells", places)
    if not chosen:
        return Outcome(mesh)
    _, count = skin.shells
    joins = np.array([shells_of(skin, place.faces) for place in chosen], dtype=np.int32)
    stays = np.isin(joins + 1, list(apart)).any(axis=1)
    left = tuple(
        f"Pieces {a + 1} and {b + 1} overlap, and stay apart as chosen."
        for a, b in joins[stays].tolist()
    )
    joins = joins[~stays]
    if not len(joins):
        return Outcome(mesh, left=left)
    cluster = kernel.components(joins, count)
    done = _Done(skin, inverted)
    united = 0
    for root in np.unique(cluster[joins.ravel()]).tolist():
        members = np.flatnonzero(cluster == root).tolist()
        label = f"{counted(len(members), 'overlapping piece')} left"
        united += len(members) if done.make_one(members, label) else 0
    outcome = done.outcome(f"{counted(united, 'piece')} united into {len(done.made)}")
    return replace(outcome, left=(*outcome.left, *left))


def _chosen(skin: Skin, kind: str, places: Collection[int] | None) -> list[Place]:
    found = (f for f in check.crossings(skin) if f is not None and f.kind == kind)
    return chosen_places(next(found, None), places)


def shells_of(skin: Skin, faces: Array) -> tuple[int, int]:
    """The two shells that a place of overlap is about."""
    shell, _ = skin.shells
    two = np.unique(shell[np.isin(skin.kept, faces)])
    return int(two[0]), int(two[-1])


@dataclass
class _Done:
    """Pieces made into one skin each, so far."""

    skin: Skin
    inverted: Inverted

    def __post_init__(self) -> None:
        self.made: list[OneSkin] = []
        self.left: list[str] = []
        self.used = np.zeros(self.skin.shells[1], dtype=bool)
        self.swallowed = 0
        self.to_choose = 0

    def make_one(self, members: list[int], label: str) -> bool:
        """Make one skin of some shells and the hollows in them; say why if it cannot be."""
        skin = self.skin
        shell, _ = skin.shells
        volume, _ = skin.shell_measures
        depth, parent = skin.nesting
        hollows = np.flatnonzero((volume < 0) & (depth > 0))
        group = {*members, *hollows[np.isin(parent[hollows], members)].tolist()}
        # a hollow that meets a solid is cut with the solid around it
        if any(volume[s] >= 0 for s in group):
            group |= {int(parent[s]) for s in hollows.tolist() if s in group}
        shells = np.array(sorted(group))
        if self.used[shells].any():
            return True
        if skin.open_shells[shells].any():
            self.left.append(f"{label}: it can be done once everything there is closed.")
            return False
        mine = np.isin(shell, shells)
        faces = skin.topology.faces[mine]
        outside = int((volume[shells] < 0).all() and (depth[shells] > 0).all())
        try:
            one = one_skin(
                Mesh(skin.mesh.vertices, faces),
                outside,
                self.inverted,
                self._pairs(mine),
                _FOLD * float(np.abs(volume).sum()),
            )
        except NotArranged as problem:
            self.to_choose += isinstance(problem, MustChoose)
            self.left.append(f"{label}: {problem}")
            return False
        wrong = self._problem(one, shell[mine], outside)
        if wrong:
            self.left.append(f"{label}: {wrong}")
            return False
        self.used[shells] = True
        self.made.append(one)
        return True

    def _pairs(self, mine: Array) -> Array | None:
        """What is known of crossings among some of the faces."""
        skin = self.skin
        if len(skin.zero_area_faces) or len(skin.cracks):
            return None
        pairs = skin.crossings[mine[skin.crossings].all(axis=1)]
        return np.cumsum(mine)[pairs] - 1

    def _problem(self, one: OneSkin, shell: Array, outside: int) -> str:
        """Why a skin cannot be what the pieces enclosed together, if it cannot."""
        if outside:
            return ""
        volume, _ = self.skin.shell_measures
        shells = np.unique(shell)
        solids = shells[volume[shells] > 0]
        whole = one.mesh.volume
        if len(shells) > 1:
            total = volume[solids].sum()
            hollow = -volume[shells[volume[shells] < 0]].sum()
            slack = _VOLUME_SLACK * total + (one.inverted if self.inverted == "keep" else 0.0)
            if not volume[solids].max() - hollow - slack <= whole <= total + slack:
                return "the volume of their union does not come out right."
        elif whole <= 0:
            return "nothing of it would be left."
        there = np.unique(shell[one.kept])
        gone = np.setdiff1d(solids, there)
        if len(gone):
            faces = self.skin.topology.faces[np.isin(self.skin.shells[0], gone)]
            low, high = Mesh(self.skin.mesh.vertices, faces).compact().bounds
            if (low < one.mesh.bounds[0]).any() or (high > one.mesh.bounds[1]).any():
                return "a piece would be lost."
        self.swallowed += len(gone)
        return ""

    def outcome(self, text: str) -> Outcome:
        """What all of it comes to."""
        if not self.made:
            return Outcome(self.skin.mesh, "", {"to_choose": self.to_choose}, tuple(self.left))
        wrong = sum(one.inverted for one in self.made)
        if self.swallowed:
            text += f"; {counted(self.swallowed, 'piece')} lay wholly inside the others"
        if wrong > 0:
            said = "counted as material" if self.inverted == "keep" else "left out"
            text += f"; {volume_text(wrong)} that were inside out {said}"
        shell, _ = self.skin.shells
        mesh = self.skin.mesh
        rest = np.delete(mesh.faces, self.skin.kept[self.used[shell]], axis=0)
        parts = [Mesh(mesh.vertices, rest).compact(), *(one.mesh for one in self.made)]
        counts = {
            "pieces": len(self.made),
            "pairs": sum(one.pairs for one in self.made),
            "to_choose": self.to_choose,
        }
        return Outcome(together(parts), f"{text}.", counts, tuple(self.left))
