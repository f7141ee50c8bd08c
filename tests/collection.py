"""The collection of broken meshes: forty sound solids, and the ways in which they get broken.

A way of breaking takes a sound mesh and a random generator, and gives back the broken mesh with
the volume that mending should return, or None where it destroys what the volume hangs on.
"""

import functools
from collections.abc import Callable
from dataclasses import dataclass

import igl
import numpy as np
from caulkcore import Mesh
from caulkjob import mend
from harbour import breakers as b
from harbour import shapes
from igl.copyleft.cgal import mesh_boolean, remesh_self_intersections
from makers import assert_tight_by_referees
from manifold3d import CrossSection, JoinType, Manifold

Array = np.ndarray
Random = np.random.Generator


def _square(width: float, depth: float) -> CrossSection:
    return CrossSection.square((width, depth))


def _gear(teeth: int) -> Manifold:
    disc = CrossSection.circle(10, 64)
    tooth = CrossSection.square((4, 2), True).translate((10.5, 0))
    for k in range(teeth):
        disc = disc + tooth.rotate(360 * k / teeth)
    return Manifold.extrude(disc - CrossSection.circle(3, 24), 5)


def _star(points: int) -> CrossSection:
    angle = np.arange(2 * points) * np.pi / points
    radius = np.where(np.arange(2 * points) % 2, 5.0, 12.0)
    return CrossSection([np.stack([radius * np.cos(angle), radius * np.sin(angle)], axis=1)])


def _lump(seed: int, fine: int = 40) -> Manifold:
    """A ball with hills and hollows."""
    rng = np.random.default_rng(seed)
    waves = rng.normal(size=(6, 3)) * 0.25
    ball = Manifold.sphere(12, fine)

    def bent(points: Array) -> Array:
        return points * (1 + 0.06 * np.sin(points @ waves.T).sum(axis=1))[:, None]

    return ball.warp_batch(bent)


def _spring(turns: float = 2.5, around: int = 14) -> Manifold:
    steps = int(turns * 36)
    straight = Manifold.extrude(CrossSection.circle(1.6, around), 1.0, steps)

    def bent(points: Array) -> Array:
        angle = points[:, 2] * turns * 2 * np.pi
        radius = 9 + points[:, 0]
        rise = 6 * turns * points[:, 2] + points[:, 1]
        return np.stack([radius * np.sin(angle), radius * np.cos(angle), rise], axis=1)

    return straight.warp_batch(bent)


def _ring(across: float, thick: float, fine: int = 24) -> Manifold:
    return CrossSection.circle(thick, fine).translate((across, 0)).revolve(2 * fine)


def _plate_with_holes() -> Manifold:
    plate = _square(40, 24) - shapes_holes()
    return Manifold.extrude(plate, 3)


def shapes_holes() -> CrossSection:
    hole = CrossSection.circle(3, 20)
    return CrossSection.batch_boolean(
        [hole.translate((x, y)) for x in (8, 20, 32) for y in (7, 17)], shapes.OpType.Add
    )


def _comb() -> Manifold:
    fins = [Manifold.cube((1.2, 10, 12)).translate((4 * k, 0, 3)) for k in range(6)]
    return shapes.concatenate([Manifold.cube((22, 10, 4)), *fins])


def _lattice() -> Manifold:
    bars = []
    for x in range(3):
        for y in range(3):
            flat = Manifold.cube((2, 2, 22)).translate((10 * x, 10 * y, 0))
            bars += [flat, flat.rotate((90, 0, 0)).translate((0, 22, 0)),
                     flat.rotate((0, 90, 0)).translate((0, 0, 22))]  # fmt: skip
    return shapes.concatenate(bars)


def _bottle() -> Manifold:
    outline = [(0, 0), (9, 0), (10, 2), (10, 14), (4, 20), (4, 26), (3, 26), (3, 20), (9, 13),
               (9, 2), (0, 1)]  # fmt: skip
    return CrossSection([outline]).revolve(48)


