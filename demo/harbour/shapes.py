"""Sound solids of the demo world, made from parameters. All in millimetres."""

from collections.abc import Callable

import numpy as np
from caulkcore import Mesh
from manifold3d import CrossSection, JoinType, Manifold, OpType
from manifold3d import Mesh as RawMesh

_ROUND = 96


def as_mesh(solid: Manifold) -> Mesh:
    """A solid as a mesh, its coordinates on float32 as a file would hold them."""
    raw = solid.to_mesh()
    return Mesh(np.asarray(raw.vert_properties)[:, :3], np.asarray(raw.tri_verts))


def tube(outer: float, inner: float, height: float, around: int = _ROUND) -> Manifold:
    """A tube standing on the plane z = 0."""
    hole = Manifold.cylinder(height + 2, inner, circular_segments=around).translate((0, 0, -1))
    return Manifold.cylinder(height, outer, circular_segments=around) - hole


def turned(profile: list[tuple[float, float]], around: int = _ROUND) -> Manifold:
    """A solid of revolution about z from a profile of (radius, height), counter-clockwise."""
    return CrossSection([profile]).revolve(around)


def bar(a: tuple[float, float, float], b: tuple[float, float, float], r: float) -> Manifold:
    """A round bar between two points."""
    start, end = np.array(a), np.array(b)
    way = end - start
    length = float(np.linalg.norm(way))
    tilt = np.degrees(np.arccos(way[2] / length))
    turn = np.degrees(np.arctan2(way[1], way[0]))
    rod = Manifold.cylinder(length, r, circular_segments=24)
    return rod.rotate((0, tilt, 0)).rotate((0, 0, turn)).translate(tuple(start))


def concatenate(parts: list[Manifold]) -> Manifold:
    """Union of many."""
    return Manifold.batch_boolean(parts, OpType.Add)


def round_the_axis(part: Manifold, times: int, start: float = 0.0) -> list[Manifold]:
    """Copies turned about z."""
    return [part.rotate((0, 0, start + 360.0 * k / times)) for k in range(times)]


def lantern_housing() -> Manifold:
    """A lantern room: stepped base, six posts, a gallery ring, a conical roof with a ball."""
    base = turned([(0, 0), (26, 0), (26, 5), (23, 5), (23, 10), (20, 10), (20, 15), (0, 15)])
    well = Manifold.cylinder(20, 16, circular_segments=_ROUND).translate((0, 0, 3))
    posts = round_the_axis(Manifold.cube((3.2, 5, 28), True).translate((17.5, 0, 28)), 6)
    gallery = tube(21.5, 19.8, 2).translate((0, 0, 22))
    struts = round_the_axis(Manifold.cube((4, 2, 1.6), True).translate((19.4, 0, 23)), 6)
    roof = turned([(0, 41), (25, 41), (25, 44.5), (7, 57), (5, 57.5), (5, 60), (0, 60)])
    hollow = turned([(0, 39), (17, 39), (17, 44), (4, 53), (0, 53)])
    ball = Manifold.sphere(6.2, 64).translate((0, 0, 63.5))
    lugs = round_the_axis(Manifold.cube((9, 6, 6), True).translate((28, 0, 3)), 2, 20)
    return concatenate([base - well, *posts, gallery, *struts, roof - hollow, ball, *lugs])


def gallery_bracket() -> Manifold:
    """A triangular bracket with two bolt holes."""
    outline = CrossSection([[(0, 0), (42, 0), (42, 5), (14, 32), (14, 40), (0, 40)]])
    cut = CrossSection([[(8, 8), (26, 8), (9, 25)]]).offset(2, JoinType.Round, 2, 32)
    web = (outline - cut).extrude(7).rotate((90, 0, 0))
    flange = Manifold.cube((5, 22, 44)).translate((-5, -14.5, 0))
    for z in (10, 34):
        flange -= (
            Manifold.cylinder(9, 2.7, circular_segments=48)
            .rotate((0, 90, 0))
            .translate((-7, -10.5, z))
        )
        flange -= (
            Manifold.cylinder(9, 2.7, circular_segments=48)
            .rotate((0, 90, 0))
            .translate((-7, 3.5, z))
        )
    return concatenate([web, flange])


