"""Triangle meshes: the mesh itself, its topology, components, groups and polygons."""
