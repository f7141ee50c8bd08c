"""Python starts with this in the test run of another day: makes `time.sleep` work there.

It waits until a point on the clock that only goes forward, and faketime shifts that point even
where it is told to leave that clock alone.
"""

import select
import time


def _sleep(seconds: float) -> None:
    if seconds < 0:
        raise ValueError("sleep length must be non-negative")
    select.select([], [], [], seconds)


time.sleep = _sleep
