"""Solids made of solids: union, closing the gap between two."""
