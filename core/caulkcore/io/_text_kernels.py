"""Reading numbers out of large text files at the speed of the disk."""

import numpy as np

from ..jit import nb
from ..mesh.arrays import Array

FINE, BAD_NUMBER, CUT_OFF, BAD_INDEX, TOO_FEW_CORNERS = 0, 1, 2, 3, 4
"""How the scanning of a text ended."""

_POWERS = np.array([10.0**k for k in range(23)])
"""Powers of ten that a float64 holds exactly."""


@nb.njit(cache=True)
def _is_space(c: int) -> bool:
    return c == 32 or (9 <= c <= 13)


@nb.njit(cache=True)
def _lower(c: int) -> int:
    return c + 32 if 65 <= c <= 90 else c


@nb.njit(cache=True)
def _scan_number(text: Array, i: int, end: int):  # type: ignore[no-untyped-def]
    """Read one number at `i`: its value, where it ends, and 0 = none, 1 = exact, 2 = look again.

    Exact means correctly rounded: at most 15 digits and a power of ten that a double holds
    exactly (Clinger 1990). Anything longer is left to Python's own reader.
    """
    start = i
    negative = False
    if i < end and (text[i] == 43 or text[i] == 45):
        negative = text[i] == 45
        i += 1
    mantissa = np.int64(0)
    digits = 0
    power = 0
    seen = False
    pointed = False
    exact = True
    while i < end:
        c = text[i]
        if 48 <= c <= 57:
            seen = True
            if digits < 18:
                mantissa = mantissa * 10 + np.int64(c - 48)
                if mantissa > 0:
                    digits += 1
                if pointed:
                    power -= 1
            else:
                exact = False
                if not pointed:
                    power += 1
        elif (c == 46 or c == 44) and not pointed:
            pointed = True
        else:
            break
        i += 1
    if not seen:
        # nan, inf, infinity, 1.#QNAN and the like: a number that is none
        while i < end and not _is_space(text[i]):
            i += 1
        c = _lower(text[start + 1]) if (negative and start + 1 < end) else _lower(text[start])
        if i > start and (c == 110 or c == 105):
            return np.nan, i, 1
        return np.nan, start, 0
    if i < end and (_lower(text[i]) == 101 or _lower(text[i]) == 100):
        j = i + 1
        down = False
        if j < end and (text[j] == 43 or text[j] == 45):
            down = text[j] == 45
            j += 1
        e = 0
        any_digit = False
        while j < end and 48 <= text[j] <= 57:
            any_digit = True
            if e < 10000:
                e = e * 10 + (text[j] - 48)
            j += 1
        if any_digit:
            power += -e if down else e
            i = j
    if i < end and text[i] == 35:
        while i < end and not _is_space(text[i]):
            i += 1
        return np.nan, i, 1
    value = np.float64(mantissa)
    if digits > 15 or not exact or power < -22 or power > 22:
        return value, i, 2 if mantissa != 0 else 1
    if power < 0:
        value /= _POWERS[-power]
    else:
        value *= _POWERS[power]
    return (-value if negative else value), i, 1


@nb.njit(cache=True)
def _word_is(text: Array, i: int, end: int, word: Array) -> bool:
    if i + len(word) > end:
        return False
    for k in range(len(word)):
        if _lower(text[i + k]) != word[k]:
            return False
    return i + len(word) == end or _is_space(text[i + len(word)])


_VERTEX = np.frombuffer(b"vertex", dtype=np.uint8)
"""Words of an ASCII STL."""
_FACET = np.frombuffer(b"facet", dtype=np.uint8)
"""See `_VERTEX`."""
_ENDFACET = np.frombuffer(b"endfacet", dtype=np.uint8)
"""See `_VERTEX`."""
_SOLID = np.frombuffer(b"solid", dtype=np.uint8)
"""See `_VERTEX`."""
_ENDSOLID = np.frombuffer(b"endsolid", dtype=np.uint8)
"""See `_VERTEX`."""


