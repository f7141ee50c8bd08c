"""Ways in which real files are broken, one at a time: a sound mesh in, a broken one out.

Used for the demo data and, with their seeds, for the tests.
"""

import numpy as np
from caulkcore import Mesh
from caulkcore.mesh.weld import weld

Array = np.ndarray


def soup(*parts: Mesh) -> Mesh:
    """Meshes put into one file, vertices of equal coordinates joined."""
    corners = np.concatenate([p.vertices[p.faces].reshape(-1, 3) for p in parts])
    vertices, index = weld(corners)
    return Mesh(vertices, index.reshape(-1, 3))


def middles(mesh: Mesh) -> Array:
    """Middle of each face, shape (m, 3)."""
    return mesh.vertices[mesh.faces].mean(axis=1)


def near(mesh: Mesh, at: tuple[float, float, float], count: int) -> Array:
    """The faces nearest to a point that hang together, `count` of them."""
    wanted = np.argsort(np.linalg.norm(middles(mesh) - np.array(at), axis=1))
    found = [int(wanted[0])]
    vertices = set(mesh.faces[found[0]].tolist())
    for f in wanted[1:]:
        if len(found) >= count:
            break
        if len(vertices & set(mesh.faces[f].tolist())) >= 2:
            found.append(int(f))
            vertices |= set(mesh.faces[f].tolist())
    return np.array(found)


def without(mesh: Mesh, faces: Array) -> Mesh:
    """Faces left out: a hole."""
    return Mesh(mesh.vertices, np.delete(mesh.faces, faces, axis=0)).compact()


def turned(mesh: Mesh, faces: Array) -> Mesh:
    """Faces turned inward."""
    changed = mesh.faces.copy()
    changed[faces] = changed[faces][:, ::-1]
    return Mesh(mesh.vertices, changed)


def mirrored(mesh: Mesh) -> Mesh:
    """Mirrored without turning the faces: the whole skin is inside out."""
    return Mesh(mesh.vertices * np.array([-1.0, 1.0, 1.0]), mesh.faces)


def doubled(mesh: Mesh, faces: Array, against: bool = False) -> Mesh:
    """Faces exported twice, the copies running against the originals if asked."""
    copies = mesh.faces[faces]
    return Mesh(mesh.vertices, np.vstack([mesh.faces, copies[:, ::-1] if against else copies]))


def torn(mesh: Mesh, axis: int, level: float, gap: float) -> Mesh:
    """Torn along the faces that cross a level: one side shifted by a hair."""
    upper = middles(mesh)[:, axis] > level
    shift = np.zeros(3)
    shift[axis] = gap
    corners = mesh.vertices[mesh.faces]
    corners[upper] = corners[upper] + shift
    vertices, index = weld(np.ascontiguousarray(corners.reshape(-1, 3)))
    return Mesh(vertices, index.reshape(-1, 3))


def with_flat_faces(mesh: Mesh, count: int, seed: int) -> Mesh:
    """Faces without area hung on edges, as decimation leaves them."""
    rng = np.random.default_rng(seed)
    picked = mesh.faces[rng.choice(len(mesh.faces), count, replace=False)]
    flat = np.stack([picked[:, 0], picked[:, 1], picked[:, 0]], axis=1)
    return Mesh(mesh.vertices, np.vstack([mesh.faces, flat]))


def with_fin(mesh: Mesh, edge_of: int) -> Mesh:
    """A stray triangle standing on an edge: three faces there."""
    a, b, c = mesh.faces[edge_of % len(mesh.faces)]
    v = mesh.vertices
    normal = np.cross(v[b] - v[a], v[c] - v[a])
    long = np.linalg.norm(v[b] - v[a])
    height = min(long / 4, 0.02 * mesh.area / long)
    tip = (v[a] + v[b]) / 2 + normal * height / max(float(np.linalg.norm(normal)), 1e-12)
    return Mesh(np.vstack([v, tip]), np.vstack([mesh.faces, [[a, b, len(v)]]]))


def touching_twin(mesh: Mesh, axis: int) -> Mesh:
    """A copy set beside it so that the two share what lies on the common border."""
    shift = np.zeros(3)
    shift[axis] = mesh.size[axis]
    return soup(mesh, Mesh(mesh.vertices + shift, mesh.faces))