def horn_cleat() -> Manifold:
    """A mooring cleat: two feet and two horns."""
    horn = Manifold.sphere(1, 64)
    pieces = []
    for k in range(13):
        t = (k - 6) / 6
        size = 7.5 - 3.2 * abs(t) ** 1.5
        pieces.append(horn.scale((size, size, size)).translate((70 * t, 0, 30 + 7 * t * t)))
    links = [Manifold.batch_hull(pieces[k : k + 2]) for k in range(12)]
    feet = [
        Manifold.batch_hull(
            [
                Manifold.cylinder(5, 13, circular_segments=64).translate((x, 0, 0)),
                Manifold.cylinder(3, 6.5, circular_segments=64).translate((x * 0.8, 0, 28)),
            ]
        )
        - Manifold.cylinder(40, 3.2, circular_segments=48).translate((x * 1.02, 0, -1))
        for x in (-24, 24)
    ]
    return concatenate([*links, *feet])


def valve_wheel() -> Manifold:
    """A hand wheel with five spokes and a square bore."""
    rim = turned(
        [(33 + 4 * np.cos(a), 6 + 4 * np.sin(a)) for a in np.linspace(0, 2 * np.pi, 33)[:-1]], 144
    )
    hub = Manifold.cylinder(14, 10, circular_segments=_ROUND)
    spokes = round_the_axis(bar((6, 0, 7), (33, 0, 6), 2.4), 5)
    bore = Manifold.cube((7, 7, 40), True).translate((0, 0, 7))
    return concatenate([rim, hub, *spokes]) - bore


def pump_body() -> Manifold:
    """A bilge pump's body: a round chamber, two flanged ports, a foot."""
    chamber = tube(24, 20, 36)
    floor = Manifold.cylinder(4, 24, circular_segments=_ROUND)
    ports, bores = [], []
    for angle, z in ((0, 12.5), (140, 25.5)):
        pipe = concatenate(
            [
                Manifold.cylinder(30, 7, circular_segments=64),
                Manifold.cylinder(3.5, 11, circular_segments=64).translate((0, 0, 26.5)),
            ]
        )
        bore = Manifold.cylinder(40, 4.6, circular_segments=64)
        ports.append(pipe.rotate((0, 90, 0)).translate((10, 0, z)).rotate((0, 0, angle)))
        bores.append(bore.rotate((0, 90, 0)).translate((10, 0, z)).rotate((0, 0, angle)))
    inside = Manifold.cylinder(40, 20, circular_segments=_ROUND).translate((0, 0, 4))
    foot = Manifold.cube((64, 20, 4), True).translate((0, 0, 2))
    for x in (-28, 28):
        foot -= Manifold.cylinder(10, 2.6, circular_segments=40).translate((x, 0, -3))
    return concatenate([chamber, floor, *ports, foot]) - inside - concatenate(bores)


def bell_frame() -> Manifold:
    """An A-frame with a cross beam and a bell hung in it."""
    legs = [bar((x, y, 0), (x * 0.86, 0, 62), 2.6) for x in (-24, 24) for y in (-16, 16)]
    beam = bar((-28, 0, 62), (28, 0, 62), 3.4)
    sills = [Manifold.cube((8, 44, 4), True).translate((x, 0, 1)) for x in (-24, 24)]
    outer = [
        (0, 58),
        (0, 26),
        (13, 24),
        (13.4, 27),
        (9.5, 38),
        (7.5, 50),
        (4, 54),
        (2, 64),
        (0, 64),
    ]
    bell = turned([p for p in outer if p[0] or p[1] in (64, 26)])
    hollow = turned([(0, 20), (11, 20), (11, 26), (7.6, 38), (5.6, 48), (0, 51)])
    return concatenate([*legs, beam, *sills, bell - hollow])


def gauge_box() -> Manifold:
    """A box for a tide gauge, with a lip and cable glands."""
    body = CrossSection.square((70, 46), True).offset(4, JoinType.Round, 2, 64).extrude(30)
    inside = CrossSection.square((66, 42), True).offset(3, JoinType.Round, 2, 64).extrude(30)
    lip = CrossSection.square((68, 44), True).offset(3.4, JoinType.Round, 2, 64).extrude(3)
    box = body - inside.translate((0, 0, 3)) - lip.translate((0, 0, 28))
    for y in (-12, 0, 12):
        gland = Manifold.cylinder(9, 5.4, circular_segments=48).rotate((0, 90, 0))
        hole = Manifold.cylinder(20, 3.4, circular_segments=48).rotate((0, 90, 0))
        box = box + gland.translate((37, y, 16)) - hole.translate((30, y, 16))
    return box


def gauge_lid() -> Manifold:
    """The lid that goes on the gauge box."""
    plate = CrossSection.square((70, 46), True).offset(4, JoinType.Round, 2, 64).extrude(3)
    ring = CrossSection.square((67.4, 43.4), True).offset(3.2, JoinType.Round, 2, 64)
    inner = CrossSection.square((62, 38), True).offset(3, JoinType.Round, 2, 64)
    rim = (ring - inner).extrude(3).translate((0, 0, 3))
    window = Manifold.cylinder(20, 9, circular_segments=_ROUND).translate((12, 0, -5))
    ribs = [Manifold.cube((2, 38, 2), True).translate((x, 0, 3.9)) for x in (-24, -10, 28)]
    return concatenate([plate, rim, *ribs]) - window