SOLIDS: dict[str, Callable[[], Manifold]] = {
    "box": lambda: Manifold.cube((20, 12, 8)),
    "fine box": lambda: Manifold.cube((20, 12, 8)).refine(9),
    "ball": lambda: Manifold.sphere(10, 40),
    "fine ball": lambda: Manifold.sphere(10, 100),
    "egg": lambda: Manifold.sphere(8, 48).scale((1, 1.3, 2.1)),
    "cylinder": lambda: Manifold.cylinder(25, 8, 8, 48),
    "cone": lambda: Manifold.cylinder(20, 9, 0.0, 40),
    "stump": lambda: Manifold.cylinder(15, 12, 6, 7),
    "ring": lambda: _ring(14, 4),
    "thin ring": lambda: _ring(20, 1.0, 16),
    "links": lambda: shapes.concatenate(
        [_ring(10, 2), _ring(10, 2).rotate((90, 0, 0)).translate((10, 0, 0))]
    ),
    "tube": lambda: shapes.tube(10, 8, 25),
    "thin tube": lambda: shapes.tube(10, 9.5, 30),
    "wedge": lambda: Manifold.hull_points(
        np.array([[0, 0, 0], [20, 0, 0], [0, 10, 0], [20, 10, 0], [0, 0, 6], [0, 10, 6]], float)
    ),
    "plate": lambda: Manifold.cube((50, 30, 1.0)),
    "plate with holes": _plate_with_holes,
    "star": lambda: Manifold.extrude(_star(7), 6),
    "twisted star": lambda: Manifold.extrude(_star(5), 30, 40, 120),
    "tapered star": lambda: Manifold.extrude(_star(6), 20, 12, 0, (0.4, 0.4)),
    "gear": lambda: _gear(16),
    "comb": _comb,
    "lattice": _lattice,
    "spring": _spring,
    "bottle": _bottle,
    "lump": lambda: _lump(1),
    "hilly lump": lambda: _lump(2, 80),
    "flat lump": lambda: _lump(3).scale((1, 1, 0.15)),
    "steps": lambda: shapes.concatenate(
        [Manifold.cube((20 - 4 * k, 15, 3)).translate((0, 0, 3 * k)) for k in range(5)]
    ),
    "corner": lambda: Manifold.cube((15, 15, 15)) - Manifold.cube((12, 12, 12)).translate((3,) * 3),
    "shell": lambda: Manifold.sphere(12, 40) - Manifold.sphere(10, 40),
    "two parts": lambda: Manifold.cube((8, 8, 8)) + Manifold.sphere(5, 32).translate((20, 0, 5)),
    "rounded": lambda: Manifold.extrude(
        _square(20, 10).offset(3, JoinType.Round, 2.0, 24), 8
    ),
    "valve wheel": shapes.valve_wheel,
    "pump body": shapes.pump_body,
    "lantern housing": shapes.lantern_housing,
    "bell frame": shapes.bell_frame,
    "half hull": shapes.half_hull,
    "gauge lid": shapes.gauge_lid,
    "float cap": shapes.float_cap,
    "gallery bracket": shapes.gallery_bracket,
}  # fmt: skip


@functools.cache
def solid(name: str) -> Mesh:
    """A solid of the collection, as it would be delivered: on float32."""
    mesh = shapes.as_mesh(SOLIDS[name]())
    return b.soup(Mesh(mesh.vertices.astype(np.float32).astype(float), mesh.faces))


def _same(sound: Mesh, broken: Mesh) -> float:
    return sound.volume


@dataclass(frozen=True)
class Way:
    """A way of breaking: what it does, and the volume to get back, if it can be got back."""

    break_: Callable[[Mesh, Random], Mesh]
    volume: Callable[[Mesh, Mesh], float] | None = _same


