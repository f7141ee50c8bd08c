"""Combined faults: other solids than the collection's, each broken three times over.

Some of them stand far from the origin, some are soups of single faces a hair apart, some have a
copy of themselves a hair beside. `cases` is the list; the same every time.
"""

import functools
from collections.abc import Callable

import numpy as np
from caulkcore import Mesh
from collection import KEEPING, WAYS, Random, judged
from harbour import breakers as b
from harbour import shapes
from manifold3d import CrossSection, Manifold

CASES = 400
"""Broken meshes of the whole list."""
_FAR = np.array([4000.0, -2500.0, 900.0])
"""Where those stand that are far from the origin, mm."""


def _turned(profile: list[tuple[float, float]], around: int = 48) -> Manifold:
    return CrossSection([profile]).revolve(around)


def _bent(solid: Manifold, bend: Callable[[np.ndarray], np.ndarray]) -> Manifold:
    return solid.warp_batch(bend)


def _cleat() -> Manifold:
    bar = Manifold.cylinder(30, 3, 2, 24).rotate((0, 90, 0)).translate((-15, 0, 12))
    feet = [Manifold.cube((5, 6, 13), True).translate((x, 0, 6)) for x in (-6, 6)]
    return shapes.concatenate([bar, *feet, Manifold.cube((24, 12, 3), True)])


def _grating() -> Manifold:
    bars = [Manifold.cube((40, 2, 3)).translate((0, 5 * k, 0)) for k in range(8)]
    bars += [Manifold.cube((2, 37, 3)).translate((7.6 * k, 0, 0)) for k in range(6)]
    return shapes.concatenate(bars)


def _bellows() -> Manifold:
    outer = [(8 + 2 * (k % 2), 2.0 * k) for k in range(11)]
    return _turned([*outer, *((r - 1.5, z) for r, z in reversed(outer))])


def _elbow() -> Manifold:
    tube = Manifold.extrude(CrossSection.circle(4, 24) - CrossSection.circle(3, 24), 1.0, 24)

    def bend(points: np.ndarray) -> np.ndarray:
        angle, radius = points[:, 2] * np.pi / 2, 14 + points[:, 0]
        return np.stack([radius * np.cos(angle), radius * np.sin(angle), -points[:, 1]], axis=1)

    return _bent(tube, bend)


def _wavy_plate() -> Manifold:
    def wave(points: np.ndarray) -> np.ndarray:
        lift = 2 * np.sin(points[:, 0] / 4) * np.cos(points[:, 1] / 5)
        return points + np.stack([0 * lift, 0 * lift, lift], axis=1)

    return _bent(Manifold.cube((40, 30, 2)).refine_to_length(2.0), wave)


def _dimpled() -> Manifold:
    ball = Manifold.sphere(12, 48)
    turn = np.pi * (3 - np.sqrt(5))
    for k in range(20):
        z = 1 - 2 * (k + 0.5) / 20
        r = np.sqrt(1 - z * z)
        at = 12.5 * np.array([r * np.cos(turn * k), r * np.sin(turn * k), z])
        ball -= Manifold.sphere(2.2, 16).translate(tuple(at))
    return ball


def _honeycomb() -> Manifold:
    plate = CrossSection.square((44, 30))
    cell = CrossSection.circle(2.6, 6)
    cells = [
        cell.translate((5 + 6 * i, 4.5 + 5.2 * j + 2.6 * (i % 2)))
        for i in range(7)
        for j in range(4)
    ]
    return Manifold.extrude(plate - shapes.CrossSection.batch_boolean(cells, shapes.OpType.Add), 4)


def _spiral_stair() -> Manifold:
    steps = [
        Manifold.cube((14, 5, 1.6)).rotate((0, 0, 24 * k)).translate((0, 0, 1.4 * k))
        for k in range(12)
    ]
    return shapes.concatenate([Manifold.cylinder(19, 2.5, 2.5, 32), *steps])


def _chain() -> Manifold:
    link = CrossSection.circle(1.5, 16).translate((6, 0)).revolve(40).scale((1.5, 1, 1))
    return Manifold.compose(
        [link, link.rotate((90, 0, 0)).translate((14, 0, 0)), link.translate((28, 0, 0))]
    )