def double_float(radius: float = 14.0, waist: float = 0.5, steps: int = 48) -> Manifold:
    """Two ball floats that run into each other by a hair: they hang together by a lens."""
    away = np.sqrt(radius**2 - (waist / 2) ** 2)
    first = np.arcsin(waist / 2 / radius)
    # finer towards the waist
    angle = first + (np.pi - first) * np.linspace(0, 1, steps) ** 2
    upper = [(radius * np.sin(a), away - radius * np.cos(a)) for a in angle.tolist()]
    upper[-1] = (0.0, away + radius)
    lower = [(r, -z) for r, z in reversed(upper[1:])]
    return turned([*lower, *upper])


def float_cap() -> Manifold:
    """A cap for a float well: a tube with a collar."""
    return concatenate([tube(21, 17.5, 34), tube(26, 17.5, 5).translate((0, 0, 14))])


def name_board() -> Manifold:
    """A boat's name in raised block letters on a board with a moulded edge."""
    strokes: dict[str, list[tuple[float, float, float, float]]] = {
        "T": [(0, 8, 7, 2), (2.5, 0, 2, 10)],
        "E": [(0, 0, 2, 10), (0, 8, 6, 2), (0, 4, 5, 2), (0, 0, 6, 2)],
        "R": [(0, 0, 2, 10), (0, 8, 6, 2), (4, 4, 2, 6), (0, 4, 6, 2), (3.4, 0, 2.2, 5)],
        "N": [(0, 0, 2, 10), (5, 0, 2, 10), (1.6, 5, 2, 4), (3.2, 2.2, 2, 4)],
    }
    x, letters = 0.0, []
    for letter in "TERN":
        for dx, dy, w, h in strokes[letter]:
            block = CrossSection.square((w, h)).extrude(2.5)
            letters.append(block.translate((x + dx, dy, 3)))
        x += 9
    length = x + 9
    board = CrossSection.square((length, 20)).offset(2, JoinType.Round, 2, 48).extrude(4)
    edge = CrossSection.square((length, 20)).offset(2, JoinType.Round, 2, 48)
    inset = CrossSection.square((length - 2, 18)).translate((1, 1)).offset(1, JoinType.Round, 2, 48)
    frame = (edge - inset).extrude(5.5)
    words = concatenate(letters).translate((5.5, 5, 0))
    return concatenate([board, frame, words]).scale((1.6, 1.6, 1.6))


def half_hull(stations: int = 72, waterlines: int = 28) -> Manifold:
    """A half model of a hull: lofted sections on a flat back."""

    def section(t: float, s: float) -> tuple[float, float, float]:
        full = np.sin(np.pi * min(max(0.04 + 0.92 * t, 0), 1)) ** 0.62
        beam = 15.5 * full * (1 - 0.18 * (1 - t))
        depth = 5 + 18 * full
        sheer = 26 + 6 * (2 * t - 1) ** 2
        y = beam * np.sin(s * np.pi / 2) ** (0.75 + 0.5 * t)
        z = sheer - (sheer - (24 - depth)) * np.cos(s * np.pi / 2) ** 1.1
        return 130 * t, float(y), float(z)

    t = np.linspace(0, 1, stations)
    s = np.linspace(0, 1, waterlines)
    grid = np.array([[section(a, b) for b in s] for a in t])
    # shear plane and deck close it: each station is a ring along the back and over the deck
    rings = []
    for row in grid:
        keel, top = row[0], row[-1]
        rings.append(np.vstack([row, [[keel[0], 0.0, top[2]]]]))
    rings_ = np.array(rings)
    rings_[:, 0, 1] = 0.0
    n = rings_.shape[1]
    points = rings_.reshape(-1, 3)
    faces = []
    for i in range(stations - 1):
        for j in range(n):
            a, b = i * n + j, i * n + (j + 1) % n
            c, d = a + n, b + n
            faces += [(a, b, c), (b, d, c)]
    for first, flip in ((0, False), ((stations - 1) * n, True)):
        for j in range(1, n - 1):
            cap = (first, first + j, first + j + 1)
            faces.append(cap if flip else cap[::-1])
    mesh = Mesh(points, np.array(faces))
    return from_mesh(mesh if mesh.volume > 0 else Mesh(mesh.vertices, mesh.faces[:, ::-1]))


