"""Exact geometric predicates: orientation, whole numbers of any length, triangle against
triangle."""
