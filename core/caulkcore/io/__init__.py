"""Reading and writing the open formats."""