def from_mesh(mesh: Mesh) -> Manifold:
    """A mesh as a solid."""
    raw = RawMesh(mesh.vertices.astype(np.float32), mesh.faces.astype(np.uint32))
    raw.merge()
    return Manifold(raw)


def bollard(rings: int = 300, around: int = 360, seed: int = 4) -> tuple[np.ndarray, np.ndarray]:
    """A weathered mooring bollard as a scanner saw it: open below. Vertices and faces."""
    rng = np.random.default_rng(seed)
    t = np.linspace(0, 1, rings)
    z = 78 * t
    radius = 19 + 5 * np.exp(-((t / 0.1) ** 2)) + 9 * np.exp(-(((t - 0.84) / 0.09) ** 2))
    radius = radius * np.sqrt(np.clip((1 - t**24), 0, 1))
    angle = np.linspace(0, 2 * np.pi, around, endpoint=False)
    worn = np.zeros((rings, around))
    for _ in range(60):
        a0, t0 = rng.uniform(0, 2 * np.pi), rng.uniform(0, 1)
        da = np.angle(np.exp(1j * (angle - a0)))
        size = rng.uniform(0.02, 0.14)
        bump = np.exp(-((t[:, None] - t0) ** 2 + (da * 0.25) ** 2) / size**2)
        worn += rng.normal(0, 0.4) * bump
    worn += rng.normal(0, 0.025, worn.shape)
    r = radius[:, None] + worn * (radius[:, None] > 3)
    x, y = r * np.cos(angle), r * np.sin(angle)
    points = np.stack([x, y, np.broadcast_to(z[:, None], x.shape)], axis=-1)[:-1].reshape(-1, 3)
    top = len(points)
    points = np.vstack([points, [[0, 0, 78]]])
    i, j = np.meshgrid(np.arange(rings - 2), np.arange(around), indexing="ij")
    a, b = i * around + j, i * around + (j + 1) % around
    quads = np.stack([a, b, b + around, a, b + around, a + around], axis=-1).reshape(-1, 3)
    last = (rings - 2) * around
    cap = np.stack(
        [last + np.arange(around), last + (np.arange(around) + 1) % around, np.full(around, top)],
        axis=-1,
    )
    return points, np.vstack([quads, cap])


def pennant(columns: int = 60, rows: int = 24) -> Mesh:
    """A waving pennant without any thickness."""
    u, v = np.meshgrid(np.linspace(0, 1, columns), np.linspace(-1, 1, rows), indexing="ij")
    taper = 1 - 0.75 * u
    x, y, z = 90 * u, 6 * np.sin(7 * u) * u, 22 + 16 * v * taper
    points = np.stack([x, y, z], axis=-1).reshape(-1, 3)
    i, j = np.meshgrid(np.arange(columns - 1), np.arange(rows - 1), indexing="ij")
    a = (i * rows + j).ravel()
    faces = np.stack([a, a + rows, a + rows + 1, a, a + rows + 1, a + 1], axis=-1).reshape(-1, 3)
    return Mesh(points, faces)


def harbour_seal() -> list[Manifold]:
    """A seal on a rock, in the overlapping pieces that a sculptor leaves."""

    def blob(size: tuple[float, float, float], at: tuple[float, float, float]) -> Manifold:
        return Manifold.sphere(1, 96).scale(size).translate(at)

    body = blob((15, 12, 11), (0, 0, 20)) + blob((11, 9, 9), (14, 0, 26))
    body = body + blob((12, 8, 7), (-16, 0, 16))
    neck = blob((8, 7.5, 8.5), (20, 0, 33))
    head = blob((7.5, 6.8, 6.6), (23, 0, 40)) + blob((4.2, 3.6, 3.2), (29, 0, 38.6))
    tail = blob((8, 3, 2.4), (-29, 0, 14)) + blob((5, 6, 1.6), (-35, 0, 14))
    flippers = [
        blob((7, 2.2, 4), (0, 0, 0)).rotate((0, 30, s * 30)).translate((8, s * 12, 14))
        for s in (-1, 1)
    ]
    rock = blob((34, 22, 13), (0, 0, 4)) - Manifold.cube((200, 200, 40), True).translate(
        (0, 0, -20)
    )
    return [body, neck, head, tail, *flippers, rock]


SOLIDS: dict[str, Callable[[], Manifold]] = {
    "lantern housing": lantern_housing,
    "gallery bracket": gallery_bracket,
    "horn cleat": horn_cleat,
    "valve wheel": valve_wheel,
    "pump body": pump_body,
    "bell frame": bell_frame,
    "gauge box": gauge_box,
    "gauge lid": gauge_lid,
    "float cap": float_cap,
    "name board": name_board,
    "half hull": half_hull,
}
