"""A module for each family of repairs. Each takes what diagnose finds, and numbers."""
