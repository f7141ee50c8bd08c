"""Spatial queries: a tree of boxes, winding numbers, rays, distances."""
