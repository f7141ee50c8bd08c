"""The queues, and how soon a worker that died is noticed."""

FRONT = "mesh"
"""Work that somebody waits for."""
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
