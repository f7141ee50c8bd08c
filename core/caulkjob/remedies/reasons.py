"""Why places were left alone, told once for each reason."""

from collections.abc import Callable, Iterable

from caulkcore.outcome import Skipped

from ..text import place_text


def told_once(
    skipped: Iterable[Skipped],
    tell: Callable[[Skipped], str],
    rank: Callable[[Skipped], float] = lambda _: 0.0,
) -> tuple[str, ...]:
    """A sentence for each reason: of the worst of its places, with where it is and their number.

    Parameters
    ----------
    skipped : iterable of Skipped
        With ``at`` in their numbers, where they have a place.
    tell : callable
        The sentence about one, with its full stop.
    rank : callable
        How bad one is.

    Returns
    -------
    tuple of str

    Examples
    --------
    >>> left = [Skipped("torn", {"at": (i, 0.0, 0.0), "mm": i}) for i in (1.0, 3.0, 2.0)]
    >>> told_once(left, lambda one: "A sheet is torn.", lambda one: one.numbers["mm"])
    ('A sheet is torn; the worst of 3 such places, at 3.0, 0.0, 0.0.',)
    """
    groups: dict[tuple[str, str], list[Skipped]] = {}
    for one in skipped:
        groups.setdefault((one.reason, str(one.numbers.get("message", ""))), []).append(one)
    told = []
    for members in groups.values():
        worst = max(members, key=rank)
        sentence = tell(worst)
        if len(members) > 1:
            at = worst.numbers.get("at")
            where = f", at {place_text(at)}" if at is not None else ""
            sentence = f"{sentence[:-1]}; the worst of {len(members):,} such places{where}."
        told.append(sentence)
    return tuple(told)