def _some(mesh: Mesh, rng: Random, share: float, least: int = 2) -> Array:
    count = min(max(int(share * len(mesh.faces)), least), len(mesh.faces) // 3)
    return rng.choice(len(mesh.faces), count, replace=False)


def _patch(mesh: Mesh, rng: Random, share: float) -> Array:
    """Faces that hang together, of so much of the area at most."""
    order = b.near(mesh, tuple(b.middles(mesh)[rng.integers(len(mesh.faces))]), 60)
    area = np.cumsum(_areas(mesh, order)) <= share * mesh.area
    return order[: max(1, int(area.sum()))]


def _areas(mesh: Mesh, faces: Array) -> Array:
    a, p, q = (mesh.vertices[mesh.faces[faces, k]] for k in range(3))
    return 0.5 * np.linalg.norm(np.cross(p - a, q - a), axis=1)


def _loose(mesh: Mesh) -> Mesh:
    """Every face on vertices of its own."""
    return Mesh(
        mesh.vertices[mesh.faces].reshape(-1, 3), np.arange(3 * len(mesh.faces)).reshape(-1, 3)
    )


def _shaken(mesh: Mesh, rng: Random) -> Mesh:
    """Every corner of every face a hair from where it should be."""
    loose = _loose(mesh)
    way = rng.uniform(-1, 1, loose.vertices.shape) * _hair(mesh)
    return Mesh(loose.vertices + way, loose.faces)


def _hair(mesh: Mesh) -> float:
    edges = mesh.vertices[mesh.faces] - mesh.vertices[np.roll(mesh.faces, 1, axis=1)]
    return min(1e-5 * mesh.diagonal, 0.05 * float(np.linalg.norm(edges, axis=2).min()))


def _cut(mesh: Mesh, rng: Random) -> tuple[int, float]:
    axis = int(rng.integers(3))
    low, high = mesh.bounds[:, axis]
    return axis, float(low + (high - low) * rng.uniform(0.35, 0.65))


def _torn(mesh: Mesh, rng: Random) -> Mesh:
    axis, level = _cut(mesh, rng)
    return b.torn(mesh, axis, level, _hair(mesh))


def _divided(mesh: Mesh, chosen: Array) -> Mesh:
    """Chosen faces in four, their neighbours left as they are: vertices in the midst of edges."""
    v, f = mesh.vertices, mesh.faces[chosen]
    n = len(v)
    halves = np.sort(np.stack([f, np.roll(f, -1, axis=1)], axis=-1).reshape(-1, 2), axis=1)
    edges, which = np.unique(halves, axis=0, return_inverse=True)
    m = which.reshape(-1, 3) + n
    a, c, e = f.T
    ab, bc, ca = m.T
    new = np.concatenate(
        [np.stack(x, axis=1) for x in ((a, ab, ca), (ab, c, bc), (ca, bc, e), (ab, bc, ca))]
    )
    points = v[edges].mean(axis=1).astype(np.float32).astype(float)
    rest = np.delete(mesh.faces, chosen, axis=0)
    return Mesh(np.vstack([v, points]), np.vstack([rest, new]))


def _half_divided(mesh: Mesh, rng: Random) -> Mesh:
    axis, level = _cut(mesh, rng)
    upper = np.flatnonzero(b.middles(mesh)[:, axis] > level)
    return _divided(mesh, upper if len(upper) else np.arange(1))


def _bits(mesh: Mesh, rng: Random, count: int) -> list[Mesh]:
    """Tiny tetrahedra beside the model."""
    corners = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]], float) * 0.05
    faces = np.array([[0, 2, 1], [0, 1, 3], [1, 2, 3], [2, 0, 3]])
    at = mesh.bounds[1] + rng.uniform(1, 3, (count, 3))
    return [Mesh(corners + p, faces) for p in at]


def _inside(mesh: Mesh) -> tuple[Array, float]:
    """The point of a grid that lies deepest inside, and how far the skin is from it."""
    low, high = mesh.bounds
    grid = np.stack(np.meshgrid(*np.linspace(low, high, 24).T), axis=-1).reshape(-1, 3)
    depth = -igl.signed_distance(grid, mesh.vertices, mesh.faces.astype(np.int64))[0]
    deepest = int(np.argmax(depth))
    return grid[deepest], float(depth[deepest])


def _across(mesh: Mesh, rng: Random) -> Mesh:
    """A copy turned and pushed in."""
    turn = np.linalg.qr(rng.normal(size=(3, 3)))[0]
    turn *= np.sign(np.linalg.det(turn))
    middle = mesh.bounds.mean(axis=0)
    points = (mesh.vertices - middle) @ turn.T + middle + mesh.size * rng.uniform(0.1, 0.3, 3)
    return b.soup(mesh, Mesh(points.astype(np.float32).astype(float), mesh.faces))


def _united(sound: Mesh, broken: Mesh) -> float:
    """Volume of the union of the shells of a broken mesh, by libigl's exact boolean."""
    nothing = np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int64)
    done = mesh_boolean(broken.vertices, broken.faces.astype(np.int64), *nothing, "union")
    return Mesh(done[0], done[1]).volume