def _fan() -> Manifold:
    blade = Manifold.cube((16, 5, 1)).translate((3, -2.5, 0)).rotate((25, 0, 0))
    blades = [blade.rotate((0, 0, 60 * k)) for k in range(6)]
    hub = Manifold.cylinder(6, 4, 4, 40, True) - Manifold.cylinder(8, 1.5, 1.5, 24, True)
    return shapes.concatenate([hub, *blades])


def _saddle() -> Manifold:
    def bend(points: np.ndarray) -> np.ndarray:
        lift = (points[:, 0] ** 2 - points[:, 1] ** 2) / 60
        return points + np.stack([0 * lift, 0 * lift, lift], axis=1)

    return _bent(Manifold.cube((30, 30, 3), True).refine_to_length(2.5), bend)


def _knob() -> Manifold:
    disc = CrossSection.circle(9, 72)
    for k in range(18):
        disc -= CrossSection.circle(1, 12).translate((9.2, 0)).rotate(20 * k)
    return Manifold.extrude(disc, 7) + Manifold.cylinder(12, 4, 3, 32).translate((0, 0, 6))


SOLIDS: dict[str, Callable[[], Manifold]] = {
    "cleat": _cleat,
    "grating": _grating,
    "bellows": _bellows,
    "elbow": _elbow,
    "wavy plate": _wavy_plate,
    "dimpled ball": _dimpled,
    "honeycomb": _honeycomb,
    "spiral stair": _spiral_stair,
    "chain": _chain,
    "fan": _fan,
    "saddle": _saddle,
    "knob": _knob,
    "buoy": lambda: Manifold.sphere(9, 40) + Manifold.cylinder(24, 1.6, 1.6, 20, True),
    "funnel": lambda: _turned([(2.5, 0), (3.5, 0), (3.5, 4), (13, 14), (12, 14), (2.5, 4.4)]),
    "trough": lambda: Manifold.cube((40, 16, 10)) - Manifold.cube((36, 12, 9)).translate((2, 2, 2)),
    "dice": lambda: Manifold.cube((12, 12, 12), True) ^ Manifold.sphere(8.4, 48),
    "cup": lambda: _turned([(0, 0), (8, 0), (9, 16), (8, 16), (7, 1.5), (0, 1.5)]),
    "hollow ring": lambda: (
        CrossSection.circle(3, 24) - CrossSection.circle(2, 24)
    ).translate((10, 0)).revolve(48),
    "needle": lambda: Manifold.cylinder(60, 1.2, 0.05, 16),
    "slab": lambda: Manifold.cube((60, 40, 0.8)).refine(4),
}  # fmt: skip


@functools.cache
def _solid(name: str) -> Mesh:
    mesh = shapes.as_mesh(SOLIDS[name]())
    return b.soup(Mesh(mesh.vertices.astype(np.float32).astype(float), mesh.faces))


def jittered(mesh: Mesh, amount: float, rng: Random) -> Mesh:
    """Every face with corners of its own, each moved a little."""
    corners = mesh.vertices[mesh.faces].reshape(-1, 3)
    corners = corners + rng.uniform(-amount, amount, corners.shape)
    return Mesh(corners, np.arange(len(corners)).reshape(-1, 3))


def case(number: int) -> tuple[str, Mesh, float | None]:
    """What it is, the broken mesh, and the volume that should come back, if that is known."""
    rng = np.random.default_rng([23, number])
    name = list(SOLIDS)[number % len(SOLIDS)]
    sound = mesh = _solid(name)
    ways = rng.choice(list(WAYS), 3, replace=False).tolist()
    if number % 5 == 1:
        mesh = Mesh((mesh.vertices + _FAR).astype(np.float32), mesh.faces)
    for way in ways:
        mesh = WAYS[way].break_(mesh, rng)
    told = f"{number}: {name}, {', '.join(ways)}"
    known = all(way in KEEPING for way in ways) and "shaken" not in ways
    if number % 5 == 1:
        told += ", far away"
    if number % 5 == 2:
        mesh = jittered(mesh, 10.0 ** rng.uniform(-5, -3), rng)
        told += ", a soup"
        known = False
    if number % 5 == 3:
        mesh = b.soup(mesh, Mesh(mesh.vertices + 1e-4, mesh.faces))
        told += ", twice"
        known = False
    return told, mesh, sound.volume if known else None


def verdict(number: int) -> tuple[str, str]:
    """What it is, and what became of it."""
    told, mesh, volume = case(number)
    try:
        return told, judged(mesh, volume)
    except AssertionError as problem:
        return told, f"not tight for the referees: {str(problem)[:60]}"
