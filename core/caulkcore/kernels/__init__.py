"""Compiled kernels: plain arrays in, plain arrays out, compiled once and cached on disk."""
