"""What solids are cut with: a drawn line made a solid, a block or a cylinder put somewhere."""

from typing import Literal

import numpy as np

from ..mesh.arrays import Array
from ..mesh.polygons import plane_axes
from ..mesh.simple_solids import extruded, loft
from ..mesh.triangle_mesh import Mesh

ROUND = 96
"""Sides of a cylinder that something is cut with."""
_ARC = 8
"""Corners of the way round one side of a line, beyond the model."""
_CLEAR = 0.2
"""Share of the step by which a line has to be clear of where it was: parts that nearly touch would
be taken for one with a gap."""
_BEYOND = 0.1
"""How far what cuts through reaches beyond the model, of its size."""


class UselessLine(ValueError):
    """A line along which nothing can be cut; the message says why, for a person to read."""


def line_cutter(mesh: Mesh, line: Array, way: Array) -> tuple[Mesh, Array | None]:
    """What lies on one side of a drawn line, or within it, as a solid through and through a mesh.

    Parameters
    ----------
    mesh : Mesh
        Its bounds say how far the line goes on at its ends, and the solid before and behind.
    line : ndarray, shape (n, 3)
        Its corners, mm. It is closed if it ends where it began.
    way : ndarray, shape (3,)
        Unit vector: the way that it is looked at.

    Returns
    -------
    solid : Mesh
    aside : ndarray, shape (3,), or None
        Unit vector from the solid's side to the other; None for a closed line.

    Raises
    ------
    UselessLine
        If it has no length seen that way, or crosses itself.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> line = np.array([[5.0, -1.0, 0.0], [5.0, 11.0, 0.0]])
    >>> _, aside = line_cutter(cuboid(), line, np.array([0.0, 0.0, 1.0]))
    >>> (aside.round(6) + 0.0).tolist()
    [1.0, 0.0, 0.0]
    """
    middle = mesh.bounds.mean(axis=0)
    radius = (1.0 + _BEYOND) * mesh.diagonal + float(np.linalg.norm(line - middle, axis=1).max())
    axes = plane_axes(way)
    flat = (line - middle) @ axes.T
    flat = flat[np.r_[True, np.linalg.norm(np.diff(flat, axis=0), axis=1) > 1e-9 * radius]]
    if len(flat) < 2:
        raise UselessLine("Seen that way the line has no length.")
    closed = len(flat) > 3 and np.linalg.norm(flat[0] - flat[-1]) <= 1e-6 * radius
    if closed:
        outline, aside = flat[:-1], None
    else:
        ends = [_on_circle(flat[0], flat[0] - flat[1], radius)]
        ends.append(_on_circle(flat[-1], flat[-1] - flat[-2], radius))
        # round the side on the line's left, back to where it began
        start, stop = (float(np.arctan2(end[1], end[0])) for end in (ends[1], ends[0]))
        turn = (stop - start) % (2 * np.pi)
        angles = start + turn * np.arange(1, _ARC) / _ARC
        arc = 2 * radius * np.stack([np.cos(angles), np.sin(angles)], axis=1)
        outline = np.concatenate([ends[0][None], flat, ends[1][None], arc])
        chord = ends[1] - ends[0]
        left = np.array([-chord[1], chord[0]]) / np.linalg.norm(chord)
        aside = -(left @ axes)
    if _crosses_itself(outline):
        raise UselessLine("The line crosses itself, or would where it goes on at its ends.")
    low = middle - radius * way
    return extruded(low + outline @ axes, 2 * radius * way), aside


def _on_circle(point: Array, way: Array, radius: float) -> Array:
    """Where a ray meets a circle round the origin that it starts in."""
    unit = way / np.linalg.norm(way)
    along = float(point @ unit)
    there: Array = point + unit * (-along + np.sqrt(along**2 + radius**2 - float(point @ point)))
    return there


