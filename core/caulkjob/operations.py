"""The single description of every operation.

The server's API, the forms of the interface, the logbook and the command line are derived from
this list; adding a remedy is adding an entry here.
"""

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from importlib import import_module
from typing import TYPE_CHECKING, Any

import numpy as np
from caulkcore.errors import OperationRefused
from caulkcore.io.units import MILLIMETRES
from caulkcore.mesh.sharp_edges import SHARP
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.mesh.weld import weld
from caulkcore.progress import Progress
from caulkcore.remesh.estimate import Estimate, MeshMeasures
from caulkcore.thickness.thickness_map import LEAST_THICKNESS, MOST_THICKNESS

from .limits import USUAL, Limits
from .operation import (
    CLOSE_SHEET,
    GIVE_THICKNESS,
    MOST_COPIES,
    Operation,
    OperationResult,
    Parameter,
    number,
)
from .questions import THIN
from .rule_sheets import RuleSheet


class _Remedies:
    """A module of `remedies`, imported when one of its functions is called.

    All of them together take as long to import as a small file takes to mend.
    """

    def __init__(self, module: str) -> None:
        self._module = f"{__package__}.remedies.{module}"

    def __getattr__(self, name: str) -> Callable[..., Any]:
        if name.startswith("_"):
            raise AttributeError(name)
        return partial(self._run, name)

    def _run(self, name: str, *given: Any, **parameters: Any) -> Any:
        return getattr(import_module(self._module), name)(*given, **parameters)


if TYPE_CHECKING:
    from .remedies import (
        assembly,
        clearing,
        edges,
        faces,
        foot,
        grid_cut,
        narrow_necks,
        openings,
        overlaps,
        parting,
        placing,
        recasting,
        rework,
        thin_walls,
        touch_up,
    )
else:
    assembly = _Remedies("assembly")
    clearing = _Remedies("clearing")
    edges = _Remedies("edges")
    faces = _Remedies("faces")
    foot = _Remedies("foot")
    grid_cut = _Remedies("grid_cut")
    narrow_necks = _Remedies("narrow_necks")
    openings = _Remedies("openings")
    overlaps = _Remedies("overlaps")
    parting = _Remedies("parting")
    placing = _Remedies("placing")
    recasting = _Remedies("recasting")
    rework = _Remedies("rework")
    thin_walls = _Remedies("thin_walls")
    touch_up = _Remedies("touch_up")

_OPEN = ("open-edges", "open-sheets")
"""Kinds of finding with an open rim."""
_PLACES = Parameter("places", "Places", "Numbers of the places; all when empty.", "places")
"""Which places of the finding."""

_SHAPE = Parameter(
    "shape",
    "Shape of the fill",
    "“fitting” follows the surface where it goes on over the hole, and is flat else.",
    "choice",
    ("fitting", "flat", "following"),
    ("", "Close it without a new point", "Close it as the surface around bends"),
    default="fitting",
)
"""How a fill is shaped."""

_OTHERS = Parameter("others", "Other models", "Models of their own.", "meshes")
"""Further models that an operation is about."""
_SPACING = number(
    "spacing",
    "Set off by",
    "How far the parts stand apart afterwards; those that touch would be one in most formats.",
    "mm",
    0.0,
    1000.0,
    1.0,
)
"""How far parts are set off."""
_FIT = number(
    "clearance",
    "Clearance",
    "Between a peg and its socket, on each side.",
    "mm",
    0.0,
    5.0,
    empty="usual",
)
"""How loosely joints fit."""
_SOME_PIECES = Parameter("pieces", "Pieces", "Numbers of the pieces that are meant.", "pieces")
"""Pieces, where they may be left to the operation."""

_REGION = Parameter(
    "region",
    "Region",
    "Picked points, each with how far round it; else the whole.",
    "region",
    empty="The whole model",
)
"""A region, or the whole."""
_ZONE = Parameter("region", "Region", "Picked points, each with how far round it.", "region")
"""A region that has to be given."""

_FACES = Parameter("faces", "Chosen faces", "By runs of their numbers.", "faces", needed=True)
"""Chosen faces that have to be given."""
_SOME_FACES = Parameter("faces", "Chosen faces", "Instead of a region.", "faces")
"""Chosen faces, if there are any."""

