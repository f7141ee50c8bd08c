"""Uniting overlapping pieces into one skin."""

from collections.abc import Collection

import manifold3d
import numpy as np

from ..examine import solid as check
from ..examine.finding import counted
from ..examine.skin import Skin
from ..kernels import edges as kernel
from ..mesh import Array, Mesh
from .outcome import Outcome
from .places import chosen_places
from .rounding import on_float32

_VOLUME_SLACK = 1e-6


def unite(mesh: Mesh, places: Collection[int] | None = None) -> Outcome:
    """Unite overlapping shells, each sound in itself, into one skin.

    The boolean union is manifold3d's. Voids go with the solid around them. A union is kept only
    if its volume lies between that of its largest piece and their sum, if for two pieces it is
    what inclusion and exclusion say, and if it reaches as far as the pieces did; pieces that cross
    themselves are left alone.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the overlaps to unite; all by default.
    """
    skin = Skin(mesh)
    finding = next((f for f in check.find(skin) if f.kind == "overlapping-shells"), None)
    chosen = chosen_places(finding, places)
    if not chosen:
        return Outcome(mesh)
    if not skin.is_tight:
        return Outcome(mesh, left=("Pieces can be united once each is closed.",))
    shell, count = skin.shells
    pairs = shell[skin.crossings]
    crossed = {int(s) for s in pairs[pairs[:, 0] == pairs[:, 1], 0]}
    joins = np.array([_shells_of(skin, place.faces) for place in chosen], dtype=np.int32)
    cluster = kernel.components(joins, count)
    done = np.zeros(count, dtype=bool)
    new: list[Mesh] = []
    left: list[str] = []
    united = 0
    for root in np.unique(cluster[joins.ravel()]).tolist():
        members = np.flatnonzero(cluster == root).tolist()
        if crossed & set(members):
            left.append(
                f"{counted(len(members), 'overlapping piece')} left: one of them crosses itself."
            )
            continue
        solids, used = _solids(skin, members)
        result, problem = _union(solids)
        if result is None:
            left.append(f"{counted(len(members), 'overlapping piece')} left: {problem}")
            continue
        done[used] = True
        new.append(result)
        united += len(members)
    if not new:
        return Outcome(mesh, left=tuple(left))
    rest = Mesh(mesh.vertices, mesh.faces[~done[shell]]).compact()
    parts = [rest, *new] if len(rest.faces) else new
    starts = np.cumsum([0, *(len(p.vertices) for p in parts[:-1])])
    whole = Mesh(
        np.concatenate([p.vertices for p in parts]),
        np.concatenate([p.faces + s for p, s in zip(parts, starts, strict=True)]),
    )
    text = f"{counted(united, 'piece')} united into {len(new)}."
    return Outcome(on_float32(whole, mesh), text, {"pieces": united, "into": len(new)}, tuple(left))


def _shells_of(skin: Skin, faces: Array) -> tuple[int, int]:
    """The two shells that a place of overlap is about."""
    shell, _ = skin.shells
    two = np.unique(shell[np.isin(skin.kept, faces)])
    return int(two[0]), int(two[-1])


def _solids(skin: Skin, members: list[int]) -> tuple[list[Mesh], list[int]]:
    """Each outer shell among the members with the voids in it, and all shells used."""
    shell, _ = skin.shells
    volume, _ = skin.shell_measures
    _, parent = skin.nesting
    hollow = {s: int(parent[s]) for s in np.flatnonzero(volume < 0).tolist()}
    outer = {s for s in members if volume[s] >= 0} | {
        hollow[s] for s in members if hollow.get(s, -1) >= 0
    }
    solids, used = [], []
    for s in sorted(outer):
        group = [s, *(v for v, around in hollow.items() if around == s)]
        faces = skin.mesh.faces[np.isin(shell, group)]
        solids.append(Mesh(skin.mesh.vertices, faces).compact())
        used += group
    return solids, used


def _union(solids: list[Mesh]) -> tuple[Mesh | None, str]:
    pieces = []
    for one in solids:
        # the binding wants arrays that it might write to
        raw = manifold3d.Mesh64(np.array(one.vertices), one.faces.astype(np.uint64))
        piece = manifold3d.Manifold(raw)
        if piece.status() != manifold3d.Error.NoError or piece.is_empty():
            return None, "one of them is not sound enough for a union."
        pieces.append(piece)
    whole = manifold3d.Manifold.batch_boolean(pieces, manifold3d.OpType.Add)
    raw = whole.to_mesh64()
    result = Mesh(np.asarray(raw.vert_properties)[:, :3], np.asarray(raw.tri_verts))
    volumes = [p.volume() for p in pieces]
    slack = _VOLUME_SLACK * sum(volumes)
    fits = max(volumes) - slack <= result.volume <= sum(volumes) + slack
    if len(pieces) == 2:
        common = (pieces[0] ^ pieces[1]).volume()
        fits &= abs(sum(volumes) - common - result.volume) <= slack
    if not fits:
        return None, "the volume of their union does not come out right."
    low = np.min([p.bounds[0] for p in solids], axis=0)
    high = np.max([p.bounds[1] for p in solids], axis=0)
    if np.abs(result.bounds - np.array([low, high])).max() > 1e-6 * np.linalg.norm(high - low):
        return None, "their union does not reach as far as the pieces did."
    return result, ""