@nb.njit(cache=True)
def scan_stl(text: Array, corners: Array, again: Array, names: Array):  # type: ignore[no-untyped-def]
    """Read an ASCII STL.

    Parameters
    ----------
    text : ndarray of uint8
        The file.
    corners : ndarray, shape (k, 3), float64
        Filled with the corners; `k` must be at least the number of ``vertex`` words.
    again : ndarray, shape (j, 3), int64
        Filled with flat index, start and end of numbers that Python should read itself.
    names : ndarray, shape (s, 3), int64
        Filled with start and end of each solid's name, and the corners read before it; `s` must be
        at least the number of ``solid`` words.

    Returns
    -------
    corners_read, again_used, solids, closed_properly, problem, where : int
    """
    end = len(text)
    i = 0
    n = 0
    used = 0
    in_facet = 0
    inside = False
    solids = 0
    closed = False
    while i < end:
        while i < end and _is_space(text[i]):
            i += 1
        if i >= end:
            break
        start = i
        if _word_is(text, i, end, _VERTEX):
            i += 6
            if n >= len(corners):
                return n, used, solids, 0, BAD_NUMBER, start
            for k in range(3):
                while i < end and _is_space(text[i]):
                    i += 1
                if i >= end:
                    return n, used, solids, 0, CUT_OFF, start
                at = i
                value, i, how = _scan_number(text, i, end)
                if how == 0 or (i < end and not _is_space(text[i])):
                    return n, used, solids, 0, BAD_NUMBER, at
                if how == 2:
                    again[used, 0] = n * 3 + k
                    again[used, 1] = at
                    again[used, 2] = i
                    used += 1
                corners[n, k] = value
            n += 1
            in_facet += 1
        elif _word_is(text, i, end, _FACET):
            inside = True
            in_facet = 0
            i += 5
        elif _word_is(text, i, end, _ENDFACET):
            if in_facet != 3:
                return n, used, solids, 0, TOO_FEW_CORNERS, start
            inside = False
            in_facet = 0
            i += 8
        elif _word_is(text, i, end, _ENDSOLID):
            closed = True
            i += 8
            while i < end and text[i] != 10 and text[i] != 13:
                i += 1
        elif _word_is(text, i, end, _SOLID):
            closed = False
            i += 5
            names[solids, 0] = i
            names[solids, 2] = n
            while i < end and text[i] != 10 and text[i] != 13:
                i += 1
            names[solids, 1] = i
            solids += 1
        else:
            while i < end and not _is_space(text[i]):
                i += 1
    if inside or in_facet:
        return n, used, solids, 0, CUT_OFF, end
    return n, used, solids, 1 if closed else 0, FINE, end


@nb.njit(cache=True)
def count_obj(text: Array):  # type: ignore[no-untyped-def]
    """Count the vertices, the faces and the faces' corners of an OBJ, for `scan_obj`'s arrays."""
    end = len(text)
    i = 0
    vertices = faces = corners = 0
    while i < end:
        while i < end and _is_space(text[i]):
            i += 1
        if i + 1 < end and _is_space(text[i + 1]):
            if text[i] == 118:
                vertices += 1
            elif text[i] == 102:
                faces += 1
                i += 1
                while i < end and text[i] != 10 and text[i] != 13 and text[i] != 35:
                    if not _is_space(text[i]) and _is_space(text[i - 1]):
                        corners += 1
                    i += 1
        while i < end and text[i] != 10 and text[i] != 13:
            i += 1
    return vertices, faces, corners


