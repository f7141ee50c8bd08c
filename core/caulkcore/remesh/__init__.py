"""Other triangles for the same shape: fewer, finer, smoother, or drawn anew from voxels."""
