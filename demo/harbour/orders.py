"""The demo orders: who ordered what, in which file, and what is wrong with it."""

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from caulkcore import Mesh
from caulkjob import write

from . import breakers as b
from . import shapes as s

SKERRY, OAKUM = "Skerry Light Trust", "Oakum Yard"
MUSEUM, GAUGES = "North Quay Museum, education desk", "Tide gauge network"


@dataclass(frozen=True)
class DemoItem:
    """One item: its file is made by a function of the folder to write into."""

    name: str
    file: str
    material: str
    quantity: int
    note: str
    mesh: Mesh | None = None
    cut_off: bool = False

    def write(self, folder: Path) -> Path:
        """Write the file into a folder."""
        path = folder / self.file
        if self.mesh is not None:
            write(self.mesh, path, self.name)
        if self.cut_off:
            data = path.read_bytes()
            path.write_bytes(data[: len(data) * 2 // 3])
        return path


@dataclass(frozen=True)
class DemoOrder:
    """An order with its due date in hours from now."""

    number: str
    customer: str
    hours: int
    note: str
    items: tuple[DemoItem, ...]


def _lantern() -> Mesh:
    mesh = s.as_mesh(s.lantern_housing().refine_to_length(2.2))
    for at, count in (((12, -10, 52), 150), ((-31, -8, 3), 8), ((3, -2, 69.5), 7)):
        mesh = b.without(mesh, b.near(mesh, at, count))
    mesh = b.turned(mesh, b.near(mesh, (17.5, -2, 30), 90))
    mesh = b.turned(mesh, b.near(mesh, (4, -4, 62), 60))
    core = s.as_mesh(s.Manifold.sphere(3, 48).translate((0, 0, 63.5)))
    crumbs = [
        s.as_mesh(s.Manifold.cube((0.3, 0.2, 0.2)).translate((x, y, 15.4)))
        for x, y in ((4, -3), (-6, 2), (1, 7))
    ]
    return b.soup(mesh, Mesh(core.vertices, core.faces[:, ::-1]), *crumbs)


def _wheel() -> Mesh:
    mesh = s.as_mesh(s.valve_wheel())
    rim = np.flatnonzero(np.abs(b.middles(mesh)[:, 0] - 30) < 1)
    for f in (int(rim[0]), int(rim[-1])):
        mesh = b.with_fin(mesh, f)
    return mesh


def _seal() -> Mesh:
    pieces = [s.as_mesh(p) for p in s.harbour_seal()]
    # the right flipper was made by mirroring the left one
    pieces[5] = Mesh(pieces[5].vertices, pieces[5].faces[:, ::-1])
    return b.soup(*pieces)


def _bollard() -> Mesh:
    points, faces = s.bollard()
    mesh = Mesh(points, faces)
    rng = np.random.default_rng(7)
    for _ in range(9):
        a, z = rng.uniform(0, 2 * np.pi), rng.uniform(12, 60)
        mesh = b.without(mesh, b.near(mesh, (20 * np.cos(a), 20 * np.sin(a), z), 60))
    return mesh


def _cap() -> Mesh:
    mesh = s.as_mesh(s.float_cap())
    # the exporter left out both ring-shaped ends
    ends = np.isclose(mesh.vertices[mesh.faces][:, :, 2], 0).all(axis=1)
    ends |= np.isclose(mesh.vertices[mesh.faces][:, :, 2], 34).all(axis=1)
    return b.without(mesh, np.flatnonzero(ends))


def _frame() -> Mesh:
    mesh = b.with_flat_faces(s.as_mesh(s.bell_frame()), 24, 3)
    return b.without(mesh, b.near(mesh, (0, 13, 30), 12))


def _box_pair() -> Mesh:
    box = s.as_mesh(s.Manifold.cube((30, 22, 18)))
    twin = Mesh(box.vertices + np.array([30.0, 22.0, 0.0]), box.faces)
    return b.soup(box, twin)


def orders() -> tuple[DemoOrder, ...]:
    """All demo orders; building the meshes takes a few seconds."""
    lid = s.as_mesh(s.gauge_lid())
    hull = s.as_mesh(s.half_hull())
    return (
        DemoOrder(
            "0418", SKERRY, 6, "Spare parts for the open day. Must stand outdoors.",
            (
                DemoItem("Lantern housing", "lantern_v7.stl", "sintered-nylon", 12,
                         "Exported in a hurry: the roof lost a panel, and some posts look "
                         "dark in our viewer. The finial was hollow once.", _lantern()),
                DemoItem("Gallery bracket", "bracket-left.stl", "sintered-nylon", 24,
                         "Same as last year's.", s.as_mesh(s.gallery_bracket())),
            ),
        ),
        DemoOrder(
            "0421", MUSEUM, 26, "For the touch table: children will handle these.",
            (
                DemoItem("Weathered bollard, scan", "bollard_scan.stl", "colour-gypsum", 1,
                         "Scanned on the quay. The scanner could not see the underside, and "
                         "missed a few spots behind the rope marks.", _bollard()),
                DemoItem("Seal on a rock", "seal_sculpt.obj", "standard-resin", 3,
                         "Sculpted in pieces. The right flipper is the left one mirrored.",
                         _seal()),
            ),
        ),
        DemoOrder(
            "0422", OAKUM, 30, "Six-inch cleats; the drawing is in inches.",
            (
                DemoItem("Horn cleat, 6 in", "cleat.obj", "binder-steel", 40,
                         "Please keep to the drawing: six inches from horn to horn.",
                         s.as_mesh(s.horn_cleat()).scaled(1 / 25.4)),
                DemoItem("Name-board", "name_board.obj", "filament-asa", 2,
                         "Cut from our sign-writing program; it leaves slivers.",
                         s.as_mesh(s.name_board())),
            ),
        ),
        DemoOrder(
            "0423", OAKUM, 72, "Half models for the yard office.",
            (
                DemoItem("Half model, station 0–9", "hull_half.stl", "tough-resin", 2,
                         "Two patches of planking were joined by hand along the middle.",
                         b.torn(hull, 0, 65.0, 0.004)),
                DemoItem("Pennant", "pennant.stl", "standard-resin", 2,
                         "From an animation; make it as thin as you can.", s.pennant()),
            ),
        ),
        DemoOrder(
            "0425", GAUGES, 78, "Sixty sets for the new stations.",
            (
                DemoItem("Float well cap", "cap.stl", "filament-asa", 60,
                         "Our exporter left out both ends.", _cap()),
                DemoItem("Double float", "double_float.stl", "sintered-nylon", 20,
                         "Drawn as two balls; we never looked at how they hold together.",
                         s.as_mesh(s.double_float())),
                DemoItem("Sensor box", "gauge_box.stl", "filament-asa", 60,
                         "Unchanged.", s.as_mesh(s.gauge_box())),
                DemoItem("Sensor box, lid", "lid.stl", "filament-asa", 60,
                         "The window bezel was pasted in twice.",
                         b.doubled(lid, b.near(lid, (12, 9, 2), 60))),
                DemoItem("Junction blocks", "blocks.stl", "filament-asa", 60,
                         "Two blocks, corner to corner, in one file.", _box_pair()),
            ),
        ),
        DemoOrder(
            "0427", SKERRY, 100, "Engine room, south light.",
            (
                DemoItem("Bilge pump body, port", "pump_port.stl", "sintered-nylon", 4,
                         "The starboard one, mirrored.", b.mirrored(s.as_mesh(s.pump_body()))),
                DemoItem("Valve wheel", "valve_wheel.stl", "sintered-nylon", 8,
                         "There are two odd spikes near the rim; they are not meant.", _wheel()),
                DemoItem("Bell frame", "bell_frame.obj", "tough-resin", 1,
                         "Thinned out to make it small enough to mail.", _frame()),
                DemoItem("Sounding staff clip", "staff_clip.stl", "sintered-nylon", 30,
                         "Sent from the boat; the line dropped once.",
                         s.as_mesh(s.gallery_bracket()), cut_off=True),
            ),
        ),
    )  # fmt: skip
