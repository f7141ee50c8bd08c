"""Units of length that files are written in."""

MILLIMETRES = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8}
"""Length of each unit, mm."""