def _pushed(mesh: Mesh, rng: Random) -> Mesh:
    """A few vertices pushed through what is opposite."""
    v = mesh.vertices.copy()
    for i in rng.choice(len(v), 2, replace=False):
        v[i] += (mesh.bounds.mean(axis=0) - v[i]) * 1.6 + rng.normal(size=3) * 0.1
    return Mesh(v.astype(np.float32).astype(float), mesh.faces)


def _rough(mesh: Mesh, rng: Random) -> Mesh:
    """Coordinates on a coarse grid, as from a format with few digits."""
    step = mesh.diagonal / 1500
    points = np.round(mesh.vertices / step) * step
    return b.soup(Mesh(points.astype(np.float32).astype(float), mesh.faces))


def _collapsed(mesh: Mesh, rng: Random) -> Mesh:
    """Edges drawn together without a look, as a careless reduction does."""
    v = mesh.vertices.copy()
    for f in _some(mesh, rng, 0.01):
        p, q = mesh.faces[f, :2]
        v[q] = v[p]
    return b.soup(Mesh(v, mesh.faces))


def _pinched(mesh: Mesh, rng: Random) -> Mesh:
    """Two vertices far apart made one."""
    p, q = rng.choice(len(mesh.vertices), 2, replace=False)
    faces = np.where(mesh.faces == q, p, mesh.faces)
    return Mesh(mesh.vertices, faces).compact()


def _girdle(mesh: Mesh, rng: Random) -> Mesh:
    """A ring of faces missing all the way round."""
    axis, level = _cut(mesh, rng)
    low, high = (mesh.vertices[mesh.faces][:, :, axis].min(axis=1),
                 mesh.vertices[mesh.faces][:, :, axis].max(axis=1))  # fmt: skip
    crossing = np.flatnonzero((low < level) & (high > level))
    if len(crossing) > 0.5 * len(mesh.faces):
        crossing = crossing[:1]
    return b.without(mesh, crossing)


def _flap(mesh: Mesh, rng: Random) -> Mesh:
    """A sheet of two triangles that hangs on an edge."""
    f = int(rng.integers(len(mesh.faces)))
    p, q, r = mesh.faces[f]
    v = mesh.vertices
    normal = np.cross(v[q] - v[p], v[r] - v[p])
    long = np.linalg.norm(v[q] - v[p])
    normal *= min(0.3 * long, 0.02 * mesh.area / long) / np.linalg.norm(normal)
    n = len(v)
    return Mesh(
        np.vstack([v, v[p] + normal, v[q] + normal]),
        np.vstack([mesh.faces, [[p, q, n], [q, n + 1, n]]]),
    )


def _stray(mesh: Mesh, rng: Random) -> Mesh:
    """Loose triangles beside the model."""
    corners = mesh.bounds[1] + 2 + rng.uniform(0, 0.2, (5, 3, 3))
    return b.soup(mesh, *(Mesh(c, [[0, 1, 2]]) for c in corners))


def _slivers(mesh: Mesh, rng: Random) -> Mesh:
    """Faces divided so close to a corner that hardly anything is left of one part."""
    v, faces = mesh.vertices, mesh.faces.tolist()
    points = [*v]
    for f in _some(mesh, rng, 0.02).tolist():
        p, q, r = faces[f]
        points.append(v[p] * 0.5 + v[q] * 0.49999 + v[r] * 1e-5)
        n = len(points) - 1
        faces[f] = [p, q, n]
        faces += [[q, r, n], [r, p, n]]
    return Mesh(np.array(points).astype(np.float32).astype(float), faces)


def _wall(mesh: Mesh, rng: Random) -> Mesh:
    """A square without thickness inside, as left over from modelling."""
    at, room = _inside(mesh)
    square = np.array([[-1, -1, 0], [1, -1, 0], [1, 1, 0], [-1, 1, 0]], float) * room / 4
    return b.soup(mesh, Mesh(square + at, [[0, 1, 2], [0, 2, 3]]))


def _buried(mesh: Mesh, rng: Random) -> Mesh:
    """A cube wholly inside."""
    at, room = _inside(mesh)
    cube = shapes.as_mesh(Manifold.cube((room,) * 3, True))
    return b.soup(mesh, Mesh(cube.vertices + at, cube.faces))