@nb.njit(cache=True)
def scan_obj(  # type: ignore[no-untyped-def]
    text: Array, vertices: Array, starts: Array, corners: Array, face_at: Array, again: Array
):
    """Read the vertices and faces of an OBJ into arrays of the sizes that `count_obj` gave.

    Relative (negative) indices are resolved; indices are checked against the vertices of the
    whole file, since some exporters write faces first. `face_at` receives where each face stands
    in the text.

    Parameters
    ----------
    text : ndarray, shape (bytes,), uint8
    vertices : ndarray, shape (n, 3), float64
        Receives the coordinates.
    starts : ndarray, shape (p + 1,), int64
        Receives where each face begins in `corners`.
    corners : ndarray, shape (c,), int64
        Receives the faces' vertices.
    face_at : ndarray, shape (p,), int64
        Receives where each face stands in the text.
    again : ndarray, shape (k, 3), int64
        Receives which numbers Python has to read: position, begin and end.

    Returns
    -------
    again_used, problem, where, wrong_index : int
    """
    end = len(text)
    i = 0
    v = f = c = used = 0
    total = len(vertices)
    while i < end:
        while i < end and _is_space(text[i]):
            i += 1
        if i + 1 < end and _is_space(text[i + 1]):
            kind = text[i]
            if kind == 118:
                i += 1
                for k in range(3):
                    while i < end and (text[i] == 32 or text[i] == 9):
                        i += 1
                    at = i
                    value, i, how = _scan_number(text, i, end) if i < end else (0.0, i, 0)
                    if how == 0 or (i < end and not _is_space(text[i])):
                        return used, BAD_NUMBER, at, 0
                    if how == 2:
                        again[used, 0] = v * 3 + k
                        again[used, 1] = at
                        again[used, 2] = i
                        used += 1
                    vertices[v, k] = value
                v += 1
            elif kind == 102:
                face_at[f] = i
                i += 1
                starts[f] = c
                while True:
                    while i < end and (text[i] == 32 or text[i] == 9):
                        i += 1
                    if i >= end or text[i] == 10 or text[i] == 13 or text[i] == 35:
                        break
                    at = i
                    negative = False
                    if text[i] == 45 or text[i] == 43:
                        negative = text[i] == 45
                        i += 1
                    index = np.int64(0)
                    digits = 0
                    while i < end and 48 <= text[i] <= 57:
                        if digits < 18:
                            index = index * 10 + np.int64(text[i] - 48)
                        digits += 1
                        i += 1
                    if digits == 0 or (i < end and not _is_space(text[i]) and text[i] != 47):
                        return used, BAD_NUMBER, at, 0
                    while i < end and not _is_space(text[i]):
                        i += 1
                    resolved = v - index if negative else index - 1
                    if resolved < 0 or resolved >= total:
                        return used, BAD_INDEX, at, -index if negative else index
                    corners[c] = resolved
                    c += 1
                if c - starts[f] < 3:
                    return used, TOO_FEW_CORNERS, i, 0
                f += 1
        while i < end and text[i] != 10 and text[i] != 13:
            i += 1
    starts[f] = c
    return used, FINE, end, 0


@nb.njit(cache=True)
def _skip(text: Array, i: int, end: int) -> int:
    """Past white space and comments."""
    while i < end:
        if _is_space(text[i]):
            i += 1
        elif text[i] == 35:
            while i < end and text[i] != 10 and text[i] != 13:
                i += 1
        else:
            break
    return i


@nb.njit(cache=True)
def scan_counts(text: Array, start: int) -> tuple[Array, int]:
    """The three counts at the head of an OFF, -1 where there is none, and where they end."""
    counts = np.full(3, -1, dtype=np.int64)
    i = start
    for k in range(3):
        i = _skip(text, i, len(text))
        if i >= len(text):
            break
        value, i, how = _scan_number(text, i, len(text))
        if how != 1 or not (0 <= value < 1e15):
            break
        counts[k] = np.int64(value)
    return counts, i


