"""The skin of a mesh, looked at fault by fault.

The faults are looked for in an order, so that each is named once by its cause: faces without
area and duplicates are set aside, then the remaining faces are turned to agree (on paper), and
only then are the edges counted and the holes walked along.
"""

from functools import cached_property
from weakref import WeakKeyDictionary, ref

import numpy as np

from ..arrangement.slivers import WITHOUT_AREA
from ..mesh import _edge_kernels as kernel
from ..mesh._face_kernels import least_heights, shell_boxes, shell_sums
from ..mesh.arrays import Array
from ..mesh.changed_faces import changed_faces, located_faces
from ..mesh.groups import Groups
from ..mesh.topology import Topology, is_even
from ..mesh.triangle_mesh import Mesh, face_crosses
from ..predicates.orientation import faces_have_area
from ..spatial.box_tree import Tree
from ..spatial.intersecting_pairs import intersecting_pairs_of_tree
from ._degenerate_kernels import peel
from ._duplicate_kernels import first_of_same, has_two_faced_pillow
from ._loop_kernels import simple_loops
from .boundary_loops import BoundaryLoops
from .cracks import Cracks, find_cracks, weld_tolerance
from .lids import lid_volumes
from .nesting import shell_depths

NEEDLE = 2e-7
"""A face is a needle when its height is below this share of the bounding box's diagonal: about
what float32 can tell apart there."""
SHEET_SHARE = 0.4
"""A shell is an open sheet when closing it would take more than this share of its own area."""
SCRAP_SHARE = 1e-3
"""An open sheet is a scrap when it has less than this share of the whole area."""


_HELD: WeakKeyDictionary[Mesh, "ref[Diagnosis]"] = WeakKeyDictionary()
"""The diagnoses that somebody holds, by their meshes."""