_PIECES = Parameter("pieces", "Pieces", "Their numbers, from 1.", "pieces", needed=True)
"""Pieces that have to be named."""

_SHARP = number("sharp", "Sharp from", "Edges bent by more stay.", "°", 5, 180, SHARP)
"""From which bend an edge is sharp."""

_INVERTED = Parameter(
    "inverted",
    "Space turned inside out",
    "What becomes of space that the skin runs round the wrong way. “ask” refuses if it is more "
    "than a hundredth of the volume, and leaves it out else.",
    "choice",
    ("ask", "drop", "keep"),
    (
        "",
        "The same, leaving out what is inside out",
        "The same, with what is inside out as material",
    ),
    default="ask",
)
"""What becomes of space that is wound the wrong way."""


OPERATIONS = (
    Operation(
        "set-unit",
        "Take the file's numbers as",
        "unit set",
        "Reads the file's numbers in another unit; the shape stays.",
        ("unit-suspect",),
        (
            Parameter("unit", "Unit", "The unit to take.", "choice", tuple(MILLIMETRES)),
            Parameter("was", "Unit so far", "The unit it is in now.", "choice", tuple(MILLIMETRES)),
        ),
        rework.set_unit,
    ),
    Operation(
        "drop-duplicates",
        "Drop the copies",
        "duplicates dropped",
        "Leaves one face where several stand on the same three vertices.",
        ("duplicate-faces",),
        (_PLACES,),
        faces.drop_duplicates,
    ),
    Operation(
        "drop-zero-area",
        "Take them out, turn the edge",
        "faces without area dropped",
        "Takes out faces without area and keeps the skin closed round them.",
        ("zero-area-faces",),
        (_PLACES,),
        faces.drop_zero_area,
    ),
    Operation(
        "stitch-cracks",
        "Stitch the crack",
        "cracks stitched",
        "Joins the two sides of a crack, vertex to vertex.",
        ("cracks",),
        (_PLACES,),
        edges.stitch_cracks,
    ),
    Operation(
        "turn-patches",
        "Turn the patch",
        "patches turned",
        "Turns faces that run against their neighbours.",
        ("flipped-faces",),
        (_PLACES,),
        faces.turn_patches,
    ),
    Operation(
        "split-over-shared",
        "Split the edge",
        "over-shared edges split",
        "Divides an edge of three or more faces into edges of two.",
        ("over-shared-edges",),
        (_PLACES,),
        edges.split_over_shared,
    ),
    Operation(
        "give-thickness",
        GIVE_THICKNESS,
        "given a thickness",
        "Makes a wall of an open sheet: a skin on both sides, its rims closed.",
        ("open-sheets",),
        (
            _PLACES,
            number(
                "thickness",
                "Thickness",
                "Of the wall; what the material asks of one that stands free by default.",
                "mm",
                0.05,
                50.0,
                empty="as the material asks",
            ),
            Parameter(
                "side",
                "Side",
                "Where the wall lies, seen from the sheet.",
                "choice",
                ("both", "outward", "inward"),
                ("", "The same, all of it outward", "The same, all of it inward"),
                default="both",
            ),
        ),
        openings.give_thickness,
        by_rules=True,
    ),
    Operation(
        "fill-holes",
        "Close the hole",
        "holes filled",
        "Closes holes with new faces: flat ones flat, others bent as the surface around them.",
        ("open-edges",),
        (_PLACES, _SHAPE),
        openings.fill_holes,
    ),
    Operation(
        "bridge-gaps",
        "Bridge the gap",
        "gaps bridged",
        "Joins the rims of two holes, or two sheets, that face each other with a band; no vertex "
        "moves.",
        _OPEN,
        (
            _PLACES,
            Parameter("kind", "Kind", "The finding that the places are of.", "finding", _OPEN),
        ),
        openings.bridge_gaps,
    ),
    Operation(
        "close-sheets",
        CLOSE_SHEET,
        "lids put on",
        "Closes an open sheet as if it had a hole; the lid may be larger than the sheet.",
        ("open-sheets",),
        (_PLACES, _SHAPE),
        openings.close_sheets,
    ),
    Operation(
        "drop-scraps",
        "Drop the scraps",
        "scraps dropped",
        "Drops open sheets inside a solid, and those with less than a thousandth of the surface.",
        ("open-sheets",),
        (),
        faces.drop_scraps,
    ),
    Operation(
        "part-pinched",
        "Part the vertex",
        "pinched vertices parted",
        "Gives each fan of faces at a pinched vertex a vertex of its own.",
        ("pinched-vertices",),
        (_PLACES,),
        edges.part_pinched,
    ),
    Operation(
        "turn-outward",
        "Turn the shell outward",
        "shells turned outward",
        "Turns shells that are inside out, with all that lies inside them.",
        ("inside-out-shells",),
        (_PLACES,),
        faces.turn_outward,
    ),
    Operation(
        "untangle",
        "Untangle the piece",
        "untangled",
        "Divides the faces that cross, exactly, and leaves out what lies inside.",
        ("self-intersections",),
        (_PLACES, _INVERTED),
        overlaps.untangle,
    ),
    Operation(
        "unite",
        "Unite the two pieces",
        "united",
        "Makes one skin of overlapping pieces, or of the model and others; only faces that cross "
        "are divided.",
        ("overlapping-shells",),
        (
            _PLACES,
            _OTHERS,
            _SOME_PIECES,
            replace(_INVERTED, offers=()),
            Parameter(
                "apart",
                "Stay apart",
                "Numbers of pieces that stay as they are.",
                "pieces",
                default=(),
            ),
        ),
        assembly.unite,
        tells=True,
    ),
    Operation(
        "close-gaps",
        "Close the gap",
        "gaps closed",
        "Moves the smaller piece over the gap into the other and unites them.",
        ("near-gaps",),
        (
            _PLACES,
            number(
                "overlap", "Overlap", "How deep one goes into the other.", "mm", 0.001, 1.0, 0.02
            ),
        ),
        overlaps.close_gaps,
        by_limits=True,
    ),
    Operation(
        "fill-voids",
        "Fill the void",
        "voids filled",
        "Leaves out the inner skin, so that the hollow becomes material.",
        ("sealed-voids",),
        (_PLACES,),
        clearing.fill_voids,
        by_limits=True,
    ),
    Operation(
        "drop-buried",
        "Take it out",
        "buried solids left out",
        "Leaves out the skin of a solid inside another; what can be seen stays as it is.",
        ("buried-shells",),
        (_PLACES,),
        clearing.drop_buried,
        by_limits=True,
    ),
    Operation(
        "drop-debris",
        "Drop it",
        "debris dropped",
        "Leaves out bits too small to be meant.",
        ("debris",),
        (_PLACES,),
        clearing.drop_debris,
        by_limits=True,
    ),
    Operation(
        "drop-pieces",
        "Take them out",
        "pieces taken out",
        "Takes the pieces out, each with all that lies in it.",
        (),
        (_PIECES,),
        clearing.drop_pieces,
    ),
    Operation(
        "extract",
        "Leave only them",
        "only these pieces left",
        "Leaves only the pieces, each with all that lies in it; their file has nothing else.",
        (),
        (_PIECES,),
        clearing.extract,
    ),
    Operation(
        "build-up",
        "Build it up",
        "walls built up",
        "Moves the skin of the thin wall out until it is thick enough; nothing else moves.",
        THIN,
        (
            _PLACES,
            Parameter("kind", "Kind", "The finding that the places are of.", "finding", THIN),
            number(
                "to",
                "Thickness",
                "To be reached; what the material asks for by default.",
                "mm",
                LEAST_THICKNESS,
                MOST_THICKNESS,
            ),
            Parameter(
                "side",
                "Side",
                "Which side moves: the one that looks out, the one that looks into the model's own "
                "hollow, or both.",
                "choice",
                ("both", "outward", "inward"),
                ("", "Outward only, the inside stays", "Inward only, the outside stays"),
                default="both",
            ),
        ),
        thin_walls.build_up,
        tells=True,
        by_rules=True,
    ),
    Operation(
        "thicken-necks",
        "Put a collar round it",
        "necks made wider",
        "The two parts hang together by as much as a wall needs; nothing else changes.",
        ("thin-necks",),
        (
            _PLACES,
            number(
                "to",
                "Width",
                "To be reached; what the material asks of a wall by default.",
                "mm",
                LEAST_THICKNESS,
                MOST_THICKNESS,
            ),
        ),
        narrow_necks.thicken_necks,
        tells=True,
        by_rules=True,
    ),
    Operation(
        "set-apart",
        "Set the two apart",
        "set apart",
        "Takes out what joins the two parts, so that they are a clearance apart.",
        ("thin-necks",),
        (
            _PLACES,
            number(
                "clearance",
                "Gap",
                "Its width; the material's clearance by default.",
                "mm",
                LEAST_THICKNESS,
                10.0,
            ),
            number(
                "narrower",
                "Necks under",
                "What counts as a neck; what the material asks of a wall by default.",
                "mm",
                LEAST_THICKNESS,
                MOST_THICKNESS,
            ),
        ),
        narrow_necks.set_apart,
        tells=True,
        by_rules=True,
    ),
    Operation(
        "reduce",
        "Reduce the triangles",
        "reduced",
        "Makes the triangles fewer until the first of these limits is reached; the skin stays as "
        "sound as it was.",
        ("file-too-big",),
        (
            number(
                "percent", "Share to leave", "Of the triangles.", "%", 0.01, 99.9, empty="no limit"
            ),
            number(
                "triangles", "Triangles to leave", "At least.", "", 4, 50_000_000, empty="no limit"
            ),
            number(
                "megabytes",
                "Binary STL",
                "Size to come below.",
                "MB",
                0.001,
                2500,
                empty="no limit",
            ),
            number(
                "deviation",
                "Deviation",
                "How far the skin may move.",
                "mm",
                0.0001,
                10,
                empty="no limit",
            ),
            Parameter(
                "edges",
                "Sharp edges stay as they are",
                "No vertex on an edge sharper than 30 degrees moves.",
                "switch",
                default=False,
            ),
            Parameter(
                "mating",
                "Faces that mate stay as they are",
                "Flat faces that stand across from their like on another piece, as a cut leaves "
                "them.",
                "switch",
                default=True,
            ),
        ),
        rework.reduce,
        tells=True,
        freely=True,
        cost=rework.reduce_cost,
    ),
    Operation(
        "refine",
        "Refine a region",
        "refined",
        "Halves edges until none is longer than asked for; new vertices follow the bend, sharp "
        "edges stay sharp, and no vertex that is there moves.",
        (),
        (
            _REGION,
            _SOME_FACES,
            number("size", "Longest edge", "To leave.", "mm", 0.01, 100, empty="half the mean"),
            _SHARP,
            Parameter("rounded", "Follow the bend", "Else it stays flat.", "switch", default=True),
        ),
        rework.refine,
        tells=True,
        freely=True,
        cost=rework.refine_cost,
    ),
    Operation(
        "smooth",
        "Smooth a region",
        "smoothed",
        "Draws vertices towards their neighbours without shrinking the whole; sharp edges and "
        "rims stay, and the effect falls off towards the rim of the region.",
        (),
        (
            _REGION,
            _SOME_FACES,
            number("rounds", "Rounds", "More make it smoother.", "", 1, 200, 10),
            number(
                "deviation",
                "Deviation",
                "How far a vertex may move.",
                "mm",
                0.001,
                10,
                empty="no limit",
            ),
            _SHARP,
        ),
        rework.smooth,
        tells=True,
        freely=True,
        cost=rework.smooth_cost,
    ),
    Operation(
        "even-out",
        "Even out the triangles",
        "triangles evened out",
        "Makes the triangles of a region about equilateral and of one size; the surface stays "
        "where it is within the deviation, and sharp edges and rims stay as they are.",
        (),
        (
            _REGION,
            _SOME_FACES,
            number(
                "size",
                "Edges of",
                "How long edges are to be. Where the surface bends too much for that they stay "
                "shorter.",
                "mm",
                0.01,
                100,
                empty="their mean",
            ),
            number(
                "deviation",
                "Deviation",
                "How far the surface may move.",
                "mm",
                0.0001,
                10,
                empty="a thirtieth of the edges",
            ),
            _SHARP,
        ),
        rework.even_out,
        tells=True,
        freely=True,
        cost=rework.even_out_cost,
    ),
    Operation(
        "erase",
        "Erase and close",
        "erased",
        "Takes the faces out and goes on with the surface where they were, as if they had never "
        "been.",
        (),
        (_FACES, _SHAPE),
        touch_up.erase,
        freely=True,
    ),
    Operation(
        "delete-faces",
        "Take out, leave open",
        "faces taken out",
        "Takes the faces out; their rim stays open.",
        (),
        (_FACES,),
        touch_up.delete,
        freely=True,
        opens=True,
    ),
    Operation(
        "close-here",
        "Close the holes beside it",
        "closed here",
        "Closes the open rims that the faces touch.",
        (),
        (_FACES, _SHAPE),
        touch_up.close_here,
        freely=True,
    ),
    Operation(
        "turn-faces",
        "Turn over",
        "faces turned over",
        "Turns the faces, so that their inside looks out.",
        (),
        (_FACES,),
        touch_up.turn_over,
        freely=True,
    ),
    Operation(
        "push",
        "Push out or in",
        "pushed",
        "Moves the faces by a distance; the surface around follows less and less, as far as the "
        "fall-off goes.",
        (),
        (
            _FACES,
            number("distance", "By", "Below zero it goes in.", "mm", -100.0, 100.0, needed=True),
            number("falloff", "Fall-off", "How far around it follows.", "mm", 0.0, 100.0, 0.0),
            Parameter(
                "direction",
                "Direction",
                "All one way, or each vertex along its own normal.",
                "choice",
                ("together", "outward"),
                default="together",
            ),
        ),
        touch_up.push,
        tells=True,
        freely=True,
    ),
    Operation(
        "flatten",
        "Lay flat",
        "laid flat",
        "Moves the vertices of the faces into one plane.",
        (),
        (
            _FACES,
            Parameter(
                "plane",
                "Plane",
                "The one in the middle of the faces, or the one that fits their rim.",
                "choice",
                ("middle", "rim"),
                default="middle",
            ),
        ),
        touch_up.flatten,
        tells=True,
        freely=True,
    ),
    Operation(
        "separate",
        "Make a piece of it",
        "made a piece",
        "Parts the faces from the rest and closes both, a gap between them.",
        (),
        (_FACES, number("gap", "Gap", "Between the two.", "mm", 0.001, 10.0, 0.1)),
        touch_up.separate,
        freely=True,
    ),
    Operation(
        "mirror-half",
        "Mirror the half",
        "mirrored",
        "Adds the mirror image about the plane in which the open rim lies.",
        _OPEN,
        (),
        touch_up.mirror,
    ),
    Operation(
        "scale",
        "Scale",
        "scaled",
        "Makes everything larger or smaller by one factor.",
        (),
        (
            number("factor", "Factor", "Times as large.", "", 1e-4, 1e4, empty="by another way"),
            number("percent", "Share", "The factor in hundredths.", "%", 0.01, 1e6),
            Parameter(
                "axis",
                "Side",
                "The one that the length is of.",
                "choice",
                ("longest", "x", "y", "z"),
                default="longest",
            ),
            number("length", "Length", "What that side is to be.", "mm", 0.01, 1e5),
        ),
        rework.scale,
    ),
    Operation(
        "join-files",
        "Bring other models in",
        "models brought in",
        "Other models come in as pieces, at their places.",
        (),
        (replace(_OTHERS, needed=True),),
        assembly.join,
        joins=True,
        brings_in=True,
    ),
    Operation(
        "subtract",
        "Take off the rest",
        "taken off",
        "Takes pieces, or other models, off all that is left.",
        (),
        (
            _OTHERS,
            _SOME_PIECES,
            number(
                "clearance",
                "Clearance",
                "By how much more is taken off all round: the seat of a part that is to go in.",
                "mm",
                0.0,
                20.0,
                0.0,
            ),
            Parameter(
                "keep",
                "Keep the pieces",
                "Whether what was taken off stays in the model.",
                "switch",
                default=False,
            ),
        ),
        assembly.subtract,
        tells=True,
        freely=True,
        whole=True,
    ),
    Operation(
        "intersect",
        "Keep what they share",
        "what they share",
        "Keeps of pieces, or of the model and others, only what all of them share.",
        (),
        (_OTHERS, _SOME_PIECES),
        assembly.intersect,
        tells=True,
        freely=True,
        whole=True,
    ),
    Operation(
        "cut",
        "Cut into parts",
        "cut into parts",
        "Cuts all of it by a plane into closed parts with flat faces where they meet.",
        (),
        (
            Parameter("point", "Point", "On the plane: x, y, z.", "vector", needed=True),
            Parameter("normal", "Normal", "Of the plane: x, y, z.", "vector", needed=True),
            Parameter(
                "part",
                "Part",
                "Which stays: both, the one that the normal points away from (1), or the other.",
                "choice",
                ("both", "1", "2"),
                default="both",
            ),
            _SPACING,
            Parameter(
                "joint",
                "Joint",
                "What joins the two parts.",
                "choice",
                ("none", "round", "square", "keyed", "magnet", "screw", "dovetail"),
                default="none",
            ),
            Parameter(
                "spots",
                "Places",
                "Of the joints: points on the cut, each with half its width.",
                "region",
                empty="proposed",
            ),
            number(
                "width",
                "Width",
                "Of a peg or a dovetail at its foot, of a magnet, of a screw's thread.",
                "mm",
                0.3,
                200.0,
                empty="proposed",
            ),
            number(
                "length",
                "Length",
                "Of a peg, of a magnet; of a screw in each part; the height of a dovetail.",
                "mm",
                0.3,
                500.0,
                empty="as wide",
            ),
            number("taper", "Taper", "By how much a peg's sides lean inward.", "°", 0.0, 30.0, 2.0),
            _FIT,
            Parameter(
                "loose",
                "Loose pins",
                "Whether pegs are pins of their own, with a socket in both parts.",
                "switch",
                default=False,
            ),
        ),
        parting.cut,
        tells=True,
        by_rules=True,
        freely=True,
        whole=True,
    ),
    Operation(
        "cut-to-fit",
        "Cut to fit the machine",
        "cut to fit",
        "Cuts along the axes into equal parts that fit, with as few cuts as can be.",
        ("too-large",),
        (
            Parameter(
                "room",
                "Room",
                "Sides that a part may have; those of the best machine by default.",
                "vector",
                empty="the machine's",
            ),
            _SPACING,
            Parameter(
                "joint",
                "Pins",
                "Across the cuts: loose ones, so that every part still fits.",
                "choice",
                ("none", "round", "square", "keyed"),
                default="none",
            ),
            number("width", "Width", "Of a pin in its middle.", "mm", 0.3, 200.0, empty="proposed"),
            _FIT,
        ),
        grid_cut.cut_to_fit,
        tells=True,
        by_rules=True,
        by_limits=True,
        freely=True,
        whole=True,
    ),
    Operation(
        "cut-along",
        "Cut along a line",
        "cut along a line",
        "Cuts along a drawn line, straight through the way it was looked at.",
        (),
        (
            Parameter(
                "line",
                "Line",
                "Its corners; closed if it ends where it began.",
                "line",
                needed=True,
            ),
            Parameter("direction", "Direction", "The way it was looked at.", "vector", needed=True),
            _SPACING,
        ),
        parting.cut_along,
        tells=True,
        freely=True,
        whole=True,
    ),
    Operation(
        "cut-out",
        "Cut out a block",
        "cut out",
        "Parts what lies in a block, a cylinder or another piece from the rest.",
        (),
        (
            Parameter(
                "shape",
                "Shape",
                "What cuts.",
                "choice",
                ("block", "cylinder", "piece"),
                default="block",
            ),
            Parameter("at", "Middle", "Of the block or cylinder.", "vector"),
            Parameter(
                "size", "Sides", "Of the block; of a cylinder two widths and the height.", "vector"
            ),
            Parameter(
                "axis",
                "Axis",
                "The way that the last side goes.",
                "vector",
                default=[0.0, 0.0, 1.0],
            ),
            replace(_SOME_PIECES, about="The pieces that cut; they are left out afterwards."),
            _SPACING,
        ),
        parting.cut_out,
        tells=True,
        freely=True,
        whole=True,
    ),
    Operation(
        "flat-foot",
        "Trim a flat foot",
        "trimmed flat",
        "Trims it flat from below, z being up, so that it stands.",
        (),
        (
            number(
                "height", "Height", "Above its lowest point.", "mm", 0.001, 1e4, empty="by the area"
            ),
            number(
                "area", "Area", "Of the foot, with as little taken off as can be.", "mm²", 0.01, 1e7
            ),
        ),
        foot.flat_foot,
        tells=True,
        freely=True,
        whole=True,
    ),
    Operation(
        "move",
        "Move",
        "moved",
        "Moves pieces, each with all that lies in it.",
        (),
        (Parameter("by", "By", "Along x, y and z.", "vector", needed=True), _SOME_PIECES),
        placing.move,
        joins=True,
    ),
    Operation(
        "turn",
        "Turn",
        "turned",
        "Turns pieces about a line through the middle of their box.",
        (),
        (
            Parameter("axis", "Axis", "The line's direction.", "vector", default=[0.0, 0.0, 1.0]),
            number(
                "degrees",
                "Angle",
                "Counter-clockwise, seen from the axis's end.",
                "°",
                -360.0,
                360.0,
                needed=True,
            ),
            _SOME_PIECES,
        ),
        placing.turn,
        joins=True,
    ),
    Operation(
        "mirror",
        "Mirror",
        "mirrored",
        "Mirrors pieces about the middle of their box.",
        (),
        (
            Parameter(
                "side",
                "Along",
                "The direction that is turned round.",
                "choice",
                ("x", "y", "z"),
                default="x",
            ),
            _SOME_PIECES,
        ),
        placing.mirror,
        joins=True,
    ),
    Operation(
        "copy",
        "Copy",
        "copied",
        "Adds copies of pieces, each a step farther than the one before.",
        (),
        (
            Parameter("by", "Step", "Along x, y and z.", "vector", needed=True),
            number("count", "Copies", "How many.", "", 1, MOST_COPIES, 1),
            _SOME_PIECES,
        ),
        placing.copy,
        joins=True,
    ),
    Operation(
        "recast-zone",
        "Recast a region",
        "recast in a region",
        "Rebuilds what lies in a box round each picked point from a fine grid, and joins it to the "
        "rest exactly; what lies outside is not touched.",
        (),
        (
            _ZONE,
            number(
                "detail",
                "Detail size",
                "What is thinner may be lost; an 80th of the box by default.",
                "mm",
                0.005,
                10.0,
            ),
        ),
        recasting.recast_zone,
        tells=True,
        freely=True,
        cost=recasting.recast_zone_cost,
    ),
    Operation(
        "recast",
        "Recast the whole",
        "recast",
        "Rebuilds everything from a fine grid as one closed skin; every face becomes a new one.",
        ("self-intersections", "overlapping-shells", "open-edges", "over-shared-edges"),
        (
            number(
                "detail",
                "Detail size",
                "What is thinner may be lost; half the smallest feature by default.",
                "mm",
                0.01,
                10.0,
            ),
            number(
                "deviation",
                "Deviation",
                "By which fewer triangles may move the skin; a twentieth of the detail size by "
                "default.",
                "mm",
                0.0,
                1.0,
            ),
            number(
                "gap",
                "Gap to close",
                "Narrower slits and cracks are filled; ten times the detail size at most.",
                "mm",
                0.0,
                10.0,
                0.0,
            ),
        ),
        recasting.recast,
        tells=True,
        freely=True,
        cost=recasting.recast_cost,
    ),
    Operation(
        "put-back",
        "Put back",
        "put back",
        "Pieces go where they were in an earlier state of the model, bit for bit.",
        (),
        (
            replace(_OTHERS, title="As it was", about="The earlier state.", needed=True),
            _SOME_PIECES,
        ),
        placing.put_back,
        joins=True,
    ),
    Operation(
        "lay",
        "Lay against a face",
        "laid against a face",
        "Turns pieces by as little as can be and moves them, until one of their faces looks at "
        "another face.",
        (),
        (
            Parameter("at", "Point", "Of theirs: x, y, z.", "vector", needed=True),
            Parameter("facing", "Facing", "Normal of their face there.", "vector", needed=True),
            Parameter("on", "To", "Where that point is to be.", "vector", needed=True),
            Parameter("against", "Against", "Normal of the face there.", "vector", needed=True),
            number("gap", "Gap", "How far they stay apart.", "mm", 0.0, 1000.0, 0.0),
            _SOME_PIECES,
        ),
        placing.lay,
        joins=True,
    ),
    Operation(
        "restore-detail",
        "Bring detail back",
        "detail brought back",
        "Draws the skin back onto an earlier state of the model and makes it finer where that "
        "takes it; where that state crosses itself, is open or is out of reach, the skin stays.",
        (),
        (
            replace(
                _OTHERS, title="As it was", about="The state that the detail is of.", needed=True
            ),
            _REGION,
            _SOME_FACES,
            number(
                "reach",
                "Reach",
                "How far the skin is drawn at most: twice the detail size that it was recast at is "
                "enough; a hundredth of the longest side by default.",
                "mm",
                0.01,
                20.0,
                empty="by its size",
            ),
            number(
                "tolerance",
                "To within",
                "How near to the earlier state it is to come; a twentieth of the reach by default. "
                "Finer takes more triangles.",
                "mm",
                0.001,
                1.0,
                empty="by the reach",
            ),
        ),
        recasting.restore_detail,
        tells=True,
        freely=True,
        cost=recasting.restore_detail_cost,
    ),
)
"""All there are, in the order in which forms offer them."""