@nb.njit(cache=True)
def scan_off(  # type: ignore[no-untyped-def]
    text: Array, start: int, vertices: Array, starts: Array, corners: Array, again: Array
):
    """Read the body of an OFF: a line for each vertex, then a line for each face.

    Parameters
    ----------
    text : ndarray, shape (bytes,), uint8
    start : int
        Where the body begins.
    vertices : ndarray, shape (n, 3), float64
        Receives the coordinates.
    starts : ndarray, shape (p + 1,), int64
        Receives where each face begins in `corners`.
    corners : ndarray, shape (c,), int64
        Receives the faces' vertices.
    again : ndarray, shape (k, 3), int64
        Receives which numbers Python has to read: position, begin and end.

    Returns
    -------
    again_used, problem, where : int
    """
    end = len(text)
    i = start
    used = c = 0
    for v in range(len(vertices)):
        i = _skip(text, i, end)
        for k in range(3):
            while i < end and (text[i] == 32 or text[i] == 9):
                i += 1
            if i >= end:
                return used, CUT_OFF, end
            at = i
            value, i, how = _scan_number(text, i, end)
            if how == 0 or (i < end and not _is_space(text[i])):
                return used, BAD_NUMBER, at
            if how == 2:
                again[used, 0] = v * 3 + k
                again[used, 1] = at
                again[used, 2] = i
                used += 1
            vertices[v, k] = value
        while i < end and text[i] != 10 and text[i] != 13:
            i += 1
    for f in range(len(starts) - 1):
        i = _skip(text, i, end)
        if i >= end:
            return used, CUT_OFF, end
        at = i
        count, i, how = _scan_number(text, i, end)
        if how != 1 or not (0 <= count < 1e9):
            return used, BAD_NUMBER, at
        if count < 3:
            return used, TOO_FEW_CORNERS, at
        starts[f] = c
        for _ in range(np.int64(count)):
            while i < end and (text[i] == 32 or text[i] == 9):
                i += 1
            if i >= end or c >= len(corners):
                return used, CUT_OFF, end
            value, i, how = _scan_number(text, i, end)
            if how != 1:
                return used, BAD_NUMBER, at
            if not (0 <= value < len(vertices)):
                return used, BAD_INDEX, at
            corners[c] = np.int64(value)
            c += 1
        while i < end and text[i] != 10 and text[i] != 13:
            i += 1
    starts[len(starts) - 1] = c
    return used, FINE, end


@nb.njit(cache=True)
def scan_numbers(text: Array, start: int, out: Array, again: Array):  # type: ignore[no-untyped-def]
    """Read white-space separated numbers until `out` is full or the text ends.

    Returns
    -------
    read, again_used, problem, where : int
        What did not fit into `again` is counted all the same.
    """
    end = len(text)
    i = start
    n = used = 0
    while n < len(out):
        while i < end and _is_space(text[i]):
            i += 1
        if i >= end:
            break
        at = i
        value, i, how = _scan_number(text, i, end)
        if how == 0 or (i < end and not _is_space(text[i])):
            return n, used, BAD_NUMBER, at
        if how == 2:
            if used < len(again):
                again[used, 0] = n
                again[used, 1] = at
                again[used, 2] = i
            used += 1
        out[n] = value
        n += 1
    return n, used, FINE, i


@nb.njit(cache=True)
def count_words(text: Array, start: int) -> int:
    """How many white-space separated words there are."""
    count = 0
    apart = True
    for i in range(start, len(text)):
        space = _is_space(text[i])
        count += apart and not space
        apart = space
    return count


@nb.njit(cache=True)
def walk_numbers(numbers: Array, start: int, records: int, is_list: Array, wanted: int):  # type: ignore[no-untyped-def]
    """Find one list in each of many records of numbers already read.

    Returns
    -------
    offsets, counts : ndarray of int64
    end : int
        -1 if the numbers end before the records do.
    """
    offsets = np.empty(records, dtype=np.int64)
    counts = np.empty(records, dtype=np.int64)
    at = start
    for r in range(records):
        for p in range(len(is_list)):
            n = 1
            if is_list[p]:
                if at >= len(numbers) or not (0 <= numbers[at] < 1e9):
                    return offsets, counts, -1
                n = np.int64(numbers[at])
                at += 1
            if at + n > len(numbers):
                return offsets, counts, -1
            if p == wanted:
                offsets[r] = at
                counts[r] = n
            at += n
    return offsets, counts, at
