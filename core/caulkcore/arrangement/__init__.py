"""The exact arrangement of triangles that cross, and what encloses volume in it."""