WAYS: dict[str, Way] = {
    "small hole": Way(lambda m, rng: b.without(m, _patch(m, rng, 0.01)), None),
    "large hole": Way(lambda m, rng: b.without(m, _patch(m, rng, 0.08)), None),
    "pinholes": Way(lambda m, rng: b.without(m, _some(m, rng, 0.03)), None),
    "girdle": Way(_girdle, None),
    "patch turned": Way(lambda m, rng: b.turned(m, _patch(m, rng, 0.2))),
    "faces turned": Way(lambda m, rng: b.turned(m, _some(m, rng, 0.2))),
    "mirrored": Way(lambda m, rng: b.mirrored(m)),
    "doubled": Way(lambda m, rng: b.doubled(m, _some(m, rng, 0.1))),
    "doubled against": Way(lambda m, rng: b.doubled(m, _patch(m, rng, 0.1), against=True)),
    "all twice": Way(lambda m, rng: b.doubled(m, np.arange(len(m.faces)))),
    "torn": Way(_torn),
    "shaken": Way(_shaken),
    "half divided": Way(_half_divided),
    "patch divided": Way(lambda m, rng: _divided(m, _patch(m, rng, 0.1))),
    "flat faces": Way(lambda m, rng: b.with_flat_faces(m, 4, int(rng.integers(99)))),
    "fins": Way(lambda m, rng: b.with_fin(b.with_fin(m, int(rng.integers(99))), 3)),
    "flap": Way(_flap),
    "twin": Way(
        lambda m, rng: b.touching_twin(m, int(rng.integers(3))), lambda sound, _: 2 * sound.volume
    ),
    "overlap": Way(_across, _united),
    "bits": Way(lambda m, rng: b.soup(m, *_bits(m, rng, 8))),
    "stray triangles": Way(_stray),
    "buried cube": Way(_buried),
    "inner wall": Way(_wall),
    "pushed through": Way(_pushed, None),
    "coarse grid": Way(_rough, None),
    "collapsed": Way(_collapsed, None),
    "pinched": Way(_pinched, None),
    "slivers": Way(_slivers),
}


def broken(name: str, ways: tuple[str, ...]) -> tuple[Mesh, float | None]:
    """A solid of the collection broken in some ways, and the volume that should come back.

    The same every time. With several ways the volume is only known if each leaves the solid's.
    """
    rng = np.random.default_rng([list(SOLIDS).index(name), *map(list(WAYS).index, ways)])
    sound = mesh = solid(name)
    for way in ways:
        mesh = WAYS[way].break_(mesh, rng)
    if len(ways) == 1:
        volume = WAYS[ways[0]].volume
        return mesh, None if volume is None else volume(sound, mesh)
    # what is done to faces that no longer hang together cannot be told from what they were
    known = all(way in KEEPING for way in ways) and "shaken" not in ways
    return mesh, sound.volume if known else None


KEEPING = {name for name, way in WAYS.items() if way.volume is _same}


def threes(name: str, count: int) -> list[tuple[str, ...]]:
    """Some ways to break a solid three times over."""
    rng = np.random.default_rng([7, list(SOLIDS).index(name)])
    return [tuple(rng.choice(list(WAYS), 3, replace=False)) for _ in range(count)]


def judged(mesh: Mesh, volume: float | None) -> str:
    """What became of a broken mesh: tight, refused, or what is wrong with the answer."""
    outcome = mend(mesh)
    if outcome.refused is not None:
        if volume is not None or not outcome.after.leaks:
            return f"should not be refused: {outcome.refused}"
        return "refused"
    assert_tight_by_referees(outcome.mesh)
    delivered = b.soup(Mesh(outcome.mesh.vertices.astype(np.float32), outcome.mesh.faces))
    found = remesh_self_intersections(
        delivered.vertices, delivered.faces.astype(np.int64), detect_only=True
    )
    if len(found[2]):
        return f"{len(found[2])} pairs of triangles still cross"
    if volume is not None and abs(outcome.mesh.volume - volume) > 1e-3 * volume:
        return f"its volume is {outcome.mesh.volume / volume:.4f} of what it was"
    return "tight"