def operation(name: str) -> Operation:
    """The operation of a name.

    Parameters
    ----------
    name : str

    Returns
    -------
    Operation

    Raises
    ------
    OperationRefused
        If there is none.
    """
    for one in OPERATIONS:
        if one.name == name:
            return one
    raise OperationRefused(f"There is no operation “{name}”.")


def run_operation(
    mesh: Mesh,
    name: str,
    given: dict[str, Any],
    progress: Progress,
    *,
    rules: RuleSheet | None = None,
    limits: Limits = USUAL,
) -> OperationResult:
    """Check the parameters and run an operation by its name.

    The material's rules and the shop's limits are for those that ask for them.

    Parameters
    ----------
    mesh : Mesh
    name : str
        Of the operation.
    given : dict
        Parameters by name.
    progress : Progress
    rules : RuleSheet, optional
        The material's.
    limits : Limits
        The shop's.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there is no such operation, a parameter is wrong, or it cannot be done at all.
    Cancelled
        If `progress` asks to stop.
    """
    chosen = operation(name)
    parameters = chosen.check(given)
    progress.step(chosen.title, 0.0)
    if chosen.tells:
        parameters["progress"] = progress
    if chosen.by_rules:
        parameters["rules"] = rules
    if chosen.by_limits:
        parameters["limits"] = limits
    result = chosen.run(mesh, **parameters)
    if result.mesh is mesh:
        return result
    return _by_coordinates(result)


def _by_coordinates(result: OperationResult) -> OperationResult:
    """The result with the vertices of its mesh joined that stand at one place.

    Most formats know no indices: parted in the index only, they would be one in the file, and
    what meets there would be told too late.
    """
    mesh, unmoved = result.mesh, result.unmoved
    places, at = weld(mesh.vertices)
    if len(places) == len(mesh.vertices):
        return result
    if unmoved is not None:
        before, unmoved = unmoved, np.empty_like(places)
        unmoved[at] = before
    return replace(result, mesh=Mesh(places, at[mesh.faces]), unmoved=unmoved)


def cost_of(name: str, given: dict[str, Any], measures: MeshMeasures) -> Estimate | None:
    """About what an operation will take, from what is known of the mesh; None if it never tells.

    Parameters
    ----------
    name : str
        Of the operation.
    given : dict
        Parameters by name.
    measures : MeshMeasures

    Returns
    -------
    Estimate or None

    Raises
    ------
    OperationRefused
        If it would be refused.
    """
    chosen = operation(name)
    parameters = chosen.check(given)
    return chosen.cost(measures, **parameters) if chosen.cost else None
