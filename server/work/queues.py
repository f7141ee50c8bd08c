"""The queues, and how soon a worker that died is noticed."""

FRONT = "mesh"
"""Work that somebody waits for."""
CROWD = "crowd"
"""Work that comes in numbers: files taken in, an action for many items.

What somebody waits for goes first, and has a place that a crowd never takes.
"""
FIRST = 10
"""Priority of what somebody waits for where it waits beside a crowd, which has 0."""
STANDS_BACK = 10
"""By how much all other work is nicer to the processor than what somebody waits for."""
BEHIND = "behind"
"""Work that nobody waits for; it has a place of its own, so that neither waits for the other."""
WATCH = "watch"
"""What looks after the others."""
HEARTBEAT = 3.0
"""Seconds between the signs of life of a worker."""
STALLED_AFTER = 12.0
"""Seconds without one after which a worker counts as gone: four are missing then."""
EVERY_FEW_SECONDS = "* * * * * */4"
"""How often it is looked whether work was left behind, in the form of cron with seconds."""