class Diagnosis:
    """Everything that the question *Closed* needs to know about a mesh, worked out on demand.

    Attributes ending in ``_faces`` hold indices of the mesh's faces. `kept` are the faces that
    are neither duplicates nor unneeded degenerate ones; `topology` is that of `kept`, made
    coherent.
    """

    def __init__(self, mesh: Mesh, since: "Diagnosis | None" = None) -> None:
        self.mesh = mesh
        self._since = ref(since) if since is not None else None
        crossed = since if since is None or since._knows_crossings else since._crossed_before
        self._crossed = ref(crossed) if crossed is not None else None

    @staticmethod
    def of(mesh: Mesh, since: "Diagnosis | None" = None) -> "Diagnosis":
        """The diagnosis of a mesh that somebody still holds, or a new one.

        So whoever asks about one mesh in turn does not work out the same again.

        Parameters
        ----------
        mesh : Mesh
        since : Diagnosis, optional
            Of the mesh that this one was made of: what did not change is not worked out again, as
            long as somebody holds it.

        Returns
        -------
        Diagnosis

        Examples
        --------
        >>> from caulkcore.mesh.simple_solids import cuboid
        >>> cube = cuboid()
        >>> held = Diagnosis.of(cube)
        >>> Diagnosis.of(cube) is held
        True
        """
        known = _HELD.get(mesh)
        diagnosis = known() if known else None
        if diagnosis is None:
            diagnosis = Diagnosis(mesh, since)
            _HELD[mesh] = ref(diagnosis)
        return diagnosis

    @property
    def _earlier(self) -> "Diagnosis | None":
        """The diagnosis of the mesh that this one was made of, if somebody holds it."""
        return self._since() if self._since is not None else None

    @property
    def _knows_crossings(self) -> bool:
        return "intersecting_pairs_unjoined" in self.__dict__

    @property
    def _crossed_before(self) -> "Diagnosis | None":
        """The latest diagnosis before that knows which faces meet."""
        return self._crossed() if self._crossed is not None else None

    @cached_property
    def _known_topologies(self) -> tuple[Topology, ...]:
        """What was worked out of the mesh that this one was made of, if the vertices are its."""
        since = self._earlier
        if since is None or not np.array_equal(since.mesh.vertices, self.mesh.vertices):
            return ()
        known = (since.__dict__.get(name) for name in ("topology", "_raw", "_first"))
        return tuple(one for one in known if one is not None)

    def _topology_of(self, faces: Array) -> Topology:
        """Topology of some of the faces, as they run or turned."""
        for known in self._known_topologies:
            if np.array_equal(known.faces, faces):
                return known
        return Topology(self.mesh, faces)

    # faces set aside

    @cached_property
    def _least_heights(self) -> tuple[Array, Array]:
        """Faces up to a needle's height, and the share of the diagonal that each has."""
        # all heights are 0 where the whole mesh is one point
        whole = self.mesh.diagonal or 1.0
        shares = least_heights(self.mesh.vertices, self.mesh.faces) / whole
        thin = np.flatnonzero(shares <= NEEDLE).astype(np.int32)
        return thin, shares[thin]

    @cached_property
    def degenerate_faces(self) -> Array:
        """Faces whose corners coincide or lie on a line."""
        thin, share = self._least_heights
        return thin[share <= WITHOUT_AREA]

    @cached_property
    def needle_faces(self) -> Array:
        """Faces with some area, but so thin that rounding may fold them."""
        thin, share = self._least_heights
        return thin[share > WITHOUT_AREA]

    @cached_property
    def unneeded_degenerate_faces(self) -> Array:
        """Those faces without area that do not serve: set aside before edges are counted.

        A face whose three different corners lie on a line, and whose edges have one other face
        each, joins a vertex to the edge it lies on. It stays, since the skin is closed by it; so
        does its like beside a gap, where two edges of three are sound.
        """
        flat = self.degenerate_faces
        if not len(flat):
            return flat
        a, b, c = self.mesh.faces[flat].T
        keep = np.ones(len(self.mesh.faces), dtype=bool)
        keep[flat[(a == b) | (b == c) | (c == a)]] = False
        rest = np.flatnonzero(keep)
        topology = Topology(self.mesh, self.mesh.faces[rest])
        may_go = np.zeros(len(keep), dtype=bool)
        may_go[flat] = True
        keep[rest[peel(may_go[rest], topology.order, topology.starts)]] = False
        return flat[~keep[flat]]

    @cached_property
    def _counted(self) -> Array:
        keep = np.ones(len(self.mesh.faces), dtype=bool)
        keep[self.unneeded_degenerate_faces] = False
        return keep

    @cached_property
    def _first(self) -> Topology:
        """Topology of all faces but the unneeded degenerate ones."""
        whole = self._counted.all()
        return self._topology_of(self.mesh.faces if whole else self.mesh.faces[self._counted])

    @cached_property
    def _raw(self) -> Topology:
        """Topology of `kept` as the faces run."""
        if len(self.kept) == len(self._first.faces):
            return self._first
        return self._topology_of(self.mesh.faces[self.kept])

    @cached_property
    def _duplicates(self) -> tuple[Array, Array]:
        """Redundant copies, and faces left single whose opposite copy cancels them."""
        kept = np.flatnonzero(self._counted)
        topology = self._first
        if not (topology.face_count > 2).any() and not has_two_faced_pillow(topology.twin):
            none = np.zeros(0, dtype=np.int32)
            return none, none
        first = first_of_same(topology.faces, topology.order, topology.starts)
        extra = first != np.arange(len(first))
        # copies may be chained: 0 <- 3 <- 5
        while (first[first] != first).any():
            first = first[first]
        groups = np.unique(first[extra])
        without = np.flatnonzero(~extra)
        rest = Topology(self.mesh, topology.faces[without])
        face_count = rest.half_edge_face_count
        senses = is_even(topology.faces) * 2 - 1
        balance = np.bincount(first, weights=senses, minlength=len(first))
        closed = (face_count.reshape(-1, 3)[np.searchsorted(without, groups)] == 3).all(axis=1)
        cancelled = groups[(balance[groups] == 0) & closed]
        # of copies that run both ways the majority's way is kept
        outvoted = groups[balance[groups] * senses[groups] < 0]
        against = np.flatnonzero(extra & (senses != senses[first]))
        of, where = np.unique(first[against], return_index=True)
        extra[against[where[np.isin(of, outvoted)]]] = False
        extra[outvoted] = True
        return kept[extra].astype(np.int32), kept[cancelled].astype(np.int32)

    @cached_property
    def duplicate_faces(self) -> Array:
        """Faces that repeat another's three vertices, either way round."""
        return self._duplicates[0]

    @cached_property
    def cancelled_faces(self) -> Array:
        """Faces whose opposite copy is a duplicate and whose edges are closed without them."""
        return self._duplicates[1]

    @cached_property
    def kept(self) -> Array:
        """Faces left when unneeded degenerate ones and the duplicates are set aside."""
        keep = self._counted.copy()
        keep[self.duplicate_faces] = False
        keep[self.cancelled_faces] = False
        return np.flatnonzero(keep).astype(np.int32)

    # sense of rotation

    @cached_property
    def _orientation(self) -> tuple[Array, Array, Array]:
        raw = self._raw
        patch, turned, count, twisted = kernel.coherent_patches(raw.faces, raw.twin)
        if not turned.any():
            return turned, patch, twisted
        against = np.bincount(patch, weights=turned, minlength=count)
        size = np.bincount(patch, minlength=count)
        swap = 2 * against > size
        if (tied := 2 * against == size).any():
            volumes = self._volumes(raw.faces) * np.where(turned, -1.0, 1.0)
            swap |= tied & (np.bincount(patch, weights=volumes, minlength=count) < 0)
        return turned != swap[patch], patch, twisted

    def _volumes(self, faces: Array) -> Array:
        v = self.mesh.vertices
        middle = self.mesh.bounds.mean(axis=0)
        return np.einsum("ij,ij->i", v[faces[:, 0]] - middle, face_crosses(v, faces)) / 6.0

    @cached_property
    def flipped_faces(self) -> Array:
        """Faces that run against the majority of their patch."""
        return self.kept[self._orientation[0]]

    @cached_property
    def nonorientable_faces(self) -> Array:
        """Faces of one-sided patches, which no turning makes coherent."""
        _, patch, twisted = self._orientation
        return self.kept[twisted[patch]]

    @cached_property
    def topology(self) -> Topology:
        """Topology of `kept`, with the flipped faces turned."""
        turned = self._orientation[0]
        if not turned.any():
            return self._raw
        faces = self._raw.faces.copy()
        faces[turned] = faces[turned][:, ::-1]
        return self._topology_of(faces)

    # shells

    @cached_property
    def shells(self) -> tuple[Array, int]:
        """Shell of each of `kept`, and their number."""
        return self.topology.shells

    @cached_property
    def shell_of_face(self) -> Array:
        """Shell of each face of the mesh; -1 for those that do not count."""
        shell = np.full(len(self.mesh.faces), -1, dtype=np.int32)
        shell[self.kept] = self.shells[0]
        return shell

    @cached_property
    def by_shell(self) -> Groups:
        """Faces of the mesh that make up each shell, ascending."""
        shell, _ = self.shells
        return Groups.by_label(shell, self.kept)

    @cached_property
    def nesting(self) -> tuple[Array, Array]:
        """Depth and parent of each shell."""
        shell, count = self.shells
        return shell_depths(self.mesh.vertices, self.topology.faces, shell, count)

    @cached_property
    def shell_measures(self) -> tuple[Array, Array]:
        """Signed volume and area of each shell; of open ones as if each rim had a lid."""
        shell, count = self.shells
        topology = self.topology
        volume, area, middle = shell_sums(self.mesh.vertices, topology.faces, shell, count)
        return volume + lid_volumes(self.mesh.vertices, topology, shell, middle), area

    @property
    def volume(self) -> float:
        """That of all shells together, mm³; voids count against it."""
        return float(self.shell_measures[0].sum())

    @cached_property
    def shell_sides(self) -> Array:
        """Sides of each shell's bounding box, shape (count, 3)."""
        shell, count = self.shells
        low, high = shell_boxes(self.mesh.vertices, self.topology.faces, shell, count)
        return high - low

    @cached_property
    def open_shells(self) -> Array:
        """For each shell, whether it has an open edge, shape (count,)."""
        shell, count = self.shells
        found = np.zeros(count, dtype=bool)
        found[shell[np.flatnonzero(self.topology.twin == -1) // 3]] = True
        return found

    @cached_property
    def open_sheets(self) -> Array:
        """For each shell, whether it is an open sheet (see `SHEET_SHARE`), shape (count,).

        Shells whose rims make a ring together, such as the inner and outer skin of a tube
        without ends, are judged together.
        """
        _, count = self.shells
        loops = self.boundary_loops
        missing = np.bincount(loops.shell, loops.areas, minlength=count)
        joins = []
        for outer, inner in loops.nested:
            for i in inner:
                missing[loops.shell[i]] -= loops.areas[i]
                missing[loops.shell[outer]] -= loops.areas[i]
                joins.append((loops.shell[outer], loops.shell[i]))
        pairs = np.array(joins, dtype=np.int32).reshape(-1, 2)
        rim_group = kernel.components(pairs, count)
        _, area = self.shell_measures
        lacking = np.bincount(rim_group, missing, minlength=count)
        there = np.bincount(rim_group, area, minlength=count)
        return (lacking > SHEET_SHARE * there)[rim_group]

    @cached_property
    def enclosed_sheets(self) -> Array:
        """For each shell, whether it is an open sheet within the material of a closed one."""
        depth, parent = self.nesting
        solid = ~self.open_shells & (depth % 2 == 0)
        return self.open_sheets & (parent >= 0) & solid[parent]

    @cached_property
    def small_sheets(self) -> Array:
        """For each shell, whether it is an open sheet too small to be meant, and no inner one."""
        _, area = self.shell_measures
        return self.open_sheets & ~self.enclosed_sheets & (area < SCRAP_SHARE * area.sum())

    @cached_property
    def inverted_shells(self) -> Array:
        """Shells of negative volume that nothing encloses."""
        volume, area = self.shell_measures
        depth, _ = self.nesting
        scale = area**1.5
        return np.flatnonzero((volume < -1e-12 * scale) & (depth == 0) & ~self.open_sheets)

    # edges and vertices

    @cached_property
    def cracks(self) -> Cracks:
        """Where it is torn; half-edges and faces are those of `topology`."""
        known = self._same_skin
        return known.cracks if known else find_cracks(self.topology, self._weld_tolerance)

    @property
    def _weld_tolerance(self) -> float:
        return weld_tolerance(self.mesh.diagonal)

    @property
    def _same_skin(self) -> "Diagnosis | None":
        """The diagnosis of the mesh that this one was made of, if the skin is the very same."""
        since = self._earlier
        if since is None or since.__dict__.get("topology") is not self.topology:
            return None
        return since if since._weld_tolerance == self._weld_tolerance else None

    @cached_property
    def boundary_loops(self) -> BoundaryLoops:
        """The boundary loops, cut into simple ones where they touch themselves; cracks left out."""
        if known := self._same_skin:
            return known.boundary_loops
        half_edges, starts = self.topology.boundary_walks
        is_crack = np.zeros(3 * len(self.kept), dtype=bool)
        is_crack[self.cracks.half_edges] = True
        walks = Groups(half_edges, starts)
        torn = walks.reduce(np.logical_and, is_crack[half_edges])
        ends = self.topology.ends(half_edges)
        vertices, begins, ring, walk = simple_loops(ends, starts, torn, len(self.mesh.vertices))
        shell = self.shells[0][half_edges[starts[walk]] // 3]
        return BoundaryLoops(self.mesh.vertices, Groups(vertices, begins), ring, shell)

    @cached_property
    def loop_edges(self) -> Array:
        """Edges of each boundary loop that are no cracks, shape (loops,)."""
        loops, cracks = self.boundary_loops, self.cracks.half_edges
        if not len(loops) or not len(cracks):
            return loops.edges
        n = np.int64(len(self.mesh.vertices))
        along, torn = loops.lines(np.arange(len(loops))), self.topology.ends(cracks)
        is_crack = np.isin(along[:, 0] * n + along[:, 1], torn[:, 0] * n + torn[:, 1])
        of = np.repeat(np.arange(len(loops)), loops.edges)
        return loops.edges - np.bincount(of[is_crack], minlength=len(loops))

    @cached_property
    def holes(self) -> Array:
        """Numbers of those boundary loops that are holes.

        The rims of open sheets are not: what is wrong there is the sheet. Neither are walks that
        end at non-manifold edges, as the rim of a fin does: what is wrong there is that edge; nor
        is what consists of cracks alone.
        """
        loops = self.boundary_loops
        meant = loops.closed & ~self.open_sheets[loops.shell] & (self.loop_edges > 0)
        return np.flatnonzero(meant)

    @cached_property
    def nonmanifold_edges(self) -> Array:
        """Edges with three or more faces, as pairs of vertices, shape (k, 2)."""
        return self.topology.edges_where(self.topology.face_count > 2)

    @cached_property
    def nonmanifold_vertices(self) -> Array:
        """Vertices at which the faces form more than one fan, those of other shells included."""
        if known := self._same_skin:
            return known.nonmanifold_vertices
        topology = self.topology
        _, fans = kernel.fan_labels(topology.faces, topology.order, topology.starts)
        return np.flatnonzero(fans > 1).astype(np.int32)

    @cached_property
    def tree(self) -> Tree:
        """Boxes over the faces of `topology`, at least one."""
        return Tree.of(self.mesh.vertices, self.topology.faces)

    @cached_property
    def intersecting_pairs(self) -> Array:
        """Pairs of faces that meet where they should not, as positions in `kept`, shape (k, 2).

        Cracks count as joined, so that their sides do not cross each other by a hair.
        """
        if not len(self.cracks):
            return self.intersecting_pairs_unjoined
        joined, source = self.cracks.stitched(self.topology.faces)
        tree = Tree.of(self.mesh.vertices, joined)
        pairs = source[intersecting_pairs_of_tree(tree, self._flat[source])]
        pairs = np.unique(np.sort(pairs[pairs[:, 0] != pairs[:, 1]], axis=1), axis=0)
        return pairs.astype(np.int32)

    @cached_property
    def intersecting_pairs_unjoined(self) -> Array:
        """The same with cracks as they are, whose sides may cross each other by a hair."""
        faces = self.topology.faces
        if not len(faces):
            return np.zeros((0, 2), dtype=np.int32)
        before, tree = self._crossed_before, self.tree
        if before is None:
            return intersecting_pairs_of_tree(tree, self._flat)
        # only what is new is looked at again
        was, now = before.mesh.faces[before.kept], faces
        old, new = Mesh(before.mesh.vertices, was), Mesh(self.mesh.vertices, now)
        fresh = changed_faces(old, new)[1]
        pairs = [intersecting_pairs_of_tree(tree, self._flat, fresh)]
        known = before.intersecting_pairs_unjoined
        if len(known):
            involved = np.unique(known)
            lookup = np.full(len(was), -1)
            lookup[involved] = located_faces(old, involved, new)
            still = lookup[known]
            pairs.append(np.sort(still[(still >= 0).all(axis=1)], axis=1).astype(np.int32))
        found = np.concatenate(pairs)
        return found[np.lexsort((found[:, 1], found[:, 0]))]

    @cached_property
    def _flat(self) -> Array:
        """Which of `kept` have no area at all, exactly."""
        flat = np.isin(self.kept, self.degenerate_faces)
        near = np.flatnonzero(flat)
        flat[near] = ~faces_have_area(self.mesh.vertices, self.topology.faces[near])
        return flat

    @cached_property
    def is_tight(self) -> bool:
        """Whether nothing of this question is left to mend."""
        return (
            len(self.kept) == len(self.mesh.faces)
            and len(self.kept) > 0
            and not len(self.flipped_faces)
            and not len(self.nonorientable_faces)
            and self.topology.is_sound
            and not len(self.nonmanifold_vertices)
            and not len(self.inverted_shells)
        )
