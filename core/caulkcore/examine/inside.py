"""Is there anything inside that does not belong? Voids, buried solids, debris."""

import numpy as np

from ..mesh import Array
from .finding import Finding, Place, counted, volume_text
from .limits import USUAL, Limits
from .places import shell_places
from .skin import Skin


def debris(skin: Skin, limits: Limits = USUAL) -> Array:
    """Shells too small to be meant, shape (k,): never all of them, and no open sheets."""
    _, count = skin.shells
    volume, _ = skin.shell_measures
    across = skin.shell_extents
    hardly_any = (np.abs(volume) <= limits.debris_volume) & (across <= limits.debris_reach)
    small = (across <= limits.debris_size) | hardly_any
    small &= ~skin.sheets & (across < 0.05 * across.max(initial=0))
    return np.flatnonzero(small) if count > 1 else np.zeros(0, dtype=np.int64)


def surrounding(skin: Skin) -> Array:
    """How many solids minus voids lie around each shell, shape (count,)."""
    _, count = skin.shells
    volume, _ = skin.shell_measures
    depth, parent = skin.nesting
    around = np.zeros(count, dtype=np.int64)
    for level in range(1, int(depth.max(initial=0)) + 1):
        here = np.flatnonzero((depth == level) & (parent >= 0))
        around[here] = around[parent[here]] + np.where(volume[parent[here]] >= 0, 1, -1)
    return around


def voids(skin: Skin, limits: Limits = USUAL) -> Array:
    """Closed shells that face inward with material around them."""
    volume, _ = skin.shell_measures
    inner = (volume < 0) & (surrounding(skin) > 0) & ~skin.open_shells
    return np.setdiff1d(np.flatnonzero(inner), debris(skin, limits))


def buried(skin: Skin, limits: Limits = USUAL) -> Array:
    """Shells that face outward with material around them."""
    volume, _ = skin.shell_measures
    inner = (volume >= 0) & (surrounding(skin) > 0) & ~skin.sheets
    return np.setdiff1d(np.flatnonzero(inner), debris(skin, limits))


def find(skin: Skin, limits: Limits = USUAL) -> list[Finding]:
    """The findings of *Inside*."""
    if skin.shells[1] < 2:
        return []
    found = (make(skin, limits) for make in (sealed_voids, buried_shells, debris_bits))
    return [f for f in found if f]


def _places(skin: Skin, kind: str, chosen: Array, what: str) -> tuple[Place, ...]:
    volume, _ = skin.shell_measures

    def title(s: int) -> str:
        return f"{what}, {volume_text(abs(float(volume[s])))}"

    return shell_places(skin, kind, chosen, title)


def sealed_voids(skin: Skin, limits: Limits = USUAL) -> Finding | None:
    """Hollows without an opening."""
    chosen = voids(skin, limits)
    n = len(chosen)
    if not n:
        return None
    return Finding(
        "sealed-voids",
        "call",
        n,
        f"{counted(n, 'hollow')} without an opening. Powder or resin stays inside for good; if it "
        "is not meant, fill it.",
        _places(skin, "sealed-voids", chosen, "Sealed void"),
    )


def buried_shells(skin: Skin, limits: Limits = USUAL) -> Finding | None:
    """Solids inside a solid."""
    chosen = buried(skin, limits)
    n = len(chosen)
    if not n:
        return None
    return Finding(
        "buried-shells",
        "call",
        n,
        f"{counted(n, 'solid')} buried in another. Its skin shows as rings in the layers and costs "
        "time; nothing of it can be seen.",
        _places(skin, "buried-shells", chosen, "Buried solid"),
    )


def debris_bits(skin: Skin, limits: Limits = USUAL) -> Finding | None:
    """Shells too small to be meant."""
    chosen = debris(skin, limits)
    n = len(chosen)
    if not n:
        return None
    return Finding(
        "debris",
        "call",
        n,
        f"{counted(n, 'bit')} too small to be meant. Loose crumbs in the powder or the vat, or "
        "spots on the layers.",
        _places(skin, "debris", chosen, "Debris"),
    )