def slides_free(line: Array, way: Array, step: Array) -> bool:
    """Whether a line seen along a direction, moved by a step, is clear of where it was.

    Parameters
    ----------
    line : ndarray, shape (n, 3)
        Its corners, mm.
    way : ndarray, shape (3,)
        Unit vector.
    step : ndarray, shape (3,)
        mm.

    Returns
    -------
    bool
        False also where it is hardly clear: parts that nearly touch would be taken for one with a
        gap.

    Examples
    --------
    >>> hook = np.array([[0.0, 0.0, 0.0], [4.0, 0.0, 0.0], [4.0, 4.0, 0.0], [1.0, 4.0, 0.0]])
    >>> slides_free(hook, np.array([0.0, 0.0, 1.0]), np.array([0.0, 1.0, 0.0]))
    False
    """
    axes = plane_axes(way)
    here = line @ axes.T
    there = here + step @ axes.T
    a, b = np.repeat(here[:-1], len(here) - 1, axis=0), np.repeat(here[1:], len(here) - 1, axis=0)
    c, d = np.tile(there[:-1], (len(here) - 1, 1)), np.tile(there[1:], (len(here) - 1, 1))
    if _segments_cross(a, b, c, d).any():
        return False
    pairs = ((a, c, d), (b, c, d), (c, a, b), (d, a, b))
    nearest = min(float(_to_segments(*one).min()) for one in pairs)
    return nearest >= _CLEAR * float(np.linalg.norm(step))


def placed_solid(shape: Literal["block", "cylinder"], at: Array, size: Array, axis: Array) -> Mesh:
    """A block or cylinder round a point, along an axis.

    Parameters
    ----------
    shape : {"block", "cylinder"}
    at : ndarray, shape (3,)
        Its middle, mm.
    size : ndarray, shape (3,)
        Sides of the block, mm, the last one along the axis; of a cylinder its two diameters and
        height.
    axis : ndarray, shape (3,)
        Unit vector.

    Returns
    -------
    Mesh
        A cylinder has `ROUND` sides.

    Examples
    --------
    >>> x = np.array([1.0, 0.0, 0.0])
    >>> placed_solid("block", np.zeros(3), np.array([1.0, 2.0, 3.0]), x).size.round(6).tolist()
    [3.0, 2.0, 1.0]
    """
    across = np.cross(np.eye(3)[np.argmin(np.abs(axis))], axis)
    if abs(axis[2]) > 0.99999:
        across = np.array([1.0, 0.0, 0.0])
    axes = np.stack([across / np.linalg.norm(across), np.zeros(3)])
    axes[1] = np.cross(axis, axes[0])
    if shape == "block":
        ring = np.array([[-0.5, -0.5], [0.5, -0.5], [0.5, 0.5], [-0.5, 0.5]])
    else:
        angle = 2 * np.pi * np.arange(ROUND) / ROUND
        ring = 0.5 * np.stack([np.cos(angle), np.sin(angle)], axis=1)
    flat = at + (ring * size[:2]) @ axes
    return loft(np.stack([flat - 0.5 * size[2] * axis, flat + 0.5 * size[2] * axis]))


def _to_segments(p: Array, a: Array, b: Array) -> Array:
    """How far points are from segments, row by row."""
    side = b - a
    square = (side**2).sum(axis=1).clip(1e-300)
    share = (((p - a) * side).sum(axis=1) / square).clip(0.0, 1.0)
    away: Array = np.linalg.norm(p - a - share[:, None] * side, axis=1)
    return away


def _segments_cross(a: Array, b: Array, c: Array, d: Array) -> Array:
    """Whether segments a-b and c-d of a plane meet, row by row."""

    def turn(p: Array, q: Array, r: Array) -> Array:
        one, two = q - p, r - p
        signs: Array = np.sign(one[..., 0] * two[..., 1] - one[..., 1] * two[..., 0])
        return signs

    # those on one line must share a stretch of it
    near = (np.minimum(a, b) <= np.maximum(c, d)) & (np.minimum(c, d) <= np.maximum(a, b))
    across = (turn(a, b, c) * turn(a, b, d) <= 0) & (turn(c, d, a) * turn(c, d, b) <= 0)
    meet: Array = across & near.all(axis=1)
    return meet


def _crosses_itself(outline: Array) -> bool:
    """Whether two sides of an outline cross that are not neighbours."""
    start, end = outline, np.roll(outline, -1, axis=0)
    i, j = np.triu_indices(len(outline), 2)
    apart = (j + 1) % len(outline) != i
    i, j = i[apart], j[apart]
    return bool(_segments_cross(start[i], end[i], start[j], end[j]).any())
